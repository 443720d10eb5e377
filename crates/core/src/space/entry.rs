//! What a tracker knows of one zone and of one body.

use glam::{DVec3, Vec3};
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    base::geometry::Pose,
    space::{
        bounds::Bounds,
        general::General,
        placed::{Placed, PlacedShape},
        probe::{Probe, Seen},
        shape::Shape,
        tracker::{BodyKey, ZoneKey},
    },
};

/// How the zone must be looked at in the next step.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) enum News {
    Nothing,
    /// It passed what lies between.
    Moved,
    /// It was put elsewhere, or given another shape.
    Placed,
    /// It is new, or was lit.
    Lit,
}

/// Somebody is inside.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Presence {
    pub(crate) number: u32,
    pub(crate) body: BodyKey,
    /// It was turned away at the border, or nobody has let it in yet.
    pub(crate) refused: bool,
    pub(crate) since: u64,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct ZoneEntry<Z> {
    pub(crate) what: Z,
    pub(crate) number: u32,
    /// `None` for a zone whose host says who is inside.
    pub(crate) shape: Option<Shape>,
    pub(crate) pose: Pose,
    /// Where the last step saw it.
    pub(crate) before: Pose,
    pub(crate) news: News,
    pub(crate) lit: bool,
    /// Bodies of another room never touch it.
    pub(crate) room: u32,
    /// Who comes in must be let in.
    pub(crate) guarded: bool,
    /// How far outside the border a body may stand before it counts as having left.
    pub(crate) margin: f64,
    pub(crate) inside: Vec<Presence>,
    #[serde(skip)]
    pub(crate) cache: ZoneCache,
}

/// What follows from a zone's shape and pose.
#[derive(Clone, Debug, Default)]
pub(crate) struct ZoneCache {
    pub(crate) placed: PlacedShape,
    pub(crate) general: Vec<General>,
    /// What it covers, the margin too.
    pub(crate) bounds: Option<Bounds>,
    /// The bounds it is in the grids with.
    pub(crate) settled: Option<Bounds>,
    /// The bounds the last step saw.
    pub(crate) seen: Option<Bounds>,
    /// Steps since it moved.
    pub(crate) quiet: u8,
    pub(crate) restless: bool,
}

/// What is needed of every body that moves, in one line of memory.
#[derive(Clone, Copy, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Motion {
    pub(crate) now: Vec3,
    /// Where it was when the step began, if it has moved in this step.
    pub(crate) before: Vec3,
    /// The step in which it moved last.
    pub(crate) moved_in: u32,
    pub(crate) flags: u8,
    /// Where it was when the grids were looked at last.
    #[serde(skip)]
    pub(crate) anchor: Vec3,
    /// The square of how far it can go from there without a look at the grids.
    #[serde(skip)]
    pub(crate) safe_squared: f32,
    /// Whether that still holds.
    #[serde(skip)]
    pub(crate) version: u32,
}

/// It was put where it is, and did not pass what lies between.
pub(crate) const PLACED: u8 = 1;
/// Its zones must be looked at even if it stands still.
pub(crate) const FRESH: u8 = 2;
/// It touches.
pub(crate) const ENABLED: u8 = 4;
/// It is in the list of those to be looked at.
pub(crate) const QUEUED: u8 = 8;
/// There is such a body.
pub(crate) const HERE: u8 = 16;
/// It was sent where it is.
pub(crate) const SENT: u8 = 32;

impl Motion {
    #[inline]
    pub(crate) fn is(&self, flag: u8) -> bool {
        self.flags & flag != 0
    }

    pub(crate) fn set(&mut self, flag: u8, on: bool) {
        if on {
            self.flags |= flag;
        } else {
            self.flags &= !flag;
        }
    }

    /// Whether it is still nearer to where it was looked at last than any border of a zone at rest was.
    #[inline]
    pub(crate) fn is_safe(&self, version: u32) -> bool {
        let gone = self.now.as_dvec3() - self.anchor.as_dvec3();
        self.version == version
            && gone.length_squared() < f64::from(self.safe_squared)
            && self.flags & (FRESH | PLACED) == 0
    }
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct BodyEntry<B> {
    pub(crate) what: B,
    pub(crate) number: u32,
    /// It touches the zones of the same room alone.
    pub(crate) room: u32,
    pub(crate) inside: SmallVec<[ZoneKey; 4]>,
    #[serde(skip)]
    pub(crate) probe: Option<Probe>,
}

/// A turn is looked at in pieces of so many degrees at most.
const PIECE: f64 = 5.0;

impl<Z> ZoneEntry<Z> {
    /// Some come in, by number.
    pub(crate) fn merge(&mut self, come: impl DoubleEndedIterator<Item = Presence> + ExactSizeIterator) {
        let mut old = self.inside.len();
        self.inside.extend(std::iter::repeat_n(Presence::default(), come.len()));
        let mut end = self.inside.len();
        // From the last one on, so that none is overwritten before it has moved.
        for presence in come.rev() {
            while old > 0 && self.inside[old - 1].number > presence.number {
                (old, end) = (old - 1, end - 1);
                self.inside[end] = self.inside[old];
            }
            end -= 1;
            self.inside[end] = presence;
        }
    }

