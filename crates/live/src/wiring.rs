//! The wiring a world was made of: for lines that are typed, and for playtests that are made of what was done.

use std::{collections::VecDeque, fmt, path::PathBuf, sync::Arc};

use serde_json::{Value, json};
use stoicheon_core::{
    Error, State, World,
    playtest::{NoHost, PlaytestError, PlaytestStep, Underway},
};
use stoicheon_script::{Line, Loaded};
use stoicheon_view::failure_text;

use crate::{
    deeds::Deeds,
    made::{self, Care},
    reply::Said,
    tape::Line as Tape,
};

/// Makes a world of the wiring, before its first tick.
type Fresh = Box<dyn Fn() -> Result<World<()>, Error> + Send>;

/// The steps of a playtest that can be made: as people would write them, and exactly.
#[derive(Clone, Debug)]
pub(crate) struct Offered([Vec<String>; 2]);

/// The wiring a world was made of.
///
/// ```
/// use stoicheon_core::{Catalogue, World};
/// use stoicheon_live::{Live, LiveWiring};
/// let text = "object upper_gate at (0, 0, 12) { door { over 1s } }";
/// let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
/// let mut world = World::<u32>::new(); // with the game's own closures
/// loaded.build(&mut world)?;
///
/// // Playtests are tried in a world without them.
/// let again = loaded.clone();
/// let fresh = move || {
///     let mut world = World::new();
///     again.build(&mut world).map(|()| world)
/// };
/// let wiring = LiveWiring::new(vec![loaded], fresh).writes_to("lock.stoi");
/// let mut live = Live::listen("127.0.0.1:0")?.titled("Harrow Lock").with_wiring(wiring);
/// live.show(&mut world, &mut 0)?;
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub struct LiveWiring {
    /// Its head first, then its scenes.
    parts: Vec<Loaded>,
    fresh: Fresh,
    file: Option<PathBuf>,
}

impl fmt::Debug for LiveWiring {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("LiveWiring").field("file", &self.file).finish_non_exhaustive()
    }
}

impl LiveWiring {
    /// Wiring: a scene that stands alone, or what all scenes of a project share and then its scenes; and how a world is made of it.
    pub fn new(parts: Vec<Loaded>, fresh: impl Fn() -> Result<World<()>, Error> + Send + 'static) -> Self {
        Self { parts, fresh: Box::new(fresh), file: None }
    }

    /// The file that playtests are written into.
    pub fn writes_to(mut self, file: impl Into<PathBuf>) -> Self {
        self.file = Some(file.into());
        self
    }

    /// The texts it was read from, by name.
    pub(crate) fn texts(&self) -> Vec<(String, String)> {
        let sources = self.parts.first().into_iter().flat_map(|part| part.sources().iter());
        sources.map(|source| (source.name().to_owned(), source.text().to_owned())).collect()
    }

    /// The part that somebody is in.
    fn part_of(&self, state: &State, who: Option<&str>) -> Option<&Loaded> {
        let scene = who.and_then(|who| state.find_player(who)).and_then(|who| state.scene_of(who));
        let name = scene.and_then(|scene| state.scene_name(scene));
        let named = name.and_then(|name| self.parts.iter().find(|part| part.scene_name() == Some(name)));
        named.or_else(|| self.parts.first())
    }

    /// What was done so far and what can be expected, for the page to choose from; and what a playtest is made of it afterwards.
    pub(crate) fn offer<'l>(
        &self,
        deeds: &Deeds,
        state: &State,
        tape: impl IntoIterator<Item = &'l Arc<Tape>>,
        since: u64,
    ) -> (Value, Offered) {
        let offered = Offered([Care::Short, Care::Exact].map(|care| made::steps(deeds, state, care)));
        let shown = json!({
            "expected": made::expected(state, tape, since),
            "file": self.file.as_ref().and_then(|file| file.file_name()).map(|name| name.to_string_lossy()),
        });
        (shown, offered)
    }

    /// The playtest with these expectations, and how it goes in a world of its own. What does not pass as people would write it is
    /// written exactly.
    pub(crate) fn make(&self, offered: &Offered, name: &str, expected: &[String]) -> (String, Vec<String>) {
        let tried = offered.0.iter().map(|steps| {
            let text = made::text(name, steps, expected);
            let story = self.run(&text).unwrap_or_else(|reason| vec![reason]);
            (text, story)
        });
        let mut last = (String::new(), Vec::new());
        for (text, story) in tried {
            if story.is_empty() {
                return (text, story);
            }
            last = (text, story);
        }
        last
    }

    /// What failed in a playtest; nothing if all was well.
    fn run(&self, text: &str) -> Result<Vec<String>, String> {
        let head = self.parts.first().ok_or("there is no wiring")?;
        let loaded = head.with_playtest("made here", text);
        if let Some(error) =
            loaded.diagnostics().iter().find(|found| found.severity == stoicheon_script::Severity::Error)
        {
            return Err(error.message.clone());
        }
        let mut world = (self.fresh)().map_err(|error| error.to_string())?;
        let number = loaded.playtests().count().saturating_sub(1);
        let verdict = loaded.run_playtest(number, &mut world, &mut (), &mut NoHost);
        let verdict = verdict.map_err(|error: PlaytestError| error.to_string())?;
        Ok(verdict.failure.map_or_else(Vec::new, |failure| failure_text(&world, &failure)))
    }

    /// Writes a playtest at the end of the file.
    pub(crate) fn write(&self, text: &str) -> Result<String, String> {
        let file = self
            .file
            .as_ref()
            .ok_or("this world was made of no file that a playtest could be written into")?;
        let before = std::fs::read_to_string(file).map_err(|error| format!("{}: {error}", file.display()))?;
        let gap = if before.is_empty() || before.ends_with("\n\n") {
            ""
        } else if before.ends_with('\n') {
            "\n"
        } else {
            "\n\n"
        };
        stoicheon_store::write_text(file, &format!("{before}{gap}{text}"))
            .map_err(|error| error.to_string())?;
        Ok(format!("written into {}", file.display()))
    }

    /// Reads a line that somebody has typed.
    pub(crate) fn read(&self, state: &State, who: Option<&str>, text: &str) -> Result<Line, String> {
        let head = self.parts.first().ok_or("there is no wiring")?;
        let names: Vec<&str> = state.players().filter_map(|player| state.name(player)).collect();
        let mut line = head.line(text, &names);
        if line.errors().next().is_some()
            && let Some(part) = self.part_of(state, who)
        {
            // What the scene calls by its own names.
            line = part.line(text, &names);
        }
        if line.count() == 0 && line.errors().next().is_none() {
            return Err(
                "expected a line, such as `open upper_gate` or `set level = 1`, found nothing".to_owned()
            );
        }
        let wrong = line.errors().next().map(|found| {
            let label = found.labels.first().map(|label| format!(" ({})", label.text)).unwrap_or_default();
            let help = found.help.as_ref().map(|help| format!("; {help}")).unwrap_or_default();
            format!("{}{label}{help}", found.message)
        });
        wrong.map_or(Ok(line), Err)
    }
}

