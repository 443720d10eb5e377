//! The lists of wires that signals are delivered to: lent out for a delivery, sorted anew when somebody slept, woke
//! or went, joined by new wires when no delivery is under way.

use crate::{
    payload::Payload,
    queue::Emission,
    signal::SignalId,
    state::State,
    trace::{Event, RecordId, Refusal},
    wire::{ASLEEP, CUT, DOZED, Entry, Source, WireId},
};

/// A list lent out for a delivery.
pub(super) struct Lent {
    pub(super) wires: Vec<Entry>,
    /// All of them take whatever comes and run a closure at once.
    pub(super) plain: bool,
    pub(super) signal: SignalId,
    /// Stands for the signal's name in the digest.
    pub(super) hash: u64,
    /// As long as the wires count no more disturbances than this, the list holds.
    pub(super) disturbed: u64,
}

impl State {
    /// Takes the list of wires for the time of a delivery.
    #[inline]
    pub(super) fn lend(&mut self, signal: SignalId) -> Lent {
        self.bus.delivering = Some(signal);
        self.bus.burst = 1;
        self.bus.counted = false;
        if self.bus.signals.lane(signal).is_some_and(|lane| lane.stale) {
            self.sort_lane(signal);
        }
        let disturbed = self.wires.disturbed;
        match self.bus.signals.lane_mut(signal) {
            Some(lane) => {
                let wires = std::mem::take(&mut lane.awake);
                // What crosses is looked at one by one.
                let plain = lane.plain && !self.crossings.contains_key(&signal);
                Lent { wires, plain, signal, hash: lane.hash, disturbed }
            }
            None => Lent { wires: Vec::new(), plain: false, signal, hash: 0, disturbed },
        }
    }

    #[cold]
    fn sort_lane(&mut self, signal: SignalId) {
        let Some(lane) = self.bus.signals.lane_mut(signal) else { return };
        lane.stale = false;
        let mut all = std::mem::take(&mut lane.awake);
        all.append(&mut lane.asleep);
        all.sort_unstable_by_key(|entry| self.wires.rank(entry.wire));
        for entry in all {
            let Some((hot, wire)) = self.wires.alive(entry.wire) else { continue };
            if matches!(&wire.source, Source::Every { members, .. } if !members.contains(&signal)) {
                continue;
            }
            if hot.flags & ASLEEP == 0 {
                lane.awake.push(entry);
            } else {
                lane.asleep.push(entry);
            }
        }
        lane.plain = lane.awake.iter().all(|entry| entry.plain);
    }

    /// Takes the list back.
    #[inline]
    pub(super) fn take_back(&mut self, signal: SignalId, lent: Lent) {
        self.bus.delivering = None;
        let burst = std::mem::take(&mut self.bus.burst);
        let rounds = burst - u64::from(self.bus.counted);
        if rounds > 0 {
            for entry in &lent.wires {
                self.wires.hot_at(entry.hot).taken += rounds;
            }
            self.bus.trace.count_rounds(rounds, lent.wires.len() as u64);
        }
        if let Some(lane) = self.bus.signals.lane_mut(signal) {
            // Nothing else puts a wire on the list while it is lent out.
            lane.awake = lent.wires;
            lane.delivered += burst;
        }
        if !self.wires.dozed.is_empty() {
            self.end_dozing();
        }
        if !self.wires.joining.is_empty() {
            self.flush_joining();
        }
    }

    /// What fell asleep in the course of a delivery and woke again hears the next one.
    #[cold]
    fn end_dozing(&mut self) {
        for wire in std::mem::take(&mut self.wires.dozed) {
            self.wires.set_flag(wire, DOZED, false);
        }
    }

    /// Records a delivery.
    pub(super) fn note_delivery<T: Payload>(
        &mut self,
        emission: &Emission,
        payload: &T,
        lent: &Lent,
    ) -> Option<RecordId> {
        let Emission { who, cause, after, .. } = *emission;
        self.bus.trace.delivered(cause, lent.hash, lent.signal, who, payload.to_values(), after)
    }

    /// Records who slept through a delivery.
    pub(super) fn note_asleep(&mut self, signal: SignalId, record: Option<RecordId>) {
        let Some(lane) = self.bus.signals.lane(signal) else { return };
        for entry in &lane.asleep {
            if self.wires.flags(entry.wire) & CUT == 0 {
                let event = Event::Refused { wire: entry.wire, why: Refusal::Asleep };
                self.bus.trace.note(record, 0, event);
            }
        }
    }

    /// Puts a new wire on a signal's list: now, or when the delivery under way has ended.
    pub(crate) fn join(&mut self, wire: WireId, signal: SignalId) {
        self.wires.disturbed += 1;
        self.wires.joining.push((wire, signal));
        if self.bus.delivering.is_none() {
            self.flush_joining();
        }
    }

    #[cold]
    fn flush_joining(&mut self) {
        for (wire, signal) in std::mem::take(&mut self.wires.joining) {
            let Some(entry) = self.wires.entry(wire) else { continue };
            let rank = self.wires.rank(wire);
            let asleep = self.wires.flags(wire) & ASLEEP != 0;
            if let Some(lane) = self.bus.signals.lane_mut(signal) {
                let grouped = self.wires.groups.contains(&wire);
                if grouped && lane.awake.iter().chain(&lane.asleep).any(|other| other.wire == wire) {
                    // It left the group and came back before the list was sorted.
                    continue;
                }
                let list = if asleep { &mut lane.asleep } else { &mut lane.awake };
                let at = list.partition_point(|other| self.wires.rank(other.wire) < rank);
                list.insert(at, entry);
                lane.plain &= entry.plain || asleep;
            }
        }
    }

    /// Takes a wire that is gone off a list.
    pub(crate) fn take_off(&mut self, signal: SignalId, wire: WireId) {
        if let Some(lane) = self.bus.signals.lane_mut(signal) {
            lane.awake.retain(|entry| entry.wire != wire);
            lane.asleep.retain(|entry| entry.wire != wire);
            lane.plain = lane.awake.iter().all(|entry| entry.plain);
        }
    }
}
