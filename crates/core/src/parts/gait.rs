//! The gait: tells how bodies go.

use std::collections::BTreeMap;

use smol_str::SmolStr;

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{ObjectId, PartId, SignalId},
        signal::{Signal, SignalName},
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        kind::{PartKind, SignalKind},
        offers::Footing,
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    payload,
};

payload! {
    /// A body has gone as far as one step again. Who goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Stepped {
        /// How far it has gone since it set out, in scene units.
        pub distance: f64,
    }
}

payload! {
    /// A body has come to rest. Who goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Rested {
        /// How far it has gone since it set out, in scene units.
        pub distance: f64,
    }
}

/// How many steps of one body are told in one tick; those beyond are left out.
const MOST_STEPS: usize = 100;

/// Tells how bodies go: that of its own object; those inside the zones of its object, if that has any; or all with a tag.
/// Made in Rust with [`Gait::new`].
///
/// A body sets out in the first tick in which it walks, drifts, is tweened or is moved by the host, and rests in the first
/// in which it does not. What is put or sent somewhere, or is carried by what it hangs on, does not go.
///
/// ```
/// use stoicheon_core::{Gait, Vec3, World};
/// let mut world = World::<Vec<f64>>::new();
/// let soles = world.object("soles").add()?;
/// let gait = world.attach(soles, Gait::of("player").every(0.8))?;
/// world.on(gait.stepped).run(|steps: &mut Vec<f64>, step, _| steps.push(step.distance))?;
/// let ada = world.player("ada").add()?;
/// world.walk(ada, Vec3::new(2.0, 0.0, 0.0), 4.0)?;
/// let mut steps = Vec::new();
/// for _ in 0..20 {
///     world.step(&mut steps)?;
/// }
/// assert_eq!(steps, [0.8, 1.6]);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Gait {
    footing: Footing,
    every: Option<f64>,
    under_way: BTreeMap<ObjectId, Way>,
}

/// How far a body has gone since it set out.
#[derive(Clone, Copy, Debug, Default)]
struct Way {
    gone: f64,
    /// How many steps that was.
    steps: f64,
    /// It has moved in this tick.
    moved: bool,
}

/// A gait's signals, and the part.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct GaitHandle {
    /// The part.
    pub part: PartId,
    /// A body has set out.
    pub set_out: Signal<()>,
    /// It has gone as far as one step again.
    pub stepped: Signal<Stepped>,
    /// It has come to rest.
    pub rested: Signal<Rested>,
}

impl Gait {
    /// The signal `stepped` of any object with a gait.
    pub const ON_STEPPED: SignalName<Stepped> = SignalName::new("stepped");

