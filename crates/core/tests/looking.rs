//! What is looked at again only when something has changed: what players are offered, members of binds, pushes. Whatever
//! changed must be among it.

use proptest::{prelude::*, test_runner::RngSeed};
use stoicheon_core::{
    Aim, Among, Carrier, Command, CommandKind, Door, Expr, Item, Kept, NewVar, ObjectId, Part, PartCx,
    PartKind, Picked, Pointing, Prompt, Push, Rotation, Settings, SignalKind, Snapshot, Solid, Value, Vec3,
    World, Zone, secs, space::Shape,
};

fn at(x: f32, z: f32) -> Vec3 {
    Vec3::new(x, 0.0, z)
}

/// A quay with a crank that is offered when the toll is paid, and in sight; a hatch that fades stands beside it.
struct Quay {
    world: World<()>,
    ada: ObjectId,
    crank: ObjectId,
    wall: ObjectId,
    hatch: stoicheon_core::DoorHandle,
    paid: stoicheon_core::VarId,
}

fn quay() -> Quay {
    let mut world = World::new();
    let paid = world.var("paid", true).unwrap();
    let crank = world.object("crank").at(at(0.0, -2.0)).add().unwrap();
    let prompt = Prompt::new("Wind").reach(3.0).in_sight().facing(60.0).when(Expr::var(paid));
    world.attach(crank, prompt).unwrap();
    let wall = world.object("wall").at(at(20.0, -1.0)).add().unwrap();
    world.attach(wall, Solid::of(Shape::boxed(Vec3::new(4.0, 4.0, 0.1)))).unwrap();
    let gate = world.object("hatch").at(at(40.0, -1.0)).add().unwrap();
    world.attach(gate, Solid::of(Shape::boxed(Vec3::new(4.0, 4.0, 0.1)))).unwrap();
    let hatch = world.attach(gate, Door::fade().over(secs(0.1))).unwrap();
    let ada = world.player("ada").add().unwrap();
    world.player("ben").at(at(9.0, 9.0)).add().unwrap();
    Quay { world, ada, crank, wall, hatch, paid }
}

impl Quay {
    /// What Ada is offered once a few ticks are over, and the same in a world that looks at everything again.
    fn offered(&mut self) -> Option<String> {
        (0..12).for_each(|_| self.world.step(&mut ()).unwrap());
        let kept = self.world.offer_to(self.ada);
        let snapshot = self.world.snapshot().unwrap();
        self.world.restore(&snapshot).unwrap();
        self.world.step(&mut ()).unwrap();
        assert_eq!(kept, self.world.offer_to(self.ada));
        kept.map(|offer| offer.label.to_string())
    }
}

/// What a host does to the world.
type Deed = Box<dyn FnOnce(&mut World<()>)>;

