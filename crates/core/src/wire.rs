//! Wires: from a signal to a reaction.

use std::{collections::BTreeMap, fmt, panic::Location, sync::Arc};

use serde::{Deserialize, Serialize};
use slotmap::{SlotMap, new_key_type};
use smol_str::SmolStr;

use crate::{
    clock::{Tick, Ticks},
    expr::Expr,
    object::{ObjectId, Tags},
    sequence::Op,
    signal::SignalId,
};

new_key_type! {
    /// A wire.
    pub struct WireId;
}

/// Where something was written: a wiring file, or Rust.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Place {
    /// The file.
    pub file: SmolStr,
    /// The line, from 1.
    pub line: u32,
}

impl Place {
    /// The place in Rust the call came from.
    #[track_caller]
    pub fn here() -> Self {
        let caller = Location::caller();
        Self { file: SmolStr::new_static(caller.file()), line: caller.line() }
    }
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}", self.file, self.line)
    }
}

/// What a delivery looks at for every wire. Kept apart from the rest so that it stays close together.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Hot {
    /// Zero for a wire that takes whatever comes and runs a closure.
    pub(crate) flags: u8,
    /// The number of its closure among those of its payload type.
    pub(crate) closure: u32,
    pub(crate) taken: u64,
}

/// Its owner is disabled.
pub(crate) const ASLEEP: u8 = 1;
/// It was cut, or its owner or signal is gone; it is freed in upkeep.
pub(crate) const CUT: u8 = 2;
/// It has a filter, a guard or limits to look at.
pub(crate) const CHECKED: u8 = 4;
/// Its reaction is a sequence.
pub(crate) const SEQUENCE: u8 = 8;
/// It has a guard in Rust.
pub(crate) const GUARD_IN_RUST: u8 = 16;

/// The rest of a wire.
#[derive(Clone, Debug)]
pub(crate) struct Wire {
    pub(crate) signal: SignalId,
    pub(crate) owner: Option<ObjectId>,
    pub(crate) order: i32,
    /// Counts up as wires are made; the second key of their order.
    pub(crate) number: u64,
    pub(crate) place: Place,
    /// Who may cause it: bodies with one of these tags. Empty for anybody, and for nobody too.
    pub(crate) filter: Tags,
    pub(crate) guard: Guard,
    /// How often it may still be taken.
    pub(crate) left: Option<u64>,
    pub(crate) cooldown: Option<Cooldown>,
    pub(crate) ops: Option<Arc<[Op]>>,
    pub(crate) refused: u64,
}

#[derive(Clone, Debug, Default)]
pub(crate) enum Guard {
    #[default]
    None,
    Data(Expr),
    /// The closure is kept with the reaction; this is what a trace shows.
    Rust(SmolStr),
}

#[derive(Clone, Debug)]
pub(crate) struct Cooldown {
    pub(crate) span: Ticks,
    pub(crate) per_who: bool,
    /// When it may be taken again; `None` stands for everybody together, and for a signal caused by nobody.
    pub(crate) until: BTreeMap<Option<ObjectId>, Tick>,
}

impl Cooldown {
    fn key(&self, who: Option<ObjectId>) -> Option<ObjectId> {
        who.filter(|_| self.per_who)
    }

    /// When it may be taken again, if that is not now.
    pub(crate) fn cooling(&self, who: Option<ObjectId>, now: Tick) -> Option<Tick> {
        self.until.get(&self.key(who)).copied().filter(|until| *until > now)
    }

    pub(crate) fn start(&mut self, who: Option<ObjectId>, now: Tick) {
        self.until.insert(self.key(who), now + self.span);
    }
}

/// What became of a wire so far.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct WireCounts {
    /// How often it was taken.
    pub taken: u64,
    /// How often it refused a signal while awake.
    pub refused: u64,
}

/// All wires.
#[derive(Clone, Debug, Default)]
pub(crate) struct Wires {
    hot: SlotMap<WireId, Hot>,
    info: slotmap::SecondaryMap<WireId, Wire>,
    last_number: u64,
    /// Made in the course of a delivery; they join their signals when it has ended.
    pub(crate) joining: Vec<WireId>,
    /// Cut in this tick; freed in its upkeep.
    pub(crate) cut: Vec<WireId>,
}

impl Wires {
    pub(crate) fn insert(&mut self, hot: Hot, make: impl FnOnce(u64) -> Wire) -> WireId {
        self.last_number += 1;
        let id = self.hot.insert(hot);
        self.info.insert(id, make(self.last_number));
        id
    }

    #[inline]
    pub(crate) fn hot_mut(&mut self, id: WireId) -> Option<&mut Hot> {
        self.hot.get_mut(id)
    }

    pub(crate) fn hot(&self, id: WireId) -> Option<&Hot> {
        self.hot.get(id)
    }

    pub(crate) fn get(&self, id: WireId) -> Option<&Wire> {
        self.info.get(id)
    }

    pub(crate) fn get_mut(&mut self, id: WireId) -> Option<&mut Wire> {
        self.info.get_mut(id)
    }

    /// Both the hot half and the rest of a wire that was not cut.
    pub(crate) fn alive(&self, id: WireId) -> Option<(&Hot, &Wire)> {
        let hot = self.hot.get(id).filter(|hot| hot.flags & CUT == 0)?;
        Some((hot, self.info.get(id)?))
    }

    /// The key wires of one signal are ordered by.
    pub(crate) fn rank(&self, id: WireId) -> (i32, u64) {
        self.info.get(id).map_or((i32::MAX, u64::MAX), |wire| (wire.order, wire.number))
    }

    pub(crate) fn remove(&mut self, id: WireId) -> Option<Wire> {
        self.hot.remove(id)?;
        self.info.remove(id)
    }
}
