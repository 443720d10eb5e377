//! Several scenes, several players: who is where, and what becomes of what nobody is in.

use stoicheon_core::{
    BuildError, Busy, Cx, Door, Error, Expr, NewVar, ObjectId, Prompt, Rotation, SceneId, Signal, Step,
    Touched, Value, Vec3, WhenEmpty, World, Zone, secs,
};

/// What the wires of both scenes saw, in order.
type Seen = Vec<String>;

fn at(x: f32) -> Vec3 {
    Vec3::new(x, 0.0, 0.0)
}

fn send(scene: &str, spot: &str) -> [Step; 1] {
    [Step::SendAway { who: Expr::Who, scene: scene.into(), spot: spot.into() }]
}

fn emit(signal: Signal<()>) -> Step {
    Step::Emit { signal: signal.id(), values: Vec::new() }
}

/// A signal is noted with who caused it.
fn noted<T>(name: &'static str) -> impl Fn(&mut Seen, &T, &mut Cx<'_, Seen>) {
    move |seen, _, cx| {
        let who = cx.who().and_then(|who| cx.name(who)).unwrap_or("nobody").to_owned();
        seen.push(format!("{name} {who}"));
    }
}

/// A mouth at 0 with a spot in the middle of it, that leads to the other scene's; a gate at 10.
fn make(world: &mut World<Seen>, own: &'static str, other: &'static str) -> Result<(), Error> {
    let name = |thing: &str| format!("{own}.{thing}");
    let mouth = world.object(&name("mouth")).add()?;
    world.spot_at("arrival", Some(mouth), Vec3::ZERO, Rotation::about(Vec3::Y, 90.0))?;
    let mouth = world.attach(mouth, Zone::boxed(Vec3::splat(2.0)))?;
    world.on(mouth.entered).run_steps(send(other, "mouth.arrival"))?;
    world.on(mouth.entered).run(move |seen: &mut Seen, touched: &Touched, _| {
        seen.push(format!("{own} entered {}", touched.reason.word()));
    })?;
    world.on(mouth.left).run(move |seen: &mut Seen, touched: &Touched, _| {
        seen.push(format!("{own} left {}", touched.reason.word()));
    })?;
    let gate = world.object(&name("gate")).at(at(10.0)).add()?;
    world.attach(gate, Door::swing(90.0).over(secs(1.0)).remembered())?;
    world.declare(NewVar::new("worn", 0_i64).of(gate).remembered())?;
    world.declare(NewVar::new("wet", false).of(gate))?;
    world.declare(NewVar::new(&name("visits"), 0_i64).per_player().remembered())?;
    world.declare(NewVar::new(&name("steps"), 0_i64).per_player())?;
    world.object(&name("crate")).at(at(20.0)).remembered().add()?;
    let signals = ["started", "joined", "quit"].map(|signal| (signal, world.find_scene(own)));
    for (signal, scene) in signals {
        let whole = world.signal_in(scene.ok_or(Error::NoSuchScene)?, signal)?;
        let name = world.signal_name(whole).unwrap_or_default().to_owned();
        let heard = world.declare_signal::<()>(&name)?;
        world.on(heard).run(move |seen: &mut Seen, (), cx| {
            let who = cx.who().and_then(|who| cx.name(who)).unwrap_or("nobody").to_owned();
            seen.push(format!("{name} {who}"));
        })?;
    }
    Ok(())
}

struct Canal {
    world: World<Seen>,
    lockside: SceneId,
    tunnel: SceneId,
    seen: Seen,
}

/// Two scenes, of which only the first is loaded.
fn canal(when_empty: WhenEmpty) -> Canal {
    let mut world = World::new();
    let lockside = world.offer_scene("lockside", when_empty, |world| make(world, "lockside", "tunnel"));
    let tunnel = world.offer_scene("tunnel", when_empty, |world| make(world, "tunnel", "lockside"));
    world.load_scene(lockside).unwrap();
    Canal { world, lockside, tunnel, seen: Vec::new() }
}

