//! Wires that are described now and made while the world runs.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Seconds, Ticks},
        ids::{PartId, SignalId, Tag},
        place::Place,
        value::Text,
    },
    plan::{
        expr::Expr,
        ops::Op,
        steps::Step,
        wires::{Busy, Cooldown, Group, WhileRunning},
    },
};

/// What a new wire listens to.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Origin {
    One(SignalId),
    Of(Expr, Text),
    Every(Group, Text),
}

/// A wire that is described now and made while the world runs: by a statement ([`Step::Wire`]), or with each object that is
/// made after a mould ([`World::wire_mould`](crate::World::wire_mould)). Its reaction is a sequence.
///
/// ```
/// use stoicheon_core::{Expr, Mould, NewVar, NewWire, Step, Target, Vec3, World};
/// let mut world = World::<()>::new();
/// let [hatch, day] = [world.declare_signal::<()>("hatch")?, world.declare_signal::<()>("day")?];
/// let age = world.property_named("age")?;
/// let heron = world.mould(Mould::new("heron").var(NewVar::new("age", 0_i64)))?;
/// // Each heron ages by itself.
/// let older = Expr::Property { object: Box::new(Expr::Own), name: age }.plus(1_i64);
/// let step = Step::Set { target: Target::Property(Expr::Own, age), to: older };
/// world.wire_mould(heron, [NewWire::on(day).run([step])])?;
/// world.on(hatch).run(move |_, (), cx| cx.spawn(heron, Vec3::ZERO).map(|_| ()))?;
/// for signal in [hatch, day, hatch, day] {
///     world.emit(signal, ())?;
///     world.step(&mut ())?;
/// }
/// let ages = ["heron_1", "heron_2"].map(|name| world.property(world.find(name).unwrap(), "age"));
/// assert_eq!(ages, [Some(&2_i64.into()), Some(&1_i64.into())]);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct NewWire {
    pub(crate) from: Origin,
    pub(crate) filter: Vec<SmolStr>,
    pub(crate) guard: Option<Expr>,
    pub(crate) order: i32,
    pub(crate) cooldown: Option<(Seconds, bool)>,
    pub(crate) delay: Option<Seconds>,
    pub(crate) times: Option<u64>,
    pub(crate) running: WhileRunning,
    pub(crate) during: Option<(PartId, Text)>,
    pub(crate) steps: Vec<Step>,
    pub(crate) place: Place,
}

impl NewWire {
    #[track_caller]
    fn new(from: Origin) -> Self {
        Self {
            from,
            filter: Vec::new(),
            guard: None,
            order: 0,
            cooldown: None,
            delay: None,
            times: None,
            running: WhileRunning::default(),
            during: None,
            steps: Vec::new(),
            place: Place::here(),
        }
    }

    /// From a signal.
    #[track_caller]
    pub fn on(signal: impl Into<SignalId>) -> Self {
        Self::new(Origin::One(signal.into()))
    }

    /// From a signal of an object that is known only when the wire is made; [`Expr::Own`] is the owner of the wire.
    #[track_caller]
    pub fn on_of(object: Expr, signal: &str) -> Self {
        Self::new(Origin::Of(object, signal.into()))
    }

    /// From that signal of every object of a group.
    #[track_caller]
    pub fn on_every(group: Group, signal: &str) -> Self {
        Self::new(Origin::Every(group, signal.into()))
    }

    /// As [`On::by`](crate::On::by).
    pub fn by(mut self, tag: &str) -> Self {
        self.filter.push(tag.into());
        self
    }

    /// As [`On::when`](crate::On::when).
    pub fn when(mut self, guard: Expr) -> Self {
        self.guard = Some(guard);
        self
    }

    /// As [`On::order`](crate::On::order).
    pub fn order(mut self, order: i32) -> Self {
        self.order = order;
        self
    }

    /// As [`On::cooldown`](crate::On::cooldown).
    pub fn cooldown(mut self, span: Seconds) -> Self {
        self.cooldown = Some((span, false));
        self
    }

    /// As [`On::cooldown_per_who`](crate::On::cooldown_per_who).
    pub fn cooldown_per_who(mut self, span: Seconds) -> Self {
        self.cooldown = Some((span, true));
        self
    }

    /// As [`On::delay`](crate::On::delay).
    pub fn delay(mut self, span: Seconds) -> Self {
        self.delay = Some(span);
        self
    }

    /// As [`On::times`](crate::On::times).
    pub fn times(mut self, times: u64) -> Self {
        self.times = Some(times);
        self
    }

    /// As [`On::while_running`](crate::On::while_running).
    pub fn while_running(mut self, busy: Busy) -> Self {
        self.running = WhileRunning::new(busy, false);
        self
    }

    /// As [`On::while_running_per_who`](crate::On::while_running_per_who).
    pub fn while_running_per_who(mut self, busy: Busy) -> Self {
        self.running = WhileRunning::new(busy, true);
        self
    }

    /// As [`On::during`](crate::On::during).
    pub fn during(mut self, stages: PartId, stage: &str) -> Self {
        self.during = Some((stages, stage.into()));
        self
    }

    /// As [`On::written_at`](crate::On::written_at).
    pub fn written_at(mut self, place: Place) -> Self {
        self.place = place;
        self
    }

    /// What it does. In a wire that a sequence makes, [`Expr::Local`] has the values that the sequence kept when it made the
    /// wire.
    pub fn run(mut self, steps: impl Into<Vec<Step>>) -> Self {
        self.steps = steps.into();
        self
    }
}

/// What a compiled pattern listens to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum Hears {
    One(SignalId),
    Of(Expr, Text),
    Every(Option<Tag>, Text),
}

/// A [`NewWire`], compiled: wires made of it share its statements and its guard.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Pattern {
    pub(crate) hears: Hears,
    pub(crate) filter: Vec<SmolStr>,
    pub(crate) guard: Option<Arc<Expr>>,
    pub(crate) order: i32,
    pub(crate) cooldown: Option<Cooldown>,
    pub(crate) delay: Option<Ticks>,
    pub(crate) times: Option<u64>,
    pub(crate) running: WhileRunning,
    pub(crate) during: Option<(PartId, Text)>,
    pub(crate) ops: Arc<[Op]>,
    pub(crate) place: Place,
}

/// Where they are written makes no difference.
impl PartialEq for NewWire {
    fn eq(&self, other: &Self) -> bool {
        let Self { from, filter, guard, order, cooldown, delay, times, running, during, steps, place: _ } =
            self;
        (from, filter, guard, during, steps)
            == (&other.from, &other.filter, &other.guard, &other.during, &other.steps)
            && (order, cooldown, delay, times, running)
                == (&other.order, &other.cooldown, &other.delay, &other.times, &other.running)
    }
}

/// Where they are written makes no difference.
impl PartialEq for Pattern {
    fn eq(&self, other: &Self) -> bool {
        let Self { hears, filter, guard, order, cooldown, delay, times, running, during, ops, place: _ } =
            self;
        (hears, filter, guard, during, ops)
            == (&other.hears, &other.filter, &other.guard, &other.during, &other.ops)
            && (order, cooldown, delay, times, running)
                == (&other.order, &other.cooldown, &other.delay, &other.times, &other.running)
    }
}
