//! Snapshots of a busy scene, against cloning a plain vector of the same bytes (those the snapshot has as JSON).

use std::hint::black_box;

use stoicheon::{Config, Door, Steps, TraceLevel, World, secs};

use crate::{Ratios, Timed};

/// A thousand gates, each with a door and a wire; two hundred of their sequences are waiting.
fn busy() -> World<()> {
    let mut world = World::<()>::with(Config { trace: TraceLevel::Off, ..Config::default() });
    for index in 0..1000 {
        let gate = world.object(&format!("gate_{index}")).tag("gate").add().unwrap();
        let door = world.attach(gate, Door::swing(85.0).over(secs(0.1))).unwrap();
        let steps = Steps::new().wait(secs(60.0)).close(door);
        world.on(door.opened).owned_by(gate).run_steps(steps).unwrap();
        if index % 5 == 0 {
            world.command(door.part, Door::TO_OPEN).unwrap();
        }
    }
    for _ in 0..10 {
        world.step(&mut ()).unwrap();
    }
    world
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let mut world = busy();
    let snapshot = world.snapshot().unwrap();
    let bytes = serde_json::to_vec(&snapshot).unwrap();
    let plain = || {
        let bytes = bytes.clone();
        Timed::new(1, move || {
            black_box(bytes.clone());
        })
    };
    let peer = "clone of a plain vector";
    let taken = busy();
    let take = Timed::new(1, move || {
        black_box(taken.snapshot().unwrap());
    });
    ratios.row("snapshot.1000", None, take, peer, plain());
    let restore = Timed::new(1, move || world.restore(black_box(&snapshot)).unwrap());
    ratios.row("restore.1000", None, restore, peer, plain());
}
