//! One object, its body, and what is left of a player who is away.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    base::{
        geometry::{Pose, Rotation},
        ids::{ObjectId, PartId, PropertyName, RecordId, SceneId, SignalId, Tag, Tags, VarId, WireId},
    },
    space::{shape::Shape, tracker::BodyKey},
};

impl Body {
    pub(crate) fn new(key: BodyKey, shape: Option<Shape>) -> Self {
        Self { key, course: None, facts: Box::new(BodyFacts { shape, ..BodyFacts::default() }) }
    }

    /// Whether the motion phase moves it.
    pub(crate) fn moves(&self) -> bool {
        self.course.is_some() || self.facts.velocity != Vec3::ZERO
    }
}

/// A straight walk at an even pace.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub(crate) struct Course {
    pub(crate) to: Vec3,
    /// Scene units per tick.
    pub(crate) step: f32,
    /// The record of setting out.
    pub(crate) cause: Option<RecordId>,
}

/// What makes an object able to touch zones. What is not needed to move it lies elsewhere.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Body {
    pub(crate) key: BodyKey,
    pub(crate) course: Option<Box<Course>>,
    pub(crate) facts: Box<BodyFacts>,
}

/// What else is to be known of a body.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct BodyFacts {
    /// `None` for a point.
    pub(crate) shape: Option<Shape>,
    /// Scene units per second; the motion phase moves it by that.
    pub(crate) velocity: Vec3,
    /// What became of its velocity came from that.
    pub(crate) pushed_by: Option<RecordId>,
    /// When it was put or sent somewhere last: twice the tick, and one more once that tick's zones had been looked at.
    pub(crate) displaced: u64,
}

#[expect(clippy::struct_excessive_bools, reason = "facts that have nothing to do with each other")]
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Object {
    /// Counts up from 1 in the order objects are made; never used again.
    pub(crate) number: u32,
    pub(crate) name: SmolStr,
    pub(crate) tags: Tags,
    pub(crate) at: Vec3,
    pub(crate) facing: Rotation,
    /// It is on, and so is whatever it hangs on.
    pub(crate) enabled: bool,
    /// It was disabled itself.
    pub(crate) off: bool,
    /// What it hangs on.
    pub(crate) parent: Option<ObjectId>,
    /// Where it is as seen from there.
    pub(crate) seat: Pose,
    /// What hangs on it, in the order it was hung.
    pub(crate) children: SmallVec<[ObjectId; 2]>,
    /// The record of what moved it last.
    pub(crate) moved_by: Option<RecordId>,
    /// Destroyed in this tick; freed in its upkeep.
    pub(crate) doomed: bool,
    /// What is left of a player who is away: the id and the number.
    pub(crate) away: bool,
    /// It was hung on what it hangs on while the world ran: a player who leaves sets it down.
    pub(crate) carried: bool,
    /// Where it is, whether it is on, and whether it is gone are remembered.
    pub(crate) remembered: bool,
    /// Made while the world was running; takes part from the next upkeep on.
    pub(crate) fresh: bool,
    /// It fills a role, and stays when scenes are unloaded.
    pub(crate) manages: bool,
    /// The scene it is in and ends with, if any. Players and managers do not end with it.
    pub(crate) scene: Option<SceneId>,
    /// The scene it was made for, wherever it was taken since.
    pub(crate) home: Option<SceneId>,
    pub(crate) body: Option<Body>,
    pub(crate) parts: SmallVec<[PartId; 2]>,
    /// The signals it gives, but for those of its parts.
    pub(crate) signals: SmallVec<[SignalId; 2]>,
    /// The wires that sleep and end with it.
    pub(crate) wires: SmallVec<[WireId; 2]>,
    /// Its variables.
    pub(crate) properties: SmallVec<[(PropertyName, VarId); 2]>,
}

impl Object {
    /// A player who is away and was never here.
    pub(crate) fn nobody(name: SmolStr, number: u32) -> Self {
        let (at, facing) = (Vec3::ZERO, Rotation::NONE);
        Self {
            number,
            name,
            tags: Tags::new(),
            at,
            facing,
            enabled: false,
            off: false,
            parent: None,
            seat: Pose { at, facing },
            children: SmallVec::new(),
            moved_by: None,
            doomed: true,
            away: true,
            carried: false,
            remembered: false,
            fresh: false,
            manages: false,
            scene: None,
            home: None,
            body: None,
            parts: SmallVec::new(),
            signals: SmallVec::new(),
            wires: SmallVec::new(),
            properties: SmallVec::new(),
        }
    }

    /// What is left of a player who is away.
    pub(crate) fn hollow(of: &Self) -> Self {
        Self { at: of.at, facing: of.facing, ..Self::nobody(of.name.clone(), of.number) }
    }

    pub(crate) fn has_any(&self, tags: &[Tag]) -> bool {
        tags.iter().any(|tag| self.tags.contains(tag))
    }

    /// It was taken out of the scene it was made for, and lives on while that is unloaded.
    pub(crate) fn is_away_from_home(&self) -> bool {
        self.carried || self.scene != self.home
    }

    /// Where it is, scene and all.
    pub(crate) fn last_seen(&self) -> (Option<SceneId>, Pose) {
        (self.scene, self.pose())
    }

    pub(crate) fn pose(&self) -> Pose {
        Pose { at: self.at, facing: self.facing }
    }

    pub(crate) fn property(&self, name: PropertyName) -> Option<VarId> {
        self.properties.iter().find(|(other, _)| *other == name).map(|(_, var)| *var)
    }
}

/// Somebody who plays, or has played.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Person {
    /// The player's body, whether it is there or not.
    pub(crate) id: ObjectId,
    /// Where the player was on leaving.
    pub(crate) last: Option<LastSeen>,
}

/// Where a player was on leaving.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct LastSeen {
    pub(crate) scene: Option<SceneId>,
    pub(crate) pose: Pose,
    pub(crate) tags: Vec<SmolStr>,
}
