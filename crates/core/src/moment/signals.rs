//! Signals: named, typed messages, and the lanes that carry them to their wires.

use std::sync::Arc;

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        error::{Error, NoSuchSignal},
        ids::SignalId,
        names::{check_path, name_hash},
        payload::{Field, list_fields},
        shared::Shared,
        slots::Slots,
    },
    moment::wires::Wires,
    plan::{signals::Lane, wires::Entry},
};

/// All signals, by id and by name.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Signals {
    lanes: Slots<SignalId, Lane>,
    /// How often each was delivered since the world was made, of those that ever were.
    counts: Vec<u64>,
    /// Counters of signals that are gone.
    free_counts: Vec<u32>,
    by_name: Shared<IndexMap<SmolStr, SignalId>>,
}

impl Signals {
    pub(crate) fn find(&self, name: &str) -> Option<SignalId> {
        self.by_name.get(name).copied()
    }

    pub(crate) fn names(&self) -> impl Iterator<Item = &str> {
        self.by_name.keys().map(SmolStr::as_str)
    }

    #[inline]
    pub(crate) fn lane(&self, id: SignalId) -> Option<&Lane> {
        self.lanes.get(id)
    }

    #[inline]
    pub(crate) fn lane_mut(&mut self, id: SignalId) -> Option<&mut Lane> {
        self.lanes.get_mut(id)
    }

    /// How often a signal was delivered so far.
    pub(crate) fn delivered(&self, id: SignalId) -> u64 {
        let counter = self.lanes.get(id).and_then(|lane| lane.counter);
        counter.and_then(|counter| self.counts.get(counter as usize)).copied().unwrap_or_default()
    }

    /// It was delivered so many times more.
    #[inline]
    pub(crate) fn count_delivered(&mut self, id: SignalId, times: u64) {
        match self.lanes.get(id).map(|lane| lane.counter) {
            Some(Some(counter)) => {
                if let Some(count) = self.counts.get_mut(counter as usize) {
                    *count += times;
                }
            }
            Some(None) => self.begin_count(id, times),
            None => {}
        }
    }

    /// Its first delivery.
    #[cold]
    fn begin_count(&mut self, id: SignalId, times: u64) {
        let counter = self.free_counts.pop().unwrap_or_else(|| {
            self.counts.push(0);
            u32::try_from(self.counts.len() - 1).unwrap_or(u32::MAX)
        });
        if let (Some(lane), Some(count)) = (self.lanes.get_mut(id), self.counts.get_mut(counter as usize)) {
            lane.counter = Some(counter);
            *count = times;
        }
    }

    /// Declares a signal, or finds the one of that name if it carries the same fields.
    pub(crate) fn declare(&mut self, name: &str, fields: Vec<Field>, store: u32) -> Result<SignalId, Error> {
        if let Some(id) = self.find(name) {
            return self.check_carries(id, &fields).map(|()| id);
        }
        check_path(name)?;
        let name = SmolStr::new(name);
        let id = self.lanes.insert(Lane {
            hash: name_hash(&name),
            name: name.clone(),
            fields: fields.into(),
            of: None,
            store,
            closed: false,
            counter: None,
            wires: Arc::default(),
            stale: false,
        });
        self.by_name.edit().insert(name, id);
        Ok(id)
    }

    /// Whether a signal carries these fields.
    pub(crate) fn check_carries(&self, id: SignalId, fields: &[Field]) -> Result<(), Error> {
        let lane = self.lanes.get(id).ok_or(NoSuchSignal)?;
        if *lane.fields == *fields {
            return Ok(());
        }
        Err(Error::PayloadMismatch {
            name: lane.name.clone(),
            declared: list_fields(&lane.fields),
            found: list_fields(fields),
        })
    }

    /// Whether every entry of every list is of a wire that can be. Data from outside may be damaged.
    pub(crate) fn is_sound(&self, wires: &Wires) -> bool {
        let sound = |entry: &Entry| wires.has_row(entry.row);
        self.lanes.values().all(|lane| lane.wires.all().all(sound))
            && self.free_counts.iter().all(|counter| (*counter as usize) < self.counts.len())
            && self.by_name.values().all(|id| self.lanes.contains_key(*id))
    }

    pub(crate) fn remove(&mut self, id: SignalId) -> Option<Lane> {
        let lane = self.lanes.remove(id)?;
        self.free_counts.extend(lane.counter);
        self.by_name.edit().swap_remove(&lane.name);
        Some(lane)
    }
}
