//! A map as data: for a page that draws it for itself, and asks what has changed.

mod thing;

use rustc_hash::FxHashMap;
use serde::Serialize;
use stoicheon_core::{InspectedObject, ObjectId, SceneId, SpotId, State};

pub use crate::ground::thing::{GroundMark, GroundThing};
use crate::map::{paper::Side, side_of, spot_scene};

/// What is on the ground of a world, as data: everything once, and then what has changed.
///
/// ```
/// use stoicheon_core::{Vec3, World, Zone};
/// use stoicheon_view::{Ground, GroundChange};
/// let mut world = World::<()>::new();
/// let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 10.0)).add()?;
/// world.attach(pad, Zone::boxed(Vec3::new(2.0, 1.0, 2.0)))?;
/// let ada = world.player("ada").add()?;
/// let mut ground = Ground::default();
/// assert_eq!(ground.look_at_all(&world).len(), 2);
///
/// world.walk(ada, Vec3::new(4.0, 0.0, 0.0), 3.0)?;
/// world.step(&mut ())?;
/// let changes = ground.look_at(&world, [ada]);
/// assert!(matches!(changes[..], [GroundChange::At { at: [x, _], .. }] if x > 0.0));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Ground {
    scenes: Vec<GroundScene>,
    things: Vec<Option<GroundThing>>,
    /// Looked up at every tick, and gone through in an order only where that is told of by numbers.
    numbers: FxHashMap<Key, u32>,
    /// The spots that go where an object goes.
    spots: FxHashMap<ObjectId, Vec<SpotId>>,
}

/// A scene, or what is in all of them.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[non_exhaustive]
pub struct GroundScene {
    /// Its name; nothing for what is in every scene.
    pub name: Option<String>,
    /// It is seen from the side: across is x, up is y. Otherwise it is seen from above: across is x, down is z.
    pub flat: bool,
    #[serde(skip)]
    id: Option<SceneId>,
}

/// Something that has changed.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum GroundChange {
    /// A thing is new, or looks otherwise.
    Thing(GroundThing),
    /// A thing is elsewhere, and looks the same.
    At {
        /// Its number.
        number: u32,
        /// Where it is now, across and down, in scene units.
        at: [f32; 2],
    },
    /// A thing is gone.
    Gone {
        /// Its number.
        number: u32,
    },
}

/// What a thing is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
enum Key {
    Object(ObjectId),
    Spot(SpotId),
    /// Where the wires of a scene send bodies.
    Sends(Option<SceneId>),
}

impl Ground {
    /// The scenes so far, in the order in which they were seen first.
    pub fn scenes(&self) -> &[GroundScene] {
        &self.scenes
    }

    /// Everything as it was when it was looked at last.
    pub fn things(&self) -> impl Iterator<Item = &GroundThing> {
        self.things.iter().flatten()
    }

    /// What an object is on the ground.
    pub fn thing_of(&self, object: ObjectId) -> Option<&GroundThing> {
        self.thing(*self.numbers.get(&Key::Object(object))?)
    }

    fn thing(&self, number: u32) -> Option<&GroundThing> {
        self.things.get(number as usize)?.as_ref()
    }

    /// Looks at everything; what has changed since it was looked at last. It costs what exists.
    pub fn look_at_all(&mut self, state: &State) -> Vec<GroundChange> {
        let now: Vec<InspectedObject> =
            state.objects().filter_map(|object| state.inspect_object(object)).collect();
        for scene in [None].into_iter().chain(state.scenes().map(Some)) {
            self.scene(state, scene, &now);
        }
        self.spots.clear();
        let mut changes = Vec::new();
        let mut seen: Vec<Key> = Vec::new();
        for object in &now {
            self.object(state, object, &mut changes);
            seen.push(Key::Object(object.object));
        }
        for id in state.spots() {
            let Ok(spot) = state.spot(id) else { continue };
            if let Some(object) = spot.object {
                self.spots.entry(object).or_default().push(id);
            }
            self.spot(state, id, &mut changes);
            seen.push(Key::Spot(id));
        }
        for scene in 0..self.scenes.len() {
            let id = self.scenes[scene].id;
            let thing = thing::sends(state, self.side(scene), id);
            self.put(Key::Sends(id), thing.map(|thing| GroundThing { scene, ..thing }), &mut changes);
            seen.push(Key::Sends(id));
        }
        seen.sort_unstable();
        let is_gone = |(key, _): &(&Key, &u32)| seen.binary_search(key).is_err();
        let mut gone: Vec<(Key, u32)> =
            self.numbers.iter().filter(is_gone).map(|(key, number)| (*key, *number)).collect();
        gone.sort_unstable_by_key(|(_, number)| *number);
        for (key, _) in gone {
            self.put(key, None, &mut changes);
        }
        changes
    }

