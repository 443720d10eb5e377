//! Playtests: scripted players and expectations, run without a screen.
//!
//! A playtest drives a world the way a host does, through what it hands in, and looks at it the way a host can.
//!
//! ```
//! use stoicheon_core::{Vec3, World, Zone, playtest::Playtest, secs};
//! let mut world = World::<()>::new();
//! let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 10.0)).add()?;
//! let zone = world.attach(pad, Zone::boxed(Vec3::new(2.0, 1.0, 2.0)))?;
//! let ada = world.player("ada").add()?;
//!
//! let playtest = Playtest::new("ada finds the pad")
//!     .walk(ada, Vec3::new(4.0, 0.0, 10.0))
//!     .expect_signal(zone.entered);
//! let verdict = playtest.run(&mut world, &mut ())?;
//! assert!(verdict.passed());
//! # Ok::<(), stoicheon_core::playtest::PlaytestError>(())
//! ```

pub(crate) mod actions;
pub(crate) mod error;
pub(crate) mod expecting;
pub(crate) mod guests;
pub(crate) mod host;
pub(crate) mod keeping;
pub(crate) mod run;
pub(crate) mod script;
pub(crate) mod tally;
pub(crate) mod underway;

use glam::Vec3;

use crate::{
    base::{
        clock::{Seconds, Tick},
        ids::{ObjectId, PartId, RuleId, SceneId},
        payload::Field,
        place::Place,
        value::{Text, Value, Values},
    },
    moment::{faults::Fault, memory::SaveMismatch},
    plan::{expr::Expr, steps::Step},
};

pub use crate::playtest::error::PlaytestError;
pub use crate::playtest::host::NoHost;
pub use crate::playtest::host::PlaytestHost;
pub use crate::playtest::run::run;
pub use crate::playtest::script::Lines;
pub use crate::playtest::script::Playtest;
pub use crate::playtest::underway::Underway;

/// How fast players walk, in scene units per second.
pub const WALKING_SPEED: f64 = 4.0;

/// How long a walk, or a wait until something is so, may take before it is given up, in seconds.
pub const LONGEST_WALK: f64 = 600.0;

/// One step of a playtest.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum PlaytestStep {
    /// A player walks straight to a place, and the step ends on arrival.
    Walk {
        /// The player.
        who: ObjectId,
        /// Where to.
        to: Vec3,
    },
    /// A player walks straight through a place and so far beyond; a player inside steps out first. The step ends
    /// on arrival, or when something sends the player elsewhere on the way.
    GoThrough {
        /// The player.
        who: ObjectId,
        /// What they go through.
        at: Vec3,
        /// How far beyond, in scene units.
        beyond: f32,
    },
    /// A player presses a key and releases it in the next tick.
    Press {
        /// The player.
        who: ObjectId,
        /// The key.
        key: Text,
    },
    /// A player holds a key for a time.
    Hold {
        /// The player.
        who: ObjectId,
        /// The key.
        key: Text,
        /// How long.
        span: Seconds,
    },
    /// A player presses a key and holds it while other steps go on.
    KeyDown {
        /// The player.
        who: ObjectId,
        /// The key.
        key: Text,
    },
    /// A player releases a key.
    KeyUp {
        /// The player.
        who: ObjectId,
        /// The key.
        key: Text,
    },
    /// A player points from where they are.
    Point {
        /// The player.
        who: ObjectId,
        /// Where to.
        to: Vec3,
        /// With which button, such as `primary`.
        button: Text,
    },
    /// Statements are done in the intake of the next tick, as the host's, caused by nobody. What waits in them is given up.
    Do {
        /// What is done.
        steps: Vec<Step>,
        /// The scene that what they make is in.
        scene: Option<SceneId>,
    },
    /// A player holds the key of a prompt for as long as it takes. It must be offered to that player.
    Answer {
        /// The player.
        who: ObjectId,
        /// The prompt.
        prompt: PartId,
    },
    /// A player gives an answer to the first question that is put to them and has it, or gives none to any.
    Choose {
        /// The player.
        who: ObjectId,
        /// The answer; `None` if the player declines.
        answer: Option<Text>,
    },
    /// A player leaves.
    Leave {
        /// The player.
        who: ObjectId,
    },
    /// A player joins: at a spot of a scene, or where they were when they left.
    Join {
        /// The player's name.
        name: Text,
        /// The scene and the spot.
        at: Option<(Text, Text)>,
        /// Tags the player gets.
        tags: Vec<Text>,
    },
    /// Time passes.
    Wait(Seconds),
    /// Time passes until something is so.
    Until {
        /// What must come to be so.
        what: Expr,
        /// How long it may take.
        within: Seconds,
    },
    /// Something must be so, now or within a time.
    Expect {
        /// What must be so.
        what: Expectation,
        /// How long it may take.
        within: Option<Seconds>,
    },
    /// From here to the end, this must hold whenever a tick has settled.
    Always(Expr),
    /// From here to the end, this must not happen.
    Never(Watched),
    /// What is to be remembered is put aside.
    Save,
    /// A new world takes the place of this one, with what was put aside last; those who were here then join again.
    Reload,
    /// The whole world is put aside as data, and a new world goes on with it.
    Suspend,
    /// From here to the end, what cannot be done does not fail the playtest.
    AllowFaults,
    /// Several things are done at the same time. Each list has the numbers of the lines that are done one after the
    /// other; the playtest goes on with line `to` when all of them are done.
    Together {
        /// The lists of lines.
        lanes: Vec<Vec<usize>>,
        /// Where it goes on.
        to: usize,
    },
}

