//! The order law, sentence by sentence. `docs/order-law.md` names the test of each.

use std::sync::Arc;

use super::support::{PAD, told, told_since, towpath};
use insta::assert_debug_snapshot;
use stoicheon_core::{
    Config, Door, Error, Event, Expr, NoSuchSignal, Phase, Steps, Tick, TickError, TickRate, TraceLevel,
    Vec3, World, Zone, secs,
};

/// A note-taking reaction.
macro_rules! note {
    ($text:expr) => {
        |notes: &mut Vec<String>, _, _| notes.push($text.to_owned())
    };
}

#[test]
fn the_six_phases_come_in_their_order() {
    let mut scene = towpath();
    let level = scene.world.var("level", 0.0).unwrap();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    // Due in the tick in which everything else happens too.
    scene.world.on(bell).run_steps(Steps::new().wait(secs(0.1)).set(level, 1.0)).unwrap();
    scene.world.never(Expr::var(level).more_than(0.5));
    scene.world.emit(bell, ()).unwrap();
    scene.run(1);
    scene.world.command(scene.door.part, Door::TO_OPEN).unwrap();
    scene.run(2);
    scene.world.press(scene.ada, "wind").unwrap();
    scene.world.put(scene.ada, PAD).unwrap();
    scene.run(1);
    let phases: Vec<_> = scene
        .world
        .trace()
        .records()
        .filter(|(_, record)| record.tick == Tick(4))
        .map(|(_, record)| record.phase.word())
        .collect();
    let mut distinct = phases.clone();
    distinct.dedup();
    assert_eq!(distinct, ["intake", "clocks", "motion", "touch", "settle", "upkeep"]);
}

#[test]
fn start_up_tells_each_object_in_order_and_the_scene_last() {
    let mut scene = towpath();
    // Wired in the opposite order: the order of the objects decides, not that of the wires.
    let (pad, gate) = (scene.pad, scene.gate);
    let started = scene.world.started();
    scene.world.on(started).run(note!("scene")).unwrap();
    let gate_started = scene.world.started_of(gate).unwrap();
    scene.world.on(gate_started).run(note!("gate")).unwrap();
    let pad_started = scene.world.started_of(pad).unwrap();
    scene.world.on(pad_started).run(note!("pad")).unwrap();
    assert_eq!(scene.run(2), ["pad", "gate", "scene"]);
}

#[test]
fn inputs_take_effect_in_the_order_they_were_handed_in() {
    let mut scene = towpath();
    let (world, ada) = (&mut scene.world, scene.ada);
    world.press(ada, "one").unwrap();
    world.disable(scene.gate).unwrap();
    world.press(ada, "two").unwrap();
    scene.run(1);
    let intake: Vec<_> = told(&scene.world).into_iter().filter(|line| line.starts_with("intake")).collect();
    assert_eq!(intake, ["intake key one", "intake upper_gate disabled", "intake key two"]);
}

#[test]
fn waits_come_due_by_tick_then_in_the_order_they_began() {
    let mut world = World::<()>::new();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let [a, b, c] = ["a", "b", "c"].map(|name| world.var(name, 0.0).unwrap());
    world.on(bell).run_steps(Steps::new().wait(secs(0.2)).set(a, 1.0)).unwrap();
    world.on(bell).run_steps(Steps::new().wait(secs(0.1)).set(b, 1.0)).unwrap();
    world.on(bell).run_steps(Steps::new().wait(secs(0.1)).set(c, 1.0)).unwrap();
    world.emit(bell, ()).unwrap();
    for _ in 0..10 {
        world.step(&mut ()).unwrap();
    }
    let sets: Vec<_> = told(&world).into_iter().filter(|line| line.contains(" = ")).collect();
    assert_eq!(sets, ["clocks b = Number(1.0)", "clocks c = Number(1.0)", "clocks a = Number(1.0)"]);
}

#[test]
fn doors_move_by_object_number() {
    let mut world = World::<()>::new();
    let doors: Vec<_> = ["first", "second"]
        .map(|name| {
            let object = world.object(name).add().unwrap();
            world.attach(object, Door::swing(85.0).over(secs(0.1))).unwrap()
        })
        .into_iter()
        .rev()
        .collect();
    for door in &doors {
        world.command(door.part, Door::TO_OPEN).unwrap();
    }
    for _ in 0..5 {
        world.step(&mut ()).unwrap();
    }
    let opened: Vec<_> = told(&world).into_iter().filter(|line| line.starts_with("motion")).collect();
    assert_eq!(opened, ["motion first open", "motion second open"]);
}

