//! A world in which nothing happens.

use stoicheon::{
    Config, Vec3, World,
    parts::{Door, Prompt, Zone},
    trace::TraceLevel,
};

use crate::{Ratios, Timed};

const OBJECTS: u16 = 10_000;

/// So many objects with a door, a zone and a prompt, and two players who stand still.
fn standing(objects: u16) -> Timed<'static> {
    let mut world = World::<()>::with(Config { trace: TraceLevel::Off, ..Config::default() });
    for index in 0..objects {
        let at = Vec3::new(f32::from(index % 100) * 6.0, 0.0, f32::from(index / 100) * 6.0);
        let gate = world.object(&format!("gate_{index}")).at(at).add().unwrap();
        world.attach(gate, Door::swing(85.0)).unwrap();
        let zone = world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
        let prompt = world.attach(gate, Prompt::new("Open")).unwrap();
        world.on(zone.entered).run_steps([]).unwrap();
        world.on(prompt.answered).run_steps([]).unwrap();
    }
    for (name, z) in [("ada", 3.0), ("ben", 9.0)] {
        world.player(name).at(Vec3::new(3.0, 0.0, z)).add().unwrap();
    }
    (0..20).for_each(|_| world.step(&mut ()).unwrap());
    Timed::new(64, move || (0..64).for_each(|_| world.step(&mut ()).unwrap()))
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let empty = standing(0).and(f64::from(OBJECTS));
    ratios.row("world.idle", 1.0, standing(OBJECTS), "an empty world, and 1 ns per object", empty);
}
