//! One thing on the ground.

use serde::Serialize;
use stoicheon_core::{InspectedObject, PLAYER, SceneId, Spot, State};

use crate::map::{
    Dot, Form, Mark, Panel, Style,
    paper::{Flat, Side},
};

/// A thing on the ground: an object, a spot, or where the wires of a scene send bodies.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[non_exhaustive]
pub struct GroundThing {
    /// Its number, which no other thing has.
    pub number: u32,
    /// Its whole name.
    pub of: String,
    /// Its name within its scene.
    pub name: String,
    /// The place of its scene in the list of scenes.
    pub scene: usize,
    /// Where it is, across and down, in scene units.
    pub at: [f32; 2],
    /// It is a body or stands for itself, and is drawn as a dot: `player`, `body` or `thing`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dot: Option<&'static str>,
    /// Its number among the players.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub player: Option<u32>,
    /// How many are inside.
    #[serde(skip_serializing_if = "is_nobody")]
    pub inside: usize,
    /// The state that its door or its switch is in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub state: Option<&'static str>,
    /// It is disabled.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub faint: bool,
    /// Its parts, by their kinds.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<&'static str>,
    /// What is drawn of it, what is larger first.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub marks: Vec<GroundMark>,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks so")]
fn is_nobody(count: &usize) -> bool {
    *count == 0
}

/// A line or an area of a thing.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[non_exhaustive]
pub struct GroundMark {
    /// What it is: `zone`, `occupied`, `solid`, `cell`, `reach`, `leaf`, `swing`, `push`, `sends`, `spot`, `looks` or `body`.
    pub style: &'static str,
    /// What becomes of its points: `area`, `line`, `arrow` or `circle`.
    pub form: &'static str,
    /// Its points, measured from where the thing is: across, down, across, down and so on.
    pub points: Vec<f32>,
    /// The radius of a circle.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub radius: Option<f32>,
    /// It is drawn faintly.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub faint: bool,
}

impl GroundMark {
    /// The size of its box, if it is an area and that place is in it, measured from where the thing is.
    pub fn area_around(&self, [x, y]: [f32; 2]) -> Option<f32> {
        if self.form != "area" {
            return None;
        }
        let corners: Vec<[f32; 2]> = self.points.chunks_exact(2).map(|pair| [pair[0], pair[1]]).collect();
        let mut inside = false;
        let before = corners.last().into_iter().chain(&corners);
        for ([ax, ay], [bx, by]) in before.zip(&corners) {
            if (ay > &y) != (by > &y) && x < (bx - ax) * (y - ay) / (by - ay) + ax {
                inside = !inside;
            }
        }
        let range = |at: usize| {
            let all = corners.iter().map(|corner| corner[at]);
            all.clone().fold(f32::MIN, f32::max) - all.fold(f32::MAX, f32::min)
        };
        inside.then(|| range(0) * range(1))
    }
}

#[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
pub(super) fn single((x, y): Flat) -> [f32; 2] {
    [x as f32, y as f32]
}

pub(super) fn of_object(
    state: &State,
    object: &InspectedObject,
    side: Side,
    scene: Option<&str>,
) -> Option<GroundThing> {
    let name = short(&object.name, scene);
    let mut panel = Panel::empty(side);
    panel.object(state, object, name);
    let is_player = object.tags.iter().any(|tag| tag == PLAYER);
    if panel.marks.is_empty() && panel.dots.is_empty() {
        return None;
    }
    let at = side.of(object.at);
    Some(GroundThing {
        of: object.name.to_string(),
        name: name.to_owned(),
        at: single(at),
        dot: panel.dots.first().map(|point| match point.dot {
            Dot::Player => "player",
            Dot::Body => "body",
            Dot::Thing => "thing",
        }),
        player: object.player.filter(|_| is_player),
        inside: object.parts.iter().map(|part| part.inside.len()).sum(),
        state: object
            .parts
            .iter()
            .filter(|part| matches!(part.kind, "door" | "switch"))
            .find_map(|part| part.state),
        faint: !object.enabled,
        parts: object.parts.iter().map(|part| part.kind).collect(),
        marks: marks(panel, at),
        ..GroundThing::default()
    })
}

pub(super) fn of_spot(state: &State, spot: &Spot, side: Side, scene: Option<&str>) -> GroundThing {
    let name = short(&spot.name, scene);
    let mut panel = Panel::empty(side);
    panel.spot(state, spot, name);
    let at = side.of(spot.at);
    let of = spot.name.to_string();
    GroundThing {
        of,
        name: name.to_owned(),
        at: single(at),
        marks: marks(panel, at),
        ..GroundThing::default()
    }
}

/// Where the wires and teleporters of a scene send bodies.
pub(super) fn sends(state: &State, side: Side, scene: Option<SceneId>) -> Option<GroundThing> {
    let mut panel = Panel::empty(side);
    for wire in state.wires() {
        panel.sends(state, wire, scene);
    }
    let marks = marks(panel, (0.0, 0.0));
    (!marks.is_empty()).then(|| GroundThing { marks, ..GroundThing::default() })
}

fn short<'n>(whole: &'n str, scene: Option<&str>) -> &'n str {
    let rest = scene.and_then(|scene| whole.strip_prefix(scene)?.strip_prefix('.'));
    rest.unwrap_or(whole)
}

fn marks(mut panel: Panel, at: Flat) -> Vec<GroundMark> {
    panel.marks.sort_by(|one, two| two.size().total_cmp(&one.size()));
    panel.marks.iter().map(|mark| ground_mark(mark, at)).collect()
}

fn ground_mark(mark: &Mark, at: Flat) -> GroundMark {
    let from_there = |point: &Flat| single((point.0 - at.0, point.1 - at.1));
    let (form, radius) = match mark.form {
        Form::Area => ("area", None),
        Form::Line => ("line", None),
        Form::Arrow => ("arrow", None),
        Form::Circle(radius) => ("circle", Some(single((radius, 0.0))[0])),
    };
    GroundMark {
        style: word(mark.style),
        form,
        points: mark.points.iter().flat_map(from_there).collect(),
        radius,
        faint: mark.faint,
    }
}

fn word(style: Style) -> &'static str {
    match style {
        Style::Zone => "zone",
        Style::Occupied => "occupied",
        Style::Solid => "solid",
        Style::Cell => "cell",
        Style::Reach => "reach",
        Style::Leaf => "leaf",
        Style::Swing => "swing",
        Style::Push => "push",
        Style::Sends => "sends",
        Style::Spot => "spot",
        Style::Looks => "looks",
        Style::Body => "body",
        Style::Way => "way",
    }
}
