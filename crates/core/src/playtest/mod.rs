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
//! # Ok::<(), stoicheon_core::Error>(())
//! ```

mod run;

use glam::Vec3;

use crate::{
    clock::{Seconds, Tick},
    effect::EffectId,
    expr::Expr,
    object::ObjectId,
    signal::SignalId,
    value::{Text, Value},
    wire::Place,
};

/// How fast players walk, in scene units per second.
pub const WALKING_SPEED: f64 = 4.0;

/// How long a walk may take before it is given up, in seconds.
pub const LONGEST_WALK: f64 = 600.0;

/// A scripted run with expectations.
#[derive(Clone, Debug)]
pub struct Playtest {
    /// What it shows.
    pub name: Text,
    pub(crate) steps: Vec<(PlaytestStep, Place)>,
}

/// One step of a playtest.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub enum PlaytestStep {
    /// A player walks straight to a place, and the step ends when he is there.
    Walk {
        /// The player.
        who: ObjectId,
        /// Where to.
        to: Vec3,
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
    /// A player points from where he is.
    Point {
        /// The player.
        who: ObjectId,
        /// Where to.
        to: Vec3,
    },
    /// A player leaves.
    Leave {
        /// The player.
        who: ObjectId,
    },
    /// Time passes.
    Wait(Seconds),
    /// Something must be so, now or within a time.
    Expect {
        /// What must be so.
        what: Expectation,
        /// How long it may take.
        within: Option<Seconds>,
    },
    /// From here to the end, this must hold whenever a tick has settled.
    Always(Expr),
}

/// What must be so.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Expectation {
    /// The signal was delivered since a player last did something.
    Signal(SignalId),
    /// The signal was delivered that often since the start of the playtest.
    SignalExactly(SignalId, u64),
    /// The effect was performed since a player last did something.
    Effect(EffectId),
    /// The effect was performed that often since the start of the playtest.
    EffectExactly(EffectId, u64),
    /// The expression holds.
    Holds(Expr),
}

/// What an expectation found instead.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Found {
    /// A count, since the start of the playtest.
    Count(u64),
    /// What the expression read, in the order of [`Expr::reads`]; a part's state as its word.
    Readings(Vec<Value>),
    /// The player did not get there in [`LONGEST_WALK`] seconds.
    NotThere,
    /// A rule of the scene was broken.
    RuleBroken,
    /// A reaction failed to come to rest.
    Runaway(String),
}

/// An expectation that was not met.
#[derive(Clone, Debug, PartialEq)]
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
}

/// How a playtest went.
#[derive(Clone, Debug, PartialEq)]
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

impl Playtest {
    /// A playtest of that name, with no steps yet.
    pub fn new(name: &str) -> Self {
        Self { name: name.into(), steps: Vec::new() }
    }

    /// And then that step, written at that place.
    pub fn step_at(mut self, step: PlaytestStep, place: Place) -> Self {
        self.steps.push((step, place));
        self
    }

    /// And then that step.
    #[track_caller]
    pub fn step(self, step: PlaytestStep) -> Self {
        self.step_at(step, Place::here())
    }

    /// And then the player walks there.
    #[track_caller]
    pub fn walk(self, who: ObjectId, to: Vec3) -> Self {
        self.step_at(PlaytestStep::Walk { who, to }, Place::here())
    }

    /// And then the player presses a key.
    #[track_caller]
    pub fn press(self, who: ObjectId, key: &str) -> Self {
        self.step_at(PlaytestStep::Press { who, key: key.into() }, Place::here())
    }

    /// And then time passes.
    #[track_caller]
    pub fn wait(self, span: Seconds) -> Self {
        self.step_at(PlaytestStep::Wait(span), Place::here())
    }

    /// And then the signal must have been delivered since a player last did something.
    #[track_caller]
    pub fn expect_signal(self, signal: impl Into<SignalId>) -> Self {
        let what = Expectation::Signal(signal.into());
        self.step_at(PlaytestStep::Expect { what, within: None }, Place::here())
    }

    /// And then the expression must hold.
    #[track_caller]
    pub fn expect(self, expr: Expr) -> Self {
        let what = Expectation::Holds(expr);
        self.step_at(PlaytestStep::Expect { what, within: None }, Place::here())
    }
}