#[test]
fn walks_move_after_doors_by_object_number() {
    let mut scene = towpath();
    let bob = scene.world.player("bob").add().unwrap();
    // All three are done in tick 3; handed in against the order of their numbers.
    for who in [bob, scene.ada] {
        scene.world.walk(who, Vec3::new(0.0, 0.0, 2.9), 30.0).unwrap();
    }
    scene.world.command(scene.door.part, Door::TO_OPEN).unwrap();
    scene.run(3);
    let moved: Vec<_> = scene
        .world
        .trace()
        .records()
        .filter(|(_, record)| record.phase == Phase::Motion && record.tick == Tick(3))
        .map(|(_, record)| match record.event {
            Event::Arrived { body, .. } => scene.world.name(body).unwrap().to_owned(),
            event => format!("{event:?}").split(' ').next().unwrap().to_owned(),
        })
        .collect();
    assert_eq!(moved, ["Shifted", "ada", "bob"]);
}

#[test]
fn touch_tells_all_left_then_all_entered_then_those_crossed_whole() {
    let mut world = World::<()>::new();
    for (name, x) in [("old", 0.0), ("thin", 5.0), ("new", 10.0)] {
        let size = if name == "thin" { Vec3::new(0.01, 1.0, 1.0) } else { Vec3::ONE };
        let object = world.object(name).at(Vec3::new(x, 0.0, 0.0)).add().unwrap();
        world.attach(object, Zone::boxed(size)).unwrap();
    }
    let ada = world.player("ada").add().unwrap();
    let bob = world.player("bob").at(Vec3::new(10.0, 0.0, 0.0)).add().unwrap();
    world.step(&mut ()).unwrap();
    // Both leave and both enter, one each way through the thin zone, in a single tick.
    world.walk(ada, Vec3::new(10.0, 0.0, 0.0), 900.0).unwrap();
    world.walk(bob, Vec3::ZERO, 900.0).unwrap();
    world.step(&mut ()).unwrap();
    let touch: Vec<_> = told_since(&world, 2).into_iter().filter(|line| line.starts_with("touch")).collect();
    assert_debug_snapshot!(touch, @r#"
    [
        "touch ada leaves old (walked)",
        "touch bob leaves new (walked)",
        "touch bob enters old (walked)",
        "touch ada enters thin (walked)",
        "touch bob enters thin (walked)",
        "touch ada enters new (walked)",
        "touch ada leaves thin (walked)",
        "touch bob leaves thin (walked)",
    ]
    "#);
}

#[test]
fn a_body_that_is_put_somewhere_does_not_pass_what_lies_between() {
    let mut scene = towpath();
    scene.run(1);
    scene.world.put(scene.ada, PAD * 2.0).unwrap();
    scene.run(1);
    assert!(!told(&scene.world).iter().any(|line| line.contains("towpath_pad")));
    scene.world.walk(scene.ada, Vec3::ZERO, 900.0).unwrap();
    scene.run(1);
    let touch: Vec<_> = told_since(&scene.world, 3).into_iter().filter(|l| l.starts_with("touch")).collect();
    assert_eq!(touch, ["touch ada enters towpath_pad (walked)", "touch ada leaves towpath_pad (walked)"]);
}

#[test]
fn a_body_on_the_border_is_inside() {
    let mut scene = towpath();
    for (x, inside) in [(3.0, true), (2.999, false), (5.0, true), (5.001, false)] {
        scene.world.put(scene.ada, Vec3::new(x, 0.0, 0.0)).unwrap();
        scene.run(1);
        assert_eq!(scene.world.is_inside(scene.ada, scene.zone.part), inside, "at {x}");
    }
}

#[test]
fn a_zone_goes_where_its_object_goes() {
    let mut scene = towpath();
    let ferry = scene.world.object("ferry").at(PAD * 4.0).body().add().unwrap();
    let deck = scene.world.attach(ferry, Zone::boxed(Vec3::ONE)).unwrap();
    scene.run(1);
    scene.world.walk(ferry, Vec3::ZERO, 30.0).unwrap();
    scene.run(60);
    assert!(scene.world.is_inside(scene.ada, deck.part), "it has come to where she stands");
    scene.world.put(ferry, PAD * 4.0).unwrap();
    scene.run(1);
    let touch: Vec<_> = told(&scene.world).into_iter().filter(|line| line.starts_with("touch")).collect();
    // It met ada and the pad on its way; its own zone does not take the ferry itself for a visitor.
    let expected = [
        "touch ferry enters towpath_pad (walked)",
        "touch ferry leaves towpath_pad (walked)",
        "touch ada enters ferry (zone_moved)",
        "touch ada leaves ferry (zone_moved)",
    ];
    assert_eq!(touch, expected);
}

#[test]
fn a_signal_reaches_its_wires_by_order_then_as_wired() {
    let mut scene = towpath();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    for (order, name) in [(5, "late"), (0, "first"), (-3, "early"), (0, "second")] {
        scene.world.on(bell).order(order).run(note!(name)).unwrap();
    }
    scene.world.emit(bell, ()).unwrap();
    assert_eq!(scene.run(1), ["early", "first", "second", "late"]);
}

/// Two wires on one signal, with these order numbers.
fn two_wires(first: i32, second: i32) -> (Vec<String>, u64) {
    let mut scene = towpath();
    scene.world.on(scene.zone.entered).order(first).run(note!("open")).unwrap();
    scene.world.on(scene.zone.entered).order(second).run(note!("ring")).unwrap();
    scene.world.put(scene.ada, PAD).unwrap();
    let mut lines = scene.run(1);
    lines.extend(told(&scene.world).into_iter().filter(|line| line.contains("takes")));
    (lines, scene.world.trace().digest())
}

#[test]
fn other_order_numbers_give_another_trace() {
    let (lines, digest) = two_wires(1, 2);
    assert_eq!(lines, ["open", "ring", "settle takes 1", "settle takes 2"]);
    let (swapped, other_digest) = two_wires(2, 1);
    assert_eq!(swapped, ["ring", "open", "settle takes 1", "settle takes 2"]);
    assert_ne!(digest, other_digest);
    assert_eq!((lines, digest), two_wires(1, 2));
}

#[test]
fn one_signal_reaches_all_its_wires_before_the_next_one_starts() {
    let mut scene = towpath();
    let [first, second] = ["first", "second"].map(|name| scene.world.declare_signal::<()>(name).unwrap());
    scene
        .world
        .on(first)
        .run(move |notes: &mut Vec<String>, (), cx| {
            notes.push("first, emits".into());
            cx.emit(second, ())
        })
        .unwrap();
    scene.world.on(first).run(note!("first, again")).unwrap();
    scene.world.on(second).run(note!("second")).unwrap();
    scene.world.emit(first, ()).unwrap();
    scene.world.emit(first, ()).unwrap();
    let notes = scene.run(1);
    let once = ["first, emits", "first, again"];
    assert_eq!(notes, [&once[..], &once[..], &["second", "second"]].concat());
}

#[test]
fn what_a_reaction_changes_is_true_at_once() {
    let mut scene = towpath();
    let level = scene.world.var("level", 0.0).unwrap();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    scene.world.on(bell).run(move |_, (), cx| cx.set(level, 1.0)).unwrap();
    scene.world.on(bell).when(Expr::var(level).equals(1.0)).run(note!("sees it")).unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert_eq!(scene.run(1), ["sees it"]);
}

#[test]
fn a_wire_made_in_a_delivery_does_not_see_that_delivery() {
    let mut scene = towpath();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    scene
        .world
        .on(bell)
        .once()
        .run(move |_: &mut Vec<String>, (), cx| cx.on(bell).run(note!("new wire")).map(|_| ()))
        .unwrap();
    scene.world.emit(bell, ()).unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert_eq!(scene.run(1), ["new wire"], "it hears the second ring only");
}

#[test]
fn disabling_an_owner_in_a_delivery_keeps_its_later_wires_from_hearing_it() {
    let mut scene = towpath();
    let (bell, gate) = (scene.world.declare_signal::<()>("bell").unwrap(), scene.gate);
    scene.world.on(bell).run(move |_, (), cx| cx.disable(gate)).unwrap();
    scene.world.on(bell).owned_by(gate).order(1).run(note!("gate hears")).unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert!(scene.run(1).is_empty());
    assert!(told(&scene.world).contains(&"settle refuses 1 (asleep)".to_owned()));
    scene.world.enable(gate).unwrap();
    scene.world.emit(bell, ()).unwrap();
    // The first wire puts it to sleep again before its turn comes.
    assert!(scene.run(1).is_empty());
}

#[test]
fn destroying_an_owner_in_a_delivery_ends_its_wires_at_once_and_frees_them_in_upkeep() {
    let mut scene = towpath();
    let (bell, gate) = (scene.world.declare_signal::<()>("bell").unwrap(), scene.gate);
    let held = Arc::new(());
    let holds = Arc::clone(&held);
    scene.world.on(bell).run(move |_, (), cx| cx.destroy(gate)).unwrap();
    scene
        .world
        .on(bell)
        .owned_by(gate)
        .run(move |notes: &mut Vec<String>, (), _| notes.push(format!("{holds:?}")))
        .unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert_eq!(Arc::strong_count(&held), 2);
    assert!(scene.run(1).is_empty());
    assert_eq!(Arc::strong_count(&held), 1, "what the closure held is let go");
    assert_eq!(scene.world.find("upper_gate"), None);
    assert_eq!(scene.world.name(gate), Some("upper_gate"), "the trace still speaks of it");
    assert_eq!(scene.world.emit(scene.door.opened, ()), Err(NoSuchSignal.into()));
    assert_eq!(scene.world.disable(gate), Err(Error::NoSuchObject));
}

#[test]
fn a_zone_that_goes_dark_first_reports_left_for_everyone_inside() {
    let mut scene = towpath();
    let (pad, zone) = (scene.pad, scene.zone);
    let bob = scene.world.player("bob").at(PAD).add().unwrap();
    scene.world.on(zone.left).run(note!("the lock hears left")).unwrap();
    scene.world.on(zone.left).owned_by(pad).order(1).run(note!("the pad hears left")).unwrap();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    scene.world.on(bell).run(move |_, (), cx| cx.disable(pad)).unwrap();
    scene.world.put(scene.ada, PAD).unwrap();
    scene.run(1);
    scene.world.emit(bell, ()).unwrap();
    assert_eq!(scene.run(1), ["the lock hears left", "the lock hears left"]);
    assert_debug_snapshot!(told_since(&scene.world, 2), @r#"
    [
        "settle delivers bell",
        "settle takes 0",
        "settle ada leaves towpath_pad (zone_disabled)",
        "settle bob leaves towpath_pad (zone_disabled)",
        "settle towpath_pad disabled",
        "settle delivers towpath_pad.left",
        "settle takes 0",
        "settle refuses 1 (asleep)",
        "settle delivers towpath_pad.left",
        "settle takes 0",
        "settle refuses 1 (asleep)",
        "settle delivers towpath_pad.vacated",
    ]
    "#);
    assert!(!scene.world.is_inside(bob, zone.part));
    scene.world.enable(pad).unwrap();
    scene.run(1);
    let entered: Vec<_> = told_since(&scene.world, 3).into_iter().filter(|l| l.contains("enters")).collect();
    assert_eq!(
        entered,
        ["touch ada enters towpath_pad (appeared)", "touch bob enters towpath_pad (appeared)"]
    );
}

#[test]
fn a_waiting_sequence_ends_with_its_owner() {
    let mut scene = towpath();
    let (bell, gate) = (scene.world.declare_signal::<()>("bell").unwrap(), scene.gate);
    let level = scene.world.var("level", 0.0).unwrap();
    scene.world.on(bell).owned_by(gate).run_steps(Steps::new().wait(secs(0.1)).set(level, 1.0)).unwrap();
    scene.world.emit(bell, ()).unwrap();
    scene.run(1);
    scene.world.destroy(gate).unwrap();
    scene.run(5);
    assert!(told(&scene.world).contains(&"intake dropped".to_owned()));
    assert_eq!(scene.world.value(level).unwrap().as_number(), Some(0.0));
}

#[test]
fn two_signals_that_feed_each_other_end_the_tick_and_the_loop_is_named() {
    let mut world = World::<()>::new();
    let [ping, echo] = ["ping", "pong"].map(|name| world.declare_signal::<()>(name).unwrap());
    let quiet = world.declare_signal::<()>("quiet").unwrap();
    world.on(quiet).run(move |(), (), cx| cx.emit(ping, ())).unwrap();
    world.on(ping).run(move |(), (), cx| cx.emit(echo, ())).unwrap();
    world.on(echo).run(move |(), (), cx| cx.emit(ping, ())).unwrap();
    world.emit(quiet, ()).unwrap();
    let error = world.step(&mut ()).unwrap_err();
    let Error::Tick(TickError::Runaway { tick: 1, chain, deliveries, .. }) = &error else {
        panic!("{error}")
    };
    assert!(*deliveries > 10_000);
    // Signal, wire, signal, wire, and the first signal again; the way in is not part of the loop.
    assert_eq!(chain.len(), 5, "{chain:?}");
    assert_eq!(chain.first(), chain.last());
    let mut signals = [chain[0].as_str(), chain[2].as_str()];
    signals.sort_unstable();
    assert_eq!(signals, ["ping", "pong"]);
    assert!(chain[1].contains("order_law.rs:") && chain[3].contains("order_law.rs:"), "{chain:?}");
    assert_ne!(chain[1], chain[3]);
    // The world goes on: what was still queued was let go.
    world.step(&mut ()).unwrap();
    assert_eq!(world.delivered(quiet), 1);
}

#[test]
fn a_loop_is_named_without_a_trace_too() {
    let config = Config { trace: TraceLevel::Off, rounds: 50, ..Config::default() };
    let mut world = World::<()>::with(config);
    let bell = world.declare_signal::<()>("bell").unwrap();
    world.on(bell).run(move |(), (), cx| cx.emit(bell, ())).unwrap();
    world.emit(bell, ()).unwrap();
    let Err(Error::Tick(TickError::Runaway { chain, .. })) = world.step(&mut ()) else {
        panic!("it came to rest")
    };
    assert_eq!(chain.len(), 3, "{chain:?}");
    assert_eq!((chain[0].as_str(), chain[2].as_str()), ("bell", "bell"));
}

#[test]
fn leftover_time_is_carried_exactly_over_a_million_awkward_frames() {
    let rate = TickRate::new(60).unwrap();
    let config = Config { rate, trace: TraceLevel::Off, ..Config::default() };
    let mut world = World::<()>::with(config);
    let frames = [1.0 / 144.0, 0.006_999_9, 1.0 / 59.94, 0.000_1, 0.033_333];
    let mut ticks = 0_u64;
    for index in 0..1_000_000 {
        ticks += u64::from(world.advance(secs(frames[index % frames.len()]), &mut ()).unwrap().ticks);
    }
    // The frames are exact binary fractions; their sum is taken the same way, in whole units of 2^-64.
    let unit = 2_f64.powi(64);
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "a test")]
    let total: u128 = frames.iter().map(|frame| (frame * unit) as u128 * 200_000 * 60).sum();
    assert_eq!(u128::from(ticks), total >> 64);
    assert_eq!(world.now().0, ticks);
}