#[test]
fn a_player_who_stands_still_is_offered_what_has_come_to_make_sense() {
    let mut quay = quay();
    let (ada, crank, wall, paid) = (quay.ada, quay.crank, quay.wall, quay.paid);
    let wind = Some("Wind".to_owned());
    let gate = quay.world.find("hatch").unwrap();
    let hatch = quay.hatch.part;
    let changes: Vec<(&str, bool, Deed)> = vec![
        ("at first", true, Box::new(|_| ())),
        ("the toll is not paid", false, Box::new(move |world| world.set(paid, false).unwrap())),
        ("it is paid", true, Box::new(move |world| world.set(paid, true).unwrap())),
        ("a wall comes between", false, Box::new(move |world| world.put(wall, at(0.0, -1.0)).unwrap())),
        ("it is disabled", true, Box::new(move |world| world.disable(wall).unwrap())),
        ("and enabled", false, Box::new(move |world| world.enable(wall).unwrap())),
        ("it ends", true, Box::new(move |world| world.destroy(wall).unwrap())),
        ("a hatch comes between", false, Box::new(move |world| world.put(gate, at(0.0, -1.0)).unwrap())),
        ("the hatch fades", true, Box::new(move |world| world.command(hatch, Door::TO_OPEN).unwrap())),
        ("and is back", false, Box::new(move |world| world.command(hatch, Door::TO_CLOSE).unwrap())),
        ("it goes away", true, Box::new(move |world| world.put(gate, at(40.0, -1.0)).unwrap())),
        ("the crank is disabled", false, Box::new(move |world| world.disable(crank).unwrap())),
        ("and enabled", true, Box::new(move |world| world.enable(crank).unwrap())),
        ("it goes away", false, Box::new(move |world| world.put(crank, at(9.0, 0.0)).unwrap())),
        ("it comes back", true, Box::new(move |world| world.put(crank, at(0.0, -2.0)).unwrap())),
        (
            "Ada turns away",
            false,
            Box::new(move |world| world.face(ada, Rotation::about(Vec3::Y, 180.0)).unwrap()),
        ),
        ("and back", true, Box::new(move |world| world.face(ada, Rotation::NONE).unwrap())),
        ("she plays no more", false, Box::new(move |world| world.untag(ada, "player").unwrap())),
        ("and again", true, Box::new(move |world| world.tag(ada, "player").unwrap())),
        ("she is disabled", false, Box::new(move |world| world.disable(ada).unwrap())),
        ("and enabled", true, Box::new(move |world| world.enable(ada).unwrap())),
        ("the crank ends", false, Box::new(move |world| world.destroy(crank).unwrap())),
    ];
    for (what, offered, change) in changes {
        change(&mut quay.world);
        assert_eq!(quay.offered(), wind.clone().filter(|_| offered), "{what}");
    }
}

#[test]
fn a_prompt_follows_what_it_was_told_to_ask_for_last() {
    let mut quay = quay();
    let fee = quay.world.var("fee", 0.0).unwrap();
    let prompt = quay.world.find_part::<Prompt>(quay.crank).unwrap();
    let wind = Some("Wind".to_owned());
    quay.world.set_asked(prompt, "when", Expr::var(fee).more_than(1.0)).unwrap();
    assert_eq!(quay.offered(), None);
    quay.world.set(fee, 2.0).unwrap();
    assert_eq!(quay.offered(), wind);
    // What it asked for before is nothing to it.
    quay.world.set(quay.paid, false).unwrap();
    assert_eq!(quay.offered(), wind);
    quay.world.set(fee, 0.5).unwrap();
    assert_eq!(quay.offered(), None);
}

#[test]
fn a_prompt_for_who_carries_something_follows_what_each_player_carries() {
    let mut quay = quay();
    let Quay { ref mut world, ada, crank, .. } = quay;
    let ben = world.find("ben").unwrap();
    world.move_to(ben, at(0.5, 0.0)).unwrap();
    for player in [ada, ben] {
        world.attach(player, Carrier::new()).unwrap();
    }
    let oar = world.object("oar").tag("oar").at(at(0.0, 0.5)).add().unwrap();
    let oar = world.attach(oar, Item::new()).unwrap();
    let tag = world.tag_named("oar").unwrap();
    let prompt = world.find_part::<Prompt>(crank).unwrap();
    world.set_asked(prompt, "when", Expr::Carries { object: Box::new(Expr::Who), tag }).unwrap();
    let offered = |world: &mut World<()>| {
        (0..3).for_each(|_| world.step(&mut ()).unwrap());
        [ada, ben].map(|player| world.offered_to(player).is_some())
    };
    assert_eq!(offered(world), [false, false]);
    world.command_for(Some(ada), oar.part, Item::TAKE, &[]).unwrap();
    assert_eq!(offered(world), [true, false]);
    world.command_for(Some(ada), oar.part, Item::DROP, &[]).unwrap();
    assert_eq!(offered(world), [false, false]);
    world.command_for(Some(ben), oar.part, Item::TAKE, &[]).unwrap();
    assert_eq!(offered(world), [false, true]);
    // Half-way out of the door, what ben carried is set down.
    world.leave(ben).unwrap();
    assert_eq!(offered(world), [false, false]);
}

