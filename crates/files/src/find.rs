//! Finding and reading wiring files.

use std::{
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
    sync::Arc,
};

use stoicheon_core::Catalogue;
use stoicheon_script::{Memory, Project, is_project, load_again, load_with};
use walkdir::{DirEntry, WalkDir};

use crate::{read_error::ReadError, scene::is_gltf, texts::Texts, wiring::Wiring};

pub(crate) fn is_wiring(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending == "stoi")
}

/// The files meant by the paths: a file itself, or all `.stoi` files of a folder, by name; and what could not be looked
/// at, which is no reason to leave out the rest.
pub fn find(paths: &[PathBuf]) -> (Vec<PathBuf>, Vec<ReadError>) {
    find_in(paths, &|_| true)
}

/// The same, for the folders below those that are looked into.
pub(crate) fn find_in(
    paths: &[PathBuf],
    looks_into: &dyn Fn(&std::ffi::OsStr) -> bool,
) -> (Vec<PathBuf>, Vec<ReadError>) {
    let (mut files, mut troubles) = (Vec::new(), Vec::new());
    for path in paths {
        if path.is_dir() {
            let before = (files.len(), troubles.len());
            let looked_into = |entry: &DirEntry| {
                entry.depth() == 0 || !entry.file_type().is_dir() || looks_into(entry.file_name())
            };
            for entry in WalkDir::new(path).sort_by_file_name().into_iter().filter_entry(looked_into) {
                match entry {
                    Ok(entry) if is_wiring(entry.path()) && entry.path().is_file() => {
                        files.push(entry.into_path());
                    }
                    Ok(_) => {}
                    Err(error) => troubles.push(ReadError::Unreadable {
                        path: error.path().unwrap_or(path).to_owned(),
                        reason: error.to_string(),
                    }),
                }
            }
            if before == (files.len(), troubles.len()) {
                troubles.push(ReadError::NoFiles(path.clone()));
            }
        } else if path.exists() {
            files.push(path.clone());
        } else {
            troubles.push(ReadError::Missing(path.clone()));
        }
    }
    (files, troubles)
}

/// The one file a folder is played by: that of its project, or the only one in it. A file is itself.
///
/// # Errors
/// [`ReadError::WhichFile`], and what reading the files of the folder says.
pub fn head_of(path: &Path) -> Result<PathBuf, ReadError> {
    if !path.is_dir() {
        return Ok(path.to_owned());
    }
    let (all, troubles) = find(&[path.to_owned()]);
    if let Some(trouble) = troubles.into_iter().next() {
        return Err(trouble);
    }
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
            Err(ReadError::WhichFile { path: path.to_owned(), found: format!("{count} {word}") })
        }
    }
}

/// The bytes of a file.
///
/// # Errors
/// [`ReadError::Missing`], [`ReadError::Unreadable`].
pub fn bytes(path: &Path) -> Result<Vec<u8>, ReadError> {
    std::fs::read(path).map_err(|error| match error.kind() {
        std::io::ErrorKind::NotFound => ReadError::Missing(path.to_owned()),
        _ => ReadError::Unreadable { path: path.to_owned(), reason: error.to_string() },
    })
}

/// The text of a file.
///
/// # Errors
/// [`ReadError::Missing`], [`ReadError::Unreadable`] or [`ReadError::NotText`].
pub fn text(path: &Path) -> Result<String, ReadError> {
    String::from_utf8(bytes(path)?)
        .map_err(|error| ReadError::NotText { path: path.to_owned(), at: error.utf8_error().valid_up_to() })
}

/// The built-in catalogue, with that of a game if its file is given.
///
/// # Errors
/// [`ReadError::NoCatalogue`], and as for [`text`].
pub fn catalogue(path: Option<&Path>) -> Result<Catalogue, ReadError> {
    let Some(path) = path else { return Ok(Catalogue::built_in()) };
    let found: Catalogue = serde_json::from_str(&text(path)?)
        .map_err(|error| ReadError::NoCatalogue { path: path.to_owned(), reason: error.to_string() })?;
    Ok(Catalogue::built_in().and(&found))
}

