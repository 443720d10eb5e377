//! The cycle: a row of states, each for a time of its own.

use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Seconds, TickRate, ticks},
        error::BuildError,
        ids::{PartId, SignalId},
        names::check_name,
        numbers::{Command, PartState},
        signal::Signal,
        value::{Type, Value},
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        interval::{Countdown, Interval},
        kind::{CommandKind, Param, ParamType, PartKind, ReadingKind, SignalKind, VariableKind, Word},
        setting::{Setting, Settings, Span},
        setting_type::SettingType,
    },
    payload,
    plan::new_var::NewVar,
};

payload! {
    /// Something went from one of its states to another.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Changed {
        /// The state it is in now.
        pub to: Word,
        /// The one it was in before.
        pub from: Word,
    }
}

/// A cycle. Made in Rust with [`Cycle::new`].
#[derive(Clone, Debug, Default)]
pub struct Cycle {
    states: Vec<CycleState>,
    repeats: bool,
    idle: bool,
    remember: bool,
    now: usize,
    state: PartState,
    countdown: Countdown,
}

/// One of its states.
#[derive(Clone, Debug)]
struct CycleState {
    word: SmolStr,
    span: Span,
    interval: Interval,
}

/// A cycle's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct CycleHandle {
    /// The part.
    pub part: PartId,
    /// Its state has changed.
    pub changed: Signal<Changed>,
    /// The time of the last state is over, and it does not begin again.
    pub ended: Signal<()>,
}

impl Cycle {
    const IDLE: PartState = PartState::new(0);
    const RUNNING: PartState = PartState::new(1);
    const PAUSED: PartState = PartState::new(2);
    const START: Command = Command::new(0);
    const PAUSE: Command = Command::new(1);
    const RESUME: Command = Command::new(2);
    const SKIP: Command = Command::new(3);
    const TURN: Command = Command::new(4);

    /// What is known of cycles.
    pub const KIND: PartKind = PartKind {
        name: "cycle",
        about: "Goes through a list of states, each with its own time.",
        states: &["idle", "running", "paused"],
        signals: &[
            SignalKind::of::<Changed>("changed", "Its state has changed."),
            SignalKind::of::<()>("ended", "The time of its last state is over, and it does not repeat."),
        ],
        commands: &[
            CommandKind::new("start", "Starts with the first state."),
            CommandKind::new("pause", "Pauses it."),
            CommandKind::new("resume", "Continues from where it was paused."),
            CommandKind::new("skip", "Goes to the next state now."),
            CommandKind::with(
                "turn",
                "Goes to that state now.",
                &[Param::required("to", ParamType::Word, "One of its states.")],
            ),
        ],
        variables: &[VariableKind { name: "state", ty: ParamType::Word, about: "The current state." }],
        readings: &[ReadingKind::new(
            "left",
            ParamType::Span,
            "The time until its current state is over; 0 s while it is idle.",
        )
        .ticking()],
        words: Some("states"),
        settings: &[
            Setting::required(
                "states",
                SettingType::Spans,
                "Its states, each with its time, or a random time such as `3s to 8s`; the word `states` may be left out.",
            ),
            Setting::optional("repeat", SettingType::Flag, "Continues with the first state after the last."),
            Setting::optional(
                "idle",
                SettingType::Flag,
                "Does not start by itself: it waits in its first state.",
            ),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "Its state is kept when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// A cycle without states so far.
    pub fn new() -> Self {
        Self::default()
    }

    /// And then that state, for so long.
    pub fn state(mut self, word: &str, span: impl Into<Span>) -> Self {
        let interval = Interval { from: ticks(1), to: ticks(1) };
        self.states.push(CycleState { word: word.into(), span: span.into(), interval });
        self
    }

    /// And then from the beginning.
    pub fn repeats(mut self) -> Self {
        self.repeats = true;
        self
    }

    /// Does not begin by itself.
    pub fn idle(mut self) -> Self {
        self.idle = true;
        self
    }

    /// Its state is kept when its scene is unloaded, and in a save.
    pub fn remembered(mut self) -> Self {
        self.remember = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let spans = settings.spans("states").iter();
        let mut cycle = spans.fold(Self::new(), |cycle, (word, span)| cycle.state(word, *span));
        cycle.repeats = settings.has("repeat");
        (cycle.idle, cycle.remember) = (settings.has("idle"), settings.has("remember"));
        cycle
    }

    /// The current state.
    pub fn now(&self) -> &str {
        self.states.get(self.now).map_or("", |phase| &phase.word)
    }

    fn shift(&mut self, to: PartState, cx: &mut PartCx<'_>) {
        if self.state != to {
            cx.shift(self.state, to);
            self.state = to;
        }
    }

    /// It is in that state from here on; whether its time begins is the caller's.
    fn enter(&mut self, index: usize, cx: &mut PartCx<'_>) {
        let from = Word(self.now().into());
        self.now = index;
        let to = Word(self.now().into());
        if from != to {
            cx.keep(0, None, Value::Text(to.0.clone()));
            cx.emit(0, Changed { to, from });
        }
    }

    fn begin(&mut self, index: usize, cx: &mut PartCx<'_>) {
        self.enter(index, cx);
        if let Some(phase) = self.states.get(self.now) {
            self.countdown.begin(phase.interval, cx);
            self.shift(Self::RUNNING, cx);
        }
    }

    /// The state that comes next, if one does.
    fn next(&self) -> Option<usize> {
        let next = self.now.saturating_add(1);
        if next < self.states.len() { Some(next) } else { self.repeats.then_some(0) }
    }

    fn end(&mut self, cx: &mut PartCx<'_>) {
        self.countdown.end(cx);
        self.shift(Self::IDLE, cx);
        cx.emit(1, ());
    }
}

impl Part for Cycle {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        self.state
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([self.repeats.into(), self.idle.into(), self.remember.into(), self.state.into()]);
        to.push(i64::try_from(self.now).unwrap_or_default().into());
        to.extend(self.countdown.save());
        for CycleState { word, span, interval } in &self.states {
            to.extend([
                Value::Text(word.clone()),
                span.from.0.into(),
                span.to.map_or(-1.0, |to| to.0).into(),
            ]);
            to.extend([interval.from.into(), interval.to.into()]);
        }
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        use Value::{Bool, Duration, Number, Text, Whole};
        let [Bool(repeats), Bool(idle), Bool(remember), Whole(state @ 0..=2), Whole(now), rest @ ..] = saved
        else {
            return false;
        };
        let Some((countdown, rest)) = rest.split_at_checked(4) else { return false };
        let (Some(countdown), Ok(now)) = (Countdown::load(countdown), usize::try_from(*now)) else {
            return false;
        };
        let mut states = Vec::new();
        for phase in rest.chunks(5) {
            let [Text(word), Number(from), Number(to), Duration(first), Duration(last)] = phase else {
                return false;
            };
            let span = Span { from: Seconds(*from), to: (*to >= 0.0).then_some(Seconds(*to)) };
            let interval = Interval { from: *first, to: (*last).max(*first) };
            states.push(CycleState { word: word.clone(), span, interval });
        }
        let state = PartState::new(u8::try_from(*state).unwrap_or_default());
        *self = Self { states, repeats: *repeats, idle: *idle, remember: *remember, now, state, countdown };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        let words = Type::one_of(self.states.iter().map(|phase| phase.word.clone()));
        vec![NewVar::new("state", self.now()).of_type(words)]
    }

    fn remembered(&self) -> Vec<(&'static str, Value)> {
        if self.remember { vec![("state", self.now().into())] } else { Vec::new() }
    }

    /// The time of its state begins again.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let word = fields.iter().find(|(name, _)| *name == "state").and_then(|(_, value)| value.as_text());
        let index = word.and_then(|word| self.states.iter().position(|phase| phase.word == word));
        let Some(index) = index else { return false };
        self.now = index;
        cx.keep(0, None, self.now());
        if let Some(phase) = self.states.get(index).filter(|_| self.state == Self::RUNNING) {
            self.countdown.begin(phase.interval, cx);
        }
        true
    }

