//! Running a playtest.

use std::{cell::Cell, collections::VecDeque};

use crate::{
    act::scope::Scope,
    base::{
        clock::{Seconds, Ticks, secs},
        error::Error,
        ids::ObjectId,
    },
    moment::memory::Save,
    plan::expr::Expr,
    playtest::{
        Expectation, Failure, Found, PlaytestStep, Verdict, Watched,
        actions::{Act, Progress, begin},
        error::PlaytestError,
        script::Lines,
        tally::Tally,
    },
    state::State,
    world::{World, snapshot::Snapshot},
};

/// What a playtest needs of its runner.
pub trait PlaytestHost<G> {
    /// A look at the world after every tick.
    fn watch(&mut self, world: &mut World<G>) {
        let _ = world;
    }

    /// A new world, made as the one under test was, for a playtest that reloads or suspends it.
    ///
    /// # Errors
    /// [`PlaytestError::NoHost`] where there is no way to make one.
    fn fresh(&mut self) -> Result<World<G>, PlaytestError> {
        Err(PlaytestError::NoHost)
    }

    /// What was saved, by way of a file if there is one. An error is what to tell people.
    ///
    /// # Errors
    /// What is wrong with it.
    fn keep(&mut self, save: Save) -> Result<Save, String> {
        Ok(save)
    }

    /// The same for a whole world.
    ///
    /// # Errors
    /// What is wrong with it.
    fn keep_whole(&mut self, snapshot: Snapshot) -> Result<Snapshot, String> {
        Ok(snapshot)
    }
}

/// A stage that watches nothing and makes no other world.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoHost;

impl<G> PlaytestHost<G> for NoHost {}

pub(crate) struct OnlyWatch<'w, G>(pub(crate) &'w mut dyn FnMut(&mut World<G>));

impl<G> PlaytestHost<G> for OnlyWatch<'_, G> {
    fn watch(&mut self, world: &mut World<G>) {
        (self.0)(world);
    }
}

/// Runs the lines of a playtest to their end, or to the first thing that is not as expected.
///
/// # Errors
/// [`PlaytestError::World`] with what the world says to a step, such as [`Error::NoSuchObject`] for a player who is gone. A runaway tick is not an
/// error of the call but a failure of the playtest.
pub fn run<G: 'static>(
    lines: &mut dyn Lines,
    world: &mut World<G>,
    game: &mut G,
    stage: &mut dyn PlaytestHost<G>,
) -> Result<Verdict, PlaytestError> {
    let watched = lines.watched(world);
    let mut run = PlaytestRun {
        tally: Tally::of(watched, &mut world.state),
        faults: world.faults_so_far(),
        allows_faults: false,
        actor: None,
        changes: world.scene_changes(),
        lines,
        world,
        game,
        stage,
        always: Vec::new(),
        never: Vec::new(),
        saved: None,
        ticks: 0,
    };
    let mut line = 0;
    let mut failure = None;
    while line < run.lines.count() && failure.is_none() {
        let step = run.lines.step(line, run.world)?;
        let next = if let PlaytestStep::Together { to, .. } = &step { *to } else { line + 1 };
        failure = run.step(step, line)?;
        line = next;
    }
    Ok(Verdict { failure, ticks: run.ticks })
}

struct PlaytestRun<'a, G> {
    lines: &'a mut dyn Lines,
    world: &'a mut World<G>,
    game: &'a mut G,
    stage: &'a mut dyn PlaytestHost<G>,
    tally: Tally,
    /// What must hold from a line on, as it was last made out.
    always: Vec<(usize, Expr)>,
    /// What must not happen, and how often it had.
    never: Vec<(usize, Watched, u64)>,
    /// How often scenes had changed when the lines were made out.
    changes: u64,
    saved: Option<Save>,
    ticks: u64,
    /// How many faults there were when they were looked at last.
    faults: u64,
    /// They do not fail it.
    allows_faults: bool,
    /// The player who did something last.
    actor: Option<ObjectId>,
}

type StepResult = Result<Option<Failure>, PlaytestError>;

/// Lines that are done one after the other: those to come, and the one under way.
#[derive(Default)]
struct Lane {
    lines: VecDeque<usize>,
    act: Option<(usize, Act)>,
}

/// What an expression reads now.
pub(crate) fn readings(state: &State, expr: &Expr) -> Found {
    let eval_fault = Cell::new(None);
    Found::Readings(Scope::of(state, &eval_fault).readings(expr).into_vec())
}

