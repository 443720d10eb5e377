//! Objects: things in a scene, with a name, tags and a place.

use std::{collections::HashMap, sync::Arc};

use glam::Vec3;
use indexmap::IndexSet;
use serde::{Deserialize, Serialize};
use slotmap::new_key_type;
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{part::PartId, scene::SceneId, signal::SignalId, slots::Slots, trace::RecordId, wire::WireId};

new_key_type! {
    /// An object. Never used again for another one after the object is destroyed.
    pub struct ObjectId;
}

/// A tag, as a number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub(crate) struct Tag(pub(crate) u32);

/// A few tags.
pub(crate) type Tags = SmallVec<[Tag; 4]>;

/// The tag every player's body has.
pub const PLAYER: &str = "player";

/// A straight walk at an even pace.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub(crate) struct Course {
    pub(crate) to: Vec3,
    /// Scene units per tick.
    pub(crate) step: f32,
    /// The record of setting out.
    pub(crate) cause: Option<RecordId>,
}

/// What makes an object able to touch zones.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Body {
    /// Where the last touch phase saw it.
    pub(crate) before: Vec3,
    /// It was put where it is and did not pass through what lies between.
    pub(crate) placed: bool,
    /// Its zones must be looked at even if it stands still: it is new, or its tags or its state changed.
    pub(crate) fresh: bool,
    pub(crate) course: Option<Course>,
    /// The record of what moved it last.
    pub(crate) cause: Option<RecordId>,
}

#[expect(clippy::struct_excessive_bools, reason = "four facts that have nothing to do with each other")]
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Object {
    /// Counts up from 1 in the order objects are made; never used again.
    pub(crate) number: u32,
    pub(crate) name: SmolStr,
    pub(crate) tags: Tags,
    pub(crate) at: Vec3,
    pub(crate) enabled: bool,
    /// Destroyed in this tick; freed in its upkeep.
    pub(crate) doomed: bool,
    /// Made while the world was running; takes part from the next upkeep on.
    pub(crate) fresh: bool,
    /// It fills a role, and stays when scenes are unloaded.
    pub(crate) manages: bool,
    /// The scene it ends with, if it belongs to one.
    pub(crate) scene: Option<SceneId>,
    pub(crate) body: Option<Body>,
    pub(crate) parts: SmallVec<[PartId; 2]>,
    /// The signals it gives, its parts' among them.
    pub(crate) signals: SmallVec<[SignalId; 4]>,
    /// The wires that sleep and end with it.
    pub(crate) wires: SmallVec<[WireId; 4]>,
}

impl Object {
    pub(crate) fn has_any(&self, tags: &[Tag]) -> bool {
        tags.iter().any(|tag| self.tags.contains(tag))
    }
}

/// All objects.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Objects {
    all: Slots<ObjectId, Object>,
    /// Shared with snapshots until it changes.
    #[serde(skip)]
    by_name: Arc<HashMap<SmolStr, ObjectId>>,
    /// By number, which is the order of making.
    order: Vec<ObjectId>,
    tags: IndexSet<SmolStr>,
    last_number: u32,
}

impl Objects {
    /// The object, unless it is destroyed.
    pub(crate) fn get(&self, id: ObjectId) -> Option<&Object> {
        self.all.get(id).filter(|object| !object.doomed)
    }

    pub(crate) fn get_mut(&mut self, id: ObjectId) -> Option<&mut Object> {
        self.all.get_mut(id).filter(|object| !object.doomed)
    }

    /// The object even if it was destroyed in this tick.
    pub(crate) fn get_even_doomed(&self, id: ObjectId) -> Option<&Object> {
        self.all.get(id)
    }

    pub(crate) fn find(&self, name: &str) -> Option<ObjectId> {
        self.by_name.get(name).copied()
    }

    /// All objects by number, the destroyed ones left out.
    pub(crate) fn iter(&self) -> impl Iterator<Item = (ObjectId, &Object)> {
        self.order.iter().filter_map(|id| self.get(*id).map(|object| (*id, object)))
    }

    pub(crate) fn ids(&self) -> &[ObjectId] {
        &self.order
    }

    pub(crate) fn insert(&mut self, make: impl FnOnce(u32) -> Object) -> ObjectId {
        self.last_number += 1;
        let object = make(self.last_number);
        let name = object.name.clone();
        let id = self.all.insert(object);
        Arc::make_mut(&mut self.by_name).insert(name, id);
        self.order.push(id);
        id
    }

    /// Takes the name away at once; the rest stays until [`Self::free`].
    pub(crate) fn doom(&mut self, id: ObjectId) {
        if let Some(object) = self.all.get_mut(id) {
            object.doomed = true;
            Arc::make_mut(&mut self.by_name).remove(&object.name);
        }
    }

    pub(crate) fn free(&mut self, id: ObjectId) -> Option<Object> {
        self.all.remove(id)
    }

    /// Leaves those that were freed out of the order.
    pub(crate) fn close_ranks(&mut self) {
        self.order.retain(|id| self.all.contains_key(*id));
    }

    /// Finds the names again, if the objects were read from data without them.
    pub(crate) fn index_names_if_missing(&mut self) {
        if !self.by_name.is_empty() || self.all.is_empty() {
            return;
        }
        let named = self.all.iter().filter(|(_, object)| !object.doomed);
        let named = named.map(|(id, object)| (object.name.clone(), id));
        self.by_name = Arc::new(named.collect());
    }

    pub(crate) fn tag(&mut self, word: &str) -> Tag {
        let (index, _) = self.tags.insert_full(word.into());
        Tag(u32::try_from(index).unwrap_or(u32::MAX))
    }

    pub(crate) fn tag_word(&self, tag: Tag) -> &str {
        self.tags.get_index(tag.0 as usize).map_or("?", SmolStr::as_str)
    }
}
