//! Zones of objects: made, darkened and lit; what the tracker finds is recorded and emitted.

use std::{cell::Cell, collections::BTreeSet};

use crate::{
    act::scope::Scope,
    base::{
        clock::{Ticks, ticks},
        doing::Doing,
        error::Error,
        ids::{ObjectId, PartId, RecordId},
        payload::Payload,
        shared::Shared,
        signal::Signal,
    },
    moment::{scenes::Scenes, zones::ZoneFacts},
    part::{
        contract::Part,
        region::{Pulse, Region, Touched},
    },
    plan::reads::Read,
    space::{
        reason::Reason,
        shape::Shape,
        touch::Touch,
        tracker::{BodyKey, ZoneKey},
    },
    state::State,
    trace::record::Event,
};

// The first signals of a part with a region, by number.
const ENTERED: usize = 0;
const LEFT: usize = 1;
const OCCUPIED: usize = 2;
const VACATED: usize = 3;
const PULSE: usize = 4;

impl State {
    /// Makes the zone of a part that watches a region.
    pub(crate) fn add_zone(&mut self, part: PartId, id: ObjectId, region: Region) -> Result<ZoneKey, Error> {
        let object = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let (pose, lit) = (object.pose(), object.enabled && !object.fresh);
        let room = Scenes::room(object.scene);
        let admits = region.admits.iter().map(|tag| self.moment.objects.tag(tag)).collect();
        let guarded = self.asked_of(part, "when").is_some();
        let facts = ZoneFacts { part, object: id, admits, pulse: region.pulse, count: 0 };
        let key = self.moment.tracker.add_zone(facts, region.shape, pose)?;
        self.moment.tracker.set_zone_room(key, room)?;
        if region.margin > 0.0 {
            self.moment.tracker.set_margin(key, region.margin)?;
        }
        if guarded {
            self.moment.tracker.guard(key);
        }
        if !lit {
            self.moment.tracker.darken(key, Reason::ZoneDisabled);
        }
        Ok(key)
    }

    /// What a part watches.
    pub(crate) fn region_of(&self, part: PartId) -> Result<&Region, Error> {
        self.parts.part(part).and_then(Part::region).ok_or(Error::NoSuchPart)
    }

    fn zone_of(&self, part: PartId) -> Result<ZoneKey, Error> {
        self.parts.get(part).and_then(|slot| slot.zone).ok_or(Error::NoSuchPart)
    }

    /// The host says who is inside a zone without a shape.
    pub(crate) fn tell_zone(&mut self, zone: PartId, body: ObjectId, inside: bool) -> Result<(), Error> {
        let zone = self.zone_of(zone)?;
        let body = self.body_mut(body)?.key;
        self.moment.tracker.tell(zone, body, inside)
    }

    /// Gives a part another shape.
    pub(crate) fn reshape(&mut self, part: PartId, shape: &Shape) -> Result<(), Error> {
        shape.check()?;
        if let Ok(zone) = self.zone_of(part) {
            self.moment.tracker.reshape(zone, shape.clone())?;
        }
        let mut values = Vec::new();
        shape.save(&mut values);
        values.iter().for_each(|value| self.bus.trace.feed(value));
        let done = self.parts.reshape(part, shape);
        self.review_reach(part);
        if done { Ok(()) } else { Err(Error::NoSuchPart) }
    }

    /// Ends the zone of a part.
    pub(crate) fn remove_zone(&mut self, part: PartId) {
        if let Some(zone) = self.parts.get(part).and_then(|slot| slot.zone) {
            self.moment.tracker.remove_zone(zone);
        }
    }

    /// Everyone inside the object's zones has left, and the object itself has left the zones it was in.
    pub(crate) fn darken(&mut self, id: ObjectId, as_zone: Reason, as_body: Reason, doing: Doing) {
        let Some(object) = self.moment.objects.get(id) else { return };
        let (body, parts) = (object.body.as_ref().map(|body| body.key), object.parts.clone());
        for part in parts {
            let Some(zone) = self.parts.get(part).and_then(|slot| slot.zone) else { continue };
            for touch in self.moment.tracker.darken(zone, as_zone) {
                self.tell_left(&touch, doing.cause);
            }
        }
        if let Some(body) = body {
            self.take_body_out(body, as_body, doing);
        }
    }

    fn take_body_out(&mut self, body: BodyKey, as_body: Reason, doing: Doing) {
        for touch in self.moment.tracker.take_out(body, as_body) {
            self.tell_left(&touch, doing.cause);
        }
        self.moment.tracker.enable(body, false);
    }

