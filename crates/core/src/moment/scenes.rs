//! Scenes and managers: what comes and goes together, and what stays.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::Tick,
        error::{BuildError, Error},
        ids::{ObjectId, SceneId},
        place::Place,
        shared::Shared,
    },
    moment::run::Run,
};

/// What becomes of a scene while no player is in it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum WhenEmpty {
    /// It is unloaded, and made again when somebody comes; what is to be remembered is.
    #[default]
    Unloaded,
    /// It stands still as it is, until somebody comes.
    Frozen,
    /// It goes on.
    Running,
}

impl WhenEmpty {
    /// All of them, in the order a page lists them.
    pub const ALL: [Self; 3] = [Self::Unloaded, Self::Frozen, Self::Running];

    /// The word a project's file uses for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Unloaded => "unloaded",
            Self::Frozen => "frozen",
            Self::Running => "running",
        }
    }
}

/// Things a scene has a list of that is never shortened. A scene that is loaded again puts its own in the same places.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct ListPlaces {
    own: Vec<u32>,
    next: usize,
}

impl ListPlaces {
    /// Puts something into a list: where the same thing of the scene's last life was, or at the end.
    pub(crate) fn put<T>(places: Option<&mut Self>, list: &mut Vec<T>, thing: T) -> u32 {
        let number = |index: usize| u32::try_from(index).unwrap_or(u32::MAX);
        let Some(places) = places else {
            list.push(thing);
            return number(list.len() - 1);
        };
        places.next += 1;
        let known = places.own.get(places.next - 1).copied();
        if let Some((index, place)) = known.and_then(|index| Some((index, list.get_mut(index as usize)?))) {
            *place = thing;
            return index;
        }
        list.push(thing);
        places.own.push(number(list.len() - 1));
        number(list.len() - 1)
    }
}

/// What is known of one scene.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct SceneInfo {
    pub(crate) loaded: bool,
    /// Its making is known, so that it can be loaded when somebody goes there.
    pub(crate) offered: bool,
    pub(crate) when_empty: WhenEmpty,
    /// Since when no player has been in it, if one ever was.
    pub(crate) empty_since: Option<Tick>,
    pub(crate) visited: bool,
    /// Since when it is frozen; or, while it is not loaded, since when something from elsewhere sleeps in it.
    pub(crate) frozen: Option<Tick>,
    /// What of it waits meanwhile, and when each would have gone on.
    pub(crate) asleep: Vec<(Tick, Run)>,
    pub(crate) routines: ListPlaces,
    pub(crate) binds: ListPlaces,
    pub(crate) rules: ListPlaces,
}

/// The scenes, and the managers, which belong to none of them.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Scenes {
    all: Shared<IndexMap<SmolStr, SceneInfo>>,
    /// What is made now belongs to it.
    pub(crate) current: Option<SceneId>,
    /// To be unloaded in this tick's upkeep.
    pub(crate) unloading: Vec<SceneId>,
    /// How many are frozen.
    pub(crate) frozen: u32,
    /// Loaded since the last upkeep; each is told that it has started when its objects have been.
    pub(crate) fresh: Vec<SceneId>,
    /// A scene is being made.
    #[serde(skip)]
    pub(crate) loading: bool,
    /// How often scenes were loaded or unloaded: ids of what they consist of change then.
    pub(crate) changes: u64,
    roles: Shared<IndexMap<SmolStr, (ObjectId, Place)>>,
}

impl Scenes {
    /// The scene of that name, which is known from now on.
    pub(crate) fn know(&mut self, name: &str) -> SceneId {
        let index = match self.all.get_index_of(name) {
            Some(index) => index,
            None => self.all.edit().insert_full(name.into(), SceneInfo::default()).0,
        };
        SceneId(u32::try_from(index).unwrap_or(u32::MAX))
    }

    /// Begins a scene: what is made from now on belongs to it.
    pub(crate) fn begin(&mut self, name: &str) -> SceneId {
        let id = self.know(name);
        if let Some(scene) = self.get_mut(id).filter(|scene| !scene.loaded) {
            scene.loaded = true;
            for places in [&mut scene.routines, &mut scene.binds, &mut scene.rules] {
                places.next = 0;
            }
            if !scene.offered {
                scene.when_empty = WhenEmpty::Running;
            }
            self.fresh.push(id);
            self.changes += 1;
        }
        self.current = Some(id);
        id
    }