impl Canal {
    fn step(&mut self, ticks: u32) -> Seen {
        for _ in 0..ticks {
            self.world.step(&mut self.seen).unwrap();
        }
        std::mem::take(&mut self.seen)
    }

    fn player(&mut self, name: &str, scene: SceneId, x: f32) -> ObjectId {
        self.world.player(name).in_scene(scene).at(at(x)).add().unwrap()
    }

    fn gate(&self, scene: &str) -> stoicheon_core::PartId {
        self.world.parts_of(self.world.find(&format!("{scene}.gate")).unwrap())[0]
    }

    fn openness(&self, scene: &str) -> f64 {
        self.world.part::<Door>(self.gate(scene)).unwrap().openness()
    }

    fn var(&self, name: &str) -> Value {
        self.world.value(self.world.find_var(name).unwrap()).unwrap().clone()
    }
}

#[test]
fn two_doors_that_lead_to_each_other_let_a_traveller_rest_until_they_have_walked_out() {
    let mut canal = canal(WhenEmpty::Unloaded);
    let ada = canal.player("ada", canal.lockside, 5.0);
    assert_eq!(canal.step(1), ["lockside.started nobody", "lockside.joined ada"]);
    // A body that is put into a door stays there: it has not walked.
    canal.world.put(ada, at(0.0)).unwrap();
    assert_eq!(canal.step(1), ["lockside entered placed"]);
    assert_eq!(canal.world.scene_of(ada), Some(canal.lockside));
    canal.world.move_to(ada, at(5.0)).unwrap();
    canal.step(1);
    canal.world.move_to(ada, at(0.0)).unwrap();
    // In the tick of the door everything of that tick is done first; then she is there.
    assert_eq!(canal.step(1), ["lockside entered walked"]);
    assert_eq!(canal.world.scene_of(ada), Some(canal.tunnel));
    assert_eq!(canal.world.facing(ada).unwrap(), Rotation::about(Vec3::Y, 90.0));
    // What she left is told in the next one, before the first scene ends; she stands in the door and stays.
    assert_eq!(canal.step(1), ["lockside left scene_left", "tunnel.started nobody", "tunnel entered sent"]);
    assert!(canal.step(60).is_empty());
    assert_eq!(canal.world.scene_of(ada), Some(canal.tunnel));
    // Out and in again, and she goes back.
    canal.world.move_to(ada, at(5.0)).unwrap();
    assert_eq!(canal.step(1), ["tunnel left walked"]);
    canal.world.move_to(ada, at(0.0)).unwrap();
    canal.step(2);
    assert_eq!(canal.world.scene_of(ada), Some(canal.lockside));
}

#[test]
fn arrivals_are_told_with_where_from_and_where_to() {
    let mut canal = canal(WhenEmpty::Running);
    let (ada, arrived) = (canal.player("ada", canal.lockside, 5.0), canal.world.arrived());
    canal
        .world
        .on(arrived)
        .run(|seen: &mut Seen, arrival, cx| {
            let who = cx.who().and_then(|who| cx.name(who)).unwrap_or_default();
            let yaw = arrival.facing.turn(Vec3::NEG_Z).x.round();
            seen.push(format!("{who} {} {} {yaw}", arrival.from, arrival.spot));
        })
        .unwrap();
    canal.step(1);
    canal.world.bring(ada, "tunnel", "mouth.arrival").unwrap();
    canal.step(1);
    assert!(canal.step(1).contains(&"ada lockside tunnel.mouth.arrival -1".to_owned()));
}

#[test]
fn scenes_do_not_touch_each_other_though_they_lie_in_the_same_place() {
    let mut canal = canal(WhenEmpty::Running);
    canal.world.load_scene(canal.tunnel).unwrap();
    let ada = canal.player("ada", canal.lockside, 5.0);
    let bob = canal.player("bob", canal.tunnel, 5.0);
    canal.step(1);
    let bell = canal.world.object("tunnel.bell").in_scene(canal.tunnel).at(at(5.0)).add().unwrap();
    let bell = canal.world.attach(bell, Prompt::new("Ring")).unwrap();
    canal.world.on(bell.answered).run(noted("rung")).unwrap();
    canal.step(2);
    assert_eq!([canal.world.offered_to(ada), canal.world.offered_to(bob)], [None, Some(bell.part)]);
    canal.world.put(ada, at(0.0)).unwrap();
    assert_eq!(canal.step(1), ["lockside entered placed"]);
}