    /// Whether the body of an object touches zones, as one of its parts says: nobody in whose way it is not is told of.
    pub(crate) fn let_touch(&mut self, id: ObjectId, on: bool, doing: Doing) {
        let Some(object) = self.moment.objects.get(id).filter(|object| object.enabled && !object.fresh)
        else {
            return;
        };
        let Some(body) = object.body.as_ref().map(|body| body.key) else { return };
        if on {
            self.moment.tracker.enable(body, true);
        } else {
            self.take_body_out(body, Reason::BodyDisabled, doing);
        }
    }

    /// An object's zones and its body touch again.
    pub(crate) fn light(&mut self, id: ObjectId) {
        let scenes = &self.moment.scenes;
        let on = |object: &&crate::moment::object::Object| {
            object.enabled && !object.fresh && scenes.stands(object.scene)
        };
        let Some(object) = self.moment.objects.get(id).filter(on) else { return };
        if let Some(body) = object.body.as_ref().filter(|_| !self.is_passable(id)) {
            self.moment.tracker.enable(body.key, true);
        }
        for part in &object.parts {
            if let Some(zone) = self.parts.get(*part).and_then(|slot| slot.zone) {
                self.moment.tracker.light(zone);
            }
        }
    }

    /// Makes again what the tracker keeps beside its data.
    pub(crate) fn revive_tracker(&mut self) {
        let objects = &self.moment.objects;
        self.moment.tracker.revive(|id| {
            let object = objects.get(*id);
            let shape = object.and_then(|object| object.body.as_ref()?.facts.shape.clone());
            (shape, object.map(crate::moment::object::Object::pose).unwrap_or_default())
        });
    }

    /// Compares where bodies and zones were with where they are, and tells of it: first all `left`, then all `entered`,
    /// then the `left` of zones crossed whole.
    pub(crate) fn compare_touches(&mut self) {
        let mut touches = std::mem::take(&mut self.scratch.touches);
        let objects = &self.moment.objects;
        let admits = |zone: &ZoneFacts, body: &ObjectId| {
            zone.object != *body
                && (zone.admits.is_empty()
                    || objects.get(*body).is_some_and(|object| object.has_any(&zone.admits)))
        };
        self.moment.tracker.step(self.moment.clock.now.0, admits, &mut touches);
        for touch in &touches.left {
            let cause = self.cause_of(touch);
            self.tell_left(touch, cause);
        }
        for touch in &touches.entered {
            if self.may_enter(touch) {
                self.tell_entered(touch);
            } else {
                touches.crossed.retain(|crossed| (crossed.zone, crossed.body) != (touch.zone, touch.body));
            }
        }
        for touch in &touches.crossed {
            let cause = self.cause_of(touch);
            self.tell_left(touch, cause);
        }
        self.scratch.touches = touches;
    }

    /// What a touch came from: what moved the zone, or the body.
    fn cause_of(&self, touch: &Touch) -> Option<RecordId> {
        let moved = match touch.reason {
            Reason::ZoneMoved => self.moment.tracker.zone(touch.zone).map(|zone| zone.object),
            _ => self.moment.tracker.body(touch.body).copied(),
        };
        self.moment.objects.get(moved?)?.moved_by
    }

    /// A guard at the border is asked once, when somebody comes.
    fn may_enter(&mut self, touch: &Touch) -> bool {
        let Some(facts) = self.moment.tracker.zone(touch.zone) else { return false };
        let Some(guard) = self.asked_of(facts.part, "when") else { return true };
        let Some(body) = self.moment.tracker.body(touch.body).copied() else { return false };
        let eval_fault = Cell::new(None);
        let holds = Scope::of_part(self, facts.part, &eval_fault).by(body).holds(guard);
        let (cause, zone) = (self.cause_of(touch), facts.part);
        self.note_eval_fault(eval_fault.get(), cause);
        if holds {
            self.moment.tracker.let_in(touch.zone, touch.body);
        } else {
            self.bus.trace.note(cause, 0, Event::TurnedAway { zone, body });
        }
        holds
    }

