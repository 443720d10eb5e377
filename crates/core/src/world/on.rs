//! Wiring: from a signal, through filter, guard, order and limits, to a reaction.

use std::{collections::VecDeque, marker::PhantomData, sync::Arc};

use smol_str::SmolStr;

use crate::{
    act::compile::compile,
    base::{
        clock::Seconds,
        error::Error,
        ids::{ObjectId, PartId, Tags, WireId},
        payload::Payload,
        place::Place,
        signal::{Signal, SignalName},
        value::{Text, Values},
    },
    plan::{
        expr::Expr,
        members::Members,
        ops::Op,
        steps::Step,
        wires::{
            ASLEEP, Busy, CHECKED, Cooldown, DELAYED, GUARD_IN_RUST, Group, Guard, MADE, MAILBOX, SEQUENCE,
            Source, Wire,
        },
    },
    state::State,
    world::{
        World,
        closures::{Body, Fits, Fresh, GuardFn, Mail, More, Reaction, nothing},
        cx::Cx,
        deliver::Stores,
        mailbox::Mailbox,
    },
};

/// Where the closures of the new wire go.
enum Target<'w, G> {
    Now(&'w mut Stores<G>),
    Later(&'w mut Vec<Fresh<G>>),
}

/// What the new wire listens to.
enum Listens<T> {
    One(Signal<T>),
    Every(Group, SmolStr),
}

/// A wire about to be made. Nothing happens until [`run`](Self::run), [`run_steps`](Self::run_steps) or
/// [`into_mailbox`](Self::into_mailbox).
///
/// Without further words it belongs to nobody, has order 0, and takes every delivery.
#[must_use = "a wire is made by `run`, `run_steps` or `into_mailbox`"]
pub struct On<'w, G, T> {
    state: &'w mut State,
    target: Target<'w, G>,
    from: Listens<T>,
    owner: Option<ObjectId>,
    order: i32,
    filter: Vec<SmolStr>,
    guard: Guard,
    guard_fn: Option<GuardFn<G, T>>,
    during: Option<(PartId, Text)>,
    times: Option<u64>,
    cooldown: Option<(Seconds, bool)>,
    delay: Option<Seconds>,
    busy: Busy,
    place: Place,
}

impl<G, T> std::fmt::Debug for On<'_, G, T> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("On").field("order", &self.order).field("place", &self.place).finish_non_exhaustive()
    }
}

impl<G: 'static> World<G> {
    /// Begins a wire from a signal.
    #[track_caller]
    pub fn on<T: Payload>(&mut self, signal: Signal<T>) -> On<'_, G, T> {
        On::new(&mut self.state, Target::Now(&mut self.stores), Listens::One(signal))
    }

    /// Begins a wire from the same signal of every object of a group, those that join it later too.
    ///
    /// ```
    /// use stoicheon_core::{Group, World, Zone};
    /// let mut world = World::<u32>::new();
    /// let name = Zone::ON_ENTERED;
    /// world.on_every(Group::tagged("pad"), name).run(|count, _, _| *count += 1)?;
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    #[track_caller]
    pub fn on_every<T: Payload>(&mut self, group: Group, signal: SignalName<T>) -> On<'_, G, T> {
        let from = Listens::Every(group, SmolStr::new_static(signal.name()));
        On::new(&mut self.state, Target::Now(&mut self.stores), from)
    }

    /// The same for a name that is known only now.
    #[track_caller]
    pub fn on_every_named<T: Payload>(&mut self, group: Group, signal: &str) -> On<'_, G, T> {
        let from = Listens::Every(group, signal.into());
        On::new(&mut self.state, Target::Now(&mut self.stores), from)
    }

    /// Cuts a wire: it takes nothing from now on, and what its closure holds is let go.
    ///
    /// # Errors
    /// [`Error::NoSuchWire`] when it was cut already, or its signal or owner is gone.
    pub fn cut(&mut self, wire: WireId) -> Result<(), Error> {
        self.state.cut(wire)?;
        self.free_cut_wires();
        Ok(())
    }
}

