//! Wiring that is read again and again while somebody writes it.

use std::{
    collections::BTreeMap,
    path::{Path, PathBuf},
    sync::Arc,
};

use stoicheon_core::Catalogue;
use stoicheon_script::{Edit, Memory, NameRole};

use crate::{
    find::{self, Projects, read_as, read_found, whole},
    read_error::ReadError,
    rename::{self, RenameError},
    texts::{Stamp, Texts, stamp},
    wiring::Wiring,
};

/// Everything below some folders, as it is on disk but for the files that are open in an editor and have another text there. What
/// [`wirings`](Self::wirings) gives is what [`read_all`](crate::read_all) gives once all of it is saved; what no edit has touched is not read again. Folders whose
/// names begin with a dot, `target` and `node_modules` are passed over.
///
/// ```
/// use stoicheon_core::Catalogue;
/// use stoicheon_files::Draft;
/// # let folder = tempfile::tempdir()?;
/// # let path = folder.path().join("lock.stoi");
/// # std::fs::write(&path, "signal rung\non rung { emit rung }\n")?;
/// let mut draft = Draft::new(vec![folder.path().to_owned()], Catalogue::built_in());
/// assert!(draft.wirings().iter().all(|wiring| wiring.broken().is_empty()));
///
/// draft.edit(&path, Some("signal rung\non rnug { emit rung }\n".to_owned()));
/// assert_eq!(draft.wirings()[0].broken().len(), 1);
///
/// std::fs::write(&path, "signal rang\non rung { emit rung }\n")?;
/// draft.edit(&path, None);
/// assert_eq!(draft.wirings()[0].broken().len(), 1, "the text on disk counts again, and is another one");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Draft {
    roots: Vec<PathBuf>,
    catalogue: Catalogue,
    texts: Texts,
    /// The files there are, once somebody has looked.
    found: Option<(Vec<PathBuf>, Vec<ReadError>)>,
    /// What each file is the first of.
    kept: BTreeMap<PathBuf, Kept>,
    /// What was read of each of them, whether it still holds or not.
    memories: BTreeMap<PathBuf, Memory>,
    now: Option<Now>,
}

/// Some wiring, and all files that were asked for to read it, as they were on disk.
#[derive(Debug)]
struct Kept {
    wiring: Wiring,
    asked: BTreeMap<PathBuf, Option<Stamp>>,
}

/// What everything is at the moment.
#[derive(Debug)]
struct Now {
    wirings: Vec<Wiring>,
    troubles: Vec<ReadError>,
}

/// Whether people write in a folder of that name: what programs put beside it can be much.
fn is_written_in(name: &std::ffi::OsStr) -> bool {
    let name = name.to_string_lossy();
    !name.starts_with('.') && name != "target" && name != "node_modules"
}

/// The number of a file among those of some wiring.
fn file_of(wiring: &Wiring, path: &Path) -> Option<u32> {
    let path = whole(path);
    let at = wiring.sources().iter().position(|source| whole(Path::new(source.name())) == path)?;
    u32::try_from(at).ok()
}

impl Draft {
    /// Everything that the paths mean: files, or folders of them.
    pub fn new(roots: Vec<PathBuf>, catalogue: Catalogue) -> Self {
        Self {
            roots,
            catalogue,
            texts: Texts::keeping(),
            found: None,
            kept: BTreeMap::new(),
            memories: BTreeMap::new(),
            now: None,
        }
    }

    /// From here on a file has that text, whatever is on disk; with none, the one on disk. Says whether that changes anything.
    pub fn edit(&mut self, path: &Path, text: Option<String>) -> bool {
        let changes = self.texts.set(path, text);
        if changes {
            self.touched(path);
        }
        changes
    }

    /// Looks at the disk again: files may have other texts there, be new, or gone.
    pub fn look_again(&mut self) {
        let is_as_it_was = |kept: &Kept| kept.asked.iter().all(|(path, known)| stamp(path) == *known);
        self.kept.retain(|_, kept| is_as_it_was(kept));
        self.texts.forget();
        self.found = None;
        self.now = None;
    }

