//! The catalogue: what a game offers to its wiring.

use crate::part::{Door, PartKind, Zone};

/// The kinds of part a game offers: the built-in ones, and its own.
#[derive(Clone, Debug)]
pub struct Catalogue {
    parts: Vec<&'static PartKind>,
}

impl Default for Catalogue {
    fn default() -> Self {
        Self::built_in()
    }
}

impl Catalogue {
    /// What every game has.
    pub fn built_in() -> Self {
        Self { parts: vec![&Zone::KIND, &Door::KIND] }
    }

    /// Adds a kind of part; one of the same name is replaced.
    pub fn with_part(mut self, kind: &'static PartKind) -> Self {
        self.parts.retain(|known| known.name != kind.name);
        self.parts.push(kind);
        self
    }

    /// All kinds of part, in the order a page lists them.
    pub fn parts(&self) -> &[&'static PartKind] {
        &self.parts
    }

    /// The kind of part of that name.
    pub fn part(&self, name: &str) -> Option<&'static PartKind> {
        self.parts.iter().copied().find(|kind| kind.name == name)
    }
}
