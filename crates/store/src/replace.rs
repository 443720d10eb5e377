//! Bytes into a file, all of them or none.

use std::{
    fs::{self, File},
    io::{self, Write},
    path::{Path, PathBuf},
    time::Duration,
};

/// What a file is called until it is moved into place.
const BESIDE: &str = ".stoicheon-";

/// How old what another process left behind must be to be cleared away.
const LEFT: Duration = Duration::from_mins(1);

/// How many links are followed before they are taken for a circle, as the system does.
const LINKS: usize = 40;

/// A reader finds the old content or all of the new content, even if the process is killed in between. Links and
/// permissions are kept. A terminal or a pipe is written to directly.
pub(crate) fn replace(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let before = fs::metadata(path).ok();
    if before.as_ref().is_some_and(fs::Metadata::is_dir) {
        return Err(io::ErrorKind::IsADirectory.into());
    }
    if before.as_ref().is_some_and(|before| !before.is_file()) {
        let mut stream = File::options().write(true).open(path)?;
        stream.write_all(bytes)?;
        return stream.flush();
    }
    let target = linked(path)?;
    if before.as_ref().is_some_and(|before| before.permissions().readonly()) {
        return Err(io::Error::new(io::ErrorKind::PermissionDenied, "it is kept from being written"));
    }
    let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    clear_away(folder);
    let mut beside = tempfile::Builder::new();
    beside.prefix(BESIDE);
    open_to_others(&mut beside);
    let mut beside = beside.tempfile_in(folder)?;
    // Held while it is written, so that nobody takes it for one that was left behind.
    beside.as_file().lock().ok();
    beside.write_all(bytes)?;
    if let Some(before) = before {
        beside.as_file().set_permissions(before.permissions())?;
    }
    beside.as_file().sync_all()?;
    beside.persist(&target)?;
    // That it was moved is made sure of too, where a folder can be.
    File::open(folder).and_then(|folder| folder.sync_all()).ok();
    Ok(())
}

/// A new file gets the permissions that the system gives new files; a temporary one would be private.
#[cfg(unix)]
fn open_to_others(beside: &mut tempfile::Builder<'_, '_>) {
    use std::os::unix::fs::PermissionsExt;
    beside.permissions(fs::Permissions::from_mode(0o666));
}

#[cfg(not(unix))]
fn open_to_others(_: &mut tempfile::Builder<'_, '_>) {}

/// What a path means once its links are followed; also one to a file that is not there yet.
fn linked(path: &Path) -> io::Result<PathBuf> {
    let mut target = path.to_owned();
    for _ in 0..LINKS {
        match fs::symlink_metadata(&target) {
            Ok(found) if found.is_symlink() => {
                let next = fs::read_link(&target)?;
                target = target.parent().map_or(next.clone(), |folder| folder.join(&next));
            }
            _ => return Ok(target),
        }
    }
    Err(io::Error::other("its links lead in a circle"))
}

/// What a process that was ended in the middle left behind. That none can be cleared away is no reason not to write.
fn clear_away(folder: &Path) {
    for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
        if !entry.file_name().to_string_lossy().starts_with(BESIDE) {
            continue;
        }
        let is_old = |found: &fs::Metadata| {
            found.modified().ok().and_then(|at| at.elapsed().ok()).is_some_and(|age| age > LEFT)
        };
        if !entry.metadata().is_ok_and(|found| found.is_file() && is_old(&found)) {
            continue;
        }
        let path = entry.path();
        if File::open(&path).is_ok_and(|file| file.try_lock().is_ok()) {
            fs::remove_file(path).ok();
        }
    }
}
