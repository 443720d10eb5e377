//! Scratch: what lives inside one tick or one frame, and is empty or out of date after it.

use std::collections::BTreeMap;

use crate::{
    base::{
        clock::Ticks,
        ids::{BindId, ObjectId, PartId, RuleId, SignalId, WireId},
    },
    moment::{hands::Looking, members::Members, moves::Moves, runaway::Spawner},
    space::touch::Touches,
};

/// What lives inside one tick, or inside the ticks of one frame. No snapshot has it.
#[derive(Debug, Default)]
pub(crate) struct Scratch {
    /// What moved in the frame under way.
    pub(crate) moves: Moves,
    /// Who looks again for what they are offered.
    pub(crate) looking: Looking,
    /// What the members of binds look at. It is found again when it is not known.
    pub(crate) members: BTreeMap<BindId, Members>,
    /// What the touch phase found.
    pub(crate) touches: Touches,
    /// Objects destroyed in this tick, in that order.
    pub(crate) doomed: Vec<ObjectId>,
    /// Signals whose object was freed in this tick; they go once their wires are gone.
    pub(crate) gone_signals: Vec<SignalId>,
    /// A sequence that did not come to rest in this tick.
    pub(crate) endless: Option<WireId>,
    /// The wire that would have spawned more than there may be, in this tick.
    pub(crate) overfull: Option<Spawner>,
    /// The part whose alarm rings, and how long ago the moment was that it rings for.
    pub(crate) ringing: Option<(PartId, Ticks)>,
    /// The rules that the last tick broke.
    pub(crate) broken_now: Vec<RuleId>,
}

impl Scratch {
    /// Whether a sequence did not come to rest, or more would have been spawned than there may be.
    #[inline]
    pub(crate) fn went_too_far(&self) -> bool {
        self.endless.is_some() || self.overfull.is_some()
    }
}
