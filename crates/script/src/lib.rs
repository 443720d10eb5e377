//! The wiring language: `.stoi` files, read, checked and built into a world.
//!
//! [`load`] reads and checks a text; [`Loaded::build`] makes its scene in a world. Nothing stops at the first
//! fault: a text with five of them reports five, in order. For running a world see `stoicheon-core`; for traces as
//! people read them, `stoicheon-view`.
//!
//! ```
//! use stoicheon_core::{Catalogue, World};
//!
//! let text = "
//!     signal rung(strokes: number)
//!     effect bell(strokes: number)
//!     on rung { perform bell(strokes) }
//! ";
//! let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
//! assert!(!loaded.has_errors());
//!
//! let mut world = World::<()>::new();
//! loaded.build(&mut world)?;
//! assert!(world.find_signal("rung").is_some());
//! # Ok::<(), stoicheon_core::Error>(())
//! ```

mod build;
mod check;
mod diagnostic;
mod lower;
mod model;
mod render;
mod source;
mod syntax;

pub use diagnostic::{Code, Diagnostic, Label, Severity};
pub use render::render;
pub use source::{Source, Span};

use stoicheon_core::{Catalogue, Error, World, playtest::Playtest};

/// A text that was read and checked.
#[derive(Debug)]
pub struct Loaded {
    source: Source,
    scene: model::Scene,
    catalogue: Catalogue,
    diagnostics: Vec<Diagnostic>,
}

/// Reads and checks a text against what the game offers. `name` is the file's, for messages and traces.
pub fn load(name: &str, text: &str, catalogue: &Catalogue) -> Loaded {
    let source = Source::new(name, text);
    let parsed = syntax::parse(text);
    let mut diagnostics = parsed.errors;
    let scene = lower::lower(&parsed.tree, &mut diagnostics);
    check::check(&scene, catalogue, &mut diagnostics);
    diagnostics
        .sort_by_key(|diagnostic| (diagnostic.labels.first().map(|label| label.span), diagnostic.code));
    Loaded { source, scene, catalogue: catalogue.clone(), diagnostics }
}

impl Loaded {
    /// The text.
    pub fn source(&self) -> &Source {
        &self.source
    }

    /// What was found wrong or doubtful, in the order of the text.
    pub fn diagnostics(&self) -> &[Diagnostic] {
        &self.diagnostics
    }

    /// Whether anything is so wrong that the scene cannot be built.
    pub fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(|diagnostic| diagnostic.severity == Severity::Error)
    }

    /// The name of the scene, if the text gives it one.
    pub fn scene_name(&self) -> Option<&str> {
        self.scene.name.as_ref().map(|name| name.text.as_str())
    }

    /// How many objects and how many wires the scene has.
    pub fn counts(&self) -> (usize, usize) {
        let nested: usize = self.scene.objects.iter().map(|object| object.wires.len()).sum();
        (self.scene.objects.len(), self.scene.wires.len() + nested)
    }

    /// The names of the playtests, in their order.
    pub fn playtests(&self) -> impl Iterator<Item = &str> {
        self.scene.playtests.iter().map(|playtest| playtest.name.text.as_str())
    }

    /// Makes the scene in a world: variables, signals, effects, objects with their parts, then wires, then rules.
    ///
    /// # Errors
    /// What the world says to a part of the scene, such as a name it has already. A text that has errors is
    /// built as far as it goes; ask [`has_errors`](Self::has_errors) first.
    pub fn build<G: 'static>(&self, world: &mut World<G>) -> Result<(), Error> {
        build::build(&self.scene, &self.source, &self.catalogue, world)
    }

    /// Makes the players of the playtest of that number in a world that has the scene, and the playtest itself.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for a number there is none of, and what the world says to a player.
    pub fn playtest<G: 'static>(&self, number: usize, world: &mut World<G>) -> Result<Playtest, Error> {
        build::playtest(&self.scene, &self.source, number, world)
    }
}
