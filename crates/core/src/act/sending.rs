//! Sending bodies to spots. `travel` takes them to other scenes.

use glam::Vec3;

use crate::{
    base::{
        doing::{Doing, Way},
        ease::Moved,
        error::Error,
        geometry::Pose,
        ids::{ObjectId, SceneId, SpotId},
        value::Value,
    },
    state::State,
    trace::record::Event,
};

impl State {
    /// Sends a body to a spot of this world.
    pub(crate) fn send(&mut self, who: ObjectId, spot: SpotId, doing: Doing) -> Result<(), Error> {
        self.send_beside(who, spot, Vec3::ZERO, doing)
    }

    /// Sends a body to the spot that a value means, here or in another scene.
    pub(crate) fn send_to(&mut self, who: ObjectId, spot: &Value, doing: Doing) -> Result<(), Error> {
        match spot {
            Value::Spot(spot) => self.send(who, *spot, doing),
            Value::SpotElsewhere(path) => {
                self.send_away(who, &path.scene, &path.spot, doing);
                Ok(())
            }
            _ => Err(Error::NoSuchSpot),
        }
    }

    /// Sends a body to so far from a spot of this world, as seen from there.
    pub(crate) fn send_beside(
        &mut self,
        who: ObjectId,
        spot: SpotId,
        offset: Vec3,
        doing: Doing,
    ) -> Result<(), Error> {
        let known = self.plan.spots.get(spot).ok_or(Error::NoSuchSpot)?;
        let (at, facing) = (known.at + known.facing.turn(offset), known.facing);
        let here = self.moment.objects.get(who).ok_or(Error::NoSuchObject)?.scene;
        // Places of another scene mean nothing here: a body that has left since stays where it is.
        let there = known.object.map_or(known.scene, |object| self.scene_of(object));
        if there.is_some() && there != here {
            let word =
                |scene: Option<SceneId>| scene.and_then(|scene| self.moment.scenes.name(scene)).cloned();
            return Err(Error::OtherScene {
                name: self.name(who).unwrap_or_default().into(),
                here: word(here).unwrap_or_else(|| "no scene".into()),
                spot: known.name.clone(),
                there: word(there).unwrap_or_default(),
            });
        }
        if self.stays_here(who, doing) {
            return Ok(());
        }
        let cause = self.bus.trace.note(doing.cause, 0, Event::Sent { body: who, spot });
        self.moment.tweens.stop(Moved::Place(who));
        self.moment.tweens.stop(Moved::Facing(who));
        self.relocate(who, Pose { at, facing }, Way::Sent, cause)
    }

    /// Whether a body is not to be sent on, since this began with its arrival and no time has passed: two doors that
    /// lead to each other would never let it go.
    pub(crate) fn stays_here(&mut self, who: ObjectId, doing: Doing) -> bool {
        let stays = doing.arrived == Some(who);
        if stays {
            self.bus.trace.note(doing.cause, 0, Event::StaysHere { body: who });
        }
        stays
    }

    pub(crate) fn name_of(&self, object: ObjectId) -> Result<&str, Error> {
        self.moment.objects.get(object).map(|object| object.name.as_str()).ok_or(Error::NoSuchObject)
    }
}
