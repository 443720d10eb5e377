//! The lines of a playtest.

use glam::Vec3;

use crate::{
    base::{
        clock::Seconds,
        error::Error,
        ids::{ObjectId, SignalId},
        place::Place,
        value::Text,
    },
    plan::expr::Expr,
    playtest::{
        Expectation, PlaytestStep, Verdict, Watched, error::PlaytestError, host::OnlyWatch, run::run,
    },
    state::State,
    world::World,
};

/// Where the steps of a playtest come from. Each is asked for when its turn comes, since what it speaks of may be there
/// only by then.
pub trait Lines {
    /// How many lines there are.
    fn count(&self) -> usize;

    /// Where a line was written.
    fn place(&self, line: usize) -> Place;

    /// What a line says in the world as it is.
    ///
    /// # Errors
    /// [`Error::UnknownName`] and the like when what it speaks of is not there.
    fn step(&mut self, line: usize, state: &State) -> Result<PlaytestStep, Error>;

    /// Whether each player has a world of their own, linked to the one whose word counts.
    fn is_linked(&self) -> bool {
        false
    }

    /// The player in whose own world a line is done, if it is not done in the one whose word counts.
    fn played_by(&self, line: usize) -> Option<Text> {
        let _ = line;
        None
    }

    /// All that is counted from the start.
    fn watched(&mut self, state: &State) -> Vec<Watched>;

    /// Those of them whose values are asked for: what they carry is kept.
    fn kept(&mut self, state: &State) -> Vec<Watched> {
        let _ = state;
        Vec::new()
    }
}

#[derive(Clone, Debug)]
enum Line {
    Step(PlaytestStep),
    /// The name is found in the world.
    ExpectSignal(SignalId),
}

/// A scripted run with expectations, written in Rust.
#[derive(Clone, Debug)]
pub struct Playtest {
    /// What it shows.
    pub name: Text,
    lines: Vec<(Line, Place)>,
}

impl Playtest {
    /// A playtest of that name, with no steps yet.
    pub fn new(name: &str) -> Self {
        Self { name: name.into(), lines: Vec::new() }
    }

    /// And then that step, written at that place.
    pub fn step_at(mut self, step: PlaytestStep, place: Place) -> Self {
        self.lines.push((Line::Step(step), place));
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
    pub fn expect_signal(mut self, signal: impl Into<SignalId>) -> Self {
        self.lines.push((Line::ExpectSignal(signal.into()), Place::here()));
        self
    }

    /// And then the expression must hold.
    #[track_caller]
    pub fn expect(self, expr: Expr) -> Self {
        let what = Expectation::Holds(expr);
        self.step_at(PlaytestStep::Expect { what, within: None }, Place::here())
    }

    /// Runs it to its end, or to the first thing that is not as expected.
    ///
    /// # Errors
    /// What the world says to a step, such as [`Error::NoSuchObject`] for a player who is gone. A runaway tick is
    /// not an error of the call but a failure of the playtest.
    pub fn run<G: 'static>(&self, world: &mut World<G>, game: &mut G) -> Result<Verdict, PlaytestError> {
        self.run_watched(world, game, &mut |_| {})
    }

    /// The same, with a look at the world after every tick.
    ///
    /// # Errors
    /// As for [`run`](Self::run).
    pub fn run_watched<G: 'static>(
        &self,
        world: &mut World<G>,
        game: &mut G,
        watch: &mut dyn FnMut(&mut World<G>),
    ) -> Result<Verdict, PlaytestError> {
        run(&mut self.clone(), world, game, &mut OnlyWatch(watch))
    }
}

impl Lines for Playtest {
    fn count(&self) -> usize {
        self.lines.len()
    }

    fn place(&self, line: usize) -> Place {
        self.lines[line].1.clone()
    }

    fn step(&mut self, line: usize, state: &State) -> Result<PlaytestStep, Error> {
        Ok(match &self.lines[line].0 {
            Line::Step(step) => step.clone(),
            Line::ExpectSignal(signal) => {
                let name = state.signal_name(*signal).ok_or(crate::base::error::NoSuchSignal)?;
                let what = Expectation::Happens(Watched::Signal(name.into()));
                PlaytestStep::Expect { what, within: None }
            }
        })
    }

    fn watched(&mut self, state: &State) -> Vec<Watched> {
        let steps = (0..self.count()).filter_map(|line| self.step(line, state).ok());
        steps.flat_map(|step| [watched_in(&step), kept_in(&step)].concat()).collect()
    }

    fn kept(&mut self, state: &State) -> Vec<Watched> {
        let steps = (0..self.count()).filter_map(|line| self.step(line, state).ok());
        steps.flat_map(|step| kept_in(&step)).collect()
    }
}

/// What a step asks the values of.
fn kept_in(step: &PlaytestStep) -> Vec<Watched> {
    match step {
        PlaytestStep::Expect { what: Expectation::With { what, .. }, .. } => vec![what.clone()],
        PlaytestStep::Expect { what: Expectation::OfLast { of, .. }, .. } => {
            of.iter().map(|last| last.what.clone()).collect()
        }
        _ => Vec::new(),
    }
}

/// What a step counts.
fn watched_in(step: &PlaytestStep) -> Vec<Watched> {
    match step {
        PlaytestStep::Never(what)
        | PlaytestStep::Expect { what: Expectation::Happens(what) | Expectation::Exactly(what, _), .. } => {
            vec![what.clone()]
        }
        PlaytestStep::Expect { what: Expectation::InOrder(all), .. } => all.clone(),
        _ => Vec::new(),
    }
}