/// The path of a file that is the same however it is reached.
pub(crate) fn whole(path: &Path) -> PathBuf {
    path.canonicalize().unwrap_or_else(|_| path.to_owned())
}

/// The file beside another one that a path in that one means.
fn beside(file: &Path, path: &str) -> PathBuf {
    file.parent().map_or_else(|| PathBuf::from(path), |folder| folder.join(path))
}

/// Reads and checks a file: one scene, or a project with all its scenes.
///
/// # Errors
/// As for [`text`]. What is wrong inside the file is among the findings of what comes back.
pub fn read(path: &Path, catalogue: &Catalogue) -> Result<Wiring, ReadError> {
    read_as(path, catalogue, &Texts::default(), None)
}

/// The same for those who ask about its names, as if some files had another text: `edited` has them by their names, as they are among the sources of what was
/// [read](fn@read).
///
/// # Errors
/// As for [`read`](fn@read).
pub fn read_edited(
    path: &Path,
    catalogue: &Catalogue,
    edited: &BTreeMap<String, String>,
) -> Result<Wiring, ReadError> {
    read_as(path, catalogue, &Texts::edited(edited), Some(&mut Memory::default()))
}

/// With a memory, asking about names is cheap, and what has not changed since is not read again.
pub(crate) fn read_as(
    path: &Path,
    catalogue: &Catalogue,
    texts: &Texts,
    memory: Option<&mut Memory>,
) -> Result<Wiring, ReadError> {
    let name = path.display().to_string();
    // Only what wiring names is made wiring of.
    let text_of = if is_gltf(path) { text(path)? } else { texts.text(path)? };
    let reader = |wanted: &str| {
        texts.text(&beside(path, wanted)).map_err(|error| match error {
            ReadError::Missing(_) => "there is no such file".to_owned(),
            ReadError::NoPlaces { reason, .. } => reason.to_string(),
            other => other.to_string(),
        })
    };
    Ok(match (is_project(&text_of), memory) {
        (false, None) => Wiring::Scene(Arc::new(load_with(&name, &text_of, catalogue, &reader))),
        (false, Some(memory)) => {
            Wiring::Scene(Arc::new(load_again(&name, &text_of, catalogue, &reader, memory)))
        }
        (true, None) => Wiring::Project(Arc::new(Project::load(&name, &text_of, catalogue, &reader))),
        (true, Some(memory)) => {
            Wiring::Project(Arc::new(Project::load_again(&name, &text_of, catalogue, &reader, memory)))
        }
    })
}

/// The projects of the folders that were looked at, so that each is read once.
#[derive(Debug, Default)]
pub struct Projects {
    known: BTreeMap<PathBuf, Vec<Known>>,
    /// Their names will be asked about.
    noting: bool,
}

/// A project, and the places of its scenes among them by the paths of their files.
#[derive(Debug)]
struct Known {
    project: Arc<Project>,
    scenes: BTreeMap<PathBuf, usize>,
}

impl From<Arc<Project>> for Known {
    fn from(project: Arc<Project>) -> Self {
        let paths = project.scenes().iter().map(|scene| Path::new(scene.name()).canonicalize());
        // A file that is named twice is its first scene.
        let numbered = paths.enumerate().filter_map(|(number, path)| Some((path.ok()?, number)));
        let scenes = numbered.collect::<Vec<_>>().into_iter().rev().collect();
        Self { project, scenes }
    }
}

/// How far above a scene the file of its project is looked for, in folders.
const ABOVE: usize = 3;

impl Projects {
    /// The project that names a file as one of its scenes, and which of them it is. It stands in the same folder, or a few
    /// above.
    pub(crate) fn of(&mut self, path: &Path, catalogue: &Catalogue) -> Option<(Arc<Project>, usize)> {
        let wanted = path.canonicalize().ok()?;
        for folder in wanted.ancestors().skip(1).take(ABOVE) {
            let noting = self.noting;
            let read = || projects_in(folder, catalogue, noting).into_iter().map(Known::from).collect();
            let known: &mut Vec<Known> = self.known.entry(folder.to_owned()).or_insert_with(read);
            let found = known.iter().find_map(|known| Some((&known.project, *known.scenes.get(&wanted)?)));
            if let Some((project, number)) = found {
                return Some((project.clone(), number));
            }
        }
        None
    }
}

