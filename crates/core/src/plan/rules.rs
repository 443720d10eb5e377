//! Rules: what must never hold. They are looked at when a tick has settled.

use serde::{Deserialize, Serialize};

use crate::{
    base::{ids::SceneId, place::Place},
    plan::expr::Expr,
};

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Rule {
    pub(crate) never: Expr,
    pub(crate) place: Place,
    /// It is looked at while that is loaded and not frozen.
    pub(crate) scene: Option<SceneId>,
    pub(crate) broken: bool,
    pub(crate) times_broken: u64,
    /// It is written no more.
    #[serde(default)]
    pub(crate) ended: bool,
}
