//! What a page is told.

use std::sync::Arc;

use serde::Serialize;
use stoicheon_view::{GroundScene, GroundThing};

use crate::tape::Line;

/// What has changed since the page asked last.
#[derive(Clone, Debug, Default, Serialize)]
pub(crate) struct Reply {
    /// The number of the last frame in it.
    pub(crate) seen: u64,
    pub(crate) tick: u64,
    /// Everything is in it: what the page had is out of date.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub(crate) whole: bool,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) scenes: Vec<GroundScene>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) things: Vec<Arc<GroundThing>>,
    /// Numbers of things, and where they are.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) at: Vec<(u32, f32, f32)>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) gone: Vec<u32>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) tape: Vec<Arc<Line>>,
    /// The tape ends with that record: what the page has after it did not happen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) cut: Option<u64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) state: Option<Arc<Status>>,
    /// What is on the bench of this page.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) bench: Option<Arc<serde_json::Value>>,
    /// What a playtest can be made of, or one that was made.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) made: Option<Arc<serde_json::Value>>,
    /// What this page is told in words.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) say: Vec<Said>,
    /// Whether this page steers, when that has changed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) steers: Option<bool>,
}

/// Words for one page.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub(crate) struct Said {
    /// `done`, `no` for what could not be done, or `ask` for what is to be confirmed.
    pub(crate) kind: &'static str,
    pub(crate) text: String,
}

impl Said {
    pub(crate) fn no(text: impl Into<String>) -> Self {
        Self { kind: "no", text: text.into() }
    }
}

/// How the world stands: what is seen at the head of the page, and what players can do.
#[expect(clippy::struct_excessive_bools, reason = "each says a thing of its own")]
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub(crate) struct Status {
    pub(crate) title: String,
    /// Ticks per second.
    pub(crate) rate: u32,
    pub(crate) paused: bool,
    pub(crate) times: f64,
    /// The game asks the page how much time passes.
    pub(crate) paced: bool,
    /// The first and the last tick one can go to.
    pub(crate) from: u64,
    pub(crate) to: u64,
    /// The tick shown is an earlier one than the last that was reached.
    pub(crate) looking_back: bool,
    pub(crate) players: Vec<Player>,
    /// What ended a tick before it came to rest, or a reaction that panicked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) trouble: Option<String>,
    /// What the checker has found in the wiring as it is saved now.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) findings: Vec<String>,
    /// The wiring that is saved is another than the world was made of.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub(crate) is_other: bool,
    /// The world can be restarted.
    pub(crate) restarts: bool,
    /// What became of the world when the wiring that was saved last took over.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) took_over: Option<TookOver>,
    /// Nothing is recorded, so that there is no tape.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub(crate) untraced: bool,
    pub(crate) pages: usize,
}

/// What became of a world when other wiring took over.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub(crate) struct TookOver {
    /// How often wiring has taken over.
    pub(crate) number: usize,
    pub(crate) tick: u64,
    pub(crate) kept: String,
    /// Where each is written, if that is known, and what became of it.
    pub(crate) changes: Vec<(Option<String>, String)>,
}

/// A player, and what they can do now.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub(crate) struct Player {
    pub(crate) name: String,
    /// The place of their scene among the scenes.
    pub(crate) scene: Option<usize>,
    /// The number of their thing on the ground.
    pub(crate) thing: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) offer: Option<OfferSeen>,
    /// How much of the time that a key must be held is over, from 0 to 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) held: Option<f64>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) questions: Vec<Question>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) follows: Option<String>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) carries: Vec<String>,
}

/// A prompt that is offered.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub(crate) struct OfferSeen {
    pub(crate) of: String,
    pub(crate) label: String,
    pub(crate) key: String,
}

/// A question that is put to a player.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub(crate) struct Question {
    pub(crate) text: String,
    pub(crate) answers: Vec<String>,
}
