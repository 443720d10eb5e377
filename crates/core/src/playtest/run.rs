//! Running a playtest.

use std::collections::VecDeque;

use crate::{
    base::{
        clock::{Seconds, Ticks, secs},
        error::Error,
        ids::ObjectId,
    },
    moment::memory::Save,
    plan::{crossings::Side, expr::Expr},
    playtest::{
        Expectation, Failure, Found, PlaytestStep, Verdict, Watched,
        actions::{Act, Progress, begin},
        error::PlaytestError,
        expecting::{found, holds, readings},
        guests::Guest,
        host::PlaytestHost,
        script::Lines,
        tally::Tally,
    },
    world::World,
};

/// Runs the lines of a playtest to their end, or to the first thing that is not as expected. If that is so in a player's own
/// world, `world` is that one afterwards.
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
        tally: Tally::of(watched, &lines.kept(world), &mut world.state),
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
        guests: Vec::new(),
        linked: false,
    };
    run.link()?;
    let mut line = 0;
    let mut failure = None;
    while line < run.lines.count() && failure.is_none() {
        let side = run.side_of(line)?;
        let step = run.line(line, side)?;
        let next = if let PlaytestStep::Together { to, .. } = &step { *to } else { line + 1 };
        failure = run.step(step, line, side)?;
        line = next;
    }
    Ok(Verdict { failure, ticks: run.ticks })
}

pub(crate) struct PlaytestRun<'a, G> {
    pub(super) lines: &'a mut dyn Lines,
    pub(super) world: &'a mut World<G>,
    pub(super) game: &'a mut G,
    pub(super) stage: &'a mut dyn PlaytestHost<G>,
    pub(super) tally: Tally,
    /// What must hold from a line on, as it was last made out.
    pub(super) always: Vec<(usize, Expr)>,
    /// What must not happen, and how often it had.
    pub(super) never: Vec<(usize, Watched, u64)>,
    /// How often scenes had changed when the lines were made out.
    pub(super) changes: u64,
    pub(super) saved: Option<Save>,
    pub(super) ticks: u64,
    /// How many faults there were when they were looked at last.
    pub(super) faults: u64,
    /// They do not fail it.
    pub(super) allows_faults: bool,
    /// The player who did something last, as the authority's world knows them.
    pub(super) actor: Option<ObjectId>,
    /// Each player has a world of their own.
    pub(super) linked: bool,
    pub(super) guests: Vec<Guest<G>>,
}

/// Whose world: that of the guest of that number, or the one whose word counts.
type Whose = Option<usize>;

pub(crate) type StepResult = Result<Option<Failure>, PlaytestError>;

/// Lines that are done one after the other: those to come, and the one under way.
#[derive(Default)]
struct Lane {
    lines: VecDeque<usize>,
    act: Option<(usize, Act)>,
}

impl<G: 'static> PlaytestRun<'_, G> {
    /// If the playtest asks for it, each player gets a world of their own.
    fn link(&mut self) -> Result<(), PlaytestError> {
        self.linked = self.lines.is_linked();
        if self.linked {
            self.world.be(Side::Authority);
            self.greet()?;
        }
        Ok(())
    }

    /// Players who came get worlds of their own; those of players who left keep their place, and nothing of them counts.
    fn greet(&mut self) -> Result<(), PlaytestError> {
        let here =
            |world: &World<G>, name: &str| world.players().any(|player| world.name(player) == Some(name));
        for guest in &mut self.guests {
            if !here(self.world, &guest.player) {
                guest.end()?;
            }
        }
        for player in self.world.players().collect::<Vec<_>>() {
            let known = |guest: &Guest<G>| !guest.gone && Some(&*guest.player) == self.world.name(player);
            if !self.guests.iter().any(known) {
                let watched = self.lines.watched(self.world);
                let kept = self.lines.kept(self.world);
                self.guests.push(Guest::new(self.world, player, (watched, &kept), self.stage)?);
            }
        }
        Ok(())
    }

    /// In whose world a line is done.
    fn side_of(&self, line: usize) -> Result<Whose, Error> {
        let Some(player) = self.lines.played_by(line).filter(|_| self.linked) else { return Ok(None) };
        // The one of a player who has left is looked at for what they do after that, which is nothing.
        let found = self.guests.iter().rposition(|guest| guest.player == player);
        let gone = || Error::UnknownName { kind: "a player who is here", found: player };
        found.map(Some).ok_or_else(gone)
    }

