//! The queue: what was emitted and not yet delivered, first in, first out.
//!
//! Payloads wait apart from the queue, one store for each payload type, so that emitting neither boxes nor
//! looks up a string. Both sides are first in, first out: the oldest emission belongs to the oldest payload of
//! its store.

use std::{
    any::{Any, TypeId},
    collections::{HashMap, VecDeque},
};

use serde::{Deserialize, Serialize};

use crate::base::{
    ids::{ObjectId, RecordId, SignalId, WireId},
    payload::Payload,
    value::{Value, Values},
};

/// One emission on its way.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub(crate) struct Emission {
    pub(crate) signal: SignalId,
    /// Whom this goes back to.
    pub(crate) who: Option<ObjectId>,
    /// The record it came from, while the trace is kept.
    pub(crate) cause: Option<RecordId>,
    /// The wire whose reaction emitted it.
    pub(crate) by: Option<WireId>,
    /// The body with whose arrival it began, if no time has passed since.
    #[serde(default)]
    pub(crate) arrived: Option<ObjectId>,
    /// How many records there were when it was emitted.
    #[serde(default)]
    pub(crate) after: u64,
    /// The delivery it was emitted in, for naming the loop of a runaway tick.
    pub(crate) parent: u32,
}

/// The emissions of this tick. What is emitted in one round is delivered in the next.
#[derive(Clone, Debug, Default)]
pub(crate) struct Queue {
    round: Vec<Emission>,
    /// How many of this round are delivered.
    at: usize,
    next: Vec<Emission>,
    pub(crate) rounds: u32,
}

impl Queue {
    #[inline]
    pub(crate) fn push(&mut self, emission: Emission) {
        self.next.push(emission);
    }

    /// The next emission; a new round starts when the last one is used up.
    #[inline]
    pub(crate) fn pop(&mut self) -> Option<Emission> {
        if self.at == self.round.len() {
            self.round.clear();
            self.at = 0;
            std::mem::swap(&mut self.round, &mut self.next);
            self.rounds += u32::from(!self.round.is_empty());
        }
        let next = self.round.get(self.at).copied()?;
        self.at += 1;
        Some(next)
    }

    /// The next emission of this round, if it is of that signal.
    #[inline]
    pub(crate) fn pop_if(&mut self, signal: SignalId) -> Option<&Emission> {
        let next = self.round.get(self.at).filter(|next| next.signal == signal)?;
        self.at += 1;
        Some(next)
    }

    /// What waits between ticks: emissions of the last upkeep.
    pub(crate) fn waiting(&self) -> &[Emission] {
        &self.next
    }

    /// Starts counting rounds from 0.
    pub(crate) fn restart(&mut self) {
        self.rounds = 0;
    }

    pub(crate) fn clear(&mut self) {
        *self = Self::default();
    }
}

/// What can be done with a store without knowing its type.
#[derive(Clone, Copy, Debug)]
struct StoreKind {
    push_values: fn(&mut dyn Any, &[Value]) -> bool,
    pop_values: fn(&mut dyn Any) -> Option<Values>,
    first_values: fn(&dyn Any) -> Option<Values>,
    all_values: fn(&dyn Any) -> Vec<Values>,
    is_empty: fn(&dyn Any) -> bool,
    clear: fn(&mut dyn Any),
    reads: fn(&[Value]) -> bool,
}

/// The payloads of one type. The spare list is empty; it keeps its memory for the next delivery.
struct Store<T> {
    waiting: VecDeque<T>,
    spare: VecDeque<T>,
}

impl<T> Store<T> {
    fn new() -> Self {
        Self { waiting: VecDeque::new(), spare: VecDeque::new() }
    }
}

impl StoreKind {
    fn of<T: Payload>() -> Self {
        fn mine<T: Payload>(store: &mut dyn Any) -> Option<&mut Store<T>> {
            store.downcast_mut()
        }
        Self {
            push_values: |store, values| match (mine::<T>(store), T::from_values(values)) {
                (Some(store), Some(payload)) => {
                    store.waiting.push_back(payload);
                    true
                }
                _ => false,
            },
            pop_values: |store| mine::<T>(store)?.waiting.pop_front().map(|payload| payload.to_values()),
            first_values: |store| {
                let store = store.downcast_ref::<Store<T>>()?;
                store.waiting.front().map(Payload::to_values)
            },
            all_values: |store| {
                let store = store.downcast_ref::<Store<T>>();
                store.map_or(Vec::new(), |store| store.waiting.iter().map(Payload::to_values).collect())
            },
            is_empty: |store| store.downcast_ref::<Store<T>>().is_none_or(|store| store.waiting.is_empty()),
            clear: |store| mine::<T>(store).map_or((), |store| store.waiting.clear()),
            reads: |values| T::from_values(values).is_some(),
        }
    }
}

