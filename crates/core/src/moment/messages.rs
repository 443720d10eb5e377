//! Signals on their way to other worlds.

use serde::{Deserialize, Serialize};

use crate::{base::value::Text, moment::remembered::Remembered};

/// A signal on its way to another world: names instead of ids, since those are each world's own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Message {
    /// The whole name of the signal.
    pub signal: Text,
    /// The player it goes back to. The authority does not believe it: it knows whose link it came by.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub who: Option<Text>,
    /// What it carries.
    #[serde(default)]
    pub values: Vec<Remembered>,
}

impl Message {
    /// That signal by name, for whom, with the values of its payload in their order.
    pub fn new(signal: &str, who: Option<Text>, values: Vec<Remembered>) -> Self {
        Self { signal: signal.into(), who, values }
    }
}
