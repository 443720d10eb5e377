//! Finding things by their names, without a second copy of the names.

use hashbrown::HashTable;

use crate::base::{names::name_hash, shared::Shared};

/// Ids by what stands for their names. The names themselves are where the things are.
#[derive(Clone, Debug)]
pub(crate) struct NameIndex<K>(Shared<HashTable<K>>);

impl<K> Default for NameIndex<K> {
    fn default() -> Self {
        Self(Shared::from(HashTable::new()))
    }
}

impl<K: Copy + PartialEq> NameIndex<K> {
    /// The one of that name; `name_of` says the name of each.
    pub(crate) fn find<'a>(&self, name: &str, name_of: impl Fn(K) -> Option<&'a str>) -> Option<K> {
        self.0.find(name_hash(name), |id| name_of(*id) == Some(name)).copied()
    }

    /// One whose name is not there yet.
    pub(crate) fn insert<'a>(&mut self, name: &str, id: K, name_of: impl Fn(K) -> Option<&'a str>) {
        let rehash = |id: &K| name_of(*id).map_or(0, name_hash);
        self.0.edit().insert_unique(name_hash(name), id, rehash);
    }

    pub(crate) fn remove(&mut self, name: &str, id: K) {
        if let Ok(entry) = self.0.edit().find_entry(name_hash(name), |other| *other == id) {
            entry.remove();
        }
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}
