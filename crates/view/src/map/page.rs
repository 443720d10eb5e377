//! The page of a map: its title, its panels, the measure of each and what the colours mean.

use svg::{
    Node,
    node::element::{Circle, Group, Line, Polygon, Polyline, Rectangle, Title},
};

use crate::{
    map::{
        labels,
        marks::{Form, Mark, Style},
        paper::{Flat, Paper, Rect},
        thing::{Dot, Panel},
    },
    picture::{self, DARK, Ink, round, text, width_of},
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
        for (panel, at) in self.panels.iter().zip(rects(self.panels.len())) {
            let (drawn, missing) = self.panel(panel, at);
            page.append(drawn);
            left_out += missing;
            used.extend(panel.marks.iter().map(|mark| Legend::Mark(mark.style)));
            used.extend(panel.dots.iter().map(|(dot, ..)| Legend::Dot(*dot)));
        }
        page.append(legend(&used, left_out));
        page.to_string()
    }

    fn panel(&self, panel: &Panel, at: Rect) -> (Group, usize) {
        let mut group = Group::new();
        let several = panel.title.is_some();
        let frame = Rectangle::new()
            .set("x", at.left)
            .set("y", at.top)
            .set("width", at.width)
            .set("height", at.height);
        group.append(frame.set("fill", "#fdfbf5").set("stroke", "#d8d2c2").set("stroke-width", 1));
        if let Some(title) = &panel.title {
            group.append(text(title, (at.left + 10.0, at.top + 20.0), 14.0, DARK).set("font-weight", "bold"));
        }
        let inner = at.shrunk(if several { 36.0 } else { 34.0 });
        // The measure has the foot for itself.
        let inner = Rect { height: inner.height - 12.0, ..inner };
        let paper = Paper::of(&panel.points(), inner);
        for mark in &panel.marks {
            group.append(draw(mark, &paper));
        }
        for (dot, place, name, faint) in &panel.dots {
            group.append(
                draw_dot(*dot, paper.put(*place), name).set("opacity", if *faint { 0.4 } else { 1.0 }),
            );
        }
        let mut left_out = 0;
        if self.labels {
            let (written, missing) = labels::place(&panel.names, &paper, at.shrunk(3.0));
            left_out = missing;
            for name in written {
                let ink = if name.is_player { "#8c2534" } else { DARK };
                let label = text(name.text, name.at, labels::SIZE, ink).set("text-anchor", "middle");
                // A light edge keeps a name readable on whatever it is written.
                let label =
                    label.set("stroke", "#fdfbf5").set("stroke-width", 3).set("paint-order", "stroke");
                group.append(label);
            }
        }
        group.append(measure(&paper, panel, at));
        (group, left_out)
    }
}

/// The rectangles of so many panels, as square as they can be.
fn rects(count: usize) -> Vec<Rect> {
    let count = u32::try_from(count.max(1)).unwrap_or(1);
    let columns = (1..=count).find(|columns| columns * columns * 2 >= count * 3).unwrap_or(count).min(count);
    let columns = if count <= 2 { count } else { columns };
    let rows = count.div_ceil(columns);
    let width = (WIDTH - 2.0 * EDGE - f64::from(columns - 1) * GAP) / f64::from(columns);
    let height = (HEIGHT - HEAD - FOOT - f64::from(rows - 1) * GAP) / f64::from(rows);
    let place = |number: u32| Rect {
        left: EDGE + f64::from(number % columns) * (width + GAP),
        top: HEAD + f64::from(number / columns) * (height + GAP),
        width,
        height,
    };
    (0..count).map(place).collect()
}

/// The inks of a style: fill, edge, width, and dashes.
fn ink(style: Style) -> Ink {
    match style {
        Style::Zone => Ink::area("#9cc5c9", 0.35, "#4f8a90", 1.2),
        Style::Occupied => Ink::area("#e0a458", 0.7, "#a8641b", 1.4),
        Style::Solid => Ink::area("#a39b8b", 0.6, "#6f6858", 1.2),
        Style::Cell => Ink::area("#dfe8c8", 0.35, "#a3b37a", 0.7),
        Style::Reach => Ink::line("#7b6aa8", 1.0).dashed("2 4"),
        Style::Leaf => Ink::line("#5a3d1e", 4.0),
        Style::Swing => Ink::line("#b08d57", 1.4).dashed("5 3"),
        Style::Push => Ink::line("#2f7d5b", 3.0),
        Style::Sends => Ink::line("#a2467d", 1.6).dashed("8 4"),
        Style::Spot => Ink::line("#a2467d", 2.0),
        Style::Looks => Ink::line("#b23a48", 1.6),
        Style::Body => Ink::area("#33658a", 0.25, "#33658a", 1.0),
        Style::Way => Ink::line("#8a9aa0", 1.0),
    }
}

