//! The lists of wires that signals are delivered to: lent out for a delivery, sorted again when somebody slept, woke
//! or went, joined by new wires when no delivery is under way.

use std::sync::Arc;

use crate::{
    base::{
        ids::{RecordId, SignalId, WireId},
        payload::Payload,
    },
    moment::queue::Emission,
    plan::{
        refusals::Refusal,
        signals::WireList,
        wires::{ASLEEP, CUT, DOZED, Entry, Source},
    },
    state::State,
    trace::record::Event,
};

/// A list lent out for a delivery.
pub(crate) struct Lent {
    pub(crate) list: Arc<WireList>,
    /// All of them take whatever comes and run a closure at once.
    pub(crate) plain: bool,
    pub(crate) signal: SignalId,
    /// Stands for the signal's name in the digest.
    pub(crate) hash: u64,
    /// As long as the wires count no more disturbances than this, the list holds.
    pub(crate) disturbed: u64,
}

impl State {
    /// Takes the list of wires for the time of a delivery, and says where the signal's payloads are. There is none for a
    /// signal that has ended.
    #[inline]
    pub(crate) fn lend(&mut self, signal: SignalId) -> Option<(Lent, u32)> {
        if self.bus.signals.lane(signal)?.stale {
            self.sort_lane(signal);
        }
        let lane = self.bus.signals.lane(signal)?;
        let (list, store, hash) = (Arc::clone(&lane.wires), lane.store, lane.hash);
        self.bus.delivering = Some(signal);
        self.bus.burst = 1;
        self.bus.counted = false;
        // What crosses is looked at one by one.
        let plain =
            !list.mixed && (self.plan.crossings.is_empty() || !self.plan.crossings.contains_key(&signal));
        Some((Lent { list, plain, signal, hash, disturbed: self.moment.wires.disturbed }, store))
    }

    #[cold]
    fn sort_lane(&mut self, signal: SignalId) {
        let Some(lane) = self.bus.signals.lane_mut(signal) else { return };
        lane.stale = false;
        let mut all: Vec<Entry> = lane.wires.all().copied().collect();
        all.sort_unstable_by_key(|entry| self.moment.wires.rank(entry.wire));
        let mut list = WireList::default();
        for entry in all {
            let Some((flags, wire)) = self.moment.wires.alive(entry.wire) else { continue };
            if matches!(&wire.source, Source::Every { members, .. } if !members.contains(signal)) {
                continue;
            }
            if flags & ASLEEP == 0 {
                list.mixed |= !entry.plain;
                list.awake.push(entry);
            } else {
                list.asleep.push(entry);
            }
        }
        lane.wires = Arc::new(list);
    }

    /// Takes the list back.
    #[inline]
    pub(crate) fn take_back(&mut self, lent: &Lent) {
        self.bus.delivering = None;
        let burst = std::mem::take(&mut self.bus.burst);
        let rounds = burst - u64::from(self.bus.counted);
        if rounds > 0 {
            self.moment.wires.count_taken(&lent.list.awake, rounds);
            self.bus.trace.count_rounds(rounds, lent.list.awake.len() as u64);
        }
        self.bus.signals.count_delivered(lent.signal, burst);
        if !self.moment.wires.dozed.is_empty() {
            self.end_dozing();
        }
        if !self.moment.wires.joining.is_empty() {
            self.flush_joining();
        }
    }

    /// What fell asleep in the course of a delivery and woke again hears the next one.
    #[cold]
    fn end_dozing(&mut self) {
        for wire in std::mem::take(&mut self.moment.wires.dozed) {
            self.moment.wires.set_flag(wire, DOZED, false);
        }
    }

    /// Records a delivery.
    pub(crate) fn note_delivery<T: Payload>(
        &mut self,
        emission: &Emission,
        payload: &T,
        lent: &Lent,
    ) -> Option<RecordId> {
        let Emission { who, cause, after, .. } = *emission;
        self.bus.trace.delivered(cause, lent.hash, lent.signal, who, payload.to_values(), after)
    }

    /// Records who slept through a delivery.
    pub(crate) fn note_asleep(&mut self, signal: SignalId, record: Option<RecordId>) {
        let Some(lane) = self.bus.signals.lane(signal) else { return };
        let list = Arc::clone(&lane.wires);
        for entry in &list.asleep {
            if self.moment.wires.flags(entry.wire) & CUT == 0 {
                let event = Event::Refused { wire: entry.wire, why: Refusal::Asleep };
                self.bus.trace.note(record, 0, event);
            }
        }
    }

    /// Puts a new wire on a signal's list: now, or when the delivery under way has ended.
    pub(crate) fn join(&mut self, wire: WireId, signal: SignalId) {
        self.moment.wires.disturbed += 1;
        self.moment.wires.joining.push((wire, signal));
        if self.bus.delivering.is_none() {
            self.flush_joining();
        }
    }

    #[cold]
    fn flush_joining(&mut self) {
        for (wire, signal) in std::mem::take(&mut self.moment.wires.joining) {
            let Some(entry) = self.moment.wires.entry(wire) else { continue };
            let rank = self.moment.wires.rank(wire);
            let asleep = self.moment.wires.flags(wire) & ASLEEP != 0;
            if let Some(lane) = self.bus.signals.lane_mut(signal) {
                let grouped = self.moment.wires.groups.contains(&wire);
                let lists = Arc::make_mut(&mut lane.wires);
                if grouped && lists.all().any(|other| other.wire == wire) {
                    // It left the group and came back before the list was sorted.
                    continue;
                }
                lists.mixed |= !entry.plain && !asleep;
                let list = if asleep { &mut lists.asleep } else { &mut lists.awake };
                let at = list.partition_point(|other| self.moment.wires.rank(other.wire) < rank);
                list.insert(at, entry);
            }
        }
    }

    /// Takes a wire that is gone off a list.
    pub(crate) fn take_off(&mut self, signal: SignalId, wire: WireId) {
        if let Some(lane) = self.bus.signals.lane_mut(signal) {
            let list = Arc::make_mut(&mut lane.wires);
            list.awake.retain(|entry| entry.wire != wire);
            list.asleep.retain(|entry| entry.wire != wire);
            list.mixed = !list.awake.iter().all(|entry| entry.plain);
        }
    }
}
