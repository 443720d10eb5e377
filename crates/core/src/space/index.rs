//! What makes looking quick. All of it can be made again from the zones and bodies.

use crate::{
    base::shared::Shared,
    space::{
        bounds::Bounds,
        entry::{Presence, ZoneEntry},
        levels::Levels,
        tracker::{BodyKey, ZoneKey},
    },
};

/// The grids, and who must be looked at.
#[derive(Debug, Default)]
pub(crate) struct Index {
    pub(crate) settled: Shared<Levels>,
    /// Counts the zones that were put into the grids: how far bodies can go must be found again.
    pub(crate) version: u32,
    /// Zones that must be looked at or have moved lately; they are not in the grids.
    pub(crate) restless: Vec<ZoneKey>,
    /// The same for this step, with what they cover on their way.
    pub(crate) roaming: Vec<(u32, Bounds)>,
    /// In grids of their own if they are many.
    pub(crate) roaming_levels: Levels,
    pub(crate) roaming_many: bool,
    /// Bodies that moved or must be looked at.
    pub(crate) queue: Vec<BodyKey>,
    /// Zones found near a body.
    pub(crate) found: Vec<u32>,
    /// Who has come into and who has gone out of a zone in this step: the zone, and the number of the body.
    pub(crate) comers: Vec<(ZoneKey, Presence)>,
    pub(crate) goers: Vec<(ZoneKey, u32)>,
    /// When a zone was last found for a body, to find it once.
    pub(crate) stamps: Vec<u32>,
    pub(crate) stamp: u32,
}

impl Clone for Index {
    /// What is made again in every step is left out.
    fn clone(&self) -> Self {
        Self {
            settled: self.settled.clone(),
            version: self.version,
            restless: self.restless.clone(),
            queue: self.queue.clone(),
            ..Self::default()
        }
    }
}

impl Index {
    /// A zone that is at rest goes into the grids.
    pub(crate) fn settle<Z>(&mut self, entry: &mut ZoneEntry<Z>, key: ZoneKey) {
        entry.cache.restless = false;
        if let Some(bounds) = entry.cache.bounds {
            self.settled.edit().insert(key.0, bounds);
            self.version = self.version.wrapping_add(1);
            entry.cache.settled = Some(bounds);
            entry.cache.seen = Some(bounds);
        }
    }
}
