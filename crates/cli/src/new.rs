//! `stoicheon new`

use std::{fs, path::Path, time::Duration};

use crate::{
    args::New,
    out::{self, Misuse, Outcome},
};

/// What the folder is called until it is moved into place.
const BESIDE: &str = ".stoicheon-new-";

const PROJECT: &str = include_str!("../templates/project.stoi");
const LANDING: &str = include_str!("../templates/landing.stoi");

/// Makes a project in a folder that is not there yet, whole or not at all.
pub(crate) fn new(args: &New) -> Result<Outcome, Misuse> {
    let folder = args.folder.as_path();
    let name = folder.file_name().and_then(|name| name.to_str()).unwrap_or_default();
    let is_word = name.chars().all(|c| c.is_alphanumeric() || c == '_')
        && name.chars().next().is_some_and(|c| !c.is_numeric());
    if !is_word {
        return Err(Misuse::NoName(folder.to_owned()));
    }
    if folder.exists() {
        return Err(Misuse::Taken(folder.to_owned()));
    }
    let files =
        [(format!("{name}.stoi"), PROJECT.replace("PROJECT", name)), ("landing.stoi".into(), LANDING.into())];
    make(folder, &files)
        .map_err(|error| Misuse::Unwritable { path: folder.to_owned(), reason: error.to_string() })?;
    let path = folder.display();
    let head = folder.join(format!("{name}.stoi"));
    for (file, _) in &files {
        out::print(&format!("made {}\n", folder.join(file).display()));
    }
    let head = head.display();
    out::print(&format!("\n  stoicheon check {path}\n  stoicheon test {path}\n  stoicheon play {head}\n"));
    Ok(Outcome::Good)
}

/// The files are written beside the folder and moved there together.
fn make(folder: &Path, files: &[(String, String)]) -> std::io::Result<()> {
    let parent = folder.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
    fs::create_dir_all(parent)?;
    clear_away(parent);
    let whole = tempfile::Builder::new().prefix(BESIDE).tempdir_in(parent)?;
    let inner = whole.path().join("project");
    fs::create_dir(&inner)?;
    for (name, text) in files {
        stoicheon_store::write_text(&inner.join(name), text).map_err(std::io::Error::other)?;
    }
    fs::rename(inner, folder)
}

/// What a call that was ended in the middle left behind: nobody takes a minute to make two files.
fn clear_away(parent: &Path) {
    for entry in fs::read_dir(parent).into_iter().flatten().flatten() {
        let is_ours = entry.file_name().to_string_lossy().starts_with(BESIDE);
        let modified = entry.metadata().and_then(|found| found.modified());
        let age = modified.ok().and_then(|at| at.elapsed().ok());
        if is_ours && age.is_some_and(|age| age > Duration::from_mins(1)) {
            fs::remove_dir_all(entry.path()).ok();
        }
    }
}
