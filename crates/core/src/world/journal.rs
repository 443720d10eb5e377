//! Keeping what the host hands in, to go through the same ticks once more.

use crate::{
    base::{
        clock::Tick,
        error::{Error, SaveError},
    },
    world::{World, handed_in::HandedIn, input::Input},
};

impl<G: 'static> World<G> {
    /// From now on, what is handed in for each tick is kept until it is [taken](Self::take_inputs): together with a snapshot it
    /// leads to every later tick again.
    ///
    /// What changes the world at once is not handed in, and not kept: making objects and wires, joining, loading scenes.
    /// Take a snapshot after that.
    ///
    /// ```
    /// use stoicheon_core::{Vec3, World};
    /// let mut world = World::<()>::new();
    /// let ada = world.player("ada").add()?;
    /// world.keep_inputs(true);
    /// let before = world.snapshot()?;
    /// world.walk(ada, Vec3::new(2.0, 0.0, 0.0), 4.0)?;
    /// for _ in 0..10 {
    ///     world.step(&mut ())?;
    /// }
    /// let ticks = world.take_inputs();
    /// let digest = world.trace().digest();
    ///
    /// world.restore(&before)?;
    /// for tick in &ticks {
    ///     world.step_again(tick, &mut ())?;
    /// }
    /// assert_eq!((world.now().0, world.trace().digest()), (10, digest));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn keep_inputs(&mut self, on: bool) {
        self.journal = on.then(Box::default);
    }

    /// What was handed in for each tick since the last call, in order; nothing unless it is [kept](Self::keep_inputs).
    pub fn take_inputs(&mut self) -> Vec<HandedIn> {
        self.journal.as_mut().map_or_else(Vec::new, |journal| std::mem::take(&mut journal.ticks))
    }

    /// Runs a tick once more, with what was handed in for it then. What has been handed in meanwhile is let go. The tick is not
    /// kept a second time.
    ///
    /// Reactions in Rust run again too, on the game that is passed.
    ///
    /// # Errors
    /// [`SaveError::Mismatch`] when the world does not stand before that tick, which changes nothing, or is otherwise than it was
    /// then: its trace says so, if it is recorded. And as for [`step`](Self::step).
    pub fn step_again(&mut self, tick: &HandedIn, game: &mut G) -> Result<(), Error> {
        self.check_whole()?;
        let next = self.state.now().0 + 1;
        if tick.tick.0 != next {
            let what = format!("what was handed in is for tick {}, and the next one is {next}", tick.tick.0);
            return Err(SaveError::Mismatch { what }.into());
        }
        let journal = self.journal.take();
        let done = self.start(game).and_then(|()| self.again(tick, game));
        self.journal = journal;
        done
    }

    fn again(&mut self, tick: &HandedIn, game: &mut G) -> Result<(), Error> {
        // What is to be done once was written when the world had started.
        for (wire, scene) in &tick.done {
            self.wire_in(wire, *scene)?;
        }
        self.state.moment.clock = tick.clock.clone();
        self.begin_frame();
        (self.frame_began, self.ticks_left) = (tick.frame_began, tick.ticks_left);
        self.inputs.restore(&tick.inputs);
        if !tick.payloads.is_empty() {
            self.state.bus.payloads.clear();
            self.state.bus.payloads.push_all(&tick.payloads);
        }
        if self.state.bus.trace.digest() == tick.digest {
            return self.tick(game);
        }
        let what = format!(
            "it is not as it was before tick {}: something changed it that was not handed in",
            tick.tick.0
        );
        Err(SaveError::Mismatch { what }.into())
    }

    /// Keeps what is about to be taken in.
    pub(crate) fn note_inputs(&mut self) {
        let Some(journal) = &mut self.journal else { return };
        let emits = self.inputs.all.iter().any(|input| matches!(input, Input::Emission(_)));
        journal.ticks.push(HandedIn {
            tick: Tick(self.state.moment.clock.now.0 + 1),
            digest: self.state.bus.trace.digest(),
            clock: self.state.moment.clock.clone(),
            frame_began: self.frame_began,
            ticks_left: self.ticks_left,
            inputs: self.inputs.all.clone(),
            payloads: if emits { self.state.bus.payloads.all_values() } else { Vec::new() },
            done: std::mem::take(&mut journal.done),
        });
    }
}
