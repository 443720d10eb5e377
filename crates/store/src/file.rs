//! Files, whole or not at all.

use std::{
    fs,
    path::{Path, PathBuf},
};

use crate::{
    Content, Form, StoreError, from_bytes,
    replace::{replace, replace_all},
    to_bytes,
};

/// Writes a file: as CBOR if its name ends in `.cbor`, as JSON otherwise. A reader finds what was there before or
/// all of it, even if this process ends in the middle: it is written beside, made sure of, and then moved there.
///
/// # Errors
/// [`StoreError::Unwritable`] or [`StoreError::Unfit`].
pub fn write<T: Content>(path: &Path, content: &T) -> Result<(), StoreError> {
    let is_cbor = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("cbor"));
    let bytes = to_bytes(content, if is_cbor { Form::Cbor } else { Form::Json })?;
    replace(path, &bytes).map_err(|reason| StoreError::Unwritable { path: path.to_owned(), reason })
}

/// Writes a text in the same way, whatever it is the text of: wiring, a drawing, a catalogue.
///
/// ```
/// # let folder = tempfile::tempdir()?;
/// let path = folder.path().join("lock.stoi");
/// stoicheon_store::write_text(&path, "object hatch\n")?;
/// assert_eq!(std::fs::read_to_string(&path)?, "object hatch\n");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
///
/// # Errors
/// [`StoreError::Unwritable`].
pub fn write_text(path: &Path, text: &str) -> Result<(), StoreError> {
    replace(path, text.as_bytes()).map_err(|reason| StoreError::Unwritable { path: path.to_owned(), reason })
}

/// Writes bytes in the same way: a picture.
///
/// # Errors
/// [`StoreError::Unwritable`].
pub fn write_bytes(path: &Path, bytes: &[u8]) -> Result<(), StoreError> {
    replace(path, bytes).map_err(|reason| StoreError::Unwritable { path: path.to_owned(), reason })
}

/// Writes several files, all of them or none: each is written beside its place before the first is moved there, and what was moved is put
/// back if a later one cannot be.
///
/// ```
/// # let folder = tempfile::tempdir()?;
/// let [one, two] = ["lock.stoi", "nowhere/tunnel.stoi"].map(|name| folder.path().join(name));
/// let files = [(one.clone(), b"object hatch\n".to_vec()), (two, Vec::new())];
/// assert!(stoicheon_store::write_together(&files).is_err());
/// assert!(!one.exists());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
///
/// # Errors
/// [`StoreError::Unwritable`], of the first that cannot be written.
pub fn write_together(files: &[(PathBuf, Vec<u8>)]) -> Result<(), StoreError> {
    replace_all(files)
        .map_err(|(number, reason)| StoreError::Unwritable { path: files[number].0.clone(), reason })
}

/// Reads a file.
///
/// # Errors
/// [`StoreError::Unreadable`], and what is wrong with what it holds.
pub fn read<T: Content>(path: &Path) -> Result<T, StoreError> {
    let bytes = fs::read(path).map_err(|reason| StoreError::Unreadable { path: path.to_owned(), reason })?;
    from_bytes(&bytes)
}
