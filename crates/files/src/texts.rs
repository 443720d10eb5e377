//! Where the texts of files come from: the disk, or an editor in which they are open.

use std::{
    cell::RefCell,
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
};

use crate::{find, read_error::ReadError};

/// Files as they are on disk, but for those that are open somewhere and have another text there.
#[derive(Debug, Default)]
pub(crate) struct Texts {
    open: BTreeMap<PathBuf, String>,
    /// Those that were asked for, since somebody wanted to know.
    asked: RefCell<BTreeSet<PathBuf>>,
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

    /// From here on a file has that text, or again the one on disk. Says whether that is another one than before, as far as that is known.
    pub(crate) fn set(&mut self, path: &Path, text: Option<String>) -> bool {
        let path = find::whole(path);
        match text {
            Some(text) if self.open.get(&path) == Some(&text) => false,
            Some(text) => {
                self.open.insert(path, text);
                true
            }
            None => self.open.remove(&path).is_some(),
        }
    }

    /// The text of a file that is open.
    pub(crate) fn open(&self, path: &Path) -> Option<&str> {
        self.open.get(&find::whole(path)).map(String::as_str)
    }

    /// The files that are open.
    pub(crate) fn all_open(&self) -> impl Iterator<Item = &PathBuf> {
        self.open.keys()
    }

    /// Notes that a file was asked for.
    pub(crate) fn note(&self, path: &Path) {
        self.asked.borrow_mut().insert(find::whole(path));
    }

    /// The text of a file.
    ///
    /// # Errors
    /// As for [`find::text`].
    pub(crate) fn text(&self, path: &Path) -> Result<String, ReadError> {
        self.note(path);
        self.open(path).map_or_else(|| find::text(path), |open| Ok(open.to_owned()))
    }

    /// The files that were asked for since this was asked last.
    pub(crate) fn take_asked(&self) -> BTreeSet<PathBuf> {
        self.asked.take()
    }
}
