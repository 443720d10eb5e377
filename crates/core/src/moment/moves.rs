//! What moved in the ticks of a frame, and from where.

use slotmap::SecondaryMap;

use crate::base::{
    clock::Tick,
    doing::Way,
    geometry::Pose,
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
    pub(crate) before: (Pose, Tick, MoveKind),
}

/// The objects that moved in the ticks of one frame, and how parts stood before the last tick.
#[derive(Debug, Default)]
pub(crate) struct Moves {
    pub(crate) all: Vec<Move>,
    /// Where each is in the list. What is out of date there names another object.
    places: SecondaryMap<ObjectId, u32>,
    /// How far parts stood open before they moved last, and in which tick that was.
    pub(crate) openness: SecondaryMap<PartId, (Tick, f64)>,
}

impl Moves {
    /// A frame begins that runs ticks.
    pub(crate) fn begin(&mut self) {
        self.all.clear();
    }

    pub(crate) fn find(&self, object: ObjectId) -> Option<&Move> {
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
            Way::Walked | Way::Led if carried => Self::Carried,
            Way::Walked | Way::Led => Self::Walked,
            Way::Placed => Self::Placed,
            Way::Sent => Self::Sent,
        }
    }
}
