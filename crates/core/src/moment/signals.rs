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
        slots::{Slots, place_of},
    },
    moment::wires::Wires,
    plan::{signals::Lane, wires::Entry},
};

/// All signals, by id and by name.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Signals {
    lanes: Slots<SignalId, Lane>,
    /// How often each was delivered since the world was made, by place.
    delivered: Vec<u64>,
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
        self.delivered.get(place_of(id)).copied().filter(|_| self.lanes.contains_key(id)).unwrap_or_default()
    }

    /// It was delivered so many times more.
    #[inline]
    pub(crate) fn count_delivered(&mut self, id: SignalId, times: u64) {
        if let Some(count) = self.delivered.get_mut(place_of(id)) {
            *count += times;
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
            wires: Arc::default(),
            stale: false,
        });
        let place = place_of(id);
        self.delivered.resize(self.delivered.len().max(place + 1), 0);
        self.delivered[place] = 0;
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
        let sound = |entry: &Entry| wires.has_hot(entry.hot);
        self.lanes.values().all(|lane| lane.wires.all().all(sound))
            && self.lanes.iter().all(|(id, _)| place_of(id) < self.delivered.len())
            && self.by_name.values().all(|id| self.lanes.contains_key(*id))
    }

    pub(crate) fn remove(&mut self, id: SignalId) -> Option<Lane> {
        let lane = self.lanes.remove(id)?;
        self.by_name.edit().swap_remove(&lane.name);
        Some(lane)
    }
}
