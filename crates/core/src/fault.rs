//! Faults: what could not be done and was left out. The trace has them, and the host can ask for them at every trace
//! level.

use std::{collections::VecDeque, fmt};

use crate::{
    bus::Doing,
    clock::Tick,
    error::Error,
    memory::Misfit,
    object::ObjectId,
    state::State,
    trace::{Event, name_hash},
    value::Text,
    wire::WireId,
    world::World,
};

/// Something that could not be done and was left out.
#[derive(Clone, Debug, PartialEq)]
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
const MOST: usize = 1024;

/// The faults the host has not asked for yet.
#[derive(Clone, Debug, Default)]
pub(crate) struct Faults {
    waiting: VecDeque<Fault>,
    /// How many there were since the world was made.
    pub(crate) count: u64,
}

/// What went wrong, in words; and in words without places, for the digest.
pub(crate) trait Told: fmt::Display {
    fn salt(&self) -> u64 {
        name_hash(&self.to_string())
    }
}

impl Told for Error {
    fn salt(&self) -> u64 {
        name_hash(&self.placeless().to_string())
    }
}

impl Told for crate::NoSuchSignal {}
impl Told for Misfit {}
impl Told for String {}
impl Told for &str {}

impl State {
    /// Records that something could not be done.
    pub(crate) fn fault(&mut self, error: &impl Told, doing: Doing) {
        self.note_fault(error.to_string().into(), error.salt(), None, doing);
    }

    /// The same for a fault of a part of an object.
    pub(crate) fn fault_of(&mut self, object: ObjectId, error: &impl Told, doing: Doing) {
        self.note_fault(error.to_string().into(), error.salt(), Some(object), doing);
    }

    pub(crate) fn note_fault(&mut self, message: Text, salt: u64, object: Option<ObjectId>, doing: Doing) {
        let object = object.or_else(|| self.object_of_wire(doing.by?)).or(doing.who);
        let event = Event::Fault { message: message.clone(), object, wire: doing.by };
        self.bus.trace.note(doing.cause, salt, event);
        let fault = Fault { tick: self.clock.now, message, object, wire: doing.by, who: doing.who };
        self.faults.count += 1;
        if self.faults.waiting.len() == MOST {
            self.faults.waiting.pop_front();
        }
        self.faults.waiting.push_back(fault);
    }

    /// The object a wire is about: its owner, or the one whose signal it hears.
    fn object_of_wire(&self, wire: WireId) -> Option<ObjectId> {
        let signal = self.wire_signals(wire).first();
        let giver = || self.bus.signals.lane(*signal?)?.of;
        self.wire_owner(wire).or_else(giver)
    }

    /// The first of those that came after the first `before`, if it is kept still.
    pub(crate) fn fault_after(&self, before: u64) -> Option<&Fault> {
        let since = usize::try_from(self.faults.count.saturating_sub(before)).ok()?;
        let first = self.faults.waiting.len().saturating_sub(since);
        self.faults.waiting.get(first)
    }

    /// How many [faults](Fault) there were since the world was made.
    pub fn faults_so_far(&self) -> u64 {
        self.faults.count
    }
}

impl<G: 'static> World<G> {
    /// Takes what could not be done since the last call, oldest first: at every trace level, with the object, the wire
    /// and who caused it. The latest 1,024 are kept.
    ///
    /// ```
    /// use stoicheon_core::World;
    /// let mut world = World::<()>::new();
    /// let bell = world.declare_signal::<()>("bell")?;
    /// world.on(bell).run(|_, (), _| Err("the rope is torn"))?;
    /// world.emit(bell, ())?;
    /// world.step(&mut ())?;
    /// assert_eq!(world.take_faults().next().map(|fault| fault.message), Some("the rope is torn".into()));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn take_faults(&mut self) -> impl Iterator<Item = Fault> + use<G> {
        std::mem::take(&mut self.state.faults.waiting).into_iter()
    }
}
