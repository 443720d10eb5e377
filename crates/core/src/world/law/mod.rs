//! The order law: one tick, phase by phase. Each phase is a file of its own; `docs/order-law.md` says the same in
//! prose.

mod clocks;
mod intake;
mod motion;
mod settle;
mod start;
mod touch;
mod upkeep;

use crate::{
    base::{
        clock::{Advance, Seconds, Tick},
        error::Error,
    },
    plan::reads::Read,
    trace::record::Phase,
    world::World,
};

impl<G: 'static> World<G> {
    /// Gives the world the time of one frame: it runs as many ticks as fit, and keeps the remainder exactly.
    ///
    /// The first call runs start-up before anything else. Time past the catch-up limit is let go and reported.
    ///
    /// # Errors
    /// [`Error::BadFrame`] for a frame time that is negative or not a number, which changes nothing.
    /// [`TickError::Runaway`](crate::TickError::Runaway) for a tick that would not come to rest; the ticks still due are let go.
    /// [`Error::BrokenOff`] after a reaction panicked.
    pub fn advance(&mut self, frame: Seconds, game: &mut G) -> Result<Advance, Error> {
        self.run_frame(frame, game, true, |_, _| ())
    }

    /// The same; before each tick the host is asked, for a game whose own simulation goes in the same ticks. What it hands
    /// in takes effect in that tick; nothing is spread over several.
    ///
    /// ```
    /// use stoicheon_core::{Vec3, World, secs};
    /// let mut world = World::<f32>::new(); // 30 ticks per second
    /// let ada = world.player("ada").add()?;
    /// let mut x = 0.0;
    /// world.advance_with(secs(0.1), &mut x, |world, x| {
    ///     *x += 0.5;
    ///     world.move_to(ada, Vec3::new(*x, 0.0, 0.0)).expect("ada is here");
    /// })?;
    /// assert_eq!(world.place(ada)?.x, 1.5);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// As for [`advance`](Self::advance).
    pub fn advance_with(
        &mut self,
        frame: Seconds,
        game: &mut G,
        before_each: impl FnMut(&mut Self, &mut G),
    ) -> Result<Advance, Error> {
        self.run_frame(frame, game, false, before_each)
    }

    /// `spread` says whether the ways of bodies that the host moves are spread over the ticks of the frame.
    fn run_frame(
        &mut self,
        frame: Seconds,
        game: &mut G,
        spread: bool,
        mut before_each: impl FnMut(&mut Self, &mut G),
    ) -> Result<Advance, Error> {
        self.check_whole()?;
        let advance = self.state.moment.clock.take(frame, self.config.catch_up);
        let advance = advance.ok_or(Error::BadFrame { found: frame })?;
        if advance.ticks > 0 {
            self.begin_frame();
        }
        self.start(game)?;
        for left in (1..=advance.ticks).rev() {
            before_each(self, game);
            self.ticks_left = if spread { left } else { 1 };
            self.tick(game)?;
        }
        Ok(advance)
    }

    /// Ticks are about to run.
    pub(super) fn begin_frame(&mut self) {
        self.state.scratch.moves.begin();
        self.frame_began = self.state.moment.clock.now;
        self.ticks_left = 1;
    }

    /// Runs exactly one tick, whatever time it is.
    ///
    /// # Errors
    /// [`TickError::Runaway`](crate::TickError::Runaway) and [`Error::BrokenOff`], as for [`advance`](Self::advance).
    pub fn step(&mut self, game: &mut G) -> Result<(), Error> {
        self.check_whole()?;
        self.begin_frame();
        self.start(game)?;
        self.tick(game)
    }

    /// One tick.
    pub(super) fn tick(&mut self, game: &mut G) -> Result<(), Error> {
        self.note_inputs();
        self.in_tick = true;
        self.state.moment.clock.now = Tick(self.state.moment.clock.now.0 + 1);

        self.state.bus.runaway.restart_statements();

        self.enter(Phase::Intake);
        self.intake();
        self.state.update_binds();

        self.enter(Phase::Clocks);
        self.state.bus.watches.changed(Read::Clock, None);
        let clocked = self.clocks(game);

        self.enter(Phase::Motion);
        self.state.motion();
        self.state.update_binds();

        self.enter(Phase::Touch);
        self.state.touch();
        self.state.update_binds();

        self.enter(Phase::Settle);
        let settled = clocked.and_then(|()| self.settle(game));

        self.enter(Phase::Upkeep);
        self.upkeep();

        self.in_tick = false;
        settled
    }

    fn enter(&mut self, phase: Phase) {
        self.state.bus.trace.tick = self.state.moment.clock.now;
        self.state.bus.trace.phase = phase;
    }
}
