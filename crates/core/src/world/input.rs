//! What a host hands in between ticks.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use slotmap::SecondaryMap;

use crate::{
    act::pointing::Pointing,
    base::{
        geometry::Rotation,
        ids::{ObjectId, PartId, SceneId, VarId, WireId},
        numbers::Command,
        value::{Text, Value},
    },
    moment::queue::Emission,
    space::shape::Shape,
};

/// What the host handed in since the last tick, in its order.
#[derive(Debug, Default)]
pub(crate) struct Inputs {
    pub(crate) all: Vec<Input>,
    /// Which of them says where a body is. What is out of date there is about something else, or past the end.
    places: SecondaryMap<ObjectId, u32>,
    /// Which of them sends a body on a walk, likewise.
    walks: SecondaryMap<ObjectId, u32>,
}

impl Inputs {
    pub(crate) fn push(&mut self, input: Input) {
        let number = u32::try_from(self.all.len()).unwrap_or(u32::MAX);
        if let Some(id) = input.places() {
            self.places.insert(id, number);
        } else if let Input::Walk { body, .. } = input {
            self.walks.insert(body, number);
        }
        self.all.push(input);
    }

    /// The one that says where a body is, if there is one.
    pub(crate) fn place_of(&mut self, id: ObjectId) -> Option<&mut Input> {
        let input = self.all.get_mut(*self.places.get(id)? as usize);
        input.filter(|input| input.places() == Some(id))
    }

    /// Whether one of them sends a body on a walk.
    pub(crate) fn sends_out(&self, id: ObjectId) -> bool {
        let walk = self.walks.get(id).and_then(|number| self.all.get(*number as usize));
        walk.is_some_and(|input| matches!(input, Input::Walk { body, .. } if *body == id))
    }

    /// Goes back to what was handed in then.
    pub(crate) fn restore(&mut self, all: &[Input]) {
        self.all.clear();
        all.iter().cloned().for_each(|input| self.push(input));
    }
}

impl Input {
    /// The object that it puts or moves.
    fn places(&self) -> Option<ObjectId> {
        match *self {
            Self::Put { object, .. } => Some(object),
            Self::Move { body, .. } => Some(body),
            _ => None,
        }
    }
}

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
        command: Command,
        who: Option<ObjectId>,
        args: Vec<(Text, Value)>,
    },
    Set {
        var: VarId,
        of: Option<ObjectId>,
        to: Value,
    },
    Change {
        part: PartId,
        setting: Text,
        to: Value,
    },
    Unload {
        scene: SceneId,
    },
    /// What a wire does is done once, and the wire is gone.
    Do {
        wire: WireId,
    },
    Bring {
        body: ObjectId,
        scene: Text,
        spot: Text,
    },
}