#[test]
fn what_nobody_is_in_is_unloaded_frozen_or_goes_on() {
    let half = 16.0 / 30.0;
    for (when, openness) in
        [(WhenEmpty::Unloaded, half), (WhenEmpty::Frozen, half), (WhenEmpty::Running, 1.0)]
    {
        let mut canal = canal(when);
        let ada = canal.player("ada", canal.lockside, 5.0);
        canal.step(1);
        let gate = canal.gate("lockside");
        let wet = canal.world.find_var("lockside.gate.wet").unwrap();
        canal.world.set(wet, true).unwrap();
        canal.world.command(gate, Door::TO_OPEN).unwrap();
        canal.step(14);
        // The last tick in which the scene goes on is the one after she has gone.
        canal.world.bring(ada, "tunnel", "mouth.arrival").unwrap();
        canal.step(2);
        assert_eq!(canal.world.is_frozen(canal.lockside), when == WhenEmpty::Frozen);
        let loaded = canal.world.scenes().any(|scene| scene == canal.lockside);
        assert_eq!(loaded, when != WhenEmpty::Unloaded);
        canal.step(60);
        canal.world.bring(ada, "lockside", "mouth.arrival").unwrap();
        canal.step(1);
        assert!((canal.openness("lockside") - openness).abs() < 0.01, "{when:?}");
        // What is not to be remembered begins again with a scene that is made again.
        assert_eq!(canal.var("lockside.gate.wet"), Value::Bool(when != WhenEmpty::Unloaded));
        // The gate goes on opening where it was.
        canal.step(30);
        assert!((canal.openness("lockside") - 1.0).abs() < 1e-9);
    }
}

#[test]
fn what_waits_in_a_frozen_scene_has_as_much_time_left_when_it_goes_on() {
    let mut canal = canal(WhenEmpty::Frozen);
    let ada = canal.player("ada", canal.lockside, 5.0);
    let (tick, rung) = (secs(1.0), canal.world.declare_signal::<()>("rung").unwrap());
    let until = canal.world.find_var("lockside.gate.worn").unwrap();
    canal.world.begin_scene("lockside");
    let worn = Expr::var(until).more_than(0_i64);
    for steps in
        [vec![Step::Wait(tick)], vec![Step::Until { condition: worn, within: None, otherwise: vec![] }]]
    {
        let done = canal.world.declare_signal::<()>("done").unwrap();
        let steps = [steps, vec![emit(done)]].concat();
        canal.world.on(rung).run_steps(steps).unwrap();
    }
    canal.world.end_scene();
    let done = canal.world.declare_signal::<()>("done").unwrap();
    canal.world.on(done).run(noted("done")).unwrap();
    canal.world.emit(rung, ()).unwrap();
    canal.step(11);
    canal.world.bring(ada, "tunnel", "mouth.arrival").unwrap();
    canal.step(2);
    assert!(canal.world.is_frozen(canal.lockside));
    // A frozen scene neither hears nor sees; what it waits for it finds when it goes on.
    canal.world.emit(rung, ()).unwrap();
    canal.world.set(until, 1_i64).unwrap();
    assert!(!canal.step(100).contains(&"done nobody".to_owned()));
    canal.world.bring(ada, "lockside", "mouth.arrival").unwrap();
    canal.step(1);
    let seen: Vec<_> = (0..30).map(|_| canal.step(1).contains(&"done nobody".to_owned())).collect();
    let ticks: Vec<_> = (1..).zip(&seen).filter(|(_, seen)| **seen).map(|(tick, _)| tick).collect();
    assert_eq!(ticks, [1, 18], "12 of the 30 ticks had passed");
}

