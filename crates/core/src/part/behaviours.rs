//! The parts themselves: shared with snapshots until they are called, and as data.

use std::{borrow::Cow, sync::Arc};

use indexmap::IndexSet;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use smol_str::SmolStr;

use crate::{
    base::{chunks::Chunks, ids::PartId, slots::place_of, value::Value},
    part::contract::Part,
};

/// What the parts say of themselves, as data.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct SavedParts {
    pub(crate) kinds: Vec<SmolStr>,
    /// Each part with the number of its kind and of the first of its values.
    pub(crate) parts: Vec<(PartId, u32, u32)>,
    values: Vec<Value>,
}

/// Where a part is.
#[derive(Clone, Debug)]
enum Held {
    /// Here, and shared with snapshots until it is called.
    Still(Arc<dyn Part>),
    /// Among those that move, at that place.
    Moving(usize),
    /// Being called.
    Out,
}

/// A part that was taken out of its place to be called.
pub(crate) enum Taken {
    Still(Arc<dyn Part>),
    Moving(Box<dyn Part>),
}

impl Taken {
    /// The part, to be called; what a snapshot shares with it is copied first.
    pub(crate) fn part(&mut self) -> &mut dyn Part {
        match self {
            Self::Still(part) => dyn_clone::arc_make_mut(part),
            Self::Moving(part) => &mut **part,
        }
    }
}

/// The behaviours of all parts.
#[derive(Clone, Debug, Default)]
pub(crate) struct Behaviours {
    /// By the places of their ids.
    all: Chunks<Option<(PartId, Held)>>,
    /// Those that move, in no order. They change in every tick, so a snapshot has copies. `None` for one that is being
    /// called.
    moving: Vec<(PartId, Option<Box<dyn Part>>)>,
}

impl Behaviours {
    fn held(&self, id: PartId) -> Option<&Held> {
        let (_, held) = self.all.get(place_of(id))?.as_ref().filter(|(held, _)| *held == id)?;
        Some(held)
    }

    fn held_mut(&mut self, id: PartId) -> Option<&mut Held> {
        let (_, held) = self.all.get_mut(place_of(id))?.as_mut().filter(|(held, _)| *held == id)?;
        Some(held)
    }

    fn moving_mut(&mut self, id: PartId) -> Option<&mut Option<Box<dyn Part>>> {
        let Some(Held::Moving(at)) = self.held(id) else { return None };
        let at = *at;
        self.moving.get_mut(at).map(|(_, part)| part)
    }

    pub(crate) fn get(&self, id: PartId) -> Option<&dyn Part> {
        match self.held(id)? {
            Held::Still(part) => Some(&**part),
            Held::Moving(at) => self.moving.get(*at)?.1.as_deref(),
            Held::Out => None,
        }
    }

    /// Lets something be done to a part that is in its place.
    pub(crate) fn change<R>(&mut self, id: PartId, change: impl FnOnce(&mut dyn Part) -> R) -> Option<R> {
        let mut taken = self.take(id)?;
        let changed = change(taken.part());
        self.put_back(id, taken);
        Some(changed)
    }

    /// Takes a part out of its place to be called.
    pub(crate) fn take(&mut self, id: PartId) -> Option<Taken> {
        if let Some(moving) = self.moving_mut(id) {
            return moving.take().map(Taken::Moving);
        }
        let held = self.held_mut(id)?;
        match std::mem::replace(held, Held::Out) {
            Held::Still(part) => Some(Taken::Still(part)),
            other => {
                *held = other;
                None
            }
        }
    }

    /// Puts it back, unless it has ended meanwhile.
    pub(crate) fn put_back(&mut self, id: PartId, part: Taken) {
        match part {
            Taken::Still(part) => {
                if let Some(held) = self.held_mut(id) {
                    *held = Held::Still(part);
                }
            }
            Taken::Moving(part) => {
                if let Some(moving) = self.moving_mut(id) {
                    *moving = Some(part);
                }
            }
        }
    }

    /// It moves from here on, or does not. It is in its place.
    pub(crate) fn set_moving(&mut self, id: PartId, moves: bool) {
        match self.held(id) {
            Some(Held::Still(part)) if moves => {
                let part = dyn_clone::clone_box(&**part);
                let at = self.moving.len();
                self.moving.push((id, Some(part)));
                if let Some(held) = self.held_mut(id) {
                    *held = Held::Moving(at);
                }
            }
            Some(Held::Moving(at)) if !moves => {
                let part = self.take_off(*at);
                if let (Some(held), Some(part)) = (self.held_mut(id), part) {
                    *held = Held::Still(part.into());
                }
            }
            _ => {}
        }
    }

    /// Takes one off those that move; the last of them goes to its place.
    fn take_off(&mut self, at: usize) -> Option<Box<dyn Part>> {
        if at >= self.moving.len() {
            return None;
        }
        let (_, part) = self.moving.swap_remove(at);
        if let Some((last, _)) = self.moving.get(at) {
            let last = *last;
            if let Some(held) = self.held_mut(last) {
                *held = Held::Moving(at);
            }
        }
        part
    }

    pub(crate) fn insert(&mut self, id: PartId, part: Arc<dyn Part>) {
        let place = place_of(id);
        while self.all.len() <= place {
            self.all.push(None);
        }
        if let Some(Some((_, Held::Moving(at)))) = self.all.get(place) {
            self.take_off(*at);
        }
        if let Some(at) = self.all.get_mut(place) {
            *at = Some((id, Held::Still(part)));
        }
    }

    /// Ends a part.
    pub(crate) fn remove(&mut self, id: PartId) {
        if let Some(Held::Moving(at)) = self.held(id) {
            self.take_off(*at);
        }
        if self.held(id).is_some()
            && let Some(at) = self.all.get_mut(place_of(id))
        {
            *at = None;
        }
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = (PartId, &dyn Part)> {
        self.all.iter().flatten().filter_map(|(id, _)| Some((*id, self.get(*id)?)))
    }
}

/// The parts of a snapshot: shared with the world while both are in memory, data otherwise.
#[derive(Clone, Debug)]
pub(crate) enum SnapshotParts {
    Shared(Behaviours),
    Saved(SavedParts),
}

impl SnapshotParts {
    /// The parts as data.
    pub(crate) fn saved(&self) -> Cow<'_, SavedParts> {
        match self {
            Self::Shared(parts) => Cow::Owned(SavedParts::of(parts)),
            Self::Saved(saved) => Cow::Borrowed(saved),
        }
    }
}

impl Serialize for SnapshotParts {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.saved().serialize(to)
    }
}

impl<'de> Deserialize<'de> for SnapshotParts {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        SavedParts::deserialize(from).map(Self::Saved)
    }
}

impl SavedParts {
    fn of(parts: &Behaviours) -> Self {
        let mut kinds = IndexSet::new();
        let mut saved = Self::default();
        for (id, part) in parts.iter() {
            let (kind, _) = kinds.insert_full(part.kind().name);
            let first = saved.values.len();
            part.save(&mut saved.values);
            let number = |number| u32::try_from(number).unwrap_or(u32::MAX);
            saved.parts.push((id, number(kind), number(first)));
        }
        saved.kinds = kinds.into_iter().map(SmolStr::new_static).collect();
        saved
    }

    pub(crate) fn values_of(&self, index: usize) -> &[Value] {
        let first = |index: usize| self.parts.get(index).map(|(.., first)| *first as usize);
        let end = first(index + 1).unwrap_or(self.values.len());
        first(index).and_then(|first| self.values.get(first..end)).unwrap_or_default()
    }
}
