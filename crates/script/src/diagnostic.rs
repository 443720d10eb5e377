//! What is wrong with a text, as data. How it looks is `render`'s business.

use serde::Serialize;

use crate::source::Span;

/// How bad it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// The scene cannot be built.
    Error,
    /// The scene works, but something in it hardly does what was meant.
    Warning,
}

impl Severity {
    /// The severity as it is printed.
    pub fn word(self) -> &'static str {
        match self {
            Self::Error => "error",
            Self::Warning => "warning",
        }
    }
}

/// What kind of fault it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Code {
    /// The text does not follow the grammar.
    Syntax,
    /// A literal that is none: a unit nobody knows, a number out of range.
    BadLiteral,
    /// Two things of one kind have one name.
    NameTaken,
    /// A signal that does not exist.
    UnknownSignal,
    /// An object that does not exist.
    UnknownObject,
    /// A variable, field or object that does not exist.
    UnknownName,
    /// An effect that does not exist.
    UnknownEffect,
    /// A kind of part that does not exist.
    UnknownPart,
    /// A setting its part does not have.
    UnknownSetting,
    /// A setting its part must have.
    MissingSetting,
    /// A state that none of the object's parts can be in.
    UnknownState,
    /// A command that none of the object's parts takes.
    UnknownCommand,
    /// A type that does not exist.
    UnknownType,
    /// Something of one type where another is needed.
    WrongType,
    /// More or fewer values than the signal or effect has fields.
    WrongCount,
    /// A tag that no object and no player has.
    UnknownTag,
    /// A signal that is emitted and that nobody listens to.
    Unheard,
    /// A wire on a signal that nothing in the text emits.
    Unsent,
    /// A signal that nothing emits and nothing listens to.
    UnusedSignal,
    /// A wire whose conditions contradict each other.
    NeverTaken,
    /// Two wires that set one thing at the same signal, with equal order.
    SameOrder,
    /// Signals that emit each other without a wait.
    EndlessSignals,
    /// A variable that is set and never read.
    Unread,
    /// Something that is remembered under a name that changes.
    Nameless,
    /// A zone that switches its own object off for good.
    SwitchesOff,
    /// A state that nothing asks for and nothing turns to.
    Unasked,
    /// An arrival inside a zone that sends on.
    ArrivalInside,
    /// A spot inside something solid.
    SpotInSolid,
    /// A prompt that another one at the same place hides for good.
    HiddenPrompt,
    /// A routine that does not exist.
    UnknownRoutine,
    /// A kit that does not exist, or a parameter it does not have.
    UnknownKit,
    /// A mould that does not exist.
    UnknownMould,
    /// A spot that does not exist.
    UnknownSpot,
    /// A scene that does not exist.
    UnknownScene,
    /// Something that stands in a file of a project where it cannot be.
    Misplaced,
    /// A function that does not exist.
    UnknownFunction,
    /// A clause word that is none, such as a way to ease.
    UnknownWord,
    /// Something that is read or run to find out what it is itself: binds, routines or kits that go round in a circle.
    Circle,
    /// A loop that can never end and never waits.
    EndlessLoop,
    /// Something that would be set although a bind keeps it.
    Bound,
    /// A random number where none can be drawn.
    Random,
    /// Something that has to be known before the world runs.
    NotConstant,
    /// A variable that each player has, without saying whose.
    Whose,
    /// `who` or `it` where there is none.
    Nobody,
    /// A kit that nothing uses.
    UnusedKit,
    /// An expectation that can never fail.
    Vacuous,
    /// A file that could not be read, or is read in a circle.
    File,
    /// A place that nothing in the wiring names.
    UnusedPlace,
    /// An object that stands somewhere, without a place.
    Unplaced,
    /// A span of time that is shorter than a tick.
    ShortSpan,
}