#[test]
fn a_player_keeps_their_number_their_id_and_what_is_remembered_of_them() {
    let mut canal = canal(WhenEmpty::Running);
    let ada = canal.player("ada", canal.lockside, 5.0);
    let bob = canal.player("bob", canal.lockside, 6.0);
    canal.step(1);
    let [visits, steps] =
        ["lockside.visits", "lockside.steps"].map(|name| canal.world.find_var(name).unwrap());
    for var in [visits, steps] {
        canal.world.set_of(var, ada, 7_i64).unwrap();
    }
    canal.step(1);
    canal.world.leave(ada).unwrap();
    assert_eq!(canal.step(1), ["lockside.quit ada"]);
    assert_eq!(canal.world.players().collect::<Vec<_>>(), [bob]);
    let cid = canal.player("cid", canal.lockside, 5.0);
    assert_eq!(canal.world.join("ada", None).unwrap(), ada);
    assert_eq!(canal.step(1), ["lockside.joined cid", "lockside.joined ada"]);
    assert_eq!(canal.world.place(ada).unwrap(), at(5.0));
    let numbers = [ada, bob, cid].map(|player| canal.world.player_number(player));
    assert_eq!(numbers, [Some(1), Some(2), Some(3)]);
    assert_eq!(canal.world.players().collect::<Vec<_>>(), [ada, bob, cid], "by number");
    let tag = canal.world.find_tag("player").unwrap();
    assert_eq!(canal.world.tagged(tag).collect::<Vec<_>>(), [ada, bob, cid], "everywhere");
    assert_eq!(canal.world.value_of(visits, ada).unwrap(), &Value::Whole(7));
    assert_eq!(canal.world.value_of(steps, ada).unwrap(), &Value::Whole(0));
}

#[test]
fn a_cooldown_of_a_player_runs_on_while_they_are_away() {
    let mut canal = canal(WhenEmpty::Running);
    let ada = canal.player("ada", canal.lockside, 5.0);
    let rung = canal.world.declare_signal::<()>("rung").unwrap();
    canal.world.on(rung).cooldown_per_who(secs(1.0)).run(noted("rung")).unwrap();
    canal.world.emit_for(Some(ada), rung, ()).unwrap();
    canal.step(1);
    canal.world.leave(ada).unwrap();
    canal.step(1);
    canal.world.join("ada", None).unwrap();
    canal.world.emit_for(Some(ada), rung, ()).unwrap();
    assert!(!canal.step(1).contains(&"rung ada".to_owned()));
    canal.step(27);
    canal.world.emit_for(Some(ada), rung, ()).unwrap();
    assert_eq!(canal.step(1), ["rung ada"]);
}

