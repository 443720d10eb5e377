//! Which name means which declaration: noted while names are looked up, for those who ask.

use std::cell::RefCell;

use smol_str::SmolStr;

use crate::source::Span;

/// What a name was found to mean.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Means {
    /// What is declared there.
    Declared(Span),
    /// A field, by its number, of the signal or the effect that is declared there.
    Field(Span, usize),
    Tag(SmolStr),
    Scene(SmolStr),
    /// The name of that number in a path to a spot of another scene.
    Elsewhere {
        scene: SmolStr,
        path: SmolStr,
        number: usize,
    },
}

/// How sure a note is: a name may be looked for among several kinds of things, and what is looked for first counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Rank {
    /// An object, a variable, a spot, a constant, a use of a kit.
    Thing,
    /// What stands where only one kind of thing can, or is asked before values are.
    Kind,
    /// A spot of another scene may be called as something here.
    Elsewhere,
    /// What a sequence, a signal or a playtest calls so hides everything else.
    Local,
}

/// A name, and what it means there.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Note {
    pub(crate) at: Span,
    pub(crate) rank: Rank,
    pub(crate) means: Means,
}

/// The notes so far; none are taken unless somebody asks.
#[derive(Debug, Default)]
pub(crate) struct Notes(Option<RefCell<Vec<Note>>>);

impl Notes {
    pub(crate) fn wanted() -> Self {
        Self(Some(RefCell::default()))
    }

    /// Those so far; what comes is noted as before.
    pub(crate) fn take(&self) -> Vec<Note> {
        self.0.as_ref().map(RefCell::take).unwrap_or_default()
    }

    pub(crate) fn are_wanted(&self) -> bool {
        self.0.is_some()
    }

    pub(crate) fn add(&self, at: Span, rank: Rank, means: impl FnOnce() -> Means) {
        // What was never written stands nowhere.
        if let Some(notes) = self.0.as_ref().filter(|_| at != Span::default()) {
            notes.borrow_mut().push(Note { at, rank, means: means() });
        }
    }
}
