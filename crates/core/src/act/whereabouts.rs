//! Where things are: putting, walking, turning, what hangs on what, and being switched on and off with it.

use glam::Vec3;
use smallvec::SmallVec;

use crate::{
    base::{
        doing::{Doing, Way},
        error::{BuildError, Error},
        geometry::{Pose, Rotation, check_place, check_velocity},
        ids::{ObjectId, RecordId},
        value::Value,
    },
    moment::{
        moves::MoveKind,
        object::{Body, Course},
    },
    plan::{reads::Read, wires::ASLEEP},
    space::reason::Reason,
    state::State,
    trace::record::{Event, Phase},
};

impl State {
    /// Moves an object, its body and its zones, and all that hangs on it.
    pub(crate) fn relocate(
        &mut self,
        id: ObjectId,
        to: Pose,
        way: Way,
        cause: Option<RecordId>,
    ) -> Result<(), Error> {
        check_place(to.at)?;
        let (parent, carries) = self.arrive(id, to, way, false, cause).ok_or(Error::NoSuchObject)?;
        if let Some(parent) = parent {
            let seat = self.moment.objects.get(parent).map(|parent| parent.pose().seen(to));
            if let (Some(seat), Some(object)) = (seat, self.moment.objects.get_mut(id)) {
                object.seat = seat;
            }
        }
        if carries {
            self.carry_children(id, way, cause);
        }
        Ok(())
    }

    /// Says what it hangs on, and whether anything hangs on it. Looks an object up as seldom as it can: hosts move
    /// thousands in every tick.
    fn arrive(
        &mut self,
        id: ObjectId,
        to: Pose,
        way: Way,
        carried: bool,
        cause: Option<RecordId>,
    ) -> Option<(Option<ObjectId>, bool)> {
        let player = self.moment.objects.player_tag();
        let object = self.moment.objects.get_mut(id)?;
        let from = object.pose();
        if from != to {
            self.scratch.moves.note(id, [from, to], MoveKind::of(way, carried), self.moment.clock.now);
        }
        let turned = object.facing != to.facing;
        (object.at, object.facing, object.moved_by) = (to.at, to.facing, cause);
        // A place that no longer can be told, far out, stays where it was last seen.
        if let Some(body) = &mut object.body {
            if from != to && player.is_some_and(|tag| object.tags.contains(&tag)) {
                self.scratch.looking.players.push((object.number, id));
            }
            if way != Way::Walked {
                body.course = None;
            }
            if matches!(way, Way::Placed | Way::Sent) {
                let touched = matches!(self.bus.trace.phase, Phase::Touch | Phase::Settle | Phase::Upkeep);
                body.facts.displaced = self.moment.clock.now.0 * 2 + u64::from(touched);
            }
            let moved = match way {
                Way::Walked | Way::Led => self.moment.tracker.walk(body.key, to.at),
                Way::Placed => self.moment.tracker.place(body.key, to.at),
                Way::Sent => self.moment.tracker.send(body.key, to.at),
            };
            if moved.is_ok() && turned && body.facts.shape.is_some() {
                self.moment.tracker.shape_body(body.key, body.facts.shape.as_ref(), to).ok();
            }
        }
        let about = (object.parent, !object.children.is_empty());
        for part in &object.parts {
            let zone = self.parts.get(*part).and_then(|slot| slot.zone);
            if let Some(zone) = zone {
                match way {
                    Way::Walked | Way::Led => self.moment.tracker.move_zone(zone, to).ok(),
                    Way::Placed | Way::Sent => self.moment.tracker.place_zone(zone, to).ok(),
                };
            }
        }
        if !object.parts.is_empty() {
            self.review_reaches(id);
        }
        self.bus.watches.changed(Read::Place(id), cause);
        Some(about)
    }

    fn review_reaches(&mut self, id: ObjectId) {
        let part = |state: &Self, index: usize| state.moment.objects.get(id)?.parts.get(index).copied();
        let mut index = 0;
        while let Some(part) = part(self, index) {
            self.review_reach(part);
            // What a part says of itself may depend on where its object is.
            self.bus.watches.called(part, None);
            index += 1;
        }
    }

