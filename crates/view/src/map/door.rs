//! A door on a map: where its leaf stands, and where it goes.

use stoicheon_core::{Door, Pose, Rotation, Vec3};

use crate::map::{
    marks::{Form, Mark, Style},
    paper::{Flat, Side},
};

/// How wide a leaf is drawn whose hinge says nothing of it, in scene units.
const WIDE: f32 = 2.0;
/// How many pieces an arc has.
const PIECES: u8 = 12;

/// The marks of a door of an object with that pose.
pub(crate) fn marks(door: &Door, pose: Pose, side: Side, name: &str) -> Vec<Mark> {
    let openness = door.openness();
    let about = format!("{name}: a door, {:.0}% open", openness * 100.0);
    let half = match door.swings() {
        // From the hinge to the middle, and as far again.
        Some(swing) if swing.hinge.length() > 1e-3 => swing.hinge,
        _ => Vec3::new(-WIDE / 2.0, 0.0, 0.0),
    };
    let ends = |openness: f64| -> [Flat; 2] {
        let leaf = pose.carry(door.leaf(openness));
        [side.of(leaf.at + leaf.facing.turn(half)), side.of(leaf.at - leaf.facing.turn(half))]
    };
    let mut marks = Vec::new();
    if let Some(swing) = door.swings() {
        let hinge = side.of(pose.carry(Pose::at(swing.hinge)).at);
        let far = |openness: f64| {
            let [one, two] = ends(openness);
            let away = |end: Flat| (end.0 - hinge.0).hypot(end.1 - hinge.1);
            if away(one) > away(two) { one } else { two }
        };
        let arc = (0..=PIECES).map(|piece| far(f64::from(piece) / f64::from(PIECES))).collect();
        marks.push(Mark::new(Style::Swing, Form::Line, arc, about.clone()));
        marks.push(Mark::new(Style::Swing, Form::Circle(0.12), vec![hinge], about.clone()));
    } else if door.offset() != Vec3::ZERO {
        let (from, to) = (side.of(pose.at), side.of(pose.carry(Pose::at(door.offset())).at));
        if (from.0 - to.0).hypot(from.1 - to.1) > 1e-3 {
            marks.push(Mark::new(Style::Swing, Form::Arrow, vec![from, to], about.clone()));
            marks.push(Mark::new(Style::Swing, Form::Line, ends(1.0).to_vec(), about.clone()));
        }
    }
    let mut leaf = Mark::new(Style::Leaf, Form::Line, ends(openness).to_vec(), about);
    // One that fades is there while it is shut.
    let fades = door.swings().is_none() && door.offset() == Vec3::ZERO;
    leaf.faint = fades && openness > 0.5;
    marks.push(leaf);
    marks
}

/// Which way something with that facing looks, on the plane; nothing if it looks at who sees the map.
pub(crate) fn forward(facing: Rotation, side: Side) -> Option<Flat> {
    let (x, y) = side.of(facing.turn(Vec3::NEG_Z));
    let length = x.hypot(y);
    (length > 1e-3).then(|| (x / length, y / length))
}
