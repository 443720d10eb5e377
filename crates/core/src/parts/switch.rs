//! The switch: on or off, by command or by what stands on it.

use crate::{
    base::{
        clock::{Seconds, TickRate, Ticks, ticks},
        error::BuildError,
        ids::{PartId, SignalId},
        numbers::{Command, PartState},
        signal::Signal,
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::PartCx,
        kind::{CommandKind, Join, ParamType, PartKind, SignalKind, VariableKind},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    parts::{prompt::Prompt, zone::Zone},
    plan::new_var::NewVar,
};

/// A switch. Made in Rust with [`Switch::new`] or [`Switch::pressure`].
///
/// A pressure switch is on while what stands inside the zone of its object weighs enough: each body as much as its
/// variable `weight` says, and 1 without one. Any other stays as it is told, or goes off by itself after a time.
#[derive(Clone, Debug, Default)]
pub struct Switch {
    on: bool,
    pressure: Option<f64>,
    stays: Option<(Seconds, Ticks)>,
    by_prompt: bool,
    remember: bool,
}

/// A switch's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct SwitchHandle {
    /// The part.
    pub part: PartId,
    /// It is on.
    pub turned_on: Signal<()>,
    /// It is off.
    pub turned_off: Signal<()>,
}

impl Switch {
    /// The state of a switch that is off.
    pub const OFF: PartState = PartState::new(0);
    /// The state of a switch that is on.
    pub const ON: PartState = PartState::new(1);
    /// The number of the command `flip`.
    pub const FLIP: Command = Command::new(0);
    /// The number of the command `turn_on`.
    pub const TURN_ON: Command = Command::new(1);
    /// The number of the command `turn_off`.
    pub const TURN_OFF: Command = Command::new(2);
    /// The number of the command `weigh`.
    pub const WEIGH: Command = Command::new(3);

