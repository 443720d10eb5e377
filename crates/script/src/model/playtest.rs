//! Playtests, as they are written.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Expr, Given, Name, Path, SecondsValue};
use crate::source::Span;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Playtest {
    pub(crate) name: Name,
    /// It runs once with each of these.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) seeds: Vec<u64>,
    /// Values for constants in this playtest.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) given: Vec<Given>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) players: Vec<Player>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) steps: Vec<PlaytestStep>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Player {
    pub(crate) name: Name,
    pub(crate) at: Path,
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
        span: SecondsValue,
    },
    Walk {
        player: Name,
        to: Path,
    },
    GoThrough {
        player: Name,
        at: Path,
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
        span: SecondsValue,
    },
    Point {
        player: Name,
        at: Path,
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
    Wait(SecondsValue),
    Until {
        what: Expr,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        within: Option<SecondsValue>,
    },
    /// These happen one after the other.
    InOrder {
        what: Vec<Path>,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        within: Option<SecondsValue>,
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
    Always(Expr),
    Never(Expr),
}

#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Limit {
    Now,
    Within(SecondsValue),
    Exactly(u64),
}