#[test]
fn time_past_the_catch_up_limit_is_let_go_and_reported() {
    let rate = TickRate::new(32).unwrap();
    let mut world = World::<()>::with(Config { rate, catch_up: 4, ..Config::default() });
    let advance = world.advance(secs(1.0 + 1.0 / 64.0), &mut ()).unwrap();
    assert_eq!((advance.ticks, advance.let_go), (4, 28));
    assert!((advance.fraction - 0.5).abs() < 1e-9, "{advance:?}");
    let advance = world.advance(secs(1.0 / 64.0), &mut ()).unwrap();
    assert_eq!((advance.ticks, advance.let_go), (1, 0), "the fraction was carried on");
}

#[test]
fn a_rule_that_breaks_is_recorded_once_until_it_holds_again() {
    let mut world = World::<()>::new();
    let level = world.var("level", 0.0).unwrap();
    world.never(Expr::var(level).more_than(0.5));
    for (to, broken) in [(1.0, 1), (0.9, 1), (0.0, 1), (1.0, 2)] {
        world.set(level, to).unwrap();
        world.step(&mut ()).unwrap();
        assert_eq!(world.times_broken(), broken, "at {to}");
    }
}

#[test]
fn the_same_run_gives_the_same_digest_and_another_run_another() {
    let run = |keys: &[&str]| {
        let mut scene = towpath();
        scene.world.on(scene.zone.entered).run(note!("in")).unwrap();
        scene.world.walk(scene.ada, PAD, 4.0).unwrap();
        for key in keys {
            scene.world.press(scene.ada, key).unwrap();
        }
        scene.run(40);
        scene.world.trace().digest()
    };
    assert_eq!(run(&["wind"]), run(&["wind"]));
    assert_ne!(run(&["wind"]), run(&["unwind"]));
}
