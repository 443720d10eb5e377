//! Wiring: from a signal, through filter, guard, order and limits, to a reaction.

use std::{collections::BTreeMap, sync::Arc};

use smol_str::SmolStr;

use super::{
    World,
    deliver::{Body, Fresh, GuardFn, Reaction, Stores},
};
use crate::{
    clock::Seconds,
    cx::Cx,
    error::Error,
    expr::Expr,
    object::{ObjectId, Tags},
    payload::Payload,
    sequence::{Op, Step, compile},
    signal::Signal,
    state::State,
    value::Values,
    wire::{ASLEEP, CHECKED, Cooldown, GUARD_IN_RUST, Guard, Hot, Place, SEQUENCE, Wire, WireId},
};

/// Where the closures of the new wire go.
enum Target<'w, G> {
    Now(&'w mut Stores<G>),
    Later(&'w mut Vec<Fresh<G>>),
}

/// A wire about to be made. Nothing happens until one of the `run` calls.
///
/// Without further words it belongs to nobody, has order 0, and takes every delivery.
#[must_use = "a wire is made by one of the `run` calls"]
pub struct On<'w, G, T> {
    state: &'w mut State,
    target: Target<'w, G>,
    signal: Signal<T>,
    owner: Option<ObjectId>,
    order: i32,
    filter: Vec<SmolStr>,
    guard: Guard,
    guard_fn: Option<GuardFn<G, T>>,
    times: Option<u64>,
    cooldown: Option<(Seconds, bool)>,
    place: Place,
}

impl<G, T> std::fmt::Debug for On<'_, G, T> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("On").field("signal", &self.signal).field("place", &self.place).finish_non_exhaustive()
    }
}

impl<G: 'static> World<G> {
    /// Begins a wire from a signal.
    #[track_caller]
    pub fn on<T: Payload>(&mut self, signal: Signal<T>) -> On<'_, G, T> {
        On::new(&mut self.state, Target::Now(&mut self.stores), signal)
    }

    /// Cuts a wire: it takes nothing from now on.
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
    fn new(state: &'w mut State, target: Target<'w, G>, signal: Signal<T>) -> Self {
        Self {
            state,
            target,
            signal,
            owner: None,
            order: 0,
            filter: Vec::new(),
            guard: Guard::None,
            guard_fn: None,
            times: None,
            cooldown: None,
            place: Place::here(),
        }
    }

    #[track_caller]
    pub(crate) fn later(state: &'w mut State, fresh: &'w mut Vec<Fresh<G>>, signal: Signal<T>) -> Self {
        Self::new(state, Target::Later(fresh), signal)
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
        self.guard = Guard::Data(guard);
        self.guard_fn = None;
        self
    }

    /// It is taken only when the closure says so; `name` is what a trace shows when it did not.
    pub fn when_fn(mut self, name: &str, guard: impl FnMut(&G, &T, &State) -> bool + 'static) -> Self {
        self.guard = Guard::Rust(name.into());
        self.guard_fn = Some(Box::new(guard));
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
    /// [`Error::NoSuchSignal`], [`Error::NoSuchObject`] for the owner, or [`Error::BadDuration`].
    pub fn run<R: Outcome>(
        self,
        mut reaction: impl FnMut(&mut G, &T, &mut Cx<'_, G>) -> R + 'static,
    ) -> Result<WireId, Error> {
        self.finish(Some(Box::new(move |game, payload, cx| reaction(game, payload, cx).check(cx))), None)
    }

    /// Makes the wire; its reaction is a sequence.
    ///
    /// # Errors
    /// As for [`run`](Self::run), and [`Error::BadDuration`] for a wait.
    pub fn run_steps(self, steps: impl AsRef<[Step]>) -> Result<WireId, Error> {
        let ops = compile(steps.as_ref(), self.state.rate())?;
        self.finish(None, Some(ops))
    }

    fn finish(self, run: Option<Reaction<G, T>>, ops: Option<Arc<[Op]>>) -> Result<WireId, Error> {
        let Self { state, target, signal, owner, order, filter, guard, guard_fn, times, cooldown, place } =
            self;
        let lane = state.bus.open_lane(signal.id())?;
        let store = lane.store;
        let asleep = match owner {
            Some(owner) => !state.objects.get(owner).ok_or(Error::NoSuchObject)?.enabled,
            None => false,
        };
        let cooldown = match cooldown {
            Some((span, per_who)) => {
                Some(Cooldown { span: state.rate().ticks(span)?, per_who, until: BTreeMap::new() })
            }
            None => None,
        };
        let filter: Tags = filter.iter().map(|tag| state.objects.tag(tag)).collect();

        let checked =
            !filter.is_empty() || times.is_some() || cooldown.is_some() || !matches!(guard, Guard::None);
        let mut flags = 0;
        for (flag, set) in [
            (ASLEEP, asleep),
            (CHECKED, checked),
            (SEQUENCE, ops.is_some()),
            (GUARD_IN_RUST, guard_fn.is_some()),
        ] {
            flags |= if set { flag } else { 0 };
        }
        let closure = match (&run, &guard_fn) {
            (None, None) => 0,
            _ => state.bus.payloads.number_closure(store),
        };
        let id = state.wires.insert(Hot { flags, closure, taken: 0 }, |number| Wire {
            signal: signal.id(),
            owner,
            order,
            number,
            place,
            filter,
            guard,
            left: times,
            cooldown,
            ops,
            refused: 0,
        });
        if let Some(owner) = owner.and_then(|owner| state.objects.get_mut(owner)) {
            owner.wires.push(id);
        }
        if run.is_some() || guard_fn.is_some() {
            let typed = state.bus.payloads.holds::<T>(store);
            let put = move |stores: &mut Stores<G>| {
                let body = Body { run, guard: guard_fn };
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
        state.join(id);
        Ok(id)
    }
}

/// A closure on a payload type of the game's, for a signal that was declared with its fields alone.
fn through_values<G: 'static, T: Payload>(body: Body<G, T>) -> Body<G, Values> {
    let run = body.run.map(|mut run| {
        Box::new(move |game: &mut G, values: &Values, cx: &mut Cx<'_, G>| {
            if let Some(payload) = T::from_values(values) {
                run(game, &payload, cx);
            }
        }) as Reaction<G, Values>
    });
    let guard = body.guard.map(|mut guard| {
        Box::new(move |game: &G, values: &Values, state: &State| {
            T::from_values(values).is_some_and(|payload| guard(game, &payload, state))
        }) as GuardFn<G, Values>
    });
    Body { run, guard }
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
