//! The door: swings on a hinge or slides, over a time, and can be turned back half-way.

use glam::Vec3;

use super::{Activity, Part, PartCx, PartId, PartKind, PartSpec, Setting, SettingType, Settings, SignalKind};
use crate::{
    clock::{Seconds, TickRate, Ticks, secs},
    error::Error,
    expr::Expr,
    signal::{Signal, SignalId, SignalName},
    value::{FieldValue, Value},
};

/// How a door swings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Swing {
    /// The angle it is turned by when open, in degrees.
    pub degrees: f64,
    /// The axis it turns about, of length 1.
    pub about: Vec3,
    /// Where the hinge is, from the object's place, in scene units.
    pub hinge: Vec3,
}

/// A door. Made in Rust with [`Door::swing`] or [`Door::slide`].
///
/// It starts closed. `open` and `close` turn it back at any moment without a jump: it goes on from where it is.
///
/// ```
/// use stoicheon_core::{Door, Vec3, World, secs};
/// let mut world = World::<()>::new();
/// let gate = world.object("upper_gate").at(Vec3::new(0.0, 0.0, 12.0)).add()?;
/// let door = world.attach(gate, Door::swing(85.0).hinge(Vec3::new(-2.0, 0.0, 0.0)).over(secs(2.5)))?;
/// assert_eq!(world.part::<Door>(door.part)?.openness(), 0.0);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Door {
    swing: Option<Swing>,
    slide: Vec3,
    over: Seconds,
    length: Ticks,
    /// How many ticks of motion it stands away from closed.
    progress: u64,
    state: u8,
    remember: bool,
}

/// A door's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
pub struct DoorHandle {
    /// The part.
    pub part: PartId,
    /// It begins to open.
    pub opening: Signal<()>,
    /// It stands open.
    pub opened: Signal<()>,
    /// It begins to close.
    pub closing: Signal<()>,
    /// It is shut.
    pub closed: Signal<()>,
}

impl DoorHandle {
    /// True while the door is in that state: one of `Door::CLOSED`, `OPENING`, `OPEN` and `CLOSING`.
    pub fn is(self, state: u8) -> Expr {
        Expr::State { part: self.part, state }
    }
}

impl Door {
    /// The state of a door that is shut.
    pub const CLOSED: u8 = 0;
    /// The state of a door on its way to open.
    pub const OPENING: u8 = 1;
    /// The state of a door that stands open.
    pub const OPEN: u8 = 2;
    /// The state of a door on its way to shut.
    pub const CLOSING: u8 = 3;
    /// The number of the command `open`.
    pub const TO_OPEN: u8 = 0;
    /// The number of the command `close`.
    pub const TO_CLOSE: u8 = 1;
    /// The number of the command `toggle`.
    pub const TO_TOGGLE: u8 = 2;

    /// The signal `opening` of any object with a door.
    pub const ON_OPENING: SignalName<()> = SignalName::new("opening");
    /// The signal `opened` of any object with a door.
    pub const ON_OPENED: SignalName<()> = SignalName::new("opened");
    /// The signal `closing` of any object with a door.
    pub const ON_CLOSING: SignalName<()> = SignalName::new("closing");
    /// The signal `closed` of any object with a door.
    pub const ON_CLOSED: SignalName<()> = SignalName::new("closed");

