//! Spots: named places to arrive at, with a facing.

use std::sync::Arc;

use glam::Vec3;
use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use slotmap::new_key_type;
use smol_str::SmolStr;

use crate::{
    error::Error, geometry::Rotation, object::ObjectId, scene::SceneId, signal::check_path, slots::Slots,
    whereabouts::check_place,
};

new_key_type! {
    /// A place to arrive at.
    pub struct SpotId;
}

/// A place to arrive at.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
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
    all: Slots<SpotId, Spot>,
    by_name: Arc<IndexMap<SmolStr, SpotId>>,
}

impl Spots {
    pub(crate) fn insert(&mut self, spot: Spot) -> Result<SpotId, Error> {
        check_path(&spot.name)?;
        check_place(spot.at)?;
        if self.by_name.contains_key(&spot.name) {
            return Err(Error::NameTaken { kind: "a spot", name: spot.name });
        }
        let name = spot.name.clone();
        let id = self.all.insert(spot);
        Arc::make_mut(&mut self.by_name).insert(name, id);
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

    /// Ends the spots that are meant.
    pub(crate) fn remove_where(&mut self, meant: impl Fn(&Spot) -> bool) {
        let ids: Vec<_> = self.all.iter().filter(|(_, spot)| meant(spot)).map(|(id, _)| id).collect();
        for id in ids {
            if let Some(spot) = self.all.remove(id) {
                Arc::make_mut(&mut self.by_name).swap_remove(&spot.name);
            }
        }
    }
}
