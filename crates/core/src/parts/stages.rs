//! Stages: a small state machine, for all together or for each player.

use smol_str::SmolStr;

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{ObjectId, PartId, SignalId},
        names::check_name,
        numbers::Command,
        signal::Signal,
        value::{Type, Value},
    },
    part::{
        contract::{Part, PartSpec},
        cx::PartCx,
        kind::{CommandKind, Param, ParamType, PartKind, SignalKind, VariableKind, Word},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    parts::cycle::Changed,
    plan::new_var::NewVar,
};

/// Stages. Made in Rust with [`Stages::new`].
///
/// Everything and everybody begins in the first stage. A wire can [belong](crate::On::during) to a stage: it sleeps in
/// any other, and what it has begun ends when the stage is left.
#[derive(Clone, Debug, Default)]
pub struct Stages {
    words: Vec<SmolStr>,
    per_player: bool,
    remember: bool,
}

/// The signal of stages, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct StagesHandle {
    /// The part.
    pub part: PartId,
    /// The stage has changed.
    pub changed: Signal<Changed>,
}

impl Stages {
    /// The number of the command `turn`.
    pub const TURN: Command = Command::new(0);
    /// The number of its variable `state`.
    pub(crate) const STATE: usize = 0;

    /// What is known of stages.
    pub const KIND: PartKind = PartKind {
        name: "stages",
        about: "A small state machine, for all players together or for each; wires can belong to a stage.",
        states: &[],
        signals: &[SignalKind::of::<Changed>("changed", "The stage has changed.")],
        commands: &[CommandKind::with(
            "turn",
            "Goes to that stage; if each player has one, for the player who caused the signal.",
            &[
                Param::required("to", ParamType::Word, "One of its stages."),
                Param::optional(
                    "for",
                    ParamType::Object,
                    "The player whose stage is meant, if each has one. Default the player who caused the signal.",
                ),
                Param::optional(
                    "everyone",
                    ParamType::Flag,
                    "All players, also those who join later; written as `for everyone`.",
                ),
            ],
        )],
        variables: &[VariableKind { name: "state", ty: ParamType::Word, about: "The current stage." }],
        readings: &[],
        words: Some("stages"),
        settings: &[
            Setting::required(
                "stages",
                SettingType::Words,
                "The stages; it starts in the first. The word `stages` may be left out.",
            ),
            Setting::optional("per player", SettingType::Flag, "Each player has their own stage."),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "The stage is kept when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::default()),
    };

    /// Those stages, the first one first.
    pub fn new<'a>(stages: impl IntoIterator<Item = &'a str>) -> Self {
        Self { words: stages.into_iter().map(SmolStr::from).collect(), ..Self::default() }
    }

    /// Each player has their own stage.
    pub fn per_player(mut self) -> Self {
        self.per_player = true;
        self
    }

    /// The stage is kept when its scene is unloaded, and in a save.
    pub fn remembered(mut self) -> Self {
        self.remember = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let stages = Self::new(settings.words("stages").iter().map(SmolStr::as_str));
        Self { per_player: settings.has("per player"), remember: settings.has("remember"), ..stages }
    }

    fn turn(whose: Option<ObjectId>, to: &SmolStr, cx: &mut PartCx<'_>) {
        let Value::Text(from) = cx.own(Self::STATE, whose) else { return };
        if from == *to {
            return;
        }
        cx.keep(Self::STATE, whose, Value::Text(to.clone()));
        let before = cx.who();
        if whose.is_some() {
            cx.act_for(whose);
        }
        cx.emit(0, Changed { to: Word(to.clone()), from: Word(from) });
        cx.act_for(before);
    }
}

impl Part for Stages {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([self.per_player.into(), self.remember.into()]);
        to.extend(self.words.iter().cloned().map(Value::Text));
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Bool(per_player), Value::Bool(remember), stages @ ..] = saved else { return false };
        let Some(stages) = stages.iter().map(|stage| stage.as_text().map(SmolStr::from)).collect() else {
            return false;
        };
        *self = Self { words: stages, per_player: *per_player, remember: *remember };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        let first = self.words.first().map_or("", SmolStr::as_str);
        let mut state = NewVar::new("state", first).of_type(Type::one_of(self.words.iter().cloned()));
        if self.per_player {
            state = state.per_player();
        }
        vec![if self.remember { state.remembered() } else { state }]
    }

    fn command(&mut self, _: Command, cx: &mut PartCx<'_>) {
        let Some(to) = cx.word("to").filter(|to| self.words.contains(to)) else {
            return cx.fault("expected one of the stages");
        };
        if !self.per_player {
            return Self::turn(None, &to, cx);
        }
        if cx.has("everyone") {
            let all: Vec<_> = cx.players().collect();
            all.into_iter().for_each(|player| Self::turn(Some(player), &to, cx));
            // A player who comes later, or comes back, begins there too.
            return cx.keep(Self::STATE, None, Value::Text(to));
        }
        match cx.arg("for").and_then(Value::as_object).or(cx.who()) {
            Some(who) => Self::turn(Some(who), &to, cx),
            None => cx.fault("each player has their own stage, and no player caused this"),
        }
    }
}

impl PartSpec for Stages {
    type Handle = StagesHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        if self.words.is_empty() {
            return Err(BuildError::BadSettings { expected: "at least one stage" });
        }
        for (number, stage) in self.words.iter().enumerate() {
            check_name(stage)?;
            if self.words.iter().take(number).any(|other| other == stage) {
                return Err(BuildError::NameTaken { kind: "a stage", name: stage.clone() });
            }
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> StagesHandle {
        StagesHandle { part, changed: Signal::nth(signals, 0) }
    }
}
