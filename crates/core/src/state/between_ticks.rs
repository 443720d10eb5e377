//! What can be asked between ticks, by hosts that draw more often than the world ticks.

use crate::{
    base::{
        error::Error,
        geometry::{Pose, part_of_way},
        ids::{ObjectId, PartId},
    },
    moment::moves::Move,
    state::State,
};

impl State {
    /// What moved in the ticks of the last [`advance`](crate::World::advance) or [`step`](crate::World::step) that ran any,
    /// each object once, in the order in which they moved first. A host with bodies of its own learns from it who was put
    /// or sent elsewhere; a view, what it may let glide. After a restore it is empty until the next tick.
    ///
    /// ```
    /// use stoicheon_core::{MoveKind, Vec3, World, secs};
    /// let mut world = World::<()>::new();
    /// let barge = world.object("barge").add()?;
    /// let ada = world.player("ada").add()?;
    /// world.hang(ada, Some(barge))?;
    /// world.step(&mut ())?;
    /// world.put(barge, Vec3::new(4.0, 0.0, 0.0))?;
    /// world.step(&mut ())?;
    /// let moved: Vec<_> = world.moves().map(|moved| (moved.object, moved.kind)).collect();
    /// assert_eq!(moved, [(barge, MoveKind::Placed), (ada, MoveKind::Placed)]);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn moves(&self) -> impl Iterator<Item = &Move> {
        self.scratch.moves.all.iter()
    }

    /// Where an object is between the last two ticks: `fraction` of the way, as [`Advance`](crate::Advance) says. One that
    /// was put or sent there in the last tick is there at once; so is one that did not move in it.
    ///
    /// ```
    /// use stoicheon_core::{Vec3, World, secs};
    /// let mut world = World::<()>::new(); // 30 ticks per second
    /// let ada = world.player("ada").add()?;
    /// world.walk(ada, Vec3::new(3.0, 0.0, 0.0), 30.0)?;
    /// let frame = world.advance(secs(1.5 / 30.0), &mut ())?;
    /// assert_eq!(frame.ticks, 1);
    /// // One unit per tick, and half of it since.
    /// assert!((world.pose_at(ada, frame.fraction)?.at.x - 0.5).abs() < 1e-6);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn pose_at(&self, object: ObjectId, fraction: f64) -> Result<Pose, Error> {
        let to = self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.pose();
        Ok(match self.scratch.moves.find(object).map(|found| found.before) {
            Some((from, tick, kind)) if tick == self.now() && kind.is_continuous() => {
                from.between(to, fraction)
            }
            _ => to,
        })
    }

    /// How far a door stands open between the last two ticks, from 0 (shut) to 1 (open): `fraction` of the way. The same for
    /// parts of a game's own that say how far [open](crate::Part::openness) they are; `None` for any other.
    pub fn openness_at(&self, part: PartId, fraction: f64) -> Option<f64> {
        let to = self.parts.part(part)?.openness()?;
        let before = self.scratch.moves.openness.get(part).filter(|(tick, _)| *tick == self.now());
        Some(before.map_or(to, |(_, from)| from + (to - from) * part_of_way(fraction)))
    }
}
