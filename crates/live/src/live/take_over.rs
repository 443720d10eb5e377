//! Wiring that takes over while the world runs, and what it means for going back.

use std::{any::Any, fmt, sync::Arc};

use stoicheon_core::{Error, Rewired, State, World};
use stoicheon_view::short_place;

use crate::{
    history::History,
    live::{LINES, Live},
    reply::TookOver,
    shared::Frame,
    tape::{self, Line},
    wiring::LiveWiring,
};

/// Lets the wiring that was saved last take over in a world that is made of the wiring of a number.
type TakeOver = Box<dyn FnMut(&mut dyn Any, usize) -> Result<Rewired, Error> + Send>;

/// The wiring that has taken over so far.
#[derive(Default)]
pub(super) struct TakenOver {
    take_over: Option<TakeOver>,
    /// The number of the last one; that with which the world began is 0.
    last: usize,
    /// The number of the one the world is made of now, which is an earlier one after going back.
    pub(super) here: usize,
    pub(super) told: Option<TookOver>,
    /// How often wiring has taken over, also in worlds before.
    times: usize,
    /// Everything may look otherwise, and be written elsewhere.
    is_new: bool,
}

impl fmt::Debug for TakenOver {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("TakenOver")
            .field("last", &self.last)
            .field("here", &self.here)
            .finish_non_exhaustive()
    }
}

impl TakenOver {
    /// For another world.
    pub(super) fn of_another(&self) -> Self {
        Self { times: self.times, ..Self::default() }
    }
}

impl Live {
    /// Lets other wiring take over while the world runs: `take_over` changes a world that is made of the wiring of that number, 0 for
    /// the one it began with and 1 for the first that took over. It is called now; and again when a page goes on from a
    /// moment before wiring took over, so that one can go back, change something, and try again. `wiring` is for
    /// [typed lines and playtests](Self::with_wiring).
    ///
    /// ```no_run
    /// use stoicheon_core::{Catalogue, World};
    /// use stoicheon_live::Live;
    /// use stoicheon_script::load;
    /// let read = |text: &str| load("lock.stoi", text, &Catalogue::built_in());
    /// let mut texts = vec![read("object gate { door }")];
    /// let mut world = World::<()>::new();
    /// texts[0].build(&mut world)?;
    /// let mut live = Live::listen("127.0.0.1:0")?;
    /// live.show(&mut world, &mut ())?;
    ///
    /// texts.push(read("object gate { door { over 2s } }"));
    /// let all = texts.clone();
    /// live.rewire(&mut world, None, move |world, from| all[1].rewire(world, &all[from]))?;
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// What `take_over` says; then the wiring stays what it was.
    pub fn rewire<G: 'static>(
        &mut self,
        world: &mut World<G>,
        wiring: Option<LiveWiring>,
        mut take_over: impl FnMut(&mut World<G>, usize) -> Result<Rewired, Error> + Send + 'static,
    ) -> Result<Rewired, Error> {
        let rewired = take_over(world, self.taken.here)?;
        self.taken.take_over = Some(Box::new(move |world, from| {
            // A page shows one world; another type of it is another world.
            let world = world.downcast_mut::<World<G>>().ok_or(Error::BrokenOff)?;
            take_over(world, from)
        }));
        self.taken.last += 1;
        for (name, text) in wiring.iter().flat_map(LiveWiring::texts) {
            self.shared.put_text(&name, &text);
        }
        self.wiring = wiring.or(self.wiring.take());
        (self.saved.findings, self.saved.is_other, self.offered) = (Vec::new(), false, None);
        self.took_over(world, &rewired);
        Ok(rewired)
    }

    /// The wiring of now takes over in a moment from before it did, if the world is in one. False if it cannot: then the world is
    /// held there.
    pub(super) fn catch_up<G: 'static>(&mut self, world: &mut World<G>) -> bool {
        if self.taken.here == self.taken.last {
            return true;
        }
        let Some(take_over) = &mut self.taken.take_over else { return true };
        match take_over(world, self.taken.here) {
            Ok(rewired) => {
                self.took_over(world, &rewired);
                true
            }
            Err(error) => {
                let reason = format!("the wiring of now cannot take over here: {error}");
                (self.trouble, self.hold.paused) = (Some(reason), true);
                false
            }
        }
    }

    fn took_over<G: 'static>(&mut self, world: &mut World<G>, rewired: &Rewired) {
        self.taken.here = self.taken.last;
        self.taken.is_new = true;
        self.taken.times += 1;
        // What came after this tick came with other wiring.
        self.cut_here(world);
        self.history.iter_mut().for_each(History::keep_next);
        let mut kept = rewired.clone();
        let changes = kept.changes.drain(..).map(|mut change| {
            let place = change.place.take();
            (place.as_ref().map(short_place), change.to_string())
        });
        let changes = changes.collect();
        self.taken.told =
            Some(TookOver { number: self.taken.times, tick: world.now().0, kept: kept.to_string(), changes });
    }

    /// Everything is looked at again, and what is on the tape is written where it is now.
    pub(super) fn look_after_taking_over(&mut self, state: &State, frame: &mut Frame) {
        if !std::mem::take(&mut self.taken.is_new) {
            return;
        }
        let changes = self.look_at_all(state);
        frame.put(changes);
        let Some((_, seen)) = self.shown else { return };
        let first = self.tape.iter().map(|line| line.n).find(|n| *n + LINES > seen).unwrap_or(seen);
        let lines = state.trace().records_after(first.saturating_sub(1)).map(|(id, record)| {
            let objects = tape::objects_of(state, &record).into_iter();
            let lit = objects.filter_map(|object| Some(self.ground.thing_of(object)?.number)).collect();
            Arc::new(Line::of(state, id, &record, lit))
        });
        let lines: Vec<_> = lines.take_while(|line| line.n <= seen).collect();
        self.tape.retain(|line| line.n < first);
        self.tape.extend(lines.iter().cloned());
        frame.cut = Some(frame.cut.map_or(first.saturating_sub(1), |cut| cut.min(first.saturating_sub(1))));
        frame.tape.retain(|line| line.n < first);
        frame.tape.extend(lines);
    }
}
