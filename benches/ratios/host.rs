//! What a game pays for a world of many things: bodies that the host moves, prompts, pushes, binds and idle objects.

use std::hint::black_box;

use rstar::{RTree, primitives::GeomWithData};
use stoicheon::{
    Config, ObjectId, Pose, Vec3, World,
    catalogue::Catalogue,
    parts::{Door, Prompt, Push, Solid, Zone},
    script,
    space::{BodyKey, Shape, Touches, Tracker},
    trace::TraceLevel,
};

use crate::{Ratios, Timed};

fn quiet() -> World<()> {
    World::with(Config { trace: TraceLevel::Off, objects: 1_000_000, ..Config::default() })
}

/// The place of that number: a hundred in a row, six units apart.
fn place(index: u32) -> Vec3 {
    let along = |number: u32| f32::from(u16::try_from(number).unwrap()) * 6.0;
    Vec3::new(along(index % 100), 0.0, along(index / 100))
}

/// Somewhere on the same ground, the same in every run.
fn scattered(index: u32, rows: u32) -> Vec3 {
    #[expect(clippy::cast_precision_loss, reason = "small numbers")]
    let part = |of: u32| (of % 1000) as f32 / 1000.0;
    let (x, z) = (index.wrapping_mul(2_654_435_761) >> 8, index.wrapping_mul(40_503).wrapping_add(7));
    #[expect(clippy::cast_precision_loss, reason = "small numbers")]
    let depth = rows as f32 * 6.0;
    Vec3::new(part(x) * 600.0, 0.0, part(z) * depth)
}

const BODIES: u32 = 10_000;
const ZONES: u32 = 1_000;

/// Where a body is in that tick: to and fro, 0.1 units a tick.
fn to_and_fro(from: Vec3, tick: u32) -> Vec3 {
    #[expect(clippy::cast_precision_loss, reason = "small numbers")]
    let along = (tick % 40).min(40 - tick % 40) as f32 * 0.1;
    from + Vec3::new(along, 0.0, along * 0.5)
}

/// The host moves every body in every tick.
fn placed() -> Timed<'static> {
    let mut world = quiet();
    for index in 0..ZONES {
        let pad = world.object(&format!("pad_{index}")).at(place(index)).add().unwrap();
        world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    }
    let bodies: Vec<(ObjectId, Vec3)> = (0..BODIES)
        .map(|index| {
            let at = scattered(index, 10);
            (world.object(&format!("crate_{index}")).at(at).body().add().unwrap(), at)
        })
        .collect();
    world.step(&mut ()).unwrap();
    let mut tick = 0;
    Timed::new(BODIES, move || {
        tick += 1;
        for (body, from) in &bodies {
            world.move_to(*body, to_and_fro(*from, tick)).unwrap();
        }
        world.step(&mut ()).unwrap();
    })
}

/// The tracker alone, with the same moves.
fn tracked() -> Timed<'static> {
    let mut tracker = Tracker::<u32, u32>::new();
    for index in 0..ZONES {
        tracker.add_zone(index, Some(Shape::boxed(Vec3::splat(2.0))), Pose::at(place(index))).unwrap();
    }
    let bodies: Vec<(BodyKey, Vec3)> = (0..BODIES)
        .map(|index| {
            let at = scattered(index, 10);
            (tracker.add_body(index, index, at).unwrap(), at)
        })
        .collect();
    let (mut tick, mut touches) = (0, Touches::default());
    Timed::new(BODIES, move || {
        tick += 1;
        for (body, from) in &bodies {
            tracker.walk(*body, to_and_fro(*from, tick)).unwrap();
        }
        tracker.step(u64::from(tick), |_, _| true, &mut touches);
        black_box(&touches);
    })
}

const PLAYERS: u32 = 64;

/// A tick of so many prompts, of a reach of 2, and 64 players among them, who stand still or walk.
fn prompts(count: u32, walk: bool) -> Timed<'static> {
    let mut world = quiet();
    for index in 0..count {
        let post = world.object(&format!("post_{index}")).at(place(index)).add().unwrap();
        world.attach(post, Prompt::new("Read").reach(2.0)).unwrap();
    }
    among(world, |index| scattered(index, count / 100), u32::MAX, walk)
}

