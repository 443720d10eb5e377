//! Going back in time: snapshots of a busy scene against cloning the same values as plain vectors, and rolling back.

use std::hint::black_box;

use stoicheon::{
    Config, ObjectId, Value, Vec3, World,
    parts::{Door, Zone},
    plan::Steps,
    secs,
    trace::TraceLevel,
};

use crate::{Ratios, Timed};

fn quiet() -> World<()> {
    World::with(Config { trace: TraceLevel::Off, ..Config::default() })
}

/// So many gates, each with a door and a wire; of every hundred, five doors are on their way and twenty sequences wait.
fn busy(gates: u16) -> World<()> {
    let mut world = quiet();
    for index in 0..gates {
        let gate = world.object(&format!("gate_{index}")).tag("gate").add().unwrap();
        let (waits, moves) = (index % 5 == 0, index % 20 == 1);
        let door = Door::swing(85.0).over(secs(if moves { 1e6 } else { 0.1 }));
        let door = world.attach(gate, door).unwrap();
        let steps = Steps::new().wait(secs(1e6)).close(door);
        world.on(door.opened).owned_by(gate).run_steps(steps).unwrap();
        if waits || moves {
            world.command(door.part, Door::TO_OPEN).unwrap();
        }
    }
    for _ in 0..10 {
        world.step(&mut ()).unwrap();
    }
    assert_eq!(world.waiting(), usize::from(gates) / 5);
    world
}

/// What one would write by hand for the same scene: everything that changes, in plain vectors.
#[derive(Clone)]
#[expect(dead_code, reason = "it is only cloned")]
struct Plain {
    tick: u64,
    random: [u64; 2],
    places: Vec<[f32; 3]>,
    facings: Vec<[f32; 4]>,
    enabled: Vec<bool>,
    doors: Vec<PlainDoor>,
    moving: Vec<u32>,
    wires: Vec<PlainWire>,
    waits: Vec<PlainWait>,
}

#[derive(Clone, Copy)]
#[expect(dead_code, reason = "it is only cloned")]
struct PlainDoor {
    state: u8,
    locked: bool,
    openness: f64,
    from: f64,
    to: f64,
    ticks: u64,
    who: Option<u64>,
}

#[derive(Clone, Copy)]
#[expect(dead_code, reason = "it is only cloned")]
struct PlainWire {
    asleep: bool,
    taken: u64,
    refused: u64,
}

#[derive(Clone)]
#[expect(dead_code, reason = "it is only cloned")]
struct PlainWait {
    due: u64,
    number: u64,
    wire: u32,
    signal: u32,
    statement: u32,
    who: Option<u64>,
    cause: Option<u64>,
    values: Vec<Value>,
    locals: Vec<Value>,
}

fn plain(gates: u16) -> Plain {
    let all = usize::from(gates);
    let door = PlainDoor { state: 0, locked: false, openness: 0.0, from: 0.0, to: 1.0, ticks: 30, who: None };
    let wait = |number: u64| PlainWait {
        due: 100,
        number,
        wire: 1,
        signal: 1,
        statement: 1,
        who: None,
        cause: Some(7),
        // As in ours: a door's `opened` carries nothing, and the sequence keeps nothing.
        values: Vec::new(),
        locals: Vec::new(),
    };
    Plain {
        tick: 10,
        random: [1, 2],
        places: vec![[0.0; 3]; all],
        facings: vec![[0.0; 4]; all],
        enabled: vec![true; all],
        doors: vec![door; all],
        moving: vec![1; all / 20],
        wires: vec![PlainWire { asleep: false, taken: 0, refused: 0 }; all],
        waits: (0..u64::from(gates) / 5).map(wait).collect(),
    }
}

fn cloned(gates: u16) -> Timed<'static> {
    let plain = plain(gates);
    Timed::new(1, move || {
        black_box(plain.clone());
    })
}

fn taken(gates: u16) -> Timed<'static> {
    let world = busy(gates);
    Timed::new(u32::from(gates), move || {
        black_box(world.snapshot().unwrap());
    })
}

fn restored(gates: u16) -> Timed<'static> {
    let mut world = busy(gates);
    let snapshot = world.snapshot().unwrap();
    Timed::new(u32::from(gates), move || world.restore(black_box(&snapshot)).unwrap())
}

/// A thousand pads with a zone and a gate, of which so many are on their way, and two players who walk across the pads.
fn played(moving: u16) -> (World<()>, [ObjectId; 2]) {
    let mut world = quiet();
    for index in 0..1000_u16 {
        let at = Vec3::new(f32::from(index % 40) * 6.0, 0.0, f32::from(index / 40) * 6.0);
        let pad = world.object(&format!("pad_{index}")).at(at).add().unwrap();
        let zone = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
        let door = world.attach(pad, Door::swing(85.0).over(secs(1e6))).unwrap();
        world.on(zone.entered).run_steps(Steps::new().open(door)).unwrap();
        if index % 20 == 1 && index < moving * 20 {
            world.command(door.part, Door::TO_OPEN).unwrap();
        }
    }
    let mut player = |name: &str, z: f32| world.player(name).at(Vec3::new(-3.0, 0.0, z)).add().unwrap();
    let players = [player("ada", 0.0), player("ben", 6.0)];
    world.step(&mut ()).unwrap();
    (world, players)
}

/// The same eight ticks: as often as it is called, from where the players stand.
fn eight(world: &mut World<()>, players: [ObjectId; 2], mut after_each: impl FnMut(&World<()>)) {
    for (z, player) in [0.0, 6.0].into_iter().zip(players) {
        world.walk(player, Vec3::new(240.0, 0.0, z), 10.0).unwrap();
    }
    for _ in 0..8 {
        world.step(&mut ()).unwrap();
        after_each(world);
    }
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let per_clone = |mut timed: Timed<'static>| {
        timed.units = 1;
        timed
    };
    let peer = "clone of a struct of plain vectors";
    ratios.row("snapshot.1000", 2.0, per_clone(taken(1000)), peer, cloned(1000));
    ratios.row("restore.1000", 2.0, per_clone(restored(1000)), peer, cloned(1000));
    let growth = "ours, 1,000 objects, per object";
    ratios.row("snapshot.growth", 1.3, taken(10_000), growth, taken(1000));
    ratios.row("restore.growth", 1.3, restored(10_000), growth, restored(1000));

    for (row, moving) in [("rollback.8", 0), ("rollback.8.doors", 50)] {
        ratios.row(row, 1.5, back_and_forth(moving), "the 8 ticks alone", alone(moving));
    }
}

/// Back eight ticks and forward again, with a snapshot after each.
fn back_and_forth(moving: u16) -> Timed<'static> {
    let (mut world, players) = played(moving);
    let mut snapshots = vec![world.snapshot().unwrap()];
    Timed::new(8, move || {
        world.restore(&snapshots[0]).unwrap();
        snapshots.truncate(1);
        eight(&mut world, players, |world| snapshots.push(world.snapshot().unwrap()));
    })
}

/// The same ticks with no way back, but for once in a while, so that the players stay where the pads are.
fn alone(moving: u16) -> Timed<'static> {
    let (mut world, players) = played(moving);
    let begin = world.snapshot().unwrap();
    let mut left = 0;
    Timed::new(8, move || {
        if left == 0 {
            world.restore(&begin).unwrap();
            left = 64;
        }
        left -= 1;
        eight(&mut world, players, |_| {});
    })
}
