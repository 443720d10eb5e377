//! Scenes and managers: what comes and goes together, and what stays.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{error::Error, object::ObjectId, wire::Place};

/// A scene: objects and wires that are unloaded together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct SceneId(u32);

/// The scenes, and the managers, which belong to none of them.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Scenes {
    names: IndexMap<SmolStr, bool>,
    /// What is made now belongs to it.
    pub(crate) current: Option<SceneId>,
    /// To be unloaded in this tick's upkeep.
    pub(crate) unloading: Vec<SceneId>,
    roles: IndexMap<SmolStr, (ObjectId, Place)>,
}

impl Scenes {
    /// Begins a scene: what is made from now on belongs to it.
    pub(crate) fn begin(&mut self, name: &str) -> SceneId {
        let (index, _) = self.names.insert_full(name.into(), true);
        let id = SceneId(u32::try_from(index).unwrap_or(u32::MAX));
        self.current = Some(id);
        id
    }

    pub(crate) fn is_loaded(&self, scene: SceneId) -> bool {
        self.names.get_index(scene.0 as usize).is_some_and(|(_, loaded)| *loaded)
    }

    pub(crate) fn unloaded(&mut self, scene: SceneId) {
        if let Some((_, loaded)) = self.names.get_index_mut(scene.0 as usize) {
            *loaded = false;
        }
        self.current = self.current.filter(|current| *current != scene);
    }

    /// Whether the role is still to be had.
    pub(crate) fn check_role(&self, role: &str, place: &Place) -> Result<(), Error> {
        match self.roles.get(role) {
            Some((_, first)) => {
                Err(Error::RoleTaken { role: role.into(), first: first.clone(), second: place.clone() })
            }
            None => Ok(()),
        }
    }

    pub(crate) fn take_role(&mut self, role: SmolStr, object: ObjectId, place: Place) {
        self.roles.insert(role, (object, place));
    }

    pub(crate) fn drop_role(&mut self, object: ObjectId) {
        self.roles.retain(|_, (other, _)| *other != object);
    }

    pub(crate) fn manager(&self, role: &str) -> Result<ObjectId, Error> {
        self.roles.get(role).map(|(object, _)| *object).ok_or_else(|| Error::NoManager {
            role: role.into(),
            known: self.roles.keys().cloned().collect::<Vec<_>>().join(", "),
        })
    }
}
