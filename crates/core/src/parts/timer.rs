//! The timer: once after a time, or again and again.

use crate::{
    base::{
        clock::{Seconds, TickRate, secs, ticks},
        error::BuildError,
        ids::{PartId, SignalId},
        numbers::{Command, PartState},
        signal::Signal,
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        interval::{Countdown, Interval},
        kind::{CommandKind, Param, ParamType, PartKind, ReadingKind, SignalKind, VariableKind},
        setting::{Setting, Settings, Span},
        setting_type::SettingType,
    },
    payload,
    plan::new_var::NewVar,
};

payload! {
    /// A timer's time is over.
    #[derive(Clone, Copy, Debug, PartialEq, Eq)]
    pub struct Struck {
        /// How often it was so far, since it was started.
        pub count: i64,
    }
}

/// How often one timer may strike within one tick.
const MOST_IN_A_TICK: u32 = 1000;

/// A timer. Made in Rust with [`Timer::every`] or [`Timer::after`].
///
/// It begins when its object starts, and counts ticks: no time is lost between one time and the next, whatever its
/// pace. It stands still while its object is disabled.
///
/// ```
/// use stoicheon_core::{Timer, World, secs};
/// let mut world = World::<u32>::new();
/// let clock = world.object("lock_clock").add()?;
/// let timer = world.attach(clock, Timer::every(secs(0.5)))?;
/// world.on(timer.struck).run(|strokes: &mut u32, _, _| *strokes += 1)?;
/// let mut strokes = 0;
/// world.advance(secs(1.6), &mut strokes)?;
/// assert_eq!(strokes, 0, "so long a frame is let go, but for a quarter of a second");
/// (0..180).try_for_each(|_| world.step(&mut strokes))?;
/// assert_eq!(strokes, 12);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Timer {
    span: Span,
    interval: Interval,
    repeats: bool,
    idle: bool,
    remember: bool,
    state: PartState,
    count: i64,
    countdown: Countdown,
}

/// A timer's signal, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct TimerHandle {
    /// The part.
    pub part: PartId,
    /// Its time is over.
    pub struck: Signal<Struck>,
}

impl Timer {
    /// The state of a timer that was not started, or has struck for the last time.
    pub const IDLE: PartState = PartState::new(0);
    /// The state of a timer that counts.
    pub const RUNNING: PartState = PartState::new(1);
    /// The state of a timer that was paused.
    pub const PAUSED: PartState = PartState::new(2);
    /// The number of the command `start`.
    pub const START: Command = Command::new(0);
    /// The number of the command `halt`.
    pub const HALT: Command = Command::new(1);
    /// The number of the command `pause`.
    pub const PAUSE: Command = Command::new(2);
    /// The number of the command `resume`.
    pub const RESUME: Command = Command::new(3);
    /// The number of the command `pace`.
    pub const PACE: Command = Command::new(4);