    fn touched(&mut self, path: &Path) {
        let path = whole(path);
        self.kept.retain(|_, kept| !kept.asked.contains_key(&path));
        self.now = None;
    }

    /// The text that a file has now.
    ///
    /// # Errors
    /// As for [`text`](crate::text).
    pub fn text(&self, path: &Path) -> Result<String, ReadError> {
        self.texts.text(path)
    }

    /// From here on it is everything that those paths mean.
    pub fn set_roots(&mut self, roots: Vec<PathBuf>) {
        self.roots = roots;
        self.found = None;
        self.now = None;
    }

    /// Looks at a file, too, that is below none of the paths; and at its project, if it is a scene of one that stands in the same folder or a few above, and not
    /// below the paths itself.
    pub fn look_at(&mut self, path: &Path) {
        let path = whole(path);
        let is_below = self.roots.iter().any(|root| path.starts_with(whole(root)));
        if is_below && find::is_wiring(&path) {
            let reads = self.with(&path);
            let is_alone =
                |at: &usize| matches!(self.now.as_ref().map(|now| &now.wirings[*at]), Some(Wiring::Scene(_)));
            if !reads.iter().all(is_alone) {
                return;
            }
        }
        let head = Projects::default().of(&path, &self.catalogue);
        let head = head.map(|(project, _)| whole(Path::new(project.head().name())));
        let new = if is_below && find::is_wiring(&path) { head } else { head.or(Some(path)) };
        if let Some(new) = new.filter(|new| !self.roots.contains(new)) {
            self.roots.push(new);
            self.found = None;
            self.now = None;
        }
    }

    /// Everything as it is now.
    pub fn wirings(&mut self) -> &[Wiring] {
        &self.read().wirings
    }

    /// What could not be read.
    pub fn troubles(&mut self) -> &[ReadError] {
        &self.read().troubles
    }

    fn read(&mut self) -> &Now {
        if self.now.is_none() {
            let now = self.read_again();
            self.now = Some(now);
        }
        self.now.get_or_insert_with(|| Now { wirings: Vec::new(), troubles: Vec::new() })
    }

    fn read_again(&mut self) -> Now {
        let roots = &self.roots;
        let (found, lost) = self.found.get_or_insert_with(|| find::find_in(roots, &is_written_in));
        let (texts, catalogue, kept) = (&self.texts, &self.catalogue, &mut self.kept);
        let memories = &mut self.memories;
        memories.retain(|path, _| found.contains(path));
        let mut found = found.clone();
        // What is open may not be on disk yet.
        for path in texts.all_open().filter(|path| !path.exists()) {
            let is_below = find::is_wiring(path) && roots.iter().any(|root| path.starts_with(whole(root)));
            if (is_below || roots.iter().any(|root| root == path)) && !found.contains(path) {
                found.push(path.clone());
            }
        }
        found.sort();
        let is_head = |path: &Path| texts.is_project(path);
        let whole = |path: &Path| texts.whole(path);
        let read = |path: &Path| {
            if let Some(Kept { wiring, .. }) = kept.get(path) {
                return Ok(wiring.clone());
            }
            texts.take_asked();
            let memory = memories.entry(path.to_owned()).or_default();
            let wiring = read_as(path, catalogue, texts, Some(memory))?;
            let asked =
                texts.take_asked().into_iter().map(|path| (path.clone(), texts.stamp(&path))).collect();
            kept.insert(path.to_owned(), Kept { wiring: wiring.clone(), asked });
            Ok(wiring)
        };
        let (wirings, mut troubles) = read_found(&found, roots, &whole, is_head, read);
        let is_lost = |trouble: &&ReadError| matches!(trouble, ReadError::Unreadable { .. });
        troubles.extend(lost.iter().filter(is_lost).cloned());
        Now { wirings, troubles }
    }

