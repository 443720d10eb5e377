//! Running a playtest.

use std::{cell::Cell, collections::BTreeMap};

use super::{Expectation, Failure, Found, LONGEST_WALK, Playtest, PlaytestStep, Verdict, WALKING_SPEED};
use glam::Vec3;

use crate::{
    clock::{Seconds, Ticks, secs},
    effect::EffectId,
    error::Error,
    expr::{Expr, Scope},
    pointing::Pointing,
    signal::SignalId,
    state::State,
    wire::Place,
    world::World,
};

/// What is counted, and how often it had happened when the count began.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Counted {
    Signal(SignalId),
    Effect(EffectId),
}

impl Counted {
    fn count(self, state: &State) -> u64 {
        match self {
            Self::Signal(signal) => state.delivered(signal),
            Self::Effect(effect) => state.performed(effect),
        }
    }
}

impl Playtest {
    /// Runs it to its end, or to the first thing that is not as expected.
    ///
    /// # Errors
    /// What the world says to a step, such as [`Error::NoSuchObject`] for a player who is gone. A runaway tick is
    /// not an error of the call but a failure of the playtest.
    pub fn run<G: 'static>(&self, world: &mut World<G>, game: &mut G) -> Result<Verdict, Error> {
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
    ) -> Result<Verdict, Error> {
        let mut run = Run {
            world,
            game,
            watch,
            began: BTreeMap::new(),
            acted: BTreeMap::new(),
            always: Vec::new(),
            ticks: 0,
        };
        for (step, _) in &self.steps {
            if let PlaytestStep::Expect { what, .. } = step
                && let Some(counted) = counted(what)
            {
                run.began.insert(counted, counted.count(run.world));
            }
        }
        run.acted.clone_from(&run.began);
        let mut failure = None;
        for (step, place) in &self.steps {
            failure = run.step(step, place)?;
            if failure.is_some() {
                break;
            }
        }
        Ok(Verdict { failure, ticks: run.ticks })
    }
}

fn counted(what: &Expectation) -> Option<Counted> {
    match what {
        Expectation::Signal(signal) | Expectation::SignalExactly(signal, _) => Some(Counted::Signal(*signal)),
        Expectation::Effect(effect) | Expectation::EffectExactly(effect, _) => Some(Counted::Effect(*effect)),
        Expectation::Holds(_) => None,
    }
}

struct Run<'a, G> {
    world: &'a mut World<G>,
    game: &'a mut G,
    watch: &'a mut dyn FnMut(&mut World<G>),
    /// The counts at the start of the playtest.
    began: BTreeMap<Counted, u64>,
    /// The counts when a player last did something.
    acted: BTreeMap<Counted, u64>,
    always: Vec<(Expr, Place)>,
    ticks: u64,
}

type Outcome = Result<Option<Failure>, Error>;

impl<G: 'static> Run<'_, G> {
    fn step(&mut self, step: &PlaytestStep, place: &Place) -> Outcome {
        match step {
            PlaytestStep::Walk { who, to } => {
                self.act();
                self.world.walk(*who, *to, WALKING_SPEED)?;
                let longest = self.world.rate().ticks(secs(LONGEST_WALK))?;
                for _ in 0..longest.0 {
                    if let Some(failure) = self.tick(place)? {
                        return Ok(Some(failure));
                    }
                    if !self.world.is_walking(*who) {
                        return Ok(None);
                    }
                }
                Ok(Some(self.failure(place, None, None, Found::NotThere)))
            }
            PlaytestStep::Press { who, key } => {
                self.act();
                self.world.press(*who, key)?;
                if let Some(failure) = self.tick(place)? {
                    return Ok(Some(failure));
                }
                self.world.release(*who, key)?;
                self.tick(place)
            }
            PlaytestStep::Hold { who, key, span } => {
                self.act();
                self.world.press(*who, key)?;
                if let Some(failure) = self.pass(*span, place)? {
                    return Ok(Some(failure));
                }
                self.world.release(*who, key)?;
                self.tick(place)
            }
            PlaytestStep::Point { who, to } => {
                self.act();
                let from = self.world.place(*who)?;
                // From where he stands himself, any way will do.
                let along = if from == *to { Vec3::NEG_Y } else { *to - from };
                self.world.point(Pointing { who: *who, from, along, button: "primary".into() })?;
                self.tick(place)
            }
            PlaytestStep::Leave { who } => {
                self.act();
                self.world.leave(*who)?;
                self.tick(place)
            }
            PlaytestStep::Wait(span) => self.pass(*span, place),
            PlaytestStep::Expect { what, within } => self.expect(what, *within, place),
            PlaytestStep::Always(expr) => {
                self.always.push((expr.clone(), place.clone()));
                Ok(self.broken_always())
            }
        }
    }

