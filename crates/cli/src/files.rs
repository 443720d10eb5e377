//! Finding and reading wiring files.

use std::{
    collections::BTreeSet,
    path::{Path, PathBuf},
    sync::Arc,
};

use stoicheon_core::Catalogue;
use stoicheon_script::{Project, is_project, load_with};
use walkdir::WalkDir;

use crate::{out::Misuse, wiring::Wiring};

fn is_wiring(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending == "stoi")
}

/// The files meant by the paths: a file itself, or all `.stoi` files of a folder, by name.
pub(crate) fn find(paths: &[PathBuf]) -> Result<Vec<PathBuf>, Misuse> {
    let mut files = Vec::new();
    for path in paths {
        if path.is_file() {
            files.push(path.clone());
        } else if path.is_dir() {
            let before = files.len();
            let entries = WalkDir::new(path).sort_by_file_name().into_iter().filter_map(Result::ok);
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

/// The one file a folder is played by: that of its project, or the only one in it. A file is itself.
pub(crate) fn head_of(path: &Path) -> Result<PathBuf, Misuse> {
    if !path.is_dir() {
        return Ok(path.to_owned());
    }
    let all = find(&[path.to_owned()])?;
    let mut projects = Vec::new();
    for file in &all {
        if is_project(&text(file)?) {
            projects.push(file.clone());
        }
    }
    match (&projects[..], &all[..]) {
        ([one], _) | ([], [one]) => Ok(one.clone()),
        (several, all) => {
            let (count, word) = if several.is_empty() {
                (all.len(), "scenes and no project")
            } else {
                (several.len(), "projects")
            };
            Err(Misuse::WhichFile { path: path.to_owned(), found: format!("{count} {word}") })
        }
    }
}

/// The text of a file.
pub(crate) fn text(path: &Path) -> Result<String, Misuse> {
    let bytes = std::fs::read(path).map_err(|error| match error.kind() {
        std::io::ErrorKind::NotFound => Misuse::Missing(path.to_owned()),
        _ => Misuse::Unreadable { path: path.to_owned(), reason: error.to_string() },
    })?;
    String::from_utf8(bytes)
        .map_err(|error| Misuse::NotText { path: path.to_owned(), at: error.utf8_error().valid_up_to() })
}

/// The built-in catalogue, with that of a game if its file is given.
pub(crate) fn catalogue(path: Option<&PathBuf>) -> Result<Catalogue, Misuse> {
    let Some(path) = path else { return Ok(Catalogue::built_in()) };
    let found: Catalogue = serde_json::from_str(&text(path)?)
        .map_err(|error| Misuse::NoCatalogue { path: path.clone(), reason: error.to_string() })?;
    Ok(Catalogue::built_in().and(&found))
}

/// The file beside another one that a path in that one means.
fn beside(file: &Path, path: &str) -> PathBuf {
    file.parent().map_or_else(|| PathBuf::from(path), |folder| folder.join(path))
}

/// Reads and checks a file: one scene, or a project with all its scenes.
pub(crate) fn read(path: &Path, catalogue: &Catalogue) -> Result<Wiring, Misuse> {
    let text_of = text(path)?;
    let name = path.display().to_string();
    let reader = |wanted: &str| {
        text(&beside(path, wanted)).map_err(|misuse| match misuse {
            Misuse::Missing(_) => "there is no such file".to_owned(),
            other => other.to_string(),
        })
    };
    if !is_project(&text_of) {
        return Ok(Wiring::Scene(Box::new(load_with(&name, &text_of, catalogue, &reader))));
    }
    Ok(Wiring::Project(Arc::new(Project::load(&name, &text_of, catalogue, &reader))))
}

/// Reads and checks everything the paths mean. What a file of a folder shares, or names as a scene, is read with that
/// file and not once more alone.
pub(crate) fn read_all(paths: &[PathBuf], catalogue: &Catalogue) -> Result<Vec<Wiring>, Misuse> {
    let found = find(paths)?;
    let mut read_files = Vec::new();
    let mut parts = BTreeSet::new();
    for path in found {
        let loaded = read(&path, catalogue)?;
        let project = is_project(&text(&path)?);
        for part in loaded.parts() {
            let sources = part.sources().iter().skip(1);
            parts.extend(sources.map(|source| PathBuf::from(source.name())));
        }
        read_files.push((path, loaded, project));
    }
    let named = |path: &PathBuf| paths.contains(path);
    read_files.retain(|(path, _, project)| *project || named(path) || !parts.contains(path));
    Ok(read_files.into_iter().map(|(_, loaded, _)| loaded).collect())
}
