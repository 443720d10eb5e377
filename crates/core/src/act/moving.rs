//! Bodies that move by themselves: one tick of a walk, and of a velocity.

use std::collections::BTreeSet;

use glam::{DVec3, Vec3};
use smallvec::SmallVec;

use crate::{
    base::{doing::Way, geometry::Pose, ids::ObjectId, shared::Shared},
    moment::object::{Body, Course},
    state::State,
    trace::record::Event,
};

impl State {
    /// One tick of every body that walks or has a velocity, by object number.
    pub(crate) fn move_bodies(&mut self) {
        let movers = self.moment.movers.clone();
        let rests = |mover: &&(u32, ObjectId)| !self.move_on(mover.1);
        // Nothing a body does as it moves sets another one going, so none was added meanwhile.
        let resting: SmallVec<[_; 4]> = movers.iter().filter(rests).copied().collect();
        drop(movers);
        for mover in resting {
            self.moment.movers.edit().remove(&mover);
        }
    }

    /// One tick of a body; false once it has come to rest.
    fn move_on(&mut self, id: ObjectId) -> bool {
        let Some(object) = self.moment.objects.get(id) else { return false };
        let Some(body) = &object.body else { return false };
        if !object.enabled || self.moment.scenes.is_frozen(object.scene) {
            return true;
        }
        let drifts = body.facts.velocity != Vec3::ZERO;
        if let Some(course) = body.course.as_deref().copied() {
            self.walk_on(id, course);
        }
        if drifts {
            self.drift(id);
        }
        self.moment.objects.get(id).and_then(|object| object.body.as_ref()).is_some_and(Body::moves)
    }

    /// A body has been given a walk or a velocity.
    pub(crate) fn set_going(&mut self, id: ObjectId) {
        if let Some(object) = self.moment.objects.get(id) {
            let mover = (object.number, id);
            if !self.moment.movers.contains(&mover) {
                self.moment.movers.edit().insert(mover);
            }
        }
    }

    /// Finds the bodies that move, when they were read from data.
    pub(crate) fn find_movers(&mut self) {
        let moves = |object: &crate::moment::object::Object| object.body.as_ref().is_some_and(Body::moves);
        let moving = self.moment.objects.iter().filter(|(_, object)| moves(object));
        let found: BTreeSet<_> = moving.map(|(id, object)| (object.number, id)).collect();
        self.moment.movers = Shared::from(found);
    }

    /// One tick of a walk.
    fn walk_on(&mut self, id: ObjectId, course: Course) {
        let Some(object) = self.moment.objects.get(id) else { return };
        let way = course.to - object.at;
        let arrives = way.length() <= course.step;
        let at = if arrives { course.to } else { object.at + way * (course.step / way.length()) };
        let to = Pose { at, ..object.pose() };
        if let (true, Ok(body)) = (arrives, self.body_mut(id)) {
            body.course = None;
        }
        if let Err(error) = self.relocate(id, to, Way::Walked, course.cause) {
            self.fault(&error, crate::base::doing::Doing { cause: course.cause, ..Default::default() });
        }
        if arrives {
            self.bus.trace.note(course.cause, 0, Event::Arrived { body: id, at });
        } else {
            self.bus.trace.feed(&(id, at));
        }
    }

    /// One tick of a velocity.
    fn drift(&mut self, id: ObjectId) {
        let Some(object) = self.moment.objects.get(id) else { return };
        let Some(body) = &object.body else { return };
        let by: DVec3 = body.facts.velocity.as_dvec3() * self.moment.clock.rate.step();
        let at = (object.at.as_dvec3() + by).as_vec3();
        let (to, cause) = (Pose { at, ..object.pose() }, body.facts.pushed_by);
        if at.is_finite() && self.relocate(id, to, Way::Walked, cause).is_ok() {
            self.bus.trace.feed(&(id, at));
        }
    }
}
