//! Ordered maps written as lists of pairs, since a key that is not text cannot be one in JSON.

use std::collections::BTreeMap;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

pub(crate) fn serialize<K: Serialize, V: Serialize, S: Serializer>(
    map: &BTreeMap<K, V>,
    to: S,
) -> Result<S::Ok, S::Error> {
    to.collect_seq(map)
}

pub(crate) fn deserialize<'de, K, V, D>(from: D) -> Result<BTreeMap<K, V>, D::Error>
where
    K: Deserialize<'de> + Ord,
    V: Deserialize<'de>,
    D: Deserializer<'de>,
{
    Vec::<(K, V)>::deserialize(from).map(|pairs| pairs.into_iter().collect())
}
