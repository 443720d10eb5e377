//! Binds as they were made: what is kept equal to what.

use serde::{Deserialize, Serialize};

use crate::{
    base::{
        ids::{PropertyName, SceneId, Tag, VarId},
        place::Place,
    },
    plan::{expr::Expr, reads::Read},
};

/// What a bind keeps.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Kept {
    /// One variable.
    Var(VarId),
    /// The variable of that name of every object with that tag; in the expression it is [`Expr::It`].
    Each(Tag, PropertyName),
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
        let group = matches!(self.kept, Kept::Each(..)).then_some(Read::Objects);
        self.to.depends_on().into_iter().chain(group)
    }
}
