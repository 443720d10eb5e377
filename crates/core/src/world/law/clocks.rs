//! Phase 2, clocks: what waited for a moment, or for something to hold, goes on.

use crate::{base::error::Error, moment::run::Run, world::World};

impl<G: 'static> World<G> {
    /// Phase 2: reactions whose time has come go on, and parts whose time has come are told, by due tick, then in the
    /// order they began to wait; then those reactions that wait for something that has come to hold, in the order they began to wait.
    pub(crate) fn clocks(&mut self, game: &mut G) -> Result<(), Error> {
        loop {
            let now = self.state.now();
            let waits = self.state.moment.waiting.first_due(now);
            let rings = self.state.moment.alarms.first().filter(|(due, _)| *due <= now);
            match (waits, rings) {
                (None, None) => break,
                (waits, Some(rings)) if waits.is_none_or(|waits| rings < waits) => {
                    self.state.ring();
                    self.state.update_binds();
                }
                _ => {
                    if let Some(run) = self.state.next_due() {
                        self.go_on(run, game)?;
                    }
                }
            }
        }
        for key in self.state.take_stale_waits() {
            if let Some(run) = self.state.next_fulfilled(key) {
                self.go_on(run, game)?;
            }
        }
        Ok(())
    }

    fn go_on(&mut self, run: Run, game: &mut G) -> Result<(), Error> {
        let wire = run.wire;
        if self.state.moment.wires.get(wire).is_some_and(|wire| wire.ops.is_some()) {
            self.state.run(run);
        } else {
            self.stores.run_late(&mut self.state, game, &mut self.fresh, &run);
            self.put_fresh();
        }
        self.state.begin_held(wire);
        if let Some(error) = self.state.end_endless().or_else(|| self.state.end_overfull()) {
            return Err(error);
        }
        self.state.update_binds();
        Ok(())
    }
}