    /// Time passes.
    fn pass(&mut self, span: Seconds, place: &Place) -> Outcome {
        let span = self.world.rate().ticks(span)?;
        for _ in 0..span.0 {
            if let Some(failure) = self.tick(place)? {
                return Ok(Some(failure));
            }
        }
        Ok(None)
    }

    /// A player does something: expectations look back to here.
    fn act(&mut self) {
        for (counted, count) in &mut self.acted {
            *count = counted.count(self.world);
        }
    }

    fn expect(&mut self, what: &Expectation, within: Option<Seconds>, place: &Place) -> Outcome {
        let span = within.map_or(Ok(Ticks(0)), |span| self.world.rate().ticks(span))?;
        let mut left = span.0;
        while !self.holds(what) {
            if left == 0 {
                let found = self.found(what);
                return Ok(Some(self.failure(place, Some(what.clone()), within, found)));
            }
            left -= 1;
            if let Some(failure) = self.tick(place)? {
                return Ok(Some(failure));
            }
        }
        Ok(None)
    }

    fn since(&self, start: &BTreeMap<Counted, u64>, counted: Counted) -> u64 {
        counted.count(self.world) - start.get(&counted).copied().unwrap_or(0)
    }

    fn holds(&self, what: &Expectation) -> bool {
        match what {
            Expectation::Signal(signal) => self.since(&self.acted, Counted::Signal(*signal)) > 0,
            Expectation::Effect(effect) => self.since(&self.acted, Counted::Effect(*effect)) > 0,
            Expectation::SignalExactly(signal, times) => {
                self.since(&self.began, Counted::Signal(*signal)) == *times
            }
            Expectation::EffectExactly(effect, times) => {
                self.since(&self.began, Counted::Effect(*effect)) == *times
            }
            Expectation::Holds(expr) => self.world.evaluate(expr).as_bool() == Some(true),
        }
    }

    fn found(&self, what: &Expectation) -> Found {
        match (what, counted(what)) {
            (_, Some(counted)) => Found::Count(self.since(&self.began, counted)),
            (Expectation::Holds(expr), None) => self.readings(expr),
            (_, None) => Found::Count(0),
        }
    }

    fn readings(&self, expr: &Expr) -> Found {
        let mishap = Cell::new(None);
        Found::Readings(Scope::of(self.world, &mishap).readings(expr).into_vec())
    }

    fn failure(
        &self,
        place: &Place,
        expected: Option<Expectation>,
        within: Option<Seconds>,
        found: Found,
    ) -> Failure {
        Failure { place: place.clone(), tick: self.world.now(), expected, within, found }
    }

    /// One tick, and whether everything that must always be so still is.
    fn tick(&mut self, place: &Place) -> Outcome {
        let broken = self.world.times_broken();
        let stepped = self.world.step(self.game);
        self.ticks += 1;
        (self.watch)(self.world);
        match stepped {
            Ok(()) => {}
            Err(error @ Error::Runaway { .. }) => {
                return Ok(Some(self.failure(place, None, None, Found::Runaway(error.to_string()))));
            }
            Err(error) => return Err(error),
        }
        if self.world.times_broken() > broken {
            return Ok(Some(self.failure(place, None, None, Found::RuleBroken)));
        }
        Ok(self.broken_always())
    }

    fn broken_always(&self) -> Option<Failure> {
        let fails = |expr: &Expr| self.world.evaluate(expr).as_bool() != Some(true);
        let (expr, place) = self.always.iter().find(|(expr, _)| fails(expr))?;
        let expected = Some(Expectation::Holds(expr.clone()));
        Some(self.failure(place, expected, None, self.readings(expr)))
    }
}
