//! What a page asks for.

use serde::Deserialize;
use serde_json::Value;

/// One message of a page: what it has seen, and what it asks for.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Poll {
    /// The number of the last frame it has.
    #[serde(default)]
    pub(crate) seen: u64,
    #[serde(default)]
    pub(crate) ask: Vec<Ask>,
}

/// One thing that is asked for.
#[derive(Clone, Debug, Deserialize, PartialEq)]
#[serde(tag = "do", rename_all = "snake_case", deny_unknown_fields)]
pub(crate) enum Ask {
    /// A player walks that way until something else is asked; nowhere: they stand.
    Walk {
        who: String,
        along: [f32; 2],
    },
    /// A player walks to a place on the ground.
    Go {
        who: String,
        to: [f32; 2],
    },
    /// A player follows another one; nobody: no more.
    Follow {
        who: String,
        whom: Option<String>,
    },
    Key {
        who: String,
        key: String,
        down: bool,
    },
    /// A player points at a place of something on the ground.
    Point {
        who: String,
        at: String,
        to: [f32; 2],
        button: String,
    },
    /// A player answers the first question that is put to them; nothing: declines.
    Answer {
        who: String,
        answer: Option<String>,
    },
    Join {
        name: String,
        spot: Option<String>,
    },
    Leave {
        who: String,
    },
    /// A variable is set; for one player if each has their own.
    Set {
        name: String,
        of: Option<String>,
        to: Value,
    },
    /// A part is told what to do.
    Command {
        object: String,
        part: usize,
        command: String,
    },
    /// A setting of a part is changed.
    Change {
        object: String,
        part: usize,
        setting: String,
        to: Value,
    },
    /// A signal that carries nothing is emitted.
    Emit {
        signal: String,
        who: Option<String>,
    },
    /// An object is enabled or disabled.
    Switch {
        object: String,
        on: bool,
    },
    /// A line of a playtest, or statements, as somebody types them.
    Line {
        who: Option<String>,
        text: String,
    },
    /// What was done, and what has happened since a tick, to make a playtest of.
    Offer {
        since: u64,
    },
    /// The playtest that is made of it, and how it goes; it is written into the file if it passes and that is asked.
    Make {
        name: String,
        expected: Vec<String>,
        write: bool,
    },
    /// The world restarts with the wiring as it is saved.
    Restart,
    Pause,
    Resume,
    /// One tick on.
    Step,
    /// How fast the time goes: 1 as it is.
    Pace {
        times: f64,
    },
    /// To a tick, back or on.
    Wind {
        tick: u64,
        #[serde(default)]
        anyway: bool,
    },
    /// What is shown on the bench; nothing: no more.
    Choose {
        what: Option<String>,
    },
    /// This page steers from now on.
    Steer,
}
