//! What is wrong, each thing once.

use std::{cell::Cell, collections::BTreeSet};

use super::notes::{Means, Notes, Rank};
use crate::{
    diagnostic::{Code, Diagnostic, Severity},
    source::Span,
    suggest::{a, suggest},
};

/// Gathers what is wrong, each thing once, with the uses of kits it is wrong in.
pub(crate) struct Report<'d> {
    pub(crate) diagnostics: &'d mut Vec<Diagnostic>,
    said: BTreeSet<(Code, Span, String)>,
    /// The uses of kits around what is looked at.
    pub(crate) uses: Vec<Vec<Span>>,
    /// Something is tried out; what is wrong with it is of no interest.
    pub(crate) muted: bool,
    /// How many names may still be compared for suggestions: a text that is all slips is read in good time too.
    left: Cell<usize>,
    /// What each name means, if that is asked for.
    pub(crate) notes: Notes,
}

/// How many names are compared in one text for suggestions.
const COMPARED: usize = 100_000;

impl<'d> Report<'d> {
    pub(crate) fn new(diagnostics: &'d mut Vec<Diagnostic>) -> Self {
        let left = Cell::new(COMPARED);
        Self {
            diagnostics,
            said: BTreeSet::new(),
            uses: Vec::new(),
            muted: false,
            left,
            notes: Notes::default(),
        }
    }

    /// As many names may be compared from here on as in a text that stands alone.
    pub(crate) fn begin(&self) {
        self.left.set(COMPARED);
    }

    /// Notes that a name means what is declared there.
    pub(crate) fn means(&self, at: Span, rank: Rank, declared: Span) {
        if declared != Span::default() {
            self.notes.add(at, rank, || Means::Declared(declared));
        }
    }

    /// Whether anything that was found keeps the wiring from being built.
    pub(crate) fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(|found| found.severity == Severity::Error)
    }

    /// Whether nothing is suggested here, so that names need not be gathered.
    pub(crate) fn suggests_nothing(&self) -> bool {
        self.muted || self.left.get() == 0
    }

    /// "did you mean", or the list of what there is, if that is short; as long as not too many names were compared.
    pub(crate) fn suggest<'n>(
        &self,
        found: &str,
        kind: &str,
        names: impl Iterator<Item = &'n str> + Clone,
    ) -> String {
        if self.suggests_nothing() {
            return format!("check the spelling of the names of {}", a(kind));
        }
        self.left.set(self.left.get().saturating_sub(names.clone().count()));
        suggest(found, kind, names)
    }

    /// Nothing is reported from here on, if so; gives back what [`Self::unmute`] needs.
    pub(crate) fn mute(&mut self, mute: bool) -> bool {
        let before = self.muted;
        self.muted |= mute;
        before
    }

    pub(crate) fn unmute(&mut self, before: bool) {
        self.muted = before;
    }

    pub(crate) fn push(&mut self, mut diagnostic: Diagnostic) {
        if self.muted {
            return;
        }
        let at = diagnostic.labels.first().map(|label| label.span).unwrap_or_default();
        if !self.said.insert((diagnostic.code, at, diagnostic.message.clone())) {
            return;
        }
        for used in self.uses.last().into_iter().flatten() {
            if *used != at {
                diagnostic = diagnostic.at(*used, "in this use of the kit");
            }
        }
        self.diagnostics.push(diagnostic);
    }
}
