//! What can be done to a world: by a reaction, by a sequence, or for the host in the intake phase. Each change is
//! true at once and leaves a record.

use rand_pcg::rand_core::Rng as _;

use crate::{
    base::{
        doing::Doing,
        ease::Moved,
        error::Error,
        ids::{EffectId, ObjectId, RecordId, VarId, WireId},
        value::{Value, Values},
    },
    plan::{
        calc::EvalFault,
        reads::Read,
        wires::{ASLEEP, CUT, DOZED},
    },
    space::reason::Reason,
    state::State,
    trace::record::Event,
};

impl State {
    /// A number from 0 up to but not including 1.
    pub(crate) fn draw(&self) -> f64 {
        // 32 bits are plenty for play, and exact in a float.
        f64::from(self.random.borrow_mut().next_u32()) / 4_294_967_296.0
    }

    pub(crate) fn set_var(
        &mut self,
        var: VarId,
        of: Option<ObjectId>,
        to: Value,
        doing: Doing,
    ) -> Result<(), Error> {
        self.check_free(var)?;
        let to = self.moment.vars.check(var, to)?;
        self.moment.tweens.stop(Moved::Var(var, of));
        self.put_var(var, of, to, doing, true)
    }

    /// Lets a variable hold a value that was checked. On the way of a tween nothing is recorded.
    pub(crate) fn put_var(
        &mut self,
        var: VarId,
        of: Option<ObjectId>,
        to: Value,
        doing: Doing,
        recorded: bool,
    ) -> Result<(), Error> {
        let (from, own) = self.moment.vars.set(var, of, to.clone())?;
        let record = if recorded {
            let hash = self.moment.vars.hash(var);
            // Set for everybody, it is set for each player who had their own.
            for (player, from) in own.into_iter().filter(|(_, from)| *from != to) {
                let event = Event::Set { var, of: Some(player), from, to: to.clone() };
                self.bus.trace.note(doing.cause, hash, event);
            }
            self.bus.trace.note(doing.cause, hash, Event::Set { var, of, from, to })
        } else {
            self.bus.trace.feed(&to);
            doing.cause
        };
        self.bus.watches.changed(Read::Var(var), record);
        if self.plan.staged.contains_key(&var) {
            self.leave_stage(var, Doing { cause: record, ..doing });
        }
        Ok(())
    }

    /// Records that something could not be calculated.
    #[inline]
    pub(crate) fn note_eval_fault(&mut self, eval_fault: Option<EvalFault>, cause: Option<RecordId>) {
        if let Some(eval_fault) = eval_fault {
            self.bus.trace.note(cause, 0, Event::Miscalculated { eval_fault });
        }
    }

    pub(crate) fn perform(&mut self, effect: EffectId, values: Values, doing: Doing) -> Result<(), Error> {
        self.moment.effects.check(effect, &values)?;
        if self.bus.trace.is_on() {
            let event = Event::Performed { effect, values: values.clone() };
            self.bus.trace.note(doing.cause, self.moment.effects.hash(effect), event);
        }
        self.outbox.effects.extend(self.moment.effects.perform(effect, values, doing.who));
        Ok(())
    }

    /// Ends an object. Its wires hear nothing from this instant on; it is freed in upkeep.
    pub(crate) fn destroy(&mut self, id: ObjectId, doing: Doing) -> Result<(), Error> {
        self.end(id, Reason::BodyGone, doing)
    }

