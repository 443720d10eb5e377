//! Ids: what stands for the things of a world.

use std::num::NonZeroU64;

use serde::{Deserialize, Serialize};
use slotmap::new_key_type;
use smallvec::SmallVec;

use crate::base::{clock::Tick, signal::Signal};

new_key_type! {
    /// An object. Never used again for another one after the object is destroyed.
    ///
    /// Ids, of whatever kind, are for the world that gave them. Worlds that are built alike give the same ids, which is what
    /// lets a snapshot of one go on in another; so an id of another world is refused where this one has nothing of that
    /// number, and means whatever has that number otherwise. Pass names between worlds, not ids.
    pub struct ObjectId;
}

/// A tag, as a number of its world: from [`World::tag_named`](crate::World::tag_named).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Tag(pub(crate) u32);

/// The name of a variable that objects have, as a number of its world: from
/// [`World::property_named`](crate::World::property_named).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct PropertyName(pub(crate) u32);

/// A few tags.
pub(crate) type Tags = SmallVec<[Tag; 4]>;

new_key_type! {
    /// A signal, whatever it carries.
    pub struct SignalId;
}

impl<T> From<Signal<T>> for SignalId {
    fn from(signal: Signal<T>) -> Self {
        signal.id()
    }
}

new_key_type! {
    /// A variable.
    pub struct VarId;
}

/// A scene: objects and wires that are loaded and unloaded together, in a space of their own.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct SceneId(pub(crate) u32);

/// A bind.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct BindId(pub(crate) u32);

new_key_type! {
    /// A wire.
    pub struct WireId;
}

/// A mould of a world.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize)]
pub struct MouldId(pub(crate) u32);

/// A kind of effect.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct EffectId(pub(crate) u32);

/// A rule, in the order they were made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct RuleId(pub(crate) u32);

new_key_type! {
    /// A place to arrive at.
    pub struct SpotId;
}

new_key_type! {
    /// A part of an object.
    pub struct PartId;
}

/// The number of a record; counts up from 1 for as long as the world lives.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct RecordId(pub(crate) NonZeroU64);

impl RecordId {
    #[inline]
    pub(crate) fn new(number: u64) -> Option<Self> {
        NonZeroU64::new(number).map(Self)
    }

    /// The number.
    pub fn number(self) -> u64 {
        self.0.get()
    }
}

/// When a reaction goes on at the latest, and the order of waiting among those that go on in one tick.
pub(crate) type WaitKey = (Tick, u64);

/// A routine of a world: a sequence that other sequences run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize)]
pub struct RoutineId(pub(crate) u32);
