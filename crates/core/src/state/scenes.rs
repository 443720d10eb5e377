//! What can be asked of scenes and players.

use smol_str::SmolStr;

use crate::{
    base::{
        error::Error,
        ids::{ObjectId, SceneId, SpotId},
    },
    state::State,
};

impl State {
    /// The scene of that name, if the world knows it.
    pub fn find_scene(&self, name: &str) -> Option<SceneId> {
        self.moment.scenes.find(name)
    }

    /// The name of a scene.
    pub fn scene_name(&self, scene: SceneId) -> Option<&str> {
        self.moment.scenes.name(scene).map(SmolStr::as_str)
    }

    /// The tag of those with that word who are in a scene, if the world knows it.
    pub fn find_tag_in(&self, scene: SceneId, word: &str) -> Option<crate::base::ids::Tag> {
        self.find_tag(&crate::base::names::scoped(word, self.moment.scenes.name(scene)?))
    }

    /// How far from its object's place the shape of a part reaches at most; `None` for one without an end.
    pub fn reach_of(&self, part: crate::base::ids::PartId) -> Option<f32> {
        let shape = self.parts.part(part)?.region()?.shape.as_ref()?;
        let corners = shape.outlines(crate::base::geometry::Pose::default(), false).into_iter().flatten();
        corners.map(|corner| corner.with_y(0.0).length()).reduce(f32::max)
    }

    /// The scenes that are loaded, in the order the world came to know them.
    pub fn scenes(&self) -> impl Iterator<Item = SceneId> {
        self.moment.scenes.ids().filter(|scene| self.moment.scenes.is_loaded(*scene))
    }

    /// Whether what belongs to a scene has been made.
    pub fn is_loaded(&self, scene: SceneId) -> bool {
        self.moment.scenes.is_loaded(scene)
    }

    /// Whether a scene is loaded and stands still, since nobody is in it.
    pub fn is_frozen(&self, scene: SceneId) -> bool {
        self.moment.scenes.is_loaded(scene) && self.moment.scenes.is_frozen(Some(scene))
    }

    /// The scene an object is in; `None` for a manager, and for what was made before any scene.
    pub fn scene_of(&self, object: ObjectId) -> Option<SceneId> {
        self.moment.objects.get(object)?.scene
    }

    /// How often scenes were loaded and unloaded so far. What a scene consists of has other ids after that.
    pub fn scene_changes(&self) -> u64 {
        self.moment.scenes.changes
    }

    /// The players who are here, by number.
    pub fn players(&self) -> impl Iterator<Item = ObjectId> {
        let all = self.moment.objects.people.values().map(|person| person.id);
        all.filter(|id| self.moment.objects.get(*id).is_some())
    }

    /// The number of a player, here or away: from 1, in the order in which players came for the first
    /// time. It is never another's.
    pub fn player_number(&self, player: ObjectId) -> Option<u32> {
        self.moment.objects.player_number(player)
    }

    /// The player of that name, here or away.
    pub fn find_player(&self, name: &str) -> Option<ObjectId> {
        self.moment.objects.people.get(name).map(|person| person.id)
    }

    /// The spot of a scene's whole name or of what comes after it, for those who want to know before going there.
    pub fn find_spot_in(&self, scene: SceneId, name: &str) -> Option<SpotId> {
        self.plan.spots.find_in(self.moment.scenes.name(scene)?, name)
    }

    /// Whether a body can be taken to a scene: one that is loaded, or that can be.
    pub(crate) fn check_journey(&self, body: ObjectId, scene: &str) -> Result<(), Error> {
        self.moment.objects.get(body).ok_or(Error::NoSuchObject)?;
        let known = self.moment.scenes.find(scene).and_then(|scene| self.moment.scenes.get(scene));
        if known.is_some_and(|scene| scene.loaded || scene.offered) {
            return Ok(());
        }
        Err(Error::UnknownName { kind: "a scene", found: scene.into() })
    }
}