/// All waiting payloads.
#[derive(Debug, Default)]
pub(crate) struct Payloads {
    stores: Vec<Box<dyn Any + Send>>,
    kinds: Vec<StoreKind>,
    by_type: HashMap<TypeId, u32>,
    /// How many closures were wired to each store's type: the next free number.
    pub(crate) closures: Vec<u32>,
}

impl Payloads {
    /// The number of the store for `T`.
    pub(crate) fn store_of<T: Payload>(&mut self) -> u32 {
        let next = u32::try_from(self.stores.len()).unwrap_or(u32::MAX);
        *self.by_type.entry(TypeId::of::<T>()).or_insert_with(|| {
            self.stores.push(Box::new(Store::<T>::new()));
            self.kinds.push(StoreKind::of::<T>());
            self.closures.push(0);
            next
        })
    }

    /// Whether the store's payloads are of type `T`.
    pub(crate) fn holds<T: Payload>(&self, store: u32) -> bool {
        self.by_type.get(&TypeId::of::<T>()) == Some(&store)
    }

    /// The number for one more closure on that store's type.
    pub(crate) fn number_closure(&mut self, store: u32) -> u32 {
        self.closures.get_mut(store as usize).map_or(0, |next| {
            *next += 1;
            *next - 1
        })
    }

    /// Puts a payload at the end of its store; a payload of a foreign type goes by its values.
    #[inline]
    pub(crate) fn push<T: Payload>(&mut self, store: u32, payload: T) -> Result<(), Values> {
        if let Some(own) = self.stores.get_mut(store as usize)
            && let Some(own) = own.downcast_mut::<Store<T>>()
        {
            own.waiting.push_back(payload);
            return Ok(());
        }
        let values = payload.to_values();
        if self.push_values(store, &values) { Ok(()) } else { Err(values) }
    }

    pub(crate) fn push_values(&mut self, store: u32, values: &[Value]) -> bool {
        let at = store as usize;
        match (self.stores.get_mut(at), self.kinds.get(at)) {
            (Some(store), Some(kind)) => (kind.push_values)(&mut **store, values),
            _ => false,
        }
    }

    /// Puts in what waits, store by store, oldest first.
    pub(crate) fn push_all(&mut self, all: &[Vec<Values>]) {
        for (store, values) in (0_u32..).zip(all) {
            for values in values {
                self.push_values(store, values);
            }
        }
    }

    /// Takes out what waits longest in a store.
    #[inline]
    pub(crate) fn pop<T: Payload>(&mut self, store: u32) -> Option<T> {
        let store = self.stores.get_mut(store as usize)?.downcast_mut::<Store<T>>()?;
        store.waiting.pop_front()
    }

    /// Lends out what waits in a store, oldest first.
    #[inline]
    pub(crate) fn lend<T: Payload>(&mut self, store: u32) -> VecDeque<T> {
        let store = self.stores.get_mut(store as usize).and_then(|store| store.downcast_mut::<Store<T>>());
        store.map_or(VecDeque::new(), |store| {
            std::mem::replace(&mut store.waiting, std::mem::take(&mut store.spare))
        })
    }

    /// Takes back what was not used: it is older than what has come meanwhile.
    #[inline]
    pub(crate) fn give_back<T: Payload>(&mut self, store: u32, mut rest: VecDeque<T>) {
        let store = self.stores.get_mut(store as usize).and_then(|store| store.downcast_mut::<Store<T>>());
        let Some(store) = store else { return };
        if !rest.is_empty() {
            rest.append(&mut store.waiting);
            std::mem::swap(&mut store.waiting, &mut rest);
        }
        store.spare = rest;
    }

    pub(crate) fn pop_values(&mut self, store: u32) -> Option<Values> {
        let at = store as usize;
        (self.kinds.get(at)?.pop_values)(&mut **self.stores.get_mut(at)?)
    }

    /// The values of what waits longest in a store, which stays there.
    pub(crate) fn first_values(&self, store: u32) -> Option<Values> {
        let at = store as usize;
        (self.kinds.get(at)?.first_values)(&**self.stores.get(at)?)
    }

    /// Whether a store can hold these values.
    pub(crate) fn reads(&self, store: u32, values: &[Value]) -> bool {
        self.kinds.get(store as usize).is_some_and(|kind| (kind.reads)(values))
    }

    /// Everything that waits, store by store, oldest first; nothing at all if nothing waits.
    pub(crate) fn all_values(&self) -> Vec<Vec<Values>> {
        let stores = || self.stores.iter().zip(&self.kinds);
        if stores().all(|(store, kind)| (kind.is_empty)(&**store)) {
            return Vec::new();
        }
        stores().map(|(store, kind)| (kind.all_values)(&**store)).collect()
    }

    pub(crate) fn clear(&mut self) {
        for (store, kind) in self.stores.iter_mut().zip(&self.kinds) {
            (kind.clear)(&mut **store);
        }
    }
}
