//! Pointing and sight: rays from the host and between players and prompts.

use glam::{DVec3, Vec3};

use crate::{
    base::{
        doing::Doing,
        error::{BuildError, Error},
        geometry::check_place,
        ids::{ObjectId, PartId, SceneId},
        value::Text,
    },
    part::offers::{Aim, Picked},
    space::{grid::Cell, shape::direction},
    state::State,
    trace::record::Event,
};

/// What a ray met first.
#[derive(Clone, Copy, Debug)]
struct Hit {
    part: PartId,
    object: ObjectId,
    /// How far along the ray.
    along: f64,
    normal: DVec3,
    rank: (u32, u32),
}

/// A ray from the host: where a player points.
#[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
#[non_exhaustive]
pub struct Pointing {
    /// Who points.
    pub who: ObjectId,
    /// Where the ray begins: the eye, or the camera.
    pub from: Vec3,
    /// Which way it goes; its length does not count.
    pub along: Vec3,
    /// The button, or whatever the host calls it.
    pub button: Text,
}

impl Pointing {
    /// That player points along a ray that begins there, with that button.
    pub fn new(who: ObjectId, from: Vec3, along: Vec3, button: impl Into<Text>) -> Self {
        Self { who, from, along, button: button.into() }
    }

    pub(crate) fn check(&self) -> Result<(), BuildError> {
        check_place(self.from)?;
        direction(self.along)
    }
}

impl State {
    /// A part that rays meet, if its object is enabled and in that scene.
    fn aim_in(&self, part: PartId, scene: Option<SceneId>) -> Option<(ObjectId, &Aim)> {
        let object = self.object_of(part)?;
        let on =
            |object: &crate::moment::object::Object| object.enabled && !object.fresh && object.scene == scene;
        let on = self.moment.objects.get(object).is_some_and(on) && !self.is_passable(object);
        Some((object, self.parts.part(part).filter(|_| on)?.aim()?))
    }

    /// What a ray meets first, no farther than that; of two as far, what was made first.
    fn first_hit(
        &self,
        scene: Option<SceneId>,
        from: Vec3,
        along: DVec3,
        reach: f64,
        counts: impl Fn(ObjectId, &Aim) -> bool,
    ) -> Option<Hit> {
        let mut first: Option<Hit> = None;
        // Nothing lies farther out than that.
        let to = (from.as_dvec3() + along * reach.min(1e30)).as_vec3();
        self.moment.aims.near(from, to, |number, rank| {
            let hit = || {
                let part = self.parts.id_at(number)?;
                let (object, aim) = self.aim_in(part, scene).filter(|(object, aim)| counts(*object, aim))?;
                let pose = self.moment.objects.get(object)?.pose();
                let (far, normal) = aim.shape.ray_along(pose, from.as_dvec3(), along, reach)?;
                Some(Hit { part, object, along: far, normal, rank: *rank })
            };
            let sooner = |hit: &Hit, first: Hit| (hit.along, hit.rank) < (first.along, first.rank);
            if let Some(hit) = hit().filter(|hit| first.is_none_or(|first| sooner(hit, first))) {
                first = Some(hit);
            }
        });
        first
    }

    /// Whether nothing solid stands between two places.
    pub(crate) fn sees(&self, scene: Option<SceneId>, from: Vec3, to: Vec3, but: [ObjectId; 2]) -> bool {
        let way = to.as_dvec3() - from.as_dvec3();
        let Some(along) = way.try_normalize() else { return true };
        let solid = |object: ObjectId, aim: &Aim| !aim.picked && !but.contains(&object);
        self.first_hit(scene, from, along, way.length(), solid).is_none()
    }

    /// A player points: the first thing on the ray is picked, if it can be.
    pub(crate) fn point(&mut self, pointing: &Pointing) -> Result<(), Error> {
        let Pointing { who, from, along, button } = pointing;
        let player = self.moment.objects.get(*who).ok_or(Error::NoSuchObject)?;
        let (player, scene) = (player.at, player.scene);
        let along = along.as_dvec3().normalize();
        let hit = self.first_hit(scene, *from, along, f64::MAX, |object, _| object != *who);
        let Some(Hit { part, object, along: far, normal, .. }) = hit else {
            self.bus.trace.note(None, 0, Event::Pointed { who: *who, at: None, taken: false });
            return Ok(());
        };
        let point = (from.as_dvec3() + along * far).as_vec3();
        let distance = (point.as_dvec3() - player.as_dvec3()).length();
        let pose = self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.pose();
        let aim =
            self.parts.part(part).and_then(crate::part::contract::Part::aim).ok_or(Error::NoSuchPart)?;
        let taken = aim.picked && aim.reach.is_none_or(|reach| distance <= reach);
        let Cell { column, row } = aim.grid.map(|grid| grid.cell_at(pose, point)).unwrap_or_default();
        let cause = self.bus.trace.note(None, 0, Event::Pointed { who: *who, at: Some(part), taken });
        if taken {
            let (normal, button) = (normal.as_vec3(), button.clone());
            let (column, row) = (column.into(), row.into());
            let doing = Doing::of(Some(*who), cause);
            self.give(part, 0, Picked { point, normal, distance, button, column, row }, doing);
        }
        Ok(())
    }
}
