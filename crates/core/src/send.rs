//! Sending bodies to spots. `travel` takes them to other scenes.

use glam::Vec3;
use serde::{Deserialize, Serialize};

use crate::{
    bus::Doing, error::Error, geometry::Pose, object::ObjectId, spot::SpotId, state::State, trace::Event,
    tween::Moved, value::Text, whereabouts::Way,
};

/// A body on its way to a spot of another scene. If this world does not know the scene, the host takes it there.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Leaving {
    /// The body.
    pub body: ObjectId,
    /// The scene.
    pub scene: Text,
    /// The spot there.
    pub spot: Text,
}

impl State {
    /// Sends a body to a spot of this world.
    pub(crate) fn send(&mut self, who: ObjectId, spot: SpotId, doing: Doing) -> Result<(), Error> {
        self.send_beside(who, spot, Vec3::ZERO, doing)
    }

    /// Sends a body to so far from a spot of this world, as seen from there.
    pub(crate) fn send_beside(
        &mut self,
        who: ObjectId,
        spot: SpotId,
        offset: Vec3,
        doing: Doing,
    ) -> Result<(), Error> {
        let (at, facing) = {
            let spot = self.spots.get(spot).ok_or(Error::NoSuchSpot)?;
            (spot.at + spot.facing.turn(offset), spot.facing)
        };
        self.objects.get(who).ok_or(Error::NoSuchObject)?;
        let cause = self.bus.trace.note(doing.cause, 0, Event::Sent { body: who, spot });
        self.tweens.stop(Moved::Place(who));
        self.tweens.stop(Moved::Facing(who));
        self.relocate(who, Pose { at, facing }, Way::Sent, cause)
    }

    pub(crate) fn name_of(&self, object: ObjectId) -> Result<&str, Error> {
        self.objects.get(object).map(|object| object.name.as_str()).ok_or(Error::NoSuchObject)
    }
}
