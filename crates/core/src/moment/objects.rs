//! Objects: things in a scene, with a name, tags and a place.

use std::collections::BTreeSet;

use indexmap::{IndexMap, IndexSet};
use serde::{Deserialize, Serialize};
use slotmap::SecondaryMap;
use smol_str::SmolStr;

use crate::{
    base::{
        ids::{ObjectId, PropertyName, SceneId, Tag, Tags},
        name_index::NameIndex,
        names::{PLAYER, scoped},
        shared::Shared,
        slots::Slots,
    },
    moment::object::{Body, LastSeen, Object, Person},
};

/// Objects by number.
type Numbered = BTreeSet<(u32, ObjectId)>;

/// All objects.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Objects {
    all: Slots<ObjectId, Object>,
    #[serde(skip)]
    by_name: NameIndex<ObjectId>,
    /// By number, which is the order of making.
    order: Shared<Vec<ObjectId>>,
    tags: Shared<IndexSet<SmolStr>>,
    /// The objects that have each tag, by number; the destroyed ones are left out.
    tagged: Shared<Vec<Shared<Numbered>>>,
    property_names: Shared<IndexSet<SmolStr>>,
    last_number: u32,
    /// The tag of players, once there is one.
    #[serde(skip)]
    player_tag: Option<Tag>,
    /// Those that are bodies, close together: hosts speak of thousands in every tick.
    #[serde(skip)]
    bodies: Shared<SecondaryMap<ObjectId, ()>>,
    /// Everybody who ever played, by name: the place in this list is a player's number, less one.
    pub(crate) people: Shared<IndexMap<SmolStr, Person>>,
}

impl Objects {
    /// The object, unless it is destroyed.
    pub(crate) fn get(&self, id: ObjectId) -> Option<&Object> {
        self.all.get(id).filter(|object| !object.doomed)
    }

    pub(crate) fn get_mut(&mut self, id: ObjectId) -> Option<&mut Object> {
        self.all.get_mut(id).filter(|object| !object.doomed)
    }

    /// Whether an object is there and is a body.
    #[inline]
    pub(crate) fn is_body(&self, id: ObjectId) -> bool {
        self.bodies.contains_key(id)
    }

    /// An object becomes a body.
    pub(crate) fn set_body(&mut self, id: ObjectId, body: Body) {
        if let Some(object) = self.all.get_mut(id) {
            object.body = Some(body);
            self.bodies.edit().insert(id, ());
        }
    }

    /// The object even if it was destroyed in this tick.
    pub(crate) fn get_even_doomed(&self, id: ObjectId) -> Option<&Object> {
        self.all.get(id)
    }

    pub(crate) fn find(&self, name: &str) -> Option<ObjectId> {
        self.by_name.find(name, |id| self.all.get(id).map(|object| object.name.as_str()))
    }

    /// All objects by number, the destroyed ones left out.
    pub(crate) fn iter(&self) -> impl Iterator<Item = (ObjectId, &Object)> {
        self.order.iter().filter_map(|id| self.get(*id).map(|object| (*id, object)))
    }

    /// The number the next object gets.
    pub(crate) fn next_number(&self) -> u32 {
        self.last_number + 1
    }

    /// How many there are, those of this tick that are not freed yet among them.
    pub(crate) fn len(&self) -> usize {
        self.order.len()
    }

    pub(crate) fn ids(&self) -> &[ObjectId] {
        &self.order
    }

