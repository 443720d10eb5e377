//! What is counted: everything a host does with a world of many objects.

use std::{fmt::Write as _, hint::black_box, mem::ManuallyDrop};

use stoicheon::{
    Config, Signal, Vec3, World,
    catalogue::Catalogue,
    parts::{Door, Gait, Prompt, Zone},
    plan::{Expr, Group, Kept, NewVar, Step, Steps, Target},
    script, secs,
    store::{Form, from_bytes, to_bytes},
    trace::TraceLevel,
};

/// Something that is done once in a world of so many objects.
pub(crate) struct Case {
    pub(crate) name: &'static str,
    /// Makes what is needed; what comes back is counted.
    pub(crate) prepare: fn(u32) -> Box<dyn FnOnce()>,
}

pub(crate) const ALL: &[Case] = &[
    Case { name: "language.load", prepare: load },
    Case { name: "language.check", prepare: check },
    Case { name: "language.build", prepare: build },
    Case { name: "language.rewire", prepare: |size| rewire(size, 1) },
    Case { name: "language.rewire.all", prepare: |size| rewire(size, usize::MAX) },
    Case { name: "language.format", prepare: format },
    Case { name: "language.project", prepare: project },
    Case { name: "editing.complete", prepare: complete },
    Case { name: "world.make", prepare: |size| to((), move |()| canal(size)) },
    Case { name: "world.start", prepare: start },
    Case { name: "world.spawn.group", prepare: spawn },
    Case { name: "world.tag.group", prepare: tag },
    Case { name: "world.destroy", prepare: destroy },
    Case { name: "world.snapshot", prepare: snapshot },
    Case { name: "world.restore", prepare: restore },
    Case { name: "world.rollback", prepare: rollback },
    Case { name: "world.suspend", prepare: suspend },
    Case { name: "world.resume", prepare: resume },
    Case { name: "saves.save", prepare: save },
    Case { name: "saves.recall", prepare: recall },
    Case { name: "tick.zones", prepare: zones },
    Case { name: "tick.prompts", prepare: prompts },
    Case { name: "tick.prompts.move", prepare: moving_prompts },
    Case { name: "tick.put_out", prepare: put_out },
    Case { name: "tick.doors", prepare: doors },
    Case { name: "tick.gaits", prepare: gaits },
    Case { name: "tick.binds", prepare: binds },
    Case { name: "tick.binds.each", prepare: binds_each },
    Case { name: "tick.waits", prepare: waits },
];

/// Does something to a world, which is not dropped while it is counted.
fn to<T: 'static, R>(thing: T, work: impl FnOnce(&mut T) -> R + 'static) -> Box<dyn FnOnce()> {
    let mut thing = ManuallyDrop::new(thing);
    Box::new(move || {
        black_box(ManuallyDrop::new(work(&mut thing)));
    })
}

fn ticks(world: &mut World<()>, count: u32) {
    (0..count).for_each(|_| world.step(&mut ()).unwrap());
}

fn world() -> World<()> {
    World::with(Config { trace: TraceLevel::Off, objects: 1_000_000, ..Config::default() })
}

/// Where the object of that number stands: a hundred in a row, six units apart.
fn place(index: u32) -> Vec3 {
    let along = |number: u32| f32::from(u16::try_from(number).unwrap()) * 6.0;
    Vec3::new(along(index % 100), 0.0, along(index / 100))
}

/// So many gates with a door, a zone, a prompt, a variable that is remembered, and three wires each.
fn canal(size: u32) -> (World<()>, Vec<stoicheon::parts::DoorHandle>, Signal<()>) {
    let mut world = world();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let passages = world.var("passages", 0_i64).unwrap();
    let mut doors = Vec::new();
    for index in 0..size {
        let gate =
            world.object(&format!("gate_{index}")).at(place(index)).tag("gate").remembered().add().unwrap();
        let door = world.attach(gate, Door::swing(85.0).over(secs(1.0))).unwrap();
        let zone = world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
        let prompt = world.attach(gate, Prompt::new("Open").reach(1.0)).unwrap();
        world.declare(NewVar::new("worn", f64::from(index)).of(gate).remembered()).unwrap();
        world.on(prompt.answered).owned_by(gate).run_steps(Steps::new().open(door)).unwrap();
        let up = Step::Set { target: Target::Var(passages), to: Expr::var(passages).plus(1_i64) };
        world.on(zone.entered).run_steps([up]).unwrap();
        world.on(door.opened).run_steps(Steps::new().wait(secs(60.0)).close(door)).unwrap();
        doors.push(door);
    }
    (world, doors, bell)
}

