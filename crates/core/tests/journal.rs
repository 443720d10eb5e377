//! What was handed in leads to the same ticks again.

use stoicheon_core::{
    Door, Error, OpensOn, SaveError, Step, Timer, Value, Vec3, World, Zone, payload,
    playtest::{NoHost, Playtest, PlaytestStep},
    secs,
};

payload! {
    #[derive(Clone, Debug, PartialEq)]
    struct Rung {
        strength: f64,
    }
}

fn canal() -> World<Vec<f64>> {
    let mut world = World::new();
    let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
    let pad = world.attach(pad, Zone::boxed(Vec3::splat(1.0))).unwrap();
    let gate = world.object("upper_gate").at(Vec3::new(8.0, 0.0, 0.0)).add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0).over(secs(0.7)).opens_on(OpensOn::Command)).unwrap();
    let bell = world.object("bell").add().unwrap();
    let clock = world.attach(bell, Timer::every(secs(0.25))).unwrap();
    let rung = world.declare_signal::<Rung>("rung").unwrap();
    world.on(pad.entered).run(move |_, _, cx| cx.open(gate)).unwrap();
    world.on(clock.struck).run(move |_, _, cx| cx.emit(rung, Rung { strength: 0.5 })).unwrap();
    world.on(rung).run(|all: &mut Vec<f64>, rung, _| all.push(rung.strength)).unwrap();
    world.player("ada").at(Vec3::ZERO).add().unwrap();
    world.object("boat").at(Vec3::new(0.0, 0.0, 9.0)).body().add().unwrap();
    world
}

/// Frames of many lengths, in which everything is handed in that a host can.
fn play(world: &mut World<Vec<f64>>, game: &mut Vec<f64>, frames: std::ops::Range<u32>) {
    let (ada, boat) = (world.find("ada").unwrap(), world.find("boat").unwrap());
    let rung = world.signal::<Rung>("rung").unwrap();
    for frame in frames {
        let x = f64::from(frame) * 0.1;
        #[expect(clippy::cast_possible_truncation, reason = "small")]
        world.move_to(boat, Vec3::new(x as f32, 0.0, 9.0)).unwrap();
        match frame % 7 {
            1 => world.walk(ada, Vec3::new(4.0, 0.0, 0.0), 4.0).unwrap(),
            2 => world.emit_for(Some(ada), rung, Rung { strength: x }).unwrap(),
            3 => world.press(ada, "use").unwrap(),
            4 => world.release(ada, "use").unwrap(),
            5 => world.walk(ada, Vec3::ZERO, 4.0).unwrap(),
            _ => {}
        }
        // No tick, one, or several.
        world.advance(secs([0.01, 0.034, 0.2][frame as usize % 3]), game).unwrap();
    }
}

#[test]
fn ticks_are_gone_through_once_more_from_any_snapshot() {
    let (mut world, mut game) = (canal(), Vec::new());
    world.keep_inputs(true);
    let mut moments = vec![(world.snapshot().unwrap(), game.clone())];
    let mut digests = vec![(0, world.trace().digest())];
    let mut ticks = Vec::new();
    for piece in 0..12 {
        play(&mut world, &mut game, piece * 5..piece * 5 + 5);
        ticks.extend(world.take_inputs());
        moments.push((world.snapshot().unwrap(), game.clone()));
        digests.push((world.now().0, world.trace().digest()));
    }
    let (last, end) = (world.now().0, game.clone());
    assert!(last > 140, "{last}");
    for (snapshot, kept) in moments.iter().rev() {
        world.restore(snapshot).unwrap();
        let mut again = kept.clone();
        let from = world.now();
        for tick in ticks.iter().filter(|tick| tick.tick() > from) {
            world.step_again(tick, &mut again).unwrap();
            let known = digests.iter().find(|(now, _)| *now == world.now().0);
            assert!(known.is_none_or(|(_, digest)| *digest == world.trace().digest()), "{:?}", world.now());
        }
        assert_eq!((world.now().0, &again), (last, &end));
        // What is gone through again is not kept again.
        assert!(world.take_inputs().is_empty());
    }
}

#[test]
fn statements_that_were_done_once_are_done_again() {
    let mut world = canal();
    world.keep_inputs(true);
    let gate = world.find("upper_gate").unwrap();
    let before = world.snapshot().unwrap();
    let steps = vec![Step::Disable(Value::Object(gate).into())];
    let playtest = Playtest::new("statements").step(PlaytestStep::Do { steps, scene: None });
    stoicheon_core::playtest::run(&mut { playtest }, &mut world, &mut Vec::new(), &mut NoHost).unwrap();
    assert!(!world.is_enabled(gate));
    let (ticks, digest) = (world.take_inputs(), world.trace().digest());
    world.restore(&before).unwrap();
    for tick in &ticks {
        world.step_again(tick, &mut Vec::new()).unwrap();
    }
    assert_eq!((world.is_enabled(gate), world.trace().digest()), (false, digest));
}

#[test]
fn a_world_that_stands_elsewhere_or_was_changed_at_once_is_told_so() {
    let mut world = canal();
    world.keep_inputs(true);
    let before = world.snapshot().unwrap();
    let mut game = Vec::new();
    world.step(&mut game).unwrap();
    let first = world.take_inputs();
    assert!(first[0].is_empty());
    let refused = world.step_again(&first[0], &mut game).unwrap_err();
    assert!(matches!(refused, Error::Save(SaveError::Mismatch { .. })), "{refused}");
    assert_eq!(world.now().0, 1);
    // Somebody joins between two ticks, which nobody handed in.
    world.player("bob").add().unwrap();
    world.step(&mut game).unwrap();
    let ticks = [first, world.take_inputs()].concat();
    world.restore(&before).unwrap();
    world.step_again(&ticks[0], &mut game).unwrap();
    let refused = world.step_again(&ticks[1], &mut game).unwrap_err();
    assert!(refused.to_string().contains("something changed it that was not handed in"), "{refused}");
    // Nothing is kept any more.
    world.keep_inputs(false);
    assert!(world.take_inputs().is_empty());
}
