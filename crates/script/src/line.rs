//! A line of a playtest, read while a world runs; and a whole playtest that was written meanwhile.

use std::sync::Arc;

use stoicheon_core::{
    Error, Place, State,
    playtest::{Lines as _, PlaytestStep},
};

use crate::{
    build::Written,
    diagnostic::{Diagnostic, Severity},
    files::Files,
    load::Loaded,
    resolve::{NoIds, Resolver, View},
};

/// The words that only a playtest knows.
const OWN_WORDS: [&str; 5] = ["expect", "wait", "emit", "set", "{"];

/// A line that somebody wrote while a world runs: what players do, or statements, as a playtest has them.
///
/// ```
/// use stoicheon_core::{Catalogue, World, playtest::Underway};
/// let text = "scene lock\nobject upper_gate { door { over 100ms } }\nsignal bell";
/// let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
/// let mut world = World::<()>::new();
/// loaded.build(&mut world)?;
///
/// let line = loaded.line("open upper_gate", &[]);
/// assert_eq!((line.text(), line.errors().count()), ("{ open upper_gate }", 0));
/// let (place, step) = line.step(0, &world)?;
/// Underway::begin(&step, &place, &mut world)?;
/// world.step(&mut ())?;
/// assert_eq!(world.state_word(world.parts_of(world.find("upper_gate").unwrap())[0]), Some("opening"));
///
/// let slip = loaded.line("open uper_gate", &[]);
/// assert!(slip.errors().next().unwrap().message.contains("uper_gate"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Debug)]
pub struct Line {
    loaded: Loaded,
    text: String,
    number: usize,
}

impl Loaded {
    /// Reads a line that a playtest with these players could have, or statements as a reaction has them. What is wrong with it is told
    /// of by its [`errors`](Line::errors).
    pub fn line(&self, text: &str, players: &[&str]) -> Line {
        let text = text.trim();
        let written = |text: &str| {
            let known: Vec<_> = players.iter().map(|name| format!("player {name} at (0, 0, 0)")).collect();
            let known = known.join("\n");
            let loaded = self.with_playtest("line", &format!("playtest \"line\" {{\n{known}\n{text}\n}}\n"));
            let number = loaded.own_playtests().count().saturating_sub(1);
            Line { loaded, text: text.to_owned(), number }
        };
        let line = written(text);
        let word = text.split_whitespace().next().unwrap_or_default();
        if line.errors().next().is_none() || players.contains(&word) || OWN_WORDS.contains(&word) {
            return line;
        }
        written(&format!("{{ {text} }}"))
    }

    /// The same wiring with one more text that has a playtest, which is the last one then. The
    /// [`diagnostics`](Self::diagnostics) are those of that text.
    pub fn with_playtest(&self, name: &str, text: &str) -> Self {
        let mut files = Files::with((*self.sources).clone(), (*self.files).clone(), self.scene_number());
        files.parse(name, text);
        let mut diagnostics = std::mem::take(&mut files.diagnostics);
        let (sources, models) = (Arc::new(files.sources), Arc::new(files.models));
        let view = match self.view {
            View::Alone => View::Alone,
            _ => View::Playtests(self.scene_number()),
        };
        let scenes = self.scenes.as_deref();
        let mut resolver = Resolver::new(&models, &self.catalogue, scenes, view, &mut diagnostics);
        resolver.mark_bound();
        for playtest in models.last().into_iter().flat_map(|file| &file.playtests) {
            resolver.playtest(playtest, &NoIds);
        }
        drop(resolver);
        let mut all = self.clone();
        (all.sources, all.files, all.diagnostics) = (sources, models, diagnostics);
        all
    }
}

impl Line {
    /// As a playtest has it: statements are in braces.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// What is wrong with it.
    pub fn errors(&self) -> impl Iterator<Item = &Diagnostic> {
        self.loaded.diagnostics().iter().filter(|found| found.severity == Severity::Error)
    }

    /// How many steps it has, one after the other.
    pub fn count(&self) -> usize {
        let mut ignored = Vec::new();
        Written::new(&self.loaded, self.number, &mut ignored).map_or(0, |written| written.count())
    }

    /// One of its steps, with what its names mean now.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for what is not there now, and for a step there is none of.
    pub fn step(&self, number: usize, state: &State) -> Result<(Place, PlaytestStep), Error> {
        let mut ignored = Vec::new();
        let mut written = Written::new(&self.loaded, self.number, &mut ignored)?;
        if number >= written.count() {
            return Err(Error::UnknownName { kind: "a step of this line", found: self.text.as_str().into() });
        }
        Ok((written.place(number), written.step(number, state)?))
    }
}
