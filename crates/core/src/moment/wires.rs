//! Wires: from a signal, or from the same signal of a whole group, to a reaction.

use std::collections::{BTreeMap, BTreeSet, VecDeque};

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    base::{
        chunks::Chunks,
        clock::Tick,
        doing::Doing,
        ids::{ObjectId, SignalId, WaitKey, WireId},
        place::Place,
        shared::Shared,
        slots::Slots,
        value::Values,
    },
    plan::{
        refusals::Refusal,
        wires::{ASLEEP, CUT, Cooldown, DOZED, Entry, Source, WhileRunning, Wire},
    },
};

/// What becomes of a wire with conditions, or with a sequence for a reaction.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct WireNow {
    /// How often it was taken, if that is limited.
    pub(crate) spent: u64,
    pub(crate) cooled: Cooled,
    pub(crate) refused: RefusalCounts,
    /// Its reactions that wait.
    pub(crate) runs: SmallVec<[WaitKey; 1]>,
    /// The same by who caused them, if each keeps only that one out.
    #[serde(with = "crate::base::pairs")]
    pub(crate) whose: BTreeMap<Option<ObjectId>, SmallVec<[WaitKey; 1]>>,
    /// What it holds back until they have ended.
    pub(crate) held: VecDeque<(SignalId, Values, Doing)>,
}

impl WireNow {
    /// Whether a reaction waits that keeps out who comes now.
    pub(crate) fn is_running(&self, running: WhileRunning, who: Option<ObjectId>) -> bool {
        if running.per_who { self.whose.contains_key(&who) } else { !self.runs.is_empty() }
    }

    /// A reaction waits from now on.
    pub(crate) fn begin(&mut self, running: WhileRunning, who: Option<ObjectId>, key: WaitKey) {
        self.runs.push(key);
        if running.per_who {
            self.whose.entry(who).or_default().push(key);
        }
    }

    /// A reaction no longer waits.
    pub(crate) fn end(&mut self, who: Option<ObjectId>, key: WaitKey) {
        self.runs.retain(|other| *other != key);
        if let Some(keys) = self.whose.get_mut(&who) {
            keys.retain(|other| *other != key);
            if keys.is_empty() {
                self.whose.remove(&who);
            }
        }
    }

    /// The first of what is held back that nothing keeps out any more.
    pub(crate) fn next_held(&self, running: WhileRunning) -> Option<usize> {
        self.held.iter().position(|(_, _, doing)| !self.is_running(running, doing.who))
    }
}

/// When a wire may be taken again, by who. Sorted.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Cooled(Vec<(Option<ObjectId>, Tick)>);

impl Cooled {
    fn find(&self, key: Option<ObjectId>) -> Result<usize, usize> {
        self.0.binary_search_by_key(&key, |(who, _)| *who)
    }

    /// When it may be taken again, if that is not now.
    pub(crate) fn cooling(&self, cooldown: Cooldown, who: Option<ObjectId>, now: Tick) -> Option<Tick> {
        let (_, until) = self.0[self.find(cooldown.key(who)).ok()?];
        Some(until).filter(|until| *until > now)
    }

    pub(crate) fn start(&mut self, cooldown: Cooldown, who: Option<ObjectId>, now: Tick) {
        let (key, until) = (cooldown.key(who), now + cooldown.span);
        if let Ok(at) = self.find(key) {
            self.0[at].1 = until;
            return;
        }
        // Those who may come again need not be remembered.
        self.0.retain(|(_, until)| *until > now);
        let at = self.find(key).unwrap_or_else(|at| at);
        self.0.insert(at, (key, until));
    }
}

/// How often a wire refused a signal while awake, by reason.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct RefusalCounts {
    /// Who caused it had none of the tags.
    pub who: u64,
    /// Its guard said no.
    pub guard: u64,
    /// It had been taken as often as it may.
    pub spent: u64,
    /// It was cooling down.
    pub cooling: u64,
    /// Its reaction was still running.
    pub running: u64,
    /// What the signal carried was nothing its closure could take.
    #[serde(default)]
    pub payload: u64,
}

