//! Zones, prompts, rays and pushes in a world: what is told, to whom, and why.

use super::support::{PAD, told, told_since, towpath};
use stoicheon_core::{
    BodyShape, BuildError, Error, Event, Expr, ObjectId, PartId, Pick, Pointing, Pose, Prompt, Push, Reason,
    Rotation, SaveError, Seconds, Signal, Snapshot, Solid, Vec3, World, Zone, ZoneHandle, glam, secs,
    space::{Cell, Cells, Grid, Shape},
    ticks,
};

fn at(x: f32, y: f32, z: f32) -> Vec3 {
    Vec3::new(x, y, z)
}

fn tick(count: f64) -> Seconds {
    secs(count / 30.0)
}

/// What came and went in the last tick.
fn touched<G: 'static>(world: &World<G>) -> Vec<String> {
    let lines = told_since(world, world.now().0);
    lines.into_iter().filter(|line| line.contains(" enters ") || line.contains(" leaves ")).collect()
}

#[test]
fn every_way_to_leave_a_zone_has_its_reason() {
    type Change = fn(&mut World<Vec<String>>, ObjectId, ObjectId, PartId);
    let ways: [(&str, &str, Change); 13] = [
        ("touch", "walked", |world, ada, _, _| world.move_to(ada, Vec3::ZERO).unwrap()),
        ("touch", "placed", |world, ada, _, _| world.put(ada, Vec3::ZERO).unwrap()),
        ("intake", "zone_disabled", |world, _, pad, _| world.disable(pad).unwrap()),
        ("intake", "zone_gone", |world, _, pad, _| world.destroy(pad).unwrap()),
        ("touch", "zone_moved", |world, _, pad, _| world.put(pad, PAD * 5.0).unwrap()),
        ("touch", "zone_moved", |world, _, _, zone| world.reshape(zone, Shape::ball(0.1)).unwrap()),
        ("touch", "zone_moved", |world, _, pad, _| world.face(pad, Rotation::about(Vec3::Y, 90.0)).unwrap()),
        ("intake", "body_disabled", |world, ada, _, _| world.disable(ada).unwrap()),
        // A player who is destroyed, or ends with what they hang on, leaves.
        ("intake", "player_left", |world, ada, _, _| world.destroy(ada).unwrap()),
        ("intake", "player_left", |world, ada, _, _| {
            let barge = world.object("barge").at(PAD).add().unwrap();
            world.hang(ada, Some(barge)).unwrap();
            world.destroy(barge).unwrap();
        }),
        ("intake", "player_left", |world, ada, _, _| world.leave(ada).unwrap()),
        ("settle", "not_admitted", |world, ada, _, _| {
            let bell = world.declare_signal::<()>("bell").unwrap();
            world.on(bell).run(move |_, (), cx| cx.untag(ada, "keeper")).unwrap();
            world.emit(bell, ()).unwrap();
        }),
        // What a zone hangs on moves it.
        ("touch", "zone_moved", |world, _, pad, _| {
            let barge = world.object("barge").at(PAD).add().unwrap();
            world.hang(pad, Some(barge)).unwrap();
            world.put(barge, PAD * 5.0).unwrap();
        }),
    ];
    for (number, (phase, reason, change)) in ways.into_iter().enumerate() {
        let mut scene = towpath();
        let pad = scene.world.object("landing").at(PAD).add().unwrap();
        let shape = Zone::boxed(at(4.0, 2.0, 1.0)).admits("keeper");
        let zone = scene.world.attach(pad, shape).unwrap();
        scene.world.disable(scene.pad).unwrap();
        scene.world.put(scene.ada, PAD + at(1.5, 0.0, 0.0)).unwrap();
        scene.run(1);
        assert!(scene.world.is_inside(scene.ada, zone.part));
        change(&mut scene.world, scene.ada, pad, zone.part);
        scene.run(1);
        let last = scene.world.now().0;
        scene.run(1);
        let left: Vec<_> =
            told_since(&scene.world, last).into_iter().filter(|line| line.contains(" leaves ")).collect();
        // Tags are looked at by the next touch phase.
        let phase = if phase == "settle" { "touch" } else { phase };
        assert_eq!(left, [format!("{phase} ada leaves landing ({reason})")], "way {number}");
        assert_eq!(scene.world.inside(zone.part).count(), 0);
        let quits = scene.world.find_signal("quit").map_or(0, |quit| scene.world.delivered(quit));
        assert_eq!(quits, u64::from(reason == "player_left"), "way {number}");
    }
}

#[test]
fn a_body_that_is_no_player_is_gone_when_it_is_destroyed() {
    let mut scene = towpath();
    let float = scene.world.object("float").at(PAD).body().add().unwrap();
    scene.run(1);
    scene.world.destroy(float).unwrap();
    scene.run(1);
    assert!(told(&scene.world).contains(&"intake float leaves towpath_pad (body_gone)".to_owned()));
}