    /// What hangs on it ends after it, except for managers, and for what a player carries: that is set down where it is.
    /// A list and no recursion, since much may hang on much.
    pub(crate) fn end(&mut self, id: ObjectId, as_body: Reason, doing: Doing) -> Result<(), Error> {
        self.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let mut ending = vec![(id, as_body, doing)];
        let mut quitting = Vec::new();
        while let Some((id, mut as_body, doing)) = ending.pop() {
            let Some(object) = self.moment.objects.get(id) else { continue };
            let (children, carried) = (object.children.clone(), object.carried);
            let plays = self.moment.objects.people.get(&object.name).is_some_and(|person| person.id == id);
            self.set_parent(id, None)?;
            if carried {
                // Its carrier has it no more.
                self.tell_hung(id, None, doing);
            }
            self.let_go(id, doing.cause);
            if plays && as_body == Reason::BodyGone {
                // A player who is destroyed, or ends with what they hang on, leaves.
                as_body = Reason::PlayerLeft;
                quitting.push((self.scene_of(id), Doing { who: Some(id), ..doing }));
            }
            if plays {
                self.tell_quit(id, doing);
            }
            let cause = self.end_alone(id, as_body, doing)?;
            for child in children.into_iter().rev() {
                let Some(hangs) = self.moment.objects.get(child) else { continue };
                let (stays, carried) = (hangs.manages, plays && hangs.carried);
                if stays || carried {
                    self.set_parent(child, None)?;
                    if carried {
                        let cause =
                            self.bus.trace.note(cause, 0, Event::SetDown { object: child, player: id });
                        let set_down = self.moment.objects.get_mut(child);
                        set_down.into_iter().for_each(|object| object.carried = false);
                        self.tell_hung(child, None, Doing { cause, ..doing });
                    }
                } else {
                    ending.push((child, Reason::BodyGone, Doing { cause, ..doing }));
                }
            }
        }
        for (scene, doing) in quitting {
            self.tell_all_and_scene("quit", scene, &[], doing);
        }
        Ok(())
    }

    /// Tells every part that a player is gone.
    fn tell_quit(&mut self, player: ObjectId, doing: Doing) {
        let mut parts: Vec<_> = self.parts.iter().map(|(id, slot)| (slot.rank(), id)).collect();
        parts.sort_unstable();
        for (_, part) in parts {
            self.part_told(part, doing, &[], |part, cx| part.quit(player, cx));
        }
    }

    fn end_alone(&mut self, id: ObjectId, as_body: Reason, doing: Doing) -> Result<Option<RecordId>, Error> {
        self.darken(id, Reason::ZoneGone, as_body, doing);
        self.withdraw_all(id, doing.cause);
        self.look_again(id);
        let Some(object) = self.moment.objects.get(id) else { return Err(Error::NoSuchObject) };
        let (name, wires) = (object.name.clone(), object.wires.clone());
        let signals: Vec<_> = self.signals_of(object).collect();
        // Of a scene that ends it is enough to say that it does.
        let cause = if self.moment.memory.quiet {
            self.bus.trace.feed(&Value::Object(id));
            doing.cause
        } else {
            self.bus.trace.note(doing.cause, 0, Event::Destroyed { object: id, name })
        };
        let doing = Doing { cause, ..doing };
        for wire in wires {
            self.cut_now(wire, doing);
        }
        self.bus.watches.changed(Read::Object(id), cause);
        for signal in signals {
            if let Some(lane) = self.bus.signals.lane_mut(signal) {
                lane.closed = true;
            }
        }
        self.note_gone(id);
        self.empty_hands(id);
        self.moment.objects.doom(id);
        self.moment.scenes.drop_role(id);
        self.scratch.doomed.push(id);
        Ok(cause)
    }

    /// Cuts a wire: it takes nothing from this instant on.
    pub(crate) fn cut(&mut self, wire: WireId) -> Result<(), Error> {
        self.moment.wires.alive(wire).ok_or(Error::NoSuchWire)?;
        self.cut_now(wire, Doing::default());
        Ok(())
    }

    pub(crate) fn cut_now(&mut self, wire: WireId, doing: Doing) {
        if self.moment.wires.alive(wire).is_some() {
            self.set_wire_flag(wire, CUT, true);
            self.moment.wires.cut.push(wire);
            self.give_up_runs(wire, doing);
        }
    }

    /// What waits of a wire that nobody hears any more is given up, and what it held back is forgotten.
    pub(crate) fn give_up_runs(&mut self, wire: WireId, doing: Doing) {
        self.drop_runs(wire, false, doing);
        if self.moment.wires.now(wire).is_some_and(|now| !now.held.is_empty())
            && let Some(now) = self.moment.wires.now_mut(wire)
        {
            now.held.clear();
        }
    }

    pub(crate) fn set_wire_flag(&mut self, wire: WireId, flag: u32, on: bool) {
        self.moment.wires.set_flag(wire, flag, on);
        if flag == ASLEEP && on && self.bus.delivering.is_some() {
            self.moment.wires.set_flag(wire, DOZED, true);
            self.moment.wires.dozed.push(wire);
        }
        let signals = self.moment.wires.get(wire).map_or(&[][..], |wire| wire.source.signals());
        for signal in signals {
            if let Some(lane) = self.bus.signals.lane_mut(*signal) {
                lane.stale = true;
            }
        }
    }
}
