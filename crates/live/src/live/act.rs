//! What pages ask for: time, lines, playtests, and what is done in the world.

use std::any::Any;

use stoicheon_core::{Error, State, World};

use crate::{
    ask::Ask,
    bench::find_object,
    does::does,
    error::LiveError,
    history::{History, KeptGame, Wound},
    live::Live,
    reply::Said,
    shared::Frame,
    walk::Lie,
    wiring::Entered,
};

impl Live {
    /// Those who follow and those whose keys are held go on.
    pub(super) fn before_tick<G: 'static>(&mut self, world: &mut World<G>) {
        for who in self.steering.before_tick(Lie { ground: &self.ground }, world) {
            self.deeds.sets_out(world, who);
        }
    }

    /// Begins what was typed, as far as it can begin now.
    pub(super) fn begin_typed<G: 'static>(&mut self, world: &mut World<G>) {
        let mut said = Vec::new();
        self.typed.begin(world, &mut self.deeds, &mut said);
        if self.typed.has_joined()
            && let Some(history) = &mut self.history
        {
            // Who joins is there at once, which no tick says again.
            history.keep_next();
        }
        said.into_iter().for_each(|(page, said)| self.shared.say(page, said));
    }

    pub(super) fn line<G: 'static>(
        &mut self,
        page: u64,
        who: Option<&str>,
        text: &str,
        world: &mut World<G>,
    ) -> Option<Said> {
        let Some(wiring) = &self.wiring else {
            return Some(Said::no("this page knows nothing of the wiring, so that no line can be read"));
        };
        match wiring.read(world, who, text) {
            Ok(line) => {
                self.branch(world);
                // Who is told where to go follows nobody any more.
                self.steering.leave(world, text.split_whitespace().next().unwrap_or_default());
                let deed = self.deeds.push(world, None, line.text().to_owned());
                self.typed.push(Entered { page, line, deed });
                None
            }
            Err(reason) => Some(Said::no(reason)),
        }
    }

    pub(super) fn offer(&mut self, page: u64, since: u64, state: &State) -> Option<Said> {
        match (&self.wiring, self.deeds.began) {
            (Some(wiring), Some(0)) => {
                let (shown, offered) = wiring.offer(&self.deeds, state, &self.tape, since);
                self.shared.put_made(page, shown);
                self.offered = Some(offered);
                None
            }
            (Some(_), _) => {
                Some(Said::no("a playtest begins with the world, and this world had begun before"))
            }
            (None, _) => {
                Some(Said::no("this page knows nothing of the wiring, so that no playtest can be made"))
            }
        }
    }

    pub(super) fn make(&self, page: u64, name: &str, expected: &[String], write: bool) -> Option<Said> {
        let (wiring, offered) = (self.wiring.as_ref()?, self.offered.as_ref()?);
        let (text, story) = wiring.make(offered, name, expected);
        let passes = story.is_empty();
        self.shared.put_made(page, serde_json::json!({ "text": text, "story": story }));
        match (write, passes) {
            (true, true) => {
                Some(wiring.write(&text).map_or_else(Said::no, |text| Said { kind: "done", text }))
            }
            (true, false) => Some(Said::no("nothing is written: it does not pass")),
            (false, _) => None,
        }
    }

    /// After ticks of the game.
    pub(super) fn note<G: 'static>(
        &mut self,
        world: &mut World<G>,
        game: &G,
        keep: &mut dyn FnMut(&G) -> KeptGame,
    ) {
        let now = world.now().0;
        if self.noted != Some(now) {
            self.noted = Some(now);
            let mut said = Vec::new();
            self.typed.tick(world, &mut self.deeds, &mut said);
            said.into_iter().for_each(|(page, said)| self.shared.say(page, said));
            self.deeds.tick(world, |who| world.is_walking(who));
        }
        let Some(history) = &mut self.history else { return };
        if let Some(branch) = history.note(world, self.taken.here, || keep(game)) {
            self.forget(branch, world);
        }
    }

    /// Something new is done: what came after this tick did not happen.
    pub(super) fn branch<G: 'static>(&mut self, world: &mut World<G>) {
        self.catch_up(world);
        self.cut_here(world);
    }

    pub(super) fn cut_here<G: 'static>(&mut self, world: &mut World<G>) {
        let now = world.now().0;
        if let Some(history) = &mut self.history
            && history.cut(now)
        {
            self.forget(now, world);
        }
    }

    /// What is known of ticks after this one did not happen.
    pub(super) fn forget<G: 'static>(&mut self, now: u64, world: &mut World<G>) {
        for (who, key) in self.deeds.cut(world, now, |who| world.is_walking(who)) {
            // Nobody holds it any more; who is gone holds nothing.
            let ask = Ask::Key {
                who: world.name(who).unwrap_or_default().to_owned(),
                key: key.clone(),
                down: false,
            };
            if world.release(who, &key).is_ok() {
                self.deeds.after(world, &ask, None);
            }
        }
        while self.tape.back().is_some_and(|line| line.tick > now) {
            self.tape.pop_back();
        }
    }

    pub(super) fn does<G: 'static>(&mut self, ask: &Ask, world: &mut World<G>) -> Option<Said> {
        self.branch(world);
        if matches!(ask, Ask::Join { .. })
            && let Some(history) = &mut self.history
        {
            // Who joins is there at once, which no tick says again.
            history.keep_next();
        }
        let lie = Lie { ground: &self.ground };
        let who = if let Ask::Point { who, .. } = ask { find_object(world, who) } else { None };
        let deed = self.deeds.before(world, ask, who.is_some_and(|who| lie.is_flat(who)));
        let done = does(ask.clone(), (&mut self.steering, &mut self.deeds), lie, world);
        if done.is_ok() {
            self.deeds.after(world, ask, deed);
        }
        done.err().map(Said::no)
    }

    /// One tick on: one that has been, if nothing was handed in since, or else a new one.
    pub(super) fn step<G: 'static>(
        &mut self,
        world: &mut World<G>,
        game: &mut G,
        keep: &mut dyn FnMut(&G) -> KeptGame,
    ) -> Result<(), LiveError> {
        self.before_tick(world);
        self.trouble = None;
        match world.step(game) {
            Err(error @ Error::Tick(_)) => self.trouble = Some(error.to_string()),
            other => other?,
        }
        self.note(world, game, keep);
        Ok(())
    }

    pub(super) fn wind<G: 'static>(
        &mut self,
        (world, game): (&mut World<G>, &mut G),
        tick: u64,
        put: &mut dyn FnMut(&mut G, &(dyn Any + Send)),
        frame: &mut Frame,
    ) -> Option<Said> {
        let last = self.history.as_ref().and_then(History::last).unwrap_or(0).max(world.now().0);
        if tick > last {
            return Some(Said::no(format!("tick {tick} has not been: the last is {last}")));
        }
        self.hold.paused = true;
        self.trouble = None;
        self.look(world, frame);
        self.typed.clear();
        self.steering.let_go();
        let history = self.history.as_ref()?;
        let wound = history.wind((world, game), tick, &mut self.taken.here, put);
        // What is recorded from here on follows what was recorded then; of what was recorded before, the tape has a copy.
        let records = world.trace().len();
        let seen = self.shown.map_or(records, |(_, seen)| seen.min(records));
        frame.cut = Some(frame.cut.map_or(seen, |cut| cut.min(seen)));
        frame.tape.retain(|line| line.n <= seen);
        frame.tape.extend(self.tape.iter().filter(|line| line.n > seen && line.n <= records).cloned());
        let changes = self.look_at_all(world);
        frame.put(changes);
        self.shown = self.shown.map(|_| (world.now().0, records));
        match wound {
            Ok(Wound::There) => None,
            Ok(Wound::Before(there)) => {
                Some(Said::no(format!("tick {tick} cannot be gone to exactly; this is tick {there}")))
            }
            Err(reason) => Some(Said::no(reason)),
        }
    }
}