/// A pad for keepers, and who is on it.
fn pad(world: &mut World<Vec<String>>, zone: Zone) -> ZoneHandle {
    let pad = world.object("landing").at(PAD).add().unwrap();
    world.attach(pad, zone).unwrap()
}

#[test]
fn the_first_in_and_the_last_out_are_told_apart_and_everybody_is_counted() {
    let mut scene = towpath();
    let world = &mut scene.world;
    let zone = pad(world, Zone::boxed(Vec3::ONE).pulse(tick(3.0)));
    let bob = world.player("bob").at(Vec3::ZERO).add().unwrap();
    let name = |cx: &stoicheon_core::Cx<'_, Vec<String>>| cx.name(cx.who().unwrap()).unwrap().to_owned();
    world
        .on(zone.occupied)
        .run(move |notes, (), cx| notes.push(format!("{} is the first", name(cx))))
        .unwrap();
    world.on(zone.vacated).run(move |notes, (), cx| notes.push(format!("{} is the last", name(cx)))).unwrap();
    world
        .on(zone.pulse)
        .run(move |notes, pulse, cx| notes.push(format!("{} for {}", name(cx), pulse.inside_for.count())))
        .unwrap();
    let ada = scene.ada;
    scene.world.put(ada, PAD).unwrap();
    assert_eq!(scene.run(2), ["ada is the first"]);
    scene.world.put(bob, PAD).unwrap();
    assert_eq!(scene.run(3), ["ada for 3"]);
    assert_eq!(scene.run(2), ["bob for 3", "ada for 6"]);
    assert_eq!(scene.world.count_inside(zone.part), 2);
    assert_eq!(scene.world.first_inside(zone.part), Some(ada));
    assert_eq!(scene.world.inside_for(bob, zone.part), Some(ticks(4)));
    let long = Expr::InsideFor { body: Box::new(bob.into()), zone: zone.part };
    assert_eq!(scene.world.evaluate(&long), ticks(4).into());
    scene.world.put(ada, Vec3::ZERO).unwrap();
    assert!(scene.run(1).is_empty());
    assert_eq!(scene.world.first_inside(zone.part), Some(bob));
    scene.world.put(bob, Vec3::ZERO).unwrap();
    assert_eq!(scene.run(1), ["bob is the last"]);
    assert_eq!(scene.world.inside_for(bob, zone.part), None);
}

#[test]
fn who_is_turned_away_at_the_border_is_not_asked_again_until_they_come_again() {
    let mut scene = towpath();
    let fee = scene.world.var("fee", 2.0).unwrap();
    let zone = pad(&mut scene.world, Zone::boxed(Vec3::ONE).when(Expr::var(fee).less_than(2.0)));
    let ada = scene.ada;
    scene.world.put(ada, PAD).unwrap();
    scene.run(1);
    let turned = |world: &World<_>| {
        world.trace().records().filter(|(_, record)| matches!(record.event, Event::TurnedAway { .. })).count()
    };
    assert_eq!((turned(&scene.world), scene.world.is_inside(ada, zone.part)), (1, false));
    scene.world.set(fee, 1.0).unwrap();
    scene.run(3);
    assert!(!scene.world.is_inside(ada, zone.part), "she was asked at the border, and stands inside");
    // Nor does she leave what she never was in.
    scene.world.move_to(ada, PAD * 2.0).unwrap();
    scene.run(1);
    scene.world.move_to(ada, PAD).unwrap();
    scene.run(1);
    assert!(scene.world.is_inside(ada, zone.part));
    let all: Vec<_> = told(&scene.world).into_iter().filter(|line| line.contains("landing")).collect();
    assert_eq!(
        all,
        [
            "touch ada enters landing (walked)",
            "settle delivers landing.entered",
            "settle delivers landing.occupied"
        ]
    );
    // A zone crossed whole asks too.
    scene.world.set(fee, 5.0).unwrap();
    scene.world.put(ada, Vec3::ZERO).unwrap();
    scene.run(1);
    scene.world.move_to(ada, PAD * 2.0).unwrap();
    scene.run(1);
    assert_eq!(turned(&scene.world), 2);
    assert!(touched(&scene.world).iter().all(|line| !line.contains("landing")));
}

