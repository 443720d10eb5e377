//! Who is inside which zone.

use super::tracker::{BodyKey, Tracker, ZoneKey};

impl<Z: Clone, B: Clone> Tracker<Z, B> {
    /// What the caller calls a zone.
    pub fn zone(&self, zone: ZoneKey) -> Option<&Z> {
        self.zone_entry(zone).map(|entry| &entry.what)
    }

    /// The same, to be changed.
    pub fn zone_facts_mut(&mut self, zone: ZoneKey) -> Option<&mut Z> {
        self.zone_mut(zone).ok().map(|entry| &mut entry.what)
    }

    /// What the caller calls a body.
    pub fn body(&self, body: BodyKey) -> Option<&B> {
        self.body_entry(body).map(|entry| &entry.what)
    }

    /// Who is inside a zone, by body number, and the step at which each came in.
    pub fn inside(&self, zone: ZoneKey) -> impl Iterator<Item = (BodyKey, u64)> {
        let inside = self.zone_entry(zone).map_or(&[][..], |entry| &entry.inside);
        inside.iter().filter(|presence| !presence.refused).map(|presence| (presence.body, presence.since))
    }

    /// Since which step a body is inside a zone.
    pub fn inside_since(&self, zone: ZoneKey, body: BodyKey) -> Option<u64> {
        let entry = self.zone_entry(zone)?;
        let index = entry.find(self.body_entry(body)?.number).ok()?;
        entry.inside.get(index).filter(|presence| !presence.refused).map(|presence| presence.since)
    }

    /// The same, to be changed; [`look_at`](Self::look_at) it if what zones admit depends on that.
    pub fn body_facts_mut(&mut self, body: BodyKey) -> Option<&mut B> {
        self.body_mut(body).ok().map(|entry| &mut entry.what)
    }
}
