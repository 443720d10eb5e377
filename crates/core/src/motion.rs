//! The motion phase: what moves by itself goes one tick.

use glam::DVec3;

use crate::{
    geometry::Pose,
    object::{Course, ObjectId},
    state::State,
    trace::Event,
    whereabouts::Way,
};

impl State {
    /// Phase 3: parts move one tick; then pushes; then bodies, by their walk and their velocity; each by object number;
    /// then tweens, as they began.
    pub(crate) fn motion(&mut self) {
        let objects = &self.objects;
        self.parts.motion(&mut self.bus, |id| objects.get(id).is_some_and(|object| object.enabled));
        self.push();
        for index in 0..self.objects.ids().len() {
            let id = self.objects.ids()[index];
            let Some(object) = self.objects.get(id).filter(|object| object.enabled) else { continue };
            let Some(body) = &object.body else { continue };
            let drifts = body.velocity != glam::Vec3::ZERO;
            if let Some(course) = body.course {
                self.walk_on(id, course);
            }
            if drifts {
                self.drift(id);
            }
        }
        self.move_tweens();
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