    pub(crate) fn get(&self, scene: SceneId) -> Option<&SceneInfo> {
        self.all.get_index(scene.0 as usize).map(|(_, scene)| scene)
    }

    pub(crate) fn get_mut(&mut self, scene: SceneId) -> Option<&mut SceneInfo> {
        self.all.edit().get_index_mut(scene.0 as usize).map(|(_, scene)| scene)
    }

    /// What the scene under way has, for what is put into a list of that kind.
    pub(crate) fn current_mut(&mut self) -> Option<&mut SceneInfo> {
        self.get_mut(self.current?)
    }

    pub(crate) fn find(&self, name: &str) -> Option<SceneId> {
        let index = self.all.get_index_of(name)?;
        u32::try_from(index).ok().map(SceneId)
    }

    pub(crate) fn name(&self, scene: SceneId) -> Option<&SmolStr> {
        self.all.get_index(scene.0 as usize).map(|(name, _)| name)
    }

    /// Whether no scene is known.
    pub(crate) fn is_empty(&self) -> bool {
        self.all.is_empty()
    }

    /// All scenes that are known, in the order they became so.
    pub(crate) fn ids(&self) -> impl Iterator<Item = SceneId> + use<> {
        (0..u32::try_from(self.all.len()).unwrap_or(u32::MAX)).map(SceneId)
    }

    pub(crate) fn is_loaded(&self, scene: SceneId) -> bool {
        self.get(scene).is_some_and(|scene| scene.loaded)
    }

    /// Whether nothing of a scene moves, hears or waits on: it stands still, or it is not loaded and only what was
    /// brought there from elsewhere is left of it.
    pub(crate) fn is_frozen(&self, scene: Option<SceneId>) -> bool {
        self.frozen > 0 && scene.and_then(|scene| self.get(scene)).is_some_and(|scene| scene.frozen.is_some())
    }

    pub(crate) fn unloaded(&mut self, id: SceneId) {
        let Some(scene) = self.get_mut(id) else { return };
        let was_frozen = scene.frozen.take().is_some();
        scene.loaded = false;
        scene.visited = false;
        scene.empty_since = None;
        scene.asleep.clear();
        self.frozen -= u32::from(was_frozen);
        self.changes += 1;
        self.fresh.retain(|fresh| *fresh != id);
        self.current = self.current.filter(|current| *current != id);
    }

    /// Whether a scene is there to be seen and touched; what belongs to none always is.
    pub(crate) fn stands(&self, scene: Option<SceneId>) -> bool {
        scene.is_none_or(|scene| self.is_loaded(scene))
    }

    /// Which room of the tracker a scene has.
    pub(crate) fn room(scene: Option<SceneId>) -> u32 {
        scene.map_or(0, |scene| scene.0 + 1)
    }

    /// Whether the role is still to be had.
    pub(crate) fn check_role(&self, role: &str, place: &Place) -> Result<(), Error> {
        match self.roles.get(role) {
            Some((_, first)) => Err(Error::Build(BuildError::RoleTaken {
                role: role.into(),
                first: first.clone(),
                second: place.clone(),
            })),
            None => Ok(()),
        }
    }

    pub(crate) fn take_role(&mut self, role: SmolStr, object: ObjectId, place: Place) {
        self.roles.edit().insert(role, (object, place));
    }

    pub(crate) fn drop_role(&mut self, object: ObjectId) {
        if self.roles.values().any(|(other, _)| *other == object) {
            self.roles.edit().retain(|_, (other, _)| *other != object);
        }
    }

    pub(crate) fn manager(&self, role: &str) -> Result<ObjectId, Error> {
        self.roles.get(role).map(|(object, _)| *object).ok_or_else(|| Error::NoManager {
            role: role.into(),
            known: self.roles.keys().cloned().collect::<Vec<_>>().join(", "),
        })
    }

    /// What is known of every scene refers to scenes there are. Data from outside may be damaged.
    pub(crate) fn is_sound(&self) -> bool {
        let known = |scene: &SceneId| (scene.0 as usize) < self.all.len();
        let frozen = self.all.values().filter(|scene| scene.frozen.is_some()).count();
        self.unloading.iter().chain(&self.fresh).chain(&self.current).all(known)
            && frozen == self.frozen as usize
            && self.all.values().all(|scene| scene.asleep.iter().all(|(_, run)| run.is_sound()))
    }
}
