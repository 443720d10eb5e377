//! A timeline on paper.

use std::collections::BTreeSet;

use svg::{
    Node,
    node::element::{Circle, Group, Line, Path, Rectangle, Title},
};

use crate::{
    picture::{self, DARK, PAPER, round, text, width_of},
    timeline::story::{LaneKind, Piece, Sort, Story},
};

const EDGE: f64 = 24.0;
const HEAD: f64 = 84.0;
const FOOT: f64 = 44.0;
/// The names of the lanes stand left of it.
const LEFT: f64 = 190.0;
const ROW: f64 = 20.0;
const LABEL: f64 = 10.5;
/// How many links are drawn; more would hide what they link.
const MOST_LINKS: usize = 400;

/// Which part of the time is drawn, in seconds.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Window {
    pub(crate) from: Option<f64>,
    pub(crate) to: Option<f64>,
    /// How wide the paper is, in pixels.
    pub(crate) width: f64,
    /// Who points at something reads more of it.
    pub(crate) titles: bool,
}

impl Default for Window {
    fn default() -> Self {
        Self { from: None, to: None, width: 1280.0, titles: true }
    }
}

impl Window {
    /// From where to where lanes reach on the paper.
    pub(crate) fn reach(self) -> (f64, f64) {
        (LEFT, self.width - EDGE - 30.0)
    }
}

/// Where a piece is.
#[derive(Clone, Copy)]
struct Put {
    left: f64,
    right: f64,
    y: f64,
    shows_label: bool,
}

pub(crate) fn draw(title: &str, story: &Story, window: Window) -> String {
    let from = window.from.unwrap_or(0.0);
    let to = window.to.unwrap_or(story.ends).max(from);
    let span = (to - from).max(1e-3);
    let (left, right) = window.reach();
    let x = |time: f64| round(left + (time.clamp(from, to) - from) / span * (right - left));
    let head = if title.is_empty() { 34.0 } else { HEAD };
    let is_there = |piece: &Piece| piece.to >= from && piece.from <= to;
    let mut order: Vec<usize> = (0..story.lanes.len()).collect();
    order.sort_by_key(|lane| story.lanes[*lane].kind);
    let mut put: Vec<Option<Put>> = vec![None; story.pieces.len()];
    let mut lanes: Vec<(usize, f64, f64)> = Vec::new();
    let mut top = head;
    let mut of_lanes: Vec<Vec<usize>> = vec![Vec::new(); story.lanes.len()];
    for (index, piece) in story.pieces.iter().enumerate().filter(|(_, piece)| is_there(piece)) {
        of_lanes[piece.lane].push(index);
    }
    for lane in order {
        let mut pieces = std::mem::take(&mut of_lanes[lane]);
        if pieces.is_empty() {
            continue;
        }
        pieces.sort_by(|one, two| story.pieces[*one].from.total_cmp(&story.pieces[*two].from));
        let height = rows(story, &pieces, (&x, window.width), top, &mut put) + 8.0;
        lanes.push((lane, top, height));
        top += height;
    }
    let height = (top + FOOT).max(300.0).ceil();
    let mut page = picture::page((window.width, height), title, (EDGE, 36.0));
    for (number, (lane, top, height)) in lanes.iter().enumerate() {
        let band =
            Rectangle::new().set("x", 0).set("y", *top).set("width", window.width).set("height", *height);
        page.append(band.set("fill", if number % 2 == 0 { "#fdfbf5" } else { PAPER }));
        let lane = &story.lanes[*lane];
        let ink = if lane.kind == LaneKind::Player { "#8c2534" } else { DARK };
        page.append(text(&shortened(&lane.name), (EDGE, top + 18.0), 13.0, ink));
    }
    page.append(axis((from, to), &x, (head, top)));
    page.append(links(story, &put));
    for (piece, put) in story.pieces.iter().zip(&put) {
        if let Some(put) = put {
            page.append(draw_piece(piece, put, window));
        }
    }
    let drawn = story.pieces.iter().zip(&put).filter(|(_, put)| put.is_some());
    page.append(legend(&drawn.map(|(piece, _)| piece.sort).collect(), height));
    page.to_string()
}

/// A long name keeps its end, which tells it from others.
fn shortened(name: &str) -> String {
    let count = name.chars().count();
    if count <= 24 {
        name.to_owned()
    } else {
        format!("…{}", name.chars().skip(count - 23).collect::<String>())
    }
}