    /// Where somebody of that number is in the list, or would be.
    pub(crate) fn find(&self, number: u32) -> Result<usize, usize> {
        self.inside.binary_search_by_key(&number, |presence| presence.number)
    }

    /// Works out what follows from the shape and the pose.
    pub(crate) fn rework(&mut self) {
        let cache = &mut self.cache;
        cache.general.clear();
        cache.bounds = None;
        let Some(shape) = &self.shape else { return };
        cache.placed = shape.placed(self.pose);
        let all = cache.placed.iter().map(Placed::bounds);
        let bounds = all.fold(Bounds::NOWHERE, Bounds::with);
        cache.bounds = Some(if self.margin > 0.0 { bounds.wider(self.margin) } else { bounds });
    }

    /// Bodies of general shape ask for it.
    pub(crate) fn make_general(&mut self) {
        self.cache.general = self.cache.placed.iter().map(Placed::general).collect();
    }

    fn members(&self) -> impl Iterator<Item = Seen<'_>> {
        let general = (0..).map(|index: usize| self.cache.general.get(index));
        self.cache.placed.iter().zip(general).map(|(placed, general)| Seen { placed, general })
    }

    /// Whether a body touches the zone, or stands within the margin it may go out by.
    #[inline]
    pub(crate) fn holds(&self, probe: Option<&Probe>, at: DVec3, was: bool) -> bool {
        let margin = if was { self.margin } else { 0.0 };
        self.members().any(|member| member.within(probe, at, margin))
    }

    /// How far a body can go at least before that changes.
    pub(crate) fn clearance(&self, probe: Option<&Probe>, at: DVec3, is: bool) -> f64 {
        let margin = if is { self.margin } else { 0.0 };
        let of = |member: Seen<'_>| (member.apart(probe, at) - margin).abs();
        self.members().map(of).fold(f64::INFINITY, f64::min)
    }

    fn is_met(&self, probe: Option<&Probe>, from: DVec3, to: DVec3) -> bool {
        self.members().any(|member| member.meets(probe, from, to))
    }

    /// Whether a body touches the zone anywhere on its way, seen from the zone.
    pub(crate) fn is_crossed(&self, probe: Option<&Probe>, from: Vec3, to: Vec3) -> bool {
        let (from, to) = (from.as_dvec3(), to.as_dvec3());
        match self.news {
            News::Nothing => from != to && self.is_met(probe, from, to),
            News::Placed | News::Lit => false,
            News::Moved if self.before.facing == self.pose.facing => {
                let from = from + (self.pose.at.as_dvec3() - self.before.at.as_dvec3());
                self.is_met(probe, from, to)
            }
            News::Moved => {
                // What stands still seems to go round: it is followed in straight pieces.
                let seen = |part: f64| self.pose.carry_far(self.way(part).seen_far(from.lerp(to, part)));
                let pieces = (self.turned_by() / PIECE).ceil().max(1.0);
                let mut start = seen(0.0);
                let mut done = 0.0;
                while done < pieces {
                    done += 1.0;
                    let end = if done < pieces { seen(done / pieces) } else { to };
                    if self.is_met(probe, start, end) {
                        return true;
                    }
                    start = end;
                }
                false
            }
        }
    }

    /// Its pose on the way from the last step to this one.
    fn way(&self, part: f64) -> Pose {
        Pose {
            at: self.before.at.as_dvec3().lerp(self.pose.at.as_dvec3(), part).as_vec3(),
            facing: self.before.facing.toward(self.pose.facing, part),
        }
    }

    fn turned_by(&self) -> f64 {
        self.pose.facing.then(self.before.facing.back()).axis_and_degrees().1
    }

    /// What it covers or covered at any moment of this tick.
    pub(crate) fn roams(&self) -> Bounds {
        let now = self.cache.bounds.unwrap_or(Bounds::NOWHERE);
        let before = self.cache.seen.unwrap_or(now);
        if self.news == News::Nothing {
            return now;
        }
        if self.before.facing == self.pose.facing || self.news != News::Moved {
            return now.with(before);
        }
        if !now.is_finite() || !before.is_finite() {
            return Bounds::EVERYWHERE;
        }
        // Wherever it turns, it stays as near to its object. A little more, since pieces cut corners.
        let reach = now.farthest_from(self.pose.at).max(before.farthest_from(self.before.at)) * 1.01;
        let around = |at: Vec3| Bounds::around(at.as_dvec3(), DVec3::splat(reach));
        around(self.pose.at).with(around(self.before.at))
    }
}
