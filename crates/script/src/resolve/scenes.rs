//! The scenes of a project, as a name in one of them may mean another.

use std::collections::{BTreeMap, BTreeSet};

use smol_str::SmolStr;

/// What each scene of a project knows of the others.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Scenes {
    /// The spots of each.
    pub(crate) spots: BTreeMap<SmolStr, Vec<SmolStr>>,
    /// The tags of the players of all playtests: a wire may wait for them in any scene.
    pub(crate) player_tags: BTreeSet<SmolStr>,
}

impl Scenes {
    pub(crate) fn names(&self) -> impl Iterator<Item = &str> + Clone {
        self.spots.keys().map(SmolStr::as_str)
    }

    pub(crate) fn spots_of(&self, scene: &str) -> Option<&[SmolStr]> {
        self.spots.get(scene).map(Vec::as_slice)
    }
}