/// Puts the pieces of a lane in rows in which none covers another; gives how high they are together.
fn rows(
    story: &Story,
    pieces: &[usize],
    (x, page_width): (&impl Fn(f64) -> f64, f64),
    top: f64,
    put: &mut [Option<Put>],
) -> f64 {
    /// A lane may be so many rows high; what comes then goes without words.
    const MOST: usize = 9;
    let mut ends: Vec<f64> = Vec::new();
    // They share a narrow row below the others.
    let mut foot: Vec<usize> = Vec::new();
    for index in pieces {
        let piece = &story.pieces[*index];
        let (left, right) = (x(piece.from), x(piece.to));
        let width = width_of(&piece.label, LABEL) + 14.0;
        // Words stand in a span that is long enough, and beside one that is not.
        let inside = right - left > width;
        let reach = if inside { right } else { right + width };
        // At the right edge they stand on the other side.
        let (start, reach) =
            if !inside && reach > page_width { (left - width, right) } else { (left, reach) };
        let row = ends.iter().position(|end| *end <= start - 2.0);
        // What nobody listens to has words where there is room, and takes none from others.
        let may_grow = ends.len() < MOST && (piece.sort != Sort::Unheard || ends.is_empty());
        let (row, shows_label) = match row {
            Some(row) => (row, true),
            None if may_grow => {
                ends.push(0.0);
                (ends.len() - 1, true)
            }
            None if piece.sort == Sort::Unheard => {
                foot.push(*index);
                put[*index] = Some(Put { left, right, y: top, shows_label: false });
                continue;
            }
            None => (ends.len() - 1, false),
        };
        ends[row] = if shows_label { reach + 4.0 } else { ends[row].max(right + 4.0) };
        let y = top + 4.0 + f64::from(u32::try_from(row).unwrap_or(0)) * ROW;
        put[*index] = Some(Put { left, right, y, shows_label });
    }
    let height = f64::from(u32::try_from(ends.len().max(1)).unwrap_or(1)) * ROW;
    for index in &foot {
        if let Some(put) = &mut put[*index] {
            put.y = top + height - 4.0;
        }
    }
    height + if foot.is_empty() { 0.0 } else { 9.0 }
}

fn colour(sort: Sort) -> (&'static str, &'static str) {
    match sort {
        Sort::Taken => ("#2f6f9f", "#2f6f9f"),
        Sort::Refused => ("#ffffff", "#b23a48"),
        Sort::Unheard => ("#b9c0c2", "#8a9aa0"),
        Sort::Input => ("#f0cfd4", "#8c2534"),
        Sort::State => ("#d9e6c5", "#5c7d2f"),
        Sort::Inside => ("#f3d9b1", "#a8641b"),
        Sort::Wait => ("#e3ddf0", "#7b6aa8"),
        Sort::Change => ("#d8d2bd", "#6f6858"),
        Sort::Effect => ("#f1cfe0", "#a2467d"),
        Sort::Fault => ("#b23a48", "#8c2534"),
    }
}

fn is_signal(sort: Sort) -> bool {
    matches!(sort, Sort::Taken | Sort::Refused | Sort::Unheard)
}

fn draw_piece(piece: &Piece, put: &Put, window: Window) -> Group {
    let (fill, edge) = colour(piece.sort);
    let records = piece.records.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
    let mut group = Group::new().set("data-records", records);
    if window.titles {
        group.append(Title::new(piece.about.as_str()));
    }
    let middle = put.y + ROW / 2.0;
    let lasts = put.right - put.left >= 4.0 && !is_signal(piece.sort);
    if lasts {
        let bar = Rectangle::new()
            .set("x", put.left)
            .set("y", put.y + 3.0)
            .set("width", round(put.right - put.left))
            .set("height", ROW - 6.0)
            .set("rx", 3);
        let dashes = if piece.sort == Sort::Wait { "4 3" } else { "" };
        let bar = bar.set("fill", fill).set("stroke", edge).set("stroke-width", 1);
        group.append(if dashes.is_empty() { bar } else { bar.set("stroke-dasharray", dashes) });
    } else if is_signal(piece.sort) {
        let radius = if piece.sort == Sort::Unheard { 3.0 } else { 4.6 };
        let dot = Circle::new().set("cx", put.left).set("cy", middle).set("r", radius);
        group.append(dot.set("fill", fill).set("stroke", edge).set("stroke-width", 1.6));
    } else {
        let size = 4.2;
        let corners = format!(
            "M{} {} l{size} {size} l-{size} {size} l-{size} -{size} z",
            put.left,
            round(middle - size)
        );
        group.append(
            Path::new().set("d", corners).set("fill", fill).set("stroke", edge).set("stroke-width", 1.2),
        );
    }
    if put.shows_label {
        let width = width_of(&piece.label, LABEL) + 10.0;
        let left = match lasts && put.right - put.left > width {
            true => put.left + 6.0,
            // At the right edge they stand on the other side.
            false if put.right + width + 4.0 > window.width => put.left - width - 2.0,
            false => put.right + 8.0,
        };
        let ink = if piece.sort == Sort::Unheard { "#8a9aa0" } else { DARK };
        group.append(text(&piece.label, (round(left), middle + 3.8), LABEL, ink));
    }
    group
}

