//! Finding and reading wiring files.

use std::path::{Path, PathBuf};

use stoicheon_core::Catalogue;
use stoicheon_script::{Loaded, load};
use walkdir::WalkDir;

use crate::out::Misuse;

/// The files meant by the paths: a file itself, or all `.stoi` files of a folder, by name.
pub(crate) fn find(paths: &[PathBuf]) -> Result<Vec<PathBuf>, Misuse> {
    let mut files = Vec::new();
    for path in paths {
        if path.is_file() {
            files.push(path.clone());
        } else if path.is_dir() {
            let before = files.len();
            let entries = WalkDir::new(path).sort_by_file_name().into_iter().filter_map(Result::ok);
            let is_wiring = |path: &Path| path.extension().is_some_and(|ending| ending == "stoi");
            files.extend(
                entries.map(walkdir::DirEntry::into_path).filter(|path| is_wiring(path) && path.is_file()),
            );
            if files.len() == before {
                return Err(Misuse::NoFiles(path.clone()));
            }
        } else {
            return Err(Misuse::Missing(path.clone()));
        }
    }
    Ok(files)
}

/// Reads and checks a file.
pub(crate) fn read(path: &Path) -> Result<Loaded, Misuse> {
    let bytes = std::fs::read(path).map_err(|error| match error.kind() {
        std::io::ErrorKind::NotFound => Misuse::Missing(path.to_owned()),
        _ => Misuse::Unreadable { path: path.to_owned(), reason: error.to_string() },
    })?;
    let text = String::from_utf8(bytes)
        .map_err(|error| Misuse::NotText { path: path.to_owned(), at: error.utf8_error().valid_up_to() })?;
    Ok(load(&path.display().to_string(), &text, &Catalogue::built_in()))
}