impl PlaytestStep {
    /// The player who does it.
    fn actor(&self) -> Option<ObjectId> {
        match self {
            Self::Walk { who, .. }
            | Self::GoThrough { who, .. }
            | Self::Press { who, .. }
            | Self::Hold { who, .. }
            | Self::KeyDown { who, .. }
            | Self::KeyUp { who, .. }
            | Self::Point { who, .. }
            | Self::Answer { who, .. }
            | Self::Choose { who, .. }
            | Self::Leave { who } => Some(*who),
            _ => None,
        }
    }
}

/// Something that happens and is counted, by its whole name.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[non_exhaustive]
pub enum Watched {
    /// A signal is delivered.
    Signal(Text),
    /// An effect is performed.
    Effect(Text),
}

impl Watched {
    /// The name.
    pub fn name(&self) -> &Text {
        match self {
            Self::Signal(name) | Self::Effect(name) => name,
        }
    }
}

/// A value of something as it happened last in the playtest.
#[derive(Clone, Debug, PartialEq)]
pub struct Last {
    /// What happened.
    pub what: Watched,
    /// Which of its fields; `None` for the player who caused it.
    pub field: Option<u8>,
    /// Its name, for people, and what it holds.
    pub named: Field,
}

/// What must be so.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Expectation {
    /// It happened since a player last did something.
    Happens(Watched),
    /// It happened that often since the start of the playtest.
    Exactly(Watched, u64),
    /// It happened and carried these values: since a player last did something, or so often since the start.
    With {
        /// What happened.
        what: Watched,
        /// Its first fields; `None` for one that may be anything.
        values: Vec<Option<Expr>>,
        /// How often, since the start of the playtest.
        times: Option<u64>,
    },
    /// The expression holds of what happened last; [`Expr::Field`] of a number is the value that stands there in the list.
    OfLast {
        /// The expression.
        holds: Expr,
        /// What its numbers stand for.
        of: Vec<Last>,
    },
    /// These happened in this order since a player last did something; others may have come between.
    InOrder(Vec<Watched>),
    /// The expression holds.
    Holds(Expr),
}

/// What an expectation found instead.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Found {
    /// How often it happened since the start of the playtest.
    Count(u64),
    /// What it carried each time, if never what was expected; from the start of the playtest, or since a player last did
    /// something.
    Carried(Vec<Values>),
    /// It has not happened so far, so that nothing can be said of its last time.
    NoLast(Watched),
    /// Which of those that were to come in order came, as they came.
    Order(Vec<Text>),
    /// What the expression read, in the order of [`Expr::reads`]; a part's state as its word.
    Readings(Vec<Value>),
    /// The player did not get there in [`LONGEST_WALK`] seconds.
    NotThere,
    /// The prompt was not offered to the player, but perhaps another one.
    Offered(Option<PartId>),
    /// No question is put to the player that has this answer.
    NotAsked,
    /// What must never happen did.
    Happened(Watched),
    /// A rule of the scene was broken.
    RuleBroken(RuleId),
    /// Something could not be done.
    Fault(Box<Fault>),
    /// The authority's world does not take what a player's world sent.
    NotTaken {
        /// The signal.
        signal: Text,
        /// Why not.
        why: String,
    },
    /// A reaction failed to come to rest.
    Runaway(String),
    /// Something of a save did not fit.
    SaveMismatches(Vec<SaveMismatch>),
    /// The world could not be put aside and taken up again.
    NotKept(String),
}

/// An expectation that was not met.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Failure {
    /// Where it was written.
    pub place: Place,
    /// In which tick it failed.
    pub tick: Tick,
    /// The expectation, if it was one.
    pub expected: Option<Expectation>,
    /// How long it was given.
    pub within: Option<Seconds>,
    /// What was found instead.
    pub found: Found,
    /// The player who had done something last.
    pub who: Option<ObjectId>,
}

/// How a playtest went.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Verdict {
    /// The first thing that was not as expected; the run ended there.
    pub failure: Option<Failure>,
    /// How many ticks it ran.
    pub ticks: u64,
}

impl Verdict {
    /// Whether everything was as expected.
    pub fn passed(&self) -> bool {
        self.failure.is_none()
    }
}
