//! Which signals cross to other worlds, which way, and who may send them.

use serde::{Deserialize, Serialize};

use crate::base::ids::Tags;

/// On which side of a link a world is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub enum Side {
    /// It is the only one: what crosses is delivered here.
    #[default]
    Alone,
    /// A player's: what crosses to the authority is delivered there, and not here.
    Player,
    /// The one whose word counts: what crosses to players is delivered here and there.
    Authority,
}

/// Which way a signal crosses.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Crosses {
    /// From players' worlds to the authority's.
    ToAuthority,
    /// From the authority's world to all players'.
    ToPlayers,
}

/// Which way a signal crosses, and who may send it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Crossing {
    pub(crate) to: Crosses,
    /// The sender must have one of these tags; with none, anybody may send.
    pub(crate) by: Tags,
}