    /// What a line says in the world it is done in.
    fn line(&mut self, line: usize, whose: Whose) -> Result<PlaytestStep, Error> {
        let guest = whose.and_then(|guest| self.guests.get(guest));
        self.lines.step(line, guest.map_or(&*self.world, |guest| &guest.world))
    }

    fn here(&self, whose: Whose) -> &World<G> {
        whose.and_then(|guest| self.guests.get(guest)).map_or(&*self.world, |guest| &guest.world)
    }

    fn here_mut(&mut self, whose: Whose) -> &mut World<G> {
        match whose.and_then(|guest| self.guests.get_mut(guest)) {
            Some(guest) => &mut guest.world,
            None => self.world,
        }
    }

    fn tally_of(&self, whose: Whose) -> &Tally {
        whose.and_then(|guest| self.guests.get(guest)).map_or(&self.tally, |guest| &guest.tally)
    }

    /// Somebody does something: what is expected of the time since then begins here.
    fn acted(&mut self, step: &PlaytestStep, whose: Whose) {
        let actor = match whose.and_then(|guest| self.guests.get(guest)) {
            Some(guest) => self.world.find_player(&guest.player),
            None => step.actor(),
        };
        self.actor = actor.or(self.actor);
    }

    fn forget_before(&mut self) {
        self.tally.act();
        self.guests.iter_mut().for_each(|guest| guest.tally.act());
    }

    fn step(&mut self, step: PlaytestStep, line: usize, whose: Whose) -> StepResult {
        // What is expected before anything is done is expected of a world that has started; what is done, is done to one.
        if matches!(step, PlaytestStep::Expect { .. } | PlaytestStep::Always(_) | PlaytestStep::Do { .. })
            && !self.world.state.moment.started
            && let Some(failure) = self.start(line)?
        {
            return Ok(Some(failure));
        }
        match step {
            PlaytestStep::Expect { what, within } => self.expect(&what, within, line, whose),
            PlaytestStep::Always(expr) => {
                self.always.push((line, expr));
                Ok(self.broken_always())
            }
            PlaytestStep::Never(watched) => {
                let count = self.tally.count(&watched);
                self.never.push((line, watched, count));
                Ok(None)
            }
            PlaytestStep::Save | PlaytestStep::Reload | PlaytestStep::Suspend if self.linked => {
                let why = "players with worlds of their own are not put aside".to_owned();
                Ok(Some(self.failure(line, None, None, Found::NotKept(why))))
            }
            PlaytestStep::Save => self.save(line),
            PlaytestStep::Reload => self.reload(line),
            PlaytestStep::Suspend => self.suspend(line),
            PlaytestStep::AllowFaults => {
                self.allows_faults = true;
                Ok(None)
            }
            PlaytestStep::Together { lanes, .. } => self.together(lanes),
            other => self.act(&other, line, whose),
        }
    }

    /// Start-up, and nothing else.
    fn start(&mut self, line: usize) -> StepResult {
        let started = self.world.advance(secs(0.0), self.game).map(drop);
        self.after(started, line)
    }

    /// One thing is done until it is done.
    fn act(&mut self, step: &PlaytestStep, line: usize, whose: Whose) -> StepResult {
        self.acted(step, whose);
        if !matches!(step, PlaytestStep::Wait(_) | PlaytestStep::Until { .. }) {
            self.forget_before();
        }
        let place = self.lines.place(line);
        let mut act = match begin(step, &place, self.here_mut(whose))? {
            Some(Ok(act)) => act,
            Some(Err(found)) => return Ok(Some(self.failure_of(whose, line, found))),
            None => return Ok(None),
        };
        if act.is_done(self.here(whose)) {
            return Ok(None);
        }
        loop {
            if let Some(failure) = self.tick(line)? {
                return Ok(Some(failure));
            }
            match act.go_on(self.here_mut(whose))? {
                Progress::More => {}
                Progress::Done => return Ok(None),
                Progress::Failed(found) => return Ok(Some(self.failure_of(whose, line, found))),
            }
        }
    }

