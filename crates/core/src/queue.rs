//! The queue: what was emitted and not yet delivered, first in, first out.
//!
//! Payloads wait apart from the queue, one store for each payload type, so that emitting neither boxes nor
//! looks up a string. Both sides are first in, first out: the oldest emission belongs to the oldest payload of
//! its store.

use std::{
    any::{Any, TypeId},
    collections::{HashMap, VecDeque},
    fmt,
};

use crate::{
    object::ObjectId,
    payload::Payload,
    signal::SignalId,
    trace::RecordId,
    value::{Value, Values},
    wire::WireId,
};

/// One emission on its way.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Emission {
    pub(crate) signal: SignalId,
    /// Whom this goes back to.
    pub(crate) who: Option<ObjectId>,
    /// The record it came from, while the trace is kept.
    pub(crate) cause: Option<RecordId>,
    /// The wire whose reaction emitted it.
    pub(crate) by: Option<WireId>,
    /// The delivery it was emitted in, for naming the loop of a runaway tick.
    pub(crate) parent: u32,
}

/// The emissions of this tick and where the present round ends.
#[derive(Debug, Default)]
pub(crate) struct Queue {
    waiting: VecDeque<Emission>,
    left_in_round: usize,
    pub(crate) rounds: u32,
}

impl Queue {
    pub(crate) fn push(&mut self, emission: Emission) {
        self.waiting.push_back(emission);
    }

    /// The next emission; a new round starts when the last one is used up.
    pub(crate) fn pop(&mut self) -> Option<Emission> {
        if self.left_in_round == 0 {
            self.left_in_round = self.waiting.len();
            self.rounds += u32::from(self.left_in_round > 0);
        }
        let next = self.waiting.pop_front()?;
        self.left_in_round -= 1;
        Some(next)
    }

    /// Starts counting rounds anew.
    pub(crate) fn restart(&mut self) {
        self.left_in_round = 0;
        self.rounds = 0;
    }

    pub(crate) fn clear(&mut self) {
        self.waiting.clear();
        self.restart();
    }
}

/// The waiting payloads of one type.
trait AnyStore: fmt::Debug {
    fn as_any_mut(&mut self) -> &mut dyn Any;
    fn push_values(&mut self, values: &[Value]) -> bool;
    fn pop_values(&mut self) -> Option<Values>;
    fn clear(&mut self);
}

struct Store<T>(VecDeque<T>);

impl<T> fmt::Debug for Store<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Store({})", self.0.len())
    }
}

impl<T: Payload> AnyStore for Store<T> {
    fn as_any_mut(&mut self) -> &mut dyn Any {
        self
    }
    fn push_values(&mut self, values: &[Value]) -> bool {
        T::from_values(values).map(|payload| self.0.push_back(payload)).is_some()
    }
    fn pop_values(&mut self) -> Option<Values> {
        self.0.pop_front().map(|payload| payload.to_values())
    }
    fn clear(&mut self) {
        self.0.clear();
    }
}

/// All waiting payloads.
#[derive(Debug, Default)]
pub(crate) struct Payloads {
    stores: Vec<Box<dyn AnyStore>>,
    by_type: HashMap<TypeId, u32>,
    /// How many closures were wired to each store's type: the next free number.
    closures: Vec<u32>,
}

impl Payloads {
    /// The number of the store for `T`.
    pub(crate) fn store_of<T: Payload>(&mut self) -> u32 {
        let next = u32::try_from(self.stores.len()).unwrap_or(u32::MAX);
        *self.by_type.entry(TypeId::of::<T>()).or_insert_with(|| {
            self.stores.push(Box::new(Store::<T>(VecDeque::new())));
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
    pub(crate) fn push<T: Payload>(&mut self, store: u32, payload: T) -> bool {
        let Some(store) = self.stores.get_mut(store as usize) else { return false };
        if let Some(own) = store.as_any_mut().downcast_mut::<Store<T>>() {
            own.0.push_back(payload);
            return true;
        }
        store.push_values(&payload.to_values())
    }

    pub(crate) fn push_values(&mut self, store: u32, values: &[Value]) -> bool {
        self.stores.get_mut(store as usize).is_some_and(|store| store.push_values(values))
    }

    #[inline]
    pub(crate) fn pop<T: Payload>(&mut self, store: u32) -> Option<T> {
        self.stores.get_mut(store as usize)?.as_any_mut().downcast_mut::<Store<T>>()?.0.pop_front()
    }

    pub(crate) fn pop_values(&mut self, store: u32) -> Option<Values> {
        self.stores.get_mut(store as usize)?.pop_values()
    }

    pub(crate) fn clear(&mut self) {
        self.stores.iter_mut().for_each(|store| store.clear());
    }
}
