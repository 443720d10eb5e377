//! The making of a wire: what was said of it becomes data and a closure, each in its place.

use std::{collections::VecDeque, sync::Arc};

use smol_str::SmolStr;

use crate::{
    base::{
        clock::Seconds,
        error::Error,
        ids::{ObjectId, PartId, Tags, WireId},
        payload::Payload,
        place::Place,
        signal::Signal,
        value::{Text, Values},
    },
    plan::{
        members::Members,
        ops::Op,
        wires::{
            ASLEEP, Busy, CHECKED, Cooldown, DELAYED, GUARD_IN_RUST, Group, Guard, MADE, MAILBOX, SEQUENCE,
            Source, Wire,
        },
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
        let Self { state, target, from, owner, order, filter, guard, guard_fn, times, busy, place, .. } =
            self;
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
        let (cooldown, delay, during) = (self.cooldown, self.delay, self.during);
        let said = Said {
            owner,
            order,
            filter,
            guard,
            during,
            times,
            cooldown,
            delay,
            busy,
            place,
            ops,
            kind: kind | made,
        };
        let (id, closure) = state.add_wire((source, store), said, body.is_some())?;
        if let Some(body) = body {
            target.put(body, (store, closure), typed);
        }
        Ok((id, store, closure))
    }
}

/// What was said of a new wire.
struct Said {
    owner: Option<ObjectId>,
    order: i32,
    filter: Vec<SmolStr>,
    guard: Guard,
    during: Option<(PartId, Text)>,
    times: Option<u64>,
    cooldown: Option<(Seconds, bool)>,
    delay: Option<Seconds>,
    busy: Busy,
    place: Place,
    ops: Option<Arc<[Op]>>,
    /// The flags that follow from what it does.
    kind: u32,
}

impl State {
    /// All of the making that is not generic: a game compiles the rest for each payload. Gives the number of its closure too, if
    /// it has one.
    fn add_wire(
        &mut self,
        (source, store): (Source, u32),
        said: Said,
        has_closure: bool,
    ) -> Result<(WireId, u32), Error> {
        let Said { owner, order, filter, guard, during, times, cooldown, delay, busy, place, ops, kind } =
            said;
        let asleep = match owner {
            Some(owner) => !self.moment.objects.get(owner).ok_or(Error::NoSuchObject)?.enabled,
            None => false,
        };
        let rate = self.rate();
        let cooldown = match cooldown {
            Some((span, per_who)) => Some(Cooldown { span: rate.ticks(span)?, per_who }),
            None => None,
        };
        let delay = delay.map(|span| rate.ticks(span)).transpose()?;
        let during = match during {
            Some((stages, stage)) => Some((self.stage_of(stages, &stage)?, stage)),
            None => None,
        };
        let guard = match &during {
            Some((var, stage)) => self.guard_of_stage(*var, stage, guard)?,
            None => guard,
        };
        let filter: Tags = filter.iter().map(|tag| self.moment.objects.tag(tag)).collect();
        let limited = times.is_some() || cooldown.is_some() || busy != Busy::Overlap;
        let checked = limited || !filter.is_empty() || !matches!(guard, Guard::None);
        let flags = kind | flags([(ASLEEP, asleep), (CHECKED, checked), (DELAYED, delay.is_some())]);
        let closure = if has_closure { self.bus.payloads.number_closure(store) } else { u32::MAX };
        let since = self.now();
        let scene = if owner.is_none() { self.moment.scenes.current } else { None };
        let stage = during.as_ref().map(|(var, _)| *var);
        let id = self.moment.wires.insert(flags, |number, row| Wire {
            owner,
            scene,
            order,
            filter,
            guard,
            during,
            times,
            cooldown,
            delay,
            busy,
            ops,
            closure,
            ..Wire::plain(source, store, (number, row), place, since)
        });
        if let Some(owner) = owner.and_then(|owner| self.moment.objects.get_mut(owner)) {
            owner.wires.push(id);
        }
        if let Some(stage) = stage {
            self.plan.edit().staged.edit().entry(stage).or_default().push(id);
        }
        self.connect(id);
        Ok((id, closure))
    }
}

/// Those of the flags that are set.
fn flags(all: [(u32, bool); 3]) -> u32 {
    all.into_iter().filter(|(_, set)| *set).fold(0, |flags, (flag, _)| flags | flag)
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