/// A part of a game's own: a sail that is wider each time it is told.
#[derive(Clone, Debug)]
struct Sail(Aim);

const SAIL: PartKind = PartKind::new(
    "sail",
    "Can be pointed at; wider each time it is told.",
    |_, _| Ok(Box::new(Sail(sail(1.0)))),
    || Box::new(Sail(sail(1.0))),
)
.with_signals(&[SignalKind::of::<Picked>("picked", "Somebody pointed at it.")])
.with_commands(&[CommandKind::new("unfurl", "It is two units wider.")]);

fn sail(width: f32) -> Aim {
    let mut aim = Aim::new(Shape::boxed(Vec3::new(width, 1.0, 1.0)));
    aim.picked = true;
    aim
}

impl Part for Sail {
    fn kind(&self) -> &'static PartKind {
        &SAIL
    }
    fn command(&mut self, _: Command, _: &mut PartCx<'_>) {
        self.0 = sail(3.0);
    }
    fn aim(&self) -> Option<&Aim> {
        Some(&self.0)
    }
    fn save(&self, _: &mut Vec<Value>) {}
    fn load(&mut self, _: &[Value]) -> bool {
        true
    }
}

#[test]
fn a_ray_meets_a_part_as_it_is_since_it_was_told_last() {
    // Nothing in this world is offered to anybody.
    let mut world = World::<u32>::new();
    let boat = world.object("boat").at(at(0.0, -9.0)).add().unwrap();
    let sail = world.attach_kind(boat, &SAIL, &Settings::default()).unwrap();
    let picked = world.signal::<Picked>("boat.picked").unwrap();
    world.on(picked).run(|count: &mut u32, _, _| *count += 1).unwrap();
    let ada = world.player("ada").at(at(1.2, 0.0)).add().unwrap();
    let mut count = 0;
    let mut point = |world: &mut World<u32>| {
        let button = "first";
        world.point(Pointing::new(ada, at(1.2, 0.0), Vec3::NEG_Z, button)).unwrap();
        world.step(&mut count).unwrap();
        count
    };
    assert_eq!(point(&mut world), 0);
    world.command(sail, Command::default()).unwrap();
    assert_eq!(point(&mut world), 1);
}

#[test]
fn a_push_works_on_those_inside_however_they_came_there() {
    let mut world = World::<()>::new();
    let race = world.object("race").at(at(0.0, 0.0)).add().unwrap();
    world.attach(race, Zone::boxed(Vec3::new(4.0, 2.0, 400.0))).unwrap();
    let float = world.object("float").body().add().unwrap();
    world.step(&mut ()).unwrap();
    // The push comes when the float has long been inside; then the race is off, and on again.
    world.attach(race, Push::along(Vec3::Z).by(3.0).stills()).unwrap();
    let went = |world: &mut World<()>| {
        let before = world.place(float).unwrap().z;
        (0..30).for_each(|_| world.step(&mut ()).unwrap());
        (world.place(float).unwrap().z - before).round()
    };
    assert_eq!(went(&mut world), 3.0);
    world.disable(race).unwrap();
    assert_eq!(went(&mut world), 0.0);
    world.enable(race).unwrap();
    assert_eq!(went(&mut world), 3.0);
    let snapshot: Snapshot =
        serde_json::from_slice(&serde_json::to_vec(&world.snapshot().unwrap()).unwrap()).unwrap();
    world.restore(&snapshot).unwrap();
    assert_eq!(went(&mut world), 3.0);
}

