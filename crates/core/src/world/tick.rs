//! The order law: one tick, phase by phase. `docs/order-law.md` says the same in prose.

use super::World;
use crate::{
    clock::{Advance, Seconds, Tick},
    error::Error,
    expr::Scope,
    space::Mover,
    state::State,
    trace::{Event, Phase},
    wire::{ASLEEP, CUT},
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
        if self.started {
            return Ok(());
        }
        self.started = true;
        self.in_tick = true;
        self.enter(Phase::Start);
        self.state.tell_ready();
        let told = self.state.bus.emit(self.own.ready, (), crate::bus::Doing::default());
        let settled = told.and_then(|()| self.settle(game));
        self.upkeep();
        self.in_tick = false;
        settled
    }

    /// One tick.
    fn tick(&mut self, game: &mut G) -> Result<(), Error> {
        self.in_tick = true;
        self.state.clock.now = Tick(self.state.clock.now.0 + 1);

        self.enter(Phase::Intake);
        self.intake();

        self.enter(Phase::Clocks);
        self.state.clocks();

        self.enter(Phase::Motion);
        self.state.motion();

        self.enter(Phase::Touch);
        self.state.touch();

        self.enter(Phase::Settle);
        let settled = self.settle(game);

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
        self.runaway.restart();
        while let Some(emission) = self.state.bus.queue.pop() {
            if self.runaway.is_over(&self.state.bus.queue, &self.config) {
                self.runaway.watch(&emission);
                if self.runaway.seen_enough() {
                    return Err(self.state.give_up(&self.runaway));
                }
            }
            self.state.bus.delivery = self.runaway.next();
            self.stores.deliver(&mut self.state, game, &mut self.fresh, &emission);
            for put in self.fresh.drain(..) {
                put(&mut self.stores);
            }
        }
        self.state.bus.delivery = 0;
        Ok(())
    }

    /// Phase 6: what was destroyed is freed, and the rules are looked at.
    fn upkeep(&mut self) {
        self.state.free_doomed();
        self.free_cut_wires();
        self.state.check_rules();
        self.state.bus.trace.seal();
    }

    /// Frees the wires that were cut, and what their closures hold.
    pub(super) fn free_cut_wires(&mut self) {
        for wire in std::mem::take(&mut self.state.wires.cut) {
            let Some(hot) = self.state.wires.hot(wire).copied() else { continue };
            let Some(info) = self.state.wires.remove(wire) else { continue };
            if let Some(lane) = self.state.bus.signals.lane(info.signal) {
                self.stores.forget(lane.store, hot.closure);
            }
            if let Some(owner) = info.owner.and_then(|owner| self.state.objects.get_mut(owner)) {
                owner.wires.retain(|other| *other != wire);
            }
            self.state.gone.wire(wire, info, self.state.bus.trace.len());
        }
        for signal in std::mem::take(&mut self.state.gone_signals) {
            if let Some(lane) = self.state.bus.signals.remove(signal) {
                self.state.gone.signal(signal, lane.name, lane.fields, self.state.bus.trace.len());
            }
        }
        self.state.gone.forget(self.state.bus.trace.first_kept());
    }
}

impl State {
    fn tell_ready(&mut self) {
        for id in self.objects.ids().to_vec() {
            let Some(object) = self.objects.get(id) else { continue };
            let name = super::path(&object.name, "ready");
            if let Some(signal) = self.bus.signals.find(&name) {
                let told = self.bus.emit_values(signal, &[], crate::bus::Doing::default());
                debug_assert!(told.is_ok(), "a ready signal carries nothing");
            }
        }
    }

