//! What can be wrong with a call. Every error leaves the world as it was, unless it says otherwise.

use std::fmt;

use glam::{Quat, Vec3};
use smol_str::SmolStr;
use thiserror::Error as ThisError;

use crate::base::{clock::Seconds, numbers::Command, place::Place, value::Type};

/// The signal's object was destroyed, or the handle is none of this world's.
///
/// All that can go wrong when a signal is emitted; as small as can be, since that happens often.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ThisError)]
#[error("this signal is not in the world: its object was destroyed, or the handle comes from elsewhere")]
pub struct NoSuchSignal;

/// A call that could not be taken.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum Error {
    /// The object was destroyed, or the id is none of this world's: see [`ObjectId`](crate::ObjectId).
    #[error("this object is not in the world: it was destroyed, or the id comes from another world")]
    NoSuchObject,
    /// The part's object was destroyed, or the handle is none of this world's.
    #[error("this part is not in the world: its object was destroyed, or the handle comes from elsewhere")]
    NoSuchPart,
    /// The signal's object was destroyed, or the handle is none of this world's.
    #[error(transparent)]
    NoSuchSignal(#[from] NoSuchSignal),
    /// The wire was cut, or its signal is gone.
    #[error("this wire is not in the world: it was cut already, or its signal or owner is gone")]
    NoSuchWire,
    /// The variable's id is none of this world's.
    #[error("this variable is not in the world: the id comes from another one")]
    NoSuchVar,
    /// The effect's id is none of this world's.
    #[error("this effect is not in the world: the id comes from another one")]
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
    /// Two things of one kind would have one name.
    #[error("expected a name that is free, found \"{name}\", which {kind} of this world has already")]
    NameTaken {
        /// What kind of thing has the name, with its article.
        kind: &'static str,
        /// The name.
        name: SmolStr,
    },
    /// A name holds something other than letters, digits and underscores, or starts with a digit.
    #[error("expected a name of letters, digits and underscores, found \"{found}\"")]
    BadName {
        /// What was given.
        found: SmolStr,
    },
    /// One signal name was used with two payloads.
    #[error("signal \"{name}\" carries ({declared}), and here it is used with ({found})")]
    PayloadMismatch {
        /// The signal.
        name: SmolStr,
        /// The fields it was declared with.
        declared: String,
        /// The fields it was used with.
        found: String,
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
    /// A span that is not above zero, or not a number, or too long to count.
    #[error("expected a span above 0 s and up to 1e9 s, found {found}")]
    BadDuration {
        /// The span.
        found: Seconds,
    },
    /// A frame time that is negative, not a number, or absurdly long.
    #[error("expected a frame time from 0 s up to 1e9 s, found {found}")]
    BadFrame {
        /// The frame time.
        found: Seconds,
    },
    /// A tick rate out of range.
    #[error("expected a tick rate from 1 to 1000 per second, found {found}")]
    BadTickRate {
        /// The rate.
        found: u32,
    },
    /// A place with an infinite coordinate or one that is not a number.
    #[error("expected a place of finite numbers, found ({}, {}, {})", found.x, found.y, found.z)]
    BadPlace {
        /// The place.
        found: Vec3,
    },
    /// A size that is not above zero in each direction.
    #[error("expected a size above 0 each way, found ({}, {}, {})", found.x, found.y, found.z)]
    BadSize {
        /// The size.
        found: Vec3,
    },
    /// A direction without a length, or not of finite numbers.
    #[error("expected a direction of finite numbers and some length, found ({}, {}, {})", found.x, found.y, found.z)]
    BadDirection {
        /// The direction.
        found: Vec3,
    },
    /// A quaternion that is no rotation.
    #[error("expected a rotation of length 1, found ({}, {}, {}, {})", found.x, found.y, found.z, found.w)]
    BadRotation {
        /// The quaternion.
        found: Quat,
    },
    /// A shape of two forms at once.
    #[error("expected one form, found two: put `also` between them if both are meant")]
    TwoForms,
    /// Settings that name no form where a shape is needed.
    #[error(
        "expected a form: box, ball, capsule, cylinder, below, above or behind; for a zone without one, `told`"
    )]
    MissingForm,
    /// A zone that finds out by its form who is inside and is told so by the host as well.
    #[error("expected a form, or `told` for a zone whose host says who is inside, found both")]
    FormAndTold,
    /// A form without one of its sizes.
    #[error("expected `{setting}` with a {form}")]
    MissingSize {
        /// The form.
        form: &'static str,
        /// What is not given.
        setting: &'static str,
    },
    /// A velocity with an infinite part or one that is not a number.
    #[error("expected a velocity of finite numbers, found ({}, {}, {})", found.x, found.y, found.z)]
    BadVelocity {
        /// The velocity.
        found: Vec3,
    },
    /// Something that would hang on itself, or on what hangs on it.
    #[error("\"{name}\" cannot hang on that: that hangs on \"{name}\"")]
    HangsOnItself {
        /// The object.
        name: SmolStr,
    },
    /// A body of a shape that bodies cannot have.
    #[error("expected one ball, one capsule or one box of three sizes for a body, found another shape")]
    BadBody,
    /// A zone has a shape, and the host said who is inside.
    #[error("this zone has a shape and finds out by itself who is inside: only one without a shape is told")]
    NotTold,
    /// A number out of the range its setting takes.
    #[error("expected {expected} for {setting}, found {found}")]
    BadNumber {
        /// The setting.
        setting: &'static str,
        /// The range it takes.
        expected: &'static str,
        /// The number.
        found: f64,
    },
    /// Something asked of an object that is not a body.
    #[error("\"{name}\" is not a body: make it one before it can be moved about")]
    NotABody {
        /// The object.
        name: SmolStr,
    },
    /// A tick that would not come to rest. The tick was ended: what was still queued was let go, and the world
    /// stands between ticks as after any other.
    #[error("tick {tick} did not come to rest after {deliveries} deliveries in {rounds} rounds: {}", chain.join(" → "))]
    Runaway {
        /// The tick.
        tick: u64,
        /// How many signals were delivered.
        deliveries: u32,
        /// How many rounds they took.
        rounds: u32,
        /// The loop, link by link: a signal, the wire that took it, the signal that wire gave, and so on
        /// round to the first.
        chain: Vec<String>,
    },
    /// More would be spawned than there may be: see [`Config::objects`](crate::Config::objects). The tick was ended as
    /// for [`Error::Runaway`].
    #[error("tick {tick}: there are {most} objects, as many as there may be, and {wire} spawns one more")]
    TooManyObjects {
        /// The tick.
        tick: u64,
        /// How many there may be.
        most: u32,
        /// The wire that would spawn one more.
        wire: String,
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
    /// A command a part does not have.
    #[error(
        "expected the number of a command of a {kind}, below {known}, found {found} for \"{object}\": use the constants of its type",
        found = found.number()
    )]
    NoCommandNumber {
        /// The kind of part.
        kind: &'static str,
        /// The object it belongs to.
        object: SmolStr,
        /// How many commands it has.
        known: usize,
        /// What was given.
        found: Command,
    },
    /// Something was said with a command that does not take it.
    #[error("`{command}` of a {kind} takes {known}, found \"{found}\"{near}")]
    NoSuchArgument {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What was said.
        found: SmolStr,
        /// What it takes, as a list.
        known: String,
        /// What was meant, perhaps.
        near: Near,
    },
    /// One thing was said twice with a command.
    #[error("`{command}` of a {kind} takes `{argument}` once, found it twice")]
    ArgumentTwice {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What was said.
        argument: &'static str,
    },
    /// Something was not said that a command needs.
    #[error("`{command}` of a {kind} needs `{missing}`, found none")]
    MissingArgument {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What is not there.
        missing: &'static str,
    },
    /// What was said with a command is of another type.
    #[error("`{command}` of a {kind} takes `{argument}: {expected}`, found {found}")]
    WrongArgument {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What was said.
        argument: &'static str,
        /// Its type.
        expected: Type,
        /// The type that was given, as a word.
        found: &'static str,
    },
    /// Something that is not there any more.
    #[error("\"{name}\" is gone: it was destroyed, or its scene was unloaded")]
    Ended {
        /// Its name.
        name: SmolStr,
    },
    /// What a signal carries cannot be what a closure on it takes.
    #[error(
        "signal \"{signal}\" carries ({found}), and the closure takes ({expected}), which that cannot be"
    )]
    PayloadUnfit {
        /// The signal.
        signal: SmolStr,
        /// The fields of what the closure takes.
        expected: String,
        /// The values that were given.
        found: String,
    },
    /// A sequence that would not come to rest. The tick was ended as for [`Error::Runaway`].
    #[error(
        "tick {tick} did not come to rest after {statements} statements: the sequence at {place} goes round without a wait"
    )]
    EndlessSequence {
        /// The tick.
        tick: u64,
        /// How many statements were run.
        statements: u32,
        /// Where the wire was written whose sequence it is.
        place: Place,
    },
    /// A statement needs an object, and there is none: nobody caused the signal, or what was to be found was not.
    #[error("there is nobody and nothing this could be done with")]
    NobodyThere,
    /// The object has no part that takes the command.
    #[error("no part of \"{name}\" takes the command \"{command}\"")]
    NoSuchCommand {
        /// The object.
        name: SmolStr,
        /// The command.
        command: SmolStr,
    },
    /// The spot's object or scene is gone, or the id is none of this world's.
    #[error("this spot is not in the world: its object or scene is gone, or the id comes from elsewhere")]
    NoSuchSpot,
    /// Somebody would be sent to a spot of a scene they are not in.
    #[error(
        "\"{name}\" is in {here}, and the spot \"{spot}\" is in {there}: name the scene to send somebody to another one"
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
    /// The task's id is none of this world's.
    #[error("this task is not in the world: the id comes from another one")]
    NoSuchTask,
    /// The mould's id is none of this world's.
    #[error("this mould is not in the world: the id comes from another one")]
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
    /// The settings of a part do not go together.
    #[error("expected {expected}")]
    BadSettings {
        /// What was expected.
        expected: &'static str,
    },
    /// Something would be set that a part keeps.
    #[error("variable \"{name}\" is kept by its {kind}: tell that what to do instead")]
    KeptByPart {
        /// The variable.
        name: SmolStr,
        /// What kind of part it is.
        kind: &'static str,
    },
    /// Something would be set that a bind keeps.
    #[error("variable \"{name}\" is kept by the bind at {place}: set what that reads instead")]
    Bound {
        /// The variable.
        name: SmolStr,
        /// Where the bind was written.
        place: Place,
    },
    /// Two binds would keep one variable.
    #[error("variable \"{name}\" is kept by the bind at {first}, and again by the one at {second}")]
    BoundTwice {
        /// The variable.
        name: SmolStr,
        /// Where the first bind was written.
        first: Place,
        /// Where the second was written.
        second: Place,
    },
    /// Binds that would go round for ever.
    #[error("these binds read each other in a circle: {}", circle.join(" → "))]
    BindCircle {
        /// What they keep and where they were written, each read by the next.
        circle: Vec<String>,
    },
    /// A bind on a random number.
    #[error("the bind at {place} draws a random number: it would never be done; draw it in a statement")]
    RandomBind {
        /// Where the bind was written.
        place: Place,
    },
    /// Nobody has the role that was asked for.
    #[error("nobody has the role \"{role}\"; the roles there are: {}", if known.is_empty() { "none" } else { known })]
    NoManager {
        /// The role.
        role: SmolStr,
        /// The roles somebody has.
        known: String,
    },
    /// A second object would have a role.
    #[error(
        "the role \"{role}\" was taken at {first}, and again at {second}: a role is for one object alone"
    )]
    RoleTaken {
        /// The role.
        role: SmolStr,
        /// Where it was taken first.
        first: Place,
        /// Where it would be taken again.
        second: Place,
    },
    /// The scene was unloaded already, or the id is none of this world's.
    #[error("this scene is not in the world: it was unloaded already, or the id comes from another world")]
    NoSuchScene,
    /// A playtest would go on in another world, and nobody can make one.
    #[error("this playtest reloads or suspends its world: run it on a stage that can make another one")]
    NoHost,
    /// A save of a form this version does not know.
    #[error(
        "expected a save of form {known} or before, found one of form {found}: read it with a newer version"
    )]
    SaveVersion {
        /// Its form.
        found: u32,
        /// The newest form that is known here.
        known: u32,
    },
    /// Players have numbers already that are others in the save.
    #[error(
        "expected \"{there}\" to be the next player, as in the save, found \"{here}\": recall a save before anybody joins"
    )]
    SaveTooLate {
        /// Who has the number here.
        here: SmolStr,
        /// Who has it in the save.
        there: SmolStr,
    },
    /// The world has as many players as it may.
    #[error("expected at most {most} players, found one more")]
    NoRoom {
        /// How many it may have.
        most: u32,
    },
    /// Somebody would join who has not been here before, and nobody said where.
    #[error("\"{name}\" has not been here before: say the scene and the spot where that player joins")]
    NowhereToJoin {
        /// The player.
        name: SmolStr,
    },
    /// The same wiring would be made a second time.
    #[error("{what} is in this world already: build it once in each world")]
    BuiltTwice {
        /// What it is.
        what: SmolStr,
    },
    /// A snapshot of a world that was built otherwise.
    #[error("the snapshot does not fit this world: {what}")]
    SnapshotMismatch {
        /// What differs.
        what: String,
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
        matches!(self, Self::Runaway { .. } | Self::EndlessSequence { .. } | Self::TooManyObjects { .. })
    }

    /// The same without the places in it: where something was written is no part of the digest.
    pub(crate) fn placeless(&self) -> Self {
        let nowhere = || Place { file: SmolStr::default(), line: 0 };
        let mut error = self.clone();
        match &mut error {
            Self::EndlessSequence { place, .. } | Self::Bound { place, .. } | Self::RandomBind { place } => {
                *place = nowhere();
            }
            Self::BoundTwice { first, second, .. } | Self::RoleTaken { first, second, .. } => {
                (*first, *second) = (nowhere(), nowhere());
            }
            Self::Runaway { chain, .. } => chain.clear(),
            Self::BindCircle { circle } => circle.clear(),
            Self::TooManyObjects { wire, .. } => wire.clear(),
            // Whether the name of what is gone is known still depends on how much of the trace is kept.
            Self::Ended { .. } | Self::NoSuchPart => return Self::NoSuchObject,
            _ => {}
        }
        error
    }
}

/// The name closest to one that is none, for a message.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Near(Option<SmolStr>);

impl Near {
    pub(crate) fn of<'n>(found: &str, names: impl Iterator<Item = &'n str>) -> Self {
        // A name that is absurdly long is no slip of the pen.
        if found.len() > 64 {
            return Self::default();
        }
        let allowed = (found.chars().count() / 3).max(1);
        let names: Vec<&str> = names.collect();
        // In a project a whole name begins with that of the scene.
        let ends_so = |name: &&&str| name.strip_suffix(found).is_some_and(|scene| scene.ends_with('.'));
        if let Some(whole) = names.iter().find(ends_so) {
            return Self(Some((*whole).into()));
        }
        let close = names
            .into_iter()
            .filter(|name| name.len().abs_diff(found.len()) <= 4 * allowed)
            .map(|name| (strsim::osa_distance(found, name), name))
            .filter(|(distance, _)| *distance <= allowed);
        Self(close.min().map(|(_, name)| name.into()))
    }

    /// The name itself.
    pub fn name(&self) -> Option<&str> {
        self.0.as_deref()
    }
}

impl fmt::Display for Near {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.0 {
            Some(name) => write!(f, "; did you mean \"{name}\"?"),
            None => Ok(()),
        }
    }
}
