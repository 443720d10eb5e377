//! Variables about to be declared.

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::base::{
    ids::ObjectId,
    value::{Type, Value},
};

/// A variable about to be declared, for [`World::declare`](crate::World::declare).
///
/// ```
/// use stoicheon_core::{Type, NewVar, World};
/// let mut world = World::<()>::new();
/// let errand = NewVar::new("errand", "stranger").of_type(Type::one_of(["stranger", "hunting", "done"]));
/// let errand = world.declare(errand.per_player())?;
/// let ada = world.player("ada").add()?;
/// assert_eq!(world.value_of(errand, ada)?.as_text(), Some("stranger"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct NewVar {
    pub(crate) name: SmolStr,
    pub(crate) ty: Option<Type>,
    pub(crate) first: Value,
    pub(crate) per_player: bool,
    #[serde(default)]
    pub(crate) remembered: bool,
    #[serde(skip)]
    pub(crate) object: Option<ObjectId>,
}

impl NewVar {
    /// A variable of that name, with its first value.
    pub fn new(name: &str, first: impl Into<Value>) -> Self {
        Self {
            name: name.into(),
            ty: None,
            first: first.into(),
            per_player: false,
            remembered: false,
            object: None,
        }
    }

    /// It holds that type. Default the type of its first value.
    pub fn of_type(mut self, ty: Type) -> Self {
        self.ty = Some(ty);
        self
    }

    /// Each player has one of it.
    pub fn per_player(mut self) -> Self {
        self.per_player = true;
        self
    }

    /// It is remembered when its scene is unloaded, when a player leaves who has one of it, and in a
    /// [`Save`](crate::Save).
    pub fn remembered(mut self) -> Self {
        self.remembered = true;
        self
    }

    /// It belongs to an object, is found as `object.name`, and ends with it.
    pub fn of(mut self, object: ObjectId) -> Self {
        self.object = Some(object);
        self
    }
}
