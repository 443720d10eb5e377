//! The things of a scene as they are drawn: their marks and their names.

use stoicheon_core::{
    Door, Expr, InspectedObject, InspectedPart, Lead, PLAYER, Pose, SceneId, State, Teleporter, Value,
    WireId, space::Cell,
};

use crate::map::{
    Way, door, like,
    marks::{Form, Mark, Style},
    paper::{Flat, Side},
};

/// How many cells of a grid are drawn; of a larger one only the outline.
const MOST_CELLS: usize = 600;
/// How long an arrow is drawn that has a direction and no length, in scene units.
const ARROW: f64 = 1.6;

/// A dot where something is that has no outline of its own, or a body.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Dot {
    Player,
    Body,
    Thing,
}

/// A dot, where it is.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Point {
    pub(crate) dot: Dot,
    pub(crate) at: Flat,
    pub(crate) name: String,
    /// Its whole name.
    pub(crate) of: String,
    /// It is disabled.
    pub(crate) faint: bool,
}

/// A name that is written beside something.
#[derive(Clone, Debug)]
pub(crate) struct Name {
    pub(crate) text: String,
    /// The whole name of what it names.
    pub(crate) of: String,
    pub(crate) at: Flat,
    /// How far from there the thing itself reaches, in scene units.
    pub(crate) away: f64,
    /// Names of a higher rank are written first.
    pub(crate) rank: u8,
}

/// One scene on the map.
#[derive(Clone, Debug)]
pub(crate) struct Panel {
    pub(crate) title: Option<String>,
    /// The scene, if it is of one.
    pub(crate) scene: Option<String>,
    pub(crate) side: Side,
    pub(crate) marks: Vec<Mark>,
    pub(crate) dots: Vec<Point>,
    pub(crate) names: Vec<Name>,
}

impl Panel {
    /// The scenes of a world, each a panel of its own; what belongs to no scene has one if it is anywhere to be seen.
    pub(crate) fn all(state: &State, ways: &[Way], side: Option<Side>) -> Vec<Self> {
        // What a trace knows of the wires is not drawn, and would take as long as the trace is.
        let now: Vec<InspectedObject> =
            state.objects().filter_map(|object| state.inspect_object(object)).collect();
        let mut scenes: Vec<Option<SceneId>> = state.scenes().map(Some).collect();
        // What belongs to none is in every scene.
        if scenes.is_empty() || now.iter().any(|object| object.scene.is_none() && !object.is_manager) {
            scenes.insert(0, None);
        }
        let has_title = scenes.len() > 1;
        let one = |scene: Option<SceneId>| Self::of(state, &now, ways, (scene, has_title), side);
        let all: Vec<_> = scenes.into_iter().map(one).collect();
        let (drawn, empty): (Vec<_>, Vec<_>) = all.into_iter().partition(|panel| !panel.points().is_empty());
        if drawn.is_empty() { empty.into_iter().take(1).collect() } else { drawn }
    }

    /// A panel on which nothing is yet.
    pub(crate) fn empty(side: Side) -> Self {
        Self { title: None, scene: None, side, marks: Vec::new(), dots: Vec::new(), names: Vec::new() }
    }

    fn of(
        state: &State,
        now: &[InspectedObject],
        ways: &[Way],
        (scene, has_title): (Option<SceneId>, bool),
        side: Option<Side>,
    ) -> Self {
        let objects: Vec<_> = now.iter().filter(|object| object.scene == scene).collect();
        let side = side.unwrap_or_else(|| side_of(&objects));
        let name = scene.and_then(|scene| state.scene_name(scene));
        let title = has_title.then(|| name.unwrap_or("everywhere").to_owned());
        let scene_name = name.map(str::to_owned);
        let mut panel = Self { title, scene: scene_name, ..Self::empty(side) };
        for way in ways.iter().filter(|way| way.scene == scene) {
            let points = way.places.iter().map(|place| side.of(*place)).collect();
            let about = format!("the way of {}", state.name(way.body).unwrap_or("somebody gone"));
            panel.marks.push(
                Mark::new(Style::Way, Form::Line, points, about).of(state.name(way.body).unwrap_or_default()),
            );
        }
        let short = |whole: &str| -> String {
            let rest = name.and_then(|scene| whole.strip_prefix(scene)?.strip_prefix('.'));
            rest.unwrap_or(whole).to_owned()
        };
        for object in &objects {
            panel.object(state, object, &short(&object.name));
        }
        for spot in state.spots() {
            let Ok(spot) = state.spot(spot) else { continue };
            if spot_scene(state, spot) == scene {
                panel.spot(state, spot, &short(&spot.name));
            }
        }
        for wire in state.wires() {
            panel.sends(state, wire, scene);
        }
        panel.names = like::one_name_for_many(&objects, panel.names, side);
        panel.marks.sort_by(|one, two| two.size().total_cmp(&one.size()));
        panel
    }

