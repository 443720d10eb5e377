//! The choice: a question with answers, put to one player at a time, or to several, each of whom answers alone.

use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Seconds, TickRate, Ticks, ticks},
        error::BuildError,
        ids::{ObjectId, PartId, SignalId},
        names::check_name,
        numbers::Command,
        signal::Signal,
        value::{Text, Value},
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        kind::{CommandKind, Param, ParamType, PartKind, ReadingKind, SignalKind, Word},
        refusals::NoAnswer,
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    payload,
    state::State,
};

payload! {
    /// A question is put to a player, who goes with the signal.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Asked {
        /// What the player is asked.
        pub question: Text,
    }
}

payload! {
    /// A player has answered.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Chosen {
        /// What.
        pub answer: Word,
    }
}

payload! {
    /// A player has not answered.
    #[derive(Clone, Copy, Debug, PartialEq, Eq)]
    pub struct Declined {
        /// Why.
        pub why: NoAnswer,
    }
}

/// The time of those who may answer whenever they like.
const FOREVER: Ticks = Ticks::FOREVER;

/// A choice. Made in Rust with [`Choice::new`].
///
/// Each player is asked separately, one question at a time. The host shows the question when the signal `asked` comes, and
/// hands in what the player chose with [`World::choose`](crate::World::choose).
#[derive(Clone, Debug, Default)]
pub struct Choice {
    question: SmolStr,
    answers: Vec<SmolStr>,
    within: Option<(Seconds, Ticks)>,
    /// Who is asked, in the order they were, with how long each had left when the alarm was set.
    open: Vec<(ObjectId, Ticks)>,
    /// What the alarm was set to.
    set: Ticks,
}

/// A choice's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ChoiceHandle {
    /// The part.
    pub part: PartId,
    /// A player is asked.
    pub asked: Signal<Asked>,
    /// The player has answered.
    pub chosen: Signal<Chosen>,
    /// The player has not.
    pub declined: Signal<Declined>,
}

impl Choice {
    /// The number of the command `ask`.
    pub const ASK: Command = Command::new(0);
    /// The number of the command `choose`.
    pub const CHOOSE: Command = Command::new(1);
    /// The number of the command `decline`.
    pub const DECLINE: Command = Command::new(2);
    /// The number of the command `withdraw`.
    pub const WITHDRAW: Command = Command::new(3);

    /// What is known of choices.
    pub const KIND: PartKind = PartKind {
        name: "choice",
        about: "A question with answers for one player; other players can be asked at the same time.",
        states: &[],
        signals: &[
            SignalKind::of::<Asked>("asked", "A player is asked."),
            SignalKind::of::<Chosen>("chosen", "The player has answered."),
            SignalKind::of::<Declined>(
                "declined",
                "The player did not answer: `why` is declined, late, withdrawn or quit.",
            ),
        ],
        commands: &[
            CommandKind::new(
                "ask",
                "Asks the player who caused the signal, unless the question is already open for that player.",
            ),
            CommandKind::with(
                "choose",
                "The player who caused the signal answers.",
                &[Param::required("answer", ParamType::Word, "One of the answers.")],
            ),
            CommandKind::new("decline", "The player who caused the signal declines to answer."),
            CommandKind::new("withdraw", "Withdraws the question from the player who caused the signal."),
        ],
        variables: &[],
        readings: &[ReadingKind::new(
            "left",
            ParamType::Span,
            "The time the player has left to answer; nothing if they are not asked or have no limit.",
        )
        .per_player()
        .ticking()],
        words: Some("answers"),
        settings: &[
            Setting::required(
                "question",
                SettingType::Text,
                "The question; the word `question` may be left out.",
            )
            .live(),
            Setting::required("answers", SettingType::Words, "The answers, in order."),
            Setting::optional(
                "within",
                SettingType::Seconds,
                "The time a player has to answer; then the question is declined. Default no limit.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::default()),
    };

    /// A question, with its answers.
    pub fn new<'a>(question: &str, answers: impl IntoIterator<Item = &'a str>) -> Self {
        let answers = answers.into_iter().map(SmolStr::from).collect();
        Self { question: question.into(), answers, within: None, open: Vec::new(), set: Ticks::ZERO }
    }

    /// A player has so long to answer.
    pub fn within(mut self, span: Seconds) -> Self {
        self.within = Some((span, ticks(1)));
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let answers = settings.words("answers").iter().map(SmolStr::as_str);
        let choice = Self::new(settings.text("question").unwrap_or_default(), answers);
        match settings.seconds("within") {
            Some(span) => choice.within(span),
            None => choice,
        }
    }

    /// What is asked.
    pub fn question(&self) -> &str {
        &self.question
    }

    /// The answers, in the order they were given.
    pub fn answers(&self) -> &[SmolStr] {
        &self.answers
    }

    /// Who is asked now, in the order they were.
    pub fn open(&self) -> impl Iterator<Item = ObjectId> {
        self.open.iter().map(|(who, _)| *who)
    }

    fn ask(&mut self, who: ObjectId, cx: &mut PartCx<'_>) {
        if self.open().any(|open| open == who) {
            return cx.unmoved(self.state());
        }
        let left = self.within.map_or(FOREVER, |(_, span)| span);
        self.note(cx);
        self.open.push((who, left));
        cx.changed();
        cx.emit(0, Asked { question: self.question.clone() });
        self.set_alarm(cx);
    }

    /// So much time has passed since the alarm was set; none while its object was off.
    fn pass(&mut self, passed: Ticks) {
        for (_, left) in self.open.iter_mut().filter(|(_, left)| *left != FOREVER) {
            *left = left.saturating_sub(passed);
        }
    }

    fn note(&mut self, cx: &PartCx<'_>) {
        if let Some(rings) = cx.rings_in() {
            self.pass(self.set.saturating_sub(rings));
        }
    }

    fn set_alarm(&mut self, cx: &mut PartCx<'_>) {
        match self.open.iter().map(|(_, left)| *left).min().filter(|left| *left != FOREVER) {
            Some(left) => {
                self.set = left.max(Ticks::SHORTEST);
                cx.ring_in(self.set);
            }
            None => cx.ring_never(),
        }
    }

    /// Whether somebody was asked; they are no longer asked then.
    fn close(&mut self, who: ObjectId, cx: &mut PartCx<'_>) -> bool {
        self.note(cx);
        let asked = self.open.len();
        self.open.retain(|(open, _)| *open != who);
        let closed = self.open.len() < asked;
        if closed {
            cx.changed();
        }
        self.set_alarm(cx);
        closed
    }
}

impl Part for Choice {
    fn read(&self, name: &str, of: &ReadCx<'_>) -> Option<Value> {
        if name == "question" {
            return Some(Value::Text(self.question.clone()));
        }
        let who = of.who().filter(|_| name == "left")?;
        let (_, left) = self.open.iter().find(|(open, left)| *open == who && *left != FOREVER)?;
        let passed = of.rings_in().map_or(Ticks::ZERO, |rings| self.set.saturating_sub(rings));
        Some(Value::Duration(left.saturating_sub(passed)))
    }