    /// Looks at some objects again; what has changed of them. It costs what is looked at.
    pub fn look_at(
        &mut self,
        state: &State,
        objects: impl IntoIterator<Item = ObjectId>,
    ) -> Vec<GroundChange> {
        let mut changes = Vec::new();
        for id in objects {
            if self.has_only_moved(state, id, &mut changes) {
                continue;
            }
            match state.inspect_object(id) {
                Some(object) => self.object(state, &object, &mut changes),
                None => self.put(Key::Object(id), None, &mut changes),
            }
            for spot in self.spots.get(&id).cloned().unwrap_or_default() {
                self.spot(state, spot, &mut changes);
            }
        }
        changes
    }

    /// What is no more than a dot, or stands as it stood, needs no second look: only where it is.
    fn has_only_moved(&mut self, state: &State, id: ObjectId, changes: &mut Vec<GroundChange>) -> bool {
        let Some(number) = self.numbers.get(&Key::Object(id)).copied() else { return false };
        let Some(thing) = self.things.get_mut(number as usize).and_then(Option::as_mut) else { return false };
        let is_bare = thing.marks.is_empty() && thing.player.is_none() && !self.spots.contains_key(&id);
        let (true, Ok(place), true) = (is_bare, state.place(id), state.is_enabled(id) != thing.faint) else {
            return false;
        };
        let side = if self.scenes.get(thing.scene).is_some_and(|scene| scene.flat) {
            Side::Front
        } else {
            Side::Above
        };
        if self.scenes.get(thing.scene).is_none_or(|scene| scene.id != state.scene_of(id)) {
            return false;
        }
        let at = thing::single(side.of(place));
        if at.map(f32::to_bits) != thing.at.map(f32::to_bits) {
            thing.at = at;
            changes.push(GroundChange::At { number, at });
        }
        true
    }

    fn object(&mut self, state: &State, object: &InspectedObject, changes: &mut Vec<GroundChange>) {
        let scene = self.scene(state, object.scene, std::slice::from_ref(object));
        let thing = thing::of_object(state, object, self.side(scene), self.scenes[scene].name.as_deref());
        let thing = thing.map(|thing| GroundThing { scene, ..thing });
        self.put(Key::Object(object.object), thing, changes);
    }

    fn spot(&mut self, state: &State, id: SpotId, changes: &mut Vec<GroundChange>) {
        let spot = state.spot(id).ok().filter(|spot| {
            let has_object = spot.object.is_none_or(|object| state.place(object).is_ok());
            let scene = spot_scene(state, spot);
            has_object && scene.is_none_or(|scene| state.scenes().any(|loaded| loaded == scene))
        });
        let thing = spot.map(|spot| {
            let scene = self.scene(state, spot_scene(state, spot), &[]);
            let thing = thing::of_spot(state, spot, self.side(scene), self.scenes[scene].name.as_deref());
            GroundThing { scene, ..thing }
        });
        self.put(Key::Spot(id), thing, changes);
    }

    fn side(&self, scene: usize) -> Side {
        if self.scenes[scene].flat { Side::Front } else { Side::Above }
    }

    /// The place of a scene among those that were seen. How it is seen is made out once, from what is in it.
    fn scene(&mut self, state: &State, id: Option<SceneId>, now: &[InspectedObject]) -> usize {
        if let Some(known) = self.scenes.iter().position(|scene| scene.id == id) {
            return known;
        }
        let objects: Vec<_> = now.iter().filter(|object| object.scene == id).collect();
        let name = id.and_then(|id| state.scene_name(id)).map(str::to_owned);
        self.scenes.push(GroundScene { name, flat: side_of(&objects).is_flat(), id });
        self.scenes.len() - 1
    }

    fn put(&mut self, key: Key, thing: Option<GroundThing>, changes: &mut Vec<GroundChange>) {
        let Some(mut thing) = thing else {
            if let Some(number) = self.numbers.remove(&key) {
                self.things[number as usize] = None;
                changes.push(GroundChange::Gone { number });
            }
            return;
        };
        let next = u32::try_from(self.things.len()).unwrap_or(u32::MAX);
        let number = *self.numbers.entry(key).or_insert(next);
        thing.number = number;
        if number == next {
            self.things.push(None);
        }
        let known = &mut self.things[number as usize];
        if let Some(known) = known
            && known.at.map(f32::to_bits) != thing.at.map(f32::to_bits)
        {
            let moved = GroundThing { at: thing.at, ..known.clone() };
            if moved == thing {
                known.at = thing.at;
                changes.push(GroundChange::At { number, at: thing.at });
                return;
            }
        }
        if known.as_ref() != Some(&thing) {
            changes.push(GroundChange::Thing(thing.clone()));
            *known = Some(thing);
        }
    }
}