    /// What is known of timers.
    pub const KIND: PartKind = PartKind {
        name: "timer",
        about: "Strikes once after a time, or repeatedly; at its own pace.",
        states: &["idle", "running", "paused"],
        signals: &[SignalKind::of::<Struck>(
            "struck",
            "Its time is over; `count` is the number of strikes so far.",
        )],
        commands: &[
            CommandKind::new("start", "Starts from the beginning."),
            CommandKind::new("halt", "Stops it and discards the elapsed time."),
            CommandKind::new("pause", "Pauses it."),
            CommandKind::new("resume", "Continues from where it was paused."),
            CommandKind::with(
                "pace",
                "Sets its pace; 0 stops it.",
                &[Param::required("by", ParamType::Number, "The pace: how many times as fast as the world.")],
            ),
        ],
        variables: &[VariableKind {
            name: "count",
            ty: ParamType::Whole,
            about: "The number of strikes so far.",
        }],
        readings: &[ReadingKind::new(
            "left",
            ParamType::Span,
            "The time until it strikes; 0 s while it is idle.",
        )
        .ticking()],
        words: None,
        settings: &[
            Setting::optional(
                "every",
                SettingType::Span,
                "The time between strikes, repeatedly; or a random time such as `2s to 5s`.",
            )
            .live(),
            Setting::optional(
                "after",
                SettingType::Span,
                "The time until it strikes once; or a random time such as `2s to 5s`.",
            )
            .live(),
            Setting::optional("pace", SettingType::Number, "How many times as fast as the world. Default 1.")
                .live(),
            Setting::optional("idle", SettingType::Flag, "Does not start by itself."),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "Its state and count are kept when its scene is unloaded, and in a save; the elapsed time is not.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings)?.into_part(rate),
        blank: || Box::new(Self::after(secs(1.0))),
    };

    /// Strikes again and again, so far apart.
    pub fn every(span: impl Into<Span>) -> Self {
        Self { repeats: true, ..Self::after(span) }
    }

    /// Strikes once, after that time.
    pub fn after(span: impl Into<Span>) -> Self {
        Self {
            span: span.into(),
            interval: Interval { from: ticks(1), to: ticks(1) },
            repeats: false,
            idle: false,
            remember: false,
            state: Self::IDLE,
            count: 0,
            countdown: Countdown::default(),
        }
    }

    /// The longest time it may take; each is drawn from the world's own seeded numbers.
    pub fn at_most(mut self, longest: Seconds) -> Self {
        self.span.to = Some(longest);
        self
    }

    /// So many times as fast as the world.
    pub fn pace(mut self, pace: f64) -> Self {
        self.countdown.pace = pace;
        self
    }

    /// Does not begin by itself.
    pub fn idle(mut self) -> Self {
        self.idle = true;
        self
    }

    /// Its state and count are kept when its scene is unloaded, and in a save; the elapsed time is not.
    pub fn remembered(mut self) -> Self {
        self.remember = true;
        self
    }

    fn from_settings(settings: &Settings) -> Result<Self, BuildError> {
        let mut timer = match (settings.span("every"), settings.span("after")) {
            (Some(every), None) => Self::every(every),
            (None, Some(after)) => Self::after(after),
            _ => return Err(BuildError::BadSettings { expected: "either `every` or `after`" }),
        };
        timer.countdown.pace = settings.number("pace").unwrap_or(1.0);
        (timer.idle, timer.remember) = (settings.has("idle"), settings.has("remember"));
        Ok(timer)
    }

    fn shift(&mut self, to: PartState, cx: &mut PartCx<'_>) {
        if self.state != to {
            cx.shift(self.state, to);
            self.state = to;
        }
    }

    fn start(&mut self, cx: &mut PartCx<'_>) {
        self.shift(Self::RUNNING, cx);
        self.set_count(0, cx);
        self.countdown.begin(self.interval, cx);
    }

    fn set_count(&mut self, count: i64, cx: &mut PartCx<'_>) {
        if self.count != count {
            self.count = count;
            cx.keep(0, None, count);
        }
    }
}

impl Part for Timer {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        self.state
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([self.span.from.0.into(), self.span.to.map_or(-1.0, |to| to.0).into()]);
        to.extend([self.interval.from.into(), self.interval.to.into()]);
        to.extend([self.repeats.into(), self.idle.into(), self.remember.into()]);
        to.extend([self.state.into(), self.count.into()]);
        to.extend(self.countdown.save());
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        use Value::{Bool, Duration, Number, Whole};
        let [
            Number(from),
            Number(to),
            Duration(first),
            Duration(last),
            Bool(repeats),
            Bool(idle),
            Bool(remember),
            Whole(state @ 0..=2),
            Whole(count),
            countdown @ ..,
        ] = saved
        else {
            return false;
        };
        let Some(countdown) = Countdown::load(countdown).filter(|_| first <= last) else { return false };
        *self = Self {
            span: Span { from: Seconds(*from), to: (*to >= 0.0).then_some(Seconds(*to)) },
            interval: Interval { from: *first, to: *last },
            repeats: *repeats,
            idle: *idle,
            remember: *remember,
            state: PartState::new(u8::try_from(*state).unwrap_or_default()),
            count: *count,
            countdown,
        };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        vec![NewVar::new("count", self.count)]
    }

    fn remembered(&self) -> Vec<(&'static str, Value)> {
        if !self.remember {
            return Vec::new();
        }
        let word = Self::KIND.states.get(usize::from(self.state)).copied().unwrap_or_default();
        vec![("state", word.into()), ("count", self.count.into())]
    }

