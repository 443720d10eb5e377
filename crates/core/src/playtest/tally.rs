//! What happened, and how often: by name, since what is counted may go and come again with its scene.

use std::collections::BTreeMap;

use crate::{
    base::{ids::RecordId, value::Text},
    playtest::Watched,
    state::State,
    trace::record::Event,
};

#[derive(Debug, Default)]
struct Counted {
    /// How often it had happened when it was looked at last.
    last: u64,
    count: u64,
    /// The count when a player last did something.
    acted: u64,
}

/// What happened so far, of all that is watched.
#[derive(Debug, Default)]
pub(crate) struct Tally {
    all: BTreeMap<Watched, Counted>,
    /// In the order it happened, since a player last did something.
    order: Vec<Watched>,
    /// How many records there were when the order was looked at last.
    records: u64,
}

impl Tally {
    pub(crate) fn of(watched: Vec<Watched>, state: &mut State) -> Self {
        let all = watched.into_iter().map(|watched| (watched, Counted::default())).collect();
        let mut tally = Self { all, ..Self::default() };
        tally.another_world(state);
        tally
    }

    /// What happened before counts no more.
    pub(crate) fn another_world(&mut self, state: &mut State) {
        for (watched, counted) in &mut self.all {
            if let Watched::Signal(name) = watched {
                state.moment.ended_counts.entry(name.as_str().into()).or_default();
            }
            counted.last = total(watched, state);
        }
        self.records = state.trace().len();
    }

    /// After a tick.
    pub(crate) fn look(&mut self, state: &State) {
        for (watched, counted) in &mut self.all {
            let now = total(watched, state);
            counted.count += now.saturating_sub(counted.last);
            counted.last = now;
        }
        for number in self.records + 1..=state.trace().len() {
            let record = RecordId::new(number).and_then(|id| state.trace().get(id));
            let watched = match record.map(|record| record.event) {
                Some(Event::Delivered { signal, .. }) => {
                    state.signal_name(signal).map(|name| Watched::Signal(name.into()))
                }
                Some(Event::Performed { effect, .. }) => {
                    state.effect_name(effect).map(|name| Watched::Effect(name.into()))
                }
                _ => None,
            };
            self.order.extend(watched.filter(|watched| self.all.contains_key(watched)));
        }
        self.records = state.trace().len();
    }

    /// A player does something: expectations look back to here.
    pub(crate) fn act(&mut self) {
        for counted in self.all.values_mut() {
            counted.acted = counted.count;
        }
        self.order.clear();
    }

    pub(crate) fn count(&self, watched: &Watched) -> u64 {
        self.all.get(watched).map_or(0, |counted| counted.count)
    }

    pub(crate) fn happened(&self, watched: &Watched) -> bool {
        self.all.get(watched).is_some_and(|counted| counted.count > counted.acted)
    }

    pub(crate) fn came_in_order(&self, all: &[Watched]) -> bool {
        let mut left = all.iter();
        let mut next = left.next();
        for happened in &self.order {
            if next == Some(happened) {
                next = left.next();
            }
        }
        next.is_none()
    }

    /// Those of them that happened, as they did; what came several times in a row once.
    pub(crate) fn order_of(&self, all: &[Watched]) -> Vec<Text> {
        let mut order: Vec<Text> =
            self.order.iter().filter(|one| all.contains(one)).map(|one| one.name().clone()).collect();
        order.dedup();
        order
    }
}

/// How often it happened since the world was made; of a signal, by whatever had that name.
fn total(watched: &Watched, state: &State) -> u64 {
    match watched {
        Watched::Signal(name) => {
            let ended = state.moment.ended_counts.get(name.as_str()).copied().unwrap_or_default();
            ended + state.find_signal(name).map_or(0, |signal| state.delivered(signal))
        }
        Watched::Effect(name) => state.find_effect(name).map_or(0, |effect| state.performed(effect)),
    }
}
