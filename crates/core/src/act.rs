//! What can be done to a world: by a reaction, by a sequence, or for the host in the intake phase. Each change is
//! true at once and leaves a record.

use glam::Vec3;

use crate::{
    bus::Doing,
    effect::EffectId,
    error::Error,
    expr::Mishap,
    geometry::Rotation,
    object::{Course, ObjectId},
    part::{PartId, Reason, Touched},
    signal::Signal,
    space::{Aabb, Touch},
    state::State,
    trace::{Event, RecordId},
    tween::Moved,
    value::{Value, Values},
    var::VarId,
    watch::Read,
    wire::{ASLEEP, CUT, WireId},
};

impl State {
    pub(crate) fn fault(&mut self, error: &impl std::fmt::Display, doing: Doing) {
        self.bus.trace.note(doing.cause, 0, Event::Fault { message: error.to_string().into() });
    }

    pub(crate) fn command(&mut self, part: PartId, command: u8, doing: Doing) -> Result<(), Error> {
        let alive = |object| self.objects.get(object).is_some();
        if !self.object_of(part).is_some_and(alive) {
            return Err(Error::NoSuchPart);
        }
        self.parts.command(part, command, &mut self.bus, doing)
    }

    pub(crate) fn set_var(
        &mut self,
        var: VarId,
        of: Option<ObjectId>,
        to: Value,
        doing: Doing,
    ) -> Result<(), Error> {
        self.check_free(var)?;
        let to = self.vars.check(var, to)?;
        self.tweens.stop(Moved::Var(var, of));
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
        let from = self.vars.set(var, of, to.clone())?;
        let record = if recorded {
            self.bus.trace.note(doing.cause, self.vars.hash(var), Event::Set { var, of, from, to })
        } else {
            self.bus.trace.feed(&to);
            doing.cause
        };
        self.bus.watches.changed(Read::Var(var), record);
        Ok(())
    }

    /// Records that something could not be calculated.
    #[inline]
    pub(crate) fn note_mishap(&mut self, mishap: Option<Mishap>, cause: Option<RecordId>) {
        if let Some(mishap) = mishap {
            self.bus.trace.note(cause, 0, Event::Miscalculated { mishap });
        }
    }

    pub(crate) fn perform(&mut self, effect: EffectId, values: Values, doing: Doing) -> Result<(), Error> {
        self.effects.check(effect, &values)?;
        if self.bus.trace.is_on() {
            let event = Event::Performed { effect, values: values.clone() };
            self.bus.trace.note(doing.cause, self.effects.hash(effect), event);
        }
        self.effects.perform(effect, values, doing.who);
        Ok(())
    }

    /// Enables or disables an object, with its zones, its motion and the wires it owns.
    pub(crate) fn switch(&mut self, id: ObjectId, on: bool, doing: Doing) -> Result<(), Error> {
        let object = self.objects.get_mut(id).ok_or(Error::NoSuchObject)?;
        if object.enabled == on {
            return Ok(());
        }
        if !on {
            // Those inside are told that they left before anything else is said.
            self.darken(id, Reason::ZoneDisabled, Reason::BodyDisabled, doing);
        }
        let event = if on { Event::Enabled { object: id } } else { Event::Disabled { object: id } };
        let record = self.bus.trace.note(doing.cause, 0, event);
        self.bus.watches.changed(Read::Objects, record);
        if let Some(object) = self.objects.get_mut(id) {
            object.enabled = on;
            if let Some(body) = &mut object.body {
                body.fresh = true;
            }
            let wires = object.wires.clone();
            for wire in wires {
                self.set_wire_flag(wire, ASLEEP, !on);
                if !on {
                    self.give_up_runs(wire, Doing { cause: record, ..doing });
                }
            }
        }
        if on {
            self.light(id);
        }
        Ok(())
    }

    /// Ends an object. Its wires hear nothing from this instant on; it is freed in upkeep.
    pub(crate) fn destroy(&mut self, id: ObjectId, doing: Doing) -> Result<(), Error> {
        self.objects.get(id).ok_or(Error::NoSuchObject)?;
        self.darken(id, Reason::ZoneGone, Reason::BodyGone, doing);
        let Some(object) = self.objects.get(id) else { return Err(Error::NoSuchObject) };
        let (name, wires, signals) = (object.name.clone(), object.wires.clone(), object.signals.clone());
        let cause = self.bus.trace.note(doing.cause, 0, Event::Destroyed { object: id, name });
        let doing = Doing { cause, ..doing };
        for wire in wires {
            self.cut_now(wire, doing);
        }
        self.bus.watches.changed(Read::Objects, cause);
        for signal in signals {
            if let Some(lane) = self.bus.signals.lane_mut(signal) {
                lane.closed = true;
            }
        }
        self.objects.doom(id);
        self.scenes.drop_role(id);
        self.doomed.push(id);
        Ok(())
    }

    /// Cuts a wire: it takes nothing from this instant on.
    pub(crate) fn cut(&mut self, wire: WireId) -> Result<(), Error> {
        self.wires.alive(wire).ok_or(Error::NoSuchWire)?;
        self.cut_now(wire, Doing::default());
        Ok(())
    }

