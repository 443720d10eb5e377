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
    staged(path, bytes)?.put()
}

/// All of them, or none: nothing is moved into place before all are written, and what was moved is put back if a later one cannot be.
/// The error is that of the file at that place of the list.
pub(crate) fn replace_all(files: &[(PathBuf, Vec<u8>)]) -> Result<(), (usize, io::Error)> {
    let mut all = Vec::new();
    for (number, (path, bytes)) in files.iter().enumerate() {
        let old = fs::read(path).ok();
        all.push((old, staged(path, bytes).map_err(|error| (number, error))?));
    }
    let mut moved: Vec<(usize, Option<Vec<u8>>)> = Vec::new();
    for (number, (old, staged)) in all.into_iter().enumerate() {
        if let Err(error) = staged.put() {
            for (number, old) in moved {
                // What is not put back is there with its new content, which is whole.
                let _ = old.map(|old| replace(&files[number].0, &old));
            }
            return Err((number, error));
        }
        moved.push((number, old));
    }
    Ok(())
}

/// New content that is written, but not yet in its place.
enum Staged {
    /// What is no file is written to when its turn comes.
    Direct(PathBuf, Vec<u8>),
    Beside(tempfile::NamedTempFile, PathBuf),
}

impl Staged {
    fn put(self) -> io::Result<()> {
        match self {
            Self::Direct(path, bytes) => {
                let mut stream = File::options().write(true).open(path)?;
                stream.write_all(&bytes)?;
                stream.flush()
            }
            Self::Beside(beside, target) => {
                beside.persist(&target)?;
                // That it was moved is made sure of too, where a folder can be.
                File::open(folder_of(&target)).and_then(|folder| folder.sync_all()).ok();
                Ok(())
            }
        }
    }
}

fn folder_of(target: &Path) -> &Path {
    target.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

fn staged(path: &Path, bytes: &[u8]) -> io::Result<Staged> {
    let before = fs::metadata(path).ok();
    if before.as_ref().is_some_and(fs::Metadata::is_dir) {
        return Err(io::ErrorKind::IsADirectory.into());
    }
    if before.as_ref().is_some_and(|before| !before.is_file()) {
        return Ok(Staged::Direct(path.to_owned(), bytes.to_vec()));
    }
    let target = linked(path)?;
    if before.as_ref().is_some_and(|before| before.permissions().readonly()) {
        return Err(io::Error::new(io::ErrorKind::PermissionDenied, "it is kept from being written"));
    }
    let folder = folder_of(&target);
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
    Ok(Staged::Beside(beside, target))
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
