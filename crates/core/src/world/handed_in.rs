//! What the host handed in, tick by tick.

use crate::{
    base::{
        clock::{Clock, Tick},
        ids::SceneId,
        value::Values,
    },
    plan::patterns::NewWire,
    world::input::Input,
};

/// What was handed in for one tick, and how much time there was: see [`World::keep_inputs`](crate::World::keep_inputs).
#[derive(Clone, Debug)]
pub struct HandedIn {
    pub(super) tick: Tick,
    /// The digest before it.
    pub(super) digest: u64,
    pub(super) clock: Clock,
    pub(super) frame_began: Tick,
    pub(super) ticks_left: u32,
    pub(super) inputs: Vec<Input>,
    /// What waits to be delivered by payload type; empty if nothing was emitted by the host.
    pub(super) payloads: Vec<Vec<Values>>,
    pub(super) done: Vec<(NewWire, Option<SceneId>)>,
}

impl HandedIn {
    /// The tick it was handed in for.
    pub fn tick(&self) -> Tick {
        self.tick
    }

    /// Nothing was handed in: time passed, and no more.
    pub fn is_empty(&self) -> bool {
        self.inputs.is_empty()
    }
}

/// The ticks so far, and the wires of statements that are to be done once in the next one.
#[derive(Debug, Default)]
pub(crate) struct Journal {
    pub(super) ticks: Vec<HandedIn>,
    pub(super) done: Vec<(NewWire, Option<SceneId>)>,
}
