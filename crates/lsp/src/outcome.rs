//! How a playtest went.

use serde::Serialize;
use stoicheon_core::Place;

/// How a playtest went, all its cases and seeds together.
#[derive(Clone, Debug, Serialize)]
pub(crate) struct Outcome {
    pub(crate) passed: bool,
    /// In one line.
    pub(crate) said: String,
    /// What was expected and what happened instead, line by line.
    pub(crate) failure: Vec<String>,
    #[serde(skip)]
    pub(crate) place: Option<Place>,
}
