//! The order law: one tick, phase by phase. `docs/order-law.md` says the same in prose.

use super::World;
use crate::{
    bus::Doing,
    clock::{Advance, Seconds, Tick},
    error::Error,
    expr::Scope,
    object::ObjectId,
    sequence::Run,
    state::State,
    trace::{Event, Phase},
    watch::Read,
};

impl<G: 'static> World<G> {
    /// Gives the world the time of one frame: it runs as many ticks as fit, and keeps the remainder exactly.
    ///
    /// The first call runs start-up before anything else. Time past the catch-up limit is let go and reported.
    ///
    /// # Errors
    /// [`Error::BadFrame`] for a frame time that is negative or not a number, which changes nothing.
    /// [`Error::Runaway`] for a tick that would not come to rest; the ticks still due are let go.
    /// [`Error::BrokenOff`] after a reaction panicked.
    pub fn advance(&mut self, frame: Seconds, game: &mut G) -> Result<Advance, Error> {
        self.check_whole()?;
        let advance = self.state.clock.take(frame, self.config.catch_up)?;
        self.start(game)?;
        for _ in 0..advance.ticks {
            self.tick(game)?;
        }
        Ok(advance)
    }

    /// Runs exactly one tick, whatever time it is.
    ///
    /// # Errors
    /// [`Error::Runaway`] and [`Error::BrokenOff`], as for [`advance`](Self::advance).
    pub fn step(&mut self, game: &mut G) -> Result<(), Error> {
        self.check_whole()?;
        self.start(game)?;
        self.tick(game)
    }

    /// Start-up: all objects are there, then all wires, then each object in order is told that it is ready, and
    /// at last the scene.
    fn start(&mut self, game: &mut G) -> Result<(), Error> {
        if self.state.started {
            return Ok(());
        }
        self.state.started = true;
        self.in_tick = true;
        self.state.bus.trace.start_at(self.state.clock.now);
        self.enter(Phase::Start);
        self.state.bus.runaway.restart_statements();
        self.state.update_binds();
        self.state.tell_ready();
        let told = self.state.bus.emit(self.own.ready, (), Doing::default());
        let here: Vec<_> = self.state.players().collect();
        here.into_iter().for_each(|player| self.state.tell_joined(player, None));
        let settled = told.map_err(Error::from).and_then(|()| self.settle(game));
        self.upkeep();
        self.in_tick = false;
        settled
    }

    /// One tick.
    fn tick(&mut self, game: &mut G) -> Result<(), Error> {
        self.in_tick = true;
        self.state.clock.now = Tick(self.state.clock.now.0 + 1);

        self.state.bus.runaway.restart_statements();

        self.enter(Phase::Intake);
        self.intake();
        self.state.update_binds();

        self.enter(Phase::Clocks);
        self.state.bus.watches.changed(Read::Clock, None);
        let clocked = self.clocks(game);

        self.enter(Phase::Motion);
        self.state.motion();
        self.state.update_binds();

        self.enter(Phase::Touch);
        self.state.touch();
        self.state.update_binds();

        self.enter(Phase::Settle);
        let settled = clocked.and_then(|()| self.settle(game));

        self.enter(Phase::Upkeep);
        self.upkeep();

        self.in_tick = false;
        settled
    }

    fn enter(&mut self, phase: Phase) {
        self.state.bus.trace.tick = self.state.clock.now;
        self.state.bus.trace.phase = phase;
    }

    /// Phase 5: one signal reaches all its wires before the next one starts.
    fn settle(&mut self, game: &mut G) -> Result<(), Error> {
        self.state.bus.queue.restart();
        self.state.bus.runaway.restart();
        while let Some(emission) = self.state.bus.next() {
            if self.state.bus.runaway.seen_enough() {
                return Err(self.state.give_up());
            }
            if !self.state.crossings.is_empty() && !self.state.cross(&emission) {
                continue;
            }
            self.stores.deliver(&mut self.state, game, &mut self.fresh, emission);
            self.put_fresh();
            if let Some(error) = self.state.end_endless().or_else(|| self.state.end_overfull()) {
                return Err(error);
            }
            self.state.update_binds();
        }
        self.state.bus.runaway.restart();
        Ok(())
    }

    /// Puts the closures that were wired in a reaction where they are called from.
    fn put_fresh(&mut self) {
        for put in self.fresh.drain(..) {
            put(&mut self.stores);
        }
    }

    /// Phase 2: reactions whose time has come go on, and parts whose time has come are told, by due tick, then in the
    /// order they began to wait; then those reactions that wait for something that has come to hold, in the order they began to wait.
    fn clocks(&mut self, game: &mut G) -> Result<(), Error> {
        loop {
            let now = self.state.now();
            let waits = self.state.waiting.first_due(now);
            let rings = self.state.alarms.first().filter(|(due, _)| *due <= now);
            match (waits, rings) {
                (None, None) => break,
                (waits, Some(rings)) if waits.is_none_or(|waits| rings < waits) => {
                    self.state.ring();
                    self.state.update_binds();
                }
                _ => {
                    if let Some(run) = self.state.next_due() {
                        self.go_on(run, game)?;
                    }
                }
            }
        }
        for key in self.state.take_stale_waits() {
            if let Some(run) = self.state.next_fulfilled(key) {
                self.go_on(run, game)?;
            }
        }
        Ok(())
    }

    fn go_on(&mut self, run: Run, game: &mut G) -> Result<(), Error> {
        let wire = run.wire;
        if self.state.wires.get(wire).is_some_and(|wire| wire.ops.is_some()) {
            self.state.run(run);
        } else {
            self.stores.run_late(&mut self.state, game, &mut self.fresh, &run);
            self.put_fresh();
        }
        self.state.begin_held(wire);
        if let Some(error) = self.state.end_endless().or_else(|| self.state.end_overfull()) {
            return Err(error);
        }
        self.state.update_binds();
        Ok(())
    }

    /// Phase 6: what was destroyed is freed, and the rules are looked at.
    fn upkeep(&mut self) {
        self.change_scenes();
        self.state.welcome();
        self.state.update_binds();
        self.state.check_rules();
        self.state.bus.trace.seal();
    }

    /// Frees the wires that were cut, and what their closures hold, unless a snapshot may still want it.
    pub(super) fn free_cut_wires(&mut self) {
        let now = self.state.now();
        for wire in std::mem::take(&mut self.state.wires.cut) {
            let Some(info) = self.state.wires.remove(wire) else { continue };
            if info.during.is_some() {
                self.state.forget_staged(wire);
            }
            self.forgetting.push_back((now + self.config.rollback, info.store, info.closure));
            for signal in info.source.signals() {
                self.state.take_off(*signal, wire);
            }
            if let Some(owner) = info.owner.and_then(|owner| self.state.objects.get_mut(owner)) {
                owner.wires.retain(|other| *other != wire);
            }
            self.state.gone.wire(wire, info, self.state.bus.trace.len());
        }
        while let Some((_, store, closure)) = self.forgetting.pop_front_if(|(when, ..)| *when <= now) {
            self.stores.forget(store, closure);
            self.forgotten += 1;
        }
        for signal in std::mem::take(&mut self.state.gone_signals) {
            let delivered = self.state.bus.signals.delivered(signal);
            if let Some(lane) = self.state.bus.signals.remove(signal) {
                if let Some(count) = self.state.ended_counts.get_mut(&lane.name) {
                    *count += delivered;
                }
                self.state.gone.signal(signal, lane.name, lane.fields, self.state.bus.trace.len());
            }
        }
        self.state.gone.forget(self.state.bus.trace.first_kept());
    }
}

