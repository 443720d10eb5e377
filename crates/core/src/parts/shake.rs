//! The shake: something trembles for a time, and is at rest again exactly.

use glam::Vec3;

use crate::{
    base::{
        clock::{TickRate, Ticks, ticks},
        error::BuildError,
        geometry::check_place,
        ids::{PartId, SignalId},
        numbers::{Command, PartState},
        signal::Signal,
        value::Value,
    },
    part::{
        contract::{Activity, Part, PartSpec},
        cx::PartCx,
        kind::{CommandKind, Param, ParamType, PartKind, SignalKind, VariableKind},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    payload,
    plan::new_var::NewVar,
};

payload! {
    /// Something begins to tremble.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Shaken {
        /// How strongly: 1 as far as its `reach` goes.
        pub strength: f64,
    }
}

/// A shake. Made in Rust with [`Shake::new`].
///
/// What it shakes is the host's: its variable `offset` says how far to the side it is. A new shake takes the place of the
/// one under way; at its end the offset is 0 again, and until the next one nothing is done.
#[derive(Clone, Debug)]
pub struct Shake {
    reach: Vec3,
    rate: f64,
    strongest: bool,
    strength: f64,
    done: u64,
    length: Ticks,
    state: PartState,
}

/// A shake's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ShakeHandle {
    /// The part.
    pub part: PartId,
    /// It begins.
    pub shaken: Signal<Shaken>,
    /// It is at rest.
    pub rested: Signal<()>,
}

impl Shake {
    /// The state of something at rest.
    pub const RESTING: PartState = PartState::new(0);
    /// The state of something that trembles.
    pub const SHAKING: PartState = PartState::new(1);
    /// The number of the command `shake`.
    pub const SHAKE: Command = Command::new(0);
    /// The number of the command `still`.
    pub const STILL: Command = Command::new(1);

