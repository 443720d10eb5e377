//! Names of wiring on disk: found in all that a path means, and changed in all of it or nowhere.

use std::{
    collections::BTreeMap,
    path::{Path, PathBuf},
};

use stoicheon_core::Catalogue;
use stoicheon_script::{
    Code, Diagnostic, Edit, Index, Loaded, NamePlace, NameRole, NamedThing, NotRenamed, from_json, render,
    to_json,
};

use crate::{find, read_error::ReadError, wiring::Wiring};

/// Why something in files is not renamed.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum RenameError {
    /// A file cannot be read.
    #[error(transparent)]
    Read(#[from] ReadError),
    /// The wiring has errors, and so nobody knows what its names mean.
    #[error("wiring with errors is not renamed in; the first is\n{0}")]
    Broken(String),
    /// Nothing is called so.
    #[error("nothing is called `{asked}` in {path}{near}")]
    Nothing {
        /// The name.
        asked: String,
        /// Where it was looked for.
        path: String,
        /// What may be meant, as a sentence; or nothing.
        near: String,
    },
    /// Several things are.
    #[error("several things are called `{asked}`: say which, as in \"{example}\" ({known})")]
    Several {
        /// The name.
        asked: String,
        /// One of them, with the word for its kind.
        example: String,
        /// All of them.
        known: String,
    },
    /// The new name cannot be had.
    #[error(transparent)]
    Not(#[from] NotRenamed),
    /// The changed wiring would have faults that it does not have.
    #[error("`{new}` cannot be the new name: the wiring would then say\n{finding}")]
    Faults {
        /// The new name.
        new: String,
        /// What would be found, as text in lines.
        finding: String,
    },
    /// Changed JSON cannot be read any more.
    #[error("{0}")]
    Json(String),
}

/// What would be changed to rename something.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Renaming {
    /// The word for what kind of thing it is.
    pub kind: &'static str,
    /// How it is called with what it belongs to.
    pub whole: String,
    /// In how many places it stands.
    pub places: usize,
    /// The game's own code speaks of it, too.
    pub is_games: bool,
    /// The files: the path, what is there, and what will be.
    pub files: Vec<(PathBuf, String, String)>,
}

/// Whether a path is that of wiring as JSON.
pub fn is_json(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("json"))
}

/// Everything that paths mean, with the names of each: files, projects, folders, and wiring as JSON, whose lines are those of the text that
/// it stands for.
///
/// # Errors
/// As for [`read`](crate::read()); what of a folder cannot be read is an error, too.
pub fn indexes(path: &Path, catalogue: &Catalogue) -> Result<Vec<(Wiring, Index)>, ReadError> {
    let wirings = if is_json(path) {
        vec![find::read_edited(path, catalogue, &json_as_text(path)?)?]
    } else {
        let (wirings, troubles) = find::read_all_as(&[path.to_owned()], catalogue, true);
        if let Some(trouble) = troubles.into_iter().next() {
            return Err(trouble);
        }
        wirings
    };
    let with_index = |wiring: Wiring| {
        let index = wiring.index();
        (wiring, index)
    };
    Ok(wirings.into_iter().map(with_index).collect())
}

/// The text that a file of JSON stands for, by its name.
fn json_as_text(path: &Path) -> Result<BTreeMap<String, String>, ReadError> {
    let text = from_json(&find::text(path)?)
        .map_err(|error| ReadError::Unreadable { path: path.to_owned(), reason: error.to_string() })?;
    Ok(BTreeMap::from([(path.display().to_string(), text)]))
}

/// Where something is declared.
fn declared(thing: &NamedThing) -> Option<&NamePlace> {
    thing.places.iter().find(|place| place.role == NameRole::Declared).or(thing.places.first())
}

