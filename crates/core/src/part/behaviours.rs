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

/// A part as it behaves; one that is being called is out of its place. Shared with snapshots until it is called.
#[derive(Clone, Debug)]
pub(crate) struct Behaviour {
    id: PartId,
    part: Option<Arc<dyn Part>>,
}

/// The behaviours of all parts, by the places of their ids.
#[derive(Clone, Debug, Default)]
pub(crate) struct Behaviours(Chunks<Option<Behaviour>>);

impl Behaviours {
    pub(crate) fn get(&self, id: PartId) -> Option<&dyn Part> {
        let behaviour = self.0.get(place_of(id))?.as_ref().filter(|behaviour| behaviour.id == id)?;
        behaviour.part.as_deref()
    }

    pub(crate) fn part_mut(&mut self, id: PartId) -> Option<&mut Option<Arc<dyn Part>>> {
        let behaviour = self.0.get_mut(place_of(id))?.as_mut().filter(|behaviour| behaviour.id == id)?;
        Some(&mut behaviour.part)
    }

    pub(crate) fn get_mut(&mut self, id: PartId) -> Option<&mut dyn Part> {
        self.part_mut(id)?.as_mut().map(dyn_clone::arc_make_mut)
    }

    pub(crate) fn insert(&mut self, id: PartId, part: Arc<dyn Part>) {
        let place = place_of(id);
        while self.0.len() <= place {
            self.0.push(None);
        }
        if let Some(at) = self.0.get_mut(place) {
            *at = Some(Behaviour { id, part: Some(part) });
        }
    }

    pub(crate) fn remove(&mut self, id: PartId) -> Option<Arc<dyn Part>> {
        let part = self.part_mut(id)?.take();
        if let Some(at) = self.0.get_mut(place_of(id)) {
            *at = None;
        }
        part
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = (PartId, &dyn Part)> {
        let all = self.0.iter().flatten();
        all.filter_map(|behaviour| Some((behaviour.id, behaviour.part.as_deref()?)))
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