    /// What is known of shakes.
    pub const KIND: PartKind = PartKind {
        name: "shake",
        about: "Shakes for a time and returns exactly to rest; the host shows its variable `offset`.",
        states: &["resting", "shaking"],
        signals: &[
            SignalKind::of::<Shaken>("shaken", "A shake starts."),
            SignalKind::of::<()>("rested", "It is at rest again."),
        ],
        commands: &[
            CommandKind::with(
                "shake",
                "Shakes; replaces a shake in progress.",
                &[
                    Param::optional(
                        "by",
                        ParamType::Number,
                        "The strength; 1 uses the full reach. Default 1.",
                    ),
                    Param::optional("for", ParamType::Span, "The duration. Default 0.5s."),
                ],
            ),
            CommandKind::new("still", "Stops at once."),
        ],
        variables: &[VariableKind {
            name: "offset",
            ty: ParamType::Vector,
            about: "The current offset, in scene units.",
        }],
        readings: &[],
        words: None,
        settings: &[
            Setting::optional(
                "reach",
                SettingType::Vector,
                "The largest offset at strength 1, in scene units. Default (0.1, 0.1, 0).",
            ),
            Setting::optional("rate", SettingType::Number, "Oscillations per second. Default 12."),
            Setting::optional(
                "strongest",
                SettingType::Flag,
                "A weaker shake does not replace a stronger one; the strength that is left counts.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// A shake that reaches 0.1 scene units sideways and up.
    pub fn new() -> Self {
        let reach = Vec3::new(0.1, 0.1, 0.0);
        let (strength, done, length) = (0.0, 0, Ticks::ZERO);
        Self { reach, rate: 12.0, strongest: false, strength, done, length, state: Self::RESTING }
    }

    /// Goes so far at a strength of 1, in scene units.
    pub fn reach(mut self, reach: Vec3) -> Self {
        self.reach = reach;
        self
    }

    /// To and fro so often in a second.
    pub fn rate(mut self, rate: f64) -> Self {
        self.rate = rate;
        self
    }

    /// A weaker one does not take the place of a stronger one.
    pub fn strongest(mut self) -> Self {
        self.strongest = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let mut shake = Self::new().rate(settings.number("rate").unwrap_or(12.0));
        shake.reach = settings.vector("reach").unwrap_or(shake.reach);
        shake.strongest = settings.has("strongest");
        shake
    }

    /// How strongly it trembles now: it dies away.
    #[expect(clippy::cast_precision_loss, reason = "nothing trembles for 2^52 ticks")]
    fn strength_now(&self) -> f64 {
        let left = 1.0 - self.done as f64 / self.length.whole().max(1) as f64;
        if self.state == Self::SHAKING { self.strength * left * left } else { 0.0 }
    }

    #[expect(
        clippy::cast_precision_loss,
        clippy::cast_possible_truncation,
        reason = "a wave of single precision"
    )]
    fn offset(&self, rate: TickRate) -> Vec3 {
        let turns = self.done as f64 / f64::from(rate.per_second()) * self.rate * std::f64::consts::TAU;
        // Each direction at another pace, so that it does not go along a line.
        let wave = |pace: f64| libm::sin(turns * pace) * self.strength_now();
        Vec3::new(wave(1.0) as f32, wave(1.3) as f32, wave(0.7) as f32) * self.reach
    }

    fn rest(&mut self, cx: &mut PartCx<'_>) {
        cx.shift(self.state, Self::RESTING);
        (self.state, self.strength) = (Self::RESTING, 0.0);
        cx.keep(0, None, Vec3::ZERO);
        cx.emit(1, ());
    }
}

impl Default for Shake {
    fn default() -> Self {
        Self::new()
    }
}

impl Part for Shake {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        self.state
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([self.reach.into(), self.rate.into(), self.strongest.into(), self.strength.into()]);
        to.extend([Value::Duration(ticks(self.done)), self.length.into(), self.state.into()]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [
            Value::Vector(reach),
            Value::Number(rate),
            Value::Bool(strongest),
            Value::Number(strength),
            Value::Duration(done),
            Value::Duration(length),
            Value::Whole(state @ 0..=1),
        ] = saved
        else {
            return false;
        };
        let state = PartState::new(u8::try_from(*state).unwrap_or_default());
        let (strength, done, length) = (*strength, done.whole(), *length);
        *self = Self { reach: *reach, rate: *rate, strongest: *strongest, strength, done, length, state };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        vec![NewVar::new("offset", Vec3::ZERO)]
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        if command == Self::STILL {
            return if self.state == Self::SHAKING { self.rest(cx) } else { cx.unmoved(self.state) };
        }
        let strength = cx.number("by").unwrap_or(1.0);
        if !(strength > 0.0 && strength.is_finite()) {
            return cx.fault("expected a strength above 0");
        }
        if self.strongest && strength < self.strength_now() {
            return cx.unmoved(self.state);
        }
        cx.shift(self.state, Self::SHAKING);
        self.length = cx.span("for").unwrap_or_else(|| ticks((cx.rate().per_second() / 2).max(1).into()));
        (self.state, self.strength, self.done) = (Self::SHAKING, strength, 0);
        cx.emit(0, Shaken { strength });
        cx.wake();
    }

    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        if self.state == Self::RESTING {
            return Activity::Still;
        }
        self.done = self.done.saturating_add(1);
        if self.done >= self.length.whole() {
            self.rest(cx);
            return Activity::Still;
        }
        let offset = self.offset(cx.rate());
        cx.show(0, offset);
        Activity::Moving
    }
}

impl PartSpec for Shake {
    type Handle = ShakeHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        check_place(self.reach)?;
        if !(self.rate > 0.0 && self.rate <= 1000.0) {
            let expected = "a number above 0 and up to 1000";
            return Err(BuildError::BadNumber { setting: "rate", expected, found: self.rate });
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> ShakeHandle {
        ShakeHandle { part, shaken: Signal::nth(signals, 0), rested: Signal::nth(signals, 1) }
    }
}
