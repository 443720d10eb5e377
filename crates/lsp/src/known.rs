//! What is known of some wiring, worked out when it is asked for and kept as long as the wiring is the same.

use std::{
    cell::OnceCell,
    collections::BTreeMap,
    path::{Path, PathBuf},
};

use lsp_types::{Diagnostic, Location, Range};
use stoicheon_files::Wiring;
use stoicheon_script::{self as script, Code, Index, Loaded, NameKind, Source, Span};

use crate::{
    outcome::Outcome,
    place::{Counts, Lines, key, uri_of},
};

/// A file of some wiring.
#[derive(Debug)]
pub(crate) struct File {
    pub(crate) path: PathBuf,
    /// Its text was made of what another program wrote: there are no lines to point at.
    pub(crate) is_made: bool,
    lines: OnceCell<Lines>,
}

/// Some wiring, and what was asked about it.
#[derive(Debug)]
pub(crate) struct Known {
    pub(crate) wiring: Wiring,
    pub(crate) files: Vec<File>,
    counts: Counts,
    index: OnceCell<Index>,
    in_place: Option<Wiring>,
    /// What was found in place before the last edit, until that is looked at again: so that it does not come and go with every letter.
    carried: Vec<script::Diagnostic>,
    /// What is found in each file, as an editor is told.
    pub(crate) found: OnceCell<BTreeMap<PathBuf, Vec<Diagnostic>>>,
    /// How playtests went, by their files and names.
    ran: BTreeMap<(PathBuf, String), Outcome>,
}

impl Known {
    /// Who says what is found.
    pub(crate) const SOURCE: &'static str = "stoicheon";

    pub(crate) fn of(wiring: Wiring, counts: Counts, old: Option<&Self>) -> Self {
        let file = |(number, source): (u32, &Source)| {
            let made = source.name().strip_suffix(" (as wiring)");
            // Where a file is was asked before, and takes asking the disk.
            let same = old.filter(|old| old.source(number).is_some_and(|old| old.name() == source.name()));
            let path = same.and_then(|old| old.files.get(number as usize)).map(|file| file.path.clone());
            let path = path.unwrap_or_else(|| key(Path::new(made.unwrap_or(source.name()))));
            File { path, is_made: made.is_some(), lines: OnceCell::new() }
        };
        let files = (0..).zip(wiring.sources().iter()).map(file).collect();
        // What has errors is not made into a world.
        let in_place = (!wiring.broken().is_empty()).then(|| wiring.clone());
        let carried = old.filter(|_| in_place.is_none()).map(|old| carried(old, &wiring)).unwrap_or_default();
        let (index, found, ran) = (OnceCell::new(), OnceCell::new(), BTreeMap::new());
        Self { wiring, files, counts, index, in_place, carried, found, ran }
    }

    /// The number of a file among those that were read.
    pub(crate) fn number(&self, path: &Path) -> Option<u32> {
        let at = self.files.iter().position(|file| file.path == path && !file.is_made)?;
        u32::try_from(at).ok()
    }

    /// The text of a file.
    pub(crate) fn text(&self, file: u32) -> &str {
        self.source(file).map_or("", |source| source.text())
    }

    pub(crate) fn source(&self, file: u32) -> Option<&Source> {
        self.wiring.sources().get(file)
    }

    /// The part of a project that a file belongs to.
    pub(crate) fn part(&self, file: u32) -> Option<&Loaded> {
        let parts = self.wiring.parts();
        parts.iter().find(|part| part.is_own_file(file)).or(parts.first()).copied()
    }

    pub(crate) fn lines(&self, file: u32) -> Option<&Lines> {
        let source = self.source(file)?;
        let known = self.files.get(file as usize)?;
        Some(known.lines.get_or_init(|| Lines::of(source.text(), self.counts)))
    }

    pub(crate) fn index(&self) -> &Index {
        self.index.get_or_init(|| self.wiring.index())
    }