    /// Everything that must be on the paper.
    pub(crate) fn points(&self) -> Vec<Flat> {
        let dots = self.dots.iter().map(|point| point.at);
        self.marks.iter().flat_map(Mark::extent).chain(dots).collect()
    }

    pub(crate) fn object(&mut self, state: &State, object: &InspectedObject, name: &str) {
        let pose = Pose { at: object.at, facing: object.facing };
        let first = self.marks.len();
        for part in &object.parts {
            self.part(state, part, pose, name);
        }
        for mark in &mut self.marks[first..] {
            mark.faint |= !object.enabled;
            object.name.as_str().clone_into(&mut mark.of);
        }
        let at = self.side.of(object.at);
        let has_outline = self.marks.len() > first;
        let is_player = object.tags.iter().any(|tag| tag == PLAYER);
        let dot = match (is_player, object.velocity.is_some()) {
            (true, _) => Some(Dot::Player),
            (_, true) => Some(Dot::Body),
            // A manager is nowhere.
            _ => (!has_outline && !object.is_manager && object.parts.is_empty()).then_some(Dot::Thing),
        };
        self.dots.extend(dot.map(|dot| Point {
            dot,
            at,
            name: name.to_owned(),
            of: object.name.to_string(),
            faint: !object.enabled,
        }));
        if let (true, Some((x, y))) = (is_player, door::forward(object.facing, self.side)) {
            let to = (at.0 + x * 0.8, at.1 + y * 0.8);
            self.marks.push(
                Mark::new(Style::Looks, Form::Line, vec![at, to], format!("where {name} looks"))
                    .of(&object.name),
            );
        }
        let shows = dot.is_some() || has_outline;
        if shows {
            let inside: usize = object.parts.iter().map(|part| part.inside.len()).sum();
            let text = if inside > 0 { format!("{name} · {inside}") } else { name.to_owned() };
            let rank = if is_player { 9 } else { 4 + u8::from(has_outline) };
            let away = self.marks[first..].iter().filter(|mark| mark.style != Style::Reach);
            let away = away.flat_map(Mark::extent).map(|point| (point.1 - at.1).abs()).fold(0.0, f64::max);
            self.names.push(Name { text, of: object.name.to_string(), at, away, rank });
        }
    }

    fn part(&mut self, state: &State, part: &InspectedPart, pose: Pose, name: &str) {
        let (side, at) = (self.side, self.side.of(pose.at));
        let is_solid = part.aim.is_some();
        if let Some(shape) = &part.shape {
            let count = part.inside.len();
            let (style, what) = match (is_solid, part.current.is_some() || !part.inside.is_empty()) {
                (true, _) => (Style::Solid, if part.kind == "pick" { "to be picked" } else { "solid" }),
                _ if part.kind == "body" => (Style::Body, "a body"),
                _ if count > 0 => (Style::Occupied, "a zone"),
                _ => (Style::Zone, "a zone"),
            };
            let about =
                if count > 0 { format!("{name}: {what}, {count} inside") } else { format!("{name}: {what}") };
            for outline in shape.outlines(pose, side.is_flat()) {
                let corners = outline.into_iter().map(|corner| side.of(corner)).collect();
                self.marks.push(Mark::new(style, Form::Area, corners, about.clone()));
            }
            if let Some(grid) = part.aim.as_ref().and_then(|aim| aim.grid) {
                self.cells(&grid, shape, pose, name);
            }
        }
        if let Some(offer) = &part.offer {
            let about = format!("{name}: \"{}\", key {}, reach {}", offer.label, offer.key, offer.reach);
            self.marks.push(Mark::new(Style::Reach, Form::Circle(offer.reach), vec![at], about));
        }
        if let Some(current) = part.current {
            let (x, y) = side.of(pose.facing.turn(current.along));
            let to = (at.0 + x * ARROW, at.1 + y * ARROW);
            self.marks.push(Mark::new(
                Style::Push,
                Form::Arrow,
                vec![at, to],
                format!("{name} pushes that way"),
            ));
        }
        if let Ok(door) = state.part::<Door>(part.part) {
            self.marks.extend(door::marks(door, pose, side, name));
        }
        if let Ok(teleporter) = state.part::<Teleporter>(part.part)
            && let (spot, None) = teleporter.target()
            && let Some(spot) = state.find_spot(spot).and_then(|spot| state.spot(spot).ok())
        {
            self.send((at, side.of(spot.at)), name, &spot.name);
        }
    }

