//! Something that is copied only when it changes: what a world is made of, which its snapshots share.

use std::{ops::Deref, sync::Arc};

use serde::{Deserialize, Serialize};

/// Read as if it were the thing itself.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(transparent)]
pub(crate) struct Shared<T>(Arc<T>);

impl<T> Clone for Shared<T> {
    fn clone(&self) -> Self {
        Self(Arc::clone(&self.0))
    }
}

impl<T> Deref for Shared<T> {
    type Target = T;
    #[inline]
    fn deref(&self) -> &T {
        &self.0
    }
}

impl<T: Clone> Shared<T> {
    /// To be changed; what a snapshot shares with it is copied first, so ask only when there is something to change.
    pub(crate) fn edit(&mut self) -> &mut T {
        Arc::make_mut(&mut self.0)
    }
}

/// Ordered maps that are shared, as lists of pairs.
pub(crate) mod pairs {
    use std::collections::BTreeMap;

    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    use super::Shared;

    pub(crate) fn serialize<K: Serialize, V: Serialize, S: Serializer>(
        map: &Shared<BTreeMap<K, V>>,
        to: S,
    ) -> Result<S::Ok, S::Error> {
        crate::base::pairs::serialize(map, to)
    }

    pub(crate) fn deserialize<'de, K, V, D>(from: D) -> Result<Shared<BTreeMap<K, V>>, D::Error>
    where
        K: Deserialize<'de> + Ord,
        V: Deserialize<'de>,
        D: Deserializer<'de>,
    {
        crate::base::pairs::deserialize(from).map(Shared::from)
    }
}

impl<T> From<T> for Shared<T> {
    fn from(thing: T) -> Self {
        Self(Arc::new(thing))
    }
}
