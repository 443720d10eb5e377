//! A list that shares what has not changed with its copies: a clone costs one pointer, and the first change after it
//! copies one way down a tree of three levels. Snapshots live on this.

use std::sync::Arc;

use arrayvec::ArrayVec;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

use crate::base::shared::Shared;

/// So few that a change copies little, so many that the tree is small.
const WIDTH: usize = 8;
/// How many leaves hang on a branch. A copy of a branch counts up each of its leaves, which are all over the memory.
const LEAVES: usize = 16;
/// How many items are on a branch.
const BRANCH: usize = WIDTH * LEAVES;

type Leaf<T> = Arc<ArrayVec<T, WIDTH>>;
type Branch<T> = Arc<ArrayVec<Leaf<T>, LEAVES>>;

#[derive(Clone, Debug)]
pub(crate) struct Chunks<T> {
    /// All leaves and branches but the last ones are full.
    branches: Shared<Vec<Branch<T>>>,
    len: usize,
}

impl<T> Default for Chunks<T> {
    fn default() -> Self {
        Self { branches: Shared::default(), len: 0 }
    }
}

impl<T> Chunks<T> {
    pub(crate) fn len(&self) -> usize {
        self.len
    }

    #[inline]
    pub(crate) fn get(&self, at: usize) -> Option<&T> {
        self.branches.get(at / BRANCH)?.get(at % BRANCH / WIDTH)?.get(at % WIDTH)
    }

    pub(crate) fn iter(&self) -> impl DoubleEndedIterator<Item = &T> {
        self.branches.iter().flat_map(|branch| branch.iter()).flat_map(|leaf| leaf.iter())
    }
}

impl<T: Clone> Chunks<T> {
    /// An item to be changed; what a copy shares with it is copied first.
    #[inline]
    pub(crate) fn get_mut(&mut self, at: usize) -> Option<&mut T> {
        if at >= self.len {
            return None;
        }
        let branch = Arc::make_mut(self.branches.edit().get_mut(at / BRANCH)?);
        Arc::make_mut(branch.get_mut(at % BRANCH / WIDTH)?).get_mut(at % WIDTH)
    }

    pub(crate) fn push(&mut self, item: T) {
        let branches = self.branches.edit();
        if self.len.is_multiple_of(BRANCH) {
            branches.push(Arc::default());
        }
        self.len += 1;
        if let Some(branch) = branches.last_mut().map(Arc::make_mut) {
            match branch.last_mut() {
                Some(leaf) if !leaf.is_full() => Arc::make_mut(leaf).push(item),
                _ => branch.push(Arc::new(ArrayVec::from_iter([item]))),
            }
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
