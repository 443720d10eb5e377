//! The outbox: what waits for the host, which takes it when it likes.

use crate::moment::{effects::Effect, faults::Faults, leaving::Leaving};

/// What waits for the host. No snapshot has it: what a host has not performed is the host's.
#[derive(Debug, Default)]
pub(crate) struct Outbox {
    pub(crate) effects: Vec<Effect>,
    /// What could not be done since the host asked last.
    pub(crate) faults: Faults,
    /// Bodies on their way to scenes that are not in this world.
    pub(crate) leaving: Vec<Leaving>,
}