    /// The place among the [`wirings`](Self::wirings) of those that a file is read with.
    pub fn with(&mut self, path: &Path) -> Vec<usize> {
        let reads = |wiring: &Wiring| file_of(wiring, path).is_some();
        self.wirings().iter().enumerate().filter(|(_, wiring)| reads(wiring)).map(|(at, _)| at).collect()
    }

    /// Where that is found which is named at a byte of a file, in all wiring that it is declared in: the place of the wiring, the number of the file in it, and the byte.
    pub fn meant(&mut self, path: &Path, byte: u32) -> Vec<(usize, u32, u32)> {
        let mut found: Vec<(usize, u32, u32)> = Vec::new();
        let mut declared: Vec<(PathBuf, u32)> = Vec::new();
        for at in self.with(path) {
            let wiring = self.wirings()[at].clone();
            let Some(file) = file_of(&wiring, path) else { continue };
            found.push((at, file, byte));
            let index = wiring.index();
            let places = index.at(file, byte).into_iter().flat_map(|thing| &thing.places);
            for place in places.filter(|place| place.role == NameRole::Declared) {
                let source = wiring.sources().get(place.span.file);
                declared.extend(source.map(|source| (whole(Path::new(source.name())), place.span.start)));
            }
        }
        // What several wirings share is declared in each of them.
        for (path, byte) in declared {
            for at in self.with(&path) {
                let file = file_of(&self.wirings()[at], &path);
                if let Some(file) = file.filter(|_| !found.iter().any(|(known, ..)| *known == at)) {
                    found.push((at, file, byte));
                }
            }
        }
        found
    }

    /// What must be changed so that what is named at a byte of a file has another name, in all wiring that file is read with: file by file, in the order of the text.
    /// Nothing is changed.
    ///
    /// # Errors
    /// [`RenameError`]
    pub fn rename(
        &mut self,
        path: &Path,
        byte: u32,
        new: &str,
    ) -> Result<BTreeMap<PathBuf, Vec<Edit>>, RenameError> {
        let mut all: BTreeMap<PathBuf, Vec<Edit>> = BTreeMap::new();
        for (at, file, byte) in self.meant(path, byte) {
            let wiring = self.wirings()[at].clone();
            let index = wiring.index();
            let Some(thing) = index.at(file, byte) else { continue };
            let read = |edited: &BTreeMap<String, String>| self.read_with(&wiring, edited);
            let (edits, _) = rename::edits(&wiring, &index, thing, new, read)?;
            for edit in edits {
                let Some(source) = wiring.sources().get(edit.span.file) else { continue };
                let of_file = all.entry(whole(Path::new(source.name()))).or_default();
                let same =
                    |known: &Edit| (known.span.start, known.span.end) == (edit.span.start, edit.span.end);
                if !of_file.iter().any(same) {
                    of_file.push(edit);
                }
            }
        }
        if all.is_empty() {
            let (asked, path) = ("a name".to_owned(), path.display().to_string());
            return Err(RenameError::Nothing { asked, path, near: " at this place".to_owned() });
        }
        Ok(all)
    }

    /// How some wiring would be read with other texts in some of its files, by their names as they are among its sources. Nothing is changed.
    ///
    /// # Errors
    /// As for [`read`](crate::read()).
    pub fn read_with(&self, wiring: &Wiring, edited: &BTreeMap<String, String>) -> Result<Wiring, ReadError> {
        read_as(&wiring.head(), &self.catalogue, &self.texts.and(edited), Some(&mut Memory::default()))
    }

    /// Whether two are the same, and not only equal.
    pub fn is_same(one: &Wiring, two: &Wiring) -> bool {
        match (one, two) {
            (Wiring::Scene(one), Wiring::Scene(two)) => Arc::ptr_eq(one, two),
            (Wiring::Project(one), Wiring::Project(two)) => Arc::ptr_eq(one, two),
            (Wiring::SceneOf(one, number), Wiring::SceneOf(two, other)) => {
                Arc::ptr_eq(one, two) && number == other
            }
            _ => false,
        }
    }
}
