//! The page of a map: its title, its panels, the measure of each and what the colours mean.

use svg::{
    Node,
    node::element::{Group, Line, Rectangle, Text},
};

use crate::{
    map::{
        draw, labels,
        marks::Style,
        paper::{Flat, Paper, Rect, Side},
        thing::{Dot, Panel},
    },
    picture::{self, DARK, round, text, width_of},
};

const WIDTH: f64 = 1280.0;
const HEIGHT: f64 = 800.0;
const EDGE: f64 = 28.0;
const HEAD: f64 = 58.0;
const FOOT: f64 = 44.0;
/// Between two panels.
const GAP: f64 = 16.0;

/// What is drawn on one page.
pub(crate) struct Page<'p> {
    pub(crate) title: &'p str,
    pub(crate) labels: bool,
    pub(crate) panels: &'p [Panel],
}

impl Page<'_> {
    pub(crate) fn draw(&self) -> String {
        let mut page = picture::page((WIDTH, HEIGHT), self.title, (EDGE, 36.0));
        let mut used: Vec<Legend> = Vec::new();
        let mut left_out = 0;
        let within = Rect { left: EDGE, top: HEAD, width: WIDTH - 2.0 * EDGE, height: HEIGHT - HEAD - FOOT };
        let extents: Vec<_> = self.panels.iter().map(Panel::points).collect();
        for (panel, at) in self.panels.iter().zip(rects(&extents, within)) {
            let (drawn, missing) = self.panel(panel, at);
            page.append(drawn);
            left_out += missing;
            used.extend(panel.marks.iter().map(|mark| Legend::Mark(mark.style)));
            used.extend(panel.dots.iter().map(|point| Legend::Dot(point.dot)));
        }
        page.append(legend(&used, left_out, (WIDTH, HEIGHT)));
        page.to_string()
    }

    fn panel(&self, panel: &Panel, at: Rect) -> (Group, usize) {
        let mut group = frame(panel.title.as_deref(), at);
        let paper = Paper::of(&panel.points(), inner(panel.title.is_some(), at));
        for mark in &panel.marks {
            group.append(draw::mark(mark, &paper));
        }
        for point in &panel.dots {
            let dot =
                draw::dot(point.dot, paper.put(point.at), &point.name).set("data-of", point.of.as_str());
            group.append(dot.set("opacity", if point.faint { FAINT } else { 1.0 }));
        }
        let mut left_out = 0;
        if self.labels {
            let (written, missing) = labels::place(&panel.names, &paper, at.shrunk(3.0));
            left_out = missing;
            for name in written {
                group.append(label(name.text, name.at, name.is_player));
            }
        }
        group.append(measure(&paper, panel.side, at));
        (group, left_out)
    }
}

/// How much of what is disabled is seen.
pub(crate) const FAINT: f64 = 0.4;

/// The frame of a panel, and its title.
pub(crate) fn frame(title: Option<&str>, at: Rect) -> Group {
    let frame =
        Rectangle::new().set("x", at.left).set("y", at.top).set("width", at.width).set("height", at.height);
    let frame = frame.set("fill", "#fdfbf5").set("stroke", "#d8d2c2").set("stroke-width", 1);
    let mut group = Group::new().add(frame);
    if let Some(title) = title {
        group.append(text(title, (at.left + 10.0, at.top + 20.0), 14.0, DARK).set("font-weight", "bold"));
    }
    group
}

/// What of a panel is for its scene.
pub(crate) fn inner(has_title: bool, at: Rect) -> Rect {
    let inner = at.shrunk(if has_title { 36.0 } else { 34.0 });
    // The measure has the foot for itself.
    Rect { height: inner.height - 12.0, ..inner }
}

/// A name, from its middle.
pub(crate) fn label(words: &str, at: Flat, is_player: bool) -> Text {
    let ink = if is_player { "#8c2534" } else { DARK };
    let label = text(words, at, labels::SIZE, ink).set("text-anchor", "middle");
    // A light edge keeps a name readable on whatever it is written.
    label.set("stroke", "#fdfbf5").set("stroke-width", 3).set("paint-order", "stroke")
}