#[test]
fn the_host_may_say_who_touches_and_the_law_is_the_same() {
    let mut scene = towpath();
    scene.world.disable(scene.pad).unwrap();
    let zone = pad(&mut scene.world, Zone::told().admits("keeper"));
    let eve = scene.world.player("eve").add().unwrap();
    let ada = scene.ada;
    scene.world.touch(zone.part, eve, true).unwrap();
    scene.world.touch(zone.part, ada, true).unwrap();
    scene.run(1);
    assert_eq!(touched(&scene.world), ["touch ada enters landing (walked)"], "eve is no keeper");
    scene.world.touch(zone.part, ada, false).unwrap();
    scene.world.touch(zone.part, ada, true).unwrap();
    scene.run(1);
    let gone_and_back = ["touch ada leaves landing (walked)", "touch ada enters landing (walked)"];
    assert_eq!(touched(&scene.world), gone_and_back);
    scene.world.touch(zone.part, ada, false).unwrap();
    scene.run(1);
    scene.world.touch(zone.part, ada, true).unwrap();
    scene.world.touch(zone.part, ada, false).unwrap();
    scene.run(1);
    let through = ["touch ada enters landing (walked)", "touch ada leaves landing (walked)"];
    assert_eq!(touched(&scene.world), through);
    assert_eq!(scene.world.touch(scene.zone.part, ada, true), Err(Error::NotTold));
    scene.world.put(ada, PAD).unwrap();
    scene.run(1);
    assert!(touched(&scene.world).is_empty(), "where she is says nothing of a zone that is told");
}

#[test]
fn a_body_on_the_border_does_not_flicker_and_a_margin_keeps_one_that_trembles() {
    let mut scene = towpath();
    scene.world.disable(scene.pad).unwrap();
    let strict = pad(&mut scene.world, Zone::boxed(at(2.0, 2.0, 2.0)));
    let lax = scene.world.object("jetty").at(PAD).add().unwrap();
    let lax = scene.world.attach(lax, Zone::boxed(at(2.0, 2.0, 2.0)).margin(0.1)).unwrap();
    let border = PAD + at(1.0, 0.0, 0.0);
    scene.world.move_to(scene.ada, border).unwrap();
    scene.run(1);
    assert_eq!(touched(&scene.world).len(), 2);
    for _ in 0..50 {
        scene.run(1);
        assert!(touched(&scene.world).is_empty());
    }
    let mut went = 0;
    for number in 0..20_u8 {
        let by = if number % 2 == 0 { 0.05 } else { 0.0 };
        scene.world.move_to(scene.ada, border + at(by, 0.0, 0.0)).unwrap();
        scene.run(1);
        assert!(touched(&scene.world).iter().all(|line| line.contains("landing")));
        went += touched(&scene.world).len();
        assert!(scene.world.is_inside(scene.ada, lax.part));
    }
    assert_eq!(went, 20, "without a margin it goes in and out");
    scene.world.move_to(scene.ada, border + at(0.2, 0.0, 0.0)).unwrap();
    scene.run(1);
    assert!(!scene.world.is_inside(scene.ada, lax.part) && !scene.world.is_inside(scene.ada, strict.part));
}

#[test]
fn a_beam_that_turns_meets_who_stands_in_its_way_and_a_fast_zone_too() {
    let mut scene = towpath();
    let beam = scene.world.object("beam").at(at(0.0, 0.0, 50.0)).add().unwrap();
    scene.world.attach(beam, Zone::boxed(at(20.0, 1.0, 0.1))).unwrap();
    scene.world.put(scene.ada, at(5.0, 0.0, 45.0)).unwrap();
    scene.run(1);
    scene.world.face(beam, Rotation::about(Vec3::Y, 90.0)).unwrap();
    scene.run(1);
    let through = ["touch ada enters beam (zone_moved)", "touch ada leaves beam (zone_moved)"];
    assert_eq!(touched(&scene.world), through);
    scene.world.face(beam, Rotation::NONE).unwrap();
    scene.run(1);
    // Back again, the short way round.
    assert_eq!(touched(&scene.world), through);
    let bob = scene.world.object("ram").at(at(-40.0, 0.0, 45.0)).body().add().unwrap();
    scene.world.attach(bob, Zone::boxed(Vec3::ONE)).unwrap();
    // It takes part from the end of the first tick on, and was not seen before the second.
    scene.run(2);
    scene.world.move_to(bob, at(60.0, 0.0, 45.0)).unwrap();
    scene.run(1);
    let rammed = ["touch ada enters ram (zone_moved)", "touch ada leaves ram (zone_moved)"];
    assert_eq!(touched(&scene.world), rammed);
}