/// The same while it runs: every fifth door is on its way.
fn busy(size: u32) -> World<()> {
    let (mut world, doors, _) = canal(size);
    world.step(&mut ()).unwrap();
    for door in doors.iter().step_by(5) {
        world.command(door.part, Door::TO_OPEN).unwrap();
    }
    (0..5).for_each(|_| world.step(&mut ()).unwrap());
    world
}

fn text(size: u32) -> String {
    let mut text = String::from("scene canal\n\nvar level: number = 0.5\n\n");
    for index in 0..size {
        writeln!(text, "object gate_{index} at ({}, 0, 4) {{", index * 6).unwrap();
        writeln!(text, "  door {{ swing 85deg, over 2s }}\n  zone box (2, 1, 2)\n}}\n").unwrap();
        writeln!(text, "on gate_{index}.entered by player\n  when gate_{index} is closed and level > 0.2")
            .unwrap();
        writeln!(text, "  cooldown 2s\n{{\n  open gate_{index}\n  wait 5s\n  close gate_{index}\n}}\n")
            .unwrap();
    }
    text
}

fn loaded(text: &str) -> script::Loaded {
    let loaded = script::load("canal.stoi", text, &Catalogue::built_in());
    assert!(!loaded.has_errors());
    loaded
}

fn load(size: u32) -> Box<dyn FnOnce()> {
    let text = text(size);
    to(text, |text| loaded(text))
}

/// Every wire has a name that is written wrongly.
fn check(size: u32) -> Box<dyn FnOnce()> {
    let text = text(size).replace("is closed and level", "is closed and levle");
    to(text, |text| assert!(script::load("canal.stoi", text, &Catalogue::built_in()).has_errors()))
}

fn build(size: u32) -> Box<dyn FnOnce()> {
    to((loaded(&text(size)), world()), |(loaded, world)| loaded.build(world).unwrap())
}

/// So many gates are written otherwise, in a world that runs.
fn rewire(size: u32, gates: usize) -> Box<dyn FnOnce()> {
    let text = text(size);
    let (before, mut world) = (loaded(&text), world());
    before.build(&mut world).unwrap();
    ticks(&mut world, 2);
    let after = loaded(&text.replacen("85deg", "80deg", gates));
    assert!(text.contains("85deg"));
    to((before, after, world), |(before, after, world)| {
        assert!(!after.rewire(world, before).unwrap().changes.is_empty());
    })
}

/// What may come next at the end of a text.
fn complete(size: u32) -> Box<dyn FnOnce()> {
    let text = text(size) + "on gate_0.op";
    let unread = |_: &str| Err(String::new());
    let loaded = script::load_noting("canal.stoi", &text, &Catalogue::built_in(), &unread);
    let end = u32::try_from(text.len()).unwrap();
    to(loaded, move |loaded| assert!(!loaded.complete(0, end).unwrap().offers.is_empty()))
}

/// A project of small scenes, ten objects to each, that all have a playtest: it is read, and looked at in place.
fn project(size: u32) -> Box<dyn FnOnce()> {
    let gates: String = (0..9).fold(String::new(), |mut gates, number| {
        let _ = writeln!(gates, "object gate_{number} at ({number}, 0, 9) {{ zone box (2, 1, 2) }}\non gate_{number}.entered {{ level += 1 }}");
        gates
    });
    let head = (0..size / 10).fold("project canal\n".to_owned(), |mut head, number| {
        let _ = writeln!(head, "scene \"{number}\"");
        head
    });
    let read = move |number: &str| {
        Ok(format!(
            "scene lock_{number}\nvar level: number = 0\nspot steps at (0, 0, 0)\nobject bell {{ }}\n{gates}\
             playtest \"quiet\" {{ player ada at steps; expect level == 0 }}\n"
        ))
    };
    to((head, read), |(head, read)| {
        let project = script::Project::load("canal.stoi", head, &Catalogue::built_in(), read);
        assert!(!project.has_errors());
        project.checked_in_place()
    })
}

fn format(size: u32) -> Box<dyn FnOnce()> {
    let text = text(size);
    to(text, |text| script::format(text).unwrap())
}

fn start(size: u32) -> Box<dyn FnOnce()> {
    let (world, ..) = canal(size);
    to(world, |world| ticks(world, 1))
}

/// A wire listens to a signal of all posts; so many more are made.
fn spawn(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    world.on_every(Group::tagged("post"), Zone::ON_ENTERED).run_steps([]).unwrap();
    to(world, move |world| {
        for index in 0..size {
            let post = world.object(&format!("post_{index}")).at(place(index)).tag("post").add().unwrap();
            world.attach(post, Zone::boxed(Vec3::splat(2.0))).unwrap();
        }
        ticks(world, 1);
    })
}

