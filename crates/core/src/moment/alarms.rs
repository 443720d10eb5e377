//! Alarms: when parts want to be called in the clocks phase.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::base::{
    clock::Ticks,
    ids::{PartId, WaitKey},
    shared::Shared,
};

/// When a part wants to be called.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) enum Alarm {
    #[default]
    None,
    /// It rings in that tick, so long after the moment itself.
    Set(WaitKey, Ticks),
    /// Its object is off, or its scene stands still: it has so much time left.
    Paused(Ticks),
}

/// The alarms that are set: by due tick, then, with the reactions that wait, in the order they were set.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Alarms(
    #[serde(with = "crate::base::shared::pairs")] pub(crate) Shared<BTreeMap<WaitKey, PartId>>,
);

impl Alarms {
    /// The first one.
    pub(crate) fn first(&self) -> Option<WaitKey> {
        self.0.keys().next().copied()
    }
}