impl<G: 'static> PlaytestRun<'_, G> {
    fn step(&mut self, step: PlaytestStep, line: usize) -> StepResult {
        // What is expected before anything is done is expected of a world that has started.
        if matches!(step, PlaytestStep::Expect { .. } | PlaytestStep::Always(_))
            && !self.world.state.moment.started
            && let Some(failure) = self.start(line)?
        {
            return Ok(Some(failure));
        }
        match step {
            PlaytestStep::Expect { what, within } => self.expect(&what, within, line),
            PlaytestStep::Always(expr) => {
                self.always.push((line, expr));
                Ok(self.broken_always())
            }
            PlaytestStep::Never(watched) => {
                let count = self.tally.count(&watched);
                self.never.push((line, watched, count));
                Ok(None)
            }
            PlaytestStep::Save => self.save(line),
            PlaytestStep::Reload => self.reload(line),
            PlaytestStep::Suspend => self.suspend(line),
            PlaytestStep::AllowFaults => {
                self.allows_faults = true;
                Ok(None)
            }
            PlaytestStep::Together { lanes, .. } => self.together(lanes),
            other => self.act(&other, line),
        }
    }

    /// Start-up, and nothing else.
    fn start(&mut self, line: usize) -> StepResult {
        let started = self.world.advance(secs(0.0), self.game).map(drop);
        self.after(started, line)
    }

    /// One thing is done until it is done.
    fn act(&mut self, step: &PlaytestStep, line: usize) -> StepResult {
        self.actor = step.actor().or(self.actor);
        if !matches!(step, PlaytestStep::Wait(_) | PlaytestStep::Until { .. }) {
            self.tally.act();
        }
        let mut act = match begin(step, self.world)? {
            Some(Ok(act)) => act,
            Some(Err(found)) => return Ok(Some(self.failure(line, None, None, found))),
            None => return Ok(None),
        };
        if act.is_done(self.world) {
            return Ok(None);
        }
        loop {
            if let Some(failure) = self.tick(line)? {
                return Ok(Some(failure));
            }
            match act.go_on(self.world)? {
                Progress::More => {}
                Progress::Done => return Ok(None),
                Progress::Failed(found) => return Ok(Some(self.failure(line, None, None, found))),
            }
        }
    }

    /// Several things are done at the same time.
    fn together(&mut self, lanes: Vec<Vec<usize>>) -> StepResult {
        self.tally.act();
        let mut lanes: Vec<_> =
            lanes.into_iter().map(|lines| Lane { lines: lines.into(), act: None }).collect();
        loop {
            for Lane { lines, act } in &mut lanes {
                while act.is_none()
                    && let Some(line) = lines.pop_front()
                {
                    let step = self.lines.step(line, self.world)?;
                    self.actor = step.actor().or(self.actor);
                    match begin(&step, self.world)? {
                        Some(Ok(begun)) if !begun.is_done(self.world) => *act = Some((line, begun)),
                        Some(Err(found)) => return Ok(Some(self.failure(line, None, None, found))),
                        _ => {}
                    }
                }
            }
            let Some(line) = lanes.iter().find_map(|lane| Some(lane.act.as_ref()?.0)) else {
                return Ok(None);
            };
            if let Some(failure) = self.tick(line)? {
                return Ok(Some(failure));
            }
            for Lane { act, .. } in &mut lanes {
                let Some((line, begun)) = act else { continue };
                match begun.go_on(self.world)? {
                    Progress::More => {}
                    Progress::Done => *act = None,
                    Progress::Failed(found) => {
                        let line = *line;
                        return Ok(Some(self.failure(line, None, None, found)));
                    }
                }
            }
        }
    }

    fn save(&mut self, line: usize) -> StepResult {
        match self.stage.keep(self.world.save().map_err(Error::from)?) {
            Ok(save) => self.saved = Some(save),
            Err(why) => return Ok(Some(self.failure(line, None, None, Found::NotKept(why)))),
        }
        Ok(None)
    }

    fn reload(&mut self, line: usize) -> StepResult {
        let Some(save) = self.saved.clone() else {
            let why = "nothing was saved before".to_owned();
            return Ok(Some(self.failure(line, None, None, Found::NotKept(why))));
        };
        *self.world = self.stage.fresh()?;
        let mut mismatches = self.world.recall(&save).map_err(Error::from)?;
        mismatches.extend(self.world.rejoin(&save)?);
        self.look_again()?;
        if !mismatches.is_empty() {
            return Ok(Some(self.failure(line, None, None, Found::SaveMismatches(mismatches))));
        }
        self.tick(line)
    }

