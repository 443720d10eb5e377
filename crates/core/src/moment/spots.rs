//! Spots: named places to arrive at, with a facing.

use glam::Vec3;
use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::base::{
    error::{BuildError, Error},
    geometry::{Rotation, check_place},
    ids::{ObjectId, SceneId, SpotId},
    names::check_path,
    shared::Shared,
    slots::Slots,
};

/// A place to arrive at.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Spot {
    /// Its name; that of an object's spot is `object.spot`.
    pub name: SmolStr,
    /// Where it is, in scene units.
    pub at: Vec3,
    /// Where one looks who has arrived.
    pub facing: Rotation,
    /// The object it ends with.
    pub object: Option<ObjectId>,
    pub(crate) scene: Option<SceneId>,
}

/// All spots.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Spots {
    pub(crate) all: Slots<SpotId, Spot>,
    by_name: Shared<IndexMap<SmolStr, SpotId>>,
}

impl Spots {
    pub(crate) fn insert(&mut self, spot: Spot) -> Result<SpotId, Error> {
        check_path(&spot.name)?;
        check_place(spot.at)?;
        if self.by_name.contains_key(&spot.name) {
            return Err(Error::Build(BuildError::NameTaken { kind: "a spot", name: spot.name }));
        }
        let name = spot.name.clone();
        let id = self.all.insert(spot);
        self.by_name.edit().insert(name, id);
        Ok(id)
    }

    pub(crate) fn get(&self, id: SpotId) -> Option<&Spot> {
        self.all.get(id)
    }

    pub(crate) fn find(&self, name: &str) -> Option<SpotId> {
        self.by_name.get(name).copied()
    }

    /// The spot of that name in a scene: by its whole name there, or by what comes after the scene's.
    pub(crate) fn find_in(&self, scene: &str, name: &str) -> Option<SpotId> {
        self.find(&smol_str::format_smolstr!("{scene}.{name}")).or_else(|| self.find(name))
    }

    /// The first spot of a scene, in the order they were made.
    pub(crate) fn first_of(&self, scene: SceneId) -> Option<&Spot> {
        let spots = self.by_name.values().filter_map(|id| self.all.get(*id));
        spots.into_iter().find(|spot| spot.scene == Some(scene))
    }

    /// All of them, in the order they were made.
    pub(crate) fn ids(&self) -> impl Iterator<Item = SpotId> {
        self.by_name.values().copied()
    }

    /// A spot is elsewhere from now on.
    pub(crate) fn put(&mut self, id: SpotId, at: Vec3, facing: Rotation) {
        if let Some(spot) = self.all.get_mut(id) {
            (spot.at, spot.facing) = (at, facing);
        }
    }

    pub(crate) fn remove(&mut self, id: SpotId) -> Option<Spot> {
        let spot = self.all.remove(id)?;
        self.by_name.edit().shift_remove(&spot.name);
        Some(spot)
    }
}