    /// Several things are done at the same time.
    fn together(&mut self, lanes: Vec<Vec<usize>>) -> StepResult {
        self.forget_before();
        let mut lanes: Vec<_> =
            lanes.into_iter().map(|lines| Lane { lines: lines.into(), act: None }).collect();
        loop {
            for Lane { lines, act } in &mut lanes {
                while act.is_none()
                    && let Some(line) = lines.pop_front()
                {
                    let whose = self.side_of(line)?;
                    let step = self.line(line, whose)?;
                    self.acted(&step, whose);
                    let place = self.lines.place(line);
                    match begin(&step, &place, self.here_mut(whose))? {
                        Some(Ok(begun)) if !begun.is_done(self.here(whose)) => *act = Some((line, begun)),
                        Some(Err(found)) => return Ok(Some(self.failure_of(whose, line, found))),
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
                let line = *line;
                let whose = self.side_of(line)?;
                match begun.go_on(self.here_mut(whose))? {
                    Progress::More => {}
                    Progress::Done => *act = None,
                    Progress::Failed(found) => return Ok(Some(self.failure_of(whose, line, found))),
                }
            }
        }
    }

    /// Another world is under test.
    pub(super) fn look_again(&mut self) -> Result<(), Error> {
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

    fn expect(
        &mut self,
        what: &Expectation,
        within: Option<Seconds>,
        line: usize,
        whose: Whose,
    ) -> StepResult {
        let asks_the_trace =
            matches!(what, Expectation::With { .. } | Expectation::OfLast { .. } | Expectation::InOrder(_));
        if asks_the_trace && !self.world.trace().is_on() {
            return Err(PlaytestError::NoTrace);
        }
        let span =
            within.map_or(Ok(Ticks::ZERO), |span| self.world.rate().ticks(span)).map_err(Error::from)?;
        let mut left = span.whole();
        let mut what = what.clone();
        while !holds(self.here(whose), self.tally_of(whose), &what) {
            if left == 0 {
                let found = found(self.here(whose), self.tally_of(whose), &what);
                let mut failure = self.failure_of(whose, line, found);
                (failure.expected, failure.within) = (Some(what), within);
                return Ok(Some(failure));
            }
            left -= 1;
            let before = self.changes;
            if let Some(failure) = self.tick(line)? {
                return Ok(Some(failure));
            }
            if before != self.changes
                && let PlaytestStep::Expect { what: again, .. } = self.line(line, whose)?
            {
                what = again;
            }
        }
        Ok(None)
    }

    /// A failure in somebody's world, which is looked at from here on.
    fn failure_of(&mut self, whose: Whose, line: usize, found: Found) -> Failure {
        if let Some(guest) = whose.and_then(|guest| self.guests.get_mut(guest)) {
            std::mem::swap(self.world, &mut guest.world);
            self.actor = self.world.find_player(&guest.player);
        }
        self.failure(line, None, None, found)
    }

    pub(super) fn failure(
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
    pub(super) fn tick(&mut self, line: usize) -> StepResult {
        for index in 0..self.guests.len() {
            let guest = &mut self.guests[index];
            let found = guest.tick(self.world)?;
            let is_refused = matches!(found, Some(Found::NotTaken { .. }));
            if let Some(found) = found.filter(|_| !(is_refused && self.allows_faults)) {
                let whose = (!is_refused).then_some(index);
                return Ok(Some(self.failure_of(whose, line, found)));
            }
            let guest = &self.guests[index];
            if let Some(rule) = guest.world.state.scratch.broken_now.first().filter(|_| !guest.gone) {
                let found = Found::RuleBroken(*rule);
                return Ok(Some(self.failure_of(Some(index), line, found)));
            }
            if !self.allows_faults
                && let Some(fault) = guest.world.fault_after(guest.faults)
            {
                let found = Found::Fault(Box::new(fault.clone()));
                return Ok(Some(self.failure_of(Some(index), line, found)));
            }
        }
        let stepped = self.world.step(self.game);
        self.ticks += 1;
        if self.linked {
            let sent: Vec<_> = self.world.take_outgoing().collect();
            for guest in &mut self.guests {
                guest.hear(self.world, &sent)?;
            }
            self.greet()?;
        }
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