/// All gates join a group, and leave it.
fn tag(size: u32) -> Box<dyn FnOnce()> {
    let (mut world, doors, _) = canal(size);
    world.on_every(Group::tagged("listed"), Zone::ON_ENTERED).run_steps([]).unwrap();
    world.step(&mut ()).unwrap();
    let gates: Vec<_> = doors.iter().map(|door| world.object_of(door.part).unwrap()).collect();
    to(world, move |world| {
        gates.iter().for_each(|gate| world.tag(*gate, "listed").unwrap());
        world.step(&mut ()).unwrap();
        gates.iter().for_each(|gate| world.untag(*gate, "listed").unwrap());
        ticks(world, 1);
    })
}

fn destroy(size: u32) -> Box<dyn FnOnce()> {
    let (mut world, doors, _) = canal(size);
    world.step(&mut ()).unwrap();
    let gates: Vec<_> = doors.iter().map(|door| world.object_of(door.part).unwrap()).collect();
    to(world, move |world| {
        gates.iter().for_each(|gate| world.destroy(*gate).unwrap());
        ticks(world, 1);
    })
}

fn snapshot(size: u32) -> Box<dyn FnOnce()> {
    let world = busy(size);
    to(world, |world| world.snapshot().unwrap())
}

fn restore(size: u32) -> Box<dyn FnOnce()> {
    let mut world = busy(size);
    let snapshot = world.snapshot().unwrap();
    (0..8).for_each(|_| world.step(&mut ()).unwrap());
    to((world, snapshot), |(world, snapshot)| world.restore(snapshot).unwrap())
}

/// Back eight ticks and forward again, with a snapshot after each: two players walk, and so many doors are on their way.
fn rollback(size: u32) -> Box<dyn FnOnce()> {
    let (mut world, doors, _) = canal(size);
    for (name, z) in [("ada", 0.0), ("ben", 6.0)] {
        let player = world.player(name).at(Vec3::new(-3.0, 0.0, z)).add().unwrap();
        world.walk(player, Vec3::new(600.0, 0.0, z), 10.0).unwrap();
    }
    world.step(&mut ()).unwrap();
    for door in doors.iter().step_by(20) {
        world.command(door.part, Door::TO_OPEN).unwrap();
    }
    world.step(&mut ()).unwrap();
    let snapshot = world.snapshot().unwrap();
    let forward = |world: &mut World<()>| -> Vec<_> {
        let mut stepped = || {
            world.step(&mut ()).unwrap();
            world.snapshot().unwrap()
        };
        (0..8).map(|_| stepped()).collect()
    };
    let snapshots = forward(&mut world);
    to((world, snapshots), move |(world, snapshots)| {
        world.restore(&snapshot).unwrap();
        *snapshots = forward(world);
    })
}

fn suspend(size: u32) -> Box<dyn FnOnce()> {
    let world = busy(size);
    to(world, |world| to_bytes(&world.snapshot().unwrap(), Form::Cbor).unwrap())
}

fn resume(size: u32) -> Box<dyn FnOnce()> {
    let world = busy(size);
    let bytes = to_bytes(&world.snapshot().unwrap(), Form::Cbor).unwrap();
    to((world, bytes), |(world, bytes)| world.restore(&from_bytes(bytes).unwrap()).unwrap())
}

fn save(size: u32) -> Box<dyn FnOnce()> {
    let world = busy(size);
    to(world, |world| to_bytes(&world.save().unwrap(), Form::Json).unwrap())
}

fn recall(size: u32) -> Box<dyn FnOnce()> {
    let world = busy(size);
    let bytes = to_bytes(&world.save().unwrap(), Form::Json).unwrap();
    to((world, bytes), |(world, bytes)| {
        assert!(world.recall(&from_bytes(bytes).unwrap()).unwrap().is_empty());
    })
}

/// For every object there is one zone and somebody who walks through it.
fn zones(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let mut walkers = Vec::new();
    for index in 0..size {
        let pad = world.object(&format!("pad_{index}")).at(place(index)).add().unwrap();
        let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
        world.on(pad.entered).run_steps([]).unwrap();
        let from = place(index) - Vec3::new(2.0, 0.0, 0.0);
        walkers.push((world.player(&format!("walker_{index}")).at(from).add().unwrap(), place(index)));
    }
    world.step(&mut ()).unwrap();
    for (walker, to) in walkers {
        world.walk(walker, to, 2.0).unwrap();
    }
    to(world, |world| ticks(world, 30))
}

/// All bodies are in one zone, and all are put out of it in one tick.
fn put_out(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let yard = world.object("yard").add().unwrap();
    world.attach(yard, Zone::boxed(Vec3::splat(10_000.0))).unwrap();
    let bodies: Vec<_> = (0..size)
        .map(|index| world.object(&format!("crate_{index}")).at(place(index)).body().add().unwrap())
        .collect();
    world.step(&mut ()).unwrap();
    bodies.iter().for_each(|body| world.put(*body, Vec3::splat(20_000.0)).unwrap());
    to(world, |world| ticks(world, 1))
}

