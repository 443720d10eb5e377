//! What moved: for hosts that draw more often than the world ticks.

use slotmap::SecondaryMap;

use super::State;
use crate::base::{
    clock::Tick,
    doing::Way,
    error::Error,
    geometry::{Pose, part_of_way},
    ids::{ObjectId, PartId},
};

/// How an object came to be where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum MoveKind {
    /// It walked, drifted, turned or was tweened there, or the host said that it went there.
    Walked,
    /// It hangs on what moved.
    Carried,
    /// It was put there, and did not pass what lies between.
    Placed,
    /// It was sent to a spot.
    Sent,
}

impl MoveKind {
    /// Whether it passed what lies between: a view may glide from where it was.
    pub fn is_continuous(self) -> bool {
        matches!(self, Self::Walked | Self::Carried)
    }
}

/// An object that moved.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Move {
    /// The object.
    pub object: ObjectId,
    /// Where it was before the ticks of the frame.
    pub from: Pose,
    /// Where it is now.
    pub to: Pose,
    /// How it came there; if it was put or sent anywhere in these ticks, that.
    pub kind: MoveKind,
    /// Where it was before its last tick, which one that was, and how it moved then.
    before: (Pose, Tick, MoveKind),
}

/// The objects that moved in the ticks of one frame, and how parts stood before the last tick.
#[derive(Debug, Default)]
pub(crate) struct Moves {
    all: Vec<Move>,
    /// Where each is in the list. What is out of date there names another object.
    places: SecondaryMap<ObjectId, u32>,
    /// How far parts stood open before they moved last, and in which tick that was.
    openness: SecondaryMap<PartId, (Tick, f64)>,
}

impl Moves {
    /// A frame begins that runs ticks.
    pub(crate) fn begin(&mut self) {
        self.all.clear();
    }

    fn find(&self, object: ObjectId) -> Option<&Move> {
        self.all.get(*self.places.get(object)? as usize).filter(|found| found.object == object)
    }

    pub(crate) fn note(&mut self, object: ObjectId, [from, to]: [Pose; 2], kind: MoveKind, now: Tick) {
        let at = self.places.get(object).copied();
        let known = at.and_then(|at| self.all.get_mut(at as usize)).filter(|found| found.object == object);
        if let Some(known) = known {
            known.to = to;
            known.kind = known.kind.max(kind);
            known.before = match known.before {
                // Several times in one tick: what it was before that tick counts.
                (before, tick, earlier) if tick == now => (before, tick, earlier.max(kind)),
                _ => (from, now, kind),
            };
            return;
        }
        self.places.insert(object, u32::try_from(self.all.len()).unwrap_or(u32::MAX));
        self.all.push(Move { object, from, to, kind, before: (from, now, kind) });
    }

    pub(crate) fn note_openness(&mut self, part: PartId, before: f64, now: Tick) {
        self.openness.insert(part, (now, before));
    }
}

impl MoveKind {
    pub(crate) fn of(way: Way, carried: bool) -> Self {
        match way {
            Way::Walked if carried => Self::Carried,
            Way::Walked => Self::Walked,
            Way::Placed => Self::Placed,
            Way::Sent => Self::Sent,
        }
    }
}

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
