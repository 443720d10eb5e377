//! The reactions that wait.

use std::{collections::BTreeMap, sync::Arc};

use serde::{Deserialize, Serialize};

use crate::{
    base::{clock::Tick, ids::WaitKey, shared::Shared},
    moment::run::Run,
};

/// Later than any tick there will be.
pub(crate) const NEVER: Tick = Tick(u64::MAX);

/// The reactions that wait: by due tick, then by the order in which they began to wait. A delayed reaction is one
/// that has not begun, so its next statement is the first.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Waiting {
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) by_due: Shared<BTreeMap<WaitKey, Arc<Run>>>,
    last_number: u64,
}

impl Waiting {
    /// The place in the order of waiting for what begins to wait now.
    pub(crate) fn next_number(&mut self) -> u64 {
        self.last_number += 1;
        self.last_number
    }

    pub(crate) fn insert(&mut self, due: Tick, run: Run) -> WaitKey {
        let key = (due, self.next_number());
        self.by_due.edit().insert(key, Arc::new(run));
        key
    }

    /// The next one that is due, if any is.
    pub(crate) fn first_due(&self, now: Tick) -> Option<WaitKey> {
        self.by_due.keys().next().copied().filter(|(due, _)| *due <= now)
    }

    /// Whether every sequence keeps its values where it says. Data from outside may be damaged.
    pub(crate) fn is_sound(&self) -> bool {
        self.by_due.values().all(|run| run.is_sound())
    }

    pub(crate) fn len(&self) -> usize {
        self.by_due.len()
    }
}