    /// It goes on with a time that begins now: how much of one was left is not kept.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let field = |name: &str| fields.iter().find(|(field, _)| *field == name).map(|(_, value)| value);
        let state = field("state").and_then(Value::as_text).and_then(|word| Self::KIND.state(word));
        let (Some(state), Some(count)) = (state, field("count").and_then(Value::as_whole)) else {
            return false;
        };
        self.state = state;
        self.set_count(count, cx);
        // What was idle does not begin when its object starts.
        self.idle = true;
        match state {
            Self::IDLE => self.countdown.end(cx),
            _ => {
                self.countdown.begin(self.interval, cx);
                self.countdown.run(state == Self::RUNNING, cx);
            }
        }
        true
    }

    fn read(&self, name: &str, of: &ReadCx<'_>) -> Option<Value> {
        Some(match name {
            "left" => Value::Duration(self.countdown.until_over(of.rings_in())),
            "pace" => self.countdown.pace.into(),
            "every" if self.repeats => Value::Duration(self.interval.from),
            "after" if !self.repeats => Value::Duration(self.interval.from),
            _ => return None,
        })
    }

    /// Of the time under way, as much has passed as before.
    fn change(&mut self, setting: &str, to: &Value, cx: &mut PartCx<'_>) -> Result<(), BuildError> {
        match (setting, to) {
            ("pace", Value::Number(pace)) => {
                check_pace(*pace)?;
                self.countdown.set_pace(*pace, cx);
            }
            ("every" | "after", Value::Duration(span)) if (setting == "every") == self.repeats => {
                let was = self.interval;
                let span = cx.rate().repeated(cx.rate().seconds(*span), "every")?;
                self.interval = Interval { from: span, to: span };
                self.span = Span::from(cx.rate().seconds(span));
                if self.state != Self::IDLE && was.from == was.to {
                    self.countdown.stretch(span.count() - was.from.count(), cx);
                }
            }
            _ => {
                let expected = if self.repeats { "`every`, which it has" } else { "`after`, which it has" };
                return Err(BuildError::BadSettings { expected });
            }
        }
        Ok(())
    }

    fn started(&mut self, cx: &mut PartCx<'_>) {
        if !self.idle && self.state == Self::IDLE {
            self.start(cx);
        }
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        match (command, self.state) {
            (Self::START, _) => self.start(cx),
            (Self::HALT, Self::RUNNING | Self::PAUSED) => {
                self.shift(Self::IDLE, cx);
                self.countdown.end(cx);
            }
            (Self::PAUSE, Self::RUNNING) => {
                self.shift(Self::PAUSED, cx);
                self.countdown.run(false, cx);
            }
            (Self::RESUME, Self::PAUSED) => {
                self.shift(Self::RUNNING, cx);
                self.countdown.run(true, cx);
            }
            (Self::PACE, _) => match cx.number("by").filter(|pace| *pace >= 0.0 && *pace <= 1e6) {
                Some(pace) => {
                    cx.feed(pace);
                    self.countdown.set_pace(pace, cx);
                }
                None => cx.fault("expected a pace from 0 to 1000000"),
            },
            (_, state) => cx.unmoved(state),
        }
    }

    fn due(&mut self, cx: &mut PartCx<'_>) {
        self.countdown.rang();
        for _ in 0..MOST_IN_A_TICK {
            if !self.countdown.is_over() {
                break;
            }
            self.set_count(self.count.saturating_add(1), cx);
            cx.emit(0, Struck { count: self.count });
            if !self.repeats {
                self.shift(Self::IDLE, cx);
                return self.countdown.end(cx);
            }
            self.countdown.follow(self.interval, cx);
        }
        self.countdown.set_alarm(cx);
    }
}

fn check_pace(found: f64) -> Result<(), BuildError> {
    if (0.0..=1e6).contains(&found) {
        return Ok(());
    }
    Err(BuildError::BadNumber { setting: "pace", expected: "a number from 0 to 1000000", found })
}

impl PartSpec for Timer {
    type Handle = TimerHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.interval = Interval::of(self.span, rate)?;
        check_pace(self.countdown.pace)?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> TimerHandle {
        TimerHandle { part, struck: Signal::nth(signals, 0) }
    }
}
