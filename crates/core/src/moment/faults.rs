//! Faults: what could not be done and was left out, until the host asks.

use std::collections::VecDeque;

use crate::base::{
    clock::Tick,
    ids::{ObjectId, WireId},
    value::Text,
};

/// Something that could not be done and was left out.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Fault {
    /// In which tick.
    pub tick: Tick,
    /// What was wrong.
    pub message: Text,
    /// The object it is about: that of the part, or the owner of the wire or of its signal.
    pub object: Option<ObjectId>,
    /// The wire whose reaction it was, if it was one.
    pub wire: Option<WireId>,
    /// Who caused it, if anybody did.
    pub who: Option<ObjectId>,
}

/// How many wait for the host at most; older ones make room.
pub(crate) const MOST: usize = 1024;

/// The faults the host has not asked for yet.
#[derive(Clone, Debug, Default)]
pub(crate) struct Faults {
    pub(crate) waiting: VecDeque<Fault>,
    /// How many there were since the world was made.
    pub(crate) count: u64,
}