    /// The kinds of the names in a file, by where they begin.
    pub(crate) fn names_in(&self, file: u32) -> BTreeMap<u32, NameKind> {
        let things = self.index().things().iter();
        let places = things.flat_map(|thing| thing.places.iter().map(move |place| (place.span, thing.kind)));
        places.filter(|(span, _)| span.file == file).map(|(span, kind)| (span.start, kind)).collect()
    }

    /// Whether it is known what is found only once it is made into a world.
    pub(crate) fn is_checked(&self) -> bool {
        self.in_place.is_some()
    }

    /// The same wiring, with what is found only once it is made into a world.
    pub(crate) fn check(&mut self, in_place: Wiring) {
        self.in_place = Some(in_place);
        self.carried.clear();
        self.found = OnceCell::new();
    }

    /// What is found in it, as far as that is known.
    pub(crate) fn diagnostics(&self) -> impl Iterator<Item = &script::Diagnostic> {
        let parts = self.in_place.as_ref().unwrap_or(&self.wiring).parts();
        parts.into_iter().flat_map(Loaded::diagnostics).chain(&self.carried)
    }

    /// How a playtest went that was run since anything was changed.
    pub(crate) fn outcome(&self, path: &Path, name: &str) -> Option<&Outcome> {
        self.ran.get(&(path.to_owned(), name.to_owned()))
    }

    pub(crate) fn outcomes(&self) -> impl Iterator<Item = (&(PathBuf, String), &Outcome)> {
        self.ran.iter()
    }

    pub(crate) fn keep(&mut self, path: &Path, name: &str, outcome: Outcome) {
        self.ran.insert((path.to_owned(), name.to_owned()), outcome);
    }

    pub(crate) fn range(&self, span: Span) -> Range {
        let is_made = self.files.get(span.file as usize).is_none_or(|file| file.is_made);
        self.lines(span.file).filter(|_| !is_made).map(|lines| lines.range(span)).unwrap_or_default()
    }

    pub(crate) fn location(&self, span: Span) -> Option<Location> {
        let file = self.files.get(span.file as usize)?;
        Some(Location::new(uri_of(&file.path)?, self.range(span)))
    }
}

/// What was found in place before an edit, where it stands after it; what the edit has touched is left out.
fn carried(old: &Known, wiring: &Wiring) -> Vec<script::Diagnostic> {
    let is_in_place = |found: &&script::Diagnostic| {
        matches!(found.code, Code::ArrivalInside | Code::SpotInSolid | Code::HiddenPrompt)
    };
    let moved = |span: Span| {
        let (before, after) = (old.source(span.file)?, wiring.sources().get(span.file)?);
        (before.name() == after.name()).then_some(())?;
        moved(span, before.text(), after.text())
    };
    let found = old.diagnostics().filter(is_in_place).cloned();
    let found = found.filter_map(|mut found| {
        for label in &mut found.labels {
            label.span = moved(label.span)?;
        }
        Some(found)
    });
    found.collect()
}

/// Where a stretch of a text is in another one that differs from it in one place.
fn moved(span: Span, before: &str, after: &str) -> Option<Span> {
    let (one, two) = (before.as_bytes(), after.as_bytes());
    let same = one.iter().zip(two).take_while(|(one, two)| one == two).count();
    if span.end as usize <= same {
        return Some(span);
    }
    let left = one.len().min(two.len()) - same;
    let same_end =
        one.iter().rev().zip(two.iter().rev()).take(left).take_while(|(one, two)| one == two).count();
    if (span.start as usize) < one.len() - same_end {
        return None;
    }
    let shift = |at: u32| u32::try_from(at as usize + two.len() - one.len()).ok();
    Some(Span { start: shift(span.start)?, end: shift(span.end)?, ..span })
}

/// A place in a file, in some wiring that the file is read with.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Here<'k> {
    pub(crate) known: &'k Known,
    pub(crate) file: u32,
    pub(crate) byte: u32,
}

impl<'k> Here<'k> {
    /// What is named there.
    pub(crate) fn thing(&self) -> Option<&'k script::NamedThing> {
        self.known.index().at(self.file, self.byte)
    }

    pub(crate) fn part(&self) -> Option<&'k Loaded> {
        self.known.part(self.file)
    }
}