/// What has that name in some wiring, and only that.
fn the_one<'i>(
    indexes: &'i [(Wiring, Index)],
    asked: &str,
    path: &Path,
) -> Result<(&'i Wiring, &'i Index, &'i NamedThing), RenameError> {
    let of = |(wiring, index): &'i (Wiring, Index)| {
        index.find(asked).map(move |thing| (wiring, index, thing)).collect::<Vec<_>>()
    };
    let found: Vec<_> = indexes.iter().flat_map(of).collect();
    match &found[..] {
        [one] => Ok(*one),
        [] => {
            let near = indexes.iter().find_map(|(_, index)| index.nearest(asked));
            let near = near.map_or_else(String::new, |near| format!("; did you mean `{near}`?"));
            Err(RenameError::Nothing { asked: asked.to_owned(), path: path.display().to_string(), near })
        }
        [(.., first), ..] => {
            let said = |thing: &NamedThing| match &thing.scene {
                Some(scene) => format!("{} {scene}.{}", thing.kind.word(), thing.whole),
                None => format!("{} {}", thing.kind.word(), thing.whole),
            };
            let known: Vec<_> = found
                .iter()
                .map(|(wiring, _, thing)| {
                    let place = declared(thing).and_then(|place| {
                        wiring.sources().get(place.span.file).map(|source| (place, source))
                    });
                    let place = place.map_or_else(String::new, |(place, source)| {
                        format!(" at {}:{}", source.name(), source.position(place.span.start).0)
                    });
                    said(thing) + &place
                })
                .collect();
            let (asked, example) = (asked.to_owned(), said(first));
            Err(RenameError::Several { asked, example, known: known.join(", ") })
        }
    }
}

/// What must be changed in some wiring so that a thing of its index has another name, as edits and as texts; `read` reads its files with other texts. The
/// changed wiring has no other findings, and each name in it means what it meant.
///
/// # Errors
/// [`RenameError`]
pub(crate) fn edits(
    before: &Wiring,
    index: &Index,
    thing: &NamedThing,
    new: &str,
    read: impl FnOnce(&BTreeMap<String, String>) -> Result<Wiring, ReadError>,
) -> Result<(Vec<Edit>, BTreeMap<String, String>), RenameError> {
    if let Some(part) = before.broken().first() {
        let finding = part.diagnostics().iter().map(|found| render(found, part.sources(), false)).next();
        return Err(RenameError::Broken(finding.unwrap_or_default()));
    }
    let edits = thing.renamed(new, before.sources(), before.catalogue())?;
    let edited: BTreeMap<String, String> = before.sources().edited(&edits).into_iter().collect();
    let after = read(&edited)?;
    let count = |wiring: &Wiring| wiring.parts().iter().map(|part| part.diagnostics().len()).sum::<usize>();
    if count(&after) != count(before) {
        let said = |wiring: &Wiring| -> Vec<(bool, String)> {
            let of = |part: &&Loaded| {
                let said = |found: &Diagnostic| {
                    (found.code == Code::NameTaken, render(found, part.sources(), false))
                };
                part.diagnostics().iter().map(said).collect::<Vec<_>>()
            };
            wiring.parts().iter().flat_map(of).collect()
        };
        let known = said(before);
        let mut fresh: Vec<_> = said(&after).into_iter().filter(|found| !known.contains(found)).collect();
        // What else is wrong may only follow from that.
        fresh.sort_by_key(|(is_taken, _)| !is_taken);
        let finding = fresh.into_iter().map(|(_, found)| found).next().unwrap_or_default();
        return Err(RenameError::Faults { new: new.to_owned(), finding });
    }
    after.index().was_renamed(index, &edits)?;
    Ok((edits, edited))
}

/// What must be changed in all that a path means so that something has another name: the changed wiring was read, has no other findings,
/// and each name in it means what it meant. Nothing is written.
///
/// # Errors
/// [`RenameError`]
pub fn rename(path: &Path, catalogue: &Catalogue, asked: &str, new: &str) -> Result<Renaming, RenameError> {
    let indexes = indexes(path, catalogue)?;
    let (wiring, index, thing) = the_one(&indexes, asked, path)?;
    let head = wiring.head();
    let as_text = if is_json(path) { json_as_text(path)? } else { BTreeMap::new() };
    // A scene of a project is read with the others.
    let before = find::read_edited(&head, catalogue, &as_text)?;
    let read = |edited: &BTreeMap<String, String>| find::read_edited(&head, catalogue, edited);
    let (edits, edited) = edits(&before, index, thing, new, read)?;
    let mut files = Vec::new();
    for (name, text) in edited {
        let path = PathBuf::from(&name);
        let old = find::text(&path)?;
        let text = if is_json(&path) {
            let wrong = |_| RenameError::Json(format!("{name} cannot be written as JSON"));
            to_json(&text).map_err(wrong)?
        } else {
            text
        };
        files.push((path, old, text));
    }
    let places = edits.len();
    let (kind, whole, is_games) = (thing.kind.word(), thing.whole.to_string(), thing.is_games);
    Ok(Renaming { kind, whole, places, is_games, files })
}
