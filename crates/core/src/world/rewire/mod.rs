//! Changing what a world is made of while it runs: what the change does not speak of stays as it is.
//!
//! Everything here is given twice, as it was written before and as it is written now. What is written the same is not
//! touched. What is still as it was written becomes what is written now; what play has changed since stays.

mod lists;
mod merge;
mod moulds;
mod names;
mod objects;
mod parts;
mod report;
mod vars;
mod wires;

pub use report::{Became, Change, KeptCounts, Rewired};

use std::{
    collections::BTreeMap,
    ops::{Deref, DerefMut},
};

use smol_str::SmolStr;

use crate::{
    base::{clock::ticks, doing::Doing, error::Error, ids::RecordId, place::Place},
    trace::record::Event,
    world::World,
};

/// A world whose making is being changed, for [`World::rewire`]. Whatever a world can be told while it is built, it can be told
/// here; what a `Rewiring` adds are changes to what is there.
#[derive(Debug)]
pub struct Rewiring<'w, G> {
    world: &'w mut World<G>,
    rewired: Rewired,
    /// Where in the report something is told of, by what it is and its name.
    told: BTreeMap<(&'static str, SmolStr), usize>,
    /// Something has changed.
    noted: bool,
    /// The record that says so, if there are records.
    cause: Option<RecordId>,
}

impl<G> Deref for Rewiring<'_, G> {
    type Target = World<G>;
    fn deref(&self) -> &World<G> {
        self.world
    }
}

impl<G> DerefMut for Rewiring<'_, G> {
    fn deref_mut(&mut self) -> &mut World<G> {
        self.world
    }
}

impl<G: 'static> World<G> {
    /// Changes what the world is made of, between two ticks, while the moment stays. When `change` fails, nothing has changed.
    ///
    /// Wiring that was read from files does this for itself: its `rewire` compares two texts.
    ///
    /// ```
    /// use stoicheon_core::{Became, NewWire, Step, World};
    /// let mut world = World::<()>::new();
    /// let [rung, heard] = [world.declare_signal::<()>("rung")?, world.declare_signal::<()>("heard")?];
    /// let answer = |times| vec![Step::Emit { signal: heard.id(), values: Vec::new() }; times];
    /// let before = [(NewWire::on(rung).run(answer(1)), None)];
    /// world.wire(&before[0].0, None)?;
    /// world.step(&mut ())?;
    ///
    /// let after = [(NewWire::on(rung).run(answer(2)), None)];
    /// let rewired = world.rewire(|rewiring| rewiring.change_wires(None, &before, &after))?;
    /// assert!(matches!(rewired.changes[0].became, Became::Again { .. }));
    /// world.emit(rung, ())?;
    /// world.step(&mut ())?;
    /// assert_eq!(world.delivered(heard), 2);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::BrokenOff`] after a reaction panicked; what `change` says.
    pub fn rewire(
        &mut self,
        change: impl FnOnce(&mut Rewiring<'_, G>) -> Result<(), Error>,
    ) -> Result<Rewired, Error> {
        self.check_whole()?;
        // What waits for the host to perform is no part of a snapshot.
        let effects = std::mem::take(&mut self.state.outbox.effects);
        let before = self.snapshot().map_err(|_| Error::BrokenOff)?;
        let (makers, wirers) = (self.makers.clone(), self.wirers.clone());
        let made_of = self.state.plan.made_of.clone();
        // Nothing that going back needs may be let go.
        let rollback = self.config.rollback;
        self.config.rollback = rollback.max(ticks(1));
        let mut rewiring = Rewiring {
            world: self,
            rewired: Rewired::default(),
            told: BTreeMap::new(),
            noted: false,
            cause: None,
        };
        let done = change(&mut rewiring);
        let mut rewired = rewiring.rewired;
        self.config.rollback = rollback;
        match done {
            Ok(()) => {
                for made_of in [made_of, self.state.plan.made_of.clone()] {
                    if !self.was_made_of.iter().any(|was| **was == *made_of) {
                        self.was_made_of.push(made_of);
                    }
                }
                self.free_what_ended();
            }
            Err(_) => {
                (self.makers, self.wirers) = (makers, wirers);
                self.go_back_to(&before).map_err(|_| Error::BrokenOff)?;
            }
        }
        let since = std::mem::replace(&mut self.state.outbox.effects, effects);
        self.state.outbox.effects.extend(since);
        done?;
        rewired.kept.waits = self.state.waiting();
        Ok(rewired)
    }
}

impl<G: 'static> Rewiring<'_, G> {
    /// What was done so far.
    pub fn rewired(&self) -> &Rewired {
        &self.rewired
    }

    /// Says of what was told without where it is written, where that is.
    pub fn place_changes(&mut self, place: impl Fn(&str, &str) -> Option<Place>) {
        for change in self.rewired.changes.iter_mut().filter(|change| change.place.is_none()) {
            change.place = place(change.what, &change.name);
        }
    }

    /// Something is about to be changed by what the world can be told anyway, such as making an object: the trace says first that
    /// the wiring is changed.
    pub fn begin(&mut self) {
        self.doing();
    }

    /// What a change goes back to: the record of the first one says that the wiring was changed.
    fn doing(&mut self) -> Doing {
        if !std::mem::replace(&mut self.noted, true) {
            self.cause = self.world.state.bus.trace.note(None, 0, Event::Rewired);
        }
        Doing { cause: self.cause, ..Doing::default() }
    }

    /// Says in the report what became of something.
    pub fn tell(
        &mut self,
        what: &'static str,
        name: impl Into<SmolStr>,
        became: Became,
        place: Option<Place>,
    ) {
        let change = Change { what, name: name.into(), became, place };
        // Wires and rules have no names of their own.
        let is_named = !matches!(what, "wire" | "rule");
        let key = (what, change.name.clone());
        let told = self.told.get(&key).filter(|_| is_named).and_then(|at| self.rewired.changes.get_mut(*at));
        match told {
            // What went to make room for something else of its name begins again.
            Some(told) => {
                if let (Became::Gone { waits }, Became::New) = (&told.became, &change.became) {
                    *told = Change { became: Became::Again { waits: *waits }, ..change };
                }
                // One thing may be changed in several ways, and is told of once.
            }
            None => {
                self.told.insert(key, self.rewired.changes.len());
                self.rewired.changes.push(change);
            }
        }
    }

    /// What was told since there were so many changes is told no more, and given back.
    fn untell(&mut self, since: usize) -> Vec<Change> {
        self.told.retain(|_, at| *at < since);
        self.rewired.changes.split_off(since)
    }
}
