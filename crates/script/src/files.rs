//! The files of a scene, and those it shares: read together, each once.

use std::{collections::BTreeSet, sync::Arc};

use smol_str::SmolStr;
use stoicheon_core::Catalogue;

use crate::{
    diagnostic::{Code, Diagnostic},
    memory::Memory,
    model::{File, Name},
    places::PlacesRead,
    reparse::ParsedText,
    resolve::follow,
    source::{Sources, Span, normal},
};

/// Texts past this are refused: places in them are counted in 32 bits.
const LONGEST_TEXT: usize = 1 << 30;

/// How many files one scene may share.
const MOST_FILES: usize = 1000;

/// Reads a file by the path that is written, which is relative to the first file; an error is what to tell people.
pub(crate) type Read<'r> = &'r dyn Fn(&str) -> Result<String, String>;

/// Files that were read together, and what is wrong with them so far.
#[derive(Debug, Default)]
pub(crate) struct Files<'m> {
    pub(crate) sources: Sources,
    pub(crate) models: Vec<Arc<File>>,
    pub(crate) diagnostics: Vec<Diagnostic>,
    /// The files of the scene that is being read.
    names: BTreeSet<SmolStr>,
    /// Which of them shares which, and where that is written.
    shares: Vec<(SmolStr, SmolStr, Span)>,
    /// Which scene of a project that is.
    pub(crate) scene_number: u32,
    /// The files of places among them.
    pub(crate) placed: Vec<PlacesRead>,
    /// What was read last time.
    pub(crate) memory: Option<&'m mut Memory>,
}

impl<'m> Files<'m> {
    /// No files yet, and what was read last time.
    pub(crate) fn with_memory(mut memory: Option<&'m mut Memory>) -> Self {
        if let Some(memory) = &mut memory {
            memory.begin();
        }
        Self { memory, ..Self::default() }
    }

    /// Files that were read before, to which one more is added.
    pub(crate) fn with(sources: Sources, models: Vec<Arc<File>>, scene_number: u32) -> Self {
        Self { sources, models, scene_number, ..Self::default() }
    }

    /// What is read from here on is another scene of the project.
    pub(crate) fn next_scene(&mut self) {
        self.scene_number += 1;
        self.names.clear();
        self.shares.clear();
    }

    /// Reads a text, and the files it shares.
    pub(crate) fn open(&mut self, name: &str, text: &str, read: Read<'_>) {
        self.parse(name, text);
        let first = self.models.len() - 1;
        let mut at = first;
        while let Some(file) = self.models.get(at) {
            let number = u32::try_from(at).unwrap_or(u32::MAX);
            let by = self.sources.get(number).map(|source| normal(source.name())).unwrap_or_default();
            for shared in file.shared.clone() {
                self.share(&shared, &by, read);
            }
            at += 1;
        }
        self.circles();
        self.places(first, read);
    }

    /// Files that share each other in a circle. Each is read once all the same.
    fn circles(&mut self) {
        let names: Vec<SmolStr> = self.names.iter().cloned().collect();
        let number = |name: &SmolStr| names.binary_search(name).ok();
        let mut next = vec![Vec::new(); names.len()];
        for (by, shared, _) in &self.shares {
            if let (Some(by), Some(shared)) = (number(by), number(shared)) {
                next[by].push(shared);
            }
        }
        for circle in follow(names.len(), |file| next[file].clone()).circles {
            let round: Vec<_> =
                circle.iter().chain(circle.first()).map(|file| names[*file].as_str()).collect();
            let message = format!("these files share each other in a circle: {}", round.join(", "));
            // Each is read once, so that all of them say what they say; but none can be read without the others.
            let mut diagnostic = Diagnostic::warning(Code::Circle, message);
            for pair in round.windows(2) {
                let written = self.shares.iter().find(|(by, shared, _)| [by, shared] == [pair[0], pair[1]]);
                let label = if circle.len() == 1 { "shares itself" } else { "shares the next" };
                diagnostic = written.into_iter().fold(diagnostic, |told, (.., span)| told.at(*span, label));
            }
            self.diagnostics.push(diagnostic.help("move what both need to a third file"));
        }
    }