#[test]
fn what_hangs_on_something_goes_turns_sleeps_and_ends_with_it() {
    let mut scene = towpath();
    let world = &mut scene.world;
    let barge = world.object("barge").at(at(0.0, 0.0, 20.0)).add().unwrap();
    let deck = world.object("deck").at(at(0.0, 1.0, -3.0)).hung_on(barge).add().unwrap();
    let lamp = world.object("lamp").at(at(0.0, 2.0, 0.0)).hung_on(deck).body().add().unwrap();
    let zone = world.attach(deck, Zone::boxed(at(2.0, 2.0, 2.0))).unwrap();
    assert_eq!(world.place(lamp).unwrap(), at(0.0, 3.0, 17.0));
    world.face(barge, Rotation::about(Vec3::Y, 180.0)).unwrap();
    world.put(barge, at(10.0, 0.0, 20.0)).unwrap();
    scene.run(1);
    let there = scene.world.place(lamp).unwrap();
    assert!((there - at(10.0, 3.0, 23.0)).length() < 1e-4, "{there}");
    let ada = scene.ada;
    scene.world.put(ada, at(10.0, 1.0, 23.0)).unwrap();
    scene.run(1);
    assert!(scene.world.is_inside(ada, zone.part));
    scene.world.disable(barge).unwrap();
    scene.world.disable(lamp).unwrap();
    scene.run(1);
    let gone: Vec<_> =
        told_since(&scene.world, 3).into_iter().filter(|line| line.starts_with("intake")).collect();
    let order = [
        "intake barge disabled",
        "intake ada leaves deck (zone_disabled)",
        "intake deck disabled",
        "intake lamp disabled",
    ];
    assert_eq!(gone, order);
    scene.world.enable(barge).unwrap();
    scene.run(1);
    assert!(scene.world.is_enabled(deck) && !scene.world.is_enabled(lamp), "the lamp was put out itself");
    assert!(scene.world.is_inside(ada, zone.part));
    // Hung elsewhere, it stays where it is and follows the other.
    scene.world.hang(lamp, None).unwrap();
    scene.world.hang(barge, Some(lamp)).unwrap();
    scene.world.put(lamp, there + at(0.0, 0.0, 5.0)).unwrap();
    scene.run(1);
    assert!((scene.world.place(barge).unwrap() - at(10.0, 0.0, 25.0)).length() < 1e-4);
    assert_eq!(scene.world.parent(barge), Some(lamp));
    assert!(!scene.world.is_enabled(deck), "what the lamp holds is off with it");
    scene.world.hang(lamp, Some(deck)).unwrap();
    scene.run(1);
    assert!(told(&scene.world).last().unwrap().contains("\"lamp\" cannot be attached to"));
    scene.world.destroy(lamp).unwrap();
    scene.run(1);
    assert_eq!([scene.world.find("lamp"), scene.world.find("barge"), scene.world.find("deck")], [None; 3]);
}

/// A prompt with its notes.
fn prompt(world: &mut World<Vec<String>>, name: &str, place: Vec3, prompt: Prompt) -> PartId {
    let object = world.object(name).at(place).add().unwrap();
    let handle = world.attach(object, prompt).unwrap();
    let signals: [(Signal<()>, &str); 4] = [
        (handle.offered, "offered"),
        (handle.withdrawn, "withdrawn"),
        (handle.cancelled, "cancelled"),
        (handle.answered, "answered"),
    ];
    for (signal, word) in signals {
        let name = name.to_owned();
        world
            .on(signal)
            .run(move |notes, (), cx| {
                let who = cx.name(cx.who().unwrap()).unwrap();
                notes.push(format!("{name} {word} {who}"));
            })
            .unwrap();
    }
    handle.part
}

#[test]
fn each_player_is_offered_the_nearest_prompt_and_of_two_as_near_the_one_made_first() {
    let mut scene = towpath();
    let bell = prompt(&mut scene.world, "bell", at(20.0, 0.0, 1.0), Prompt::new("Ring"));
    prompt(&mut scene.world, "post", at(20.0, 0.0, -1.0), Prompt::new("Tie up"));
    let far = prompt(&mut scene.world, "far", at(22.0, 0.0, 0.0), Prompt::new("Wind").reach(5.0));
    let (ada, bob) = (scene.ada, scene.world.player("bob").at(at(22.0, 0.0, 1.0)).add().unwrap());
    scene.world.put(ada, at(20.0, 0.0, 0.0)).unwrap();
    assert_eq!(scene.run(1), ["bell offered ada", "far offered bob"]);
    assert_eq!([scene.world.offered_to(ada), scene.world.offered_to(bob)], [Some(bell), Some(far)]);
    // All that is withdrawn comes before all that is offered.
    scene.world.put(ada, at(22.0, 0.0, 0.0)).unwrap();
    scene.world.put(bob, at(20.0, 0.0, 0.0)).unwrap();
    let changed = ["bell withdrawn ada", "far withdrawn bob", "far offered ada", "bell offered bob"];
    assert_eq!(scene.run(1), changed);
    scene.world.press(ada, "use").unwrap();
    scene.world.press(bob, "use").unwrap();
    assert_eq!(scene.run(1), ["far answered ada", "bell answered bob"]);
    let post = scene.world.find("bell").unwrap();
    scene.world.disable(post).unwrap();
    assert_eq!(scene.run(1), ["bell withdrawn bob", "post offered bob"]);
    scene.world.leave(bob).unwrap();
    assert_eq!(scene.run(1), ["post withdrawn bob"], "also from who leaves the game");
}

