//! The zone: a region that tells who comes and who goes.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Seconds, TickRate},
        error::BuildError,
        ids::{ObjectId, PartId, SignalId},
        signal::{Signal, SignalName},
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        kind::{PartKind, SignalKind},
        region::{Pulse, Region, SHAPE_SETTINGS, Touched, shape_from},
        setting::{Setting, Settings, chain_settings},
        setting_type::SettingType,
    },
    plan::expr::Expr,
    space::shape::Shape,
};

/// A zone. Made in Rust with [`Zone::of`], [`Zone::boxed`] or [`Zone::told`].
///
/// Its borders belong to it: a body exactly on one is inside, whether it came or stood there. It goes where its object
/// goes and turns as that turns, and its own object is never a visitor.
///
/// ```
/// use stoicheon_core::{Vec3, World, Zone, secs, space::Shape};
/// let mut world = World::<()>::new();
/// let race = world.object("race").at(Vec3::new(0.0, 0.0, 30.0)).add()?;
/// let shape = Shape::boxed(Vec3::new(4.0, 2.0, 10.0)).and(Shape::ball(3.0).offset(Vec3::new(0.0, 0.0, 7.0)));
/// let race = world.attach(race, Zone::of(shape).admits("floating").pulse(secs(0.5)))?;
/// world.on(race.pulse).run(|_, pulse, _| println!("adrift for {} ticks", pulse.inside_for.count()))?;
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Zone {
    region: Region,
    pulse: Option<Seconds>,
}

/// A zone's signals, and the part.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ZoneHandle {
    /// The part.
    pub part: PartId,
    /// A body entered.
    pub entered: Signal<Touched>,
    /// Somebody went out.
    pub left: Signal<Touched>,
    /// A body entered, and the zone was empty before.
    pub occupied: Signal<()>,
    /// A body left, and the zone is empty now.
    pub vacated: Signal<()>,
    /// Somebody has been inside for that long, every so often.
    pub pulse: Signal<Pulse>,
}

impl ZoneHandle {
    /// True while that body is inside.
    pub fn has(self, body: ObjectId) -> Expr {
        Expr::Inside { body: Box::new(body.into()), zone: self.part }
    }

    /// True while the body that caused the signal is inside.
    pub fn has_who(self) -> Expr {
        Expr::Inside { body: Box::new(Expr::Who), zone: self.part }
    }
}

const OF_A_ZONE: [Setting; 5] = [
    Setting::optional("admits", SettingType::Tags, "Only bodies with one of these tags. Default all bodies."),
    Setting::optional(
        "when",
        SettingType::Condition,
        "Evaluated once when a body reaches the border; a refused body stays outside until it leaves and \
                 comes back.",
    ),
    Setting::optional(
        "pulse",
        SettingType::Seconds,
        "The interval of `pulse` for each body inside, counted from when it entered. Default never.",
    ),
    Setting::optional(
        "margin",
        SettingType::Number,
        "How far outside a body may be, in scene units, before it counts as having left. Default 0.",
    ),
    Setting::optional(
        "told",
        SettingType::Flag,
        "No shape: the host's physics reports which bodies are inside.",
    ),
];

static SETTINGS: [Setting; 17] = chain_settings(SHAPE_SETTINGS, OF_A_ZONE);

impl Zone {
    /// The signal `entered` of any object with a zone.
    pub const ON_ENTERED: SignalName<Touched> = SignalName::new("entered");
    /// The signal `left` of any object with a zone.
    pub const ON_LEFT: SignalName<Touched> = SignalName::new("left");
    /// The signal `occupied` of any object with a zone.
    pub const ON_OCCUPIED: SignalName<()> = SignalName::new("occupied");
    /// The signal `vacated` of any object with a zone.
    pub const ON_VACATED: SignalName<()> = SignalName::new("vacated");
    /// The signal `pulse` of any object with a zone.
    pub const ON_PULSE: SignalName<Pulse> = SignalName::new("pulse");

    /// The signals that every part with a [`Region`] gives, which are the first ones of its kind.
    pub const SIGNALS: [SignalKind; 5] = [
        SignalKind::named(Self::ON_ENTERED, "A body entered."),
        SignalKind::named(Self::ON_LEFT, "A body left, or the zone was disabled."),
        SignalKind::named(Self::ON_OCCUPIED, "A body entered, and the zone was empty before."),
        SignalKind::named(Self::ON_VACATED, "A body left, and the zone is empty now."),
        SignalKind::named(Self::ON_PULSE, "A body is inside; emitted at the interval that `pulse` sets."),
    ];

