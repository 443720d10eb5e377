//! What was read last time, so that what has not changed is not read again.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use rustc_hash::FxHashMap;
use smol_str::SmolStr;

use crate::{
    diagnostic::Diagnostic,
    load::{AllRead, Loaded},
    model::File,
    source::{Source, Sources},
};

/// What is kept of some wiring from one reading to the next, for [`load_again`](crate::load_again) and [`Project::load_again`](crate::Project::load_again).
///
/// A file whose text is the same is not parsed again. A scene of a project is not looked through again if no file has changed that it consists of or that all scenes
/// share, and the other scenes still have the same names and spots. What comes back is the same as without it.
#[derive(Debug, Default)]
pub struct Memory {
    parsed: FxHashMap<SmolStr, Parsed>,
    /// The scenes of which some file was parsed again, as files count them.
    fresh: BTreeSet<u32>,
    scenes: BTreeMap<u32, Scene>,
    /// The catalogues that files name, as texts.
    catalogues: Vec<String>,
}

/// A file that was parsed, and what was wrong with it.
#[derive(Debug)]
struct Parsed {
    source: Source,
    file: Arc<File>,
    faults: Vec<Diagnostic>,
}

/// A scene that was looked through, without what its playtests say of others.
#[derive(Debug)]
struct Scene {
    name: Option<SmolStr>,
    faults: Vec<Diagnostic>,
    loaded: Loaded,
}

impl Memory {
    /// Everything is read again from here on.
    pub(crate) fn begin(&mut self) {
        self.fresh.clear();
    }

    /// The file of that name, if it was parsed as the file of that number, in that scene, and has the same text.
    pub(crate) fn parsed(
        &self,
        name: &str,
        (number, scene): (u32, u32),
        text: &str,
    ) -> Option<(Source, Arc<File>, &[Diagnostic])> {
        let known = self.parsed.get(name)?;
        let is_of = known.file.source == number && known.file.scene_number == scene;
        let is_it = is_of && known.source.text() == text;
        is_it.then(|| (known.source.clone(), known.file.clone(), known.faults.as_slice()))
    }

    pub(crate) fn keep(&mut self, source: &Source, file: &Arc<File>, faults: &[Diagnostic]) {
        self.fresh.insert(file.scene_number);
        let parsed = Parsed { source: source.clone(), file: file.clone(), faults: faults.to_vec() };
        self.parsed.insert(source.name().into(), parsed);
    }

    /// The catalogues that files name: where one has changed, every scene has.
    pub(crate) fn catalogues(&mut self, texts: Vec<String>) {
        if self.catalogues != texts {
            self.fresh.insert(0);
            self.catalogues = texts;
        }
    }

    /// A scene as it was looked through, if that would come to the same now.
    pub(crate) fn scene(
        &self,
        number: u32,
        name: Option<&SmolStr>,
        faults: &[Diagnostic],
        all: &AllRead,
    ) -> Option<Loaded> {
        if [0, number].iter().any(|of| self.fresh.contains(of)) {
            return None;
        }
        let known = self.scenes.get(&number)?;
        let is_it =
            known.name.as_ref() == name && known.faults == faults && known.loaded.scenes == all.scenes;
        is_it.then(|| known.loaded.clone().of_now(all))
    }

    pub(crate) fn keep_scene(
        &mut self,
        number: u32,
        name: Option<SmolStr>,
        faults: Vec<Diagnostic>,
        loaded: &Loaded,
    ) {
        self.scenes.insert(number, Scene { name, faults, loaded: loaded.clone() });
    }

    /// Forgets what is no longer read.
    pub(crate) fn end(&mut self, sources: &Sources) {
        let names: BTreeSet<&str> = sources.iter().map(Source::name).collect();
        self.parsed.retain(|name, _| names.contains(name.as_str()));
    }
}
