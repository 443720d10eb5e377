//! The signals of a group: a list, and where each stands in it, so that joining and leaving cost the same however many
//! there are.

use std::collections::HashMap;

use rustc_hash::FxBuildHasher;
use serde::{Deserialize, Serialize};

use crate::base::ids::SignalId;

#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[serde(from = "Vec<SignalId>", into = "Vec<SignalId>")]
pub(crate) struct Members {
    list: Vec<SignalId>,
    at: HashMap<SignalId, usize, FxBuildHasher>,
}

impl Members {
    pub(crate) fn as_slice(&self) -> &[SignalId] {
        &self.list
    }

    pub(crate) fn contains(&self, signal: SignalId) -> bool {
        self.at.contains_key(&signal)
    }

    pub(crate) fn insert(&mut self, signal: SignalId) {
        self.at.entry(signal).or_insert_with(|| {
            self.list.push(signal);
            self.list.len() - 1
        });
    }

    /// The last one takes its place.
    pub(crate) fn remove(&mut self, signal: SignalId) {
        let Some(at) = self.at.remove(&signal) else { return };
        self.list.swap_remove(at);
        if let Some(moved) = self.list.get(at) {
            self.at.insert(*moved, at);
        }
    }
}

impl From<Vec<SignalId>> for Members {
    fn from(list: Vec<SignalId>) -> Self {
        let mut members = Self::default();
        list.into_iter().for_each(|signal| members.insert(signal));
        members
    }
}

impl From<Members> for Vec<SignalId> {
    fn from(members: Members) -> Self {
        members.list
    }
}
