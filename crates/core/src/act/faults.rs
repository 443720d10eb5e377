//! Faults: what could not be done and was left out. The trace has them, and the host can ask for them at every trace
//! level.

use std::fmt;

use crate::{
    base::{
        doing::Doing,
        error::Error,
        ids::{ObjectId, WireId},
        names::name_hash,
        value::Text,
    },
    moment::{
        faults::{Fault, MOST},
        memory::SaveMismatch,
    },
    state::State,
    trace::record::Event,
};

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

impl Told for crate::base::error::NoSuchSignal {}
impl Told for SaveMismatch {}
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
        let fault = Fault { tick: self.moment.clock.now, message, object, wire: doing.by, who: doing.who };
        self.outbox.faults.count += 1;
        if self.outbox.faults.waiting.len() == MOST {
            self.outbox.faults.waiting.pop_front();
        }
        self.outbox.faults.waiting.push_back(fault);
    }

    /// The object a wire is about: its owner, or the one whose signal it hears.
    fn object_of_wire(&self, wire: WireId) -> Option<ObjectId> {
        let signal = self.wire_signals(wire).first();
        let giver = || self.bus.signals.lane(*signal?)?.of;
        self.wire_owner(wire).or_else(giver)
    }

    /// The first of those that came after the first `before`, if it is kept still.
    pub(crate) fn fault_after(&self, before: u64) -> Option<&Fault> {
        let since = usize::try_from(self.outbox.faults.count.saturating_sub(before)).ok()?;
        let first = self.outbox.faults.waiting.len().saturating_sub(since);
        self.outbox.faults.waiting.get(first)
    }

    /// How many [faults](Fault) there were since the world was made.
    pub fn faults_so_far(&self) -> u64 {
        self.outbox.faults.count
    }
}