/// For every player there is a prompt they come near to.
fn prompts(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let mut walkers = Vec::new();
    for index in 0..size {
        let post = world.object(&format!("post_{index}")).at(place(index)).add().unwrap();
        world.attach(post, Prompt::new("Read").reach(1.0)).unwrap();
        if index % 10 == 0 {
            let from = place(index) - Vec3::new(2.0, 0.0, 0.0);
            walkers.push((world.player(&format!("walker_{index}")).at(from).add().unwrap(), place(index)));
        }
    }
    world.step(&mut ()).unwrap();
    for (walker, to) in walkers {
        world.walk(walker, to, 2.0).unwrap();
    }
    to(world, |world| ticks(world, 30))
}

/// All prompts move in every tick, past players who stand still.
fn moving_prompts(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let mut posts = Vec::new();
    for index in 0..size {
        let post = world.object(&format!("post_{index}")).at(place(index)).add().unwrap();
        world.attach(post, Prompt::new("Read").reach(1.0)).unwrap();
        posts.push(post);
        if index % 10 == 0 {
            world.player(&format!("walker_{index}")).at(place(index)).add().unwrap();
        }
    }
    world.step(&mut ()).unwrap();
    to(world, move |world| {
        for tick in 0..10 {
            for (index, post) in (0..).zip(&posts) {
                world.put(*post, place(index) + place(tick) * 0.1).unwrap();
            }
            ticks(world, 1);
        }
    })
}

fn doors(size: u32) -> Box<dyn FnOnce()> {
    let (mut world, doors, _) = canal(size);
    world.step(&mut ()).unwrap();
    doors.iter().for_each(|door| world.command(door.part, Door::TO_OPEN).unwrap());
    to(world, |world| ticks(world, 40))
}

/// So many walkers under one gait take a step, and come to rest.
fn gaits(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let soles = world.object("soles").add().unwrap();
    world.attach(soles, Gait::of("walker").every(0.5)).unwrap();
    let walkers: Vec<_> = (0..size)
        .map(|index| {
            let new = world.object(&format!("walker_{index}")).at(place(index)).tag("walker").body();
            new.add().unwrap()
        })
        .collect();
    to(world, move |world| {
        ticks(world, 1);
        for (walker, index) in walkers.iter().zip(0..) {
            world.move_to(*walker, place(index) + Vec3::X).unwrap();
        }
        ticks(world, 3);
    })
}

/// A bind hangs on every variable, and all of them change.
fn binds(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let rung = world.declare_signal::<()>("rung").unwrap();
    let mut steps = Steps::new();
    for index in 0..size {
        let worn = world.var(&format!("worn_{index}"), 0.0).unwrap();
        let shown = world.var(&format!("shown_{index}"), 0.0).unwrap();
        world.bind(Kept::Var(shown), Expr::var(worn).plus(1.0)).unwrap();
        steps = steps.set(worn, f64::from(index));
    }
    world.on(rung).run_steps(steps).unwrap();
    world.step(&mut ()).unwrap();
    world.emit(rung, ()).unwrap();
    to(world, |world| ticks(world, 1))
}

/// Every lamp shows how far off one keeper is, who walks.
fn binds_each(size: u32) -> Box<dyn FnOnce()> {
    let mut world = world();
    let keeper = world.object("keeper").body().add().unwrap();
    let (lamp, far) = (world.tag_named("lamp").unwrap(), world.property_named("far").unwrap());
    for index in 0..size {
        let object = world.object(&format!("lamp_{index}")).at(place(index)).tag("lamp").add().unwrap();
        world.declare(NewVar::new("far", 0.0).of(object)).unwrap();
    }
    let way = Expr::Distance(Box::new(Expr::It), Box::new(Expr::Value(keeper.into())));
    world.bind(Kept::Each(lamp, far), way).unwrap();
    to(world, move |world| {
        ticks(world, 1);
        world.move_to(keeper, Vec3::X).unwrap();
        ticks(world, 1);
    })
}

/// So many sequences wait for the same moment.
fn waits(size: u32) -> Box<dyn FnOnce()> {
    let (mut world, _, bell) = canal(size);
    let total = world.var("total", 0_i64).unwrap();
    for _ in 0..size {
        let up = Step::Set { target: Target::Var(total), to: Expr::var(total).plus(1_i64) };
        world.on(bell).run_steps(Steps::new().wait(secs(0.2)).step(up)).unwrap();
    }
    world.emit(bell, ()).unwrap();
    world.step(&mut ()).unwrap();
    to(world, |world| ticks(world, 10))
}