/// A line that was typed.
#[derive(Debug)]
pub(crate) struct Entered {
    pub(crate) page: u64,
    pub(crate) line: Line,
    /// The number of it among what was done.
    pub(crate) deed: u64,
}

/// Lines that were typed, one after the other, until they are over.
#[derive(Debug, Default)]
pub(crate) struct Typed {
    lines: VecDeque<Entered>,
    at: usize,
    under: Option<Underway>,
    /// Somebody joined, who is there at once.
    has_joined: bool,
}

impl Typed {
    pub(crate) fn push(&mut self, entered: Entered) {
        self.lines.push_back(entered);
    }

    pub(crate) fn clear(&mut self) {
        *self = Self::default();
    }

    /// Begins what can begin now; what to say to which page.
    pub(crate) fn begin<G: 'static>(
        &mut self,
        world: &mut World<G>,
        deeds: &mut Deeds,
        said: &mut Vec<(u64, Said)>,
    ) {
        while self.under.is_none()
            && let Some(Entered { page, line, .. }) = self.lines.front()
        {
            if self.at >= line.count() {
                said.push((*page, Said { kind: "done", text: line.text().to_owned() }));
                self.next(world, deeds);
                continue;
            }
            let step = line.step(self.at, world);
            self.has_joined |= matches!(step, Ok((_, PlaytestStep::Join { .. })));
            match step.and_then(|(place, step)| Underway::begin(&step, &place, world)) {
                Ok(begun) => said.extend(self.go(world, deeds, begun)),
                Err(error) => {
                    said.push((*page, Said::no(error.to_string())));
                    self.fails(deeds);
                }
            }
        }
    }

    /// Whether somebody has joined since this was asked last.
    pub(crate) fn has_joined(&mut self) -> bool {
        std::mem::take(&mut self.has_joined)
    }

    /// After a tick.
    pub(crate) fn tick<G: 'static>(
        &mut self,
        world: &mut World<G>,
        deeds: &mut Deeds,
        said: &mut Vec<(u64, Said)>,
    ) {
        let (Some(mut under), Some(Entered { page, .. })) = (self.under.take(), self.lines.front()) else {
            return;
        };
        match under.go_on(world) {
            Ok(()) => said.extend(self.go(world, deeds, under)),
            Err(error) => {
                said.push((*page, Said::no(error.to_string())));
                self.fails(deeds);
            }
        }
    }

    fn go(&mut self, state: &State, deeds: &mut Deeds, under: Underway) -> Option<(u64, Said)> {
        if let Some(failure) = under.failure() {
            let page = self.lines.front()?.page;
            self.fails(deeds);
            return Some((page, Said::no(failure_text(state, failure).join("\n"))));
        }
        if under.is_over() {
            self.at += 1;
        } else {
            self.under = Some(under);
        }
        None
    }

    /// What could not be done is no part of what was done.
    fn fails(&mut self, deeds: &mut Deeds) {
        if let Some(entered) = self.lines.pop_front() {
            deeds.fails(entered.deed);
        }
        (self.at, self.under) = (0, None);
    }

    fn next(&mut self, state: &State, deeds: &mut Deeds) {
        if let Some(entered) = self.lines.pop_front() {
            deeds.ends(entered.deed, state.now().0);
        }
        (self.at, self.under) = (0, None);
    }
}
