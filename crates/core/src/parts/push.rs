//! The push: gives bodies inside its object's zones a velocity.

use glam::Vec3;

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{PartId, SignalId},
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        kind::PartKind,
        offers::Current,
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    plan::expr::Expr,
    space::shape::direction,
};

/// A push. Made in Rust with [`Push::along`].
///
/// It works on the bodies inside the zones of its own object, in the motion phase, before bodies move.
///
/// ```
/// use stoicheon_core::{Push, Vec3, World, Zone, secs};
/// let mut world = World::<()>::new();
/// let race = world.object("race").add()?;
/// world.attach(race, Zone::boxed(Vec3::new(4.0, 2.0, 20.0)).admits("floating"))?;
/// world.attach(race, Push::along(Vec3::NEG_Z).by(2.5))?;
/// let float = world.object("float").tag("floating").body().add()?;
/// for _ in 0..31 {
///     world.step(&mut ())?;
/// }
/// assert!((world.place(float)?.z + 2.5).abs() < 1e-4, "{}", world.place(float)?);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Push {
    current: Current,
    by: Expr,
}

impl Push {
    /// What is known of pushes.
    pub const KIND: PartKind = PartKind {
        name: "push",
        about: "Gives bodies inside its object's zones a velocity: pads, currents, wind.",
        states: &[],
        signals: &[],
        commands: &[],
        variables: &[],
        readings: &[],
        words: None,
        settings: &[
            Setting::required(
                "along",
                SettingType::Vector,
                "The direction, relative to the object; its length does not matter.",
            ),
            Setting::optional(
                "by",
                SettingType::Amount,
                "The speed, in scene units per second; with `adding`, the acceleration. Default 1.",
            ),
            Setting::optional(
                "adding",
                SettingType::Flag,
                "Adds to the velocity every second, instead of setting it.",
            ),
            Setting::optional(
                "falloff",
                SettingType::Number,
                "The distance from the object at which the push is 0, in scene units. Default it does not decrease.",
            ),
            Setting::optional(
                "top",
                SettingType::Number,
                "The largest speed it gives a body in that direction, in scene units per second; with `adding`, \
                 a body that is already faster keeps its speed. Default no limit.",
            ),
            Setting::optional("stills", SettingType::Flag, "A body that leaves has no velocity."),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::along(Vec3::X)),
    };

    /// Sets the velocity that way, to 1 scene unit per second.
    pub fn along(direction: Vec3) -> Self {
        let current = Current { along: direction, adds: false, top: None, falloff: None, stills: false };
        Self { current, by: 1.0.into() }
    }

    /// So fast, in scene units per second; an expression is worked out for each body, who is `who`.
    pub fn by(mut self, speed: impl Into<Expr>) -> Self {
        self.by = speed.into();
        self
    }

    /// Adds to the velocity there is, every second.
    pub fn adding(mut self) -> Self {
        self.current.adds = true;
        self
    }

    /// Makes a body so fast that way at most, in scene units per second.
    pub fn top(mut self, speed: f64) -> Self {
        self.current.top = Some(speed);
        self
    }

    /// Falls to nothing so far from the object's place.
    pub fn falloff(mut self, distance: f64) -> Self {
        self.current.falloff = Some(distance);
        self
    }

    /// Stills a body that leaves.
    pub fn stills(mut self) -> Self {
        self.current.stills = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let mut push = Self::along(settings.vector("along").unwrap_or_default());
        push.current.adds = settings.has("adding");
        push.current.stills = settings.has("stills");
        push.current.falloff = settings.number("falloff");
        push.current.top = settings.number("top");
        push.by(settings.expr("by").cloned().unwrap_or(1.0.into()))
    }
}

impl Part for Push {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        let Current { along, adds, top, falloff, stills } = self.current;
        to.extend([along.into(), adds.into(), falloff.unwrap_or(0.0).into(), stills.into()]);
        to.extend(top.map(Value::Number));
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Vector(along), Value::Bool(adds), Value::Number(falloff), Value::Bool(stills), top @ ..] =
            saved
        else {
            return false;
        };
        let falloff = (*falloff != 0.0).then_some(*falloff);
        let top = top.first().and_then(Value::as_number);
        self.current = Current { along: *along, adds: *adds, top, falloff, stills: *stills };
        direction(*along).is_ok()
    }

    fn current(&self) -> Option<&Current> {
        Some(&self.current)
    }

    fn asks(&self) -> Vec<(&'static str, Expr)> {
        vec![("by", self.by.clone())]
    }
}

impl PartSpec for Push {
    type Handle = PartId;

    fn into_part(mut self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.current.along = Current::new(self.current.along)?.along;
        self.current.check()?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, _: &[SignalId]) -> PartId {
        part
    }
}
