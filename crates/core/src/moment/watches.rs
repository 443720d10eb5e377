//! Who must look again when something changes: binds, and sequences that wait until something is so.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use crate::{
    base::{
        ids::{BindId, RecordId, WaitKey},
        shared::Shared,
    },
    plan::reads::Read,
};

/// Who looks again.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub(crate) enum Watcher {
    Bind(BindId),
    Wait(WaitKey),
}

/// Who reads what, and who must look again.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Watches {
    #[serde(with = "crate::base::shared::pairs")]
    readers: Shared<BTreeMap<Read, Shared<BTreeSet<Watcher>>>>,
    /// Binds that must be looked at, each with the record of what changed last.
    #[serde(with = "crate::base::pairs")]
    pub(crate) stale_binds: BTreeMap<BindId, Option<RecordId>>,
    /// Waits that must be looked at in the next clocks phase, by the order in which they began to wait.
    pub(crate) stale_waits: BTreeSet<(u64, WaitKey)>,
}

impl Watches {
    /// Something changed.
    #[inline]
    pub(crate) fn changed(&mut self, read: Read, cause: Option<RecordId>) {
        if !self.readers.is_empty() {
            self.tell(read, cause);
        }
    }

    #[cold]
    fn tell(&mut self, read: Read, cause: Option<RecordId>) {
        for read in [Some(read), read.any()].into_iter().flatten() {
            for watcher in self.readers.get(&read).into_iter().flat_map(|readers| readers.iter()) {
                match *watcher {
                    Watcher::Bind(bind) => {
                        self.stale_binds.insert(bind, cause);
                    }
                    Watcher::Wait(key) => {
                        self.stale_waits.insert((key.1, key));
                    }
                }
            }
        }
    }

    pub(crate) fn watch(&mut self, watcher: Watcher, reads: impl IntoIterator<Item = Read>) {
        for read in reads {
            self.readers.edit().entry(read).or_default().edit().insert(watcher);
        }
    }

    pub(crate) fn forget(&mut self, watcher: Watcher, reads: impl IntoIterator<Item = Read>) {
        for read in reads {
            let all = self.readers.edit();
            if let Some(readers) = all.get_mut(&read) {
                readers.edit().remove(&watcher);
                if readers.is_empty() {
                    all.remove(&read);
                }
            }
        }
        match watcher {
            Watcher::Bind(bind) => {
                self.stale_binds.remove(&bind);
            }
            Watcher::Wait(key) => {
                self.stale_waits.remove(&(key.1, key));
            }
        }
    }
}
