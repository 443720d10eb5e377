//! What a wire has in Rust: its closure, its guard, its mailbox.

use std::collections::VecDeque;

use crate::{
    base::payload::Field,
    state::State,
    world::{cx::Cx, deliver::Stores, mailbox::Letter},
};

/// A reaction in Rust.
pub(crate) type Reaction<G, T> = Box<dyn FnMut(&mut G, &T, &mut Cx<'_, G>) + Send>;

/// A guard in Rust.
pub(crate) type GuardFn<G, T> = Box<dyn FnMut(&G, &T, &State) -> bool + Send>;

/// A closure on its way to its store, wired in the course of a delivery.
pub(crate) type Fresh<G> = Box<dyn FnOnce(&mut Stores<G>) + Send>;

/// What a wire has in Rust.
pub(crate) struct Body<G, T> {
    pub(crate) run: Reaction<G, T>,
    pub(crate) more: More<G, T>,
}

/// What few wires have.
pub(crate) struct More<G, T> {
    pub(crate) guard: Option<GuardFn<G, T>>,
    pub(crate) mailbox: Option<Mail<T>>,
    /// Whether the closure's own type can be made of a payload; the fields it has.
    pub(crate) fits: Option<Fits<T>>,
}

/// Whether a payload can be another type, and the fields of that.
pub(crate) type Fits<T> = (fn(&T) -> bool, fn() -> Option<Vec<Field>>);

/// What a wire runs that has no closure, or whose closure was let go. It takes no memory of its own.
pub(crate) fn nothing<G, T>() -> Reaction<G, T> {
    Box::new(|_, _, _| {})
}

/// The letters of a mailbox, and how to copy a payload into one.
pub(crate) struct Mail<T> {
    pub(crate) letters: VecDeque<Letter<T>>,
    pub(crate) copy: fn(&T) -> T,
}

impl<T> Mail<T> {
    pub(crate) fn receive<G>(&mut self, payload: &T, cx: &Cx<'_, G>) {
        let payload = (self.copy)(payload);
        self.letters.push_back(Letter { payload, who: cx.doing.who, tick: cx.state.moment.clock.now });
    }
}
