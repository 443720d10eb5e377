//! The motion phase: what moves by itself goes one tick.

use glam::{DVec3, Vec3};

use crate::{
    geometry::Pose,
    object::{Body, Course, ObjectId},
    state::State,
    trace::Event,
    whereabouts::Way,
};

impl State {
    /// Phase 3: parts move one tick; then pushes; then bodies, by their walk and their velocity; each by object number;
    /// then tweens, as they began.
    pub(crate) fn motion(&mut self) {
        self.move_parts();
        self.push();
        let mut movers = std::mem::take(&mut self.movers);
        movers.retain(|(_, id)| self.move_on(*id));
        // Nothing a body does as it moves sets another one going, so none was added meanwhile.
        self.movers = movers;
        self.move_tweens();
    }

    /// One tick of a body; false once it has come to rest.
    fn move_on(&mut self, id: ObjectId) -> bool {
        let Some(object) = self.objects.get(id) else { return false };
        let Some(body) = &object.body else { return false };
        if !object.enabled || self.scenes.is_frozen(object.scene) {
            return true;
        }
        let drifts = body.velocity != Vec3::ZERO;
        if let Some(course) = body.course {
            self.walk_on(id, course);
        }
        if drifts {
            self.drift(id);
        }
        self.objects.get(id).and_then(|object| object.body.as_ref()).is_some_and(Body::moves)
    }

    /// A body has been given a walk or a velocity.
    pub(crate) fn set_going(&mut self, id: ObjectId) {
        if let Some(object) = self.objects.get(id) {
            self.movers.insert((object.number, id));
        }
    }

    /// Finds the bodies that move, when they were read from data.
    pub(crate) fn find_movers(&mut self) {
        let moves = |object: &crate::object::Object| object.body.as_ref().is_some_and(Body::moves);
        let moving = self.objects.iter().filter(|(_, object)| moves(object));
        self.movers = moving.map(|(id, object)| (object.number, id)).collect();
    }

    /// One tick of a walk.
    fn walk_on(&mut self, id: ObjectId, course: Course) {
        let Some(object) = self.objects.get(id) else { return };
        let way = course.to - object.at;
        let arrives = way.length() <= course.step;
        let at = if arrives { course.to } else { object.at + way * (course.step / way.length()) };
        let to = Pose { at, ..object.pose() };
        if let (true, Ok(body)) = (arrives, self.body_mut(id)) {
            body.course = None;
        }
        if let Err(error) = self.relocate(id, to, Way::Walked, course.cause) {
            self.fault(&error, crate::bus::Doing { cause: course.cause, ..Default::default() });
        }
        if arrives {
            self.bus.trace.note(course.cause, 0, Event::Arrived { body: id, at });
        } else {
            self.bus.trace.feed(&(id, at));
        }
    }

    /// One tick of a velocity.
    fn drift(&mut self, id: ObjectId) {
        let Some(object) = self.objects.get(id) else { return };
        let Some(body) = &object.body else { return };
        let by: DVec3 = body.velocity.as_dvec3() * self.clock.rate.step();
        let at = (object.at.as_dvec3() + by).as_vec3();
        let (to, cause) = (Pose { at, ..object.pose() }, body.pushed_by);
        if at.is_finite() && self.relocate(id, to, Way::Walked, cause).is_ok() {
            self.bus.trace.feed(&(id, at));
        }
    }
}
