//! The scenes of a project, as a name in one of them may mean another.

use std::collections::BTreeMap;

use smol_str::SmolStr;

/// The scenes of a project, and the spots of each.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Scenes(pub(crate) BTreeMap<SmolStr, Vec<SmolStr>>);

impl Scenes {
    pub(crate) fn names(&self) -> impl Iterator<Item = &str> + Clone {
        self.0.keys().map(SmolStr::as_str)
    }

    pub(crate) fn spots_of(&self, scene: &str) -> Option<&[SmolStr]> {
        self.0.get(scene).map(Vec::as_slice)
    }
}
