//! The latest records, in bounded memory.
//!
//! Most records say that a wire took a signal. They are kept small and apart from the others, so that recording
//! them costs little.

use std::collections::VecDeque;

use crate::{
    base::{
        clock::Tick,
        ids::{RecordId, WireId},
    },
    trace::record::{Event, Phase, Record},
};

#[derive(Clone, Copy, Debug)]
pub(crate) enum Slim {
    /// Only a settle phase has it, or start-up, which is in a tick of its own; so the phase need not be kept.
    Took { wire: WireId, cause: Option<RecordId>, tick: Tick },
    /// The record is in the other list; this is its number there.
    Whole(u64),
}

/// What an entry is that was never used.
const EMPTY: Slim = Slim::Whole(u64::MAX);

#[derive(Clone, Debug)]
pub(crate) struct Ring {
    /// As long as the capacity from the start.
    slim: Box<[Slim]>,
    /// How many entries are used.
    used: usize,
    /// Where the next record goes.
    at: usize,
    whole: VecDeque<Record>,
    /// The number of the first record in `whole`.
    first_whole: u64,
}

impl Ring {
    pub(crate) fn new(capacity: usize) -> Self {
        let slim = vec![EMPTY; capacity.max(1)].into();
        Self { slim, used: 0, at: 0, whole: VecDeque::new(), first_whole: 0 }
    }

    pub(crate) fn len(&self) -> usize {
        self.used
    }

    fn place(&mut self, slim: Slim) {
        if let Slim::Whole(number) = self.slim[self.at]
            && number == self.first_whole
            && self.used == self.slim.len()
        {
            // The oldest record of all is the oldest whole one too.
            self.whole.pop_front();
            self.first_whole += 1;
        }
        self.slim[self.at] = slim;
        self.use_entry();
        self.used = (self.used + 1).min(self.slim.len());
    }

    /// Where the next record goes, if that is a taking and nothing has to be cleared away. Nearly all go this way.
    #[inline]
    pub(crate) fn free_took(&mut self) -> Option<&mut Slim> {
        self.slim.get_mut(self.at).filter(|slim| matches!(slim, Slim::Took { .. }))
    }

    #[inline]
    pub(crate) fn took(wire: WireId, cause: Option<RecordId>, tick: Tick) -> Slim {
        Slim::Took { wire, cause, tick }
    }

    /// Goes on past the record that was put there.
    #[inline]
    pub(crate) fn use_entry(&mut self) {
        self.at += 1;
        if self.at == self.slim.len() {
            self.at = 0;
        }
    }

    pub(crate) fn push_took(&mut self, wire: WireId, cause: Option<RecordId>, tick: Tick) {
        self.place(Slim::Took { wire, cause, tick });
    }

    pub(crate) fn push(&mut self, record: Record) {
        let number = self.first_whole + self.whole.len() as u64;
        // Placed first: making room takes the oldest whole record away, and leaves the numbers as they are.
        self.place(Slim::Whole(number));
        self.whole.push_back(record);
    }

    /// The record of that number, when there were `records` so far.
    #[expect(clippy::cast_possible_truncation, reason = "less than the length of a vector")]
    pub(crate) fn get(&self, records: u64, number: u64, start: Tick) -> Option<Record> {
        let back = records.checked_sub(number)?;
        if number == 0 || back >= self.used as u64 {
            return None;
        }
        let index = (self.at + self.slim.len() - 1 - back as usize) % self.slim.len();
        Some(match self.slim[index] {
            Slim::Took { wire, cause, tick } => {
                let phase = if tick == start { Phase::Start } else { Phase::Settle };
                Record { tick, phase, cause, event: Event::Took { wire } }
            }

            Slim::Whole(number) => self.whole.get((number - self.first_whole) as usize)?.clone(),
        })
    }

    /// Of `records` so far, forgets those after a number; all of them, if there were not so many.
    pub(crate) fn forget_after(&mut self, records: u64, number: u64) {
        let newer = records.checked_sub(number).and_then(|newer| usize::try_from(newer).ok());
        for _ in 0..newer.unwrap_or(self.used).min(self.used) {
            self.at = self.at.checked_sub(1).unwrap_or(self.slim.len() - 1);
            if matches!(std::mem::replace(&mut self.slim[self.at], EMPTY), Slim::Whole(_)) {
                self.whole.pop_back();
            }
            self.used -= 1;
        }
    }
}
