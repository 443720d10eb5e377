//! Objects: things in a scene, with a name, tags and a place.

use std::{
    collections::{BTreeSet, HashMap},
    sync::Arc,
};

use glam::Vec3;
use indexmap::IndexSet;
use serde::{Deserialize, Serialize};
use slotmap::new_key_type;
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    geometry::{Pose, Rotation},
    part::PartId,
    scene::SceneId,
    signal::SignalId,
    slots::Slots,
    space::{BodyKey, Shape},
    trace::RecordId,
    var::VarId,
    wire::WireId,
};

new_key_type! {
    /// An object. Never used again for another one after the object is destroyed.
    pub struct ObjectId;
}

/// A tag, as a number of its world: from [`World::tag_named`](crate::World::tag_named).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Tag(pub(crate) u32);

/// The name of a variable that objects have, as a number of its world: from
/// [`World::property_named`](crate::World::property_named).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct PropertyName(pub(crate) u32);

/// A few tags.
pub(crate) type Tags = SmallVec<[Tag; 4]>;

/// The tag every player's body has.
pub const PLAYER: &str = "player";

impl Body {
    /// Whether the motion phase moves it.
    pub(crate) fn moves(&self) -> bool {
        self.course.is_some() || self.velocity != Vec3::ZERO
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

/// What makes an object able to touch zones.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Body {
    pub(crate) key: BodyKey,
    /// `None` for a point.
    pub(crate) shape: Option<Shape>,
    pub(crate) course: Option<Course>,
    /// Scene units per second; the motion phase moves it by that.
    pub(crate) velocity: Vec3,
    /// What became of its velocity came from that.
    pub(crate) pushed_by: Option<RecordId>,
    /// The host has handed in where it is since the last tick.
    pub(crate) handed_in: bool,
}

#[expect(clippy::struct_excessive_bools, reason = "five facts that have nothing to do with each other")]
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
    /// Its variables.
    pub(crate) properties: SmallVec<[(PropertyName, VarId); 2]>,
}

impl Object {
    pub(crate) fn has_any(&self, tags: &[Tag]) -> bool {
        tags.iter().any(|tag| self.tags.contains(tag))
    }

    pub(crate) fn pose(&self) -> Pose {
        Pose { at: self.at, facing: self.facing }
    }

    pub(crate) fn property(&self, name: PropertyName) -> Option<VarId> {
        self.properties.iter().find(|(other, _)| *other == name).map(|(_, var)| *var)
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
    /// The objects that have each tag, by number; the destroyed ones are left out.
    tagged: Vec<BTreeSet<(u32, ObjectId)>>,
    property_names: IndexSet<SmolStr>,
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

    /// The number the next object gets.
    pub(crate) fn next_number(&self) -> u32 {
        self.last_number + 1
    }

    pub(crate) fn ids(&self) -> &[ObjectId] {
        &self.order
    }

    pub(crate) fn insert(&mut self, make: impl FnOnce(u32) -> Object) -> ObjectId {
        self.last_number += 1;
        let object = make(self.last_number);
        let (name, number, tags) = (object.name.clone(), object.number, object.tags.clone());
        let id = self.all.insert(object);
        Arc::make_mut(&mut self.by_name).insert(name, id);
        self.order.push(id);
        for tag in tags {
            self.tagged[tag.0 as usize].insert((number, id));
        }
        id
    }

    /// Takes the name away at once; the rest stays until [`Self::free`].
    pub(crate) fn doom(&mut self, id: ObjectId) {
        if let Some(object) = self.all.get_mut(id) {
            object.doomed = true;
            Arc::make_mut(&mut self.by_name).remove(&object.name);
            for tag in &object.tags {
                self.tagged[tag.0 as usize].remove(&(object.number, id));
            }
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
        self.tagged.resize_with(self.tags.len(), BTreeSet::new);
        Tag(u32::try_from(index).unwrap_or(u32::MAX))
    }

    /// Gives a tag or takes it away; false if nothing changes by it.
    pub(crate) fn set_tag(&mut self, id: ObjectId, tag: Tag, on: bool) -> bool {
        let Some(object) = self.all.get_mut(id).filter(|object| object.tags.contains(&tag) != on) else {
            return false;
        };
        if on {
            object.tags.push(tag);
            self.tagged[tag.0 as usize].insert((object.number, id));
        } else {
            object.tags.retain(|other| *other != tag);
            self.tagged[tag.0 as usize].remove(&(object.number, id));
        }
        true
    }

    /// The objects with a tag, by number.
    pub(crate) fn tagged(&self, tag: Tag) -> impl Iterator<Item = ObjectId> {
        self.tagged.get(tag.0 as usize).into_iter().flatten().map(|(_, id)| *id)
    }

    pub(crate) fn property_name(&mut self, word: &str) -> PropertyName {
        let (index, _) = self.property_names.insert_full(word.into());
        PropertyName(u32::try_from(index).unwrap_or(u32::MAX))
    }

    pub(crate) fn find_property_name(&self, word: &str) -> Option<PropertyName> {
        let index = self.property_names.get_index_of(word)?;
        u32::try_from(index).ok().map(PropertyName)
    }

    pub(crate) fn property_word(&self, name: PropertyName) -> &str {
        self.property_names.get_index(name.0 as usize).map_or("?", SmolStr::as_str)
    }

    /// Whether every tag of every object has its list. Data from outside may be damaged.
    pub(crate) fn is_sound(&self) -> bool {
        let known = |tag: &Tag| (tag.0 as usize) < self.tagged.len();
        let placed = |object: &Object| object.at.is_finite() && object.facing.is_sound();
        self.hangs_soundly()
            && self.tagged.len() == self.tags.len()
            && self.all.values().all(|object| object.tags.iter().all(known) && placed(object))
    }

    /// Whether nothing hangs on itself, and whatever holds something knows of it.
    fn hangs_soundly(&self) -> bool {
        let mut known = BTreeSet::new();
        self.all.iter().all(|(id, object)| {
            let holds = |child: &ObjectId| self.all.get(*child).is_some_and(|child| child.parent == Some(id));
            let mut way = BTreeSet::new();
            let mut at = Some(id);
            while let Some(next) = at.filter(|next| !known.contains(next)) {
                let Some(object) = self.all.get(next).filter(|_| way.insert(next)) else { return false };
                at = object.parent;
            }
            known.append(&mut way);
            let parent = object.parent.map(|parent| self.all.get(parent));
            object.children.iter().all(holds)
                && parent.is_none_or(|parent| parent.is_some_and(|parent| parent.children.contains(&id)))
        })
    }

    pub(crate) fn find_tag(&self, word: &str) -> Option<Tag> {
        self.tags.get_index_of(word).and_then(|index| u32::try_from(index).ok()).map(Tag)
    }

    pub(crate) fn tag_word(&self, tag: Tag) -> &str {
        self.tags.get_index(tag.0 as usize).map_or("?", SmolStr::as_str)
    }
}
