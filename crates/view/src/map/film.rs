//! A map over time: what is drawn at first, and what becomes of each piece of it, moment by moment.

use std::collections::BTreeMap;

use serde::Serialize;
use stoicheon_core::State;
use svg::{Document, Node, node::element::Group};

use crate::map::{
    draw, labels,
    marks::Mark,
    page::{self, FAINT, Legend},
    paper::{Flat, Paper, Rect, Side},
    thing::{Dot, Name, Panel, Point},
};

/// How many moments are kept; of a longer run every second one, or every fourth, and so on.
const MOST: usize = 1_000;
/// The paper, in pixels.
const WIDTH: f64 = 860.0;
const HEIGHT: f64 = 430.0;
const FOOT: f64 = 36.0;

/// What a piece looks like at a moment.
#[derive(Clone, Debug, PartialEq)]
enum Look {
    Mark(Mark),
    Dot(Point),
}

impl Look {
    fn of(&self) -> &str {
        match self {
            Self::Mark(mark) => &mark.of,
            Self::Dot(point) => &point.of,
        }
    }
}

/// A piece of the map: the same thing at all moments.
#[derive(Clone, Debug)]
struct Piece {
    scene: usize,
    first: Look,
    now: Option<Look>,
}

/// What is drawn of a scene, whenever it is there.
#[derive(Clone, Debug)]
struct Scene {
    name: Option<String>,
    side: Side,
    names: Vec<Name>,
    /// The corners of all that is ever drawn.
    extent: Vec<Flat>,
}

/// What has changed since the moment before.
#[derive(Clone, Debug)]
struct Moment {
    tick: u64,
    changes: BTreeMap<usize, Option<Look>>,
}

/// A map at every moment of a run.
#[derive(Clone, Debug)]
pub(crate) struct Film {
    scenes: Vec<Scene>,
    pieces: Vec<Piece>,
    /// A piece by its scene, what it belongs to, and its number among those.
    by_key: BTreeMap<(usize, String, usize), usize>,
    moments: Vec<Moment>,
    every: u64,
    seen: u64,
}

/// A film as it is shown: a picture of nothing, and what to put in it at which tick.
#[derive(Clone, Debug, Serialize)]
pub(crate) struct Shown {
    #[serde(skip)]
    pub(crate) svg: String,
    /// The ticks at which something changes.
    pub(crate) ticks: Vec<u64>,
    /// For each of them the numbers of pieces, each with what it is now: nothing, a place, or elements of SVG.
    pub(crate) changes: Vec<Vec<(usize, String)>>,
}

impl Film {
    pub(crate) fn new() -> Self {
        Self {
            scenes: Vec::new(),
            pieces: Vec::new(),
            by_key: BTreeMap::new(),
            moments: Vec::new(),
            every: 1,
            seen: 0,
        }
    }

    /// Takes what is to be seen now.
    pub(crate) fn note(&mut self, state: &State) {
        self.seen += 1;
        if self.seen.is_multiple_of(self.every) {
            self.take(state);
        }
    }

    fn take(&mut self, state: &State) {
        // A world that goes on from a save is made before its time is known.
        let tick = self.moments.last().map_or(0, |moment| moment.tick).max(state.now().0);
        let mut looks: Vec<Option<Look>> = vec![None; self.pieces.len()];
        for panel in Panel::all(state, &[], None) {
            let scene = self.scene(&panel);
            let mut numbers: BTreeMap<String, usize> = BTreeMap::new();
            let marks = panel.marks.into_iter().map(Look::Mark);
            for look in marks.chain(panel.dots.into_iter().map(Look::Dot)) {
                let number = numbers.entry(look.of().to_owned()).or_default();
                let piece = self.piece(scene, *number, &look);
                *number += 1;
                looks.resize(self.pieces.len(), None);
                looks[piece] = Some(look);
            }
        }
        let mut changes = BTreeMap::new();
        for (index, (piece, look)) in self.pieces.iter_mut().zip(looks).enumerate() {
            if piece.now != look {
                changes.insert(index, look.clone());
                piece.now = look;
            }
        }
        if !changes.is_empty() {
            self.moments.push(Moment { tick, changes });
        }
        if self.moments.len() > MOST {
            self.every *= 2;
            let moments = std::mem::take(&mut self.moments);
            self.moments = moments.chunks(2).map(together).collect();
        }
    }

    fn scene(&mut self, panel: &Panel) -> usize {
        let known = self.scenes.iter().position(|scene| scene.name == panel.scene);
        let index = known.unwrap_or_else(|| {
            // A body has its name with it.
            let moves = |name: &&Name| panel.dots.iter().any(|point| point.of == name.of && is_body(point));
            let names = panel.names.iter().filter(|name| !moves(name)).cloned().collect();
            let name = panel.scene.clone();
            self.scenes.push(Scene { name, side: panel.side, names, extent: Vec::new() });
            self.scenes.len() - 1
        });
        let scene = &mut self.scenes[index];
        let mut all = std::mem::take(&mut scene.extent);
        all.extend(panel.points());
        scene.extent = corners(&all);
        index
    }

