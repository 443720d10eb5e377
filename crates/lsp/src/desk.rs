//! What an editor works on: the files that are open, and what is known of all wiring.

use std::{
    collections::BTreeMap,
    path::{Path, PathBuf},
};

use lsp_types::{TextDocumentPositionParams, Uri};
use stoicheon_core::Catalogue;
use stoicheon_files::{Draft, Wiring};

use crate::{
    known::{Here, Known},
    outcome::Outcome,
    place::{Counts, key, path_of},
};

/// A file that the editor has open.
#[derive(Debug)]
pub(crate) struct Open {
    pub(crate) uri: Uri,
    pub(crate) text: String,
    pub(crate) version: i32,
}

/// What an editor works on.
#[derive(Debug)]
pub(crate) struct Desk {
    pub(crate) draft: Draft,
    pub(crate) counts: Counts,
    /// The editor knows what to do with the holes of a whole item.
    pub(crate) takes_snippets: bool,
    pub(crate) open: BTreeMap<PathBuf, Open>,
    /// What is known of all wiring, as long as that is the same.
    known: Vec<Known>,
    /// Something has changed since findings were told last.
    pub(crate) is_stale: bool,
    /// A playtest has run since lenses were told of last.
    pub(crate) has_run: bool,
    /// What those read who look for it.
    pub(crate) notes: Vec<String>,
}

impl Desk {
    pub(crate) fn new(catalogue: Catalogue) -> Self {
        Self {
            draft: Draft::new(Vec::new(), catalogue),
            counts: Counts::default(),
            takes_snippets: false,
            open: BTreeMap::new(),
            known: Vec::new(),
            is_stale: false,
            has_run: false,
            notes: Vec::new(),
        }
    }

    /// Says something that only those read who look for it.
    pub(crate) fn log(&mut self, message: &str) {
        self.notes.push(message.to_owned());
    }

    /// Some wiring of which no world was made yet to see what is found there.
    pub(crate) fn unchecked(&mut self) -> Option<Wiring> {
        self.known().iter().find(|known| !known.is_checked()).map(|known| known.wiring.clone())
    }

    /// What was found in some wiring once it was made into a world. It may be that of a text that is another one now.
    pub(crate) fn checked(&mut self, wiring: &Wiring, checked: Wiring) {
        let known = self.known.iter_mut().find(|known| Draft::is_same(&known.wiring, wiring));
        if let Some(known) = known {
            known.check(checked);
            self.is_stale = true;
        }
    }

    /// What files are has changed.
    pub(crate) fn changed(&mut self) {
        self.is_stale = true;
    }

    /// A playtest was run: how it went is told beside it, and at the line that was not as expected.
    pub(crate) fn ran(&mut self, path: &Path, name: &str, outcome: &Outcome) {
        let known = self.known.iter_mut().find(|known| known.number(path).is_some());
        known.into_iter().for_each(|known| known.keep(path, name, outcome.clone()));
        self.is_stale = true;
        self.has_run = true;
    }

    /// What is known of all wiring as it is now.
    pub(crate) fn known(&mut self) -> &[Known] {
        let counts = self.counts;
        let mut before = std::mem::take(&mut self.known);
        for wiring in self.draft.wirings() {
            let same = before.iter().position(|known| Draft::is_same(&known.wiring, wiring));
            let known = same.map(|at| before.swap_remove(at));
            self.known.push(known.unwrap_or_else(|| {
                let old = before.iter().find(|known| known.wiring.head() == wiring.head());
                Known::of(wiring.clone(), counts, old)
            }));
        }
        &self.known
    }

    /// A file, in the first wiring that it is read with.
    pub(crate) fn file(&mut self, path: &Path) -> Option<(&Known, u32)> {
        self.known().iter().find_map(|known| Some((known, known.number(path)?)))
    }

    /// The same, with what reads it.
    pub(crate) fn draft_and_file(&mut self, path: &Path) -> Option<(&Draft, &Known, u32)> {
        self.known();
        let found = self.known.iter().find_map(|known| Some((known, known.number(path)?)));
        let draft = &self.draft;
        found.map(|(known, file)| (draft, known, file))
    }

    /// A file that the editor speaks of, and the byte at a place in it.
    pub(crate) fn path_and_byte(&mut self, at: &TextDocumentPositionParams) -> Option<(PathBuf, u32)> {
        let path = key(&path_of(&at.text_document.uri)?);
        let (known, file) = self.file(&path)?;
        let byte = known.lines(file)?.byte(at.position);
        Some((path, byte))
    }

    /// The same, and in all wiring that what is named there is declared in.
    pub(crate) fn everywhere(&mut self, at: &TextDocumentPositionParams) -> Vec<Here<'_>> {
        let Some((path, byte)) = self.path_and_byte(at) else { return Vec::new() };
        let places = self.draft.meant(&path, byte);
        let known = self.known();
        let here = |(at, file, byte): (usize, u32, u32)| Some(Here { known: known.get(at)?, file, byte });
        places.into_iter().filter_map(here).collect()
    }

    /// A place that the editor speaks of, in all wiring its file is read with.
    pub(crate) fn here(&mut self, at: &TextDocumentPositionParams) -> Vec<Here<'_>> {
        let Some(path) = path_of(&at.text_document.uri).map(|path| key(&path)) else { return Vec::new() };
        let known = self.known().iter();
        let here = known.filter_map(|known| {
            let file = known.number(&path)?;
            Some(Here { known, file, byte: known.lines(file)?.byte(at.position) })
        });
        here.collect()
    }
}