impl State {
    fn tell_ready(&mut self) {
        let (managers, others): (Vec<_>, Vec<_>) =
            self.objects.iter().partition(|(_, object)| object.manages);
        let order: Vec<_> = managers.into_iter().chain(others).map(|(id, _)| id).collect();
        for id in order {
            self.tell_ready_of(id, Doing::default());
        }
        self.spawned.clear();
        self.tell_fresh_scenes();
    }

    /// Scenes that were loaded are ready when their objects have been told so.
    fn tell_fresh_scenes(&mut self) {
        for scene in std::mem::take(&mut self.scenes.fresh) {
            let name = self.scenes.name(scene).map(|name| super::path(name, "ready"));
            if let Some(signal) = name.and_then(|name| self.bus.signals.find(&name))
                && let Err(error) = self.bus.emit_values(signal, &[], Doing::default())
            {
                self.fault(&error, Doing::default());
            }
        }
    }

    fn tell_ready_of(&mut self, id: ObjectId, doing: Doing) {
        let Some(object) = self.objects.get_mut(id) else { return };
        object.fresh = false;
        let (name, parts) = (super::path(&object.name, "ready"), object.parts.clone());
        for part in parts {
            self.part_told(part, doing, &[], crate::part::Part::ready);
        }
        if let Some(signal) = self.bus.signals.find(&name)
            && let Err(error) = self.bus.emit_values(signal, &[], doing)
        {
            self.fault(&error, doing);
        }
    }

