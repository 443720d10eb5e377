//! Who is inside which zone, and who has just come or gone.

use std::collections::BTreeMap;

use glam::Vec3;

use super::boxes::Aabb;
use crate::{
    object::{ObjectId, Tag, Tags},
    part::{PartId, Reason},
    trace::RecordId,
};
use serde::{Deserialize, Serialize};

/// A zone as the tracker sees it.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Zone {
    pub(crate) part: PartId,
    pub(crate) object: ObjectId,
    pub(crate) bounds: Aabb,
    /// Nobody in particular means everybody.
    pub(crate) admits: Tags,
    pub(crate) lit: bool,
    /// Everyone must be looked at: the zone is new, was lit or was moved.
    pub(crate) fresh: bool,
    /// Body number and body, by number.
    inside: BTreeMap<u32, ObjectId>,
}

impl Zone {
    pub(crate) fn new(part: PartId, object: ObjectId, bounds: Aabb, admits: Tags) -> Self {
        Self { part, object, bounds, admits, lit: true, fresh: true, inside: BTreeMap::new() }
    }

    fn admits(&self, tags: &[Tag]) -> bool {
        self.admits.is_empty() || self.admits.iter().any(|tag| tags.contains(tag))
    }
}

/// A body as the tracker sees it.
#[derive(Clone, Debug)]
pub(crate) struct Mover {
    pub(crate) object: ObjectId,
    pub(crate) number: u32,
    pub(crate) tags: Tags,
    pub(crate) from: Vec3,
    pub(crate) to: Vec3,
    /// It was put there, and did not pass what lies between.
    pub(crate) placed: bool,
    pub(crate) fresh: bool,
    pub(crate) enabled: bool,
    pub(crate) cause: Option<RecordId>,
}

/// A body came into a zone or went out of it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Touch {
    pub(crate) part: PartId,
    pub(crate) zone: ObjectId,
    pub(crate) body: ObjectId,
    pub(crate) reason: Reason,
    pub(crate) cause: Option<RecordId>,
}

/// The touches of one tick, each list by zone number, then body number.
#[derive(Clone, Debug, Default)]
pub(crate) struct Touches {
    pub(crate) left: Vec<Touch>,
    pub(crate) entered: Vec<Touch>,
    /// `left` of the zones that were crossed whole within the tick.
    pub(crate) crossed: Vec<Touch>,
}

/// All zones of a world, by number.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Tracker {
    zones: BTreeMap<u32, Zone>,
    #[serde(with = "crate::pairs")]
    numbers: BTreeMap<PartId, u32>,
    last_number: u32,
}

impl Tracker {
    pub(crate) fn add(&mut self, zone: Zone) {
        self.last_number += 1;
        self.numbers.insert(zone.part, self.last_number);
        self.zones.insert(self.last_number, zone);
    }

    pub(crate) fn remove(&mut self, part: PartId) {
        if let Some(number) = self.numbers.remove(&part) {
            self.zones.remove(&number);
        }
    }

    pub(crate) fn get(&self, part: PartId) -> Option<&Zone> {
        self.zones.get(self.numbers.get(&part)?)
    }

    pub(crate) fn get_mut(&mut self, part: PartId) -> Option<&mut Zone> {
        self.zones.get_mut(self.numbers.get(&part)?)
    }

    pub(crate) fn any_fresh(&self) -> bool {
        self.zones.values().any(|zone| zone.fresh)
    }

    pub(crate) fn inside(&self, part: PartId) -> impl Iterator<Item = ObjectId> {
        self.get(part).into_iter().flat_map(|zone| zone.inside.values().copied())
    }

    /// The zone goes dark: everyone inside has left it, by body number.
    pub(crate) fn go_dark(&mut self, part: PartId, reason: Reason, cause: Option<RecordId>) -> Vec<Touch> {
        let Some(zone) = self.get_mut(part) else { return Vec::new() };
        zone.lit = false;
        let (part, object) = (zone.part, zone.object);
        std::mem::take(&mut zone.inside)
            .into_values()
            .map(|body| Touch { part, zone: object, body, reason, cause })
            .collect()
    }

    /// The body is there no more: it has left every zone, by zone number.
    pub(crate) fn take_out(
        &mut self,
        body: ObjectId,
        number: u32,
        reason: Reason,
        cause: Option<RecordId>,
    ) -> Vec<Touch> {
        self.zones
            .values_mut()
            .filter_map(|zone| {
                zone.inside.remove(&number)?;
                Some(Touch { part: zone.part, zone: zone.object, body, reason, cause })
            })
            .collect()
    }

    /// Compares where the bodies were with where they are. `movers` come by body number.
    pub(crate) fn step(&mut self, movers: &[Mover], out: &mut Touches) {
        for zone in self.zones.values_mut().filter(|zone| zone.lit) {
            for mover in movers {
                if zone.fresh || mover.fresh || mover.from != mover.to {
                    zone.compare(mover, out);
                }
            }
            zone.fresh = false;
        }
    }
}

impl Zone {
    fn compare(&mut self, mover: &Mover, out: &mut Touches) {
        if mover.object == self.object {
            // Nobody visits himself.
            return;
        }
        let was = self.inside.contains_key(&mover.number);
        let admitted = mover.enabled && self.admits(&mover.tags);
        let is = admitted && self.bounds.contains(mover.to);
        let touch = |reason| Touch {
            part: self.part,
            zone: self.object,
            body: mover.object,
            reason,
            cause: mover.cause,
        };
        let came = if mover.placed { Reason::Placed } else { Reason::Walked };
        match (was, is) {
            (true, false) => {
                let reason = match () {
                    () if !mover.enabled => Reason::BodyDisabled,
                    () if !admitted => Reason::NotAdmitted,
                    () if mover.from == mover.to => Reason::ZoneMoved,
                    () => came,
                };
                out.left.push(touch(reason));
                self.inside.remove(&mover.number);
            }
            (false, true) => {
                let reason = if mover.from == mover.to { Reason::Appeared } else { came };
                out.entered.push(touch(reason));
                self.inside.insert(mover.number, mover.object);
            }
            (false, false) if admitted && !mover.placed && self.bounds.meets(mover.from, mover.to) => {
                out.entered.push(touch(Reason::Walked));
                out.crossed.push(touch(Reason::Walked));
            }
            _ => {}
        }
    }
}