fn draw(mark: &Mark, paper: &Paper) -> Group {
    let ink = ink(mark.style);
    let points: Vec<Flat> = mark.points.iter().map(|point| paper.put(*point)).collect();
    let mut group = ink.of(Group::new()).add(Title::new(mark.about.as_str()));
    if mark.faint {
        group = group.set("opacity", 0.35);
    }
    match mark.form {
        Form::Area => group.append(Polygon::new().set("points", points)),
        Form::Line => group.append(Polyline::new().set("points", points).set("fill", "none")),
        Form::Arrow => {
            group.append(Polyline::new().set("points", points.clone()).set("fill", "none"));
            if let [.., from, to] = points[..] {
                group.append(head(from, to).set("fill", ink.edge).set("stroke", "none"));
            }
        }
        Form::Circle(radius) => {
            let (x, y) = points.first().copied().unwrap_or_default();
            let radius = round((radius * paper.scale).max(2.5));
            group.append(Circle::new().set("cx", x).set("cy", y).set("r", radius).set("fill", "none"));
        }
    }
    group
}

/// The head of an arrow.
fn head(from: Flat, to: Flat) -> Polygon {
    let (x, y) = (to.0 - from.0, to.1 - from.1);
    let length = x.hypot(y).max(1e-6);
    let (x, y) = (x / length * 9.0, y / length * 9.0);
    let back = (to.0 - x, to.1 - y);
    let corners = [to, (back.0 - y * 0.5, back.1 + x * 0.5), (back.0 + y * 0.5, back.1 - x * 0.5)];
    Polygon::new().set("points", corners.map(|(x, y)| (round(x), round(y))).to_vec())
}

fn draw_dot(dot: Dot, (x, y): Flat, name: &str) -> Group {
    let group = Group::new().add(Title::new(name));
    let circle =
        |radius: f64, fill: &str| Circle::new().set("cx", x).set("cy", y).set("r", radius).set("fill", fill);
    match dot {
        Dot::Player => group.add(circle(5.5, "#b23a48").set("stroke", "#fdfbf5").set("stroke-width", 1)),
        Dot::Body => group.add(circle(3.4, "#33658a")),
        Dot::Thing => {
            let square = Rectangle::new().set("x", round(x - 2.5)).set("y", round(y - 2.5));
            group.add(square.set("width", 5).set("height", 5).set("fill", "#6b705c"))
        }
    }
}

/// A measure of a round number of scene units, in the corner of a panel.
fn measure(paper: &Paper, panel: &Panel, at: Rect) -> Group {
    let lengths = [0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 5000.0];
    let length = lengths.into_iter().find(|length| length * paper.scale >= 50.0).unwrap_or(10_000.0);
    let (left, y) = (at.left + 10.0, round(at.top + at.height - 12.0));
    let end = round(left + length * paper.scale);
    let line = Line::new().set("x1", left).set("x2", end).set("y1", y).set("y2", y);
    let unit = if (length - 1.0).abs() < 1e-9 { "scene unit" } else { "scene units" };
    let words = format!("{length} {unit}, {}", panel.side.words());
    Group::new().add(line.set("stroke", DARK).set("stroke-width", 2.5)).add(text(
        &words,
        (end + 8.0, y + 4.0),
        11.0,
        "#5d6a6e",
    ))
}

#[derive(Clone, Copy, PartialEq)]
enum Legend {
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
fn legend(used: &[Legend], left_out: usize) -> Group {
    let (mut group, mut x, y) = (Group::new(), EDGE, HEIGHT - 22.0);
    for (what, word) in Legend::ALL.into_iter().filter(|(what, _)| used.contains(what)) {
        group.append(match what {
            Legend::Dot(dot) => draw_dot(dot, (x + 6.0, y), word),
            Legend::Mark(style) => {
                let ink = ink(style);
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
        group.append(text(&words, (WIDTH - EDGE, y + 4.0), 12.0, "#5d6a6e").set("text-anchor", "end"));
    }
    group
}
