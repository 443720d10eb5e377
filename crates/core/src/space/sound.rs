//! What a tracker keeps beside its data, made again; and whether data from outside can be.

use super::tracker::{BodyKey, Tracker, ZoneKey};

use crate::{
    base::{chunks::Chunks, geometry::Pose},
    space::{
        entry::{FRESH, HERE, Motion, News, PLACED, QUEUED, ZoneCache},
        index::Index,
        probe::Probe,
        shape::Shape,
    },
};

impl<Z: Clone, B: Clone> Tracker<Z, B> {
    /// Makes again what is not part of the data, when that was put in place of other data.
    pub(crate) fn revive(&mut self, mut shape_of: impl FnMut(&B) -> (Option<Shape>, Pose)) {
        self.index = Index::default();
        for index in 0..self.zones.len() {
            let key = ZoneKey(u32::try_from(index).unwrap_or(u32::MAX));
            let Some(Some(entry)) = self.zones.get_mut(index) else { continue };
            entry.cache = ZoneCache::default();
            entry.rework();
            if entry.lit && entry.shape.is_some() {
                if entry.news == News::Nothing {
                    self.index.settle(entry, key);
                } else {
                    self.stir(key);
                }
            }
        }
        for index in 0..self.bodies.len() {
            let key = BodyKey(u32::try_from(index).unwrap_or(u32::MAX));
            let Some(Some(entry)) = self.bodies.get_mut(index) else { continue };
            let (shape, pose) = shape_of(&entry.what);
            entry.probe = shape.and_then(|shape| Probe::new(&shape, pose.facing));
            let motion = &mut self.motions[index];
            (motion.safe_squared, motion.version) = (0.0, 0);
            motion.set(QUEUED, false);
            if motion.is(FRESH | PLACED) || motion.moved_in == self.steps {
                self.queue(key);
            }
        }
    }

    /// Whether each body that is said to be inside a zone exists, and says so too. Data from outside may be damaged.
    pub(crate) fn is_sound(&self) -> bool {
        let zones =
            (0..).zip(self.zones.iter()).filter_map(|(index, entry)| Some((ZoneKey(index), entry.as_ref()?)));
        let mut known = 0;
        for (zone, entry) in zones {
            if !entry.inside.is_sorted_by(|one, two| one.number < two.number)
                || entry.shape.as_ref().is_some_and(|shape| shape.check().is_err())
                || !entry.pose.at.is_finite()
                || !entry.pose.facing.is_sound()
                || !entry.before.facing.is_sound()
                || entry.margin.is_nan()
                || entry.margin < 0.0
            {
                return false;
            }
            for presence in &entry.inside {
                let body = self.body_entry(presence.body).filter(|body| body.number == presence.number);
                if !body.is_some_and(|body| body.inside.contains(&zone)) {
                    return false;
                }
                known += 1;
            }
        }
        let bodies = self.bodies.iter().flatten();
        let here = |index: usize| self.bodies.get(index).is_some_and(Option::is_some);
        let whole = |(index, motion): (usize, &Motion)| {
            motion.now.is_finite() && motion.before.is_finite() && motion.is(HERE) == here(index)
        };
        free(&self.free_zones, &self.zones)
            && free(&self.free_bodies, &self.bodies)
            && self.motions.len() == self.bodies.len()
            && self.motions.iter().enumerate().all(whole)
            && bodies.map(|body| body.inside.len()).sum::<usize>() == known
    }
}

/// Whether each place that is listed as free is there, is empty, and is listed once.
fn free<T>(listed: &[u32], all: &Chunks<Option<T>>) -> bool {
    let mut places: Vec<_> = listed.to_vec();
    places.sort_unstable();
    let empty = |place: &u32| all.get(*place as usize).is_some_and(Option::is_none);
    places.iter().all(empty) && places.is_sorted_by(|one, two| one < two)
}
