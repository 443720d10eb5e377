//! Where the texts of files come from: the disk, or an editor in which they are open.

use std::{
    cell::RefCell,
    collections::{BTreeMap, BTreeSet, HashMap},
    path::{Path, PathBuf},
};

use stoicheon_script::is_project;

use crate::{
    find,
    read_error::ReadError,
    scene::{gltf_wiring, is_gltf},
};

/// What shows that a file on disk is another one: when it was written, and how long it is.
pub(crate) type Stamp = (std::time::SystemTime, u64);

pub(crate) fn stamp(path: &Path) -> Option<Stamp> {
    let known = path.metadata().ok()?;
    Some((known.modified().ok()?, known.len()))
}

/// What is known of the disk.
#[derive(Debug, Default)]
struct Disk {
    whole: HashMap<PathBuf, PathBuf>,
    files: HashMap<PathBuf, OnDisk>,
}

/// A file as it was read.
#[derive(Debug)]
struct OnDisk {
    text: Result<String, ReadError>,
    stamp: Option<Stamp>,
    is_project: bool,
}

impl OnDisk {
    fn read(path: &Path) -> Self {
        // One that is written meanwhile is read again when somebody looks.
        let stamp = stamp(path);
        let text = if is_gltf(path) { gltf_wiring(path) } else { find::text(path) };
        let is_project = text.as_ref().is_ok_and(|text| is_project(text));
        Self { text, stamp, is_project }
    }
}

/// Files as they are on disk, but for those that are open somewhere and have another text there.
#[derive(Debug, Default)]
pub(crate) struct Texts {
    open: BTreeMap<PathBuf, String>,
    /// Those that were asked for, since somebody wanted to know.
    asked: RefCell<BTreeSet<PathBuf>>,
    /// What was read, if it is read again and again.
    disk: Option<RefCell<Disk>>,
}

impl Texts {
    /// The texts of open files, by their names.
    pub(crate) fn edited(edited: &BTreeMap<String, String>) -> Self {
        let open = edited.iter().map(|(name, text)| (find::whole(Path::new(name)), text.clone()));
        Self { open: open.collect(), ..Self::default() }
    }

    /// The same, but for some files, which are called by their names.
    pub(crate) fn and(&self, edited: &BTreeMap<String, String>) -> Self {
        let mut open = self.open.clone();
        open.extend(Self::edited(edited).open);
        Self { open, ..Self::default() }
    }

    /// Files that are read again and again: each once, until the disk is [forgotten](Self::forget).
    pub(crate) fn keeping() -> Self {
        Self { disk: Some(RefCell::default()), ..Self::default() }
    }

    /// The disk may be another one from here on.
    pub(crate) fn forget(&mut self) {
        self.disk = self.disk.as_ref().map(|_| RefCell::default());
    }

    /// The path of a file that is the same however it is reached.
    pub(crate) fn whole(&self, path: &Path) -> PathBuf {
        let Some(disk) = &self.disk else { return find::whole(path) };
        let mut disk = disk.borrow_mut();
        if let Some(known) = disk.whole.get(path) {
            return known.clone();
        }
        let whole = find::whole(path);
        disk.whole.insert(path.to_owned(), whole.clone());
        whole
    }

    /// A file of the disk, by its whole path.
    fn on_disk<T>(&self, whole: PathBuf, asked: impl FnOnce(&OnDisk) -> T) -> T {
        let Some(disk) = &self.disk else { return asked(&OnDisk::read(&whole)) };
        let mut disk = disk.borrow_mut();
        asked(disk.files.entry(whole).or_insert_with_key(|whole| OnDisk::read(whole)))
    }

    /// What shows that a file on disk is another one than the one that was read.
    pub(crate) fn stamp(&self, path: &Path) -> Option<Stamp> {
        let whole = self.whole(path);
        let read = self.disk.as_ref().and_then(|disk| disk.borrow().files.get(&whole).map(|read| read.stamp));
        read.unwrap_or_else(|| stamp(path))
    }

    /// Whether a file is a project's.
    pub(crate) fn is_project(&self, path: &Path) -> bool {
        self.note(path);
        let whole = self.whole(path);
        match self.open.get(&whole) {
            Some(open) => is_project(open),
            None => self.on_disk(whole, |read| read.is_project),
        }
    }

    /// From here on a file has that text, or again the one on disk. Says whether that is another one than before, as far as that is known.
    pub(crate) fn set(&mut self, path: &Path, text: Option<String>) -> bool {
        let path = find::whole(path);
        match text {
            Some(text) if self.open.get(&path) == Some(&text) => false,
            Some(text) => {
                self.open.insert(path, text);
                true
            }
            None => {
                // It may have been saved since it was read.
                if let Some(disk) = &mut self.disk {
                    disk.get_mut().files.remove(&path);
                }
                self.open.remove(&path).is_some()
            }
        }
    }

    /// The files that are open.
    pub(crate) fn all_open(&self) -> impl Iterator<Item = &PathBuf> {
        self.open.keys()
    }

    /// Notes that a file was asked for.
    fn note(&self, path: &Path) {
        self.asked.borrow_mut().insert(self.whole(path));
    }

    /// The text of a file; of a scene that another program wrote, as wiring.
    ///
    /// # Errors
    /// As for [`find::text`] and [`gltf_wiring`].
    pub(crate) fn text(&self, path: &Path) -> Result<String, ReadError> {
        self.note(path);
        let whole = self.whole(path);
        match self.open.get(&whole) {
            Some(open) => Ok(open.clone()),
            None => self.on_disk(whole, |read| read.text.clone()),
        }
    }

    /// The files that were asked for since this was asked last.
    pub(crate) fn take_asked(&self) -> BTreeSet<PathBuf> {
        self.asked.take()
    }
}
