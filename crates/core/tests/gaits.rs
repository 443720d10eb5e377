//! Bodies that are under way, as a cause: who sets out, steps and rests; a push with a top speed; a door's leaf.

use stoicheon_core::{
    BuildError, Door, Expr, Gait, Kept, ObjectId, Push, Rotation, Text, Vec3, World, Zone, secs,
};

type Heard = Vec<(Text, f64)>;

fn at(x: f32, y: f32, z: f32) -> Vec3 {
    Vec3::new(x, y, z)
}

/// A world in which what gaits say is written down: who, and how far; -1 for setting out, less one for resting.
struct Yard {
    world: World<Heard>,
    heard: Heard,
}

impl Yard {
    fn new() -> Self {
        Self { world: World::new(), heard: Vec::new() }
    }

    fn gait(&mut self, name: &str, gait: Gait, zone: Option<Vec3>) -> ObjectId {
        let object = self.world.object(name).add().unwrap();
        if let Some(size) = zone {
            self.world.attach(object, Zone::boxed(size)).unwrap();
        }
        let gait = self.world.attach(object, gait).unwrap();
        let who = |state: &stoicheon_core::State, who: Option<ObjectId>| {
            Text::from(who.and_then(|who| state.name(who)).unwrap_or("nobody"))
        };
        self.world
            .on(gait.set_out)
            .run(move |heard: &mut Heard, (), cx| heard.push((who(cx, cx.who()), -1.0)))
            .unwrap();
        self.world
            .on(gait.stepped)
            .run(move |heard: &mut Heard, step, cx| heard.push((who(cx, cx.who()), step.distance)))
            .unwrap();
        self.world
            .on(gait.rested)
            .run(move |heard: &mut Heard, rest, cx| heard.push((who(cx, cx.who()), -2.0 - rest.distance)))
            .unwrap();
        object
    }

    fn run(&mut self, ticks: usize) -> Vec<String> {
        (0..ticks).for_each(|_| self.world.step(&mut self.heard).unwrap());
        std::mem::take(&mut self.heard)
            .into_iter()
            .map(|(who, how)| match how {
                -1.0 => format!("{who} sets out"),
                how if how <= -2.0 => format!("{who} rests after {:.2}", -2.0 - how),
                how => format!("{who} {how:.2}"),
            })
            .collect()
    }
}

#[test]
fn bodies_set_out_step_and_rest_by_their_number() {
    let mut yard = Yard::new();
    yard.gait("soles", Gait::of("player").every(1.0), None);
    let (ada, bob) = (yard.world.player("ada").add().unwrap(), yard.world.player("bob").add().unwrap());
    yard.world.object("float").body().add().unwrap();
    // Bob is told to first; ada was made first.
    yard.world.walk(bob, at(0.0, 0.0, 2.0), 30.0).unwrap();
    yard.world.walk(ada, at(1.5, 0.0, 0.0), 15.0).unwrap();
    assert_eq!(yard.run(1), ["ada sets out", "bob sets out", "bob 1.00"]);
    assert_eq!(yard.run(1), ["ada 1.00", "bob 2.00"]);
    assert_eq!(yard.run(1), ["bob rests after 2.00"]);
    assert_eq!(yard.run(5), ["ada rests after 1.50"]);
    // What is put or sent does not go; a body that goes on sets out again.
    yard.world.put(ada, at(50.0, 0.0, 0.0)).unwrap();
    assert_eq!(yard.run(2), [""; 0]);
    yard.world.walk(ada, at(50.6, 0.0, 0.0), 30.0).unwrap();
    assert_eq!(yard.run(2), ["ada sets out", "ada rests after 0.60"]);
    // Who set out first does not rest first.
    yard.world.walk(bob, at(0.0, 0.0, 4.0), 30.0).unwrap();
    yard.run(1);
    yard.world.walk(ada, at(51.2, 0.0, 0.0), 30.0).unwrap();
    assert_eq!(yard.run(2), ["ada sets out", "bob 2.00", "ada rests after 0.60", "bob rests after 2.00"]);
    // Who leaves, or is switched off, does not rest: they are gone.
    yard.world.walk(ada, at(90.0, 0.0, 0.0), 3.0).unwrap();
    yard.run(2);
    yard.world.leave(ada).unwrap();
    yard.world.walk(bob, at(0.0, 0.0, 90.0), 3.0).unwrap();
    yard.run(2);
    yard.world.disable(bob).unwrap();
    assert_eq!(yard.run(5), [""; 0]);
}

