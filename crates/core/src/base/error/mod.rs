//! What can be wrong with a call. Every error leaves the world as it was, unless it says otherwise.

mod build;
mod command;
mod near;
mod save;
mod tick;

use smol_str::SmolStr;
use thiserror::Error as ThisError;

use crate::base::{clock::Seconds, place::Place, value::Type};

pub use build::BuildError;
pub use command::CommandError;
pub use near::Near;
pub use save::SaveError;
pub use tick::TickError;

/// The signal's object was destroyed, or the handle is none of this world's.
///
/// All that can go wrong when a signal is emitted; as small as can be, since that happens often.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ThisError)]
#[error("this signal is not in the world: its object was destroyed, or the handle belongs to another world")]
pub struct NoSuchSignal;

/// A call that could not be taken. What belongs together is an error of its own: [`BuildError`], [`CommandError`], [`TickError`],
/// [`SaveError`]; where a call can say nothing else, it says that.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum Error {
    /// Something cannot be made.
    #[error(transparent)]
    Build(#[from] BuildError),
    /// A part cannot be told that.
    #[error(transparent)]
    Command(#[from] CommandError),
    /// A tick was ended that would not have come to rest.
    #[error(transparent)]
    Tick(#[from] TickError),
    /// A save or snapshot does not fit.
    #[error(transparent)]
    Save(#[from] SaveError),
    /// The object was destroyed, or the id is none of this world's: see [`ObjectId`](crate::ObjectId).
    #[error("this object is not in the world: it was destroyed, or the id belongs to another world")]
    NoSuchObject,
    /// The part's object was destroyed, or the handle is none of this world's.
    #[error(
        "this part is not in the world: its object was destroyed, or the handle belongs to another world"
    )]
    NoSuchPart,
    /// The signal's object was destroyed, or the handle is none of this world's.
    #[error(transparent)]
    NoSuchSignal(#[from] NoSuchSignal),
    /// A step that only a whole playtest can have.
    #[error(
        "expected what players do, statements, a wait or a condition; signals that are to come, `always`, `never`, `save`, \
         `reload` and `suspend` need a whole playtest"
    )]
    OnlyInPlaytests,
    /// The wire was cut, or its signal is gone.
    #[error("this wire is not in the world: it was cut, or its signal or owner is gone")]
    NoSuchWire,
    /// The variable's id is none of this world's.
    #[error("this variable is not in the world: the id belongs to another world")]
    NoSuchVar,
    /// The effect's id is none of this world's.
    #[error("this effect is not in the world: the id belongs to another world")]
    NoSuchEffect,
    /// No signal has the name.
    #[error("expected the name of a signal, found \"{found}\", which none was declared with{near}")]
    NoSignalOfName {
        /// The name that was asked for.
        found: SmolStr,
        /// What was meant, perhaps.
        near: Near,
    },
    /// No effect has the name.
    #[error("expected the name of an effect, found \"{found}\", which none was declared with{near}")]
    NoEffectOfName {
        /// The name that was asked for.
        found: SmolStr,
        /// What was meant, perhaps.
        near: Near,
    },
    /// No scene has the name.
    #[error("expected the name of a scene, found \"{found}\", which none has{near}")]
    NoSceneOfName {
        /// The name that was asked for.
        found: SmolStr,
        /// What was meant, perhaps.
        near: Near,
    },
    /// A name is not one of the names of its kind.
    #[error("expected the name of {kind}, found \"{found}\", which is none here")]
    UnknownName {
        /// What kind of thing was looked for, with its article.
        kind: &'static str,
        /// The name that was asked for.
        found: SmolStr,
    },
    /// The values given do not fit the fields.
    #[error("\"{name}\" takes ({expected}), found ({found})")]
    WrongValues {
        /// The signal or effect.
        name: SmolStr,
        /// The fields it has.
        expected: String,
        /// The types that were given.
        found: String,
    },
    /// A variable was set to a value of another type.
    #[error("variable \"{name}\" holds a {expected}, found {found}", expected = expected.word())]
    WrongType {
        /// The variable.
        name: SmolStr,
        /// Its type.
        expected: Type,
        /// The type that was given, as a word.
        found: &'static str,
    },
    /// A frame time that is negative, not a number, or absurdly long.
    #[error("expected a frame time from 0 s up to 1e9 s, found {found}")]
    BadFrame {
        /// The frame time.
        found: Seconds,
    },
    /// A zone has a shape, and the host said who is inside.
    #[error(
        "this zone has a shape and finds the bodies inside by itself: only a zone without a shape is told"
    )]
    NotTold,
    /// Something asked of an object that is not a body.
    #[error("\"{name}\" is not a body: make it a body first")]
    NotABody {
        /// The object.
        name: SmolStr,
    },
    /// A part of another kind than was asked for.
    #[error("this part is the {kind} of \"{object}\", and not a {wanted}")]
    OtherPart {
        /// Its kind.
        kind: &'static str,
        /// The object it belongs to.
        object: SmolStr,
        /// The type that was asked for.
        wanted: &'static str,
    },
    /// An object that has no part of the kind that was asked for.
    #[error("\"{object}\" has no {wanted}: its parts are {parts}")]
    NoPartOfKind {
        /// The object.
        object: SmolStr,
        /// The type that was asked for.
        wanted: &'static str,
        /// The kinds of its parts.
        parts: String,
    },
    /// Something that is not there any more.
    #[error("\"{name}\" is gone: it was destroyed, or its scene was unloaded")]
    Ended {
        /// Its name.
        name: SmolStr,
    },
    /// A statement needs an object, and there is none: nobody caused the signal, or what was to be found was not.
    #[error("the object that this statement needs is not there")]
    NobodyThere,
    /// The spot's object or scene is gone, or the id is none of this world's.
    #[error("this spot is not in the world: its object or scene is gone, or the id belongs to another world")]
    NoSuchSpot,
    /// Somebody would be sent to a spot of a scene they are not in.
    #[error(
        "\"{name}\" is in {here}, and the spot \"{spot}\" is in {there}: name the scene to send a body to another one"
    )]
    OtherScene {
        /// The body.
        name: SmolStr,
        /// The scene it is in.
        here: SmolStr,
        /// The spot.
        spot: SmolStr,
        /// The scene the spot is in.
        there: SmolStr,
    },
    /// The routine's id is none of this world's.
    #[error("this routine is not in the world: the id belongs to another world")]
    NoSuchRoutine,
    /// The mould's id is none of this world's.
    #[error("this mould is not in the world: the id belongs to another world")]
    NoSuchMould,
    /// A player has sent a signal that they may not send.
    #[error(
        "player \"{player}\" may not send the signal \"{signal}\": they have none of the tags it asks for"
    )]
    NotYours {
        /// The signal.
        signal: SmolStr,
        /// The player.
        player: SmolStr,
    },
    /// Something would be set that a part keeps.
    #[error("variable \"{name}\" is kept by its {kind}: command that instead")]
    KeptByPart {
        /// The variable.
        name: SmolStr,
        /// What kind of part it is.
        kind: &'static str,
    },
    /// A setting that is none, or that stays as it is while the world runs.
    #[error("a {kind} has no setting \"{found}\" that may change while the world runs{near}")]
    FixedSetting {
        /// The kind of part.
        kind: &'static str,
        /// The name that was asked for.
        found: SmolStr,
        /// What was meant, perhaps.
        near: Near,
    },
    /// A setting was changed to a value of another type.
    #[error("`{setting}` of a {kind} is a {expected}, found {found}", expected = expected.word())]
    WrongSetting {
        /// The kind of part.
        kind: &'static str,
        /// The setting.
        setting: &'static str,
        /// Its type.
        expected: Type,
        /// The type that was given, as a word.
        found: &'static str,
    },
    /// Something would be set that a bind keeps.
    #[error("variable \"{name}\" is kept by the bind at {place}: set what the bind reads instead")]
    Bound {
        /// The variable.
        name: SmolStr,
        /// Where the bind was written.
        place: Place,
    },
    /// Nobody has the role that was asked for.
    #[error("no manager has the role \"{role}\"; the roles are: {}", if known.is_empty() { "none" } else { known })]
    NoManager {
        /// The role.
        role: SmolStr,
        /// The roles somebody has.
        known: String,
    },
    /// The scene was unloaded already, or the id is none of this world's.
    #[error("this scene is not in the world: it is unloaded, or the id belongs to another world")]
    NoSuchScene,
    /// The world has as many players as it may.
    #[error("expected at most {most} players, found one more")]
    NoRoom {
        /// How many it may have.
        most: u32,
    },
    /// Somebody would join who has not been here before, and nobody said where.
    #[error("\"{name}\" has not played here before: give the scene and the spot where the player joins")]
    NowhereToJoin {
        /// The player.
        name: SmolStr,
    },
    /// A reaction panicked earlier, in the middle of a tick.
    #[error(
        "a reaction panicked in the middle of a tick; this world cannot go on: build a new one or restore a snapshot"
    )]
    BrokenOff,
}

impl Error {
    /// Whether it says that a tick was ended that would not have come to rest.
    pub(crate) fn ends_tick(&self) -> bool {
        matches!(self, Self::Tick(_))
    }

    /// The same without the places in it: where something was written is no part of the digest.
    pub(crate) fn placeless(&self) -> Self {
        let nowhere = || Place { file: SmolStr::default(), line: 0 };
        let mut error = self.clone();
        match &mut error {
            Self::Bound { place, .. }
            | Self::Tick(TickError::EndlessSequence { place, .. })
            | Self::Build(BuildError::RandomBind { place }) => *place = nowhere(),
            Self::Build(
                BuildError::BoundTwice { first, second, .. } | BuildError::RoleTaken { first, second, .. },
            ) => (*first, *second) = (nowhere(), nowhere()),
            Self::Tick(TickError::Runaway { chain, .. }) => chain.clear(),
            Self::Build(BuildError::BindCircle { circle }) => circle.clear(),
            Self::Tick(TickError::TooManyObjects { wire, .. }) => wire.clear(),
            // Whether the name of what is gone is known still depends on how much of the trace is kept.
            Self::Ended { .. } | Self::NoSuchPart => return Self::NoSuchObject,
            _ => {}
        }
        error
    }
}
