//! Random players in random scenes: nobody is lost, whatever is saved, put aside and taken up again.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use stoicheon_core::{
    Door, Error, Event, Expr, NewVar, Prompt, Rotation, Save, Snapshot, Step, Target, Vec3, WhenEmpty, World,
    Zone, secs, space::Shape,
};

const NAMES: [&str; 4] = ["ada", "bob", "cid", "dot"];
const SCENES: [&str; 3] = ["lockside", "tunnel", "garden"];
const LEFT: [WhenEmpty; 3] = [WhenEmpty::Unloaded, WhenEmpty::Frozen, WhenEmpty::Running];

/// A mouth with a spot in it that leads to the next scene, a pool, a gate that opens and shuts by itself.
fn make(world: &mut World<()>, number: usize) -> Result<(), Error> {
    let (own, next) = (SCENES[number], SCENES[(number + 1) % 3]);
    let name = |thing: &str| format!("{own}.{thing}");
    let mouth = world.object(&name("mouth")).add()?;
    world.spot_at("arrival", Some(mouth), Vec3::ZERO, Rotation::NONE)?;
    let mouth = world.attach(mouth, Zone::boxed(Vec3::splat(2.0)))?;
    let visits = world.declare(NewVar::new(&name("visits"), 0_i64).per_player().remembered())?;
    let passed = world.declare(NewVar::new(&name("passed"), 0_i64).remembered())?;
    let count = |target, from: Expr| Step::Set { target, to: from.plus(1_i64) };
    let send = Step::SendAway { who: Expr::Who, scene: next.into(), spot: "mouth.arrival".into() };
    let of_who = Expr::VarOf(visits, Box::new(Expr::Who));
    let counts = [
        count(Target::VarOf(visits, Expr::Who), of_who),
        count(Target::Var(passed), Expr::var(passed)),
        send,
    ];
    world.on(mouth.entered).run_steps(counts)?;
    let pool = world.object(&name("pool")).at(Vec3::new(4.0, 0.0, 0.0)).add()?;
    let pool = world.attach(pool, Zone::of(Shape::ball(1.5)))?;
    let gate = world.object(&name("gate")).at(Vec3::new(8.0, 0.0, 0.0)).add()?;
    let post = world.attach(gate, Prompt::new("Wind").hold(secs(0.1)).reach(3.0))?;
    let gate = world.attach(gate, Door::swing(90.0).over(secs(0.3)).remembered())?;
    let toggle = Step::Command { part: gate.part, command: Door::TO_TOGGLE, args: Vec::new() };
    world.on(pool.entered).run_steps([toggle.clone(), Step::Wait(secs(0.5)), toggle.clone()])?;
    world.on(post.answered).run_steps([toggle]).map(|_| ())
}

fn canal() -> World<()> {
    let mut world = World::new();
    for kind in [&Zone::KIND, &Door::KIND, &Prompt::KIND] {
        world.know(kind);
    }
    for (number, name) in SCENES.into_iter().enumerate() {
        world.offer_scene(name, LEFT[number], move |world| make(world, number));
    }
    world.load_scene(world.find_scene("garden").unwrap()).unwrap();
    world
}

#[derive(Clone, Copy, Debug)]
enum Do {
    Join(usize, usize),
    Rejoin(usize),
    Leave(usize),
    Walk(usize, i8),
    Bring(usize, usize),
    Key(usize, bool),
    Steps(u8),
    Aside,
    Reload,
}

fn any_do() -> impl Strategy<Value = Do> {
    let (who, scene) = (0..NAMES.len(), 0..SCENES.len());
    prop_oneof![
        3 => (who.clone(), scene.clone()).prop_map(|(who, scene)| Do::Join(who, scene)),
        2 => who.clone().prop_map(Do::Rejoin),
        2 => who.clone().prop_map(Do::Leave),
        6 => (who.clone(), -2_i8..10).prop_map(|(who, to)| Do::Walk(who, to)),
        2 => (who.clone(), scene).prop_map(|(who, scene)| Do::Bring(who, scene)),
        2 => (who, any::<bool>()).prop_map(|(who, down)| Do::Key(who, down)),
        8 => (1_u8..25).prop_map(Do::Steps),
        1 => Just(Do::Aside),
        1 => Just(Do::Reload),
    ]
}

/// What the test itself knows.
#[derive(Default)]
struct Known {
    numbers: BTreeMap<&'static str, u32>,
    /// Who is inside what, by names, as it was told.
    inside: BTreeSet<(String, String)>,
    seen: u64,
}