    pub(crate) fn cut_now(&mut self, wire: WireId, doing: Doing) {
        if self.wires.alive(wire).is_some() {
            self.set_wire_flag(wire, CUT, true);
            self.wires.cut.push(wire);
            self.give_up_runs(wire, doing);
        }
    }

    /// What waits of a wire that nobody hears any more is given up, and what it held back is forgotten.
    fn give_up_runs(&mut self, wire: WireId, doing: Doing) {
        self.drop_runs(wire, false, doing);
        if let Some(wire) = self.wires.get_mut(wire) {
            wire.held.clear();
        }
    }

    fn set_wire_flag(&mut self, wire: WireId, flag: u32, on: bool) {
        self.wires.set_flag(wire, flag, on);
        let signals = self.wires.get(wire).map_or(&[][..], |wire| wire.source.signals());
        for signal in signals {
            if let Some(lane) = self.bus.signals.lane_mut(*signal) {
                lane.stale = true;
            }
        }
    }

    /// Everyone inside the object's zones has left, and the object itself has left the zones it was in.
    fn darken(&mut self, id: ObjectId, as_zone: Reason, as_body: Reason, doing: Doing) {
        let Some(object) = self.objects.get(id) else { return };
        let (number, parts) = (object.number, object.parts.clone());
        let mut touches = Vec::new();
        for part in parts {
            touches.extend(self.tracker.go_dark(part, as_zone, doing.cause));
        }
        touches.extend(self.tracker.take_out(id, number, as_body, doing.cause));
        for touch in touches {
            self.tell_touch(&touch, false);
        }
    }

    pub(crate) fn light(&mut self, id: ObjectId) {
        let parts = self.objects.get(id).map(|object| object.parts.clone()).unwrap_or_default();
        for part in parts {
            if let Some(zone) = self.tracker.get_mut(part) {
                zone.lit = true;
                zone.fresh = true;
            }
        }
    }

    /// Records a touch and emits its signal.
    pub(crate) fn tell_touch(&mut self, touch: &Touch, entered: bool) {
        let Touch { part: zone, body, reason, cause, .. } = *touch;
        let event =
            if entered { Event::Entered { zone, body, reason } } else { Event::Left { zone, body, reason } };
        let record = self.bus.trace.note(cause, 0, event);
        self.bus.watches.changed(Read::Zone(zone), record);
        let number = usize::from(!entered);
        let Some(signal) = self.parts.get(zone).and_then(|slot| slot.signals.get(number)) else { return };
        let doing = Doing { who: Some(body), cause: record, by: None };
        if let Err(error) = self.bus.emit(Signal::new(*signal), Touched { reason }, doing) {
            self.fault(&error, doing);
        }
    }

    /// Puts an object somewhere. A body does not pass what lies between; zones go along.
    pub(crate) fn put(&mut self, id: ObjectId, at: Vec3, cause: Option<RecordId>) -> Result<(), Error> {
        check_place(at)?;
        let object = self.objects.get_mut(id).ok_or(Error::NoSuchObject)?;
        object.at = at;
        if let Some(body) = &mut object.body {
            body.placed = true;
            body.course = None;
            body.cause = cause;
        }
        self.carry_zones(id);
        self.bus.watches.changed(Read::Places, cause);
        Ok(())
    }

    /// Lets an object face that way.
    pub(crate) fn face(&mut self, id: ObjectId, facing: Rotation) -> Result<(), Error> {
        self.objects.get_mut(id).ok_or(Error::NoSuchObject)?.facing = facing;
        self.bus.watches.changed(Read::Places, None);
        Ok(())
    }

    /// An object's zones go where it goes.
    pub(crate) fn carry_zones(&mut self, id: ObjectId) {
        let Some(object) = self.objects.get(id) else { return };
        for part in &object.parts {
            let size = self.parts.part(*part).and_then(|part| part.region()).map(|region| region.size);
            if let (Some(size), Some(zone)) = (size, self.tracker.get_mut(*part)) {
                zone.bounds = Aabb::around(object.at, size);
                zone.fresh = true;
            }
        }
    }

    /// Sends a body on a straight walk at so many scene units per second.
    pub(crate) fn set_out(
        &mut self,
        id: ObjectId,
        to: Vec3,
        speed: f64,
        cause: Option<RecordId>,
    ) -> Result<(), Error> {
        check_place(to)?;
        if !(speed > 0.0 && speed.is_finite()) {
            return Err(Error::BadNumber {
                setting: "the speed of a walk",
                expected: "a number above 0",
                found: speed,
            });
        }
        #[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
        let step = (speed * self.clock.rate.step()) as f32;
        self.body_mut(id)?.course = Some(Course { to, step, cause });
        Ok(())
    }

    pub(crate) fn body_mut(&mut self, id: ObjectId) -> Result<&mut crate::object::Body, Error> {
        let object = self.objects.get_mut(id).ok_or(Error::NoSuchObject)?;
        let name = object.name.clone();
        object.body.as_mut().ok_or(Error::NotABody { name })
    }
}

pub(crate) fn check_place(at: Vec3) -> Result<(), Error> {
    if at.is_finite() { Ok(()) } else { Err(Error::BadPlace { found: at }) }
}
