//! Where things with ids live: ids are never used again, and the memory of what is gone is.
//!
//! The ids are `slotmap`'s, and so are the maps beside these. The main map is our own because which place is used
//! next is part of the order law: a world that was read from data must give out the same ids as the one it is a
//! copy of, and `slotmap` finds the free places again when it is read.

use std::marker::PhantomData;

use serde::{Deserialize, Serialize};
use slotmap::{Key, KeyData};

use crate::base::{chunks::Chunks, shared::Shared};

#[derive(Clone, Debug, Serialize, Deserialize)]
struct Slot<V> {
    /// Odd, and grows by two with every use of the place, as `slotmap` has it.
    version: u32,
    value: Option<V>,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(bound(serialize = "V: Serialize", deserialize = "V: Deserialize<'de> + Clone"))]
pub(crate) struct Slots<K, V> {
    places: Chunks<Slot<V>>,
    /// Places to use again, the last one first.
    free: Shared<Vec<u32>>,
    #[serde(skip)]
    keys: PhantomData<fn(K) -> K>,
}

impl<K, V> Default for Slots<K, V> {
    fn default() -> Self {
        Self { places: Chunks::default(), free: Shared::default(), keys: PhantomData }
    }
}

/// Index and version of a key.
fn parts(key: impl Key) -> (usize, u32) {
    let word = key.data().as_ffi();
    ((word & 0xffff_ffff) as usize, (word >> 32) as u32)
}

/// The place of what has a key, for what is kept beside it.
#[inline]
pub(crate) fn place_of(key: impl Key) -> usize {
    parts(key).0
}

impl<K: Key, V: Clone> Slots<K, V> {
    fn key(index: usize, version: u32) -> K {
        KeyData::from_ffi(u64::from(version) << 32 | index as u64).into()
    }

    pub(crate) fn insert(&mut self, value: V) -> K {
        while let Some(index) = self.free.last().copied() {
            self.free.edit().pop();
            // Data from outside may be damaged; what is not free is not used.
            if let Some(slot) = self.places.get_mut(index as usize).filter(|slot| slot.value.is_none()) {
                slot.value = Some(value);
                return Self::key(index as usize, slot.version);
            }
        }
        self.places.push(Slot { version: 1, value: Some(value) });
        Self::key(self.places.len() - 1, 1)
    }

    #[inline]
    pub(crate) fn get(&self, key: K) -> Option<&V> {
        let (index, version) = parts(key);
        self.places.get(index).filter(|slot| slot.version == version)?.value.as_ref()
    }

    #[inline]
    pub(crate) fn get_mut(&mut self, key: K) -> Option<&mut V> {
        let (index, version) = parts(key);
        self.places.get_mut(index).filter(|slot| slot.version == version)?.value.as_mut()
    }

    /// The key of what is in a place.
    pub(crate) fn key_at(&self, place: usize) -> Option<K> {
        let slot = self.places.get(place).filter(|slot| slot.value.is_some())?;
        Some(Self::key(place, slot.version))
    }

    pub(crate) fn contains_key(&self, key: K) -> bool {
        self.get(key).is_some()
    }

    pub(crate) fn remove(&mut self, key: K) -> Option<V> {
        let (index, version) = parts(key);
        let slot = self.places.get_mut(index).filter(|slot| slot.version == version)?;
        let value = slot.value.take()?;
        // A place whose versions are used up is never used again.
        if let Some(next) = version.checked_add(2) {
            slot.version = next;
            self.free.edit().push(u32::try_from(index).unwrap_or(u32::MAX));
        }
        Some(value)
    }

    /// By place, which is no order that means anything.
    pub(crate) fn iter(&self) -> impl Iterator<Item = (K, &V)> {
        let all = self.places.iter().enumerate();
        all.filter_map(|(index, slot)| Some((Self::key(index, slot.version), slot.value.as_ref()?)))
    }

    pub(crate) fn values(&self) -> impl Iterator<Item = &V> {
        self.places.iter().filter_map(|slot| slot.value.as_ref())
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.values().next().is_none()
    }
}
