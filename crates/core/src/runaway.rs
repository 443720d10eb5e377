//! A tick that does not come to rest: finding the loop and naming it.
//!
//! Past the limit, a stretch of further deliveries is watched. Each knows the delivery it was emitted in, so the
//! way back from the last one leads round the loop.

use crate::{
    bus::Doing,
    error::Error,
    queue::Emission,
    signal::SignalId,
    state::State,
    wire::{Place, WireId},
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
    most_statements: u32,
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
    fn chain(&self) -> Vec<(SignalId, Option<WireId>)> {
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

impl State {
    /// Whether one more object can be spawned.
    pub(crate) fn check_room(&mut self, by: Option<WireId>) -> Result<(), Error> {
        let running = self.started && !self.scenes.loading;
        if !running || self.objects.len() < self.most_objects as usize {
            return Ok(());
        }
        self.overfull.get_or_insert(Spawner(by));
        Err(self.too_many(by))
    }

    fn too_many(&self, by: Option<WireId>) -> Error {
        let wire = by.and_then(|wire| self.wire_place(wire)).map(ToString::to_string);
        Error::TooManyObjects {
            tick: self.clock.now.0,
            most: self.most_objects,
            wire: wire.unwrap_or_else(|| "the game itself".to_owned()),
        }
    }

    /// The error for a tick in which more would have been spawned than there may be: what is still queued is let go.
    pub(crate) fn end_overfull(&mut self) -> Option<Error> {
        let error = self.overfull.take().map(|Spawner(by)| self.too_many(by))?;
        self.bus.queue.clear();
        self.bus.payloads.clear();
        Some(error)
    }

    /// The error for a sequence that did not come to rest, if there is one: what is still queued is let go.
    pub(crate) fn end_endless(&mut self) -> Option<Error> {
        let wire = self.endless.take()?;
        let error = Error::EndlessSequence {
            tick: self.clock.now.0,
            statements: self.bus.runaway.most_statements,
            place: self.wire_place(wire).cloned().unwrap_or_else(|| Place { file: "?".into(), line: 0 }),
        };
        self.bus.queue.clear();
        self.bus.payloads.clear();
        self.fault(&error, Doing { by: Some(wire), ..Doing::default() });
        Some(error)
    }

    /// Ends a runaway tick: what is still queued is let go.
    pub(crate) fn give_up(&mut self) -> Error {
        let mut links: Vec<String> = Vec::new();
        let mut salt = 0;
        for (signal, by) in self.bus.runaway.chain().iter().rev() {
            if let Some(wire) = by.and_then(|wire| self.wire_place(wire)) {
                links.push(wire.to_string());
            }
            let name = self.signal_name(*signal).unwrap_or("?");
            // The digest knows the loop by its signals alone, wherever they were written.
            salt = crate::trace::name_hash(&format!("{salt:x} {name}"));
            links.push(name.to_owned());
        }
        // Read as a loop: it ends where it began.
        if let Some(last) = links.last().cloned() {
            links.insert(0, last);
        }
        let error = Error::Runaway {
            tick: self.clock.now.0,
            deliveries: self.bus.runaway.delivery(),
            rounds: self.bus.queue.rounds,
            chain: links,
        };
        self.bus.queue.clear();
        self.bus.payloads.clear();
        self.note_fault(error.to_string().into(), salt, None, Doing::default());
        error
    }
}
