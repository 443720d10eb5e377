//! A world full of zones, prompts, rays, pushes and things that hang on each other, saved at any tick and gone on with in
//! a fresh world: the same digest as without.

use std::collections::BTreeMap;

use proptest::{prelude::*, test_runner::RngSeed};
use stoicheon_core::{
    Event, Expr, ObjectId, PartId, Pick, Pointing, Prompt, Push, Rotation, Snapshot, Solid, Vec3, World,
    Zone, secs,
    space::{Cells, Grid, Shape},
};

/// Something a host can hand in. Numbers stand for objects, around and around.
#[derive(Clone, Debug)]
enum Input {
    Put(usize, Vec3),
    Move(usize, Vec3),
    Walk(usize, Vec3),
    Face(usize, f64),
    Drive(usize, Vec3),
    Switch(usize, bool),
    Key(usize, bool),
    Point(usize, Vec3),
    Hang(usize, usize),
    Loose(usize),
    Told(usize, bool),
    Reshape(usize, f64),
    Leave(usize),
    Fee(f64),
}

fn place() -> impl Strategy<Value = Vec3> {
    (-10..10_i8, -2..3_i8, -10..10_i8).prop_map(|(x, y, z)| Vec3::new(x.into(), y.into(), z.into()))
}

fn input() -> impl Strategy<Value = Input> {
    let one = || 0..12_usize;
    prop_oneof![
        4 => (one(), place()).prop_map(|(object, at)| Input::Put(object, at)),
        8 => (one(), place()).prop_map(|(object, at)| Input::Move(object, at)),
        4 => (one(), place()).prop_map(|(object, at)| Input::Walk(object, at)),
        2 => (one(), -180.0..180.0).prop_map(|(object, turn)| Input::Face(object, turn)),
        2 => (one(), place()).prop_map(|(object, by)| Input::Drive(object, by)),
        2 => (one(), any::<bool>()).prop_map(|(object, on)| Input::Switch(object, on)),
        4 => (one(), any::<bool>()).prop_map(|(object, down)| Input::Key(object, down)),
        3 => (one(), place()).prop_map(|(object, along)| Input::Point(object, along)),
        2 => (one(), one()).prop_map(|(object, on)| Input::Hang(object, on)),
        1 => one().prop_map(Input::Loose),
        2 => (one(), any::<bool>()).prop_map(|(object, inside)| Input::Told(object, inside)),
        1 => (one(), 0.5..4.0).prop_map(|(object, radius)| Input::Reshape(object, radius)),
        1 => one().prop_map(Input::Leave),
        1 => (0.0..2.0).prop_map(Input::Fee),
    ]
}

struct Scene {
    world: World<()>,
    objects: Vec<ObjectId>,
    zones: Vec<PartId>,
    told: PartId,
}

fn scene() -> Scene {
    let mut world = World::<()>::new();
    let fee = world.var("fee", 1.0).unwrap();
    let (mut objects, mut zones) = (Vec::new(), Vec::new());
    for number in 0..4_u8 {
        let at = Vec3::new(f32::from(number) * 4.0 - 6.0, 0.0, 0.0);
        let player = world.player(&format!("player_{number}")).at(at);
        let shape = Shape::capsule(Vec3::Y, 0.3);
        objects.push(if number % 2 == 0 { player.body_of(shape) } else { player }.add().unwrap());
    }
    let shapes = [
        Zone::boxed(Vec3::new(4.0, 2.0, 4.0)).pulse(secs(0.2)),
        Zone::of(Shape::ball(2.0)).when(Expr::var(fee).more_than(0.5)).margin(0.2),
        Zone::of(Shape::cylinder(1.5, 3.0).and(Shape::boxed(Vec3::ONE))).admits("player"),
    ];
    for (number, zone) in (0_u8..).zip(shapes) {
        let at = Vec3::new(0.0, 0.0, f32::from(number) * 5.0 - 5.0);
        let object = world.object(&format!("landing_{number}")).at(at).add().unwrap();
        zones.push(world.attach(object, zone).unwrap().part);
        objects.push(object);
    }
    let race = world.object("race").at(Vec3::new(5.0, 0.0, 5.0)).add().unwrap();
    zones.push(world.attach(race, Zone::boxed(Vec3::splat(6.0))).unwrap().part);
    world.attach(race, Push::along(Vec3::Z).by(Expr::var(fee)).adding()).unwrap();
    let bell = world.object("bell").at(Vec3::new(0.0, 0.0, 2.0)).add().unwrap();
    let asked = Prompt::new("Ring").hold(secs(0.1)).reach(5.0).in_sight();
    let bell_prompt = world.attach(bell, asked).unwrap();
    let hedge = world.object("hedge").at(Vec3::new(3.0, 0.0, 0.0)).add().unwrap();
    world.attach(hedge, Solid::of(Shape::boxed(Vec3::new(1.0, 4.0, 4.0)))).unwrap();
    let garden = world.object("garden").at(Vec3::new(-5.0, 0.0, 5.0)).add().unwrap();
    let grid = Grid::new(Cells::HexFlat, 0.7).unwrap();
    let pick = Pick::of(Shape::boxed(Vec3::new(6.0, 0.5, 6.0))).reach(9.0).grid(grid);
    let pick = world.attach(garden, pick).unwrap();
    let port = world.object("port").add().unwrap();
    let told = world.attach(port, Zone::told()).unwrap().part;
    objects.extend([race, bell, hedge, garden, port]);
    world.on(bell_prompt.answered).run(|(), (), cx| cx.put(cx.who().unwrap(), Vec3::ZERO)).unwrap();
    world
        .on(pick.picked)
        .run(move |(), hit, cx| cx.face(garden, Rotation::about(Vec3::Y, hit.distance)))
        .unwrap();
    Scene { world, objects, zones, told }
}