#[test]
fn those_in_a_zone_are_told_of_there_and_an_object_of_itself() {
    let mut yard = Yard::new();
    yard.gait("planks", Gait::new().every(1.0), Some(at(4.0, 2.0, 4.0)));
    let ada = yard.world.player("ada").at(at(-4.0, 0.0, 0.0)).add().unwrap();
    yard.world.walk(ada, at(4.0, 0.0, 0.0), 15.0).unwrap();
    // From the tick after she came in to that in which she has left: she goes on, and does not rest there.
    assert_eq!(yard.run(40), ["ada sets out", "ada 1.00", "ada 2.00", "ada 3.00", "ada 4.00"]);

    let ferry = yard.world.object("ferry").at(at(0.0, 0.0, 40.0)).body().add().unwrap();
    let gait = yard.world.attach(ferry, Gait::new().every(2.0)).unwrap();
    yard.world
        .on(gait.stepped)
        .run(|heard: &mut Heard, step, _| heard.push(("ferry".into(), step.distance)))
        .unwrap();
    let float = yard.world.object("float").body().hung_on(ferry).add().unwrap();
    yard.world.attach(float, Gait::new()).unwrap();
    yard.world.drive(ferry, at(0.0, 0.0, 90.0)).unwrap();
    // Three units a tick: what it carries does not go by itself.
    assert_eq!(yard.run(2), ["ferry 2.00", "ferry 4.00", "ferry 6.00"]);
    yard.world.change(gait.part, "every", 6.0).unwrap();
    assert_eq!(yard.run(3), ["ferry 12.00"]);
    // A step where none was told before: the first begins where the body is.
    let raft = yard.world.object("raft").at(at(0.0, 0.0, 60.0)).body().add().unwrap();
    let gait = yard.world.attach(raft, Gait::new()).unwrap();
    yard.world.on(gait.stepped).run(|heard: &mut Heard, _, _| heard.push(("raft".into(), 0.0))).unwrap();
    yard.world.drive(ferry, Vec3::ZERO).unwrap();
    yard.world.drive(raft, at(0.0, 0.0, 30.0)).unwrap();
    assert_eq!(yard.run(10), [""; 0]);
    yard.world.change(gait.part, "every", 2.0).unwrap();
    assert_eq!(yard.run(3), ["raft 0.00"]);
}

#[test]
fn a_host_may_move_its_bodies_in_frames_of_any_length() {
    let walked = |frames: u32, per_second: f64| {
        let mut yard = Yard::new();
        yard.gait("soles", Gait::of("player").every(0.5), None);
        let ada = yard.world.player("ada").add().unwrap();
        for frame in 1..=frames {
            #[expect(clippy::cast_possible_truncation, reason = "a place")]
            let x = (f64::from(frame) * 3.0 / f64::from(frames)) as f32;
            yard.world.move_to(ada, at(x, 0.0, 0.0)).unwrap();
            yard.world.advance(secs(1.0 / per_second), &mut yard.heard).unwrap();
        }
        yard.run(3)
    };
    let whole = ["ada sets out", "ada 0.50", "ada 1.00", "ada 1.50", "ada 2.00", "ada 2.50", "ada 3.00"];
    for (frames, per_second) in [(30, 30.0), (90, 90.0), (10, 10.0), (144, 144.0)] {
        let heard = walked(frames, per_second);
        assert_eq!(heard[..7], whole, "{per_second}");
        assert_eq!(heard[7..], ["ada rests after 3.00"], "{per_second}");
    }
}

