//! Projects: scenes that belong together, with what they share.

use std::{collections::BTreeMap, sync::Arc};

use smol_str::{SmolStr, format_smolstr};
use stoicheon_core::Catalogue;

use crate::{
    diagnostic::{Code, Diagnostic},
    load::{Files, Loaded, finish},
    model::File,
};

/// The scenes of a project, and the spots of each.
#[derive(Clone, Debug, Default)]
pub(crate) struct Scenes(BTreeMap<SmolStr, Vec<SmolStr>>);

impl Scenes {
    pub(crate) fn names(&self) -> impl Iterator<Item = &str> + Clone {
        self.0.keys().map(SmolStr::as_str)
    }

    pub(crate) fn spots_of(&self, scene: &str) -> Option<&[SmolStr]> {
        self.0.get(scene).map(Vec::as_slice)
    }
}

/// A project that was read and checked: each of its scenes, with the files that all of them share.
#[derive(Debug)]
pub struct Project {
    name: SmolStr,
    head: Loaded,
    scenes: Vec<Loaded>,
}

/// Whether a text is a project's file: one that names scenes.
pub fn is_project(text: &str) -> bool {
    text.lines().map(str::trim_start).any(|line| line.starts_with("project "))
}

/// The spots a scene has, by the names others find them by.
fn spots(files: &[File]) -> Vec<SmolStr> {
    let mut names = Vec::new();
    for file in files {
        names.extend(file.items.spots.iter().map(|spot| spot.name.text.clone()));
        for object in file.items.objects.iter().chain(&file.items.managers) {
            let of = |name: &SmolStr| format_smolstr!("{}.{name}", object.name.text);
            names.extend(object.spots.iter().map(|spot| of(&spot.name.text)));
        }
    }
    names
}

impl Project {
    /// Reads and checks a project's file and its scenes. `read` gives the text of a path as it is written there, or
    /// what to tell people.
    pub fn load(
        name: &str,
        text: &str,
        catalogue: &Catalogue,
        read: &dyn Fn(&str) -> Result<String, String>,
    ) -> Self {
        let mut head = Files::default();
        head.open(name, text, read);
        let catalogue = head.catalogue(catalogue, read);
        let own = head.models.first().cloned().unwrap_or_default();
        let mut all: Vec<Files> = Vec::new();
        let mut names: BTreeMap<SmolStr, Vec<SmolStr>> = BTreeMap::new();
        for path in &own.scenes {
            let text = match read(&path.text) {
                Ok(text) => text,
                Err(why) => {
                    let message = format!("the scene \"{}\" could not be read", path.text);
                    head.diagnostics.push(Diagnostic::error(Code::File, message).at(path.span, why));
                    continue;
                }
            };
            let mut files = Files::default();
            files.open(&head.sources.beside(&path.text), &text, read);
            for shared in &own.shared {
                files.share(shared, read);
            }
            let scene = files.models.first().and_then(|file| file.scene.clone());
            match scene {
                None => {
                    let message = format!("\"{}\" does not say which scene it is", path.text);
                    head.diagnostics.push(
                        Diagnostic::error(Code::UnknownScene, message)
                            .at(path.span, "no `scene` in it")
                            .help("begin it with: scene NAME"),
                    );
                }
                Some(scene) => {
                    if names.insert(scene.text.clone(), spots(&files.models)).is_some() {
                        let message = format!("two files are the scene `{}`", scene.text);
                        head.diagnostics.push(
                            Diagnostic::error(Code::NameTaken, message).at(path.span, "the second one"),
                        );
                    }
                }
            }
            all.push(files);
        }
        if own.scenes.is_empty() {
            let span = own.project.as_ref().map(|name| name.span).unwrap_or_default();
            head.diagnostics.push(
                Diagnostic::error(Code::UnknownScene, "a project names its scenes")
                    .at(span, "names none")
                    .help("scene \"harrow_lock.stoi\""),
            );
        }
        let scenes = Arc::new(Scenes(names));
        let scenes =
            all.into_iter().map(|files| finish(files, catalogue.clone(), Some(scenes.clone()))).collect();
        let name = own.project.map(|name| name.text).unwrap_or_default();
        // What the head shares is checked with each scene.
        head.models.clear();
        Self { name, head: finish(head, catalogue, None), scenes }
    }

    /// The name of the project.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The project's own file, with what is wrong with it.
    pub fn head(&self) -> &Loaded {
        &self.head
    }

    /// The scenes, in the order the project names them.
    pub fn scenes(&self) -> &[Loaded] {
        &self.scenes
    }

    /// The project's own file and its scenes, for whoever goes on with them one by one.
    pub fn into_parts(self) -> (Loaded, Vec<Loaded>) {
        (self.head, self.scenes)
    }

    /// Whether anything is so wrong that a scene cannot be built.
    pub fn has_errors(&self) -> bool {
        self.head.has_errors() || self.scenes.iter().any(Loaded::has_errors)
    }
}