    fn change(&mut self, setting: &str, to: &Value, _: &mut PartCx<'_>) -> Result<(), BuildError> {
        if let ("question", Value::Text(question)) = (setting, to) {
            self.question = question.clone();
        }
        Ok(())
    }

    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        let (span, ticks) = self.within.map_or((-1.0, Ticks::ZERO), |(span, ticks)| (span.0, ticks));
        to.extend([Value::Text(self.question.clone()), span.into(), ticks.into(), self.set.into()]);
        to.push(i64::try_from(self.answers.len()).unwrap_or_default().into());
        to.extend(self.answers.iter().cloned().map(Value::Text));
        to.extend(self.open.iter().flat_map(|(who, late)| [Value::Object(*who), (*late).into()]));
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [
            Value::Text(question),
            Value::Number(span),
            Value::Duration(ticks),
            Value::Duration(set),
            Value::Whole(count),
            rest @ ..,
        ] = saved
        else {
            return false;
        };
        let Some((answers, open)) =
            usize::try_from(*count).ok().and_then(|count| rest.split_at_checked(count))
        else {
            return false;
        };
        let answers = answers.iter().map(|answer| answer.as_text().map(SmolStr::from)).collect();
        let open = open.chunks(2).map(|pair| match pair {
            [Value::Object(who), Value::Duration(late)] => Some((*who, *late)),
            _ => None,
        });
        let (Some(answers), Some(open)) = (answers, open.collect()) else { return false };
        let within = (*span >= 0.0).then_some((Seconds(*span), *ticks));
        *self = Self { question: question.clone(), answers, within, open, set: *set };
        true
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        let Some(who) = cx.who() else { return cx.fault("nobody is there to be asked") };
        if command == Self::ASK {
            return self.ask(who, cx);
        }
        let answer = cx.word("answer");
        let known = answer.as_ref().is_some_and(|answer| self.answers.contains(answer));
        if command == Self::CHOOSE && !known {
            return cx.fault("expected one of the answers");
        }
        if !self.close(who, cx) {
            return cx.unmoved(self.state());
        }
        match (command, answer) {
            (Self::CHOOSE, Some(answer)) => cx.emit(1, Chosen { answer: Word(answer) }),
            (Self::DECLINE, _) => cx.emit(2, Declined { why: NoAnswer::Declined }),
            _ => cx.emit(2, Declined { why: NoAnswer::Withdrawn }),
        }
    }

    fn due(&mut self, cx: &mut PartCx<'_>) {
        self.pass(self.set);
        let late: Vec<_> =
            self.open.iter().filter(|(_, left)| *left == Ticks::ZERO).map(|(who, _)| *who).collect();
        for who in late {
            self.close(who, cx);
            cx.act_for(Some(who));
            cx.emit(2, Declined { why: NoAnswer::Late });
        }
        self.set_alarm(cx);
    }

    fn quit(&mut self, player: ObjectId, cx: &mut PartCx<'_>) {
        if self.close(player, cx) {
            cx.act_for(Some(player));
            cx.emit(2, Declined { why: NoAnswer::Quit });
        }
    }
}

impl PartSpec for Choice {
    type Handle = ChoiceHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        if let Some((span, ticks)) = &mut self.within {
            *ticks = rate.ticks(*span)?;
        }
        if self.answers.is_empty() {
            return Err(BuildError::BadSettings { expected: "at least one answer" });
        }
        for (number, answer) in self.answers.iter().enumerate() {
            check_name(answer)?;
            if self.answers.iter().take(number).any(|other| other == answer) {
                return Err(BuildError::NameTaken { kind: "an answer", name: answer.clone() });
            }
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> ChoiceHandle {
        ChoiceHandle {
            part,
            asked: Signal::nth(signals, 0),
            chosen: Signal::nth(signals, 1),
            declined: Signal::nth(signals, 2),
        }
    }
}

impl State {
    /// The questions that are put to a player now, by object number.
    pub fn questions_to(&self, player: ObjectId) -> Vec<PartId> {
        let asks = |part: PartId| {
            self.part::<Choice>(part).is_ok_and(|choice| choice.open().any(|who| who == player))
        };
        let mut open: Vec<_> = self.parts.iter().filter(|(part, _)| asks(*part)).collect();
        open.sort_unstable_by_key(|(_, slot)| slot.rank());
        open.into_iter().map(|(part, _)| part).collect()
    }
}