    fn piece(&mut self, scene: usize, number: usize, look: &Look) -> usize {
        // A mark becomes no dot.
        let kind = if matches!(look, Look::Dot(_)) { "dot " } else { "mark " };
        let key = (scene, format!("{kind}{}", look.of()), number);
        *self.by_key.entry(key).or_insert_with(|| {
            self.pieces.push(Piece { scene, first: look.clone(), now: None });
            self.pieces.len() - 1
        })
    }

    /// The film, on paper.
    pub(crate) fn shown(&self) -> Shown {
        let mut page = Document::new().set("viewBox", (0, 0, WIDTH, HEIGHT)).set("font-family", "sans-serif");
        let within = Rect { left: 4.0, top: 4.0, width: WIDTH - 8.0, height: HEIGHT - FOOT - 8.0 };
        let several = self.scenes.len() > 1;
        let extents: Vec<_> = self.scenes.iter().map(|scene| scene.extent.clone()).collect();
        let rects = page::rects(&extents, within);
        let mut papers = Vec::new();
        for (number, (scene, at)) in self.scenes.iter().zip(rects).enumerate() {
            let title = several.then(|| scene.name.as_deref().unwrap_or("everywhere"));
            let paper = Paper::of(&scene.extent, page::inner(several, at));
            let mut group = page::frame(title, at);
            let mut mine: Vec<usize> =
                (0..self.pieces.len()).filter(|index| self.pieces[*index].scene == number).collect();
            // What is larger is drawn first, and bodies over all.
            let rank = |index: &usize| match &self.pieces[*index].first {
                Look::Mark(mark) => -mark.size(),
                Look::Dot(_) => f64::INFINITY,
            };
            mine.sort_by(|one, two| rank(one).total_cmp(&rank(two)));
            for index in mine {
                group.append(empty(index, &self.pieces[index].first));
            }
            for name in labels::place(&scene.names, &paper, at.shrunk(3.0)).0 {
                group.append(page::label(name.text, name.at, false).set("pointer-events", "none"));
            }
            group.append(page::measure(&paper, scene.side, at));
            page.append(group);
            papers.push(paper);
        }
        let used: Vec<Legend> = (self.pieces.iter())
            .map(|piece| match &piece.first {
                Look::Mark(mark) => Legend::Mark(mark.style),
                Look::Dot(point) => Legend::Dot(point.dot),
            })
            .collect();
        page.append(page::legend(&used, 0, (WIDTH, HEIGHT)));
        let drawn = |(index, look): (&usize, &Option<Look>)| {
            let paper = &papers[self.pieces[*index].scene];
            (*index, look.as_ref().map_or_else(String::new, |look| put(look, paper)))
        };
        Shown {
            svg: page.to_string(),
            ticks: self.moments.iter().map(|moment| moment.tick).collect(),
            changes: self.moments.iter().map(|moment| moment.changes.iter().map(drawn).collect()).collect(),
        }
    }
}

fn is_body(point: &Point) -> bool {
    point.dot != Dot::Thing
}

/// Where a piece will be: a dot is moved about, a mark is drawn again.
fn empty(index: usize, first: &Look) -> Group {
    let group = Group::new().set("id", format!("piece-{index}")).set("data-of", first.of());
    match first {
        Look::Mark(_) => group,
        Look::Dot(point) => {
            let dot = group.add(draw::dot(point.dot, (0.0, 0.0), &point.name)).set("display", "none");
            let label = page::label(&point.name, (0.0, 19.0), point.dot == Dot::Player);
            if is_body(point) { dot.add(label.set("pointer-events", "none")) } else { dot }
        }
    }
}

/// What a piece is: the place of a dot, with how much is seen of it if that is not all; or elements of SVG.
fn put(look: &Look, paper: &Paper) -> String {
    match look {
        Look::Mark(mark) => draw::mark(mark, paper).to_string(),
        Look::Dot(point) => {
            let (x, y) = paper.put(point.at);
            if point.faint { format!("{x} {y} {FAINT}") } else { format!("{x} {y}") }
        }
    }
}

/// Two moments as one.
fn together(moments: &[Moment]) -> Moment {
    let mut changes = BTreeMap::new();
    let tick = moments.last().map_or(0, |moment| moment.tick);
    moments.iter().for_each(|moment| changes.extend(moment.changes.clone()));
    Moment { tick, changes }
}

/// The corners of the box around all of them.
fn corners(points: &[Flat]) -> Vec<Flat> {
    let Some(first) = points.first().copied() else { return Vec::new() };
    let least = points.iter().fold(first, |least, next| (least.0.min(next.0), least.1.min(next.1)));
    let most = points.iter().fold(first, |most, next| (most.0.max(next.0), most.1.max(next.1)));
    vec![least, most]
}
