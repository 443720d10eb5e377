//! Ticks that do not come to rest: what is counted to notice.

use crate::{
    base::ids::{SignalId, WireId},
    moment::queue::Emission,
};

/// How many deliveries past the limit are watched.
const WATCHED: usize = 2048;

/// Counts the deliveries of a tick.
#[derive(Clone, Debug)]
pub(crate) struct Runaway {
    most_deliveries: u32,
    most_rounds: u32,
    /// How many deliveries this tick has had.
    deliveries: u32,
    /// How many statements of sequences this tick may still run.
    statements: u32,
    pub(crate) most_statements: u32,
    /// How many it may have; fewer than usual once it has had its rounds.
    limit: u32,
    /// The number of the first delivery that was watched.
    first: u32,
    watched: Vec<(u32, SignalId, Option<WireId>)>,
}

impl Runaway {
    pub(crate) fn new(most_deliveries: u32, most_rounds: u32, most_statements: u32) -> Self {
        Self {
            statements: most_statements,
            most_statements,
            most_deliveries,
            most_rounds,
            deliveries: 0,
            limit: most_deliveries,
            first: 0,
            watched: Vec::new(),
        }
    }

    pub(crate) fn restart(&mut self) {
        self.deliveries = 0;
        self.limit = self.most_deliveries;
        self.watched.clear();
    }

    /// A new tick begins.
    pub(crate) fn restart_statements(&mut self) {
        self.statements = self.most_statements;
    }

    /// Counts a statement; false when there have been too many in this tick.
    #[inline]
    pub(crate) fn count_statement(&mut self) -> bool {
        match self.statements.checked_sub(1) {
            Some(left) => {
                self.statements = left;
                true
            }
            None => false,
        }
    }

    /// The number of the delivery under way, from 1.
    #[inline]
    pub(crate) fn delivery(&self) -> u32 {
        self.deliveries
    }

    /// Past the limit of rounds no delivery is left.
    #[inline]
    pub(crate) fn check_rounds(&mut self, rounds: u32) {
        if rounds > self.most_rounds {
            self.limit = self.limit.min(self.deliveries);
        }
    }

    /// Counts a delivery.
    #[inline]
    pub(crate) fn count(&mut self, emission: &Emission) {
        self.deliveries += 1;
        if self.deliveries > self.limit {
            self.watch(emission);
        }
    }

    #[cold]
    fn watch(&mut self, emission: &Emission) {
        if self.watched.is_empty() {
            self.first = self.deliveries;
        }
        self.watched.push((emission.parent, emission.signal, emission.by));
    }

    /// The limit is reached.
    #[inline]
    pub(crate) fn is_over(&self) -> bool {
        self.deliveries >= self.limit
    }

    pub(crate) fn seen_enough(&self) -> bool {
        self.watched.len() >= WATCHED
    }

    /// The loop: pairs of a signal and the wire that gave it, each caused by the next in the list.
    pub(crate) fn chain(&self) -> Vec<(SignalId, Option<WireId>)> {
        let mut back: Vec<(SignalId, Option<WireId>)> = Vec::new();
        let mut at = self.watched.len().checked_sub(1);
        while let Some((parent, signal, by)) = at.and_then(|index| self.watched.get(index)) {
            if let Some(start) = back.iter().position(|link| *link == (*signal, *by)) {
                return back.split_off(start);
            }
            back.push((*signal, *by));
            at = parent.checked_sub(self.first).map(|index| index as usize);
        }
        back
    }
}

/// Whose reaction would have made more objects than there may be, if it was one.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Spawner(pub(crate) Option<WireId>);
