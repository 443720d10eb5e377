//! Playtests, as they are written.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Expr, Name, Path, SecondsValue};
use crate::source::Span;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Playtest {
    pub(crate) name: Name,
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
    Walk { player: Name, to: Path },
    Press { player: Name, key: Name },
    Hold { player: Name, key: Name, span: SecondsValue },
    Point { player: Name, at: Path },
    Leave { player: Name },
    Wait(SecondsValue),
    Expect { what: Expr, limit: Limit },
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
