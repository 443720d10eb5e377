//! Files, whole or not at all.

use std::{fs, io::Write, path::Path};

use crate::{Content, Form, StoreError, from_bytes, to_bytes};

/// Writes a file: as CBOR if its name ends in `.cbor`, as JSON otherwise. Whoever reads it finds what was there before or
/// all of it, even if this process ends in the middle: it is written beside, made sure of, and then moved there.
///
/// # Errors
/// [`StoreError::Unwritable`] or [`StoreError::Unfit`].
pub fn write<T: Content>(path: &Path, content: &T) -> Result<(), StoreError> {
    let is_cbor = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("cbor"));
    let bytes = to_bytes(content, if is_cbor { Form::Cbor } else { Form::Json })?;
    replace(path, &bytes).map_err(|reason| StoreError::Unwritable { path: path.to_owned(), reason })
}

fn replace(path: &Path, bytes: &[u8]) -> std::io::Result<()> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut beside = tempfile::Builder::new().prefix(".stoicheon-").tempfile_in(folder)?;
    beside.write_all(bytes)?;
    beside.as_file().sync_all()?;
    beside.persist(path)?;
    // That it was moved is made sure of too, where a folder can be.
    fs::File::open(folder).and_then(|folder| folder.sync_all()).ok();
    Ok(())
}

/// Reads a file.
///
/// # Errors
/// [`StoreError::Unreadable`], and what is wrong with what it holds.
pub fn read<T: Content>(path: &Path) -> Result<T, StoreError> {
    let bytes = fs::read(path).map_err(|reason| StoreError::Unreadable { path: path.to_owned(), reason })?;
    from_bytes(&bytes)
}