    /// Phase 2: sequences whose wait is over go on, by due tick, then in the order they began to wait.
    fn clocks(&mut self) {
        while let Some(mut run) = self.waiting.pop_due(self.clock.now) {
            let flags = self.wires.hot(run.wire).map_or(CUT, |hot| hot.flags);
            let cause = run.doing.cause;
            if flags & (ASLEEP | CUT) != 0 {
                self.bus.trace.note(cause, 0, Event::Dropped { wire: run.wire });
                continue;
            }
            let event = Event::Resumed { wire: run.wire, since: run.since, who: run.doing.who };
            run.doing.cause = self.bus.trace.note(cause, 0, event);
            self.run(run);
        }
    }

    /// Phase 3: parts move one tick, then bodies on a walk, each by object number.
    fn motion(&mut self) {
        let objects = &self.objects;
        self.parts.motion(&mut self.bus, |id| objects.get(id).is_some_and(|object| object.enabled));
        for index in 0..self.objects.ids().len() {
            let id = self.objects.ids()[index];
            let Some(object) = self.objects.get_mut(id).filter(|object| object.enabled) else { continue };
            let Some(body) = &mut object.body else { continue };
            let Some(course) = body.course else { continue };
            body.cause = course.cause;
            let way = course.to - object.at;
            if way.length() > course.step {
                object.at += way * (course.step / way.length());
                self.bus.trace.feed(&(id, object.at));
                continue;
            }
            object.at = course.to;
            body.course = None;
            self.bus.trace.note(course.cause, 0, Event::Arrived { body: id, at: course.to });
        }
    }

    /// Phase 4: first all `left`, then all `entered`, then the `left` of zones crossed whole.
    fn touch(&mut self) {
        let look_at_all = self.tracker.any_fresh();
        let mut movers = Vec::new();
        for (id, object) in self.objects.iter() {
            let Some(body) = &object.body else { continue };
            if look_at_all || body.fresh || body.before != object.at {
                movers.push(Mover {
                    object: id,
                    number: object.number,
                    tags: object.tags.clone(),
                    from: body.before,
                    to: object.at,
                    placed: body.placed,
                    fresh: body.fresh,
                    enabled: object.enabled,
                    cause: body.cause,
                });
            }
        }
        let mut touches = std::mem::take(&mut self.touches);
        self.tracker.step(&movers, &mut touches);
        for mover in &movers {
            if let Ok(body) = self.body_mut(mover.object) {
                body.before = mover.to;
                body.placed = false;
                body.fresh = false;
            }
        }
        for touch in touches.left.drain(..) {
            self.tell_touch(&touch, false);
        }
        for touch in touches.entered.drain(..) {
            self.tell_touch(&touch, true);
        }
        for touch in touches.crossed.drain(..) {
            self.tell_touch(&touch, false);
        }
        self.touches = touches;
    }

    fn free_doomed(&mut self) {
        for id in std::mem::take(&mut self.doomed) {
            let Some(object) = self.objects.free(id) else { continue };
            let records = self.bus.trace.len();
            self.gone.object(id, object.name, records);
            for part in object.parts {
                self.tracker.remove(part);
                if let Some(slot) = self.parts.remove(part) {
                    self.gone.part(part, id, slot.part.kind(), records);
                }
            }
            for signal in object.signals {
                let Some(lane) = self.bus.signals.lane_mut(signal) else { continue };
                let wires = [std::mem::take(&mut lane.awake), std::mem::take(&mut lane.asleep)];
                for wire in wires.into_iter().flatten() {
                    // A wire that was cut already fails here, which is as well.
                    let _ = self.cut(wire);
                }
                self.gone_signals.push(signal);
            }
        }
    }

    fn check_rules(&mut self) {
        for index in 0..self.rules.len() {
            let rule = &self.rules[index];
            let holds = Scope { state: self, values: &[], who: None }.holds(&rule.never);
            let begins = holds && !rule.broken;
            let rule = &mut self.rules[index];
            rule.broken = holds;
            if begins {
                rule.times_broken += 1;
                let id = crate::rule::RuleId(u32::try_from(index).unwrap_or(u32::MAX));
                self.bus.trace.note(None, index as u64, Event::Broken { rule: id });
            }
        }
    }
}
