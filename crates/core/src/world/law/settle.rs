//! Phase 5, settle: one signal reaches all its wires before the next one starts.

use crate::{base::error::Error, world::World};

impl<G: 'static> World<G> {
    /// Phase 5: one signal reaches all its wires before the next one starts.
    pub(crate) fn settle(&mut self, game: &mut G) -> Result<(), Error> {
        self.state.bus.queue.restart();
        self.state.bus.runaway.restart();
        while let Some(emission) = self.state.bus.next() {
            if self.state.bus.runaway.seen_enough() {
                return Err(self.state.give_up());
            }
            if !self.state.plan.crossings.is_empty() && !self.state.cross(&emission) {
                continue;
            }
            self.stores.deliver(&mut self.state, game, &mut self.fresh, emission);
            self.put_fresh();
            if self.state.scratch.went_too_far()
                && let Some(error) = self.state.end_endless().or_else(|| self.state.end_overfull())
            {
                return Err(error);
            }
            self.state.update_binds();
        }
        self.state.bus.runaway.restart();
        Ok(())
    }

    /// Puts the closures that were wired in a reaction where they are called from.
    pub(crate) fn put_fresh(&mut self) {
        if self.fresh.is_empty() {
            return;
        }
        for put in self.fresh.drain(..) {
            put(&mut self.stores);
        }
    }
}
