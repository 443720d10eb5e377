//! What was read last time, so that what has not changed is not read again.

use std::collections::{BTreeMap, BTreeSet};

use rustc_hash::FxHashMap;
use smol_str::SmolStr;

use crate::{
    diagnostic::Diagnostic,
    load::{AllRead, Loaded},
    reparse::ParsedText,
    source::{Source, Sources},
};

/// What is kept of some wiring from one reading to the next, for [`load_again`](crate::load_again) and [`Project::load_again`](crate::Project::load_again).
///
/// A file whose text is the same is not parsed again, and of one that was edited only the items around the edit are. A scene of a project is not looked
/// through again if no file has changed that it consists of or that all scenes share, and the other scenes still have the same names and spots. What comes back is the same as without it.
#[derive(Debug, Default)]
pub struct Memory {
    /// Files by their scenes and names: scenes may share one.
    parsed: FxHashMap<(u32, SmolStr), (Source, ParsedText)>,
    /// The scenes of which some file was parsed again, as files count them.
    fresh: BTreeSet<u32>,
    scenes: BTreeMap<u32, Scene>,
    /// The catalogues that files name, as texts.
    catalogues: Vec<String>,
    bytes_parsed: usize,
}

/// A scene that was looked through, without what its playtests say of others.
#[derive(Debug)]
struct Scene {
    name: Option<SmolStr>,
    faults: Vec<Diagnostic>,
    loaded: Loaded,
}

impl Memory {
    /// How many bytes were parsed in the last reading.
    pub fn bytes_parsed(&self) -> usize {
        self.bytes_parsed
    }

    /// Everything is read again from here on.
    pub(crate) fn begin(&mut self) {
        self.fresh.clear();
        self.bytes_parsed = 0;
    }

    /// A file with that text, as the file of that number, in that scene.
    pub(crate) fn parsed(
        &mut self,
        name: &str,
        (number, scene): (u32, u32),
        text: &str,
    ) -> &(Source, ParsedText) {
        let key = (scene, SmolStr::from(name));
        let old = self.parsed.get(&key).filter(|(_, read)| read.file.source == number);
        if old.is_none_or(|(source, _)| source.text() != text) {
            let edited = old.and_then(|(source, read)| read.edited(source.text(), text));
            let read = edited.unwrap_or_else(|| ParsedText::of(text, (number, scene)));
            self.bytes_parsed += read.parsed;
            self.fresh.insert(scene);
            let mut source = Source::new(name, text);
            source.scene_number = scene;
            self.parsed.insert(key.clone(), (source, read));
        }
        &self.parsed[&key]
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
        let names: BTreeSet<_> = sources.iter().map(|source| (source.scene_number, source.name())).collect();
        self.parsed.retain(|(scene, name), _| names.contains(&(*scene, name.as_str())));
    }
}
