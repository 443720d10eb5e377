//! The tally: counts to a goal, for all together or for each player.

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{PartId, SignalId},
        numbers::Command,
        signal::Signal,
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        kind::{CommandKind, Param, ParamType, PartKind, SignalKind, VariableKind},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    payload,
    plan::new_var::NewVar,
};

payload! {
    /// Something was counted.
    #[derive(Clone, Copy, Debug, PartialEq, Eq)]
    pub struct Counted {
        /// How many there are now.
        pub count: i64,
    }
}

/// A tally. Made in Rust with [`Tally::new`].
///
/// At its goal it says so once, and counts no more until it is reset.
#[derive(Clone, Debug, Default)]
pub struct Tally {
    goal: Option<i64>,
    per_player: bool,
    remember: bool,
}

/// A tally's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct TallyHandle {
    /// The part.
    pub part: PartId,
    /// The count has changed.
    pub counted: Signal<Counted>,
    /// Its goal is reached.
    pub reached: Signal<()>,
}

impl Tally {
    /// The number of the command `count`.
    pub const COUNT: Command = Command::new(0);
    /// The number of the command `reset`.
    pub const RESET: Command = Command::new(1);

    /// What is known of tallies.
    pub const KIND: PartKind = PartKind {
        name: "tally",
        about: "Counts signals to a goal, for all players together or for each.",
        states: &[],
        signals: &[
            SignalKind::of::<Counted>("counted", "The count has changed."),
            SignalKind::of::<()>("reached", "The goal is reached; it stops counting until it is reset."),
        ],
        commands: &[
            CommandKind::with(
                "count",
                "Adds to the count.",
                &[
                    Param::optional("by", ParamType::Whole, "The amount. Default 1."),
                    Param::optional(
                        "for",
                        ParamType::Object,
                        "The player whose count is meant, if each has one. Default the player who caused the signal.",
                    ),
                ],
            ),
            CommandKind::with(
                "reset",
                "Sets the count to 0.",
                &[
                    Param::optional(
                        "for",
                        ParamType::Object,
                        "The player whose count is meant, if each has one: a player, or `everyone`. Default the player who caused the signal.",
                    ),
                    Param::optional("everyone", ParamType::Flag, "All players; written as `for everyone`."),
                ],
            ),
        ],
        variables: &[VariableKind { name: "count", ty: ParamType::Whole, about: "The count so far." }],
        readings: &[],
        words: None,
        settings: &[
            Setting::optional(
                "of",
                SettingType::Signal("count"),
                "The signal it counts: one, or `every tag.signal`.",
            ),
            Setting::optional(
                "when",
                SettingType::Condition,
                "Counts the signal only while this condition is true.",
            ),
            Setting::optional("goal", SettingType::Number, "The count to reach. Default no goal.").live(),
            Setting::optional("per player", SettingType::Flag, "Each player has their own count."),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "The count is kept when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings)?.into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// A tally without an end, for all together.
    pub fn new() -> Self {
        Self::default()
    }

    /// Counts so many.
    pub fn goal(mut self, goal: i64) -> Self {
        self.goal = Some(goal);
        self
    }

    /// Each player has their own count.
    pub fn per_player(mut self) -> Self {
        self.per_player = true;
        self
    }

    /// The count is kept when its scene is unloaded, and in a save.
    pub fn remembered(mut self) -> Self {
        self.remember = true;
        self
    }

    fn from_settings(settings: &Settings) -> Result<Self, BuildError> {
        let goal = settings.number("goal").map(whole_goal).transpose()?;
        Ok(Self { goal, per_player: settings.has("per player"), remember: settings.has("remember") })
    }
}

fn whole_goal(found: f64) -> Result<i64, BuildError> {
    #[expect(clippy::cast_possible_truncation, reason = "it was looked at before")]
    if found.fract() == 0.0 && (1.0..1e15).contains(&found) {
        return Ok(found as i64);
    }
    Err(BuildError::BadNumber { setting: "goal", expected: "a whole number from 1 up", found })
}

impl Part for Tally {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([
            self.goal.map_or(Value::Nothing, Value::Whole),
            self.per_player.into(),
            self.remember.into(),
        ]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [goal, Value::Bool(per_player), Value::Bool(remember)] = saved else { return false };
        *self = Self { goal: goal.as_whole(), per_player: *per_player, remember: *remember };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        let mut count = NewVar::new("count", 0);
        if self.per_player {
            count = count.per_player();
        }
        vec![if self.remember { count.remembered() } else { count }]
    }

    fn read(&self, name: &str, _: &ReadCx<'_>) -> Option<Value> {
        #[expect(clippy::cast_precision_loss, reason = "as it was given")]
        let goal = || self.goal.map_or(Value::Nothing, |goal| Value::Number(goal as f64));
        (name == "goal").then(goal)
    }

    /// A goal that is reached by what was counted before is reached at once.
    fn change(&mut self, setting: &str, to: &Value, cx: &mut PartCx<'_>) -> Result<(), BuildError> {
        let ("goal", Value::Number(goal)) = (setting, to) else { return Ok(()) };
        if self.per_player {
            return Err(BuildError::BadSettings { expected: "a tally for all players together" });
        }
        let goal = whole_goal(*goal)?;
        let count = cx.own(0, None).as_whole().unwrap_or_default();
        let was_reached = self.goal.is_some_and(|goal| count >= goal);
        self.goal = Some(goal);
        if count >= goal && !was_reached {
            cx.keep(0, None, goal);
            cx.emit(1, ());
        }
        Ok(())
    }

    fn can_hold(&self, _: usize, value: &Value) -> bool {
        value.as_whole().is_some_and(|count| (0..=self.goal.unwrap_or(i64::MAX)).contains(&count))
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        let whose = cx.arg("for").and_then(Value::as_object).or(cx.who()).filter(|_| self.per_player);
        if command == Self::RESET {
            let whose = whose.filter(|_| !cx.has("everyone"));
            return cx.keep(0, whose, 0);
        }
        if self.per_player && whose.is_none() {
            return cx.fault("each player has their own count, and no player caused this");
        }
        let before = cx.own(0, whose).as_whole().unwrap_or_default();
        if self.goal.is_some_and(|goal| before >= goal) {
            return cx.unmoved(self.state());
        }
        let by = cx.arg("by").and_then(Value::as_whole).unwrap_or(1);
        let count = before.saturating_add(by).min(self.goal.unwrap_or(i64::MAX));
        cx.keep(0, whose, count);
        cx.emit(0, Counted { count });
        if self.goal == Some(count) {
            cx.emit(1, ());
        }
    }
}

impl PartSpec for Tally {
    type Handle = TallyHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        #[expect(clippy::cast_precision_loss, reason = "for people")]
        match self.goal.filter(|goal| *goal < 1) {
            Some(goal) => {
                let expected = "a whole number from 1 up";
                Err(BuildError::BadNumber { setting: "goal", expected, found: goal as f64 })
            }
            None => Ok(Box::new(self)),
        }
    }

    fn handle(part: PartId, signals: &[SignalId]) -> TallyHandle {
        TallyHandle { part, counted: Signal::nth(signals, 0), reached: Signal::nth(signals, 1) }
    }
}
