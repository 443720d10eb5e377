//! Tweens under way.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};

use crate::base::{
    clock::Ticks,
    doing::Doing,
    ease::{Ease, Moved},
    shared::Shared,
    value::Value,
};

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Tween {
    pub(crate) from: Value,
    pub(crate) to: Value,
    pub(crate) done: u64,
    pub(crate) length: Ticks,
    pub(crate) ease: Ease,
    pub(crate) doing: Doing,
}

/// All tweens, in the order they began.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Tweens(#[serde(with = "list")] pub(crate) Shared<IndexMap<Moved, Tween>>);

mod list {
    use indexmap::IndexMap;
    use serde::{Deserialize, Deserializer, Serializer};

    use super::{Moved, Shared, Tween};

    pub(crate) fn serialize<S: Serializer>(
        map: &Shared<IndexMap<Moved, Tween>>,
        to: S,
    ) -> Result<S::Ok, S::Error> {
        to.collect_seq(map.iter())
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(
        from: D,
    ) -> Result<Shared<IndexMap<Moved, Tween>>, D::Error> {
        let all = Vec::<(Moved, Tween)>::deserialize(from)?;
        Ok(Shared::from(all.into_iter().collect::<IndexMap<_, _>>()))
    }
}

impl Tweens {
    /// Something else moves it from here on.
    pub(crate) fn stop(&mut self, moved: Moved) {
        if self.0.contains_key(&moved) {
            self.0.edit().shift_remove(&moved);
        }
    }
}