impl RefusalCounts {
    /// All of them.
    pub fn all(self) -> u64 {
        self.who + self.guard + self.spent + self.cooling + self.running + self.payload
    }

    pub(crate) fn count(&mut self, why: &Refusal) {
        match why {
            Refusal::Asleep => {}
            Refusal::Who => self.who += 1,
            Refusal::Guard { .. } => self.guard += 1,
            Refusal::Spent => self.spent += 1,
            Refusal::Cooling { .. } => self.cooling += 1,
            Refusal::Running => self.running += 1,
            Refusal::Payload => self.payload += 1,
        }
    }
}

/// What became of a wire so far.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct WireCounts {
    /// How often it was taken.
    pub taken: u64,
    /// How often it refused a signal while awake, and why.
    pub refused: RefusalCounts,
    /// The tick it was made in.
    pub since: Tick,
}

/// All wires.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Wires {
    info: Slots<WireId, Wire>,
    /// What a delivery looks at for every wire, close together. Zero for one that takes whatever comes and runs a closure
    /// at once.
    flags: Shared<Vec<u32>>,
    /// For each of `flags`: how often it was taken.
    taken: Shared<Vec<u64>>,
    /// For each of `flags`: the rest of what changes.
    now: Chunks<WireNow>,
    free: Vec<u32>,
    last_number: u64,
    /// Counts up whenever a wire falls asleep, wakes, is cut or is made.
    pub(crate) disturbed: u64,
    /// Wires that listen to groups, in the order they were made.
    pub(crate) groups: Vec<WireId>,
    /// Made in the course of a delivery; they join their signals when it has ended.
    pub(crate) joining: Vec<(WireId, SignalId)>,
    /// Cut in this tick; freed in its upkeep.
    pub(crate) cut: Vec<WireId>,
    /// Those that fell asleep in the course of the delivery under way.
    #[serde(skip)]
    pub(crate) dozed: Vec<WireId>,
}

impl Wires {
    pub(crate) fn insert(&mut self, flags: u32, make: impl FnOnce(u64, u32) -> Wire) -> WireId {
        self.last_number += 1;
        let at = if let Some(at) = self.free.pop() {
            self.flags.edit()[at as usize] = flags;
            self.taken.edit()[at as usize] = 0;
            if let Some(now) = self.now.get_mut(at as usize) {
                *now = WireNow::default();
            }
            at
        } else {
            self.flags.edit().push(flags);
            self.taken.edit().push(0);
            self.now.push(WireNow::default());
            u32::try_from(self.flags.len() - 1).unwrap_or(u32::MAX)
        };
        let wire = make(self.last_number, at);
        let listens_to_group = matches!(wire.source, Source::Every { .. });
        let id = self.info.insert(wire);
        if listens_to_group {
            self.groups.push(id);
        }
        id
    }

    /// The flags of a wire on a list. A wire is freed only when no list has it any more.
    #[inline]
    pub(crate) fn flags_at(&self, at: u32) -> u32 {
        self.flags[at as usize]
    }

    /// Wires on a list were taken so many times more.
    #[inline]
    pub(crate) fn count_taken(&mut self, entries: &[Entry], times: u64) {
        // A signal nobody hears must not copy what a snapshot shares.
        if entries.is_empty() {
            return;
        }
        let taken = self.taken.edit();
        for entry in entries {
            taken[entry.row as usize] += times;
        }
    }

    /// How often a wire was taken.
    pub(crate) fn taken(&self, id: WireId) -> Option<u64> {
        self.info.get(id).map(|wire| self.taken[wire.row as usize])
    }

    /// The flags of a wire; of one that is gone, those of a wire that was cut.
    pub(crate) fn flags(&self, id: WireId) -> u32 {
        self.info.get(id).map_or(CUT, |wire| self.flags_at(wire.row))
    }

    pub(crate) fn set_flag(&mut self, id: WireId, flag: u32, on: bool) {
        if let Some(wire) = self.info.get(id) {
            self.disturbed += 1;
            let flags = &mut self.flags.edit()[wire.row as usize];
            *flags = if on { *flags | flag } else { *flags & !flag };
        }
    }

