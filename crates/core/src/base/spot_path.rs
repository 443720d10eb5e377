//! Spots by name, which may be in another scene.

use std::{fmt, sync::Arc};

use serde::{Deserialize, Serialize};

use crate::base::{
    ids::SpotId,
    value::{FieldValue, Text, Type, Value},
};

/// A spot and the scene it is in, by name.
///
/// ```
/// use stoicheon_core::{SpotPath, Type, Value};
/// let there = Value::from(SpotPath { scene: "tunnel".into(), spot: "arrival".into() });
/// assert_eq!(there.type_of(), Some(Type::Spot));
/// assert_eq!(there.shown().as_deref(), Some("arrival in tunnel"));
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct SpotPath {
    /// The scene.
    pub scene: Text,
    /// The name of the spot there, without the scene's.
    pub spot: Text,
}

impl fmt::Display for SpotPath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} in {}", self.spot, self.scene)
    }
}

impl From<SpotPath> for Value {
    fn from(path: SpotPath) -> Self {
        Self::SpotElsewhere(Arc::new(path))
    }
}

/// A spot of this world or of a scene by name, for a field of a payload that takes both.
///
/// ```
/// use stoicheon_core::{SpotPath, SpotRef, World, payload};
/// payload! { struct GoHome { to: SpotRef } }
/// let mut world = World::<Vec<SpotRef>>::new();
/// let home = world.declare_signal::<GoHome>("go_home")?;
/// world.on(home).run(|seen: &mut Vec<SpotRef>, home, _| seen.push(home.to.clone()))?;
/// let ladder = SpotRef::Elsewhere(SpotPath { scene: "tunnel".into(), spot: "ladder".into() });
/// world.emit(home, GoHome { to: ladder.clone() })?;
/// let mut seen = Vec::new();
/// world.step(&mut seen)?;
/// // In a reaction: `cx.send(who, id)` for one that is here, `cx.bring(who, &path.scene, &path.spot)` for the other.
/// assert_eq!(seen, [ladder]);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub enum SpotRef {
    /// A spot of this world.
    Here(SpotId),
    /// A spot of a scene, by name.
    Elsewhere(SpotPath),
}

impl FieldValue for SpotRef {
    fn field_type() -> Type {
        Type::Spot
    }
    fn to_value(&self) -> Value {
        match self {
            Self::Here(spot) => Value::Spot(*spot),
            Self::Elsewhere(path) => path.clone().into(),
        }
    }
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Spot(spot) => Some(Self::Here(*spot)),
            Value::SpotElsewhere(path) => Some(Self::Elsewhere(SpotPath::clone(path))),
            _ => None,
        }
    }
}
