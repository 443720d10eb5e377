//! Going back: moments that are kept whole, and what was handed in between them.

use std::{any::Any, collections::VecDeque};

use stoicheon_core::{Error, HandedIn, SaveError, Snapshot, State, World};

/// A game's own state, kept with a moment.
pub(crate) type KeptGame = Option<Box<dyn Any + Send>>;

/// A moment that is kept whole.
#[derive(Debug)]
struct Kept {
    tick: u64,
    snapshot: Snapshot,
    game: KeptGame,
    /// The number of the wiring it had.
    wiring: usize,
}

/// What has been, as far back as it is kept.
#[derive(Debug)]
pub(crate) struct History {
    kept: VecDeque<Kept>,
    /// What was handed in for each tick after the first moment kept, without gaps.
    ticks: VecDeque<HandedIn>,
    /// How many ticks lie between two moments.
    every: u64,
    /// How many ticks are kept.
    longest: u64,
    /// Something changed the world that was not handed in: the next moment is kept.
    is_due: bool,
}

/// How far one got.
#[derive(Debug, PartialEq, Eq)]
pub(crate) enum Wound {
    There,
    /// The way there from the moment before could not be gone a second time: the game does something between ticks.
    Before(u64),
}

impl History {
    pub(crate) fn new(every: u64, longest: u64) -> Self {
        Self { kept: VecDeque::new(), ticks: VecDeque::new(), every, longest, is_due: true }
    }

    /// The first tick one can go to.
    pub(crate) fn first(&self) -> Option<u64> {
        self.kept.front().map(|kept| kept.tick)
    }

    /// The last tick that was reached.
    pub(crate) fn last(&self) -> Option<u64> {
        let kept = self.kept.back().map(|kept| kept.tick);
        kept.max(self.ticks.back().map(|tick| tick.tick().0))
    }

    /// The next moment is kept, whenever it is.
    pub(crate) fn keep_next(&mut self) {
        self.is_due = true;
    }

    /// Whether the world stands before ticks that have been.
    pub(crate) fn has_future(&self, state: &State) -> bool {
        self.last().is_some_and(|last| last > state.now().0)
    }

    /// The world goes on from here: what came after this tick did not happen. Whether there was anything.
    pub(crate) fn cut(&mut self, now: u64) -> bool {
        let had = self.last().is_some_and(|last| last > now);
        while self.ticks.back().is_some_and(|tick| tick.tick().0 > now) {
            self.ticks.pop_back();
        }
        while self.kept.back().is_some_and(|kept| kept.tick > now) {
            self.kept.pop_back();
        }
        had
    }

    /// After ticks that were new: what was handed in, and perhaps the moment itself. The tick after which they took another way than
    /// before, if they did.
    pub(crate) fn note<G: 'static>(
        &mut self,
        world: &mut World<G>,
        wiring: usize,
        game: impl FnOnce() -> KeptGame,
    ) -> Option<u64> {
        let ticks = world.take_inputs();
        let before = ticks.first().map(|first| first.tick().0 - 1);
        let branch = before.filter(|before| self.cut(*before));
        self.ticks.extend(ticks);
        let now = world.now().0;
        let is_next = self.kept.back().is_none_or(|kept| now >= kept.tick + self.every);
        if (is_next || self.is_due)
            && let Ok(snapshot) = world.snapshot()
        {
            if self.kept.back().is_some_and(|kept| kept.tick == now) {
                self.kept.pop_back();
            }
            self.kept.push_back(Kept { tick: now, snapshot, game: game(), wiring });
            self.is_due = false;
        }
        // A moment goes when the next one is old enough to begin with.
        while let Some(second) = self.kept.get(1).map(|kept| kept.tick)
            && second + self.longest <= now
        {
            self.kept.pop_front();
            while self.ticks.front().is_some_and(|tick| tick.tick().0 <= second) {
                self.ticks.pop_front();
            }
        }
        branch
    }

    /// To a tick that has been: from here on if it is later, and otherwise from the moment before it. Says which wiring the world
    /// has there.
    ///
    /// # Errors
    /// What the world says, or that the tick is none that is kept.
    pub(crate) fn wind<G: 'static>(
        &self,
        (world, game): (&mut World<G>, &mut G),
        tick: u64,
        wiring: &mut usize,
        put: &mut dyn FnMut(&mut G, &(dyn Any + Send)),
    ) -> Result<Wound, String> {
        let here = world.now().0;
        if tick <= here {
            let Some(kept) = self.before(tick) else {
                let first = self.first().unwrap_or(here);
                return Err(format!("tick {tick} is further back than is kept: the first is {first}"));
            };
            kept.restore(world, game, put)?;
            *wiring = kept.wiring;
        }
        // Where something changed the world that was not handed in, one goes on from the moment after that.
        if let Some(stuck) = self.go_on(world, game, tick)?
            && let Some(kept) = self.before(tick).filter(|kept| kept.tick >= stuck)
        {
            kept.restore(world, game, put)?;
            *wiring = kept.wiring;
            self.go_on(world, game, tick)?;
        }
        Ok(if world.now().0 == tick { Wound::There } else { Wound::Before(world.now().0) })
    }

    /// The last moment kept up to a tick.
    fn before(&self, tick: u64) -> Option<&Kept> {
        self.kept.iter().rev().find(|kept| kept.tick <= tick)
    }

    /// Through the ticks up to that one. Where it cannot go on, if it cannot.
    fn go_on<G: 'static>(
        &self,
        world: &mut World<G>,
        game: &mut G,
        tick: u64,
    ) -> Result<Option<u64>, String> {
        let from = world.now().0;
        let ticks = self.ticks.iter().skip_while(|again| again.tick().0 <= from);
        for again in ticks.take_while(|again| again.tick().0 <= tick) {
            // A tick that was ended before it came to rest was so then, too.
            let stepped = world.step_again(again, game);
            world.take_effects().for_each(drop);
            match stepped {
                Ok(()) | Err(Error::Tick(_)) => {}
                Err(Error::Save(SaveError::Mismatch { .. })) => return Ok(Some(world.now().0)),
                Err(error) => return Err(error.to_string()),
            }
        }
        Ok(None)
    }
}

impl Kept {
    fn restore<G: 'static>(
        &self,
        world: &mut World<G>,
        game: &mut G,
        put: &mut dyn FnMut(&mut G, &(dyn Any + Send)),
    ) -> Result<(), String> {
        world.restore(&self.snapshot).map_err(|error| error.to_string())?;
        if let Some(kept) = &self.game {
            put(game, kept.as_ref());
        }
        Ok(())
    }
}
