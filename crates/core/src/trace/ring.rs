//! The latest records, in bounded memory.
//!
//! Most records say that a wire took a signal. They are kept small and apart from the others, so that recording
//! them costs little.

use std::collections::VecDeque;

use super::record::{Event, Phase, Record, RecordId};
use crate::{clock::Tick, wire::WireId};

#[derive(Clone, Copy, Debug)]
enum Slim {
    Took {
        wire: WireId,
        cause: Option<RecordId>,
        tick: Tick,
        phase: Phase,
    },
    /// The record is in the other list; this is its number there.
    Whole(u64),
}

#[derive(Clone, Debug)]
pub(super) struct Ring {
    slim: Vec<Slim>,
    capacity: usize,
    /// Where the next record goes once the ring is full.
    at: usize,
    whole: VecDeque<Record>,
    /// The number of the first record in `whole`.
    first_whole: u64,
}

impl Ring {
    pub(super) fn new(capacity: usize) -> Self {
        Self { slim: Vec::new(), capacity: capacity.max(1), at: 0, whole: VecDeque::new(), first_whole: 0 }
    }

    pub(super) fn len(&self) -> usize {
        self.slim.len()
    }

    #[inline]
    fn place(&mut self, slim: Slim) {
        if self.slim.len() < self.capacity {
            self.slim.push(slim);
            return;
        }
        let old = &mut self.slim[self.at];
        if let Slim::Whole(_) = old {
            // The oldest record of all is the oldest whole one too.
            self.whole.pop_front();
            self.first_whole += 1;
        }
        *old = slim;
        self.at += 1;
        if self.at == self.capacity {
            self.at = 0;
        }
    }

    #[inline]
    pub(super) fn push_took(&mut self, wire: WireId, cause: Option<RecordId>, tick: Tick, phase: Phase) {
        self.place(Slim::Took { wire, cause, tick, phase });
    }

    pub(super) fn push(&mut self, record: Record) {
        let number = self.first_whole + self.whole.len() as u64;
        // Placed first: making room takes the oldest whole record away, and leaves the numbers as they are.
        self.place(Slim::Whole(number));
        self.whole.push_back(record);
    }

    /// The record of that number, when there were `records` so far.
    #[expect(clippy::cast_possible_truncation, reason = "less than the length of a vector")]
    pub(super) fn get(&self, records: u64, number: u64) -> Option<Record> {
        let back = records.checked_sub(number)?;
        if number == 0 || back >= self.slim.len() as u64 {
            return None;
        }
        let newest = (self.at + self.slim.len() - 1) % self.slim.len();
        let index = (newest + self.slim.len() - back as usize) % self.slim.len();
        Some(match self.slim[index] {
            Slim::Took { wire, cause, tick, phase } => {
                Record { tick, phase, cause, event: Event::Took { wire } }
            }
            Slim::Whole(number) => self.whole.get((number - self.first_whole) as usize)?.clone(),
        })
    }

    /// Forgets the records after a number; all of them, if it is not one that is kept.
    pub(super) fn forget_after(&mut self, records: u64, number: u64) {
        let kept: Vec<_> = (records + 1 - self.slim.len() as u64..=number.min(records))
            .filter_map(|number| self.get(records, number))
            .collect();
        *self = Self::new(self.capacity);
        if number <= records {
            kept.into_iter().for_each(|record| match record.event {
                Event::Took { wire } => self.push_took(wire, record.cause, record.tick, record.phase),
                _ => self.push(record),
            });
        }
    }
}