#[test]
fn who_is_a_player_no_more_has_their_prompt_withdrawn() {
    let mut scene = towpath();
    prompt(&mut scene.world, "bell", Vec3::X, Prompt::new("Ring"));
    assert_eq!(scene.run(1), ["bell offered ada"]);
    let (ada, bell) = (scene.ada, scene.world.declare_signal::<()>("retire").unwrap());
    scene.world.on(bell).run(move |_, (), cx| cx.untag(ada, "player")).unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert_eq!(scene.run(2), ["bell withdrawn ada"]);
}

#[test]
fn fifty_thousand_that_hang_on_each_other_go_and_end_together() {
    let mut world = World::<()>::new();
    let root = world.object("link_0").add().unwrap();
    let mut last = root;
    for number in 1..50_000 {
        last = world.object(&format!("link_{number}")).hung_on(last).at(at(0.0, 0.001, 0.0)).add().unwrap();
    }
    world.put(root, at(5.0, 0.0, 0.0)).unwrap();
    world.step(&mut ()).unwrap();
    assert!(world.place(last).unwrap().x > 4.9);
    world.destroy(root).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(world.objects().count(), 0);
}

#[test]
fn a_hold_takes_its_time_and_is_cancelled_by_letting_go_or_going_away() {
    let mut scene = towpath();
    let part = prompt(&mut scene.world, "paddle", Vec3::X, Prompt::new("Wind").key("wind").hold(tick(3.0)));
    let ada = scene.ada;
    assert_eq!(scene.run(1), ["paddle offered ada"]);
    scene.world.press(ada, "use").unwrap();
    scene.run(5);
    scene.world.press(ada, "wind").unwrap();
    assert!(scene.run(2).is_empty());
    assert_eq!(scene.world.hold_of(ada), Some(1.0 / 3.0));
    scene.world.release(ada, "wind").unwrap();
    assert_eq!(scene.run(1), ["paddle cancelled ada"]);
    scene.world.press(ada, "wind").unwrap();
    scene.run(2);
    scene.world.put(ada, at(50.0, 0.0, 0.0)).unwrap();
    assert_eq!(scene.run(1), ["paddle cancelled ada", "paddle withdrawn ada"]);
    // The key is still down: that is not a press.
    scene.world.put(ada, Vec3::ZERO).unwrap();
    assert_eq!(scene.run(10), ["paddle offered ada"]);
    scene.world.press(ada, "wind").unwrap();
    assert!(scene.run(3).is_empty());
    let before = scene.world.snapshot().unwrap();
    assert_eq!(scene.run(1), ["paddle answered ada"]);
    // Half-way through a hold, in another process.
    let digest = scene.world.trace().digest();
    let saved: Snapshot = serde_json::from_str(&serde_json::to_string(&before).unwrap()).unwrap();
    scene.world.restore(&saved).unwrap();
    assert_eq!(scene.run(1), ["paddle answered ada"]);
    assert_eq!(scene.world.trace().digest(), digest);
    assert_eq!(scene.world.offered_to(ada), Some(part));
}

#[test]
fn a_prompt_may_ask_for_sight_for_a_look_its_way_and_for_sense() {
    let mut scene = towpath();
    let sense = scene.world.var("sense", true).unwrap();
    let asked = Prompt::new("Read").in_sight().facing(45.0).when(Expr::var(sense));
    prompt(&mut scene.world, "sundial", at(0.0, 0.0, -1.5), asked);
    let ada = scene.ada;
    assert_eq!(scene.run(1), ["sundial offered ada"], "north is where everybody looks at first");
    scene.world.face(ada, Rotation::about(Vec3::Y, 90.0)).unwrap();
    assert_eq!(scene.run(1), ["sundial withdrawn ada"]);
    scene.world.face(ada, Rotation::about(Vec3::Y, 40.0)).unwrap();
    assert_eq!(scene.run(1), ["sundial offered ada"]);
    let hedge = scene.world.object("hedge").at(at(0.0, 0.0, -0.7)).add().unwrap();
    scene.world.attach(hedge, Solid::of(Shape::boxed(at(4.0, 4.0, 0.1)))).unwrap();
    // What is made while the world runs takes part from the end of the tick on.
    scene.run(1);
    assert_eq!(scene.run(1), ["sundial withdrawn ada"]);
    scene.world.disable(hedge).unwrap();
    assert_eq!(scene.run(1), ["sundial offered ada"]);
    scene.world.set(sense, false).unwrap();
    assert_eq!(scene.run(1), ["sundial withdrawn ada"]);
}

