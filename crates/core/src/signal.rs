//! Signals: named, typed messages, and the lanes that carry them to their wires.

use std::{fmt, marker::PhantomData, sync::Arc};

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use slotmap::new_key_type;
use smol_str::SmolStr;

use crate::{
    error::{Error, NoSuchSignal},
    object::ObjectId,
    payload::{Field, list_fields},
    shared::Shared,
    slots::{Slots, place_of},
    trace::name_hash,
    wire::{Entry, Wires},
};

new_key_type! {
    /// A signal, whatever it carries.
    pub struct SignalId;
}

/// A signal that carries a `T`. Small, `Copy`, and good for as long as the signal's object lives.
pub struct Signal<T> {
    id: SignalId,
    carries: PhantomData<fn(T) -> T>,
}

impl<T> Signal<T> {
    pub(crate) fn new(id: SignalId) -> Self {
        Self { id, carries: PhantomData }
    }

    /// The signal of that number among those of a part.
    pub(crate) fn nth(signals: &[SignalId], number: usize) -> Self {
        Self::new(signals.get(number).copied().unwrap_or_default())
    }

    /// The signal without its payload type.
    pub fn id(self) -> SignalId {
        self.id
    }
}

/// The name of a signal that every object of some kind gives, with what it carries: `Zone::ON_ENTERED`.
#[derive(Debug)]
pub struct SignalName<T> {
    name: &'static str,
    carries: PhantomData<fn(T) -> T>,
}

impl<T> Clone for SignalName<T> {
    fn clone(&self) -> Self {
        *self
    }
}
impl<T> Copy for SignalName<T> {}

impl<T> SignalName<T> {
    /// The signal `name` of an object, without the object.
    pub const fn new(name: &'static str) -> Self {
        Self { name, carries: PhantomData }
    }

    pub(crate) fn name(self) -> &'static str {
        self.name
    }
}

impl<T> From<Signal<T>> for SignalId {
    fn from(signal: Signal<T>) -> Self {
        signal.id
    }
}

impl<T> Clone for Signal<T> {
    fn clone(&self) -> Self {
        *self
    }
}
impl<T> Copy for Signal<T> {}
impl<T> fmt::Debug for Signal<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Signal({:?})", self.id)
    }
}

/// What the world knows of one signal.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Lane {
    pub(crate) name: SmolStr,
    /// Stands for the name in the digest.
    pub(crate) hash: u64,
    pub(crate) fields: Arc<[Field]>,
    /// The object that gives it.
    pub(crate) of: Option<ObjectId>,
    /// Which store its payloads queue in.
    pub(crate) store: u32,
    /// Set the moment the giver is destroyed: nothing can be emitted any more.
    pub(crate) closed: bool,
    /// The wires it goes to; a delivery holds on to them while it lasts.
    pub(crate) wires: Arc<WireList>,
    /// A wire fell asleep, woke or ended since the list was made.
    pub(crate) stale: bool,
}

/// The wires a signal goes to.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct WireList {
    /// Wires that are awake, in the order they are called: by `order`, then as wired.
    pub(crate) awake: Vec<Entry>,
    /// Wires whose owner is disabled, in the same order.
    pub(crate) asleep: Vec<Entry>,
    /// A wire on the awake list has more to it than a closure that takes what comes.
    pub(crate) mixed: bool,
}

impl WireList {
    /// Those that are awake, then those that are not.
    pub(crate) fn all(&self) -> impl Iterator<Item = &Entry> {
        self.awake.iter().chain(&self.asleep)
    }
}

/// All signals, by id and by name.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Signals {
    lanes: Slots<SignalId, Lane>,
    /// How often each was delivered since the world was made, by place.
    delivered: Vec<u64>,
    by_name: Shared<IndexMap<SmolStr, SignalId>>,
}

impl Signals {
    pub(crate) fn find(&self, name: &str) -> Option<SignalId> {
        self.by_name.get(name).copied()
    }

    pub(crate) fn names(&self) -> impl Iterator<Item = &str> {
        self.by_name.keys().map(SmolStr::as_str)
    }

    #[inline]
    pub(crate) fn lane(&self, id: SignalId) -> Option<&Lane> {
        self.lanes.get(id)
    }

    #[inline]
    pub(crate) fn lane_mut(&mut self, id: SignalId) -> Option<&mut Lane> {
        self.lanes.get_mut(id)
    }

    /// How often a signal was delivered so far.
    pub(crate) fn delivered(&self, id: SignalId) -> u64 {
        self.delivered.get(place_of(id)).copied().filter(|_| self.lanes.contains_key(id)).unwrap_or_default()
    }

    /// It was delivered so many times more.
    #[inline]
    pub(crate) fn count_delivered(&mut self, id: SignalId, times: u64) {
        if let Some(count) = self.delivered.get_mut(place_of(id)) {
            *count += times;
        }
    }

    /// Declares a signal, or finds the one of that name if it carries the same fields.
    pub(crate) fn declare(&mut self, name: &str, fields: Vec<Field>, store: u32) -> Result<SignalId, Error> {
        if let Some(id) = self.find(name) {
            return self.check_carries(id, &fields).map(|()| id);
        }
        check_path(name)?;
        let name = SmolStr::new(name);
        let id = self.lanes.insert(Lane {
            hash: name_hash(&name),
            name: name.clone(),
            fields: fields.into(),
            of: None,
            store,
            closed: false,
            wires: Arc::default(),
            stale: false,
        });
        let place = place_of(id);
        self.delivered.resize(self.delivered.len().max(place + 1), 0);
        self.delivered[place] = 0;
        self.by_name.edit().insert(name, id);
        Ok(id)
    }

    /// Whether a signal carries these fields.
    pub(crate) fn check_carries(&self, id: SignalId, fields: &[Field]) -> Result<(), Error> {
        let lane = self.lanes.get(id).ok_or(NoSuchSignal)?;
        if *lane.fields == *fields {
            return Ok(());
        }
        Err(Error::PayloadMismatch {
            name: lane.name.clone(),
            declared: list_fields(&lane.fields),
            found: list_fields(fields),
        })
    }

    /// Whether every entry of every list is of a wire that can be. Data from outside may be damaged.
    pub(crate) fn is_sound(&self, wires: &Wires) -> bool {
        let sound = |entry: &Entry| wires.has_hot(entry.hot);
        self.lanes.values().all(|lane| lane.wires.all().all(sound))
            && self.lanes.iter().all(|(id, _)| place_of(id) < self.delivered.len())
            && self.by_name.values().all(|id| self.lanes.contains_key(*id))
    }

    pub(crate) fn remove(&mut self, id: SignalId) -> Option<Lane> {
        let lane = self.lanes.remove(id)?;
        self.by_name.edit().swap_remove(&lane.name);
        Some(lane)
    }
}

/// Names are words of letters, digits and underscores, not starting with a digit.
pub(crate) fn check_name(name: &str) -> Result<(), Error> {
    let fits = name.chars().all(|c| c.is_alphanumeric() || c == '_')
        && name.chars().next().is_some_and(|c| !c.is_numeric());
    if fits { Ok(()) } else { Err(Error::BadName { found: name.into() }) }
}

/// A whole name is such words joined by dots: `object.signal`, or `kit.object.signal`.
pub(crate) fn check_path(name: &str) -> Result<(), Error> {
    let mut words = name.split('.');
    words.try_for_each(check_name).map_err(|_| Error::BadName { found: name.into() })
}
