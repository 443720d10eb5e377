//! Signals as a game holds them: an id with the type of the payload.

use std::{fmt, marker::PhantomData};

use crate::base::ids::SignalId;

/// A signal that carries a `T`. Small, `Copy`, and good for as long as the signal's object lives.
pub struct Signal<T> {
    id: SignalId,
    carries: PhantomData<fn(T) -> T>,
}

impl<T> Signal<T> {
    pub(crate) fn new(id: SignalId) -> Self {
        Self { id, carries: PhantomData }
    }

    /// The signal at that place among those of a part, for [`PartSpec::handle`](crate::PartSpec::handle). It must carry what
    /// the part's kind says; otherwise nothing can be emitted on it, and no closure wired to it.
    pub fn nth(signals: &[SignalId], number: usize) -> Self {
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

    /// The name, without the object's.
    pub const fn name(self) -> &'static str {
        self.name
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