#[test]
fn a_bind_of_each_player_follows_what_each_carries() {
    let mut world = World::<()>::new();
    let [bargee, oar] = ["bargee", "oar"].map(|tag| world.tag_named(tag).unwrap());
    let laden = world.property_named("laden").unwrap();
    let players = ["ada", "ben"].map(|name| {
        let player = world.player(name).tag("bargee").add().unwrap();
        world.attach(player, Carrier::new()).unwrap();
        world.declare(NewVar::new("laden", false).of(player)).unwrap();
        player
    });
    let thing = world.object("oar").tag("oar").add().unwrap();
    let item = world.attach(thing, Item::new()).unwrap().part;
    world.bind(Kept::Each(bargee, laden), Expr::Carries { object: Box::new(Expr::It), tag: oar }).unwrap();
    let shown = |world: &mut World<()>| {
        (0..2).for_each(|_| world.step(&mut ()).unwrap());
        players.map(|player| world.property(player, "laden").unwrap().as_bool().unwrap())
    };
    assert_eq!(shown(&mut world), [false, false]);
    world.command_for(Some(players[1]), item, Item::TAKE, &[]).unwrap();
    assert_eq!(shown(&mut world), [false, true]);
    world.command_for(Some(players[1]), item, Item::DROP, &[]).unwrap();
    assert_eq!(shown(&mut world), [false, false]);
}

/// Lamps that show whether the nearest gate stands open, and how far off the keeper is.
struct Street {
    world: World<()>,
    lamps: Vec<ObjectId>,
    gates: Vec<(ObjectId, stoicheon_core::DoorHandle)>,
    keeper: ObjectId,
}

fn street() -> Street {
    let mut world = World::new();
    let keeper = world.object("keeper").body().add().unwrap();
    let [lamp, gate] = ["lamp", "gate"].map(|tag| world.tag_named(tag).unwrap());
    let [lit, far] = ["lit", "far"].map(|name| world.property_named(name).unwrap());
    let (mut lamps, mut gates) = (Vec::new(), Vec::new());
    for number in 0..6_u8 {
        let x = f32::from(number) * 5.0;
        let object = world.object(&format!("gate_{number}")).at(at(x, 0.0)).tag("gate").add().unwrap();
        gates.push((object, world.attach(object, Door::swing(85.0).over(secs(0.1))).unwrap()));
        let object = world.object(&format!("lamp_{number}")).at(at(x, 2.0)).tag("lamp").add().unwrap();
        world.declare(NewVar::new("lit", false).of(object)).unwrap();
        world.declare(NewVar::new("far", 0.0).of(object)).unwrap();
        lamps.push(object);
    }
    let open = world.state_test("open");
    let near = Expr::Nearest { among: Box::new(Among::tagged(gate)), to: Box::new(Expr::It) };
    world.bind(Kept::Each(lamp, lit), Expr::StateOf { object: Box::new(near), test: open }).unwrap();
    let way = Expr::Distance(Box::new(Expr::It), Box::new(Expr::Value(Value::Object(keeper))));
    world.bind(Kept::Each(lamp, far), way).unwrap();
    Street { world, lamps, gates, keeper }
}

impl Street {
    /// What a lamp should show.
    fn shows(&self, lamp: ObjectId) -> Option<(bool, f64)> {
        let place = |object: ObjectId| self.world.place(object).ok();
        let here = place(lamp)?;
        let gates = self.gates.iter().filter(|(gate, _)| self.world.has_tag(*gate, "gate"));
        let away = |gate: &&(ObjectId, stoicheon_core::DoorHandle)| {
            place(gate.0).map_or(f32::INFINITY, |at| at.distance_squared(here))
        };
        let nearest = gates.min_by(|one, two| away(one).total_cmp(&away(two)))?;
        let far = here.as_dvec3().distance(place(self.keeper)?.as_dvec3());
        Some((self.world.state_word(nearest.1.part) == Some("open"), far))
    }