    fn suspend(&mut self, line: usize) -> StepResult {
        let kept = self.stage.keep_whole(self.world.snapshot().map_err(Error::from)?);
        let mut fresh = self.stage.fresh()?;
        let taken = kept.and_then(|snapshot| fresh.restore(&snapshot).map_err(|error| error.to_string()));
        if let Err(why) = taken {
            return Ok(Some(self.failure(line, None, None, Found::NotKept(why))));
        }
        *self.world = fresh;
        self.look_again()?;
        Ok(None)
    }

    /// Another world is under test.
    fn look_again(&mut self) -> Result<(), Error> {
        self.tally.another_world(&mut self.world.state);
        self.faults = self.world.faults_so_far();
        self.make_out_again()
    }

    /// What must always hold may speak of other things of the same name now.
    fn make_out_again(&mut self) -> Result<(), Error> {
        self.changes = self.world.scene_changes();
        for index in 0..self.always.len() {
            let line = self.always[index].0;
            if let PlaytestStep::Always(expr) = self.lines.step(line, self.world)? {
                self.always[index].1 = expr;
            }
        }
        Ok(())
    }

    fn expect(&mut self, what: &Expectation, within: Option<Seconds>, line: usize) -> StepResult {
        let span =
            within.map_or(Ok(Ticks::ZERO), |span| self.world.rate().ticks(span)).map_err(Error::from)?;
        let mut left = span.whole();
        let mut what = what.clone();
        while !self.holds(&what) {
            if left == 0 {
                let found = self.found(&what);
                return Ok(Some(self.failure(line, Some(what), within, found)));
            }
            left -= 1;
            let before = self.changes;
            if let Some(failure) = self.tick(line)? {
                return Ok(Some(failure));
            }
            if before != self.changes
                && let PlaytestStep::Expect { what: again, .. } = self.lines.step(line, self.world)?
            {
                what = again;
            }
        }
        Ok(None)
    }

    fn holds(&self, what: &Expectation) -> bool {
        match what {
            Expectation::Happens(watched) => self.tally.happened(watched),
            Expectation::Exactly(watched, times) => self.tally.count(watched) == *times,
            Expectation::InOrder(all) => self.tally.came_in_order(all),
            Expectation::Holds(expr) => self.world.evaluate(expr).as_bool() == Some(true),
        }
    }

    fn found(&self, what: &Expectation) -> Found {
        match what {
            Expectation::Happens(watched) | Expectation::Exactly(watched, _) => {
                Found::Count(self.tally.count(watched))
            }
            Expectation::InOrder(all) => Found::Order(self.tally.order_of(all)),
            Expectation::Holds(expr) => readings(self.world, expr),
        }
    }

    fn failure(
        &self,
        line: usize,
        expected: Option<Expectation>,
        within: Option<Seconds>,
        found: Found,
    ) -> Failure {
        let (place, tick, who) = (self.lines.place(line), self.world.now(), self.actor);
        Failure { place, tick, expected, within, found, who }
    }

    /// One tick, and whether everything that must always be so still is.
    fn tick(&mut self, line: usize) -> StepResult {
        let stepped = self.world.step(self.game);
        self.ticks += 1;
        self.after(stepped, line)
    }

    fn after(&mut self, stepped: Result<(), Error>, line: usize) -> StepResult {
        self.tally.look(self.world);
        self.stage.watch(self.world);
        match stepped {
            Ok(()) => {}
            Err(error) if error.ends_tick() => {
                return Ok(Some(self.failure(line, None, None, Found::Runaway(error.to_string()))));
            }
            Err(error) => return Err(error.into()),
        }
        if let Some(rule) = self.world.state.scratch.broken_now.first() {
            let found = Found::RuleBroken(*rule);
            return Ok(Some(self.failure(line, None, None, found)));
        }
        if self.world.faults_so_far() > self.faults
            && !self.allows_faults
            && let Some(fault) = self.world.fault_after(self.faults)
        {
            let found = Found::Fault(Box::new(fault.clone()));
            return Ok(Some(self.failure(line, None, None, found)));
        }
        if self.changes != self.world.scene_changes() {
            self.make_out_again()?;
        }
        let happened = self.never.iter().find(|(_, watched, count)| self.tally.count(watched) > *count);
        if let Some((line, watched, _)) = happened {
            return Ok(Some(self.failure(*line, None, None, Found::Happened(watched.clone()))));
        }
        Ok(self.broken_always())
    }

    fn broken_always(&self) -> Option<Failure> {
        let fails = |expr: &Expr| self.world.evaluate(expr).as_bool() != Some(true);
        let (line, expr) = self.always.iter().find(|(_, expr)| fails(expr))?;
        let expected = Some(Expectation::Holds(expr.clone()));
        Some(self.failure(*line, expected, None, readings(self.world, expr)))
    }
}
