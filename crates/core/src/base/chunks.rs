//! A list that shares what has not changed with its copies: a clone costs one pointer, and the first change after it
//! copies eight items and a pointer for every eight others. Snapshots live on this.

use std::sync::Arc;

use arrayvec::ArrayVec;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

use crate::base::shared::Shared;

/// So few that a change copies little, so many that a clone is short.
const WIDTH: usize = 8;

type Chunk<T> = Arc<ArrayVec<T, WIDTH>>;

#[derive(Clone, Debug)]
pub(crate) struct Chunks<T> {
    /// All but the last are full.
    chunks: Shared<Vec<Chunk<T>>>,
}

impl<T> Default for Chunks<T> {
    fn default() -> Self {
        Self { chunks: Shared::default() }
    }
}

impl<T> Chunks<T> {
    pub(crate) fn len(&self) -> usize {
        self.chunks.last().map_or(0, |last| (self.chunks.len() - 1) * WIDTH + last.len())
    }

    #[inline]
    pub(crate) fn get(&self, at: usize) -> Option<&T> {
        self.chunks.get(at / WIDTH)?.get(at % WIDTH)
    }

    pub(crate) fn iter(&self) -> impl DoubleEndedIterator<Item = &T> {
        self.chunks.iter().flat_map(|chunk| chunk.iter())
    }
}

impl<T: Clone> Chunks<T> {
    /// An item to be changed; what a copy shares with it is copied first.
    #[inline]
    pub(crate) fn get_mut(&mut self, at: usize) -> Option<&mut T> {
        Arc::make_mut(self.chunks.edit().get_mut(at / WIDTH)?).get_mut(at % WIDTH)
    }

    pub(crate) fn push(&mut self, item: T) {
        let chunks = self.chunks.edit();
        match chunks.last_mut() {
            Some(last) if !last.is_full() => Arc::make_mut(last).push(item),
            _ => chunks.push(Arc::new(ArrayVec::from_iter([item]))),
        }
    }
}

impl<T: Serialize> Serialize for Chunks<T> {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        use serde::ser::SerializeSeq as _;
        let mut list = to.serialize_seq(Some(self.len()))?;
        self.iter().try_for_each(|item| list.serialize_element(item))?;
        list.end()
    }
}

impl<'de, T: Deserialize<'de> + Clone> Deserialize<'de> for Chunks<T> {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let mut chunks = Self::default();
        Vec::deserialize(from)?.into_iter().for_each(|item| chunks.push(item));
        Ok(chunks)
    }
}
