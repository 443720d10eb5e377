//! What is seen: the lock from above, with the canal from left to right.

use stoicheon::{
    ObjectId, Pose, Vec3,
    parts::{Door, Prompt, Zone},
    space::Form,
};

use crate::{
    canvas::{Canvas, Colour, Spot},
    game::{BANK, Game, Kind},
};

/// Pixels per scene unit.
const SCALE: f32 = 40.0;
/// Where the origin of the scene is.
const MIDDLE: Spot = Spot::new(640.0, 270.0);
const GRASS: Colour = Colour(0.78, 0.83, 0.70, 1.0);
const STONE: Colour = Colour(0.62, 0.60, 0.56, 1.0);
const WATER: Colour = Colour(0.36, 0.55, 0.64, 1.0);
const DEEP: Colour = Colour(0.20, 0.33, 0.42, 1.0);
const WOOD: Colour = Colour(0.36, 0.24, 0.15, 1.0);
const ZONE: Colour = Colour(0.95, 0.78, 0.25, 0.35);
const ENTERED: Colour = Colour(0.95, 0.66, 0.10, 0.75);
const FAINT: Colour = Colour(0.35, 0.34, 0.32, 1.0);
const VEIL: Colour = Colour(1.0, 1.0, 1.0, 0.6);
const INK: Colour = Colour(0.12, 0.12, 0.14, 1.0);
const PAPER: Colour = Colour(0.97, 0.96, 0.93, 1.0);
const RED: Colour = Colour(0.70, 0.10, 0.08, 1.0);
const PEOPLE: [Colour; 2] = [Colour(0.55, 0.16, 0.42, 1.0), Colour(0.10, 0.36, 0.62, 1.0)];

/// A place of the scene on the screen.
fn seen(at: Vec3) -> Spot {
    MIDDLE + Spot::new(at.z, at.x) * SCALE
}

/// The corners of a flat rectangle of that whole size, with that pose.
fn corners(pose: Pose, width: f32, depth: f32) -> [Vec3; 4] {
    [(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)]
        .map(|(x, z)| pose.carry(Pose::at(Vec3::new(x * width, 0.0, z * depth))).at)
}

/// Draws a frame.
pub(crate) fn draw(game: &Game, canvas: &mut Canvas) {
    canvas.clear(GRASS);
    water(game, canvas);
    for object in game.world.objects() {
        zone(game, object, canvas);
    }
    for object in game.world.objects() {
        gate(game, object, canvas);
        post(game, object, canvas);
    }
    people(game, canvas);
    words(game, canvas);
}

/// The canal, and the chamber as full as it is.
fn water(game: &Game, canvas: &mut Canvas) {
    let bank = BANK + 0.3;
    let mut strip = |from: f32, to: f32, half: f32, colour| {
        let (near, far) = (Vec3::new(-half, 0.0, from), Vec3::new(half, 0.0, to));
        let (near, far) = (seen(near), seen(far));
        canvas.rectangle(near, far - near, colour);
    };
    strip(-16.0, 16.0, bank, STONE);
    strip(-16.0, -10.0, BANK, DEEP);
    strip(10.0, 16.0, BANK, WATER);
    let level = game.world.find_var("harrow_lock.level").and_then(|level| game.world.value(level).ok());
    #[expect(clippy::cast_possible_truncation, reason = "a part from 0 to 1")]
    let full = level.and_then(stoicheon::Value::as_number).unwrap_or_default() as f32;
    let mix = |low: f32, high: f32| low + (high - low) * full;
    let colour = Colour(mix(DEEP.0, WATER.0), mix(DEEP.1, WATER.1), mix(DEEP.2, WATER.2), 1.0);
    strip(-10.0, 10.0, BANK, colour);
    let words = format!("the chamber is {:.0} % full", f64::from(full) * 100.0);
    canvas.label(&words, seen(Vec3::new(-1.2, 0.0, 0.0)), PAPER, INK);
}

/// The zone of an object, from above.
fn zone(game: &Game, object: ObjectId, canvas: &mut Canvas) {
    let (Ok(zone), Ok(pose)) =
        (game.world.part_of::<Zone>(object), game.world.pose_at(object, game.fraction))
    else {
        return;
    };
    let part = game.world.find_part::<Zone>(object);
    let entered = part.is_ok_and(|part| game.world.inside(part).next().is_some());
    let colour = if entered { ENTERED } else { ZONE };
    let mut reach: f32 = 0.0;
    for (form, inner) in zone.shape().into_iter().flat_map(stoicheon::space::Shape::forms) {
        let pose = pose.carry(inner);
        match form {
            Form::Box { width, depth, .. } => {
                reach = reach.max(width * 0.5);
                canvas.fill(&corners(pose, width, depth.unwrap_or(0.1)).map(seen), colour);
            }
            Form::Ball { radius } | Form::Cylinder { radius, .. } => {
                #[expect(clippy::cast_possible_truncation, reason = "pixels")]
                let radius = radius as f32;
                let at = seen(pose.at);
                reach = reach.max(radius);
                canvas.circle(at, radius * SCALE, colour);
            }
            // The lock has no others.
            _ => {}
        }
    }
    let below = seen(pose.at) + Spot::new(0.0, reach * SCALE + 16.0);
    canvas.label(short(game, object), below, INK, VEIL);
}

