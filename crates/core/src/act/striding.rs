//! Bodies that are under way, and the parts that are told of it.

use std::collections::BTreeMap;

use smallvec::SmallVec;

use crate::{
    base::{
        doing::Doing,
        ids::{ObjectId, PartId},
    },
    moment::moves::{Move, MoveKind},
    part::{contract::Part, offers::Footing, store::PartEntry},
    state::State,
};

/// Parts by object number, each with the bodies it is told of.
type Told = BTreeMap<((u32, u32), PartId), Vec<(ObjectId, f64)>>;

impl State {
    /// At the end of motion: parts that are told how bodies go, by object number, each of its bodies by number.
    pub(crate) fn stride(&mut self) {
        if self.plan.gaits.is_empty() {
            return;
        }
        let mut told: Told = self.moment.striding.iter().map(|turn| (*turn, Vec::new())).collect();
        let now = self.moment.clock.now;
        let walked = |found: &&Move| {
            let (_, tick, kind) = found.before;
            tick == now && kind == MoveKind::Walked && found.before.0.at != found.to.at
        };
        let moved = self.scratch.moves.all.iter().filter(walked);
        let way = |found: &Move| (found.to.at.as_dvec3() - found.before.0.at.as_dvec3()).length();
        let mut moved: Vec<_> = moved
            .filter_map(|found| {
                let object = self.moment.objects.get(found.object)?;
                Some((object.number, found.object, way(found)))
            })
            .collect();
        moved.sort_unstable_by_key(|(number, ..)| *number);
        for (_, body, by) in moved {
            for part in self.who_hears_of(body) {
                if let Some(turn) = self.parts.get(part).map(PartEntry::rank) {
                    told.entry((turn, part)).or_default().push((body, by));
                }
            }
        }
        for ((rank, part), bodies) in told {
            let is_awake = self.object_of(part).is_some_and(|object| self.is_awake(object));
            let goes_on = if is_awake {
                self.part_told(part, Doing::default(), &[], |part, cx| part.strode(&bodies, cx))
            } else {
                // What it knew of those who were under way is out of date.
                self.part_told(part, Doing::default(), &[], |part, cx| part.strode(&[], cx))
            };
            if goes_on == Some(true) {
                self.moment.striding.edit().insert((rank, part));
            } else if self.moment.striding.contains(&(rank, part)) {
                self.moment.striding.edit().remove(&(rank, part));
            }
        }
    }

    /// The parts that are told how a body goes.
    fn who_hears_of(&self, id: ObjectId) -> SmallVec<[PartId; 4]> {
        let mut found = SmallVec::new();
        let Some(object) = self.moment.objects.get(id) else { return found };
        let Some(body) = &object.body else { return found };
        let footing = |part: &PartId| self.parts.part(*part).and_then(Part::footing);
        let near = |part: &PartId| footing(part).is_some_and(|footing| footing.of.is_empty());
        let has_zone = |part: &PartId| self.parts.get(*part).is_some_and(|slot| slot.zone.is_some());
        if !object.parts.iter().any(has_zone) {
            found.extend(object.parts.iter().copied().filter(near));
        }
        for zone in self.moment.tracker.zones_around(body.key) {
            let around = self.moment.tracker.zone(zone).map(|facts| self.parts_of(facts.object));
            found.extend(around.into_iter().flatten().copied().filter(near));
        }
        for tag in &object.tags {
            for part in self.plan.gaits_of.get(tag).into_iter().flatten() {
                let of = self.object_of(*part).and_then(|of| self.moment.objects.get(of));
                let here = of.is_some_and(|of| of.scene.is_none() || of.scene == object.scene);
                if here {
                    found.push(*part);
                }
            }
        }
        // A body may be in several zones of one object, and have several of its tags.
        found.sort_unstable();
        found.dedup();
        found
    }

    /// Notes a part that is told how bodies with some tags go.
    pub(crate) fn list_gait(&mut self, part: PartId) {
        let Some(Footing { of }) = self.parts.part(part).and_then(Part::footing).cloned() else { return };
        for tag in of {
            let tag = self.moment.objects.tag(&tag);
            self.plan.edit().gaits_of.edit().entry(tag).or_default().push(part);
        }
    }

    /// Whether a body is here, on, and has not moved in this tick.
    pub(crate) fn stands_still(&self, body: ObjectId) -> bool {
        let here =
            self.moment.objects.get(body).is_some_and(|object| object.enabled && object.body.is_some());
        let moved =
            self.scratch.moves.find(body).is_some_and(|found| found.before.1 == self.moment.clock.now);
        here && !moved
    }
}