impl Code {
    /// Whether it is about good wiring that hardly does what was meant, and is kept quiet by a comment that says why it is so:
    /// `// on purpose: the game listens to it`, on the line or alone on the line before.
    pub fn is_suspicion(self) -> bool {
        matches!(
            self,
            Self::Unheard
                | Self::Unsent
                | Self::UnusedSignal
                | Self::NeverTaken
                | Self::SameOrder
                | Self::EndlessSignals
                | Self::Unread
                | Self::Nameless
                | Self::SwitchesOff
                | Self::Unasked
                | Self::ArrivalInside
                | Self::SpotInSolid
                | Self::HiddenPrompt
        )
    }

    /// The code as it is printed: `unknown-signal`.
    pub fn word(self) -> &'static str {
        match self {
            Self::Syntax => "syntax",
            Self::BadLiteral => "bad-literal",
            Self::NameTaken => "name-taken",
            Self::UnknownSignal => "unknown-signal",
            Self::UnknownObject => "unknown-object",
            Self::UnknownName => "unknown-name",
            Self::UnknownEffect => "unknown-effect",
            Self::UnknownPart => "unknown-part",
            Self::UnknownSetting => "unknown-setting",
            Self::MissingSetting => "missing-setting",
            Self::UnknownState => "unknown-state",
            Self::UnknownCommand => "unknown-command",
            Self::UnknownType => "unknown-type",
            Self::WrongType => "wrong-type",
            Self::WrongCount => "wrong-count",
            Self::UnknownTag => "unknown-tag",
            Self::Unheard => "unheard",
            Self::Unsent => "unsent",
            Self::UnusedSignal => "unused-signal",
            Self::NeverTaken => "never-taken",
            Self::SameOrder => "same-order",
            Self::EndlessSignals => "endless-signals",
            Self::Unread => "unread",
            Self::Nameless => "nameless",
            Self::SwitchesOff => "switches-off",
            Self::Unasked => "unasked",
            Self::ArrivalInside => "arrival-inside",
            Self::SpotInSolid => "spot-in-solid",
            Self::HiddenPrompt => "hidden-prompt",
            Self::UnknownRoutine => "unknown-routine",
            Self::UnknownKit => "unknown-kit",
            Self::UnknownMould => "unknown-mould",
            Self::UnknownSpot => "unknown-spot",
            Self::UnknownScene => "unknown-scene",
            Self::Misplaced => "misplaced",
            Self::UnknownFunction => "unknown-function",
            Self::UnknownWord => "unknown-word",
            Self::Circle => "circle",
            Self::EndlessLoop => "endless-loop",
            Self::Bound => "bound",
            Self::Random => "random",
            Self::NotConstant => "not-constant",
            Self::Whose => "whose",
            Self::Nobody => "nobody",
            Self::ShortSpan => "short-span",
            Self::UnusedKit => "unused-kit",
            Self::Vacuous => "vacuous",
            Self::File => "file",
            Self::UnusedPlace => "unused-place",
            Self::Unplaced => "unplaced",
        }
    }
}

/// A place in the text, with a few words about it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Label {
    /// Where.
    pub span: Span,
    /// What is to be said there.
    pub text: String,
}

/// One thing that is wrong or doubtful.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Diagnostic {
    /// How bad it is.
    pub severity: Severity,
    /// What kind of fault it is.
    pub code: Code,
    /// What is wrong, in one sentence.
    pub message: String,
    /// Where: the place itself first, then places that explain it.
    pub labels: Vec<Label>,
    /// What to do.
    pub help: Option<String>,
}

impl Diagnostic {
    pub(crate) fn new(severity: Severity, code: Code, message: impl Into<String>) -> Self {
        Self { severity, code, message: message.into(), labels: Vec::new(), help: None }
    }

    pub(crate) fn warning(code: Code, message: impl Into<String>) -> Self {
        Self::new(Severity::Warning, code, message)
    }

    pub(crate) fn error(code: Code, message: impl Into<String>) -> Self {
        Self::new(Severity::Error, code, message)
    }

    pub(crate) fn at(mut self, span: Span, text: impl Into<String>) -> Self {
        self.labels.push(Label { span, text: text.into() });
        self
    }

    pub(crate) fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }
}