    pub(crate) fn entry(&self, id: WireId) -> Option<Entry> {
        let wire = self.info.get(id)?;
        let plain = self.flags_at(wire.row) & !(ASLEEP | CUT | DOZED) == 0;
        Some(Entry { wire: id, row: wire.row, closure: wire.closure, plain })
    }

    pub(crate) fn get(&self, id: WireId) -> Option<&Wire> {
        self.info.get(id)
    }

    /// What became of it so far.
    pub(crate) fn now(&self, id: WireId) -> Option<&WireNow> {
        self.now.get(self.info.get(id)?.row as usize)
    }

    pub(crate) fn now_mut(&mut self, id: WireId) -> Option<&mut WireNow> {
        self.now.get_mut(self.info.get(id)?.row as usize)
    }

    pub(crate) fn get_mut(&mut self, id: WireId) -> Option<&mut Wire> {
        self.info.get_mut(id)
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = (WireId, &Wire)> {
        self.info.iter()
    }

    /// The flags and the rest of a wire that was not cut.
    pub(crate) fn alive(&self, id: WireId) -> Option<(u32, &Wire)> {
        let wire = self.info.get(id)?;
        Some((self.flags_at(wire.row), wire)).filter(|(flags, _)| flags & CUT == 0)
    }

    /// The key wires of one signal are ordered by.
    pub(crate) fn rank(&self, id: WireId) -> (i32, u64) {
        self.info.get(id).map_or((i32::MAX, u64::MAX), |wire| (wire.order, wire.number))
    }

    /// Lets wires come in that order where one of that number is or was, before all of a higher one.
    pub(crate) fn reorder(&mut self, order: &[WireId], first: u64) {
        let own: BTreeSet<WireId> = order.iter().copied().collect();
        let mut others: Vec<_> = self.info.iter().filter(|(id, _)| !own.contains(id)).collect();
        others.sort_unstable_by_key(|(_, wire)| wire.number);
        let before = others.partition_point(|(_, wire)| wire.number < first);
        let others: Vec<WireId> = others.into_iter().map(|(id, _)| id).collect();
        let all = others[..before].iter().chain(order).chain(&others[before..]);
        for (number, id) in (1..).zip(all.copied().collect::<Vec<_>>()) {
            if let Some(wire) = self.info.get_mut(id) {
                wire.number = number;
            }
        }
        self.last_number = self.last_number.max(self.info.iter().count() as u64);
        self.disturbed += 1;
    }

    /// The closures that wires need: store, number, and where the wire was made.
    pub(crate) fn closures(&self) -> impl Iterator<Item = (u32, u32, &Place)> {
        let needs = self.info.values().filter(|wire| wire.closure != u32::MAX);
        needs.map(|wire| (wire.store, wire.closure, &wire.place))
    }

    /// Whether every wire has its flags and counts. Data from outside may be damaged.
    pub(crate) fn is_sound(&self) -> bool {
        let sound = |at: u32| (at as usize) < self.flags.len();
        [self.taken.len(), self.now.len()] == [self.flags.len(); 2]
            && self.info.values().all(|wire| sound(wire.row))
            && self.free.iter().all(|at| sound(*at))
    }

    /// Whether a wire listens to that signal of every one of some group.
    pub(crate) fn hear_every(&self, signal: &str) -> bool {
        let hears = |wire: &Wire| matches!(&wire.source, Source::Every { name, .. } if name == signal);
        self.groups.iter().filter_map(|id| self.info.get(*id)).any(hears)
    }

    pub(crate) fn has_row(&self, at: u32) -> bool {
        (at as usize) < self.flags.len()
    }

    pub(crate) fn remove(&mut self, id: WireId) -> Option<Wire> {
        let wire = self.info.remove(id)?;
        self.free.push(wire.row);
        if matches!(wire.source, Source::Every { .. }) {
            self.groups.retain(|other| *other != id);
        }
        Some(wire)
    }
}