#[test]
fn leaving_in_the_middle_of_a_hold_a_zone_and_a_sequence_is_told() {
    let mut canal = canal(WhenEmpty::Running);
    let ada = canal.player("ada", canal.lockside, 5.0);
    let post = canal.world.object("post").in_scene(canal.lockside).at(at(5.0)).add().unwrap();
    let zone = canal.world.attach(post, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let prompt = canal.world.attach(post, Prompt::new("Wind").hold(secs(1.0))).unwrap();
    for (signal, name) in [(prompt.cancelled, "cancelled"), (prompt.withdrawn, "withdrawn")] {
        canal.world.on(signal).run(noted(name)).unwrap();
    }
    canal.world.on(zone.left).run(noted("left")).unwrap();
    let visits = canal.world.find_var("lockside.visits").unwrap();
    let bell = canal.world.declare_signal::<()>("bell").unwrap();
    let to = Expr::from(Value::Whole(1));
    let target = stoicheon_core::Target::VarOf(visits, Expr::Who);
    let steps = [Step::Wait(secs(1.0)), Step::Set { target, to }, emit(bell)];
    canal.world.on(zone.entered).while_running(Busy::Ignore).run_steps(steps).unwrap();
    canal.world.on(bell).run(noted("bell")).unwrap();
    canal.step(2);
    canal.world.press(ada, "use").unwrap();
    canal.step(5);
    canal.world.leave(ada).unwrap();
    let told = canal.step(1);
    assert_eq!(told, ["cancelled ada", "withdrawn ada", "left ada", "lockside.quit ada"]);
    // The sequence outlives her; what needs her is left out.
    assert!(canal.step(30).contains(&"bell ada".to_owned()));
    assert_eq!(canal.world.value_of(visits, ada).unwrap(), &Value::Whole(0));
}

#[test]
fn what_is_carried_goes_along_and_is_set_down_by_who_leaves() {
    let mut canal = canal(WhenEmpty::Unloaded);
    let ada = canal.player("ada", canal.lockside, 5.0);
    canal.step(1);
    let token = canal.world.object("token").in_scene(canal.lockside).at(at(5.0)).add().unwrap();
    let lamp = canal.world.object("lamp").in_scene(canal.lockside).hung_on(ada).add().unwrap();
    canal.world.hang(token, Some(ada)).unwrap();
    canal.step(1);
    canal.world.bring(ada, "tunnel", "mouth.arrival").unwrap();
    canal.step(3);
    assert!(!canal.world.scenes().any(|scene| scene == canal.lockside));
    assert_eq!(canal.world.scene_of(token), Some(canal.tunnel), "it stays, though its scene is unloaded");
    canal.world.leave(ada).unwrap();
    canal.step(1);
    assert_eq!((canal.world.parent(token), canal.world.place(token)), (None, Ok(at(0.0))));
    assert_eq!(canal.world.find("lamp"), None, "what was made hanging on her ends with her");
    assert_eq!(canal.world.place(lamp), Err(Error::NoSuchObject));
}

#[test]
fn what_was_taken_along_is_not_set_back_when_its_scene_is_made_again() {
    let mut canal = canal(WhenEmpty::Running);
    let garden = canal.world.offer_scene("garden", WhenEmpty::Unloaded, |world| {
        world.spot_at("bench", None, Vec3::ZERO, Rotation::NONE)?;
        // What somebody took along is here before its scene is.
        if world.find("token").is_none() {
            let token = world.object("token").remembered().add()?;
            world.declare(NewVar::new("worn", 0_i64).of(token).remembered())?;
            world.attach(token, Door::swing(90.0).over(secs(0.1)).remembered())?;
        }
        Ok(())
    });
    let ada = canal.world.join("ada", Some(("garden", "bench"))).unwrap();
    canal.step(1);
    let token = canal.world.find("token").unwrap();
    let (worn, door) = (canal.world.find_var("token.worn").unwrap(), canal.world.parts_of(token)[0]);
    canal.world.hang(token, Some(ada)).unwrap();
    canal.world.bring(ada, "lockside", "mouth.arrival").unwrap();
    canal.step(3);
    assert!(!canal.world.scenes().any(|scene| scene == garden));
    canal.world.set(worn, 5_i64).unwrap();
    canal.world.command(door, Door::TO_OPEN).unwrap();
    canal.step(9);
    for carried in [true, false] {
        if !carried {
            // Set down in another scene, it lies there.
            canal.world.hang(token, None).unwrap();
            canal.step(1);
        }
        canal.world.bring(ada, "garden", "bench").unwrap();
        canal.step(2);
        assert_eq!(canal.world.value(worn).unwrap(), &Value::Whole(5), "carried: {carried}");
        assert!((canal.world.part::<Door>(door).unwrap().openness() - 1.0).abs() < 1e-9);
        assert_eq!(canal.world.scene_of(token) == Some(garden), carried);
        canal.world.bring(ada, "lockside", "mouth.arrival").unwrap();
        canal.step(3);
    }
}

#[test]
fn a_scene_that_was_loaded_for_somebody_who_did_not_arrive_is_unloaded_again() {
    let mut canal = canal(WhenEmpty::Unloaded);
    let ada = canal.player("ada", canal.lockside, 5.0);
    canal.step(1);
    canal.world.bring(ada, "tunnel", "nowhere").unwrap();
    canal.step(2);
    assert!(!canal.world.scenes().any(|scene| scene == canal.tunnel));
    assert!(canal.world.join("bob", Some(("tunnel", "nowhere"))).is_err());
    canal.step(2);
    assert!(!canal.world.scenes().any(|scene| scene == canal.tunnel));
    assert_eq!(canal.world.scene_of(ada), Some(canal.lockside));
}

#[test]
fn what_is_remembered_of_objects_is_where_they_are_and_whether_they_are_gone() {
    let mut canal = canal(WhenEmpty::Unloaded);
    let ada = canal.player("ada", canal.lockside, 5.0);
    canal.step(1);
    let chest = canal.world.find("lockside.crate").unwrap();
    canal.world.put(chest, at(25.0)).unwrap();
    canal.world.disable(chest).unwrap();
    for scene in ["tunnel", "lockside"] {
        canal.world.bring(ada, scene, "mouth.arrival").unwrap();
        canal.step(3);
    }
    let chest = canal.world.find("lockside.crate").unwrap();
    assert_eq!((canal.world.place(chest), canal.world.is_enabled(chest)), (Ok(at(25.0)), false));
    canal.world.destroy(chest).unwrap();
    for scene in ["tunnel", "lockside", "tunnel", "lockside"] {
        canal.world.bring(ada, scene, "mouth.arrival").unwrap();
        canal.step(3);
        assert_eq!(canal.world.find("lockside.crate"), None, "gone for good");
    }
}

#[test]
fn lists_do_not_grow_with_every_loading() {
    let mut canal = canal(WhenEmpty::Unloaded);
    canal.world.offer_scene("garden", WhenEmpty::Unloaded, |world| {
        world.spot_at("bench", None, Vec3::ZERO, Rotation::NONE)?;
        let level = world.var("garden.level", 1.0)?;
        let half = world.var("garden.half", 1.5)?;
        world.bind(stoicheon_core::Kept::Var(half), Expr::var(level).plus(0.5))?;
        world.never(Expr::var(half).more_than(2.0));
        world.routine("garden.greet", 0, [Step::Wait(secs(1.0))]).map(|_| ())
    });
    let ada = canal.player("ada", canal.lockside, 5.0);
    let mut sizes = Vec::new();
    for _ in 0..4 {
        for (scene, spot) in [("garden", "bench"), ("lockside", "mouth.arrival")] {
            canal.world.bring(ada, scene, spot).unwrap();
            canal.step(3);
        }
        let text = serde_json::to_string(&canal.world.snapshot().unwrap()).unwrap();
        sizes.push(text.matches("garden").count());
    }
    assert_eq!(sizes[1..], [sizes[1]; 3]);
    // The rule and the bind are those of the scene that is there now.
    canal.world.bring(ada, "garden", "bench").unwrap();
    canal.step(2);
    canal.world.set(canal.world.find_var("garden.level").unwrap(), 5.0).unwrap();
    canal.step(1);
    assert_eq!(canal.world.times_broken(), 1);
}

#[test]
fn calls_that_cannot_be_taken_say_so_and_change_nothing() {
    let mut canal = canal(WhenEmpty::Unloaded);
    let unknown = |kind, found: &str| Err(Error::UnknownName { kind, found: found.into() });
    assert_eq!(canal.world.join("ada", None), Err(Error::NowhereToJoin { name: "ada".into() }));
    assert_eq!(canal.world.join("ada", Some(("moon", "steps"))), unknown("a scene", "moon"));
    let no_spot = unknown("a spot of that scene", "steps");
    assert_eq!(canal.world.join("ada", Some(("lockside", "steps"))), no_spot);
    assert_eq!(canal.world.player("ada").in_scene(canal.tunnel).add(), Err(Error::NoSuchScene));
    assert_eq!(canal.world.players().count(), 0);
    canal.world.limit_players(1);
    let ada = canal.world.join("ada", Some(("lockside", "mouth.arrival"))).unwrap();
    let full = canal.world.join("bob", Some(("lockside", "mouth.arrival")));
    assert_eq!(full, Err(Error::NoRoom { most: 1 }));
    assert!(matches!(canal.world.join("ada", None), Err(Error::NowhereToJoin { .. })));
    assert_eq!(canal.world.bring(ada, "moon", "steps").err(), unknown("a scene", "moon").err());
    assert!(matches!(canal.world.signal_in(canal.lockside, "rung"), Err(Error::UnknownName { .. })));
    // A spot that is not there is found out when she would arrive: she stays, and the trace says why.
    canal.world.bring(ada, "tunnel", "steps").unwrap();
    canal.step(1);
    assert_eq!(canal.world.scene_of(ada), Some(canal.lockside));
    let fault = |text: &str| {
        let events = canal.world.trace().records().map(|(_, record)| format!("{:?}", record.event));
        events.filter(|event| event.contains("Fault")).any(|event| event.contains(text))
    };
    assert!(fault("expected the name of a spot of that scene"));
}

#[test]
fn a_scene_whose_making_fails_leaves_nothing_behind() {
    let mut canal = canal(WhenEmpty::Unloaded);
    let flawed = canal.world.offer_scene("flawed", WhenEmpty::Unloaded, |world| {
        world.object("flawed.post").add()?;
        world.object("flawed.post").add().map(|_| ())
    });
    assert!(matches!(canal.world.load_scene(flawed), Err(Error::Build(BuildError::NameTaken { .. }))));
    assert_eq!(canal.world.find("flawed.post"), None);
    assert!(!canal.world.scenes().any(|scene| scene == flawed));
    assert_eq!(canal.world.scene_of(ObjectId::default()), None);
}

#[test]
fn a_door_told_to_close_and_to_open_again_within_a_tick_stands_open_and_no_wider() {
    let mut canal = canal(WhenEmpty::Running);
    let gate = canal.gate("lockside");
    canal.world.command(gate, Door::TO_OPEN).unwrap();
    canal.step(40);
    canal.world.command(gate, Door::TO_CLOSE).unwrap();
    canal.world.command(gate, Door::TO_OPEN).unwrap();
    canal.step(3);
    assert!((canal.openness("lockside") - 1.0).abs() < 1e-9);
}

#[test]
fn of_several_sendings_in_a_tick_the_last_counts_and_who_leaves_in_it_does_not_go() {
    let mut canal = canal(WhenEmpty::Unloaded);
    canal.world.offer_scene("garden", WhenEmpty::Running, |world| {
        world.spot_at("bench", None, Vec3::ZERO, Rotation::NONE).map(|_| ())
    });
    let ada = canal.player("ada", canal.lockside, 5.0);
    let bob = canal.player("bob", canal.lockside, 6.0);
    canal.step(1);
    canal.world.bring(ada, "tunnel", "mouth.arrival").unwrap();
    canal.world.bring(ada, "garden", "bench").unwrap();
    canal.world.bring(bob, "tunnel", "mouth.arrival").unwrap();
    canal.world.leave(bob).unwrap();
    canal.step(1);
    assert_eq!(canal.world.scene_of(ada), canal.world.find_scene("garden"));
    assert!(!canal.world.scenes().any(|scene| scene == canal.tunnel), "nobody went there");
    canal.world.join("bob", None).unwrap();
    canal.step(1);
    assert_eq!((canal.world.scene_of(bob), canal.world.place(bob)), (Some(canal.lockside), Ok(at(6.0))));
}

#[test]
fn players_carry_on_when_their_scene_is_unloaded_by_hand_and_nothing_is_there_to_touch() {
    let mut canal = canal(WhenEmpty::Running);
    let ada = canal.player("ada", canal.lockside, 0.0);
    assert!(canal.step(1).contains(&"lockside entered appeared".to_owned()));
    canal.step(1);
    let ada_in = canal.world.scene_of(ada);
    assert_eq!(ada_in, Some(canal.tunnel), "she stood in the door and went through it");
    canal.world.unload(canal.tunnel).unwrap();
    canal.step(2);
    assert_eq!((canal.world.scene_of(ada), canal.world.place(ada)), (None, Ok(at(0.0))));
    assert!(canal.world.is_enabled(ada));
    canal.world.bring(ada, "lockside", "mouth.arrival").unwrap();
    canal.step(1);
    assert_eq!(canal.world.scene_of(ada), Some(canal.lockside));
}
