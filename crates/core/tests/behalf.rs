//! What a reaction does on somebody's behalf, and the journeys it sends bodies on.

use stoicheon_core::{Command, Cx, Door, Error, ObjectId, Rotation, Tally, Vec3, WhenEmpty, World, secs};

type Seen = Vec<String>;

fn at(x: f32) -> Vec3 {
    Vec3::new(x, 0.0, 0.0)
}

fn who(cx: &Cx<'_, Seen>) -> String {
    cx.who().and_then(|who| cx.name(who)).unwrap_or("nobody").to_owned()
}

/// A world with a signal `go`, whose reaction is what is tested, and two players.
fn canal(
    reaction: impl FnMut(&mut Seen, &(), &mut Cx<'_, Seen>) -> Result<(), Error> + Send + 'static,
) -> (World<Seen>, stoicheon_core::Signal<()>, [ObjectId; 2]) {
    let mut world = World::new();
    let players = ["ada", "ben"].map(|name| world.player(name).add().unwrap());
    let go = world.declare_signal::<()>("go").unwrap();
    world.on(go).run(reaction).unwrap();
    (world, go, players)
}

#[test]
fn a_signal_and_a_command_go_back_to_whom_the_reaction_says() {
    let mut world = World::<Seen>::new();
    let [ada, ben] = ["ada", "ben"].map(|name| world.player(name).add().unwrap());
    let [go, bell] = ["go", "bell"].map(|name| world.declare_signal::<()>(name).unwrap());
    let gate = world.object("gate").add().unwrap();
    let door = world.attach(gate, Door::slide(Vec3::X).over(secs(0.1))).unwrap();
    world.on(bell).run(|seen: &mut Seen, (), cx| seen.push(format!("bell {}", who(cx)))).unwrap();
    world.on(door.opening).run(|seen: &mut Seen, (), cx| seen.push(format!("opening {}", who(cx)))).unwrap();
    world
        .on(go)
        .run(move |_: &mut Seen, (), cx| {
            cx.emit_for(Some(ben), bell, ())?;
            cx.emit_for(None, bell, ())?;
            cx.emit(bell, ())?;
            cx.command_for(Some(ben), door.part, Door::TO_OPEN, &[])
        })
        .unwrap();
    world.emit_for(Some(ada), go, ()).unwrap();
    let mut seen = Vec::new();
    world.step(&mut seen).unwrap();
    assert_eq!(seen, ["bell ben", "bell nobody", "bell ada", "opening ben"]);
}

#[test]
fn on_behalf_of_somebody_who_is_gone_and_to_parts_and_signals_that_are_is_an_error() {
    let (mut world, go, [ada, ben]) = canal(|_, (), _| Ok(()));
    let (gate, bell) = (world.object("gate").add().unwrap(), world.declare_signal::<()>("bell").unwrap());
    let door = world.attach(gate, Door::slide(Vec3::X)).unwrap();
    let of_gate = world.declare_signal_of::<()>(gate, "rung").unwrap();
    world
        .on(go)
        .run(move |seen: &mut Seen, (), cx| {
            let mut note = |result: Result<(), Error>| {
                seen.push(result.map_or_else(|error| error.to_string(), |()| "done".into()));
            };
            note(cx.emit_for(Some(ben), bell, ()));
            note(cx.command_for(Some(ben), door.part, Door::TO_OPEN, &[]));
            note(cx.command_for(None, door.part, Command::new(200), &[]));
            note(cx.walk(ben, at(1.0), 1.0));
            note(cx.walk(gate, at(1.0), 1.0));
            note(cx.walk(ada, at(f32::NAN), 1.0));
            note(cx.walk(ada, at(1.0), 0.0));
            note(cx.bring(ada, "tunel", "mouth"));
            cx.destroy(gate).unwrap();
            note(cx.command_for(Some(ada), door.part, Door::TO_OPEN, &[]));
            note(cx.emit_for(Some(ada), of_gate, ()));
        })
        .unwrap();
    world.destroy(ben).unwrap();
    let before = (world.place(ada).unwrap(), world.is_walking(ada));
    let mut seen = Vec::new();
    world.step(&mut seen).unwrap();
    world.emit(go, ()).unwrap();
    world.step(&mut seen).unwrap();
    assert_eq!(seen.len(), 10, "{seen:?}");
    assert!(!seen.contains(&"done".to_owned()), "{seen:?}");
    assert_eq!((world.place(ada).unwrap(), world.is_walking(ada)), before);
}

#[test]
fn a_reaction_sends_a_body_on_a_walk_that_begins_in_the_next_motion_phase() {
    let mut world = World::<Seen>::new();
    let ada = world.player("ada").add().unwrap();
    let go = world.declare_signal::<()>("go").unwrap();
    world.on(go).run(move |_: &mut Seen, (), cx| cx.walk(ada, at(2.0), 30.0)).unwrap();
    world.emit(go, ()).unwrap();
    let mut places = Vec::new();
    for _ in 0..4 {
        world.step(&mut Vec::new()).unwrap();
        places.push(world.place(ada).unwrap().x);
    }
    assert_eq!(places, [0.0, 1.0, 2.0, 2.0]);
}

#[test]
fn a_reaction_takes_somebody_to_another_scene() {
    let mut world = World::<Seen>::new();
    let scene = |name: &'static str| {
        move |world: &mut World<Seen>| {
            world.spot_at(&format!("{name}.mouth"), None, at(5.0), Rotation::NONE).map(|_| ())
        }
    };
    let lockside = world.offer_scene("lockside", WhenEmpty::Running, scene("lockside"));
    world.offer_scene("tunnel", WhenEmpty::Unloaded, scene("tunnel"));
    world.load_scene(lockside).unwrap();
    let ada = world.player("ada").in_scene(lockside).add().unwrap();
    let go = world.declare_signal::<()>("go").unwrap();
    world.on(go).run(move |_: &mut Seen, (), cx| cx.bring(ada, "tunnel", "mouth")).unwrap();
    world.emit(go, ()).unwrap();
    for _ in 0..3 {
        world.step(&mut Vec::new()).unwrap();
    }
    assert_eq!(world.scene_of(ada), world.find_scene("tunnel"));
    assert_eq!(world.place(ada).unwrap(), at(5.0));
    assert_eq!(world.take_faults().count(), 0);
}

#[test]
fn a_count_for_one_player_goes_to_that_player() {
    let mut world = World::<Seen>::new();
    let [ada, ben] = ["ada", "ben"].map(|name| world.player(name).add().unwrap());
    let [go, bell] = ["go", "bell"].map(|name| world.declare_signal::<()>(name).unwrap());
    let post = world.object("post").add().unwrap();
    let tally = world.attach(post, Tally::new().per_player()).unwrap();
    world
        .on(go)
        .run(move |_: &mut Seen, (), cx| {
            cx.command_for(Some(ben), tally.part, Tally::COUNT, &[("by", 3_i64.into())])
        })
        .unwrap();
    world.emit_for(Some(ada), go, ()).unwrap();
    world.emit(bell, ()).unwrap();
    world.step(&mut Vec::new()).unwrap();
    let count = world.find_var("post.count").unwrap();
    let of = |who| world.value_of(count, who).unwrap().clone();
    assert_eq!((of(ada), of(ben)), (0_i64.into(), 3_i64.into()));
}
