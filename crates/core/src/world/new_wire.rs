//! The making of a wire: what was said of it becomes data and a closure, each in its place.

use std::{collections::VecDeque, sync::Arc};

use smol_str::SmolStr;

use crate::{
    act::new_wire::{Said, flags},
    base::{error::Error, ids::WireId, payload::Payload, signal::Signal, value::Values},
    plan::{
        members::Members,
        ops::Op,
        wires::{GUARD_IN_RUST, Group, MADE, MAILBOX, SEQUENCE, Source},
    },
    state::State,
    world::{
        closures::{Body, Fits, Fresh, GuardFn, Mail, More, Reaction, nothing},
        deliver::Stores,
        on::On,
    },
};

/// Where the closure of the new wire goes.
pub(crate) enum ClosureGoes<'w, G> {
    Now(&'w mut Stores<G>),
    /// When the delivery under way has ended.
    Later(&'w mut Vec<Fresh<G>>),
}

impl<G: 'static> ClosureGoes<'_, G> {
    /// Puts a closure where it is called from. `typed` says whether the payloads there are of its type.
    fn put<T: Payload>(self, body: Body<G, T>, (store, closure): (u32, u32), typed: bool) {
        let put = move |stores: &mut Stores<G>| {
            if typed {
                stores.put(store, closure, body);
            } else {
                stores.put(store, closure, through_values(body));
            }
        };
        match self {
            Self::Now(stores) => put(stores),
            Self::Later(fresh) => fresh.push(Box::new(put)),
        }
    }
}

/// What the new wire listens to.
pub(crate) enum Listens<T> {
    One(Signal<T>),
    Every(Group, SmolStr),
}

impl<T: Payload> Listens<T> {
    /// The same as data, and where the payloads are. A sequence takes whatever comes; a closure only what it was written
    /// for.
    fn source(self, state: &mut State, sequence: bool) -> Result<(Source, u32), Error> {
        match self {
            Self::One(signal) => {
                let store = state.bus.open_lane(signal.id())?.store;
                // A handle's signal says what it carries; a part of a game's own may have said it wrong.
                let unlike = !sequence && !state.bus.payloads.holds::<T>(store);
                if let Some(fields) = unlike.then(T::fields).flatten() {
                    state.bus.signals.check_carries(signal.id(), &fields)?;
                }
                Ok((Source::One(signal.id()), store))
            }
            Self::Every(group, name) => {
                let store = state.bus.payloads.store_of::<T>();
                if !sequence {
                    state.check_group(&group, &name, store)?;
                }
                let tag = state.group_tag(&group);
                Ok((Source::Every { tag, name, members: Members::default() }, store))
            }
        }
    }
}

impl<G: 'static, T: Payload> On<'_, G, T> {
    /// Makes the wire. What comes back is its id, where its payloads are, and the number of its closure.
    pub(crate) fn finish(self, does: Does<G, T>) -> Result<(WireId, u32, u32), Error> {
        let Self {
            state, target, from, owner, order, filter, guard, guard_fn, times, running, place, ..
        } = self;
        let sequence = matches!(does, Does::Steps(_));
        let (source, store) = from.source(state, sequence && guard_fn.is_none())?;
        let typed = state.bus.payloads.holds::<T>(store);
        let kind = flags([
            (SEQUENCE, sequence),
            (GUARD_IN_RUST, guard_fn.is_some()),
            (MAILBOX, matches!(does, Does::Mail(_))),
        ]);
        let (ops, body) = does.split(guard_fn);
        let made = if body.is_some() && !typed { MADE } else { 0 };
        let cooldown = state.cooldown(self.cooldown)?;
        let delay = self.delay.map(|span| state.rate().ticks(span)).transpose()?;
        let during = self.during;
        let said = Said {
            owner,
            order,
            filter,
            guard,
            during,
            times,
            cooldown,
            delay,
            running,
            place,
            ops,
            kept: None,
            kind: kind | made,
        };
        let (id, closure) = state.add_wire((source, store), said, body.is_some())?;
        if let Some(body) = body {
            target.put(body, (store, closure), typed);
        }
        Ok((id, store, closure))
    }
}

/// What a wire has as data, and what it has in Rust.
type Halves<G, T> = (Option<Arc<[Op]>>, Option<Body<G, T>>);

/// What the new wire does.
pub(crate) enum Does<G, T> {
    Run(Reaction<G, T>),
    Steps(Arc<[Op]>),
    Mail(Mail<T>),
}

impl<G, T> Does<G, T> {
    /// The data of it, and what it has in Rust.
    fn split(self, guard: Option<GuardFn<G, T>>) -> Halves<G, T> {
        match self {
            Self::Run(run) => (None, Some(Body { run, more: More { guard, mailbox: None, fits: None } })),
            Self::Mail(mail) => {
                let more = More { guard, mailbox: Some(mail), fits: None };
                (None, Some(Body { run: nothing(), more }))
            }
            Self::Steps(ops) => {
                let more = guard.map(|guard| More { guard: Some(guard), mailbox: None, fits: None });
                (Some(ops), more.map(|more| Body { run: nothing(), more }))
            }
        }
    }
}

/// A closure on a payload type of the game's, for a signal that was declared with its fields alone.
fn through_values<G: 'static, T: Payload>(body: Body<G, T>) -> Body<G, Values> {
    let Body { mut run, more: More { guard, mailbox, .. } } = body;
    let run: Reaction<G, Values> = Box::new(move |game, values, cx| {
        if let Some(payload) = T::from_values(values) {
            run(game, &payload, cx);
        }
    });
    // The letters are read as the game's type when the host takes them out.
    let mailbox = mailbox.map(|_| Mail { letters: VecDeque::new(), copy: Values::clone });
    let guard = guard.map(|mut guard| {
        Box::new(move |game: &G, values: &Values, state: &State| {
            T::from_values(values).is_some_and(|payload| guard(game, &payload, state))
        }) as GuardFn<G, Values>
    });
    let fits: Fits<Values> = (|values| T::from_values(values).is_some(), T::fields);
    Body { run, more: More { guard, mailbox, fits: Some(fits) } }
}
