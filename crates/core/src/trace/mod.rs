//! The trace: an ordered record of what happened and what each thing came from.

pub(crate) mod digest;
pub(crate) mod record;
pub(crate) mod ring;

use serde::{Deserialize, Serialize};

use crate::{
    base::{
        clock::Tick,
        ids::{ObjectId, RecordId, SignalId, WireId},
        value::Values,
    },
    trace::{
        digest::{Digest, Feed},
        record::{Event, Phase, Record},
        ring::Ring,
    },
};

/// How much of what happens is recorded.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
#[non_exhaustive]
pub enum TraceLevel {
    /// Nothing is recorded, and no digest is kept. Signals and wires still count for themselves.
    Off,
    /// Only the [`Totals`] are kept.
    Counts,
    /// Everything is recorded, the latest records are kept, and the digest covers all of them.
    #[default]
    Full,
}

/// What happened so far, in numbers.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Totals {
    /// Signals delivered.
    pub delivered: u64,
    /// Of those, how many no wire took.
    pub unheard: u64,
    /// Deliveries to single wires.
    pub taken: u64,
    /// Refusals of single wires that were awake.
    pub refused: u64,
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
    ring: Ring,
    head: TraceHead,
}

/// What a snapshot keeps of a trace: enough to go on with the same digest.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct TraceHead {
    /// The tick of start-up: 0, or later in a world that goes on from a save.
    #[serde(default)]
    start: Tick,
    /// How many records there were.
    records: u64,
    digest: Digest,
    totals: Totals,
}

impl Trace {
    pub(crate) fn new(level: TraceLevel, capacity: usize) -> Self {
        Self {
            level,
            tick: Tick(0),
            phase: Phase::Start,
            ring: Ring::new(capacity),
            head: TraceHead::default(),
        }
    }

    /// Whether everything is recorded.
    #[inline]
    pub fn is_on(&self) -> bool {
        self.level == TraceLevel::Full
    }

    /// How many records there were so far, kept or not.
    pub fn len(&self) -> u64 {
        self.head.records
    }

    /// Whether nothing was recorded so far.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The digest of everything recorded so far; 0 unless everything is recorded.
    pub fn digest(&self) -> u64 {
        self.head.digest.value()
    }

    /// What happened so far, in numbers; zeros when the level is [`TraceLevel::Off`].
    pub fn totals(&self) -> Totals {
        self.head.totals
    }

    /// The records still kept, oldest first.
    pub fn records(&self) -> impl Iterator<Item = (RecordId, Record)> {
        self.records_after(0)
    }

    /// The records still kept with a number above that one, oldest first: what came since the last call of one who reads along.
    pub fn records_after(&self, number: u64) -> impl Iterator<Item = (RecordId, Record)> {
        (self.first_kept().max(number.saturating_add(1))..=self.len()).filter_map(|number| {
            let id = RecordId::new(number)?;
            Some((id, self.get(id)?))
        })
    }

    /// One record, if it is still kept.
    pub fn get(&self, id: RecordId) -> Option<Record> {
        self.ring.get(self.len(), id.number(), self.head.start)
    }

    /// The chain of causes of a record: the record itself, what it came from, and so on back to an input, a
    /// clock or a motion, or to where the trace no longer reaches.
    pub fn why(&self, id: RecordId) -> Vec<RecordId> {
        let mut chain = Vec::new();
        let mut at = Some(id);
        while let Some(id) = at
            && let Some(record) = self.get(id)
        {
            chain.push(id);
            at = record.cause;
        }
        chain
    }

    /// The number of the oldest record still kept, or of the next one if none is.
    pub(crate) fn first_kept(&self) -> u64 {
        self.len() + 1 - self.ring.len() as u64
    }

    /// Records one thing. `salt` stands for the name of what it is about, where it has one.
    #[inline]
    pub(crate) fn note(&mut self, cause: Option<RecordId>, salt: u64, event: Event) -> Option<RecordId> {
        if !self.is_on() {
            return None;
        }
        self.head.digest.event(salt, &event);
        self.ring.push(Record { tick: self.tick, phase: self.phase, cause, event });
        self.head.records += 1;
        RecordId::new(self.head.records)
    }

    /// Records that a signal is delivered: the second commonest record.
    pub(crate) fn delivered(
        &mut self,
        cause: Option<RecordId>,
        salt: u64,
        signal: SignalId,
        who: Option<ObjectId>,
        values: Values,
        after: u64,
    ) -> Option<RecordId> {
        self.head.digest.delivered(salt, who, &values);
        let event = Event::Delivered { signal, who, values, after };
        self.ring.push(Record { tick: self.tick, phase: self.phase, cause, event });
        self.head.records += 1;
        RecordId::new(self.head.records)
    }

    /// Records that a wire took the signal whose delivery is `cause`: the commonest record by far, so its usual way
    /// calls nothing.
    #[inline]
    pub(crate) fn took(&mut self, cause: Option<RecordId>, wire: WireId) -> Option<RecordId> {
        if self.is_on() { self.took_on(cause, wire) } else { None }
    }

    /// The same for a trace that is known to be on.
    #[expect(clippy::inline_always, reason = "called once per wire and delivery; measured")]
    #[inline(always)]
    pub(crate) fn took_on(&mut self, cause: Option<RecordId>, wire: WireId) -> Option<RecordId> {
        let (Some(word), Some(entry)) = (self.head.digest.free_word(), self.ring.free_took()) else {
            return self.took_slowly(cause, wire);
        };
        *word = Digest::took(wire);
        *entry = Ring::took(wire, cause, self.tick);
        self.head.digest.use_word();
        self.ring.use_entry();
        self.head.records += 1;
        RecordId::new(self.head.records)
    }

    #[inline(never)]
    fn took_slowly(&mut self, cause: Option<RecordId>, wire: WireId) -> Option<RecordId> {
        self.head.digest.took_slowly(wire);
        self.ring.push_took(wire, cause, self.tick);
        self.head.records += 1;
        RecordId::new(self.head.records)
    }

    /// Counts a delivery.
    #[inline]
    pub(crate) fn count(&mut self, taken: u64, refused: u64) {
        if self.level != TraceLevel::Off {
            let totals = &mut self.head.totals;
            totals.delivered += 1;
            totals.unheard += u64::from(taken == 0);
            totals.taken += taken;
            totals.refused += refused;
        }
    }

    /// Counts deliveries that all of so many wires took.
    #[inline]
    pub(crate) fn count_rounds(&mut self, rounds: u64, wires: u64) {
        if self.level != TraceLevel::Off {
            let totals = &mut self.head.totals;
            totals.delivered += rounds;
            totals.unheard += if wires == 0 { rounds } else { 0 };
            totals.taken += rounds * wires;
        }
    }

    /// Puts a fact into the digest that no record shows, such as where a body is now.
    pub(crate) fn feed(&mut self, fact: &impl Feed) {
        if self.is_on() {
            fact.feed(&mut self.head.digest);
        }
    }

    /// Ends a tick: its records become part of the digest.
    pub(crate) fn seal(&mut self) {
        if self.is_on() {
            self.head.digest.seal(self.tick);
        }
    }

    /// Start-up is in that tick.
    pub(crate) fn start_at(&mut self, tick: Tick) {
        self.head.start = tick;
    }

    pub(crate) fn head(&self) -> &TraceHead {
        &self.head
    }

    /// Goes back to an earlier head: later records are forgotten. Records of another run are too.
    pub(crate) fn go_back(&mut self, head: TraceHead) {
        self.ring.forget_after(self.head.records, head.records);
        self.head = head;
    }
}
