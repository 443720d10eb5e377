//! A report: one page with everything that is to be seen of a run, linked.

mod data;
mod page;

use std::io::Write;

use base64::{Engine, prelude::BASE64_STANDARD};
use flate2::{Compression, write::ZlibEncoder};
use serde::Serialize;
use stoicheon_core::{State, Tick};

use crate::{
    map::film::{Film, Shown},
    phrase::clock_time,
    report::data::Records,
    timeline::Timeline,
    wiring::WiringGraph,
};

/// How wide a timeline is on the page, in pixels.
const WIDTH: f64 = 900.0;
/// How many spans and instants of a timeline are shown at a time.
const PIECES: usize = 600;
/// How much of a timeline is written as it is, in bytes; what is longer is compressed.
const PLAIN: usize = 600_000;

/// One HTML page with the map, the wiring, the timeline, the trace and the values of a run: what is chosen in one of them is lit
/// in all, with what caused it and what it led to. The page needs no network and nothing beside it.
///
/// ```
/// use stoicheon_core::{Door, Steps, World};
/// use stoicheon_view::Report;
/// let mut world = World::<()>::new();
/// let bell = world.declare_signal::<()>("bell")?;
/// let gate = world.object("upper_gate").add()?;
/// let gate = world.attach(gate, Door::swing(85.0))?;
/// world.on(bell).run_steps(Steps::new().open(gate))?;
/// world.emit(bell, ())?;
/// let mut report = Report::new("Harrow Lock").with_wiring(&world);
/// for _ in 0..60 {
///     world.step(&mut ())?;
///     report.note(&world);
/// }
/// let page = report.with_world(&world).html();
/// assert!(page.starts_with("<!DOCTYPE html>") && page.contains("upper_gate"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Report {
    title: String,
    of: String,
    ends: String,
    film: Film,
    wiring: Option<String>,
    timeline: Timeline,
    records: Records,
    findings: Vec<ReportedFinding>,
    results: Vec<ReportedPlaytest>,
}

/// What a checker found, for a [`Report`].
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct ReportedFinding {
    /// It keeps the wiring from being played.
    pub is_error: bool,
    /// What was found, where, and what to do, as text in lines.
    pub text: String,
}

impl ReportedFinding {
    /// An error or a warning with its text.
    pub fn new(is_error: bool, text: impl Into<String>) -> Self {
        Self { is_error, text: text.into() }
    }
}

/// How a playtest went, for a [`Report`].
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct ReportedPlaytest {
    /// Its file and its name.
    pub name: String,
    /// How long it ran, and the like.
    pub about: String,
    /// What was expected and found instead, line by line; nothing if it passed.
    pub story: Vec<String>,
}

impl ReportedPlaytest {
    /// A playtest with that name, with how it ran and the story of its failure.
    pub fn new(name: impl Into<String>, about: impl Into<String>, story: Vec<String>) -> Self {
        Self { name: name.into(), about: about.into(), story }
    }
}

/// What the page reads.
#[derive(Serialize)]
struct Data<'d> {
    records: &'d Records,
    film: &'d Shown,
    pieces: Vec<Lanes>,
}

/// A timeline of a part of the time.
#[derive(Serialize)]
struct Lanes {
    from: f64,
    to: f64,
    /// Where on the paper its lanes begin and end, as parts of its width.
    left: f64,
    right: f64,
    /// Elements of SVG; of a long run, compressed and in letters.
    svg: String,
}

/// A text, compressed with deflate and written in letters.
fn packed(text: &str) -> String {
    let mut into = ZlibEncoder::new(Vec::new(), Compression::default());
    // Writing to memory does not fail.
    let bytes = into.write_all(text.as_bytes()).and_then(|()| into.finish()).unwrap_or_default();
    BASE64_STANDARD.encode(bytes)
}

impl Report {
    /// A page with that title, about nothing yet.
    pub fn new(title: &str) -> Self {
        Self {
            title: title.to_owned(),
            of: String::new(),
            ends: String::new(),
            film: Film::new(),
            wiring: None,
            timeline: Timeline::new(""),
            records: Records::default(),
            findings: Vec::new(),
            results: Vec::new(),
        }
    }

    /// With what is played: the name of a playtest.
    pub fn of(mut self, played: &str) -> Self {
        played.clone_into(&mut self.of);
        self
    }

    /// With the wiring of a world in which everything is that is to be seen.
    pub fn with_wiring(mut self, state: &State) -> Self {
        self.wiring = Some(WiringGraph::new("").draw(state));
        self
    }

    /// Notes what is to be seen on the map now; to be called before the first tick and after every tick.
    pub fn note(&mut self, state: &State) {
        self.film.note(state);
    }

    /// With what the trace of a world has kept, when it has run. A world that goes on where another ended comes after it.
    pub fn with_world(mut self, state: &State) -> Self {
        self.timeline = self.timeline.with(state);
        self.records.add(state);
        self.ends = clock_time(state.rate(), Tick(state.now().0));
        self
    }

    /// With something that a checker found.
    pub fn with_finding(mut self, finding: ReportedFinding) -> Self {
        self.findings.push(finding);
        self
    }

    /// With how a playtest went.
    pub fn with_playtest(mut self, playtest: ReportedPlaytest) -> Self {
        self.results.push(playtest);
        self
    }

    /// The page.
    pub fn html(&self) -> String {
        let film = self.film.shown();
        let pieces = self.timeline.pieces(WIDTH, PIECES);
        let is_long = pieces.iter().map(|(_, svg)| svg.len()).sum::<usize>() > PLAIN;
        let piece = |(window, svg): (crate::timeline::Window, String)| {
            let svg = if is_long { packed(&svg) } else { svg };
            let (left, right) = window.reach();
            let (from, to) = (window.from.unwrap_or(0.0), window.to.unwrap_or(0.0));
            Lanes { from, to, left: left / WIDTH, right: right / WIDTH, svg }
        };
        let pieces = pieces.into_iter().map(piece).collect();
        let data = Data { records: &self.records, film: &film, pieces };
        // Nothing in it can end the element it stands in.
        let data = serde_json::to_string(&data).unwrap_or_default().replace('<', "\\u003c");
        page::page(self, &film.svg, &data)
    }
}
