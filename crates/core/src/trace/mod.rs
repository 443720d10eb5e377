//! The trace: an ordered record of what happened and what each thing came from.

mod digest;
mod record;

pub use digest::Digest;
pub(crate) use digest::{Feed, name_hash};
pub use record::{Event, Phase, Record, RecordId, Refusal};

use crate::clock::Tick;

/// How much of what happens is recorded.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum TraceLevel {
    /// Nothing is recorded, and no digest is kept.
    Off,
    /// Everything is recorded, the latest records are kept, and the digest covers all of them.
    #[default]
    Full,
}

/// The record of what happened.
///
/// It keeps the latest records, up to the capacity the world was made with; older ones make room. The
/// [`digest`](Self::digest) covers every record there ever was.
#[derive(Clone, Debug)]
pub struct Trace {
    level: TraceLevel,
    pub(crate) tick: Tick,
    pub(crate) phase: Phase,
    ring: Vec<Record>,
    capacity: usize,
    /// The number of the next record; the first is 1.
    next: u64,
    digest: Digest,
}

impl Trace {
    pub(crate) fn new(level: TraceLevel, capacity: usize) -> Self {
        Self {
            level,
            tick: Tick(0),
            phase: Phase::Start,
            ring: Vec::new(),
            capacity: capacity.max(1),
            next: 1,
            digest: Digest::default(),
        }
    }

    /// Whether anything is recorded.
    #[inline]
    pub fn is_on(&self) -> bool {
        self.level == TraceLevel::Full
    }

    /// How many records there were so far, kept or not.
    pub fn len(&self) -> u64 {
        self.next - 1
    }

    /// Whether nothing was recorded so far.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The digest of everything recorded so far.
    pub fn digest(&self) -> u64 {
        self.digest.value()
    }

    /// The records still kept, oldest first.
    pub fn records(&self) -> impl Iterator<Item = (RecordId, &Record)> {
        let first = self.first_kept();
        (first..self.next).filter_map(|number| {
            let id = RecordId::new(number)?;
            Some((id, self.get(id)?))
        })
    }

    /// One record, if it is still kept.
    pub fn get(&self, id: RecordId) -> Option<&Record> {
        if id.number() < self.first_kept() || id.number() >= self.next {
            return None;
        }
        self.ring.get(self.slot(id.number()))
    }

    /// The chain of causes of a record: the record itself, what it came from, and so on back to an input, a
    /// clock or a motion, or to where the trace no longer reaches.
    pub fn why(&self, id: RecordId) -> Vec<RecordId> {
        let mut chain = Vec::new();
        let mut at = Some(id);
        while let Some(id) = at.filter(|id| self.get(*id).is_some()) {
            chain.push(id);
            at = self.get(id).and_then(|record| record.cause);
        }
        chain
    }

    /// The number of the oldest record still kept, or of the next one if none is.
    pub(crate) fn first_kept(&self) -> u64 {
        self.next - self.ring.len() as u64
    }

    #[expect(clippy::cast_possible_truncation, reason = "taken modulo the capacity, which is a usize")]
    fn slot(&self, number: u64) -> usize {
        ((number - 1) % self.capacity as u64) as usize
    }

    /// Records one thing. `salt` stands for the name of what it is about, where it has one.
    #[inline]
    pub(crate) fn note(&mut self, cause: Option<RecordId>, salt: u64, event: Event) -> Option<RecordId> {
        if !self.is_on() {
            return None;
        }
        self.digest.event(salt, &event);
        let slot = self.slot(self.next);
        let record = Record { tick: self.tick, phase: self.phase, cause, event };
        match self.ring.get_mut(slot) {
            Some(old) => *old = record,
            None => self.ring.push(record),
        }
        self.next += 1;
        RecordId::new(self.next - 1)
    }

    /// Puts a fact into the digest that no record shows, such as where a body is now.
    pub(crate) fn feed(&mut self, fact: &impl Feed) {
        if self.is_on() {
            fact.feed(&mut self.digest);
        }
    }

    /// Ends a tick: its records become part of the digest.
    pub(crate) fn seal(&mut self) {
        if self.is_on() {
            self.digest.seal(self.tick);
        }
    }
}