    fn read(&self, name: &str, of: &ReadCx<'_>) -> Option<Value> {
        (name == "left").then(|| Value::Duration(self.countdown.until_over(of.rings_in())))
    }

    fn started(&mut self, cx: &mut PartCx<'_>) {
        if !self.idle && self.state == Self::IDLE {
            self.begin(self.now, cx);
        }
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        match (command, self.state) {
            (Self::START, _) => self.begin(0, cx),
            (Self::PAUSE, Self::RUNNING) => {
                self.shift(Self::PAUSED, cx);
                self.countdown.run(false, cx);
            }
            (Self::RESUME, Self::PAUSED) => {
                self.shift(Self::RUNNING, cx);
                self.countdown.run(true, cx);
            }
            (Self::SKIP, _) => match self.next() {
                Some(next) => self.begin(next, cx),
                None => self.end(cx),
            },
            (Self::TURN, _) => {
                let word = cx.word("to");
                match self.states.iter().position(|phase| Some(&phase.word) == word.as_ref()) {
                    Some(index) => self.begin(index, cx),
                    None => cx.fault("expected one of the cycle's states"),
                }
            }
            (_, state) => cx.unmoved(state),
        }
    }

    fn due(&mut self, cx: &mut PartCx<'_>) {
        self.countdown.rang();
        match self.next() {
            Some(next) => {
                self.enter(next, cx);
                if let Some(phase) = self.states.get(self.now) {
                    self.countdown.follow(phase.interval, cx);
                }
                self.countdown.set_alarm(cx);
            }
            None => self.end(cx),
        }
    }
}

impl PartSpec for Cycle {
    type Handle = CycleHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        if self.states.is_empty() {
            return Err(BuildError::BadSettings { expected: "at least one state" });
        }
        for index in 0..self.states.len() {
            let (before, rest) = self.states.split_at_mut(index);
            let Some(phase) = rest.first_mut() else { break };
            check_name(&phase.word)?;
            if before.iter().any(|other| other.word == phase.word) {
                return Err(BuildError::NameTaken { kind: "a state", name: phase.word.clone() });
            }
            phase.interval = Interval::of(phase.span, rate)?;
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> CycleHandle {
        CycleHandle { part, changed: Signal::nth(signals, 0), ended: Signal::nth(signals, 1) }
    }
}
