//! A tick that does not come to rest: finding the loop and naming it.
//!
//! Past the limit, a stretch of further deliveries is watched. Each knows the delivery it was emitted in, so the
//! way back from the last one leads round the loop.

use crate::{
    base::{
        doing::Doing,
        error::{Error, TickError},
        ids::WireId,
        place::Place,
    },
    moment::runaway::Spawner,
    state::State,
};

impl State {
    /// Whether one more object can be spawned.
    pub(crate) fn check_room(&mut self, by: Option<WireId>) -> Result<(), Error> {
        let running = self.moment.started && !self.moment.scenes.loading;
        if !running || self.moment.objects.len() < self.most_objects as usize {
            return Ok(());
        }
        self.scratch.overfull.get_or_insert(Spawner(by));
        Err(self.too_many(by))
    }

    fn too_many(&self, by: Option<WireId>) -> Error {
        let wire = by.and_then(|wire| self.wire_place(wire)).map(ToString::to_string);
        Error::Tick(TickError::TooManyObjects {
            tick: self.moment.clock.now.0,
            most: self.most_objects,
            wire: wire.unwrap_or_else(|| "the game itself".to_owned()),
        })
    }

    /// The error for a tick in which more would have been spawned than there may be: what is still queued is let go.
    pub(crate) fn end_overfull(&mut self) -> Option<Error> {
        let error = self.scratch.overfull.take().map(|Spawner(by)| self.too_many(by))?;
        self.bus.queue.clear();
        self.bus.payloads.clear();
        Some(error)
    }

    /// The error for a sequence that did not come to rest, if there is one: what is still queued is let go.
    pub(crate) fn end_endless(&mut self) -> Option<Error> {
        let wire = self.scratch.endless.take()?;
        let error = Error::Tick(TickError::EndlessSequence {
            tick: self.moment.clock.now.0,
            statements: self.bus.runaway.most_statements,
            place: self.wire_place(wire).cloned().unwrap_or_else(|| Place { file: "?".into(), line: 0 }),
        });
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
            salt = crate::base::names::name_hash(&format!("{salt:x} {name}"));
            links.push(name.to_owned());
        }
        // Read as a loop: it ends where it began.
        if let Some(last) = links.last().cloned() {
            links.insert(0, last);
        }
        let error = Error::Tick(TickError::Runaway {
            tick: self.moment.clock.now.0,
            deliveries: self.bus.runaway.delivery(),
            rounds: self.bus.queue.rounds,
            chain: links,
        });
        self.bus.queue.clear();
        self.bus.payloads.clear();
        self.note_fault(error.to_string().into(), salt, None, Doing::default());
        error
    }
}