    /// What is known of switches.
    pub const KIND: PartKind = PartKind {
        name: "switch",
        about: "A switch that is on or off: until it is flipped again, for a time, or while enough weight is on it.",
        states: &["off", "on"],
        signals: &[
            SignalKind::of::<()>("turned_on", "The switch is on now."),
            SignalKind::of::<()>("turned_off", "The switch is off now."),
        ],
        commands: &[
            CommandKind::new("flip", "Turns it on if it is off, and off if it is on."),
            CommandKind::new("turn_on", "Turns it on; its time starts again."),
            CommandKind::new("turn_off", "Turns it off."),
            CommandKind::new(
                "weigh",
                "Measures the load of a pressure switch again. This also happens by itself.",
            ),
        ],
        variables: &[VariableKind {
            name: "load",
            ty: ParamType::Number,
            about: "The load when it was last measured.",
        }],
        readings: &[],
        words: None,
        settings: &[
            Setting::optional(
                "pressure",
                SettingType::Number,
                "The load that turns it on: the sum over the bodies inside its object's zone of their variable `weight`, or 1 each.",
            ),
            Setting::optional(
                "stays",
                SettingType::Seconds,
                "How long it stays on before it turns off by itself. Default until it is flipped again.",
            ),
            Setting::optional("on", SettingType::Flag, "The switch starts on."),
            Setting::optional(
                "flips by",
                SettingType::OneOf(&["command", "prompt"]),
                "What flips it: only the command, or an answer to its object's prompt. Default command.",
            ),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "Whether it is on is kept when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// A switch that is off, and stays as it is told.
    pub fn new() -> Self {
        Self::default()
    }

    /// A switch that is on while at least so much stands inside the zone of its object.
    pub fn pressure(weight: f64) -> Self {
        Self { pressure: Some(weight), ..Self::default() }
    }

    /// Goes off by itself after so long.
    pub fn stays(mut self, span: Seconds) -> Self {
        self.stays = Some((span, ticks(1)));
        self
    }

    /// Begins on.
    pub fn on(mut self) -> Self {
        self.on = true;
        self
    }

    /// Flipped when a player answers its object's prompt.
    pub fn flips_by_prompt(mut self) -> Self {
        self.by_prompt = true;
        self
    }

    /// Whether it is on is kept when its scene is unloaded, and in a save.
    pub fn remembered(mut self) -> Self {
        self.remember = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        Self {
            on: settings.has("on"),
            pressure: settings.number("pressure"),
            stays: settings.seconds("stays").map(|span| (span, ticks(1))),
            by_prompt: settings.word("flips by") == Some("prompt"),
            remember: settings.has("remember"),
        }
    }

    fn turn(&mut self, on: bool, cx: &mut PartCx<'_>) {
        if let Some((_, span)) = self.stays {
            if on { cx.ring_in(span) } else { cx.ring_never() }
        }
        if self.on == on {
            return cx.unmoved(self.state());
        }
        cx.shift(self.state(), on.into());
        self.on = on;
        if on { cx.emit(0, ()) } else { cx.emit(1, ()) }
    }

    fn weigh(&mut self, cx: &mut PartCx<'_>) {
        let Some(pressure) = self.pressure else { return };
        let weight = |body| cx.property(body, "weight").and_then(Value::as_number).unwrap_or(1.0);
        let load: f64 = cx.visitors().map(weight).sum();
        cx.keep(0, None, load);
        if self.on != (load >= pressure) {
            self.turn(load >= pressure, cx);
        }
    }
}

impl Part for Switch {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        self.on.into()
    }

    fn save(&self, to: &mut Vec<Value>) {
        let (span, ticks) = self.stays.map_or((-1.0, Ticks::ZERO), |(span, ticks)| (span.0, ticks));
        to.extend([
            self.on.into(),
            self.pressure.map_or(Value::Nothing, Value::Number),
            span.into(),
            ticks.into(),
        ]);
        to.extend([self.by_prompt.into(), self.remember.into()]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [
            Value::Bool(on),
            pressure,
            Value::Number(span),
            Value::Duration(ticks),
            Value::Bool(by_prompt),
            Value::Bool(remember),
        ] = saved
        else {
            return false;
        };
        let stays = (*span >= 0.0).then_some((Seconds(*span), *ticks));
        let pressure = pressure.as_number();
        *self = Self { on: *on, pressure, stays, by_prompt: *by_prompt, remember: *remember };
        true
    }

    fn remembered(&self) -> Vec<(&'static str, Value)> {
        if self.remember { vec![("on", self.on.into())] } else { Vec::new() }
    }

    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let on = fields.iter().find(|(name, _)| *name == "on").and_then(|(_, value)| value.as_bool());
        let Some(on) = on else { return false };
        self.on = on;
        if let Some((_, span)) = self.stays.filter(|_| on) {
            cx.ring_in(span);
        }
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        vec![NewVar::new("load", 0.0)]
    }

    fn joins(&self) -> Vec<Join> {
        let join = |signal, command| Join { signal, command, order: 0 };
        let weighs = [Zone::ON_ENTERED.name(), Zone::ON_LEFT.name()].map(|signal| join(signal, Self::WEIGH));
        let weighs = self.pressure.map(|_| weighs).into_iter().flatten();
        weighs.chain(self.by_prompt.then(|| join(Prompt::ON_ANSWERED.name(), Self::FLIP))).collect()
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        match command {
            Self::FLIP => self.turn(!self.on, cx),
            Self::TURN_ON | Self::TURN_OFF => self.turn(command == Self::TURN_ON, cx),
            _ => self.weigh(cx),
        }
    }

    fn due(&mut self, cx: &mut PartCx<'_>) {
        if self.on {
            self.turn(false, cx);
        }
    }
}

impl PartSpec for Switch {
    type Handle = SwitchHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        if let Some((span, ticks)) = &mut self.stays {
            *ticks = rate.ticks(*span)?;
        }
        if let Some(found) = self.pressure.filter(|weight| !(*weight > 0.0 && weight.is_finite())) {
            return Err(BuildError::BadNumber { setting: "pressure", expected: "a number above 0", found });
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> SwitchHandle {
        SwitchHandle { part, turned_on: Signal::nth(signals, 0), turned_off: Signal::nth(signals, 1) }
    }
}
