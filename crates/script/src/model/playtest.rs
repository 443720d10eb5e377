//! Playtests, as they are written.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use super::{Expr, Given, Name, Path, SecondsValue, Statement, Where, is_default};
use crate::source::Span;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Playtest {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) name: Name,
    /// Each player has a world of their own, linked to the one whose word counts.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) linked: bool,
    /// It runs once with each of these.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) seeds: Vec<u64>,
    /// Values for constants in this playtest.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) given: Vec<Given>,
    /// It runs once with each of these.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) cases: Option<Cases>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) players: Vec<Player>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) steps: Vec<PlaytestStep>,
}

/// A table: the playtest runs once with each of its rows.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Cases {
    #[serde(skip)]
    pub(crate) span: Span,
    /// What is given to each column: a named constant, or a name for this playtest alone.
    pub(crate) names: Vec<Name>,
    pub(crate) rows: Vec<Case>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Case {
    #[serde(skip)]
    pub(crate) span: Span,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) name: Option<Name>,
    pub(crate) values: Vec<Expr>,
}

impl Case {
    /// What it is called: its name, or its values.
    pub(crate) fn title(&self) -> SmolStr {
        match &self.name {
            Some(name) => name.text.clone(),
            None => {
                let values: Vec<_> = self.values.iter().map(crate::print::value).collect();
                values.join(", ").into()
            }
        }
    }
}

/// A span of time in a playtest: seconds, or ticks of the world.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub(crate) enum SpanValue {
    Seconds(SecondsValue),
    Ticks { ticks: u64 },
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Player {
    pub(crate) name: Name,
    pub(crate) at: Where,
    /// The scene, if it is another one of the project.
    #[serde(rename = "in", default, skip_serializing_if = "Option::is_none")]
    pub(crate) scene: Option<Name>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) tags: Vec<Name>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct PlaytestStep {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) step: Step,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Step {
    Pause {
        player: Name,
        span: SpanValue,
    },
    Walk {
        player: Name,
        to: Where,
    },
    GoThrough {
        player: Name,
        at: Where,
    },
    Answer {
        player: Name,
        prompt: Path,
    },
    Join {
        player: Name,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        at: Option<Path>,
        #[serde(rename = "in", default, skip_serializing_if = "Option::is_none")]
        scene: Option<Name>,
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        tags: Vec<Name>,
    },
    Press {
        player: Name,
        key: Name,
    },
    Hold {
        player: Name,
        key: Name,
        span: SpanValue,
    },
    /// A key is pressed and stays down.
    KeyDown {
        player: Name,
        key: Name,
    },
    KeyUp {
        player: Name,
        key: Name,
    },
    Point {
        player: Name,
        at: Where,
        /// Where exactly, measured from what is pointed at and turned with it.
        #[serde(rename = "where", default, skip_serializing_if = "Option::is_none")]
        from_there: Option<Expr>,
        #[serde(rename = "with", default, skip_serializing_if = "Option::is_none")]
        button: Option<Name>,
    },
    Leave {
        player: Name,
    },
    /// An answer; none if the player declines.
    Choose {
        player: Name,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        answer: Option<Name>,
    },
    Wait(SpanValue),
    Until {
        what: Expr,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        within: Option<SpanValue>,
    },
    /// These happen one after the other.
    InOrder {
        what: Vec<Path>,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        within: Option<SpanValue>,
    },
    Save,
    Reload,
    Suspend,
    /// From here on, what cannot be done does not fail the playtest.
    AllowFaults,
    /// What different players do goes on at the same time.
    Together(Vec<PlaytestStep>),
    Expect {
        what: Expr,
        limit: Limit,
    },
    /// A signal or an effect, and what it carries.
    ExpectWith {
        what: Path,
        values: Vec<Expr>,
        limit: Limit,
    },
    /// Something that is expected, in the player's own world.
    Sees {
        player: Name,
        what: Box<Step>,
    },
    /// A statement, done at once.
    Does(Statement),
    /// Statements in braces, done as a reaction does them, on behalf of nobody.
    Block(Vec<Statement>),
    Always(Expr),
    Never(Expr),
}

#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Limit {
    Now,
    Within(SpanValue),
    Exactly(u64),
}