    /// Puts an object in its place. A player who was here before gets the same id and number.
    pub(crate) fn insert(&mut self, plays: bool, make: impl FnOnce(u32) -> Object) -> ObjectId {
        let next = self.last_number + 1;
        let mut object = make(next);
        let name = object.name.clone();
        let before = self.people.get(&name).filter(|_| plays).map(|person| person.id);
        let hollow = before.and_then(|id| Some((id, self.all.get_mut(id).filter(|object| object.away)?)));
        let id = if let Some((id, hollow)) = hollow {
            object.number = hollow.number;
            *hollow = object;
            id
        } else {
            self.last_number = next;
            self.all.insert(object)
        };
        if plays {
            self.people.edit().entry(name.clone()).or_insert(Person { id, last: None }).id = id;
        }
        let Some(object) = self.all.get(id) else { return id };
        let (number, tags) = (object.number, object.tags.clone());
        let Self { by_name, all, .. } = self;
        by_name.insert(&name, id, |id| all.get(id).map(|object| object.name.as_str()));
        let at = match self.order.last().and_then(|last| self.all.get(*last)) {
            Some(last) if last.number > number => self
                .order
                .partition_point(|other| self.all.get(*other).is_some_and(|other| other.number < number)),
            _ => self.order.len(),
        };
        self.order.edit().insert(at, id);
        for tag in tags {
            self.tagged.edit()[tag.0 as usize].edit().insert((number, id));
        }
        id
    }

    /// Takes the name away at once; the rest stays until [`Self::free`].
    pub(crate) fn doom(&mut self, id: ObjectId) {
        if let Some(object) = self.all.get_mut(id) {
            object.doomed = true;
            if object.body.is_some() {
                self.bodies.edit().remove(id);
            }
            self.by_name.remove(&object.name, id);
            for tag in &object.tags {
                self.tagged.edit()[tag.0 as usize].edit().remove(&(object.number, id));
            }
        }
    }

    /// Frees an object. Of a player there stays what is needed to come back as the same.
    pub(crate) fn free(&mut self, id: ObjectId) -> Option<Object> {
        let object = self.all.get(id)?;
        let plays = self.people.get(&object.name).is_some_and(|person| person.id == id);
        if !plays {
            return self.all.remove(id);
        }
        let tags = self.plain_words(&object.tags);
        let last = LastSeen { scene: object.scene, pose: object.pose(), tags };
        let hollow = Object::hollow(object);
        let object = std::mem::replace(self.all.get_mut(id)?, hollow);
        if let Some(person) = self.people.edit().get_mut(&object.name) {
            person.last = Some(last);
        }
        Some(object)
    }

    /// The words of tags, but for those of a scene, which have a space in them.
    pub(crate) fn plain_words(&self, tags: &Tags) -> Vec<SmolStr> {
        let words = tags.iter().map(|tag| SmolStr::new(self.tag_word(*tag)));
        words.filter(|word| !word.contains(' ')).collect()
    }

    /// A player is known who is away: they get the next number, unless they have one.
    pub(crate) fn know_person(&mut self, name: &SmolStr, last: LastSeen) {
        if let Some(person) = self.people.edit().get_mut(name) {
            person.last = Some(last);
            return;
        }
        self.last_number += 1;
        let id = self.all.insert(Object::nobody(name.clone(), self.last_number));
        self.people.edit().insert(name.clone(), Person { id, last: Some(last) });
    }

    /// The number of a player: from 1, in the order in which players came for the first time.
    pub(crate) fn player_number(&self, id: ObjectId) -> Option<u32> {
        let (index, ..) = self.people.get_full(&self.all.get(id)?.name)?;
        u32::try_from(index + 1).ok()
    }

    /// Leaves those that were freed out of the order.
    pub(crate) fn close_ranks(&mut self) {
        let Self { order, all, .. } = self;
        order.edit().retain(|id| all.get(*id).is_some_and(|object| !object.away));
    }

    /// Finds the names again, if the objects were read from data without them.
    pub(crate) fn index_names_if_missing(&mut self) {
        self.player_tag = self.find_tag(PLAYER);
        let bodies = self.all.iter().filter(|(_, object)| !object.doomed && object.body.is_some());
        self.bodies = Shared::from(bodies.map(|(id, _)| (id, ())).collect::<SecondaryMap<_, _>>());
        if !self.by_name.is_empty() || self.all.is_empty() {
            return;
        }
        let named = self.all.iter().filter(|(_, object)| !object.doomed);
        let name_of = |id| self.all.get(id).map(|object| object.name.as_str());
        named.for_each(|(id, object)| self.by_name.insert(&object.name, id, name_of));
    }