#[test]
fn a_ray_picks_the_first_thing_it_meets_if_that_can_be_picked_and_is_in_reach() {
    let mut scene = towpath();
    let world = &mut scene.world;
    let mut stones = Vec::new();
    for (name, x) in [("near", 5.0), ("far", 10.0)] {
        let stone = world.object(name).at(at(x, 0.0, 0.0)).add().unwrap();
        let pick = world.attach(stone, Pick::of(Shape::ball(1.0)).reach(7.0)).unwrap();
        let name = name.to_owned();
        world
            .on(pick.picked)
            .run(move |notes, hit, _| {
                notes.push(format!("{name} {} {} {:.3} {}", hit.point, hit.normal, hit.distance, hit.button));
            })
            .unwrap();
        stones.push(stone);
    }
    let wall = world.object("wall").at(at(3.0, 0.0, 0.0)).add().unwrap();
    world.attach(wall, Solid::of(Shape::boxed(at(0.2, 4.0, 4.0)))).unwrap();
    world.disable(wall).unwrap();
    let ada = scene.ada;
    let point = |from: Vec3, along: Vec3| Pointing::new(ada, from, along, "left");
    let look = point(Vec3::ZERO, at(3.0, 0.0, 0.0));
    scene.world.point(look.clone()).unwrap();
    assert_eq!(scene.run(1), ["near [4, 0, 0] [-1, 0, 0] 4.000 left"]);
    scene.world.disable(stones[0]).unwrap();
    scene.world.point(look.clone()).unwrap();
    assert!(scene.run(1).is_empty(), "the far one is out of her reach");
    scene.world.put(ada, at(3.0, 0.0, 0.0)).unwrap();
    scene.world.point(look.clone()).unwrap();
    assert_eq!(
        scene.run(1),
        ["far [9, 0, 0] [-1, 0, 0] 6.000 left"],
        "reach counts from the player, not the eye"
    );
    scene.world.enable(wall).unwrap();
    scene.world.point(look).unwrap();
    scene.world.point(point(Vec3::ZERO, Vec3::Y)).unwrap();
    assert!(scene.run(1).is_empty());
    let seen: Vec<_> = scene
        .world
        .trace()
        .records()
        .filter_map(|(_, record)| match record.event {
            Event::Pointed { at, taken, .. } => Some((at.is_some(), taken)),
            _ => None,
        })
        .collect();
    assert_eq!(seen, [(true, true), (true, false), (true, true), (true, false), (false, false)]);
}

#[test]
fn in_a_flat_scene_a_ray_from_above_finds_the_cell() {
    let mut scene = towpath();
    let beds = scene.world.object("beds").at(at(10.0, 10.0, 0.0)).add().unwrap();
    let grid = Grid::new(Cells::Square, 2.0).unwrap().in_flat_scene();
    let pick = scene.world.attach(beds, Pick::of(Shape::flat_box(20.0, 20.0)).grid(grid)).unwrap();
    scene
        .world
        .on(pick.picked)
        .run(|notes, hit, _| notes.push(format!("{} {}", hit.column, hit.row)))
        .unwrap();
    let from = at(13.5, 5.5, 100.0);
    let pointing = Pointing::new(scene.ada, from, Vec3::NEG_Z, "left");
    scene.world.point(pointing).unwrap();
    assert_eq!(scene.run(1), ["2 -2"]);
    assert_eq!(grid.cell_at(Pose::at(at(10.0, 10.0, 0.0)), from), Cell { column: 2, row: -2 });
}

#[test]
fn pushes_set_or_add_fall_off_and_still() {
    let mut scene = towpath();
    let world = &mut scene.world;
    let body = |world: &mut World<Vec<String>>, name: &str, at: Vec3| {
        world.object(name).at(at).body().add().unwrap()
    };
    let pushed = |world: &mut World<Vec<String>>, name: &str, place: Vec3, push: Push| {
        let object = world.object(name).at(place).add().unwrap();
        world.attach(object, Zone::boxed(at(4.0, 4.0, 4.0))).unwrap();
        world.attach(object, push).unwrap();
    };
    pushed(world, "race", at(0.0, 50.0, 0.0), Push::along(at(0.0, 0.0, 9.0)).by(3.0).stills());
    pushed(world, "wind", at(0.0, 100.0, 0.0), Push::along(Vec3::X).by(2.0).adding().falloff(4.0));
    let (float, leaf) = (body(world, "float", at(0.0, 50.0, 0.0)), body(world, "leaf", at(0.0, 102.0, 0.0)));
    scene.run(2);
    assert_eq!(scene.world.velocity(float).unwrap(), at(0.0, 0.0, 3.0));
    // Half-way out the wind has half its strength: 2 / 2 / 30 more every tick.
    assert!((scene.world.velocity(leaf).unwrap() - at(1.0 / 30.0, 0.0, 0.0)).length() < 1e-6);
    scene.run(30);
    assert_eq!(scene.world.velocity(float).unwrap(), Vec3::ZERO, "it has left the race and is still");
    let rest = scene.world.place(float).unwrap();
    assert!((2.0..2.2).contains(&rest.z), "{rest}");
    let place = scene.world.place(leaf).unwrap();
    scene.world.drive(leaf, at(0.0, 3.0, 0.0)).unwrap();
    scene.run(30);
    let way = scene.world.place(leaf).unwrap() - place;
    assert!((way.y - 3.0).abs() < 1e-4 && way.x.abs() < 0.2, "{way}");
}