    fn check(&self, what: &str) {
        for lamp in self.lamps.iter().copied().filter(|lamp| self.world.has_tag(*lamp, "lamp")) {
            let shown = |name| self.world.property(lamp, name).cloned();
            let lit = shown("lit").and_then(|lit| lit.as_bool());
            let far = shown("far").and_then(|far| far.as_number());
            let expected = self.shows(lamp);
            assert_eq!(lit.zip(far), expected, "{:?} after {what}", self.world.name(lamp));
        }
    }
}

#[derive(Clone, Debug)]
enum Change {
    Toggle(usize),
    MoveGate(usize, i8),
    MoveLamp(usize, i8),
    MoveKeeper(i8),
    EndLamp(usize),
    Tag(usize, bool),
    TagGate(usize, bool),
    Keep,
    GoBack,
}

fn change() -> impl Strategy<Value = Change> {
    prop_oneof![
        8 => (0..6_usize).prop_map(Change::Toggle),
        2 => (0..6_usize, -20..40_i8).prop_map(|(gate, x)| Change::MoveGate(gate, x)),
        3 => (0..6_usize, -20..40_i8).prop_map(|(lamp, x)| Change::MoveLamp(lamp, x)),
        2 => (-20..40_i8).prop_map(Change::MoveKeeper),
        1 => (0..6_usize).prop_map(Change::EndLamp),
        2 => (0..6_usize, any::<bool>()).prop_map(|(lamp, on)| Change::Tag(lamp, on)),
        2 => (1..6_usize, any::<bool>()).prop_map(|(gate, on)| Change::TagGate(gate, on)),
        1 => Just(Change::Keep),
        1 => Just(Change::GoBack),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 48, failure_persistence: None, rng_seed: RngSeed::Fixed(16), ..ProptestConfig::default()
    })]

    #[test]
    fn every_member_of_a_bind_is_what_it_would_be_worked_out_again(changes in prop::collection::vec(change(), 1..40)) {
        let mut canal = street();
        canal.world.step(&mut ()).unwrap();
        let mut kept: Option<Snapshot> = None;
        for change in changes {
            let world = &mut canal.world;
            match change {
                Change::Toggle(gate) => world.command(canal.gates[gate].1.part, Door::TO_TOGGLE).unwrap(),
                // No two gates are ever as near to a lamp.
                Change::MoveGate(gate, x) => {
                    let aside = f32::from(u8::try_from(gate).unwrap()) * 0.1;
                    world.put(canal.gates[gate].0, at(f32::from(x) + 0.06, aside)).unwrap();
                }
                Change::MoveLamp(lamp, x) => {
                    if world.name(canal.lamps[lamp]).is_some() && world.place(canal.lamps[lamp]).is_ok() {
                        world.put(canal.lamps[lamp], at(f32::from(x), 2.0)).unwrap();
                    }
                }
                Change::MoveKeeper(x) => world.move_to(canal.keeper, at(f32::from(x), -3.0)).unwrap(),
                Change::EndLamp(lamp) => {
                    if world.place(canal.lamps[lamp]).is_ok() {
                        world.destroy(canal.lamps[lamp]).unwrap();
                    }
                }
                Change::Tag(lamp, on) => {
                    let lamp = canal.lamps[lamp];
                    if world.place(lamp).is_ok() {
                        if on { world.tag(lamp, "lamp") } else { world.untag(lamp, "lamp") }.unwrap();
                    }
                }
                Change::TagGate(gate, on) => {
                    let gate = canal.gates[gate].0;
                    if on { world.tag(gate, "gate") } else { world.untag(gate, "gate") }.unwrap();
                }
                Change::Keep => kept = Some(world.snapshot().unwrap()),
                Change::GoBack => {
                    if let Some(kept) = &kept {
                        world.restore(kept).unwrap();
                    }
                }
            }
            canal.world.step(&mut ()).unwrap();
            canal.world.step(&mut ()).unwrap();
            canal.check(&format!("{change:?}"));
        }
    }
}
