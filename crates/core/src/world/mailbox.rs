//! Mailboxes: for those who would rather read than be called.

use std::{collections::VecDeque, marker::PhantomData};

use crate::{
    base::{
        clock::Tick,
        error::Error,
        ids::{ObjectId, WireId},
        payload::Payload,
        value::Values,
    },
    world::World,
};

/// A mailbox collects a signal's payloads, in order, until the host reads them.
///
/// It is made like any wire, with [`On::into_mailbox`](crate::On::into_mailbox), so it can have a filter, a guard
/// and an owner too. What it holds is the host's, and no part of a snapshot.
#[derive(Debug)]
pub struct Mailbox<T> {
    /// The wire that fills it.
    pub wire: WireId,
    pub(crate) store: u32,
    pub(crate) closure: u32,
    pub(crate) holds: PhantomData<fn() -> T>,
}

impl<T> Clone for Mailbox<T> {
    fn clone(&self) -> Self {
        *self
    }
}
impl<T> Copy for Mailbox<T> {}

/// One payload in a mailbox.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Letter<T> {
    /// What the signal carried.
    pub payload: T,
    /// Whom it goes back to.
    pub who: Option<ObjectId>,
    /// When it was delivered.
    pub tick: Tick,
}

impl<G: 'static> World<G> {
    /// Takes everything out of a mailbox, oldest first.
    ///
    /// ```
    /// use stoicheon_core::World;
    /// let mut world = World::<()>::new();
    /// let bell = world.declare_signal::<()>("bell")?;
    /// let mail = world.on(bell).into_mailbox()?;
    /// world.emit(bell, ())?;
    /// world.step(&mut ())?;
    /// assert_eq!(world.take_letters(mail)?.count(), 1);
    /// assert_eq!(world.take_letters(mail)?.count(), 0);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSuchWire`] when its wire was cut, or ended with its owner or its signal.
    pub fn take_letters<T: Payload>(
        &mut self,
        mailbox: Mailbox<T>,
    ) -> Result<impl Iterator<Item = Letter<T>> + use<T, G>, Error> {
        self.state.moment.wires.alive(mailbox.wire).ok_or(Error::NoSuchWire)?;
        let Mailbox { store, closure, .. } = mailbox;
        if let Some(letters) = self.stores.letters::<T>(store, closure) {
            return Ok(std::mem::take(letters).into_iter());
        }
        // The signal was declared with its fields alone.
        let letters = self.stores.letters::<Values>(store, closure).ok_or(Error::NoSuchWire)?;
        let typed = std::mem::take(letters).into_iter().filter_map(|Letter { payload, who, tick }| {
            Some(Letter { payload: T::from_values(&payload)?, who, tick })
        });
        Ok(typed.collect::<VecDeque<_>>().into_iter())
    }
}
