//! Groups of objects, as an expression or a loop means them.

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    base::{
        ids::{PartId, Tag},
        numbers::PartState,
    },
    plan::expr::Expr,
};

/// Some of the objects there are, by object number. Disabled objects are among them.
///
/// ```
/// use stoicheon_core::{Among, Expr, World};
/// let mut world = World::<()>::new();
/// let gate = world.tag_named("gate")?;
/// world.object("upper_gate").tag("gate").add()?;
/// world.object("lower_gate").tag("gate").add()?;
/// assert_eq!(world.evaluate(&Expr::Count(Box::new(Among::tagged(gate)))), 2_i64.into());
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Among {
    pub(crate) tag: Tag,
    pub(crate) inside: Option<PartId>,
    pub(crate) such_that: Option<Box<Expr>>,
}

impl Among {
    /// The objects with that tag.
    pub fn tagged(tag: Tag) -> Self {
        Self { tag, inside: None, such_that: None }
    }

    /// Of those, the bodies inside that zone.
    pub fn inside(mut self, zone: PartId) -> Self {
        self.inside = Some(zone);
        self
    }

    /// Of those, the ones for which that holds. The one that is looked at is [`Expr::It`].
    pub fn such_that(mut self, expr: Expr) -> Self {
        self.such_that = Some(Box::new(match self.such_that {
            Some(before) => before.and(expr),
            None => expr,
        }));
        self
    }

    /// The tag.
    pub fn tag(&self) -> Tag {
        self.tag
    }

    /// The zone they are inside.
    pub fn zone(&self) -> Option<PartId> {
        self.inside
    }

    /// What holds for them.
    pub fn condition(&self) -> Option<&Expr> {
        self.such_that.as_deref()
    }
}

/// A state that objects of several kinds can be in, such as `open`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct StateTest {
    pub(crate) word: crate::base::value::Text,
    /// The number of each kind that has the state, and that of the state.
    pub(crate) kinds: SmallVec<[(u32, PartState); 2]>,
}

impl StateTest {
    /// The word for the state.
    pub fn word(&self) -> &str {
        &self.word
    }
}