impl Scene {
    /// What cannot be taken is refused by the world, and just as much so in both runs.
    fn hand_in(&mut self, input: &Input) {
        let object = |number: usize| self.objects[number % self.objects.len()];
        let world = &mut self.world;
        let done = match *input {
            Input::Put(one, at) => world.put(object(one), at),
            Input::Move(one, at) => world.move_to(object(one), at),
            Input::Walk(one, at) => world.walk(object(one), at, 20.0),
            Input::Face(one, turn) => world.face(object(one), Rotation::about(Vec3::Y, turn)),
            Input::Drive(one, by) => world.drive(object(one), by),
            Input::Switch(one, true) => world.enable(object(one)),
            Input::Switch(one, false) => world.disable(object(one)),
            Input::Key(one, true) => world.press(object(one % 4), "use"),
            Input::Key(one, false) => world.release(object(one % 4), "use"),
            Input::Point(one, along) => {
                let from = Vec3::new(0.0, 3.0, 0.0);
                world.point(Pointing::new(object(one % 4), from, along, "left"))
            }
            Input::Hang(one, on) => world.hang(object(one), Some(object(on))),
            Input::Loose(one) => world.hang(object(one), None),
            Input::Told(one, inside) => world.touch(self.told, object(one), inside),
            Input::Reshape(one, radius) => {
                world.reshape(self.zones[one % self.zones.len()], Shape::ball(radius))
            }
            Input::Leave(one) => world.leave(object(one)),
            Input::Fee(fee) => {
                let var = world.find_var("fee").unwrap();
                world.set(var, fee)
            }
        };
        drop(done);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, rng_seed: RngSeed::Fixed(9), ..ProptestConfig::default() })]

    #[test]
    fn a_world_saved_at_any_tick_goes_on_the_same_in_a_fresh_one(
        ticks in prop::collection::vec(prop::collection::vec(input(), 0..5), 1..40),
        saved_at in 0..40_usize,
    ) {
        let (mut whole, mut broken) = (scene(), scene());
        for (number, inputs) in ticks.iter().enumerate() {
            if number == saved_at % ticks.len() {
                let json = serde_json::to_string(&broken.world.snapshot().unwrap()).unwrap();
                let saved: Snapshot = serde_json::from_str(&json).unwrap();
                broken = scene();
                broken.world.restore(&saved).unwrap();
            }
            for scene in [&mut whole, &mut broken] {
                inputs.iter().for_each(|input| scene.hand_in(input));
                scene.world.step(&mut ()).unwrap();
            }
            prop_assert_eq!(whole.world.trace().digest(), broken.world.trace().digest(), "tick {}", number);
        }
    }

    #[test]
    fn who_enters_leaves_before_entering_again(
        ticks in prop::collection::vec(prop::collection::vec(input(), 0..5), 1..40),
    ) {
        let mut scene = scene();
        for inputs in &ticks {
            inputs.iter().for_each(|input| scene.hand_in(input));
            scene.world.step(&mut ()).unwrap();
        }
        let mut inside: BTreeMap<(PartId, ObjectId), bool> = BTreeMap::new();
        for (_, record) in scene.world.trace().records() {
            let (at, now) = match record.event {
                Event::Entered { zone, body, .. } => ((zone, body), true),
                Event::Left { zone, body, .. } => ((zone, body), false),
                _ => continue,
            };
            prop_assert_eq!(inside.insert(at, now).unwrap_or(false), !now);
        }
        // And who is inside now is who has come and not gone.
        for ((zone, body), now) in inside {
            prop_assert_eq!(scene.world.is_inside(body, zone), now);
        }
    }
}