    /// The cells of a grid whose middles are on the shape.
    fn cells(
        &mut self,
        grid: &stoicheon_core::space::Grid,
        shape: &stoicheon_core::space::Shape,
        pose: Pose,
        name: &str,
    ) {
        let here = grid.cell_at(pose, pose.at);
        let mut cells: Vec<Cell> = Vec::new();
        for steps in [4, 8, 16] {
            let on = |cell: &Cell| shape.contains(pose, grid.middle_of(pose, *cell));
            let next: Vec<Cell> = grid.range(here, steps).into_iter().filter(on).collect();
            let is_all = next.len() == cells.len();
            cells = next;
            if is_all || cells.len() > MOST_CELLS {
                break;
            }
        }
        for cell in cells.into_iter().take(MOST_CELLS) {
            let corners =
                grid.corners_of(pose, cell).into_iter().map(|corner| self.side.of(corner)).collect();
            let about = format!("{name}: column {}, row {}", cell.column, cell.row);
            self.marks.push(Mark::new(Style::Cell, Form::Area, corners, about));
        }
    }

    pub(crate) fn spot(&mut self, state: &State, spot: &stoicheon_core::Spot, name: &str) {
        let pose = spot_pose(state, spot);
        let at = self.side.of(pose.at);
        let about = format!("{name}: a spot");
        self.marks.push(Mark::new(Style::Spot, Form::Circle(0.25), vec![at], about.clone()).of(&spot.name));
        if let Some((x, y)) = door::forward(pose.facing, self.side) {
            let to = (at.0 + x * 0.9, at.1 + y * 0.9);
            self.marks.push(Mark::new(Style::Spot, Form::Arrow, vec![at, to], about).of(&spot.name));
        }
        self.names.push(Name { text: name.to_owned(), of: spot.name.to_string(), at, away: 0.4, rank: 2 });
    }

    /// Where a wire sends who causes its signal: from what gives that to the spot.
    pub(crate) fn sends(&mut self, state: &State, wire: WireId, scene: Option<SceneId>) {
        for lead in state.wire_leads(wire) {
            let Lead::Sends(Expr::Value(Value::Spot(spot))) = lead else { continue };
            let Ok(spot) = state.spot(spot) else { continue };
            if spot_scene(state, spot) != scene {
                continue;
            }
            let to = self.side.of(spot_pose(state, spot).at);
            for signal in state.wire_signals(wire) {
                let giver = state.signal_name(*signal).and_then(|name| state.find(name.rsplit_once('.')?.0));
                let Some(giver) = giver.filter(|giver| state.scene_of(*giver) == scene) else { continue };
                let Ok(from) = state.place(giver) else { continue };
                self.send((self.side.of(from), to), state.name(giver).unwrap_or_default(), &spot.name);
            }
        }
    }

    fn send(&mut self, (from, to): (Flat, Flat), giver: &str, spot: &str) {
        let is_known = |mark: &Mark| mark.style == Style::Sends && mark.points == [from, to];
        if !self.marks.iter().any(is_known) {
            let about = format!("{giver} sends to {spot}");
            self.marks.push(Mark::new(Style::Sends, Form::Arrow, vec![from, to], about).of(giver));
        }
    }
}

/// A spot of an object moves with it.
fn spot_pose(_: &State, spot: &stoicheon_core::Spot) -> Pose {
    Pose { at: spot.at, facing: spot.facing }
}

pub(crate) fn spot_scene(state: &State, spot: &stoicheon_core::Spot) -> Option<SceneId> {
    let of_object = spot.object.and_then(|object| state.scene_of(object));
    of_object.or_else(|| spot.name.split_once('.').and_then(|(scene, _)| state.find_scene(scene)))
}

/// A scene with shapes that have no depth, and with everything at 0 for z, is flat.
pub(crate) fn side_of(objects: &[&InspectedObject]) -> Side {
    let has_no_depth = |part: &InspectedPart| {
        let forms = part.shape.iter().flat_map(stoicheon_core::space::Shape::forms);
        forms
            .into_iter()
            .any(|(form, _)| matches!(form, stoicheon_core::space::Form::Box { depth: None, .. }))
    };
    let on_plane = objects.iter().all(|object| object.at.z == 0.0);
    let flat = on_plane && objects.iter().any(|object| object.parts.iter().any(has_no_depth));
    if flat { Side::Front } else { Side::Above }
}
