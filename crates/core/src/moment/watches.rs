//! Who must look again when something changes: binds, and sequences that wait until something is so.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    base::{
        ids::{BindId, PartId, RecordId, WaitKey},
        shared::Shared,
    },
    plan::reads::Read,
};

/// Who looks again.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub(crate) enum Watcher {
    Bind(BindId),
    Wait(WaitKey),
    /// Players, since it is the condition of a prompt.
    Offer(PartId),
}

fn is_reading(read: Read) -> bool {
    matches!(read, Read::Reading(_) | Read::AnyReading)
}

/// So many changes of single things are told apart.
const MOST: usize = 32;

/// What has changed of what somebody reads.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Stale {
    /// The record of what changed last.
    pub(crate) cause: Option<RecordId>,
    /// `None` if that may be anything.
    pub(crate) what: Option<SmallVec<[Read; 2]>>,
}

impl Stale {
    /// Nothing so far.
    pub(crate) fn nothing() -> Self {
        Self { cause: None, what: Some(SmallVec::new()) }
    }

    fn note(&mut self, read: Read, cause: Option<RecordId>) {
        self.cause = cause;
        let Some(what) = &mut self.what else { return };
        if matches!(read, Read::Clock | Read::Places | Read::Objects) || what.len() >= MOST {
            self.what = None;
        } else if what.last() != Some(&read) {
            what.push(read);
        }
    }

    /// And what has changed since.
    pub(crate) fn and(&mut self, later: Self) {
        self.cause = later.cause;
        match (&mut self.what, later.what) {
            (Some(what), Some(more)) if what.len() + more.len() <= MOST => what.extend(more),
            (what, _) => *what = None,
        }
    }
}

/// Who reads what, and who must look again.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Watches {
    #[serde(with = "crate::base::shared::pairs")]
    readers: Shared<BTreeMap<Read, Shared<BTreeSet<Watcher>>>>,
    /// Binds that must be looked at.
    #[serde(with = "crate::base::pairs")]
    pub(crate) stale_binds: BTreeMap<BindId, Stale>,
    /// Waits that must be looked at in the next clocks phase, by the order in which they began to wait.
    pub(crate) stale_waits: BTreeSet<(u64, WaitKey)>,
    /// How often somebody reads what parts say of themselves: without, nobody is told that one was called.
    #[serde(default)]
    readings: usize,
    /// Players must look again for what they are offered.
    #[serde(default)]
    pub(crate) stale_offers: bool,
}

impl Watches {
    /// Something changed.
    #[inline]
    pub(crate) fn changed(&mut self, read: Read, cause: Option<RecordId>) {
        if !self.readers.is_empty() {
            self.tell(read, cause);
        }
    }

    /// A part was called: what it says of itself may be something else.
    #[inline]
    pub(crate) fn called(&mut self, part: PartId, cause: Option<RecordId>) {
        if self.readings > 0 {
            self.tell(Read::Reading(part), cause);
        }
    }

    #[cold]
    fn tell(&mut self, read: Read, cause: Option<RecordId>) {
        let wide = matches!(read, Read::Place(_) | Read::Object(_));
        for watched in [Some(read).filter(|_| !wide), read.any()].into_iter().flatten() {
            for watcher in self.readers.get(&watched).into_iter().flat_map(|readers| readers.iter()) {
                match *watcher {
                    Watcher::Bind(bind) => {
                        self.stale_binds.entry(bind).or_insert_with(Stale::nothing).note(read, cause);
                    }
                    Watcher::Wait(key) => {
                        self.stale_waits.insert((key.1, key));
                    }
                    // The rest are offers too: they come last.
                    Watcher::Offer(_) => {
                        self.stale_offers = true;
                        break;
                    }
                }
            }
        }
    }

    /// Something changed that a bind alone must know of.
    pub(crate) fn changed_for(&mut self, bind: BindId, read: Read) {
        self.stale_binds.entry(bind).or_insert_with(Stale::nothing).note(read, None);
    }

    pub(crate) fn watch(&mut self, watcher: Watcher, reads: impl IntoIterator<Item = Read>) {
        for read in reads {
            let new = self.readers.edit().entry(read).or_default().edit().insert(watcher);
            self.readings += usize::from(new && is_reading(read));
        }
    }

    pub(crate) fn forget(&mut self, watcher: Watcher, reads: impl IntoIterator<Item = Read>) {
        for read in reads {
            let all = self.readers.edit();
            if let Some(readers) = all.get_mut(&read) {
                let was = readers.edit().remove(&watcher);
                self.readings -= usize::from(was && is_reading(read)).min(self.readings);
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
            Watcher::Offer(_) => {}
        }
    }
}
