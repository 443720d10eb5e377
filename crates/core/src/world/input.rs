//! What a host hands in between ticks.

use glam::Vec3;
use serde::{Deserialize, Serialize};

use crate::{
    act::pointing::Pointing,
    base::{
        geometry::Rotation,
        ids::{ObjectId, PartId, SceneId, VarId},
        value::{Text, Value},
    },
    moment::queue::Emission,
    space::shape::Shape,
};

/// One thing the host handed in.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Input {
    Put {
        object: ObjectId,
        at: Vec3,
    },
    /// The host moved it; it passed what lies between.
    Move {
        body: ObjectId,
        at: Vec3,
    },
    Face {
        object: ObjectId,
        facing: Rotation,
    },
    Drive {
        body: ObjectId,
        velocity: Vec3,
    },
    Touch {
        zone: PartId,
        body: ObjectId,
        inside: bool,
    },
    Reshape {
        part: PartId,
        shape: Shape,
    },
    Point(Pointing),
    Hang {
        object: ObjectId,
        on: Option<ObjectId>,
    },
    Leave {
        player: ObjectId,
    },
    Walk {
        body: ObjectId,
        to: Vec3,
        speed: f64,
    },
    Key {
        who: ObjectId,
        key: Text,
        down: bool,
    },
    /// Its payload waits in its store already.
    Emission(Emission),
    Switch {
        object: ObjectId,
        on: bool,
    },
    Destroy {
        object: ObjectId,
    },
    Command {
        part: PartId,
        command: u8,
        who: Option<ObjectId>,
        args: Vec<(Text, Value)>,
    },
    Set {
        var: VarId,
        of: Option<ObjectId>,
        to: Value,
    },
    Unload {
        scene: SceneId,
    },
    Bring {
        body: ObjectId,
        scene: Text,
        spot: Text,
    },
}
