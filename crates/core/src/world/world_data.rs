//! Everything of a world between two ticks that decides what happens next.

use std::{
    collections::VecDeque,
    sync::atomic::{AtomicU64, Ordering},
};

use rand_pcg::Pcg32;
use serde::{Deserialize, Serialize};

use crate::{
    base::{clock::Tick, shared::Shared, value::Values},
    moment::{queue::Emission, signals::Signals, watches::Watches},
    part::{behaviours::SnapshotParts, store::PartEntries},
    state::{State, moment::Moment, plan::Plan},
    trace::TraceHead,
    world::input::Input,
};

/// Which of the worlds of this process: no result depends on the number.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct WorldKey(u64);

impl WorldKey {
    pub(crate) fn next() -> Self {
        static LAST: AtomicU64 = AtomicU64::new(0);
        Self(LAST.fetch_add(1, Ordering::Relaxed))
    }
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct WorldData {
    pub(crate) plan: Shared<Plan>,
    pub(crate) moment: Moment,
    pub(crate) random: Pcg32,
    pub(crate) places: PartEntries,
    pub(crate) parts: SnapshotParts,
    pub(crate) signals: Signals,
    pub(crate) watches: Watches,
    pub(crate) trace: TraceHead,
    pub(crate) inputs: Vec<Input>,
    /// Emitted in the last upkeep.
    pub(crate) queue: Vec<Emission>,
    /// What they and the host's own emissions carry, by payload type.
    pub(crate) payloads: Vec<Vec<Values>>,
    pub(crate) closures: Vec<u32>,
    pub(crate) forgetting: VecDeque<(Tick, u32, u32)>,
}

impl WorldData {
    /// Whether everything in it that is spoken of is in it. What comes from outside may be damaged.
    pub(crate) fn check(&self) -> Result<(), &'static str> {
        let Self { plan, moment, signals, .. } = self;
        let wires = moment.wires.is_sound() && signals.is_sound(&moment.wires);
        let binds = State::are_sound(&plan.binds, &plan.bind_names, &moment.vars);
        let sound = [
            (wires, "its lists of wires are damaged"),
            (moment.objects.is_sound(), "its objects are damaged"),
            (binds, "its list of binds is damaged"),
            (moment.tracker.is_sound(), "its list of who is inside which zone is damaged"),
            (moment.scenes.is_sound(), "its list of scenes is damaged"),
            (moment.waiting.is_sound(), "a reaction that waits is damaged"),
        ];
        sound.into_iter().find(|(sound, _)| !sound).map_or(Ok(()), |(_, what)| Err(what))
    }
}

impl State {
    /// Takes up what was emitted and not yet delivered, with what it carries.
    pub(crate) fn requeue(&mut self, data: &WorldData) {
        self.bus.queue.clear();
        data.queue.iter().for_each(|emission| self.bus.queue.push(*emission));
        self.bus.payloads.clear();
        self.bus.payloads.push_all(&data.payloads);
        self.bus.payloads.closures.clone_from(&data.closures);
    }
}