    /// What was spawned takes part from here on: its zones and its body are seen by the next touch phase, and it is
    /// told that it is ready in the next settle phase.
    fn welcome(&mut self) {
        for (id, cause) in std::mem::take(&mut self.spawned) {
            self.tell_ready_of(id, Doing { cause, ..Doing::default() });
            self.light(id);
        }
        self.tell_fresh_scenes();
    }

    pub(super) fn free_doomed(&mut self) {
        if self.doomed.is_empty() {
            return;
        }
        for id in std::mem::take(&mut self.doomed) {
            let Some(object) = self.objects.free(id) else { continue };
            let records = self.bus.trace.len();
            self.gone.object(id, object.name, records);
            if let Some(body) = object.body {
                self.vars.forget_player(id);
                // A player who comes back begins in the first stage, so reactions of the stage they were in end.
                let staged: Vec<_> = self.staged.keys().copied().collect();
                staged.into_iter().for_each(|var| self.leave_stage(var, Doing::of(Some(id), None)));
                self.tracker.remove_body(body.key);
            }
            for (_, var) in object.properties {
                if let Some(gone) = self.vars.remove(var) {
                    self.gone.var(var, gone.name, records);
                }
            }
            self.end_spots(|spot| spot.object == Some(id));
            for part in object.parts {
                self.remove_zone(part);
                if self.asked.contains_key(&part) {
                    self.asked.edit().remove(&part);
                }
                self.end_alarm(part);
                self.end_reach(part);
                if let Some(kind) = self.parts.remove(part) {
                    self.gone.part(part, id, kind, records);
                }
            }
            for signal in object.signals {
                self.end_signal(signal);
                self.gone_signals.push(signal);
            }
        }
        self.unlist_ended_parts();
        self.objects.close_ranks();
    }

    fn check_rules(&mut self) {
        self.broken_now.clear();
        for index in 0..self.rules.len() {
            let rule = &self.rules[index];
            let asleep = |scene| !self.scenes.is_loaded(scene) || self.scenes.is_frozen(Some(scene));
            if rule.scene.is_some_and(asleep) {
                continue;
            }
            let mishap = std::cell::Cell::new(None);
            let holds = Scope::of(self, &mishap).holds(&rule.never);
            let begins = holds && !rule.broken;
            if holds != rule.broken {
                let rule = &mut self.rules.edit()[index];
                rule.broken = holds;
                rule.times_broken += u64::from(begins);
            }
            if begins {
                let id = crate::rule::RuleId(u32::try_from(index).unwrap_or(u32::MAX));
                self.broken_now.push(id);
                self.bus.trace.note(None, index as u64, Event::Broken { rule: id });
            }
        }
    }
}