/// Does one thing. `whole` puts worlds aside and takes them up in a new one; otherwise that is left out.
fn act(world: &mut World<()>, what: Do, whole: bool) {
    let who = |world: &World<()>, who: usize| world.find(NAMES[who]);
    match what {
        Do::Join(name, scene) => {
            drop(world.join(NAMES[name], Some((SCENES[scene], "mouth.arrival"))));
        }
        Do::Rejoin(name) => drop(world.join(NAMES[name], None)),
        Do::Leave(name) => drop(who(world, name).map(|who| world.leave(who))),
        Do::Walk(name, to) => {
            let to = Vec3::new(f32::from(to), 0.0, 0.0);
            drop(who(world, name).map(|who| world.walk(who, to, 6.0)));
        }
        Do::Bring(name, scene) => {
            drop(who(world, name).map(|who| world.bring(who, SCENES[scene], "mouth.arrival")));
        }
        Do::Key(name, true) => drop(who(world, name).map(|who| world.press(who, "use"))),
        Do::Key(name, false) => drop(who(world, name).map(|who| world.release(who, "use"))),
        Do::Steps(ticks) => (0..ticks).for_each(|_| world.step(&mut ()).unwrap()),
        Do::Aside if whole => {
            let text = serde_json::to_string(&world.snapshot().unwrap()).unwrap();
            let snapshot: Snapshot = serde_json::from_str(&text).unwrap();
            let mut fresh = canal();
            fresh.restore(&snapshot).unwrap();
            *world = fresh;
        }
        Do::Aside => {}
        Do::Reload => {
            let text = serde_json::to_string(&world.save().unwrap()).unwrap();
            let save: Save = serde_json::from_str(&text).unwrap();
            let before = world.save().unwrap();
            let mut fresh = canal();
            assert_eq!(fresh.recall(&save).unwrap(), []);
            for name in save.here() {
                fresh.join(name, None).unwrap();
            }
            // What is remembered is as it was; what is under way is not.
            let after = fresh.save().unwrap();
            assert_eq!(after.players, before.players);
            assert_eq!(after.scenes, before.scenes);
            *world = fresh;
        }
    }
}

fn check(world: &World<()>, known: &mut Known) -> Result<(), TestCaseError> {
    for (name, number) in &known.numbers {
        let now = world.find_player(name).and_then(|player| world.player_number(player));
        prop_assert_eq!(now, Some(*number), "{} has another number", name);
    }
    for name in NAMES {
        if let Some(number) = world.find_player(name).and_then(|player| world.player_number(player)) {
            known.numbers.insert(name, number);
        }
    }
    let numbers: BTreeSet<u32> = known.numbers.values().copied().collect();
    prop_assert_eq!(numbers.len(), known.numbers.len(), "two have one number");
    let here: Vec<_> = world.players().map(|player| world.player_number(player)).collect();
    prop_assert!(here.is_sorted(), "players come by number");
    for player in world.players() {
        let scene = world.scene_of(player);
        let loaded = world.scenes().filter(|loaded| Some(*loaded) == scene).count();
        prop_assert_eq!(loaded, 1, "everybody is in one scene that is loaded");
        prop_assert!(
            scene.is_none_or(|scene| !world.is_frozen(scene)),
            "nobody is in a scene that stands still"
        );
        for scene in SCENES.into_iter().filter(|name| world.find_scene(name) != scene) {
            for thing in ["mouth", "pool"] {
                let Some(object) = world.find(&format!("{scene}.{thing}")) else { continue };
                prop_assert!(!world.is_inside(player, world.parts_of(object)[0]), "in two scenes at once");
            }
        }
    }
    Ok(())
}

/// Every `entered` has its `left` before the next one, and nobody is left inside who is not there.
fn read_trace(world: &World<()>, known: &mut Known) -> Result<(), TestCaseError> {
    if world.trace().len() < known.seen {
        // Another world began.
        known.seen = 0;
        known.inside.clear();
    }
    for (id, record) in world.trace().records() {
        if id.number() <= known.seen {
            continue;
        }
        let names = |zone, body| {
            let zone = world.object_of(zone).and_then(|zone| world.name(zone)).unwrap_or("?").to_owned();
            (zone, world.name(body).unwrap_or("?").to_owned())
        };
        match record.event {
            Event::Entered { zone, body, .. } => {
                let names = names(zone, body);
                prop_assert!(known.inside.insert(names.clone()), "{:?} entered twice", names);
            }
            Event::Left { zone, body, .. } => {
                let names = names(zone, body);
                prop_assert!(known.inside.remove(&names), "{:?} left without having entered", names);
            }
            _ => {}
        }
    }
    known.seen = world.trace().len();
    for (zone, body) in &known.inside {
        let is = world.find(zone).zip(world.find(body));
        let inside = is.is_some_and(|(zone, body)| world.is_inside(body, world.parts_of(zone)[0]));
        prop_assert!(inside, "{} entered {} and never left", body, zone);
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 256, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn nobody_is_lost_and_a_world_put_aside_goes_on_as_if_it_had_not_been(
        all in proptest::collection::vec(any_do(), 1..60),
    ) {
        let (mut unbroken, mut broken) = (canal(), canal());
        let mut known = Known::default();
        for what in all {
            // What is saved and taken up begins again, so both do so.
            act(&mut unbroken, what, false);
            act(&mut broken, what, true);
            prop_assert_eq!(unbroken.trace().digest(), broken.trace().digest(), "{:?}", what);
            prop_assert_eq!(unbroken.save().unwrap(), broken.save().unwrap());
            if matches!(what, Do::Reload) {
                known.seen = u64::MAX;
            }
            read_trace(&unbroken, &mut known)?;
            check(&unbroken, &mut known)?;
        }
    }
}
