//! Signals as they were declared, and the wires each goes to.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{ids::ObjectId, payload::Field},
    plan::wires::Entry,
};

/// What the world knows of one signal.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Lane {
    pub(crate) name: SmolStr,
    /// Stands for the name in the digest.
    pub(crate) hash: u64,
    pub(crate) fields: Arc<[Field]>,
    /// The object that gives it.
    pub(crate) of: Option<ObjectId>,
    /// Which store its payloads queue in.
    pub(crate) store: u32,
    /// Set the moment the giver is destroyed: nothing can be emitted any more.
    pub(crate) closed: bool,
    /// The number of its counter, once it has been delivered.
    pub(crate) counter: Option<u32>,
    /// The wires it goes to; a delivery holds on to them while it lasts.
    pub(crate) wires: Arc<WireList>,
    /// A wire fell asleep, woke or ended since the list was made.
    pub(crate) stale: bool,
}

/// The wires a signal goes to.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct WireList {
    /// Wires that are awake, in the order they are called: by `order`, then as wired.
    pub(crate) awake: Vec<Entry>,
    /// Wires whose owner is disabled, in the same order.
    pub(crate) asleep: Vec<Entry>,
    /// A wire on the awake list has more to it than a closure that takes what comes.
    pub(crate) mixed: bool,
}

impl WireList {
    /// Those that are awake, then those that are not.
    pub(crate) fn all(&self) -> impl Iterator<Item = &Entry> {
        self.awake.iter().chain(&self.asleep)
    }
}