    fn carry_children(&mut self, id: ObjectId, way: Way, cause: Option<RecordId>) {
        // What hangs on it goes on with a walk of its own.
        let way = if way == Way::Led { Way::Walked } else { way };
        let mut carried: Vec<(ObjectId, Pose)> = Vec::new();
        let seats = |state: &Self, id: ObjectId, to: &mut Vec<(ObjectId, Pose)>| {
            let Some(object) = state.moment.objects.get(id) else { return };
            let pose = object.pose();
            // Backwards, since the last one is taken first.
            to.extend(object.children.iter().rev().map(|child| (*child, pose)));
        };
        seats(self, id, &mut carried);
        while let Some((child, parent)) = carried.pop() {
            let Some(seat) = self.moment.objects.get(child).map(|object| object.seat) else { continue };
            let to = parent.carry(seat);
            if to.at.is_finite() {
                self.arrive(child, to, way, true, cause);
                seats(self, child, &mut carried);
            }
        }
    }

    /// Puts an object somewhere. A body does not pass what lies between; zones go along.
    pub(crate) fn put(&mut self, id: ObjectId, at: Vec3, cause: Option<RecordId>) -> Result<(), Error> {
        let facing = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?.facing;
        self.relocate(id, Pose { at, facing }, Way::Placed, cause)
    }

    /// Gives a body a velocity.
    pub(crate) fn drive(&mut self, id: ObjectId, velocity: Vec3, doing: Doing) -> Result<(), Error> {
        check_velocity(velocity)?;
        self.body_mut(id)?;
        let cause = self.bus.trace.note(doing.cause, 0, Event::Driven { body: id, velocity });
        let body = self.body_mut(id)?;
        (body.facts.velocity, body.facts.pushed_by) = (velocity, cause);
        self.set_going(id);
        Ok(())
    }

    /// Lets an object face that way.
    pub(crate) fn face(
        &mut self,
        id: ObjectId,
        facing: Rotation,
        cause: Option<RecordId>,
    ) -> Result<(), Error> {
        let at = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?.at;
        self.bus.trace.feed(&Value::Object(id));
        self.bus.trace.feed(&Value::Rotation(facing));
        self.relocate(id, Pose { at, facing }, Way::Walked, cause)
    }

    /// Whether it is a body.
    pub(crate) fn check_body(&self, id: ObjectId) -> Result<(), Error> {
        if self.moment.objects.is_body(id) {
            return Ok(());
        }
        let object = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        Err(Error::NotABody { name: object.name.clone() })
    }

    /// Whether a body can be sent on that walk.
    pub(crate) fn check_walk(&self, body: ObjectId, to: Vec3, speed: f64) -> Result<(), Error> {
        check_place(to)?;
        self.check_body(body)?;
        if !(speed > 0.0 && speed.is_finite()) {
            let (setting, expected) = ("the speed of a walk", "a number above 0");
            return Err(Error::Build(BuildError::BadNumber { setting, expected, found: speed }));
        }
        Ok(())
    }

    /// Sends a body on a straight walk at so many scene units per second.
    pub(crate) fn set_out(
        &mut self,
        id: ObjectId,
        to: Vec3,
        speed: f64,
        cause: Option<RecordId>,
    ) -> Result<(), Error> {
        self.check_walk(id, to, speed)?;
        #[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
        let step = (speed * self.moment.clock.rate.step()) as f32;
        self.body_mut(id)?.course = Some(Box::new(Course { to, step, cause }));
        self.set_going(id);
        Ok(())
    }

    pub(crate) fn body_mut(&mut self, id: ObjectId) -> Result<&mut Body, Error> {
        let object = self.moment.objects.get_mut(id).ok_or(Error::NoSuchObject)?;
        let name = object.name.clone();
        object.body.as_mut().ok_or(Error::NotABody { name })
    }

