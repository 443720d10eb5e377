//! What can be done with the bodies of a tracker.

use glam::Vec3;
use smallvec::SmallVec;

use crate::{
    base::{error::Error, geometry::Pose},
    space::{
        entry::{BodyEntry, ENABLED, FRESH, HERE, Motion, PLACED, QUEUED, SENT},
        probe::Probe,
        reason::Reason,
        shape::Shape,
        touch::Touch,
        tracker::{BodyKey, Tracker, ZoneKey, check_place, insert},
    },
};

impl<Z: Clone, B: Clone> Tracker<Z, B> {
    /// Adds a body that touches with its place alone, where it has not been before. Its number says when its turn comes;
    /// no two bodies should have the same.
    ///
    /// # Errors
    /// [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn add_body(&mut self, what: B, number: u32, at: Vec3) -> Result<BodyKey, Error> {
        check_place(at)?;
        let entry = BodyEntry { what, number, room: 0, inside: SmallVec::new(), probe: None };
        let key = BodyKey(insert(&mut self.bodies, &mut self.free_bodies, entry));
        let index = key.0 as usize;
        self.motions.resize(self.motions.len().max(index + 1), Motion::default());
        self.motions[index] =
            Motion { now: at, before: at, flags: FRESH | ENABLED | HERE, ..Motion::default() };
        self.queue(key);
        Ok(key)
    }

    /// The zones a body is in, by number, but for those that have not let it in.
    pub fn zones_around(&self, body: BodyKey) -> impl Iterator<Item = ZoneKey> {
        let entry = self.bodies.get(body.0 as usize).and_then(Option::as_ref);
        let zones = entry.map_or(&[][..], |entry| &entry.inside);
        zones.iter().copied().filter(move |zone| self.inside_since(*zone, body).is_some())
    }

    /// Takes a body away, without a word about the zones it was in: see [`take_out`](Self::take_out).
    pub fn remove_body(&mut self, body: BodyKey) {
        self.take_out(body, Reason::BodyGone);
        if let Some(entry) = self.bodies.get_mut(body.0 as usize)
            && entry.take().is_some()
        {
            self.free_bodies.push(body.0);
            self.motions[body.0 as usize].flags = 0;
            self.index.queue.retain(|queued| *queued != body);
            self.told.retain(|(_, told, _)| *told != body);
        }
    }

    /// A body was moved there: it passes what lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    #[inline]
    pub fn walk(&mut self, body: BodyKey, to: Vec3) -> Result<(), Error> {
        check_place(to)?;
        let steps = self.steps;
        let motion = self.motion_mut(body)?;
        if motion.moved_in != steps {
            motion.moved_in = steps;
            motion.before = motion.now;
        }
        motion.now = to;
        let motion = *motion;
        if !motion.is(QUEUED) && !motion.is_safe(self.index.version) {
            self.queue(body);
        }
        Ok(())
    }

    /// A body was put there: it does not pass what lies between.
    ///
    /// # Errors
    /// As for [`walk`](Self::walk).
    pub fn place(&mut self, body: BodyKey, at: Vec3) -> Result<(), Error> {
        self.walk(body, at)?;
        self.motion_mut(body)?.set(PLACED, true);
        self.queue(body);
        Ok(())
    }

    /// A body was sent there: it does not pass what lies between, and whatever it comes into says that it was sent.
    ///
    /// # Errors
    /// As for [`walk`](Self::walk).
    pub fn send(&mut self, body: BodyKey, to: Vec3) -> Result<(), Error> {
        self.place(body, to)?;
        self.motion_mut(body)?.set(SENT, true);
        Ok(())
    }

    /// Puts a body into another room; [`take_out`](Self::take_out) comes first.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn set_body_room(&mut self, body: BodyKey, room: u32) -> Result<(), Error> {
        self.body_mut(body)?.room = room;
        let motion = self.motion_mut(body)?;
        motion.before = motion.now;
        self.look_at(body);
        Ok(())
    }

    /// Gives a body a shape, turned as it faces; `None` for a point.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`BuildError::BadBody`](crate::BuildError::BadBody) or what else is wrong with the shape.
    pub fn shape_body(&mut self, body: BodyKey, shape: Option<&Shape>, pose: Pose) -> Result<(), Error> {
        shape.map_or(Ok(()), Shape::check_body)?;
        let entry = self.body_mut(body)?;
        entry.probe = shape.and_then(|shape| Probe::new(shape, pose.facing));
        self.look_at(body);
        Ok(())
    }

    /// The body must be looked at in the next step even if it stands still, as when its tags have changed.
    pub fn look_at(&mut self, body: BodyKey) {
        if let Ok(motion) = self.motion_mut(body) {
            motion.set(FRESH, true);
            self.queue(body);
        }
    }

    /// Lets a body touch, or not; [`take_out`](Self::take_out) comes first.
    pub fn enable(&mut self, body: BodyKey, on: bool) {
        if let Ok(motion) = self.motion_mut(body) {
            motion.set(ENABLED, on);
            // Where it went meanwhile it did not pass through.
            motion.before = motion.now;
        }
        self.look_at(body);
    }

    /// The body touches nothing any more: it has left every zone, by zone number.
    pub fn take_out(&mut self, body: BodyKey, reason: Reason) -> Vec<Touch> {
        let Ok(entry) = self.body_mut(body) else { return Vec::new() };
        let inside = std::mem::take(&mut entry.inside);
        let mut touches = Vec::new();
        for zone in inside {
            let order = self.order(zone, body);
            if self.forget(zone, body) {
                touches.push(Touch { zone, body, reason, order });
            }
        }
        touches.sort_unstable_by_key(|touch| touch.order);
        touches
    }

    pub(crate) fn body_entry(&self, body: BodyKey) -> Option<&BodyEntry<B>> {
        self.bodies.get(body.0 as usize)?.as_ref()
    }

    #[inline]
    pub(crate) fn body_mut(&mut self, body: BodyKey) -> Result<&mut BodyEntry<B>, Error> {
        self.bodies.get_mut(body.0 as usize).and_then(Option::as_mut).ok_or(Error::NoSuchObject)
    }

    #[inline]
    fn motion_mut(&mut self, body: BodyKey) -> Result<&mut Motion, Error> {
        self.motions.get_mut(body.0 as usize).filter(|motion| motion.is(HERE)).ok_or(Error::NoSuchObject)
    }

    /// The zone forgets a body; true if it counted.
    fn forget(&mut self, zone: ZoneKey, body: BodyKey) -> bool {
        let Some(number) = self.body_entry(body).map(|entry| entry.number) else { return false };
        let Ok(entry) = self.zone_mut(zone) else { return false };
        entry.find(number).is_ok_and(|index| !entry.inside.remove(index).refused)
    }

    pub(crate) fn queue(&mut self, body: BodyKey) {
        if let Ok(motion) = self.motion_mut(body)
            && !motion.is(QUEUED)
        {
            motion.set(QUEUED, true);
            self.index.queue.push(body);
        }
    }
}
