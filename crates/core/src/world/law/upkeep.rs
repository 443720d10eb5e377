//! Phase 6, upkeep: scenes change, what was destroyed is freed, what was spawned takes part, rules are looked at.

use crate::{
    act::scope::Scope,
    base::{doing::Doing, error::Error},
    moment::scenes::WhenEmpty,
    state::State,
    trace::record::Event,
    world::World,
};

impl<G: 'static> World<G> {
    /// Phase 6: what was destroyed is freed, and the rules are looked at.
    pub(crate) fn upkeep(&mut self) {
        self.change_scenes();
        self.state.welcome();
        self.state.update_binds();
        self.state.check_rules();
        self.state.bus.trace.seal();
    }

    /// Phase 6, of scenes: those to be unloaded are; those that nobody is in are unloaded or stand still; who was
    /// sent to another scene is there, in the order they were sent.
    pub(crate) fn change_scenes(&mut self) {
        for scene in std::mem::take(&mut self.state.moment.scenes.unloading) {
            self.state.unload_scene(scene);
        }
        // Somebody may have joined since.
        self.state.note_empty_scenes();
        for (scene, when) in self.state.abandoned_scenes() {
            match when {
                WhenEmpty::Unloaded => self.state.unload_scene(scene),
                WhenEmpty::Frozen => self.state.freeze(scene),
                WhenEmpty::Running => {}
            }
        }
        self.free_what_ended();
        for (leaving, cause) in std::mem::take(&mut self.state.moment.travelling) {
            if self.state.moment.objects.get(leaving.body).is_none() {
                continue;
            }
            let gone = match self.state.moment.scenes.find(&leaving.scene) {
                Some(to) => self.load_for_visit(to).and_then(|()| self.state.travel_to(&leaving, to, cause)),
                None => Err(Error::NoSuchScene),
            };
            if let Err(error) = gone {
                self.state.fault(&error, Doing { cause, ..Doing::default() });
            }
        }
        self.state.note_empty_scenes();
    }

    /// Frees what ended between ticks.
    pub(crate) fn free_what_ended(&mut self) {
        self.state.free_doomed();
        self.free_cut_wires();
    }

    /// Frees the wires that were cut, and what their closures hold, unless a snapshot may still want it.
    pub(crate) fn free_cut_wires(&mut self) {
        let now = self.state.now();
        for wire in std::mem::take(&mut self.state.moment.wires.cut) {
            let Some(info) = self.state.moment.wires.remove(wire) else { continue };
            if info.during.is_some() {
                self.state.forget_staged(wire);
            }
            self.forgetting.push_back((now + self.config.rollback, info.store, info.closure));
            for signal in info.source.signals() {
                self.state.take_off(*signal, wire);
            }
            if let Some(owner) = info.owner.and_then(|owner| self.state.moment.objects.get_mut(owner)) {
                owner.wires.retain(|other| *other != wire);
            }
            self.state.gone.wire(wire, info, self.state.bus.trace.len());
        }
        while self.forgetting.front().is_some_and(|(when, ..)| *when <= now) {
            let Some((_, store, closure)) = self.forgetting.pop_front() else { break };
            self.stores.forget(store, closure);
            self.forgotten += 1;
        }
        for signal in std::mem::take(&mut self.state.scratch.gone_signals) {
            let delivered = self.state.bus.signals.delivered(signal);
            if let Some(lane) = self.state.bus.signals.remove(signal) {
                if let Some(count) = self.state.moment.ended_counts.get_mut(&lane.name) {
                    *count += delivered;
                }
                self.state.gone.signal(signal, lane.name, lane.fields, self.state.bus.trace.len());
            }
        }
        self.state.gone.forget(self.state.bus.trace.first_kept());
    }
}

impl State {
    /// What was spawned takes part from here on: its zones and its body are seen by the next touch phase, and it is
    /// told that it has started in the next settle phase.
    fn welcome(&mut self) {
        for (id, cause) in std::mem::take(&mut self.moment.spawned) {
            self.tell_started_of(id, Doing { cause, ..Doing::default() });
            self.light(id);
        }
        self.tell_fresh_scenes();
    }

    pub(crate) fn free_doomed(&mut self) {
        if self.scratch.doomed.is_empty() {
            return;
        }
        for id in std::mem::take(&mut self.scratch.doomed) {
            let Some(object) = self.moment.objects.free(id) else { continue };
            let records = self.bus.trace.len();
            let signals: Vec<_> = self.signals_of(&object).collect();
            self.gone.object(id, object.name, records);
            if let Some(body) = object.body {
                self.moment.vars.forget_player(id);
                // A player who comes back begins in the first stage, so reactions of the stage they were in end.
                let staged: Vec<_> = self.plan.staged.keys().copied().collect();
                staged.into_iter().for_each(|var| self.leave_stage(var, Doing::of(Some(id), None)));
                self.moment.tracker.remove_body(body.key);
            }
            for (_, var) in object.properties {
                if let Some(gone) = self.moment.vars.remove(var) {
                    self.gone.var(var, gone.name, records);
                }
            }
            self.end_spots(|spot| spot.object == Some(id));
            for part in object.parts {
                self.remove_zone(part);
                self.end_reach(part);
                if self.plan.asked.contains_key(&part) {
                    self.plan.edit().asked.edit().remove(&part);
                }
                self.end_alarm(part);
                if let Some(kind) = self.parts.remove(part) {
                    self.gone.part(part, id, kind, records);
                }
            }
            for signal in signals {
                self.end_signal(signal);
                self.scratch.gone_signals.push(signal);
            }
        }
        self.unlist_ended_parts();
        self.moment.objects.close_ranks();
    }

    fn check_rules(&mut self) {
        self.scratch.broken_now.clear();
        for index in 0..self.plan.rules.len() {
            let rule = &self.plan.rules[index];
            let asleep =
                |scene| !self.moment.scenes.is_loaded(scene) || self.moment.scenes.is_frozen(Some(scene));
            if rule.ended || rule.scene.is_some_and(asleep) {
                continue;
            }
            let eval_fault = std::cell::Cell::new(None);
            let holds = Scope::of(self, &eval_fault).holds(&rule.never);
            let begins = holds && !rule.broken;
            if holds != rule.broken {
                let rule = &mut self.plan.edit().rules.edit()[index];
                rule.broken = holds;
                rule.times_broken += u64::from(begins);
            }
            if begins {
                let id = crate::base::ids::RuleId(u32::try_from(index).unwrap_or(u32::MAX));
                self.scratch.broken_now.push(id);
                self.bus.trace.note(None, index as u64, Event::Broken { rule: id });
            }
        }
    }
}
