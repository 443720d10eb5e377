//! Saves of many objects, against the same data as plain structs; and many players who mostly stand about.

use std::hint::black_box;

use serde::{Deserialize, Serialize};
use stoicheon::{
    Config, ObjectId, Vec3, World,
    parts::Zone,
    plan::{Expr, NewVar, Step, Target},
    save::Save,
    secs,
    store::{Form, from_bytes, to_bytes},
    trace::TraceLevel,
};

use crate::{Ratios, Timed};

const OBJECTS: u16 = 10_000;

/// What a save says of one object.
#[derive(Serialize, Deserialize)]
struct Plain {
    name: String,
    at: [f32; 3],
    facing: [f32; 4],
    worn: f64,
}

/// Mooring posts so far from where they were made, of which the place and how worn they are is remembered.
fn posts(away: f32) -> World<()> {
    let mut world = World::with(Config { trace: TraceLevel::Off, ..Config::default() });
    for index in 0..OBJECTS {
        let at = Vec3::new(f32::from(index) * 0.37, away, f32::from(index % 100));
        let post = world.object(&format!("post_{index}")).at(at).remembered().add().unwrap();
        world
            .declare(NewVar::new("worn", (f64::from(index) + f64::from(away)) / 7.0).of(post).remembered())
            .unwrap();
    }
    world
}

fn plain() -> Vec<Plain> {
    let one = |index: u16| Plain {
        name: format!("post_{index}"),
        at: [f32::from(index) * 0.37, 0.5, f32::from(index % 100)],
        facing: [0.0, 0.0, 0.0, 1.0],
        worn: (f64::from(index) + 0.5) / 7.0,
    };
    (0..OBJECTS).map(one).collect()
}

/// So many players among a thousand pads, of whom eight walk to and fro across eight pads. Each of so many pads has two
/// wires that count for each player.
fn lockside(players: u16, pads_with_wires: u16) -> (World<()>, Vec<ObjectId>) {
    let mut world = World::<()>::with(Config { trace: TraceLevel::Off, ..Config::default() });
    let passed = world.declare(NewVar::new("passed", 0_i64).per_player()).unwrap();
    let of_who = || Expr::VarOf(passed, Box::new(Expr::Who));
    for index in 0..1000_u16 {
        let at = Vec3::new(f32::from(index % 40) * 6.0, 0.0, f32::from(index / 40) * 6.0);
        let pad = world.object(&format!("pad_{index}")).at(at).add().unwrap();
        let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
        if index < pads_with_wires {
            let to = of_who().plus(1_i64);
            let count = [Step::Set { target: Target::VarOf(passed, Expr::Who), to }];
            world.on(pad.entered).when(of_who().less_than(1_000_000_000_i64)).run_steps(count).unwrap();
            world.on(pad.left).cooldown_per_who(secs(1.0)).run_steps([]).unwrap();
        }
    }
    let walkers = (0..players).map(|index| {
        let at = Vec3::new(f32::from(index % 8) * 6.0, 0.0, f32::from(index / 8) * 6.0 + 3.0);
        world.player(&format!("walker_{index}")).at(at).add().unwrap()
    });
    let walkers: Vec<_> = walkers.collect();
    (world, walkers[..8].to_vec())
}

/// A second in which eight players cross their pads.
fn second((mut world, walkers): (World<()>, Vec<ObjectId>)) -> Timed<'static> {
    let mut there = false;
    Timed::new(30, move || {
        there = !there;
        let z = if there { -3.0 } else { 3.0 };
        for (index, walker) in (0_u8..).zip(&walkers) {
            world.walk(*walker, Vec3::new(f32::from(index) * 6.0, 0.0, z), 9.0).unwrap();
        }
        for _ in 0..30 {
            world.step(&mut ()).unwrap();
        }
    })
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let peer = "serde_json of plain structs";
    let world = posts(0.5);
    // Two saves in turn, so that each finds everything elsewhere.
    let mut saves = [&world, &posts(1.5)].map(|world| to_bytes(&world.save().unwrap(), Form::Json).unwrap());
    let structs = plain();
    let plain_bytes = serde_json::to_vec_pretty(&structs).unwrap();
    let write = Timed::new(1, move || {
        black_box(to_bytes(&world.save().unwrap(), Form::Json).unwrap());
    });
    let plain_write = Timed::new(1, move || {
        black_box(serde_json::to_vec_pretty(&structs).unwrap());
    });
    ratios.row("saves.write", 2.0, write, peer, plain_write);
    let mut other = posts(0.5);
    let read = Timed::new(1, move || {
        saves.swap(0, 1);
        let save: Save = from_bytes(&saves[0]).unwrap();
        assert!(other.recall(&save).unwrap().is_empty());
    });
    let plain_read = Timed::new(1, move || {
        black_box(serde_json::from_slice::<Vec<Plain>>(&plain_bytes).unwrap());
    });
    ratios.row("saves.read", 2.0, read, peer, plain_read);
    let many = second(lockside(64, 1000));
    ratios.row("players.64", 1.5, many, "8 players, 16 wires, same crossings", second(lockside(8, 8)));
}