    /// What is known of doors.
    pub const KIND: PartKind = PartKind {
        name: "door",
        about: "Swings on a hinge or slides, over a time; turns back half-way without a jump.",
        states: &["closed", "opening", "open", "closing"],
        signals: &[
            SignalKind::of::<()>("opening", "It begins to open."),
            SignalKind::of::<()>("opened", "It stands open."),
            SignalKind::of::<()>("closing", "It begins to close."),
            SignalKind::of::<()>("closed", "It is shut."),
        ],
        commands: &["open", "close", "toggle"],
        settings: &[
            Setting::optional(
                "swing",
                SettingType::Angle,
                "The angle it opens by. Default 90deg, unless it slides.",
            ),
            Setting::optional(
                "about",
                SettingType::OneOf(&["x", "y", "z"]),
                "The axis it swings about. Default y.",
            ),
            Setting::optional(
                "hinge",
                SettingType::Vector,
                "Where the hinge is, from the object's place. Default (0, 0, 0).",
            ),
            Setting::optional(
                "slide",
                SettingType::Vector,
                "How far it slides when open, instead of swinging.",
            ),
            Setting::optional(
                "over",
                SettingType::Seconds,
                "How long it takes from shut to open. Default 1s.",
            ),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "How far it stands open is remembered when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::slide(Vec3::ZERO)),
    };

    /// A door that swings by so many degrees about the upright axis, over one second.
    pub fn swing(degrees: f64) -> Self {
        Self::with(Some(Swing { degrees, about: Vec3::Y, hinge: Vec3::ZERO }), Vec3::ZERO)
    }

    /// A door that slides by that much, over one second.
    pub fn slide(by: Vec3) -> Self {
        Self::with(None, by)
    }

    fn with(swing: Option<Swing>, slide: Vec3) -> Self {
        Self {
            swing,
            slide,
            over: secs(1.0),
            length: Ticks(1),
            progress: 0,
            state: Self::CLOSED,
            remember: false,
        }
    }

    fn from_settings(settings: &Settings) -> Self {
        let mut door = match settings.vector("slide") {
            Some(by) => Self::slide(by),
            None => Self::swing(settings.angle("swing").unwrap_or(90.0)),
        };
        door = door.about(match settings.word("about") {
            Some("x") => Vec3::X,
            Some("z") => Vec3::Z,
            _ => Vec3::Y,
        });
        door.hinge(settings.vector("hinge").unwrap_or_default())
            .over(settings.seconds("over").unwrap_or(secs(1.0)))
            .remember_if(settings.has("remember"))
    }

    fn remember_if(mut self, remember: bool) -> Self {
        self.remember = remember;
        self
    }

    /// How far it stands open is remembered when its scene is unloaded, and in a [`Save`](crate::Save).
    pub fn remembered(self) -> Self {
        self.remember_if(true)
    }

    /// Swings about that axis, of length 1.
    pub fn about(mut self, axis: Vec3) -> Self {
        if let Some(swing) = &mut self.swing {
            swing.about = axis;
        }
        self
    }

    /// Puts the hinge there, from the object's place.
    pub fn hinge(mut self, hinge: Vec3) -> Self {
        if let Some(swing) = &mut self.swing {
            swing.hinge = hinge;
        }
        self
    }

    /// Takes that long from shut to open.
    pub fn over(mut self, span: Seconds) -> Self {
        self.over = span;
        self
    }

    /// How far it stands open, from 0 (shut) to 1 (open).
    #[expect(clippy::cast_precision_loss, reason = "no door takes 2^52 ticks")]
    pub fn openness(&self) -> f64 {
        self.progress as f64 / self.length.0 as f64
    }

    /// How it swings, if it does: the angle when fully open.
    pub fn swings(&self) -> Option<Swing> {
        self.swing
    }

    /// How far it has slid from its place.
    #[expect(clippy::cast_possible_truncation, reason = "a fraction from 0 to 1")]
    pub fn offset(&self) -> Vec3 {
        self.slide * self.openness() as f32
    }

    fn go(&mut self, opening: bool, cx: &mut PartCx<'_>) {
        let there = if opening { [Self::OPENING, Self::OPEN] } else { [Self::CLOSING, Self::CLOSED] };
        if there.contains(&self.state) {
            cx.unmoved(self.state);
            return;
        }
        self.shift(there[0], cx);
        cx.wake();
    }

    /// The state and the signal that tells of it have different numbers only for open and opened.
    fn shift(&mut self, to: u8, cx: &mut PartCx<'_>) {
        cx.shift(self.state, to);
        self.state = to;
        cx.emit(
            match to {
                Self::OPENING => 0,
                Self::OPEN => 1,
                Self::CLOSING => 2,
                _ => 3,
            },
            (),
        );
    }
}

impl Part for Door {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> u8 {
        self.state
    }