    pub(crate) fn tag(&mut self, word: &str) -> Tag {
        if let Some(tag) = self.find_tag(word) {
            return tag;
        }
        let (index, _) = self.tags.edit().insert_full(word.into());
        let tags = self.tags.len();
        self.tagged.edit().resize_with(tags, Shared::default);
        let tag = Tag(u32::try_from(index).unwrap_or(u32::MAX));
        if word == PLAYER {
            self.player_tag = Some(tag);
        }
        tag
    }

    /// The tag of that word among those that are in a scene.
    pub(crate) fn tag_in(&mut self, word: &str, scene: &str) -> Tag {
        self.tag(&scoped(word, scene))
    }

    /// An object goes from one scene to another: it is one of those tagged there.
    pub(crate) fn change_scene(
        &mut self,
        id: ObjectId,
        to: Option<SceneId>,
        [before, after]: [Option<&SmolStr>; 2],
    ) {
        let Some(object) = self.all.get_mut(id) else { return };
        object.scene = to;
        let plain: Vec<Tag> = object.tags.to_vec();
        for tag in plain {
            let word = SmolStr::new(self.tag_word(tag));
            if word.contains(' ') {
                if before.is_some_and(|scene| word.ends_with(&scoped("", scene))) {
                    self.set_tag(id, tag, false);
                }
            } else if let Some(scene) = after {
                let tag = self.tag_in(&word, scene);
                self.set_tag(id, tag, true);
            }
        }
    }

    /// Gives a tag or takes it away; false if nothing changes by it.
    pub(crate) fn set_tag(&mut self, id: ObjectId, tag: Tag, on: bool) -> bool {
        let Some(object) = self.all.get_mut(id).filter(|object| object.tags.contains(&tag) != on) else {
            return false;
        };
        if on {
            object.tags.push(tag);
            self.tagged.edit()[tag.0 as usize].edit().insert((object.number, id));
        } else {
            object.tags.retain(|other| *other != tag);
            self.tagged.edit()[tag.0 as usize].edit().remove(&(object.number, id));
        }
        true
    }

    /// The tag of players, once there is one.
    pub(crate) fn player_tag(&self) -> Option<Tag> {
        self.player_tag
    }

    /// The objects with a tag, by number.
    pub(crate) fn tagged(&self, tag: Tag) -> impl Iterator<Item = ObjectId> {
        self.tagged.get(tag.0 as usize).into_iter().flat_map(|tagged| tagged.iter()).map(|(_, id)| *id)
    }

    pub(crate) fn property_name(&mut self, word: &str) -> PropertyName {
        if let Some(known) = self.find_property_name(word) {
            return known;
        }
        let (index, _) = self.property_names.edit().insert_full(word.into());
        PropertyName(u32::try_from(index).unwrap_or(u32::MAX))
    }

    pub(crate) fn find_property_name(&self, word: &str) -> Option<PropertyName> {
        let index = self.property_names.get_index_of(word)?;
        u32::try_from(index).ok().map(PropertyName)
    }

    pub(crate) fn property_word(&self, name: PropertyName) -> &str {
        self.property_names.get_index(name.0 as usize).map_or("?", SmolStr::as_str)
    }

    /// Whether what is known of players is of players there are.
    fn people_are_sound(&self) -> bool {
        self.people.iter().all(|(name, person)| self.all.get(person.id).is_some_and(|one| one.name == *name))
    }

    /// Whether every tag of every object has its list. Data from outside may be damaged.
    pub(crate) fn is_sound(&self) -> bool {
        let known = |tag: &Tag| (tag.0 as usize) < self.tagged.len();
        let placed = |object: &Object| object.at.is_finite() && object.facing.is_sound();
        // Also one from a build whose bodies have more shapes.
        let shaped = |object: &Object| {
            let shape = object.body.as_ref().and_then(|body| body.facts.shape.as_ref());
            shape.is_none_or(|shape| shape.check_body().is_ok())
        };
        self.hangs_soundly()
            && self.people_are_sound()
            && self.tagged.len() == self.tags.len()
            && self
                .all
                .values()
                .all(|object| object.tags.iter().all(known) && placed(object) && shaped(object))
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
            known.extend(way);
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