#[test]
fn what_is_under_way_goes_on_in_a_world_that_takes_it_up() {
    let mut yard = Yard::new();
    let soles = yard.gait("soles", Gait::of("player").every(1.0), None);
    let ada = yard.world.player("ada").add().unwrap();
    yard.world.walk(ada, at(3.0, 0.0, 0.0), 15.0).unwrap();
    assert_eq!(yard.run(3), ["ada sets out", "ada 1.00"]);
    let snapshot = yard.world.snapshot().unwrap();
    let rest = yard.run(5);
    assert_eq!(rest, ["ada 2.00", "ada 3.00", "ada rests after 3.00"]);
    yard.world.restore(&snapshot).unwrap();
    assert_eq!(yard.run(5), rest);
    // A gait that is off hears nothing, and then begins from the start.
    yard.world.walk(ada, at(0.0, 0.0, 0.0), 15.0).unwrap();
    yard.run(1);
    yard.world.disable(soles).unwrap();
    assert_eq!(yard.run(2), [""; 0]);
    yard.world.enable(soles).unwrap();
    assert_eq!(yard.run(1), ["ada sets out"]);
    for wrong in [0.0, -1.0, f64::NAN] {
        let told = yard.world.attach(ada, Gait::new().every(wrong)).unwrap_err();
        assert!(matches!(told, stoicheon_core::Error::Build(BuildError::BadNumber { setting: "every", .. })));
    }
    // A step that is next to nothing ends a tick all the same.
    yard.gait("dust", Gait::of("player").every(1e-9), None);
    let next_to_nothing = yard.run(1).iter().filter(|told| told.ends_with(" 0.00")).count();
    assert_eq!(next_to_nothing, 100);
}

#[test]
fn a_push_has_a_top_speed_and_slows_nobody_down() {
    let mut world = World::<()>::new();
    let pushed = |world: &mut World<()>, name: &str, z: f32, push: Push| {
        let race = world.object(name).at(at(0.0, 0.0, z)).add().unwrap();
        world.attach(race, Zone::boxed(at(900.0, 2.0, 2.0))).unwrap();
        world.attach(race, push).unwrap();
        world.object(&format!("{name}_float")).at(at(0.0, 0.0, z)).body().add().unwrap()
    };
    let slow = pushed(&mut world, "slow", 0.0, Push::along(Vec3::X).by(3.0).adding().top(2.0));
    let fast = pushed(&mut world, "fast", 9.0, Push::along(Vec3::X).by(3.0).adding().top(2.0));
    let back = pushed(&mut world, "back", 18.0, Push::along(Vec3::X).by(-3.0).adding().top(2.0));
    let set = pushed(&mut world, "set", 27.0, Push::along(Vec3::X).by(3.0).top(2.0));
    world.drive(fast, at(5.0, 1e-3, 0.0)).unwrap();
    (0..60).for_each(|_| world.step(&mut ()).unwrap());
    let velocity = |of| world.velocity(of).unwrap();
    assert!((velocity(slow) - at(2.0, 0.0, 0.0)).length() < 1e-5, "{}", velocity(slow));
    assert_eq!((velocity(fast), velocity(set)), (at(5.0, 1e-3, 0.0), at(2.0, 0.0, 0.0)));
    assert!((velocity(back) - at(-2.0, 0.0, 0.0)).length() < 1e-5, "{}", velocity(back));
}

#[test]
fn a_leaf_moves_with_its_door_and_with_what_that_hangs_on() {
    let mut world = World::<()>::new();
    let ferry = world.object("ferry").add().unwrap();
    let gate = world.object("gate").hung_on(ferry).at(at(5.0, 0.0, 0.0)).add().unwrap();
    let door = world.attach(gate, Door::swing(90.0).hinge(at(-2.0, 0.0, 0.0)).over(secs(1.0))).unwrap();
    let leaf = world.object("leaf").add().unwrap();
    world.bind(Kept::Place(leaf), Expr::reading(door.part, "leaf")).unwrap();
    world.bind(Kept::Facing(leaf), Expr::reading(door.part, "leaf_facing")).unwrap();
    let steps = |world: &mut World<()>, count: usize| (0..count).for_each(|_| world.step(&mut ()).unwrap());
    steps(&mut world, 1);
    let shut = world.place(gate).unwrap();
    assert_eq!(world.place(leaf).unwrap(), shut);
    world.open(door).unwrap();
    steps(&mut world, 40);
    let way = world.place(leaf).unwrap() - shut;
    assert!((way - at(-2.0, 0.0, -2.0)).length() < 1e-5, "{way}");
    assert_eq!(world.facing(leaf).unwrap(), Rotation::about(Vec3::Y, 90.0));
    world.put(ferry, at(0.0, 3.0, 0.0)).unwrap();
    steps(&mut world, 1);
    let way = world.place(leaf).unwrap() - shut;
    assert!((way - at(-2.0, 3.0, -2.0)).length() < 1e-5, "{way}");
}