/// The projects whose files stand in a folder itself.
fn projects_in(folder: &Path, catalogue: &Catalogue, noting: bool) -> Vec<Arc<Project>> {
    let entries = WalkDir::new(folder).max_depth(1).sort_by_file_name().into_iter().filter_map(Result::ok);
    let files = entries.map(DirEntry::into_path).filter(|path| is_wiring(path) && path.is_file());
    let mut found = Vec::new();
    for path in files {
        if let Ok(text) = text(&path)
            && is_project(&text)
            && let Ok(Wiring::Project(project)) =
                read_as(&path, catalogue, &Texts::default(), noting.then(Memory::default).as_mut())
        {
            found.push(project);
        }
    }
    found
}

/// The same as [`read`]; but a scene of a project is read with its project.
///
/// # Errors
/// As for [`read`].
pub fn read_in_project(
    path: &Path,
    catalogue: &Catalogue,
    projects: &mut Projects,
) -> Result<Wiring, ReadError> {
    let mut memory = projects.noting.then(Memory::default);
    let read = read_as(path, catalogue, &Texts::default(), memory.as_mut())?;
    if let Wiring::Scene(scene) = &read
        && scene.scene_name().is_some()
        && let Some((project, number)) = projects.of(path, catalogue)
    {
        return Ok(Wiring::SceneOf(project, number));
    }
    Ok(read)
}

/// Reads and checks everything the paths mean. What a file of a folder shares, or names as a scene, is read with that
/// file and not once more alone. What cannot be read is told of, and the rest is read.
pub fn read_all(paths: &[PathBuf], catalogue: &Catalogue) -> (Vec<Wiring>, Vec<ReadError>) {
    read_all_as(paths, catalogue, false)
}

/// `noting` makes asking about names cheap.
pub(crate) fn read_all_as(
    paths: &[PathBuf],
    catalogue: &Catalogue,
    noting: bool,
) -> (Vec<Wiring>, Vec<ReadError>) {
    let (found, mut troubles) = find(paths);
    let mut projects = Projects { noting, ..Projects::default() };
    let is_project_file = |path: &Path| text(path).is_ok_and(|text| is_project(&text));
    let read = |path: &Path| read_in_project(path, catalogue, &mut projects);
    let (read, more) = read_found(&found, paths, &whole, is_project_file, read);
    troubles.extend(more);
    (read, troubles)
}

/// Reads files that were found, each once: what one of them shares, or names as a scene, only with it, unless it was asked for by its own path.
pub(crate) fn read_found(
    found: &[PathBuf],
    asked: &[PathBuf],
    whole: &dyn Fn(&Path) -> PathBuf,
    is_project: impl Fn(&Path) -> bool,
    mut read: impl FnMut(&Path) -> Result<Wiring, ReadError>,
) -> (Vec<Wiring>, Vec<ReadError>) {
    let mut troubles = Vec::new();
    let mut all: Vec<Option<Wiring>> = found.iter().map(|_| None).collect();
    let mut parts = BTreeSet::new();
    // Those of projects first: their scenes are read with them.
    for of_projects in [true, false] {
        for (path, kept) in found.iter().zip(&mut all) {
            if is_project(path) != of_projects || (parts.contains(&whole(path)) && !asked.contains(path)) {
                continue;
            }
            match read(path) {
                Ok(wiring) => {
                    let own = whole(path);
                    let sources = wiring.sources().iter().map(|source| whole(Path::new(source.name())));
                    parts.extend(sources.filter(|source| *source != own));
                    *kept = Some(wiring);
                }
                Err(trouble) => troubles.push(trouble),
            }
        }
    }
    // A file that shares others may come after them by name.
    let kept = found.iter().zip(all).filter(|(path, read)| {
        let is_head = matches!(read, Some(Wiring::Project(_)));
        is_head || asked.contains(path) || !parts.contains(&whole(path))
    });
    (kept.filter_map(|(_, read)| read).collect(), troubles)
}
