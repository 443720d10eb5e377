//! Bodies on their way to scenes that are not in this world.

use serde::{Deserialize, Serialize};

use crate::base::{ids::ObjectId, value::Text};

/// A body on its way to a spot of another scene. If this world does not know the scene, the host takes it there.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Leaving {
    /// The body.
    pub body: ObjectId,
    /// The scene.
    pub scene: Text,
    /// The spot there.
    pub spot: Text,
}