/// The name of an object, without its scene's.
fn short(game: &Game, object: ObjectId) -> &str {
    let name = game.world.name(object).unwrap_or_default();
    name.rsplit('.').next().unwrap_or(name)
}

/// The leaf of a gate, as far open as it is between ticks.
fn gate(game: &Game, object: ObjectId, canvas: &mut Canvas) {
    let (Ok(door), Ok(pose)) =
        (game.world.part_of::<Door>(object), game.world.pose_at(object, game.fraction))
    else {
        return;
    };
    let part = game.world.find_part::<Door>(object).ok();
    let openness = part.and_then(|part| game.world.openness_at(part, game.fraction)).unwrap_or_default();
    canvas.fill(&corners(pose.carry(door.leaf(openness)), 2.0 * BANK, 0.35).map(seen), WOOD);
    if let Some(swing) = door.swings() {
        let hinge = seen(pose.carry(Pose::at(swing.hinge)).at);
        canvas.circle(hinge, 9.0, INK);
    }
    let above = seen(pose.at + Vec3::X * -(BANK + 1.1));
    canvas.label(short(game, object), above, INK, VEIL);
}

/// What offers something: a post.
fn post(game: &Game, object: ObjectId, canvas: &mut Canvas) {
    if game.world.part_of::<Prompt>(object).is_err() {
        return;
    }
    let Ok(at) = game.world.place(object) else { return };
    let at = seen(at);
    canvas.circle(at, 9.0, WOOD);
    canvas.ring(at, 9.0, 2.0, INK);
    if game.world.part_of::<Zone>(object).is_err() {
        canvas.label(short(game, object), at + Spot::new(0.0, 24.0), INK, VEIL);
    }
}

/// The players, and what is offered to each, with a ring that fills while the key is held.
fn people(game: &Game, canvas: &mut Canvas) {
    for ((player, colour), key) in game.players.iter().zip(PEOPLE).zip(["E", "Return"]) {
        let Ok(pose) = game.world.pose_at(player.id, game.fraction) else { continue };
        let at = seen(pose.at);
        let offer = game.world.offer_to(player.id);
        let goal = offer.as_ref().and_then(|offer| game.world.place(offer.object).ok()).map(seen);
        if let Some(goal) = goal {
            canvas.line(at, goal, 2.0, colour);
        }
        canvas.circle(at, 14.0, colour);
        canvas.ring(at, 14.0, 2.0, INK);
        canvas.label(player.name, at - Spot::new(0.0, 36.0), PAPER, colour);
        let Some(offer) = offer else { continue };
        canvas.label(&format!("[{key}] {}", offer.label), at + Spot::new(0.0, 38.0), PAPER, colour);
        if let Some(held) = offer.held {
            canvas.ring(at, 20.0, 6.0, PAPER);
            #[expect(clippy::cast_possible_truncation, reason = "a part from 0 to 1")]
            canvas.arc(at, 20.0, 6.0, held as f32, colour);
        }
    }
}

/// What was said last: words and notes at the bottom, faults at the top.
fn words(game: &Game, canvas: &mut Canvas) {
    canvas.rectangle(Spot::new(0.0, 690.0), Spot::new(1280.0, 110.0), PAPER);
    canvas.line(Spot::new(0.0, 690.0), Spot::new(1280.0, 690.0), 2.0, INK);
    let help = "ada: W A S D, E    ben: arrows, Return    F5 save    F9 load    Esc leave";
    canvas.text(help, Spot::new(24.0, 774.0), FAINT);
    let said: Vec<_> =
        game.lines.iter().filter(|line| !matches!(line.kind, Kind::Fault | Kind::Offer)).collect();
    for (row, line) in (0_u16..).zip(said.iter().rev().take(3).rev()) {
        let colour = if line.kind == Kind::Note { FAINT } else { INK };
        canvas.text(&line.words, Spot::new(24.0, 698.0 + 22.0 * f32::from(row)), colour);
    }
    for (row, player) in (0_u16..).zip(&game.players) {
        let words = format!("passages of {}: {}", player.name, game.passages(player));
        canvas.text(&words, Spot::new(1020.0, 698.0 + 22.0 * f32::from(row)), PEOPLE[usize::from(row)]);
    }
    let faults: Vec<_> = game.lines.iter().filter(|line| line.kind == Kind::Fault).collect();
    for (row, line) in (0_u16..).zip(faults.iter().rev().take(3).rev()) {
        let at = Spot::new(640.0, 24.0 + 28.0 * f32::from(row));
        canvas.label(&line.words, at, PAPER, RED);
    }
}
