//! What is drawn, before it is on paper: lines and areas in scene units, each with its style.

use crate::map::paper::Flat;

/// How a mark is drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Style {
    /// A zone with nobody inside.
    Zone,
    /// A zone with somebody inside.
    Occupied,
    /// What a ray does not go through.
    Solid,
    /// A cell of a grid.
    Cell,
    /// How far a prompt reaches.
    Reach,
    /// The leaf of a door where it stands now.
    Leaf,
    /// Where the leaf goes.
    Swing,
    /// A push, and which way.
    Push,
    /// Where bodies are sent.
    Sends,
    /// A spot, and which way who arrives there faces.
    Spot,
    /// Which way a player looks.
    Looks,
    /// The shape of a body.
    Body,
    /// A way that was walked.
    Way,
}

/// A line or an area.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Mark {
    pub(crate) style: Style,
    pub(crate) points: Vec<Flat>,
    pub(crate) form: Form,
    /// What it is, for who points at it.
    pub(crate) about: String,
    /// The whole name of what it belongs to.
    pub(crate) of: String,
    /// It belongs to something that is disabled.
    pub(crate) faint: bool,
}

/// What becomes of the points of a mark.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Form {
    /// They are the corners of an area.
    Area,
    /// They are a line.
    Line,
    /// They are a line with a head at its end.
    Arrow,
    /// The first is the middle of a circle of that radius, in scene units.
    Circle(f64),
}

impl Mark {
    pub(crate) fn new(style: Style, form: Form, points: Vec<Flat>, about: String) -> Self {
        Self { style, points, form, about, of: String::new(), faint: false }
    }

    pub(crate) fn of(mut self, name: &str) -> Self {
        name.clone_into(&mut self.of);
        self
    }

    /// The points that must be on the paper.
    pub(crate) fn extent(&self) -> Vec<Flat> {
        match (self.form, self.points.first()) {
            (Form::Circle(radius), Some((x, y))) => vec![(x - radius, y - radius), (x + radius, y + radius)],
            _ => self.points.clone(),
        }
    }

    /// How much of the plane its box covers: what is larger is drawn first.
    pub(crate) fn size(&self) -> f64 {
        let points = self.extent();
        let range = |of: fn(&Flat) -> f64| {
            let all = points.iter().map(of);
            all.clone().fold(f64::NEG_INFINITY, f64::max) - all.fold(f64::INFINITY, f64::min)
        };
        if points.is_empty() { 0.0 } else { range(|point| point.0) * range(|point| point.1) }
    }
}