#[test]
fn what_cannot_be_is_refused_and_changes_nothing() {
    let mut scene = towpath();
    let (ada, pad, zone) = (scene.ada, scene.pad, scene.zone.part);
    scene.run(1);
    let before = serde_json::to_string(&scene.world.snapshot().unwrap()).unwrap();
    let world = &mut scene.world;
    let odd = at(f32::NAN, 0.0, 0.0);
    assert!(matches!(world.put(ada, odd), Err(Error::Build(BuildError::BadPlace { .. }))));
    assert!(matches!(world.move_to(ada, Vec3::INFINITY), Err(Error::Build(BuildError::BadPlace { .. }))));
    assert!(matches!(world.move_to(pad, Vec3::ZERO), Err(Error::NotABody { .. })));
    assert!(matches!(world.drive(ada, odd), Err(Error::Build(BuildError::BadVelocity { .. }))));
    let ray = |from, along| Pointing::new(ada, from, along, "left");
    assert!(matches!(world.point(ray(odd, Vec3::X)), Err(Error::Build(BuildError::BadPlace { .. }))));
    assert!(matches!(
        world.point(ray(Vec3::ZERO, Vec3::ZERO)),
        Err(Error::Build(BuildError::BadDirection { .. }))
    ));
    let lopsided = glam::Quat::from_xyzw(1.0, 1.0, 0.0, 1.0);
    assert!(matches!(Rotation::from_quat(lopsided), Err(BuildError::BadRotation { .. })));
    let shapes = [
        Shape::boxed(at(1.0, 0.0, 1.0)),
        Shape::boxed(at(1.0, -1.0, 1.0)),
        Shape::boxed(odd),
        Shape::flat_box(1.0, f32::INFINITY),
        Shape::ball(0.0),
        Shape::ball(f64::NAN),
        Shape::capsule(Vec3::ZERO, 1.0),
        Shape::capsule(Vec3::X, -1.0),
        Shape::cylinder(1.0, 0.0),
        Shape::half_space(Vec3::ZERO),
        Shape::ball(1.0).and(Shape::ball(-1.0)),
        Shape::ball(1.0).offset(odd),
    ];
    for shape in shapes {
        // As text, since what is not a number equals nothing.
        let refused = world.reshape(zone, shape.clone()).unwrap_err().to_string();
        assert!(refused.starts_with("expected "), "{refused}");
        assert_eq!(refused, world.attach(pad, Pick::of(shape.clone())).unwrap_err().to_string());
        assert_eq!(refused, world.object("float").body_of(shape.clone()).add().unwrap_err().to_string());
    }
    for shape in [
        Shape::below(),
        Shape::cylinder(1.0, 1.0),
        Shape::flat_box(1.0, 1.0),
        Shape::ball(1.0).and(Shape::ball(2.0)),
    ] {
        assert_eq!(
            world.object("float").body_of(shape.clone()).add(),
            Err(Error::Build(BuildError::BadBody))
        );
        assert_eq!(
            world.attach(pad, BodyShape::of(shape)).map(|_| ()),
            Err(Error::Build(BuildError::BadBody))
        );
    }
    assert!(matches!(
        world.attach(pad, Prompt::new("x").reach(-1.0)),
        Err(Error::Build(BuildError::BadNumber { .. }))
    ));
    assert!(matches!(
        world.attach(pad, Prompt::new("x").facing(400.0)),
        Err(Error::Build(BuildError::BadNumber { .. }))
    ));
    assert!(matches!(
        world.attach(pad, Push::along(Vec3::ZERO)),
        Err(Error::Build(BuildError::BadDirection { .. }))
    ));
    assert!(matches!(
        world.attach(pad, Push::along(Vec3::X).falloff(0.0)),
        Err(Error::Build(BuildError::BadNumber { .. }))
    ));
    assert!(matches!(
        world.attach(pad, Pick::of(Shape::ball(1.0)).reach(0.0)),
        Err(Error::Build(BuildError::BadNumber { .. }))
    ));
    assert!(matches!(Grid::new(Cells::Square, f64::NAN), Err(BuildError::BadNumber { .. })));
    assert!(matches!(world.set_asked(zone, "when", true.into()), Err(Error::UnknownName { .. })));
    assert_eq!(serde_json::to_string(&scene.world.snapshot().unwrap()).unwrap(), before);
}