    /// What only the file of a project says, in files that are none.
    pub(crate) fn misplaced(&mut self, from: usize) {
        for (number, file) in self.models.iter().enumerate().skip(from) {
            let start = Span::new(u32::try_from(number).unwrap_or(u32::MAX), 0, 0);
            let seeds = (!file.seeds.is_empty()).then_some(("seeds", start));
            let words = [
                file.given.first().map(|given| ("given NAME = …", given.name.span)),
                file.ticks.map(|ticks| ("ticks", ticks.span)),
                file.players.map(|players| ("players", players.span)),
                seeds,
                file.scenes.first().map(|scene| ("scene \"…\"", scene.file.span)),
            ];
            for (word, span) in words.into_iter().flatten() {
                let message = format!("`{word}` belongs in the file of a project, and this is not one");
                self.diagnostics.push(
                    Diagnostic::error(Code::Misplaced, message)
                        .at(span, "would apply to all scenes")
                        .help(if word.starts_with("given") {
                            "what is given is declared with its type: given stone_reach: number = 6; without one, the file of a project sets it"
                        } else {
                            "begin the file with `project NAME`, or move it to the file that does"
                        }),
                );
            }
        }
    }

    fn share(&mut self, shared: &Name, by: &SmolStr, read: Read<'_>) {
        // A file that is shared twice, or by a file it shares itself, is read once.
        let name = self.sources.beside(&shared.text);
        self.shares.push((by.clone(), name.clone(), shared.span));
        if self.names.contains(&name) {
            return;
        }
        if self.names.len() >= MOST_FILES {
            let message = format!("expected at most {MOST_FILES} files for one scene, found more");
            self.diagnostics.push(Diagnostic::error(Code::File, message).at(shared.span, "one too many"));
            return;
        }
        match read(&shared.text) {
            Ok(text) => self.parse(&name, &text),
            Err(why) => {
                let message = format!("the file \"{}\" could not be read", shared.text);
                self.diagnostics.push(Diagnostic::error(Code::File, message).at(shared.span, why));
            }
        }
    }

    pub(crate) fn parse(&mut self, name: &str, text: &str) {
        self.names.insert(normal(name));
        if text.len() > LONGEST_TEXT {
            let number = self.sources.add_of(self.scene_number, name, "");
            let message = format!("expected a text of up to {LONGEST_TEXT} bytes, found {}", text.len());
            let span = Span::new(number, 0, 0);
            self.diagnostics.push(Diagnostic::error(Code::File, message).at(span, "too long"));
            let (scene_number, source) = (self.scene_number, number);
            self.models.push(Arc::new(File { scene_number, source, ..File::default() }));
            return;
        }
        let numbers = (self.sources.len(), self.scene_number);
        if let Some(memory) = &mut self.memory {
            let (source, read) = memory.parsed(name, numbers, text);
            self.diagnostics.extend(read.faults().cloned());
            self.models.push(read.file.clone());
            self.sources.push(source.clone());
            return;
        }
        self.sources.add_of(self.scene_number, name, text);
        let read = ParsedText::of(text, numbers);
        self.diagnostics.extend(read.faults().cloned());
        self.models.push(read.file);
    }

    /// The catalogue together with those that the files name.
    pub(crate) fn catalogue(&mut self, catalogue: &Catalogue, read: Read<'_>) -> Catalogue {
        let mut all = catalogue.clone();
        let mut texts = Vec::new();
        for named in self.models.iter().flat_map(|file| &file.catalogues) {
            let found = read(&named.text);
            texts.extend(found.as_ref().ok().filter(|_| self.memory.is_some()).cloned());
            let found = found.and_then(|text| {
                serde_json::from_str::<Catalogue>(&text)
                    .map_err(|error| format!("this is not a catalogue: {error}"))
            });
            match found {
                Ok(found) => all = all.and(&found),
                Err(why) => {
                    let message = format!("the catalogue \"{}\" could not be read", named.text);
                    self.diagnostics.push(
                        Diagnostic::error(Code::File, message)
                            .at(named.span, why)
                            .help("a game writes its catalogue as JSON: see docs/language.md"),
                    );
                }
            }
        }
        if let Some(memory) = &mut self.memory {
            memory.catalogues(texts);
        }
        all
    }
}