    /// What is known of zones.
    pub const KIND: PartKind = PartKind {
        name: "zone",
        about: "A region that reports the bodies that enter and leave it.",
        states: &[],
        signals: &Self::SIGNALS,
        commands: &[],
        variables: &[],
        readings: &[],
        words: None,
        settings: &SETTINGS,
        build: |settings, rate| Self::from_settings(settings)?.into_part(rate),
        blank: || Box::new(Self::told()),
    };

    /// A zone of some shape.
    pub fn of(shape: Shape) -> Self {
        Self { region: Region { shape: Some(shape), ..Region::default() }, pulse: None }
    }

    /// A box of that whole size, in scene units, around the object's place.
    pub fn boxed(size: Vec3) -> Self {
        Self::of(Shape::boxed(size))
    }

    /// A zone without a shape: the host says who is inside, with [`World::touch`](crate::World::touch).
    pub fn told() -> Self {
        Self { region: Region::default(), pulse: None }
    }

    /// Admits bodies with that tag; called several times, with any of them.
    pub fn admits(mut self, tag: &str) -> Self {
        self.region.admits.push(tag.into());
        self
    }

    /// Asks this once when somebody comes to the border; `who` is the body that comes. A body refused at the border
    /// stays outside until it leaves and comes back.
    pub fn when(mut self, guard: Expr) -> Self {
        self.region.guard = Some(guard);
        self
    }

    /// Tells every so often of each body inside, counted from when it came.
    pub fn pulse(mut self, every: Seconds) -> Self {
        self.pulse = Some(every);
        self
    }

    /// Lets a body inside stand that far outside, in scene units, before it counts as having left.
    pub fn margin(mut self, margin: f64) -> Self {
        self.region.margin = margin;
        self
    }

    /// What it looks like; `None` for one that is told.
    pub fn shape(&self) -> Option<&Shape> {
        self.region.shape.as_ref()
    }

    fn from_settings(settings: &Settings) -> Result<Self, BuildError> {
        let shape = shape_from(settings)?;
        match (&shape, settings.has("told")) {
            (Some(_), true) => return Err(BuildError::FormAndTold),
            (None, false) => return Err(BuildError::MissingForm),
            _ => {}
        }
        let region = Region {
            shape,
            admits: settings.tags("admits").to_vec(),
            guard: settings.expr("when").cloned(),
            pulse: None,
            margin: settings.number("margin").unwrap_or(0.0),
        };
        Ok(Self { region, pulse: settings.seconds("pulse") })
    }
}

impl Part for Zone {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        // Guard and pulse are kept by the world, with who is inside.
        to.extend(self.region.admits.iter().cloned().map(Value::Text));
        if let Some(shape) = &self.region.shape {
            shape.save(to);
        }
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let tags = saved.iter().map_while(|value| value.as_text().map(SmolStr::from));
        let admits: Vec<_> = tags.collect();
        let rest = saved.get(admits.len()..).unwrap_or_default();
        let shape = match rest {
            [] => None,
            rest => match Shape::load(rest) {
                Some((shape, [])) => Some(shape),
                _ => return false,
            },
        };
        self.region = Region { shape, admits, ..Region::default() };
        true
    }

    fn asks(&self) -> Vec<(&'static str, Expr)> {
        self.region.guard.iter().map(|guard| ("when", guard.clone())).collect()
    }

    fn reshape(&mut self, shape: &Shape) -> bool {
        self.region.shape = Some(shape.clone());
        true
    }

    fn region(&self) -> Option<&Region> {
        Some(&self.region)
    }
}

impl PartSpec for Zone {
    type Handle = ZoneHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.region.check()?;
        self.region.pulse = self.pulse.map(|every| rate.repeated(every, "pulse")).transpose()?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> ZoneHandle {
        ZoneHandle {
            part,
            entered: Signal::nth(signals, 0),
            left: Signal::nth(signals, 1),
            occupied: Signal::nth(signals, 2),
            vacated: Signal::nth(signals, 3),
            pulse: Signal::nth(signals, 4),
        }
    }
}
