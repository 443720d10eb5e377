//! The plan: what has been built. A snapshot shares it, and it is copied only when it changes.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        ids::{BindId, PartId, PropertyName, SignalId, Tag, VarId, WireId},
        shared::Shared,
    },
    moment::spots::Spots,
    part::mould::Moulds,
    plan::{
        binds::{Bind, Kept},
        crossings::{Crossing, Side},
        expr::Expr,
        ops::Routine,
        rules::Rule,
    },
};

/// What has been built, table by table. Each table is shared for itself, so that a change copies one of them.
///
/// Objects, parts, signals and wires have a plan too; it lies beside how they are, in the same places.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Plan {
    /// What the world was made of: names, and what stands for their contents.
    pub(crate) made_of: Shared<BTreeMap<SmolStr, u64>>,
    /// How many players there may be.
    pub(crate) most_players: Option<u32>,
    pub(crate) spots: Spots,
    pub(crate) routines: Shared<Vec<Routine>>,
    pub(crate) rules: Shared<Vec<Rule>>,
    pub(crate) moulds: Shared<Moulds>,
    pub(crate) binds: Shared<Vec<Bind>>,
    /// The binds that keep variables of objects, by the names of those.
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) bind_names: Shared<BTreeMap<PropertyName, Vec<BindId>>>,
    /// The binds that keep what is no variable.
    #[serde(default, with = "crate::base::shared::pairs")]
    pub(crate) kept_things: Shared<BTreeMap<Kept, BindId>>,
    /// Binds were made since they were ranked.
    pub(crate) binds_unranked: bool,
    /// The wires that belong to stages, by the variable that says which.
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) staged: Shared<BTreeMap<VarId, Vec<WireId>>>,
    /// The signals that cross to other worlds.
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) crossings: Shared<BTreeMap<SignalId, Crossing>>,
    /// Which side of them this world is on.
    pub(crate) side: Side,
    /// Parts that offer something, that push, and that rays meet; each by object number.
    pub(crate) prompts: Shared<Vec<PartId>>,
    pub(crate) pushes: Shared<Vec<PartId>>,
    pub(crate) aimed: Shared<Vec<PartId>>,
    /// Parts that are told how bodies go; and those of them that are told of bodies with a tag, by the tag.
    #[serde(default)]
    pub(crate) gaits: Shared<Vec<PartId>>,
    #[serde(default, with = "crate::base::shared::pairs")]
    pub(crate) gaits_of: Shared<BTreeMap<Tag, Vec<PartId>>>,
    /// What parts want to be worked out while the world runs, by setting.
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) asked: Shared<BTreeMap<PartId, Vec<(SmolStr, Expr)>>>,
}

impl Plan {
    /// The lists of parts that offer something, that push, that rays meet, and that are told how bodies go.
    pub(crate) fn lists(&mut self) -> [&mut Shared<Vec<PartId>>; 4] {
        [&mut self.prompts, &mut self.pushes, &mut self.aimed, &mut self.gaits]
    }
}
