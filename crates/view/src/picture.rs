//! What all pictures share: the paper, the inks, and words on it.

use svg::{
    Document,
    node::element::{Group, Rectangle, Text},
};

/// The colour of the paper.
pub(crate) const PAPER: &str = "#f7f4ec";
/// The colour of words.
pub(crate) const DARK: &str = "#2b3a3f";

/// How a line or an area is drawn.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Ink {
    pub(crate) fill: &'static str,
    pub(crate) opacity: f64,
    pub(crate) edge: &'static str,
    pub(crate) width: f64,
    pub(crate) dashes: &'static str,
}

impl Ink {
    pub(crate) const fn area(fill: &'static str, opacity: f64, edge: &'static str, width: f64) -> Self {
        Self { fill, opacity, edge, width, dashes: "" }
    }

    pub(crate) const fn line(edge: &'static str, width: f64) -> Self {
        Self { fill: "none", opacity: 1.0, edge, width, dashes: "" }
    }

    pub(crate) const fn dashed(mut self, dashes: &'static str) -> Self {
        self.dashes = dashes;
        self
    }

    /// A group that is drawn in it.
    pub(crate) fn of(self, group: Group) -> Group {
        let group = group.set("fill", self.fill).set("stroke", self.edge).set("stroke-width", self.width);
        let group = group.set("stroke-linecap", "round").set("stroke-linejoin", "round");
        let group = if self.opacity < 1.0 { group.set("fill-opacity", self.opacity) } else { group };
        if self.dashes.is_empty() { group } else { group.set("stroke-dasharray", self.dashes) }
    }
}

/// How much of its size a letter is wide, on the average.
const LETTER: f64 = 0.53;

/// How wide a text is, about.
pub(crate) fn width_of(text: &str, size: f64) -> f64 {
    let letters = u32::try_from(text.chars().count()).unwrap_or(u32::MAX);
    f64::from(letters) * size * LETTER
}

/// A tenth of a pixel is enough, and keeps files the same on every machine.
pub(crate) fn round(of: f64) -> f64 {
    (of * 10.0).round() / 10.0
}

/// Words, from the left of their base line.
pub(crate) fn text(words: &str, (x, y): (f64, f64), size: f64, fill: &str) -> Text {
    Text::new(words).set("x", x).set("y", y).set("font-size", size).set("fill", fill)
}

/// Paper of that size, with a title from that point on.
pub(crate) fn page((width, height): (f64, f64), title: &str, at: (f64, f64)) -> Document {
    Document::new()
        .set("viewBox", (0, 0, width, height))
        .set("width", width)
        .set("height", height)
        .set("font-family", "sans-serif")
        .add(Rectangle::new().set("width", width).set("height", height).set("fill", PAPER))
        .add(text(title, at, 20.0, DARK).set("font-weight", "bold"))
}