/// The rectangles of panels with these points: in as many columns as let them be drawn largest.
pub(crate) fn rects(extents: &[Vec<Flat>], within: Rect) -> Vec<Rect> {
    let count = u32::try_from(extents.len().max(1)).unwrap_or(1);
    let several = count > 1;
    let in_columns = |columns: u32| -> Vec<Rect> {
        let rows = count.div_ceil(columns);
        let width = (within.width - f64::from(columns - 1) * GAP) / f64::from(columns);
        let height = (within.height - f64::from(rows - 1) * GAP) / f64::from(rows);
        let place = |number: u32| Rect {
            left: within.left + f64::from(number % columns) * (width + GAP),
            top: within.top + f64::from(number / columns) * (height + GAP),
            width,
            height,
        };
        (0..count).map(place).collect()
    };
    // The sum of logarithms: each panel counts the same, however large its scene is.
    let size = |rects: &[Rect]| -> f64 {
        let scale = |(points, at): (&Vec<Flat>, &Rect)| Paper::of(points, inner(several, *at)).scale.ln();
        extents.iter().zip(rects).map(scale).sum()
    };
    let all = (1..=count).map(in_columns).map(|rects| (size(&rects), rects));
    let best = all.reduce(|best, next| if next.0 > best.0 + 1e-9 { next } else { best });
    best.map_or_else(Vec::new, |(_, rects)| rects)
}

/// A measure of a round number of scene units, in the corner of a panel.
pub(crate) fn measure(paper: &Paper, side: Side, at: Rect) -> Group {
    let lengths = [0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 5000.0];
    let length = lengths.into_iter().find(|length| length * paper.scale >= 50.0).unwrap_or(10_000.0);
    let (left, y) = (at.left + 10.0, round(at.top + at.height - 12.0));
    let end = round(left + length * paper.scale);
    let line = Line::new().set("x1", left).set("x2", end).set("y1", y).set("y2", y);
    let unit = if (length - 1.0).abs() < 1e-9 { "scene unit" } else { "scene units" };
    let words = format!("{length} {unit}, {}", side.words());
    Group::new().add(line.set("stroke", DARK).set("stroke-width", 2.5)).add(text(
        &words,
        (end + 8.0, y + 4.0),
        11.0,
        "#5d6a6e",
    ))
}

/// What the legend explains.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Legend {
    Mark(Style),
    Dot(Dot),
}

impl Legend {
    const ALL: [(Self, &'static str); 14] = [
        (Self::Dot(Dot::Player), "player"),
        (Self::Dot(Dot::Body), "body"),
        (Self::Dot(Dot::Thing), "object"),
        (Self::Mark(Style::Zone), "zone"),
        (Self::Mark(Style::Occupied), "occupied zone"),
        (Self::Mark(Style::Leaf), "door leaf"),
        (Self::Mark(Style::Swing), "its way"),
        (Self::Mark(Style::Reach), "prompt's reach"),
        (Self::Mark(Style::Solid), "solid"),
        (Self::Mark(Style::Cell), "cell"),
        (Self::Mark(Style::Push), "push"),
        (Self::Mark(Style::Spot), "spot"),
        (Self::Mark(Style::Sends), "sends to"),
        (Self::Mark(Style::Way), "way walked"),
    ];
}

/// What is on this page, and no more; and how many names found no room.
pub(crate) fn legend(used: &[Legend], left_out: usize, (width, height): (f64, f64)) -> Group {
    let (mut group, mut x, y) = (Group::new(), EDGE, height - 22.0);
    for (what, word) in Legend::ALL.into_iter().filter(|(what, _)| used.contains(what)) {
        group.append(match what {
            Legend::Dot(dot) => draw::dot(dot, (x + 6.0, y), word),
            Legend::Mark(style) => {
                let ink = draw::ink(style);
                let swatch = ink.of(Group::new());
                match style {
                    Style::Zone | Style::Occupied | Style::Solid | Style::Cell | Style::Body => swatch.add(
                        Rectangle::new().set("x", x).set("y", y - 5.0).set("width", 13).set("height", 10),
                    ),
                    _ => swatch.add(Line::new().set("x1", x).set("x2", x + 15.0).set("y1", y).set("y2", y)),
                }
            }
        });
        group.append(text(word, (x + 19.0, y + 4.0), 12.0, DARK));
        x = round(x + 19.0 + width_of(word, 12.0) + 16.0);
    }
    if left_out > 0 {
        let names = if left_out == 1 { "name" } else { "names" };
        let words = format!("{left_out} {names} left out for lack of room");
        group.append(text(&words, (width - EDGE, y + 4.0), 12.0, "#5d6a6e").set("text-anchor", "end"));
    }
    group
}