#[test]
fn turning_hanging_and_reshaping_are_in_the_digest_though_nothing_follows_from_them() {
    type Change = fn(&mut World<Vec<String>>, ObjectId, ObjectId, PartId);
    let changes: [Change; 4] = [
        |_, _, _, _| (),
        |world, gate, _, _| world.face(gate, Rotation::about(Vec3::Y, 10.0)).unwrap(),
        |world, gate, pad, _| world.hang(gate, Some(pad)).unwrap(),
        |world, _, _, zone| world.reshape(zone, Shape::ball(0.5)).unwrap(),
    ];
    let mut digests: Vec<_> = changes
        .map(|change| {
            let mut scene = towpath();
            change(&mut scene.world, scene.gate, scene.pad, scene.zone.part);
            scene.run(2);
            scene.world.trace().digest()
        })
        .into();
    digests.sort_unstable();
    digests.dedup();
    assert_eq!(digests.len(), 4);
}

#[test]
fn a_damaged_list_of_who_is_inside_is_refused() {
    let mut scene = towpath();
    scene.world.put(scene.ada, PAD).unwrap();
    scene.run(1);
    let whole = serde_json::to_value(scene.world.snapshot().unwrap()).unwrap();
    let refused = |change: fn(&mut serde_json::Value)| {
        let mut saved = whole.clone();
        change(&mut saved["moment"]["tracker"]);
        let Ok(snapshot) = serde_json::from_value::<Snapshot>(saved) else { return true };
        matches!(towpath().world.restore(&snapshot), Err(SaveError::Mismatch { .. }))
    };
    assert!(!refused(|_| {}));
    assert!(refused(|tracker| tracker["zones"][0]["inside"][0]["body"] = 7.into()));
    assert!(refused(|tracker| tracker["bodies"][0]["inside"] = serde_json::json!([])));
    assert!(refused(|tracker| tracker["motions"] = serde_json::json!([])));
    assert!(refused(|tracker| tracker["free_bodies"] = serde_json::json!([4_000_000_000_u32])));
    assert!(refused(|tracker| tracker["free_zones"] = serde_json::json!([0])));
    assert!(refused(|tracker| tracker["zones"][0]["margin"] = (-1).into()));
    assert!(refused(
        |tracker| tracker["zones"][0]["pose"]["facing"] = serde_json::json!([0.0, 0.0, 0.0, 5.0])
    ));
}

/// A busy towpath with these names, run for a while: who touched what, by number.
fn busy(names: [&str; 4]) -> Vec<(u64, usize, usize, Reason, bool)> {
    let mut world = World::<()>::new();
    let mut objects = Vec::new();
    for (number, name) in (0_u8..).zip(names) {
        let place = at(f32::from(number) * 3.0, 0.0, 0.0);
        let object = world.object(name).at(place).body_of(Shape::ball(0.3)).add().unwrap();
        world.attach(object, Zone::boxed(at(2.0, 2.0, 2.0))).unwrap();
        objects.push(object);
    }
    let mut shift = 0.0;
    for step in 0..40_u16 {
        for (number, object) in (0_u16..).zip(&objects) {
            let turn = f32::from((step * 7 + number * 5) % 13) - 6.0;
            world.move_to(*object, at(f32::from(number) * 3.0 + turn, 0.0, shift)).unwrap();
        }
        shift += 0.1;
        world.step(&mut ()).unwrap();
    }
    let number = |object: ObjectId| objects.iter().position(|other| *other == object).unwrap();
    let touch = |record: &stoicheon_core::Record| match record.event {
        Event::Entered { zone, body, reason } => Some((zone, body, reason, true)),
        Event::Left { zone, body, reason } => Some((zone, body, reason, false)),
        _ => None,
    };
    world
        .trace()
        .records()
        .filter_map(|(_, record)| {
            let (zone, body, reason, entered) = touch(&record)?;
            Some((record.tick.0, number(world.object_of(zone)?), number(body), reason, entered))
        })
        .collect()
}

#[test]
fn other_names_give_the_same_order_of_transitions() {
    let one = busy(["ada", "bob", "eve", "joe"]);
    assert!(one.len() > 100, "{}", one.len());
    assert_eq!(one, busy(["zoe", "yan", "x", "w_1"]));
}