    fn tell_entered(&mut self, touch: &Touch) {
        let cause = self.cause_of(touch);
        let Some(facts) = self.moment.tracker.zone_facts_mut(touch.zone) else { return };
        facts.count += 1;
        let (zone, count, object, pulses) = (facts.part, facts.count, facts.object, facts.pulse.is_some());
        if count == 1 {
            self.set_pushing(object);
            if pulses && let Some(number) = self.moment.tracker.zone_number(touch.zone) {
                self.moment.pulsing.edit().insert((number, touch.zone));
            }
        }
        let Some(body) = self.moment.tracker.body(touch.body).copied() else { return };
        let doing = self.note_touch(cause, Event::Entered { zone, body, reason: touch.reason });
        self.give(zone, ENTERED, Touched { reason: touch.reason }, doing);
        if count == 1 {
            self.give(zone, OCCUPIED, (), doing);
        }
    }

    pub(crate) fn tell_left(&mut self, touch: &Touch, cause: Option<RecordId>) {
        let Some(facts) = self.moment.tracker.zone_facts_mut(touch.zone) else { return };
        facts.count = facts.count.saturating_sub(1);
        let (zone, count, pulses) = (facts.part, facts.count, facts.pulse.is_some());
        if count == 0
            && pulses
            && let Some(number) = self.moment.tracker.zone_number(touch.zone)
        {
            self.moment.pulsing.edit().remove(&(number, touch.zone));
        }
        let Some(body) = self.moment.tracker.body(touch.body).copied() else { return };
        let doing = self.note_touch(cause, Event::Left { zone, body, reason: touch.reason });
        self.still(zone, body);
        self.give(zone, LEFT, Touched { reason: touch.reason }, doing);
        if count == 0 {
            self.give(zone, VACATED, (), doing);
        }
    }

    /// Records that a body came into a zone or left it, and what that brings about goes back to.
    fn note_touch(&mut self, cause: Option<RecordId>, event: Event) -> Doing {
        let (Event::Entered { zone, body, reason } | Event::Left { zone, body, reason }) = event else {
            return Doing::default();
        };
        let record = self.bus.trace.note(cause, 0, event);
        self.bus.watches.changed(Read::Zone(zone), record);
        // A body that did not walk is not sent on by what that brings about.
        let arrived = matches!(reason, Reason::Sent | Reason::Placed | Reason::SceneLeft).then_some(body);
        Doing { arrived, ..Doing::of(Some(body), record) }
    }

    /// Emits a signal of a part, by its number.
    pub(crate) fn give<T: Payload>(&mut self, part: PartId, signal: usize, payload: T, doing: Doing) {
        let Some(signal) = self.parts.get(part).and_then(|slot| slot.signals.get(signal)) else { return };
        if let Err(error) = self.bus.emit(Signal::new(*signal), payload, doing) {
            self.fault(&error, doing);
        }
    }

    /// Finds the zones that tell every so often who is inside, when they were read from data.
    pub(crate) fn find_pulsing(&mut self) {
        let zones = self.parts.iter().filter_map(|(_, slot)| {
            let zone = slot.zone?;
            let facts = self.moment.tracker.zone(zone)?;
            let pulses = facts.pulse.is_some() && facts.count > 0;
            self.moment.tracker.zone_number(zone).filter(|_| pulses).map(|number| (number, zone))
        });
        let all: BTreeSet<_> = zones.collect();
        self.moment.pulsing = Shared::from(all);
    }

    /// Zones that tell every so often of each body inside, by zone number, then body number.
    pub(crate) fn pulse(&mut self) {
        if self.moment.pulsing.is_empty() {
            return;
        }
        let now = self.moment.clock.now.0;
        let mut due: Vec<(PartId, BodyKey, Ticks)> = Vec::new();
        for (_, zone) in self.moment.pulsing.iter() {
            let Some(ZoneFacts { part, object, pulse: Some(every), .. }) = self.moment.tracker.zone(*zone)
            else {
                continue;
            };
            if self.moment.scenes.is_frozen(self.scene_of(*object)) {
                continue;
            }
            let inside =
                self.moment.tracker.inside(*zone).map(|(body, since)| (body, now.saturating_sub(since)));
            // As often as it fits into the time inside, less what fitted into it a tick ago.
            for (body, span) in inside.filter(|(_, span)| *span > 0) {
                let fits = |span: u64| every.fits_into(ticks(span));
                due.extend((fits(span - 1)..fits(span)).map(|number| (*part, body, every.times(number + 1))));
            }
        }
        for (zone, body, span) in due {
            let Some(body) = self.moment.tracker.body(body).copied() else { continue };
            let doing = Doing { who: Some(body), ..Doing::default() };
            self.give(zone, PULSE, Pulse { inside_for: span }, doing);
        }
    }
}
