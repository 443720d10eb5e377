//! Wiring: from a signal, through filter, guard, order and limits, to a reaction.

use std::{collections::VecDeque, marker::PhantomData, sync::Arc};

use smol_str::SmolStr;

use crate::{
    act::compile::compile,
    base::{
        clock::Seconds,
        error::Error,
        ids::{ObjectId, PartId, WireId},
        payload::Payload,
        place::Place,
        signal::{Signal, SignalName},
        value::Text,
    },
    plan::{
        expr::Expr,
        steps::Step,
        wires::{Busy, Group, Guard, WhileRunning},
    },
    state::State,
    world::{
        World,
        closures::{Fresh, GuardFn, Mail, Reaction},
        cx::Cx,
        mailbox::Mailbox,
        new_wire::{ClosureGoes, Does, Listens},
    },
};

/// A wire about to be made. Nothing happens until [`run`](Self::run), [`run_steps`](Self::run_steps) or
/// [`into_mailbox`](Self::into_mailbox).
///
/// Without further words it belongs to nobody, has order 0, and takes every delivery.
#[must_use = "a wire is made by `run`, `run_steps` or `into_mailbox`"]
pub struct On<'w, G, T> {
    pub(crate) state: &'w mut State,
    pub(crate) target: ClosureGoes<'w, G>,
    pub(crate) from: Listens<T>,
    pub(crate) owner: Option<ObjectId>,
    pub(crate) order: i32,
    pub(crate) filter: Vec<SmolStr>,
    pub(crate) guard: Guard,
    pub(crate) guard_fn: Option<GuardFn<G, T>>,
    pub(crate) during: Option<(PartId, Text)>,
    pub(crate) times: Option<u64>,
    pub(crate) cooldown: Option<(Seconds, bool)>,
    pub(crate) delay: Option<Seconds>,
    pub(crate) running: WhileRunning,
    pub(crate) place: Place,
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
        On::new(&mut self.state, ClosureGoes::Now(&mut self.stores), Listens::One(signal))
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
        On::new(&mut self.state, ClosureGoes::Now(&mut self.stores), from)
    }

    /// The same for a name that is known only now.
    #[track_caller]
    pub fn on_every_named<T: Payload>(&mut self, group: Group, signal: &str) -> On<'_, G, T> {
        let from = Listens::Every(group, signal.into());
        On::new(&mut self.state, ClosureGoes::Now(&mut self.stores), from)
    }

    /// Cuts a wire: it takes nothing from now on, and what its closure holds is let go.
    ///
    /// # Errors
    /// [`Error::NoSuchWire`] when it was cut, or its signal or owner is gone.
    pub fn cut(&mut self, wire: WireId) -> Result<(), Error> {
        self.state.cut(wire)?;
        self.free_cut_wires();
        Ok(())
    }
}

impl<'w, G: 'static, T: Payload> On<'w, G, T> {
    #[track_caller]
    fn new(state: &'w mut State, target: ClosureGoes<'w, G>, from: Listens<T>) -> Self {
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
            running: WhileRunning::default(),
            place: Place::here(),
        }
    }

    #[track_caller]
    pub(crate) fn later(state: &'w mut State, fresh: &'w mut Vec<Fresh<G>>, signal: Signal<T>) -> Self {
        Self::new(state, ClosureGoes::Later(fresh), Listens::One(signal))
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
    pub fn when_fn(mut self, name: &str, guard: impl FnMut(&G, &T, &State) -> bool + Send + 'static) -> Self {
        self.guard = Guard::Rust(name.into());
        self.guard_fn = Some(Box::new(guard));
        self
    }

    /// It belongs to a stage: it is taken only while that part, of the kind [`Stages`](crate::Stages) or another one that
    /// keeps a variable `state`, is in it, and what it has begun and waits ends when that is left. If each player is in a
    /// stage of their own, the stage of the player who caused the signal counts.
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
        self.running = WhileRunning::new(busy, false);
        self
    }

    /// The same for each one who causes it: the reaction to one keeps nobody else out.
    pub fn while_running_per_who(mut self, busy: Busy) -> Self {
        self.running = WhileRunning::new(busy, true);
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
    /// [`Error::NoSuchSignal`]; [`Error::NoSuchObject`] for the owner; [`BuildError::BadDuration`](crate::BuildError::BadDuration); for a group,
    /// [`BuildError::PayloadMismatch`](crate::BuildError::PayloadMismatch) when an object of it gives a signal of that name with other fields.
    pub fn run<R: ReactionResult>(
        self,
        mut reaction: impl FnMut(&mut G, &T, &mut Cx<'_, G>) -> R + Send + 'static,
    ) -> Result<WireId, Error> {
        let run: Reaction<G, T> = Box::new(move |game, payload, cx| reaction(game, payload, cx).check(cx));
        self.finish(Does::Run(run)).map(|(wire, ..)| wire)
    }

    /// Makes the wire; its reaction is a sequence.
    ///
    /// # Errors
    /// As for [`run`](Self::run), and [`BuildError::BadDuration`](crate::BuildError::BadDuration) for a wait.
    pub fn run_steps(self, steps: impl AsRef<[Step]>) -> Result<WireId, Error> {
        let ops = compile(steps.as_ref(), self.state)?;
        self.finish(Does::Steps(ops)).map(|(wire, ..)| wire)
    }

    /// Makes the wire; the payloads are collected for the host to [`take_letters`](World::take_letters).
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
}

/// What a closure may return: nothing, or a `Result` whose error is recorded.
pub trait ReactionResult {
    /// Records what went wrong, if anything did.
    fn check<G: 'static>(self, cx: &mut Cx<'_, G>);
}

impl ReactionResult for () {
    fn check<G: 'static>(self, _: &mut Cx<'_, G>) {}
}

impl<E: std::fmt::Display> ReactionResult for Result<(), E> {
    fn check<G: 'static>(self, cx: &mut Cx<'_, G>) {
        if let Err(error) = self {
            cx.fault(error.to_string());
        }
    }
}