impl<'w, G: 'static, T: Payload> On<'w, G, T> {
    #[track_caller]
    fn new(state: &'w mut State, target: Target<'w, G>, from: Listens<T>) -> Self {
        Self {
            state,
            target,
            from,
            owner: None,
            order: 0,
            filter: Vec::new(),
            guard: Guard::None,
            guard_fn: None,
            during: None,
            times: None,
            cooldown: None,
            delay: None,
            busy: Busy::default(),
            place: Place::here(),
        }
    }

    #[track_caller]
    pub(crate) fn later(state: &'w mut State, fresh: &'w mut Vec<Fresh<G>>, signal: Signal<T>) -> Self {
        Self::new(state, Target::Later(fresh), Listens::One(signal))
    }

    /// It sleeps while that object is disabled, and ends with it.
    pub fn owned_by(mut self, owner: ObjectId) -> Self {
        self.owner = Some(owner);
        self
    }

    /// Wires of one signal are called by this number, the smallest first, then as they were wired. Default 0.
    pub fn order(mut self, order: i32) -> Self {
        self.order = order;
        self
    }

    /// It is taken only when a body with that tag caused the signal; called several times, with any of them.
    pub fn by(mut self, tag: &str) -> Self {
        self.filter.push(tag.into());
        self
    }

    /// It is taken only when the expression holds. A trace shows what it read when it did not.
    pub fn when(mut self, guard: Expr) -> Self {
        self.guard = Guard::Data(Arc::new(guard));
        self.guard_fn = None;
        self
    }

    /// It is taken only when the closure says so; `name` is what a trace shows when it did not.
    pub fn when_fn(mut self, name: &str, guard: impl FnMut(&G, &T, &State) -> bool + 'static) -> Self {
        self.guard = Guard::Rust(name.into());
        self.guard_fn = Some(Box::new(guard));
        self
    }

    /// It belongs to a stage: it is taken only while that part, of the kind [`Stages`](crate::Stages) or another one that
    /// keeps a variable `state`, is in it, and what it has begun and waits ends when that is left. If each player is in a
    /// stage of his own, that of whoever causes the signal counts.
    pub fn during(mut self, stages: PartId, stage: &str) -> Self {
        self.during = Some((stages, stage.into()));
        self
    }

    /// It is taken once, and refuses ever after.
    pub fn once(self) -> Self {
        self.times(1)
    }

    /// It is taken that often, and refuses ever after.
    pub fn times(mut self, times: u64) -> Self {
        self.times = Some(times);
        self
    }

    /// It is taken again only after that time.
    pub fn cooldown(mut self, span: Seconds) -> Self {
        self.cooldown = Some((span, false));
        self
    }

    /// It is taken again for the same one only after that time; others are not held up.
    pub fn cooldown_per_who(mut self, span: Seconds) -> Self {
        self.cooldown = Some((span, true));
        self
    }

    /// Its reaction begins that much later, in the clocks phase, with the payload as it was.
    pub fn delay(mut self, span: Seconds) -> Self {
        self.delay = Some(span);
        self
    }

    /// What happens when the signal comes again while the reaction still waits. Default [`Busy::Overlap`].
    pub fn while_running(mut self, busy: Busy) -> Self {
        self.busy = busy;
        self
    }

    /// Says where the wire was written, when that is not the line of this call.
    pub fn written_at(mut self, place: Place) -> Self {
        self.place = place;
        self
    }

    /// Makes the wire; its reaction is a closure. It gets the game's own state, the payload, and the world.
    ///
    /// The closure may return nothing, or a `Result` whose error is recorded as a fault.
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`]; [`Error::NoSuchObject`] for the owner; [`Error::BadDuration`]; for a group,
    /// [`Error::PayloadMismatch`] when an object of it gives a signal of that name with other fields.
    pub fn run<R: Outcome>(
        self,
        mut reaction: impl FnMut(&mut G, &T, &mut Cx<'_, G>) -> R + 'static,
    ) -> Result<WireId, Error> {
        let run: Reaction<G, T> = Box::new(move |game, payload, cx| reaction(game, payload, cx).check(cx));
        self.finish(Does::Run(run)).map(|(wire, ..)| wire)
    }

    /// Makes the wire; its reaction is a sequence.
    ///
    /// # Errors
    /// As for [`run`](Self::run), and [`Error::BadDuration`] for a wait.
    pub fn run_steps(self, steps: impl AsRef<[Step]>) -> Result<WireId, Error> {
        let ops = compile(steps.as_ref(), self.state)?;
        self.finish(Does::Steps(ops)).map(|(wire, ..)| wire)
    }

    /// Makes the wire; the payloads are collected for the host to [`read`](World::read).
    ///
    /// # Errors
    /// As for [`run`](Self::run).
    pub fn into_mailbox(self) -> Result<Mailbox<T>, Error>
    where
        T: Clone,
    {
        let mail = Mail { letters: VecDeque::new(), copy: T::clone };
        let (wire, store, closure) = self.finish(Does::Mail(mail))?;
        Ok(Mailbox { wire, store, closure, holds: PhantomData })
    }

    fn finish(self, does: Does<G, T>) -> Result<(WireId, u32, u32), Error> {
        let Self { state, target, from, owner, order, filter, guard, guard_fn, .. } = self;
        let rate = state.rate();
        let (source, store) = match from {
            Listens::One(signal) => (Source::One(signal.id()), state.bus.open_lane(signal.id())?.store),
            Listens::Every(group, name) => {
                let store = state.bus.payloads.store_of::<T>();
                // A sequence takes whatever comes; a closure only what it was written for.
                if !matches!(does, Does::Steps(_)) || guard_fn.is_some() {
                    state.check_group(&group, &name, store)?;
                }
                let tag = state.group_tag(&group);
                (Source::Every { tag, name, members: Members::default() }, store)
            }
        };
        let asleep = match owner {
            Some(owner) => !state.objects.get(owner).ok_or(Error::NoSuchObject)?.enabled,
            None => false,
        };
        let cooldown = match self.cooldown {
            Some((span, per_who)) => Some(Cooldown { span: rate.ticks(span)?, per_who }),
            None => None,
        };
        let delay = self.delay.map(|span| rate.ticks(span)).transpose()?;
        let during = match self.during {
            Some((stages, stage)) => Some((state.stage_of(stages, &stage)?, stage)),
            None => None,
        };
        let guard = match &during {
            Some((var, stage)) => state.guard_of_stage(*var, stage, guard)?,
            None => guard,
        };
        let filter: Tags = filter.iter().map(|tag| state.objects.tag(tag)).collect();

        let checked = !filter.is_empty()
            || self.times.is_some()
            || cooldown.is_some()
            || self.busy != Busy::Overlap
            || !matches!(guard, Guard::None);
        let mut flags = 0;
        for (flag, set) in [
            (ASLEEP, asleep),
            (CHECKED, checked),
            (SEQUENCE, matches!(does, Does::Steps(_))),
            (GUARD_IN_RUST, guard_fn.is_some()),
            (DELAYED, delay.is_some()),
            (MAILBOX, matches!(does, Does::Mail(_))),
        ] {
            flags |= if set { flag } else { 0 };
        }
        let (ops, body) = does.split(guard_fn);
        if body.is_some() && !state.bus.payloads.holds::<T>(store) {
            flags |= MADE;
        }
        let closure = if body.is_some() { state.bus.payloads.number_closure(store) } else { u32::MAX };
        let (times, busy, place, since) = (self.times, self.busy, self.place, state.now());
        let scene = if owner.is_none() { state.scenes.current } else { None };
        let id = state.wires.insert(flags, |number, hot| Wire {
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
            ..Wire::plain(source, store, (number, hot), place, since)
        });
        if let Some(owner) = owner.and_then(|owner| state.objects.get_mut(owner)) {
            owner.wires.push(id);
        }
        if let Some(body) = body {
            let typed = state.bus.payloads.holds::<T>(store);
            let put = move |stores: &mut Stores<G>| {
                if typed {
                    stores.put(store, closure, body);
                } else {
                    stores.put(store, closure, through_values(body));
                }
            };
            match target {
                Target::Now(stores) => put(stores),
                Target::Later(fresh) => fresh.push(Box::new(put)),
            }
        }
        if let Some((var, _)) = state.wires.get(id).and_then(|wire| wire.during.clone()) {
            state.staged.edit().entry(var).or_default().push(id);
        }
        state.connect(id);
        Ok((id, store, closure))
    }
}

/// What a wire has as data, and what it has in Rust.
type Halves<G, T> = (Option<Arc<[Op]>>, Option<Body<G, T>>);

/// What the new wire does.
enum Does<G, T> {
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

/// What a closure may return: nothing, or a `Result` whose error is recorded.
pub trait Outcome {
    /// Records what went wrong, if anything did.
    fn check<G: 'static>(self, cx: &mut Cx<'_, G>);
}

impl Outcome for () {
    fn check<G: 'static>(self, _: &mut Cx<'_, G>) {}
}

impl<E: std::fmt::Display> Outcome for Result<(), E> {
    fn check<G: 'static>(self, cx: &mut Cx<'_, G>) {
        if let Err(error) = self {
            cx.fault(error.to_string());
        }
    }
}