    /// Hangs an object on another one, or on nothing. It stays where it is, and from then on goes where that goes.
    pub(crate) fn set_parent(&mut self, id: ObjectId, parent: Option<ObjectId>) -> Result<(), Error> {
        let object = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let (before, pose, name) = (object.parent, object.pose(), object.name.clone());
        if before == parent {
            return Ok(());
        }
        let mut above = parent;
        while let Some(next) = above {
            if next == id {
                return Err(Error::Build(BuildError::HangsOnItself { name }));
            }
            above = self.moment.objects.get(next).ok_or(Error::NoSuchObject)?.parent;
        }
        self.bus.trace.feed(&Value::Object(id));
        self.bus.trace.feed(&parent.map_or(Value::Nothing, Value::Object));
        if let Some(before) = before.and_then(|before| self.moment.objects.get_mut(before)) {
            before.children.retain(|child| *child != id);
        }
        let seat = parent.and_then(|parent| {
            let parent = self.moment.objects.get_mut(parent)?;
            parent.children.push(id);
            Some(parent.pose().seen(pose))
        });
        if let Some(object) = self.moment.objects.get_mut(id) {
            object.parent = parent;
            object.seat = seat.unwrap_or_default();
        }
        self.review_switch(id, Doing::default());
        Ok(())
    }

    /// Hangs an object on another one while the world runs: a player who leaves sets it down.
    pub(crate) fn carry(&mut self, id: ObjectId, on: Option<ObjectId>) -> Result<(), Error> {
        self.carry_for(id, on, Doing::default())
    }

    /// The same, with whom it goes back to.
    pub(crate) fn carry_for(
        &mut self,
        id: ObjectId,
        on: Option<ObjectId>,
        doing: Doing,
    ) -> Result<(), Error> {
        let before = self.parent(id);
        let scene = on.and_then(|on| self.scene_of(on));
        self.set_parent(id, on)?;
        if let Some(object) = self.moment.objects.get_mut(id) {
            object.carried = on.is_some();
        }
        if on.is_some() && self.scene_of(id) != scene {
            self.change_scene(id, scene, None)?;
        }
        if before != on {
            self.tell_hung(id, on, doing);
        }
        Ok(())
    }

    /// Tells the parts of an object that it was hung on something.
    pub(crate) fn tell_hung(&mut self, id: ObjectId, on: Option<ObjectId>, doing: Doing) {
        let parts = self.moment.objects.get(id).map(|object| object.parts.clone()).unwrap_or_default();
        for part in parts {
            self.part_told(part, doing, &[], |part, cx| part.hung(on, cx));
        }
    }

    /// Enables or disables an object, and what hangs on it.
    pub(crate) fn switch(&mut self, id: ObjectId, on: bool, doing: Doing) -> Result<(), Error> {
        self.moment.objects.get_mut(id).ok_or(Error::NoSuchObject)?.off = !on;
        self.review_switch(id, doing);
        Ok(())
    }

    /// Whether an object is on follows from itself and from what it hangs on.
    fn review_switch(&mut self, id: ObjectId, doing: Doing) {
        let mut reviewed: SmallVec<[(ObjectId, Doing); 4]> = SmallVec::from_iter([(id, doing)]);
        while let Some((id, doing)) = reviewed.pop() {
            let Some(object) = self.moment.objects.get(id) else { continue };
            let above = object.parent.and_then(|parent| self.moment.objects.get(parent));
            let on = !object.off && above.is_none_or(|above| above.enabled);
            if object.enabled != on {
                let children: SmallVec<[ObjectId; 4]> = object.children.iter().rev().copied().collect();
                let cause = self.switch_alone(id, on, doing);
                reviewed.extend(children.into_iter().map(|child| (child, Doing { cause, ..doing })));
            }
        }
    }

    /// Switches an object with its zones, its body, its motion and the wires it owns.
    fn switch_alone(&mut self, id: ObjectId, on: bool, doing: Doing) -> Option<RecordId> {
        if !on {
            // Those inside are told that they left before anything else is said.
            self.darken(id, Reason::ZoneDisabled, Reason::BodyDisabled, doing);
        }
        let event = if on { Event::Enabled { object: id } } else { Event::Disabled { object: id } };
        let record = self.bus.trace.note(doing.cause, 0, event);
        self.bus.watches.changed(Read::Object(id), record);
        if let Some(object) = self.moment.objects.get_mut(id) {
            object.enabled = on;
            let (wires, scene) = (object.wires.clone(), object.scene);
            let frozen = self.moment.scenes.is_frozen(scene);
            for wire in wires {
                self.set_wire_flag(wire, ASLEEP, !on || frozen);
                if !on {
                    self.give_up_runs(wire, Doing { cause: record, ..doing });
                }
            }
        }
        self.look_again(id);
        self.review_alarms(id);
        if on {
            self.light(id);
        }
        record
    }
}