/// A tick of a world with 64 players, who stand still, or walk to and fro, so many ticks at most.
fn among(mut world: World<()>, at: impl Fn(u32) -> Vec3, most: u32, walk: bool) -> Timed<'static> {
    let players: Vec<_> = (0..PLAYERS)
        .map(|index| (world.player(&format!("player_{index}")).at(at(index)).add().unwrap(), at(index)))
        .collect();
    (0..20).for_each(|_| world.step(&mut ()).unwrap());
    let mut tick = 0;
    Timed::new(1, move || {
        tick += 1;
        if walk {
            for (player, from) in &players {
                world.move_to(*player, to_and_fro(*from, tick % most)).unwrap();
            }
        }
        world.step(&mut ()).unwrap();
    })
}

/// The same as one query of an R-tree for each player.
fn queries(count: u32) -> Timed<'static> {
    let posts = (0..count).map(|index| GeomWithData::new(place(index).to_array(), index)).collect();
    let tree = RTree::bulk_load(posts);
    let mut tick = 0;
    Timed::new(1, move || {
        tick += 1;
        for index in 0..PLAYERS {
            let at = to_and_fro(scattered(index, count / 100), tick).to_array();
            black_box(tree.locate_within_distance(at, 4.0).count());
        }
    })
}

/// A thousand prompts that ask whether they are seen, all in reach of 64 players, with fifty solids between them.
fn sights(moves: bool) -> Timed<'static> {
    let mut world = quiet();
    let near = |index: u32, of: u32| place(index % of) * 0.01;
    for index in 0..1000 {
        let post = world.object(&format!("post_{index}")).at(near(index, 1000)).add().unwrap();
        world.attach(post, Prompt::new("Read").reach(50.0).in_sight()).unwrap();
    }
    for index in 0..50 {
        let wall = world.object(&format!("wall_{index}")).at(near(index * 20, 1000)).add().unwrap();
        world.attach(wall, Solid::of(Shape::boxed(Vec3::new(0.02, 2.0, 0.3)))).unwrap();
    }
    let beside = move |index: u32| near(index * 15, 1000) + Vec3::new(0.03, 0.0, 0.03);
    among(world, beside, 3, moves)
}

/// A tick of so many objects with a door, a zone and a prompt, and one player who stands still among them.
fn idle(count: u32) -> Timed<'static> {
    let mut world = quiet();
    for index in 0..count {
        let gate = world.object(&format!("gate_{index}")).at(place(index)).add().unwrap();
        world.attach(gate, Door::swing(85.0)).unwrap();
        world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
        world.attach(gate, Prompt::new("Open")).unwrap();
    }
    world.player("ada").at(Vec3::new(0.5, 0.0, 0.5)).add().unwrap();
    (0..20).for_each(|_| world.step(&mut ()).unwrap());
    Timed::new(64, move || (0..64).for_each(|_| world.step(&mut ()).unwrap()))
}

/// A tick of so many pushes with nobody inside.
fn pushes(count: u32) -> Timed<'static> {
    let mut world = quiet();
    for index in 0..count {
        let pad = world.object(&format!("pad_{index}")).at(place(index)).add().unwrap();
        world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
        world.attach(pad, Push::along(Vec3::X).by(2.0)).unwrap();
    }
    world.player("ada").at(Vec3::new(3.0, 0.0, 3.0)).add().unwrap();
    (0..20).for_each(|_| world.step(&mut ()).unwrap());
    Timed::new(64, move || (0..64).for_each(|_| world.step(&mut ()).unwrap()))
}

const WIRES: u32 = 10_000;

/// Ten thousand wires on one signal, each of which counts one up.
fn counting(from_file: bool) -> Timed<'static> {
    let mut world = quiet();
    if from_file {
        let mut text = "var n: whole = 0\nsignal rung\n".to_owned();
        text.push_str(&"on rung { n += 1 }\n".repeat(WIRES as usize));
        let loaded = script::load("wires.stoi", &text, &Catalogue::built_in());
        loaded.build(&mut world).unwrap();
    }
    let rung = world.declare_signal::<()>("rung").unwrap();
    if !from_file {
        let n = world.var("n", 0_i64).unwrap();
        for _ in 0..WIRES {
            let wire = world.on(rung);
            wire.run(move |(), (), cx| cx.set(n, cx.value(n)?.as_whole().unwrap_or_default() + 1)).unwrap();
        }
    }
    Timed::new(WIRES, move || {
        world.emit(rung, ()).unwrap();
        world.step(&mut ()).unwrap();
    })
}

