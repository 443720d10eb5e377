//! What players are offered, and which keys they hold.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::base::{
    ids::{ObjectId, PartId, RecordId},
    value::Text,
};

/// What a player is offered, and which keys they hold.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Hands {
    pub(crate) offered: Option<PartId>,
    /// For how many ticks its key has been held.
    pub(crate) held: Option<u64>,
    /// The record of its pressing.
    pub(crate) held_by: Option<RecordId>,
    /// The keys that are down.
    pub(crate) keys: SmallVec<[Text; 2]>,
    /// Those that were pressed in this tick, with the records of it.
    pub(crate) pressed: SmallVec<[(Text, Option<RecordId>); 1]>,
}

/// The hands of everybody who was ever offered anything or pressed a key, by number.
pub(crate) type AllHands = std::collections::BTreeMap<(u32, ObjectId), Hands>;

/// How far from its object's place a prompt reaches.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Reach {
    pub(crate) at: Vec3,
    pub(crate) most: f64,
    /// Of two as near, the lower one comes first.
    pub(crate) rank: (u32, u32),
}

/// Who looks again, in the touch phase, for what they are offered, and what became of their keys.
#[derive(Debug, Default)]
pub(crate) struct Looking {
    /// Nothing has changed since that more than those below can see; false at first.
    pub(crate) settled: bool,
    /// Players who moved or changed, whose keys did, or who hold one; some of them several times.
    pub(crate) players: Vec<(u32, ObjectId)>,
}