    /// What is known of gaits.
    pub const KIND: PartKind = PartKind {
        name: "gait",
        about: "Reports when bodies start to move, each step, and when they stop: its own object, the bodies in \
                 its zones, or all with a tag.",
        states: &[],
        signals: &[
            SignalKind::of::<()>("set_out", "A body starts to move."),
            SignalKind::named(Self::ON_STEPPED, "A body has moved the distance of one more step."),
            SignalKind::of::<Rested>("rested", "A body has stopped."),
        ],
        commands: &[],
        variables: &[],
        readings: &[],
        words: None,
        settings: &[
            Setting::optional(
                "of",
                SettingType::Tags,
                "Which bodies: those with one of these tags, in its scene. Default those inside the zones of its \
                 object; without zones, the object itself.",
            ),
            Setting::optional(
                "every",
                SettingType::Number,
                "The length of a step, in scene units. Default no steps are reported.",
            )
            .live(),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// That of its own object, or of those inside the zones of that.
    pub fn new() -> Self {
        Self::default()
    }

    /// That of all bodies with a tag, in its scene.
    pub fn of(tag: &str) -> Self {
        Self { footing: Footing { of: vec![tag.into()] }, ..Self::default() }
    }

    /// A step is so long, in scene units.
    pub fn every(mut self, distance: f64) -> Self {
        self.every = Some(distance);
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let footing = Footing { of: settings.tags("of").to_vec() };
        Self { footing, every: settings.number("every"), under_way: BTreeMap::new() }
    }

    fn go(&mut self, body: ObjectId, by: f64, cx: &mut PartCx<'_>) {
        cx.act_for_mover(body);
        let Way { gone, steps, moved } = self.under_way.entry(body).or_insert_with(|| {
            cx.emit(0, ());
            Way::default()
        });
        *gone += by;
        *moved = true;
        let Some(every) = self.every else { return };
        for _ in 0..MOST_STEPS {
            // Places are single numbers: what is a step to a thousandth of one is a step.
            if *gone + every * 1e-3 < (*steps + 1.0) * every {
                return;
            }
            *steps += 1.0;
            cx.emit(1, Stepped { distance: *steps * every });
        }
        *steps = (*gone / every).floor();
    }
}

fn check_every(found: f64) -> Result<(), BuildError> {
    if found > 0.0 && found.is_finite() {
        return Ok(());
    }
    Err(BuildError::BadNumber { setting: "every", expected: "a number above 0", found })
}

impl Part for Gait {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.push(Value::Text(self.footing.of.join(" ").into()));
        to.push(self.every.map_or(Value::Nothing, Value::Number));
        for (body, Way { gone, steps, .. }) in &self.under_way {
            to.extend([Value::Object(*body), (*gone).into(), (*steps).into()]);
        }
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Text(of), every, under_way @ ..] = saved else { return false };
        let mut all = BTreeMap::new();
        for one in under_way.chunks(3) {
            let [Value::Object(body), Value::Number(gone), Value::Number(steps)] = one else { return false };
            all.insert(*body, Way { gone: *gone, steps: *steps, moved: false });
        }
        let footing = Footing { of: of.split_whitespace().map(SmolStr::from).collect() };
        *self = Self { footing, every: every.as_number(), under_way: all };
        self.every.is_none_or(|every| check_every(every).is_ok())
    }

    fn footing(&self) -> Option<&Footing> {
        Some(&self.footing)
    }

    fn strode(&mut self, moved: &[(ObjectId, f64)], cx: &mut PartCx<'_>) -> bool {
        for (body, by) in moved {
            self.go(*body, *by, cx);
        }
        let mut rested = Vec::new();
        self.under_way.retain(|body, way| {
            let goes = std::mem::take(&mut way.moved);
            // One that is gone, or goes on elsewhere, does not rest here.
            if !goes && cx.stands(*body) {
                rested.push((cx.number_of(*body), *body, way.gone));
            }
            goes
        });
        rested.sort_unstable_by_key(|(number, ..)| *number);
        for (_, body, distance) in rested {
            cx.act_for_mover(body);
            cx.emit(2, Rested { distance });
        }
        !self.under_way.is_empty()
    }

    fn read(&self, name: &str, _: &ReadCx<'_>) -> Option<Value> {
        (name == "every").then(|| self.every.map_or(Value::Nothing, Value::Number))
    }

    /// The next step is as long as that, from where the last one ended.
    fn change(&mut self, setting: &str, to: &Value, _: &mut PartCx<'_>) -> Result<(), BuildError> {
        let ("every", Value::Number(every)) = (setting, to) else { return Ok(()) };
        check_every(*every)?;
        let before = self.every.replace(*every);
        for Way { gone, steps, .. } in self.under_way.values_mut() {
            // Without a step before, the first begins here.
            let since = before.map_or(0.0, |before| *gone - *steps * before);
            *steps = (*gone - since) / every;
        }
        Ok(())
    }
}

impl PartSpec for Gait {
    type Handle = GaitHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.every.map_or(Ok(()), check_every)?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> GaitHandle {
        GaitHandle {
            part,
            set_out: Signal::nth(signals, 0),
            stepped: Signal::nth(signals, 1),
            rested: Signal::nth(signals, 2),
        }
    }
}
