//! Signals: named, typed messages, and the lanes that carry them to their wires.

use std::{collections::BTreeMap, sync::Arc};

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        error::{BuildError, Error, NoSuchSignal},
        ids::SignalId,
        name_index::NameIndex,
        names::{check_path, name_hash},
        payload::{Field, list_fields},
        shared::Shared,
        slots::Slots,
    },
    moment::wires::Wires,
    plan::{
        signals::{Lane, WireList},
        wires::Entry,
    },
};

/// All signals, by id and by name.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Signals {
    lanes: Slots<SignalId, Lane>,
    /// How often each was delivered since the world was made, of those that ever were.
    counts: Vec<u64>,
    /// Counters of signals that are gone.
    free_counts: Vec<u32>,
    #[serde(skip)]
    by_name: NameIndex<SignalId>,
    /// What carries the same shares the list of it.
    #[serde(skip)]
    fields: Shared<BTreeMap<u32, Arc<[Field]>>>,
    #[serde(skip)]
    no_wires: Arc<WireList>,
}

impl Signals {
    pub(crate) fn find(&self, name: &str) -> Option<SignalId> {
        self.by_name.find(name, |id| self.name_of(id))
    }

    pub(crate) fn names(&self) -> impl Iterator<Item = &str> {
        self.lanes.values().map(|lane| lane.name.as_str())
    }

    fn name_of(&self, id: SignalId) -> Option<&str> {
        self.lanes.get(id).map(|lane| lane.name.as_str())
    }

    /// Finds the names again, if the signals were read from data without them.
    pub(crate) fn index_names_if_missing(&mut self) {
        if self.by_name.is_empty() {
            let Self { by_name, lanes, .. } = self;
            let name_of = |id| lanes.get(id).map(|lane| lane.name.as_str());
            lanes.iter().for_each(|(id, lane)| by_name.insert(&lane.name, id, name_of));
        }
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
        let fields = self.share(store, fields);
        let id = self.lanes.insert(Lane {
            hash: name_hash(&name),
            name: name.clone(),
            fields,
            of: None,
            store,
            closed: false,
            counter: None,
            wires: self.no_wires.clone(),
            stale: false,
        });
        let Self { by_name, lanes, .. } = self;
        by_name.insert(&name, id, |id| lanes.get(id).map(|lane| lane.name.as_str()));
        Ok(id)
    }

    fn share(&mut self, store: u32, fields: Vec<Field>) -> Arc<[Field]> {
        if let Some(known) = self.fields.get(&store).filter(|known| ***known == *fields) {
            return known.clone();
        }
        let fields: Arc<[Field]> = fields.into();
        self.fields.edit().insert(store, fields.clone());
        fields
    }

    /// Whether a signal carries these fields.
    pub(crate) fn check_carries(&self, id: SignalId, fields: &[Field]) -> Result<(), Error> {
        let lane = self.lanes.get(id).ok_or(NoSuchSignal)?;
        if *lane.fields == *fields {
            return Ok(());
        }
        Err(Error::Build(BuildError::PayloadMismatch {
            name: lane.name.clone(),
            declared: list_fields(&lane.fields),
            found: list_fields(fields),
        }))
    }

    /// Whether every entry of every list is of a wire that can be. Data from outside may be damaged.
    pub(crate) fn is_sound(&self, wires: &Wires) -> bool {
        let sound = |entry: &Entry| wires.has_row(entry.row);
        self.lanes.values().all(|lane| lane.wires.all().all(sound))
            && self.free_counts.iter().all(|counter| (*counter as usize) < self.counts.len())
    }

    pub(crate) fn remove(&mut self, id: SignalId) -> Option<Lane> {
        let lane = self.lanes.remove(id)?;
        self.free_counts.extend(lane.counter);
        self.by_name.remove(&lane.name, id);
        Some(lane)
    }
}
