//! Wires as they were made: from a signal, or from the same signal of a whole group, to a reaction.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Tick, Ticks},
        ids::{ObjectId, SceneId, SignalId, Tag, Tags, VarId, WireId},
        place::Place,
        value::{Text, Value},
    },
    plan::{expr::Expr, members::Members, ops::Op},
};

/// What happens when a signal comes while the wire's reaction to an earlier one still waits.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Busy {
    /// One more reaction runs beside it.
    #[default]
    Overlap,
    /// The signal is refused.
    Ignore,
    /// The earlier reaction is given up, and a new one begins.
    Restart,
    /// The new reaction begins when the earlier one has ended. Past [`Busy::LONGEST_QUEUE`] the signal is refused.
    Queue,
}

impl Busy {
    /// How many signals one wire holds back at most.
    pub const LONGEST_QUEUE: usize = 1024;
}

/// What happens while a reaction still waits, and whether that of one player keeps only that player out.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct WhileRunning {
    pub(crate) busy: Busy,
    pub(crate) per_who: bool,
}

impl WhileRunning {
    pub(crate) fn new(busy: Busy, per_who: bool) -> Self {
        Self { busy, per_who }
    }
}

/// Whose signal a wire listens to, when it listens to many.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Group {
    pub(crate) tag: Option<SmolStr>,
    /// Of those who are in that scene alone.
    pub(crate) scene: Option<SceneId>,
}

impl Group {
    /// Every object with that tag, also those that get it later, for as long as they have it.
    pub fn tagged(tag: &str) -> Self {
        Self { tag: Some(tag.into()), scene: None }
    }

    /// Every object that gives the signal.
    pub fn all() -> Self {
        Self { tag: None, scene: None }
    }

    /// Of those with the tag, the ones that are in a scene.
    pub fn in_scene(mut self, scene: SceneId) -> Self {
        self.scene = Some(scene);
        self
    }
}

/// Its owner is disabled.
pub(crate) const ASLEEP: u32 = 1;

/// It was cut, or its owner or signal is gone; it is freed in upkeep.
pub(crate) const CUT: u32 = 2;

/// It has a filter, a guard or limits to look at.
pub(crate) const CHECKED: u32 = 4;

/// Its reaction is a sequence.
pub(crate) const SEQUENCE: u32 = 8;

/// It has a guard in Rust.
pub(crate) const GUARD_IN_RUST: u32 = 16;

/// Its reaction begins later.
pub(crate) const DELAYED: u32 = 32;

/// It puts the payload into a mailbox.
pub(crate) const MAILBOX: u32 = 64;

/// It fell asleep in the course of the delivery under way, which it does not hear even if it wakes again.
pub(crate) const DOZED: u32 = 128;

/// What it is called with is made from the values the signal carries, which may not fit.
pub(crate) const MADE: u32 = 256;

/// A wire on the list of a signal.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub(crate) struct Entry {
    pub(crate) wire: WireId,
    /// Where its flags and counts are.
    pub(crate) row: u32,
    /// The number of its closure among those of its payload type.
    pub(crate) closure: u32,
    /// Awake, it takes whatever comes and runs a closure at once.
    pub(crate) plain: bool,
}

/// Which signals a wire listens to.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Source {
    One(SignalId),
    Every { tag: Option<Tag>, name: SmolStr, members: Members },
}

impl Source {
    pub(crate) fn signals(&self) -> &[SignalId] {
        match self {
            Self::One(signal) => std::slice::from_ref(signal),
            Self::Every { members, .. } => members.as_slice(),
        }
    }
}

/// All of a wire that was said when it was made.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Wire {
    pub(crate) source: Source,
    pub(crate) owner: Option<ObjectId>,
    /// The scene it ends with, if it belongs to no object.
    pub(crate) scene: Option<SceneId>,
    pub(crate) order: i32,
    /// Counts up as wires are made; the second key of their order.
    pub(crate) number: u64,
    pub(crate) place: Place,
    /// Who may cause it: bodies with one of these tags. Empty for anybody, and for nobody too.
    pub(crate) filter: Tags,
    pub(crate) guard: Guard,
    /// The stage it belongs to: it ends what it has begun when that is left.
    pub(crate) during: Option<(VarId, Text)>,
    /// How often it may be taken.
    pub(crate) times: Option<u64>,
    pub(crate) cooldown: Option<Cooldown>,
    pub(crate) delay: Option<Ticks>,
    pub(crate) running: WhileRunning,
    pub(crate) ops: Option<Arc<[Op]>>,
    /// What the sequence that made it kept then: its own begins with that.
    pub(crate) kept: Option<Arc<[Value]>>,
    pub(crate) store: u32,
    pub(crate) closure: u32,
    pub(crate) row: u32,
    pub(crate) since: Tick,
}

impl Wire {
    /// One that takes whatever comes, with no reaction yet. It belongs to nothing.
    pub(crate) fn plain(
        source: Source,
        store: u32,
        (number, row): (u64, u32),
        place: Place,
        since: Tick,
    ) -> Self {
        Self {
            source,
            owner: None,
            scene: None,
            order: 0,
            number,
            place,
            filter: Tags::new(),
            guard: Guard::None,
            during: None,
            times: None,
            cooldown: None,
            delay: None,
            running: WhileRunning::default(),
            ops: None,
            kept: None,
            store,
            closure: u32::MAX,
            row,
            since,
        }
    }
}

#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) enum Guard {
    #[default]
    None,
    Data(Arc<Expr>),
    /// The closure is kept with the reaction; this is what a trace shows.
    Rust(SmolStr),
}

#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Cooldown {
    pub(crate) span: Ticks,
    pub(crate) per_who: bool,
}

impl Cooldown {
    /// `None` stands for everybody together, and for a signal caused by nobody.
    pub(crate) fn key(self, who: Option<ObjectId>) -> Option<ObjectId> {
        who.filter(|_| self.per_who)
    }
}
