//! Binds as they were made: what is kept equal to what.

use serde::{Deserialize, Serialize};

use crate::{
    base::{
        ids::{ObjectId, PartId, PropertyName, SceneId, Tag, VarId},
        place::Place,
    },
    plan::{expr::Expr, reads::Read},
};

/// What a bind keeps.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Kept {
    /// One variable.
    Var(VarId),
    /// The variable of that name of every object with that tag; in the expression it is [`Expr::It`].
    Each(Tag, PropertyName),
    /// Where an object is: it is moved there, and a body passes what lies between.
    Place(ObjectId),
    /// Which way an object faces.
    Facing(ObjectId),
    /// Where every object with that tag is; in the expression it is [`Expr::It`].
    EachPlace(Tag),
    /// Which way every object with that tag faces, likewise.
    EachFacing(Tag),
    /// A setting of a part that may change: [`State::setting_of`](crate::State::setting_of) has its number.
    Setting(PartId, u8),
}

impl Kept {
    /// The group, if it keeps something of each.
    pub(crate) fn tag(self) -> Option<Tag> {
        match self {
            Self::Each(tag, _) | Self::EachPlace(tag) | Self::EachFacing(tag) => Some(tag),
            Self::Var(_) | Self::Place(_) | Self::Facing(_) | Self::Setting(..) => None,
        }
    }
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Bind {
    pub(crate) kept: Kept,
    pub(crate) to: Expr,
    pub(crate) place: Place,
    pub(crate) scene: Option<SceneId>,
    /// Those of a smaller rank come first.
    pub(crate) rank: u32,
    pub(crate) ended: bool,
}

impl Bind {
    /// Everything it must look at again for.
    pub(crate) fn reads(&self) -> impl Iterator<Item = Read> {
        let group = self.kept.tag().map(|_| Read::Objects);
        self.to.depends_on().into_iter().chain(group)
    }
}