/// A bind for each of so many lamps, which reads the nearest of as many gates; one gate is toggled.
fn nearest(count: u32) -> Timed<'static> {
    use std::fmt::Write as _;
    let mut text = String::from("scene canal\n\nsignal toggled\n\n");
    for index in 0..count {
        let at = place(index);
        writeln!(
            text,
            "object gate_{index} at ({}, 0, {}) tags gate {{ door {{ fade, over 0.01s }} }}",
            at.x, at.z
        )
        .unwrap();
        writeln!(
            text,
            "object lamp_{index} at ({}, 0, {}) tags lamp {{ var lit: boolean = false }}",
            at.x + 1.0,
            at.z
        )
        .unwrap();
    }
    text.push_str("\nbind each lamp.lit = nearest gate is open\n");
    writeln!(text, "\non toggled {{ toggle gate_{} }}", count / 2).unwrap();
    let loaded = script::load("lamps.stoi", &text, &Catalogue::built_in());
    let mut world = quiet();
    assert!(!loaded.has_errors());
    loaded.build(&mut world).unwrap();
    let toggled = world.declare_signal::<()>("toggled").unwrap();
    let lit = |world: &World<()>| {
        let lamp = |index| world.find(&format!("lamp_{index}")).unwrap();
        let lit = |index: &u32| world.property(lamp(*index), "lit").unwrap().as_bool() == Some(true);
        (0..count).filter(lit).count()
    };
    world.step(&mut ()).unwrap();
    assert_eq!(lit(&world), 0);
    world.emit(toggled, ()).unwrap();
    (0..2).for_each(|_| world.step(&mut ()).unwrap());
    assert_eq!(lit(&world), 1);
    Timed::new(1, move || {
        world.emit(toggled, ()).unwrap();
        world.step(&mut ()).unwrap();
    })
}

/// So many bodies are placed out of one zone and into it again.
fn put_out(count: u32) -> Timed<'static> {
    let mut world = quiet();
    let yard = world.object("yard").add().unwrap();
    world.attach(yard, Zone::boxed(Vec3::splat(100.0))).unwrap();
    let bodies: Vec<_> =
        (0..count).map(|index| world.object(&format!("crate_{index}")).body().add().unwrap()).collect();
    world.step(&mut ()).unwrap();
    let mut out = false;
    Timed::new(count, move || {
        out = !out;
        let to = Vec3::new(if out { 1000.0 } else { 0.0 }, 0.0, 0.0);
        for body in &bodies {
            world.put(*body, to).unwrap();
        }
        world.step(&mut ()).unwrap();
    })
}

pub(crate) fn rows(ratios: &mut Ratios) {
    // A scene is made only when its row is wanted.
    type Make<'a> = &'a dyn Fn() -> Timed<'static>;
    let mut against = |row: &str, bar: f64, ours: Make<'_>, peer: &'static str, theirs: Make<'_>| {
        if ratios.wants(row) {
            ratios.row(row, bar, ours(), peer, theirs());
        }
    };
    let (thousand, few) = ("ours, 1,000 prompts", "ours, 500 bodies");
    against("host.placed", 2.5, &placed, "space::Tracker alone, the same moves", &tracked);
    against("host.prompts.walk", 10.0, &|| prompts(1000, true), "rstar, a query per player", &|| {
        queries(1000)
    });
    against("host.prompts.more", 1.5, &|| prompts(4000, true), thousand, &|| prompts(1000, true));
    against("host.wires", 6.0, &|| counting(true), "the same as Rust closures", &|| counting(false));
    against("host.put_out", 1.3, &|| put_out(16_000), few, &|| put_out(500));
    let mut within = |row: &str, nanoseconds: f64, ours: Make<'_>| {
        if ratios.wants(row) {
            ratios.within(row, nanoseconds, ours());
        }
    };
    within("host.prompts.still", 20_000.0, &|| prompts(1000, false));
    within("host.sights.still", 1e6, &|| sights(false));
    within("host.sights.walk", 1e6, &|| sights(true));
    within("host.idle", 5_000.0, &|| idle(10_000));
    within("host.pushes", 5_000.0, &|| pushes(10_000));
    within("host.wires.time", 120.0, &|| counting(true));
    within("host.nearest", 2e6, &|| nearest(4000));
}
