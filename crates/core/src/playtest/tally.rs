//! What happened, and how often: by name, since what is counted may go and come again with its scene.

use std::collections::{BTreeMap, BTreeSet};

use crate::{
    base::{
        ids::{ObjectId, RecordId},
        value::{Text, Value, Values},
    },
    playtest::{Last, Watched},
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
    /// What it carried each time, and who caused it; empty unless that is asked for.
    carried: Vec<(Values, Option<ObjectId>)>,
    /// How many of those there were when a player last did something.
    carried_before: usize,
}

/// What happened so far, of all that is watched.
#[derive(Debug, Default)]
pub(crate) struct Tally {
    all: BTreeMap<Watched, Counted>,
    /// Those whose values are asked for.
    kept: BTreeSet<Watched>,
    /// In the order it happened, since a player last did something.
    order: Vec<Watched>,
    /// How many records there were when the order was looked at last.
    records: u64,
}

impl Tally {
    pub(crate) fn of(watched: Vec<Watched>, kept: &[Watched], state: &mut State) -> Self {
        let all = watched.into_iter().map(|watched| (watched, Counted::default())).collect();
        let mut tally = Self { all, kept: kept.iter().cloned().collect(), ..Self::default() };
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
            let (watched, who, values) = match record.map(|record| record.event) {
                Some(Event::Delivered { signal, who, values, .. }) => {
                    (state.signal_name(signal).map(|name| Watched::Signal(name.into())), who, values)
                }
                Some(Event::Performed { effect, values }) => {
                    (state.effect_name(effect).map(|name| Watched::Effect(name.into())), None, values)
                }
                _ => continue,
            };
            let Some((watched, counted)) = watched.and_then(|watched| {
                let counted = self.all.get_mut(&watched)?;
                Some((watched, counted))
            }) else {
                continue;
            };
            if self.kept.contains(&watched) {
                counted.carried.push((values, who));
            }
            self.order.push(watched);
        }
        self.records = state.trace().len();
    }

    /// A player does something: expectations look back to here.
    pub(crate) fn act(&mut self) {
        for counted in self.all.values_mut() {
            counted.acted = counted.count;
            counted.carried_before = counted.carried.len();
        }
        self.order.clear();
    }

    pub(crate) fn count(&self, watched: &Watched) -> u64 {
        self.all.get(watched).map_or(0, |counted| counted.count)
    }

    pub(crate) fn happened(&self, watched: &Watched) -> bool {
        self.all.get(watched).is_some_and(|counted| counted.count > counted.acted)
    }

    /// What it carried each time, from the start or since a player last did something.
    pub(crate) fn carried(&self, watched: &Watched, from_start: bool) -> impl Iterator<Item = &Values> {
        let counted = self.all.get(watched);
        let from = counted.map_or(0, |counted| if from_start { 0 } else { counted.carried_before });
        counted.into_iter().flat_map(move |counted| counted.carried[from..].iter().map(|(values, _)| values))
    }

    /// A value of it as it happened last, if it has happened.
    pub(crate) fn last(&self, last: &Last) -> Option<Value> {
        let (values, who) = self.all.get(&last.what)?.carried.last()?;
        Some(match last.field {
            Some(field) => values.get(usize::from(field)).cloned().unwrap_or_default(),
            None => who.map_or(Value::Nothing, Value::Object),
        })
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