    fn save(&self, to: &mut Vec<Value>) {
        let swing = self.swing.unwrap_or(Swing { degrees: 0.0, about: Vec3::ZERO, hinge: Vec3::ZERO });
        to.extend([
            swing.degrees.into(),
            swing.about.into(),
            swing.hinge.into(),
            self.slide.into(),
            self.over.0.into(),
            self.length.into(),
            Value::Duration(Ticks(self.progress)),
            u32::from(self.state).into(),
            self.remember.into(),
        ]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        use Value::{Duration, Number, Vector};
        let [
            Number(degrees),
            Vector(about),
            Vector(hinge),
            Vector(slide),
            Number(over),
            Duration(length),
            Duration(progress),
            state,
            Value::Bool(remember),
        ] = saved
        else {
            return false;
        };
        let state = u32::from_value(state).and_then(|state| u8::try_from(state).ok());
        let Some(state) = state.filter(|state| *state <= Self::CLOSING && progress <= length) else {
            return false;
        };
        let swing = Swing { degrees: *degrees, about: *about, hinge: *hinge };
        *self = Self {
            swing: (*degrees != 0.0).then_some(swing),
            slide: *slide,
            over: Seconds(*over),
            length: *length,
            progress: progress.0,
            state,
            remember: *remember,
        };
        true
    }

    fn remembered(&self) -> Vec<(&'static str, Value)> {
        if !self.remember {
            return Vec::new();
        }
        let word = Self::KIND.states.get(usize::from(self.state)).copied().unwrap_or_default();
        vec![("state", Value::Text(word.into())), ("openness", self.openness().into())]
    }

    /// It goes on from where it was; nothing is told of what was told before.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let field = |name: &str| fields.iter().find(|(field, _)| *field == name).map(|(_, value)| value);
        let state = field("state").and_then(Value::as_text).and_then(|word| Self::KIND.state(word));
        let Some(state) = state else { return false };
        let half = field("openness").and_then(Value::as_number).unwrap_or(0.0);
        let openness = match state {
            Self::CLOSED => 0.0,
            Self::OPEN => 1.0,
            _ if (0.0..=1.0).contains(&half) => half,
            _ => return false,
        };
        #[expect(
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss,
            clippy::cast_precision_loss,
            reason = "a part of the ticks it takes"
        )]
        let progress = libm::round(openness * self.length.0 as f64) as u64;
        (self.state, self.progress) = (state, progress);
        if matches!(state, Self::OPENING | Self::CLOSING) {
            cx.wake();
        }
        true
    }

    fn command(&mut self, command: u8, cx: &mut PartCx<'_>) {
        let opening = match command {
            Self::TO_OPEN => true,
            Self::TO_CLOSE => false,
            _ => matches!(self.state, Self::CLOSED | Self::CLOSING),
        };
        self.go(opening, cx);
    }

    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        match self.state {
            Self::OPENING => {
                // Told to close and to open again within a tick, it stands open still.
                self.progress = (self.progress + 1).min(self.length.0);
                if self.progress >= self.length.0 {
                    self.shift(Self::OPEN, cx);
                    return Activity::Still;
                }
                Activity::Moving
            }
            Self::CLOSING => {
                self.progress = self.progress.saturating_sub(1);
                if self.progress == 0 {
                    self.shift(Self::CLOSED, cx);
                    return Activity::Still;
                }
                Activity::Moving
            }
            _ => Activity::Still,
        }
    }
}

impl PartSpec for Door {
    type Handle = DoorHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, Error> {
        self.length = rate.ticks(self.over)?;
        if let Some(swing) = self.swing {
            if !swing.degrees.is_finite() || swing.degrees == 0.0 {
                return Err(Error::BadNumber {
                    setting: "swing",
                    expected: "an angle other than 0",
                    found: swing.degrees,
                });
            }
            if !swing.about.is_normalized() {
                return Err(Error::BadPlace { found: swing.about });
            }
            if !swing.hinge.is_finite() {
                return Err(Error::BadPlace { found: swing.hinge });
            }
        }
        if !self.slide.is_finite() {
            return Err(Error::BadPlace { found: self.slide });
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> DoorHandle {
        let signal = |index: usize| Signal::new(signals.get(index).copied().unwrap_or_default());
        DoorHandle { part, opening: signal(0), opened: signal(1), closing: signal(2), closed: signal(3) }
    }
}