fn links(story: &Story, put: &[Option<Put>]) -> Group {
    let mut group = Group::new().set("fill", "none").set("stroke", "#5a8f6b").set("stroke-opacity", 0.55);
    let seen = story.links.iter().filter_map(|(from, to)| Some(((from, to), (put[*from]?, put[*to]?))));
    for ((from, to), (one, two)) in seen.take(MOST_LINKS) {
        if story.pieces[*to].sort == Sort::Unheard {
            continue;
        }
        let same_lane = story.pieces[*from].lane == story.pieces[*to].lane;
        // A cause that lasts may have its effect at its end.
        let start =
            if (two.left - one.right).abs() < (two.left - one.left).abs() { one.right } else { one.left };
        if same_lane && (start - two.left).abs() < 1.0 && (one.y - two.y).abs() < 1.0 {
            continue;
        }
        let (y1, y2) = (one.y + ROW / 2.0, two.y + ROW / 2.0);
        let bend = 10.0 + (two.left - start).abs() / 3.0;
        let curve = format!(
            "M{} {} C{} {} {} {} {} {}",
            start,
            y1,
            round(start + bend),
            y1,
            round(two.left - bend),
            y2,
            round(two.left - 5.0),
            y2
        );
        let head = format!("M{} {} l-6 -3 l0 6 z", two.left - 4.0, y2);
        // From the records of one to those of the other.
        let of = |piece: &Piece| piece.records.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ");
        let link = Group::new()
            .add(Path::new().set("d", curve).set("stroke-width", 1.2))
            .add(Path::new().set("d", head).set("fill", "#5a8f6b").set("stroke", "none"));
        group.append(
            link.set("data-causes", of(&story.pieces[*from])).set("data-effects", of(&story.pieces[*to])),
        );
    }
    group
}

fn axis((from, to): (f64, f64), x: &impl Fn(f64) -> f64, (head, bottom): (f64, f64)) -> Group {
    let steps = [0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 60.0, 120.0, 300.0, 600.0, 3600.0];
    let step = steps.into_iter().find(|step| (to - from) / step <= 16.0).unwrap_or(7200.0);
    let mut group = Group::new();
    let mut number = (from / step).ceil();
    while number * step <= to + 1e-9 {
        let at = x(number * step);
        let line = Line::new().set("x1", at).set("x2", at).set("y1", head - 6.0).set("y2", bottom);
        group.append(line.set("stroke", "#d8d2c2").set("stroke-width", 1));
        let words = format!("{}s", round(number * step * 10.0) / 10.0);
        group.append(text(&words, (at, head - 12.0), 11.0, "#5d6a6e").set("text-anchor", "middle"));
        number += 1.0;
    }
    group
}

fn legend(drawn: &BTreeSet<Sort>, height: f64) -> Group {
    let all = [
        (Sort::Input, "what a player did"),
        (Sort::Inside, "inside a zone"),
        (Sort::Taken, "signal that was taken"),
        (Sort::Refused, "refused by all"),
        (Sort::Unheard, "nobody listens"),
        (Sort::State, "state"),
        (Sort::Wait, "reaction that waits"),
        (Sort::Change, "change"),
        (Sort::Effect, "effect"),
        (Sort::Fault, "fault"),
    ];
    let (mut group, mut left, y) = (Group::new(), EDGE, height - 30.0);
    for (sort, word) in all {
        if !drawn.contains(&sort) {
            continue;
        }
        let lasts = !is_signal(sort) && !matches!(sort, Sort::Change | Sort::Effect | Sort::Fault);
        let put = Put {
            left: left + 4.0,
            right: if lasts { left + 18.0 } else { left + 4.0 },
            y,
            shows_label: false,
        };
        let nothing = String::new();
        let (label, about, records) = (nothing.clone(), nothing, Vec::new());
        let piece = Piece { lane: 0, sort, from: 0.0, to: 0.0, label, about, records };
        group.append(draw_piece(&piece, &put, Window::default()));
        let start = left + if lasts { 24.0 } else { 14.0 };
        group.append(text(word, (start, y + ROW / 2.0 + 4.0), 12.0, DARK));
        left = round(start + width_of(word, 12.0) + 16.0);
    }
    group
}
