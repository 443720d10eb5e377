//! Rules: what must never hold. They are looked at when a tick has settled.

use crate::{expr::Expr, scene::SceneId, wire::Place};
use serde::{Deserialize, Serialize};

/// A rule, in the order they were made.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct RuleId(pub(crate) u32);

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Rule {
    pub(crate) never: Expr,
    pub(crate) place: Place,
    /// It is looked at while that is loaded and not frozen.
    pub(crate) scene: Option<SceneId>,
    pub(crate) broken: bool,
    pub(crate) times_broken: u64,
}
