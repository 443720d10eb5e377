//! What sequences do: loops, routines, waits until something is so, and what becomes of those that wait.

use stoicheon_core::{
    Among, Door, DoorHandle, Error, Event, Expr, Mould, NewVar, ObjectId, Rotation, Signal, Snapshot, Step,
    Steps, Target, TickError, Value, VarId, Vec3, World, secs,
};

struct Scene {
    world: World<()>,
    bell: Signal<()>,
    count: VarId,
    gate: DoorHandle,
}

fn scene() -> Scene {
    let mut world = World::new();
    let bell = world.declare_signal("bell").unwrap();
    let count = world.var("count", 0_i64).unwrap();
    let gate = world.object("upper_gate").tag("gate").add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0).over(secs(0.1))).unwrap();
    Scene { world, bell, count, gate }
}

impl Scene {
    fn ring(&mut self) {
        self.world.emit(self.bell, ()).unwrap();
        self.run(1);
    }

    fn run(&mut self, ticks: u32) {
        (0..ticks).for_each(|_| self.world.step(&mut ()).unwrap());
    }

    fn count(&self) -> i64 {
        self.world.value(self.count).unwrap().as_whole().unwrap()
    }

    fn count_up(&self) -> Step {
        let one_more = Expr::var(self.count).plus(1_i64);
        Step::Set { target: Target::Var(self.count), to: one_more }
    }

    fn faults(&self) -> Vec<String> {
        let fault = |event: &Event| {
            if let Event::Fault { message, .. } = event { Some(message.to_string()) } else { None }
        };
        self.world.trace().records().filter_map(|(_, record)| fault(&record.event)).collect()
    }
}

#[test]
fn a_loop_goes_round_as_often_as_it_says_and_not_at_all_for_less_than_once() {
    for (times, rounds) in [(3, 3), (1, 1), (0, 0), (-2, 0)] {
        let mut scene = scene();
        let steps = Step::Repeat { times: times.into(), steps: vec![scene.count_up()] };
        scene.world.on(scene.bell).run_steps([steps]).unwrap();
        scene.ring();
        assert_eq!(scene.count(), rounds, "{times} times");
    }
}

#[test]
fn a_loop_can_wait_and_is_looked_at_again_each_round() {
    let mut scene = scene();
    let steps = Step::RepeatWhile {
        when: Expr::var(scene.count).less_than(3_i64),
        steps: vec![scene.count_up(), Step::Wait(secs(0.1))],
    };
    scene.world.on(scene.bell).run_steps([steps]).unwrap();
    scene.ring();
    let mut seen = vec![scene.count()];
    for _ in 0..4 {
        scene.run(3);
        seen.push(scene.count());
    }
    assert_eq!(seen, [1, 2, 3, 3, 3]);
    assert_eq!(scene.world.waiting(), 0);
}

#[test]
fn a_sequence_that_goes_round_without_a_wait_ends_the_tick_and_is_named() {
    let mut scene = scene();
    let steps = Step::RepeatWhile { when: true.into(), steps: vec![scene.count_up()] };
    scene.world.on(scene.bell).run_steps([steps]).unwrap();
    scene.world.emit(scene.bell, ()).unwrap();
    let error = scene.world.step(&mut ()).unwrap_err();
    let Error::Tick(TickError::EndlessSequence { tick: 1, place, .. }) = &error else { panic!("{error}") };
    assert!(place.file.ends_with("sequences.rs"));
    // The world goes on with the next tick.
    scene.run(1);
    assert!(scene.faults()[0].contains("goes round without a wait"));
}

#[test]
fn for_each_takes_those_who_were_there_when_it_began_by_number_and_leaves_out_who_is_gone() {
    let mut scene = scene();
    let tag = scene.world.tag_named("float").unwrap();
    let floats: Vec<_> =
        (0..4).map(|n| scene.world.object(&format!("float_{n}")).tag("float").add().unwrap()).collect();
    let touched: Vec<_> = floats
        .iter()
        .map(|float| scene.world.declare(NewVar::new("seen", 0_i64).of(*float)).unwrap())
        .collect();
    let seen = scene.world.property_named("seen").unwrap();
    let steps = Step::ForEach {
        among: Among::tagged(tag),
        local: 0,
        steps: vec![
            scene.count_up(),
            Step::Set { target: Target::Property(Expr::Local(0), seen), to: Expr::var(scene.count) },
            Step::Wait(secs(0.1)),
        ],
    };
    scene.world.on(scene.bell).run_steps([steps]).unwrap();
    scene.ring();
    scene.world.destroy(floats[2]).unwrap();
    scene.world.object("late").tag("float").add().unwrap();
    scene.run(20);
    let orders: Vec<_> = [0, 1, 3].map(|n| scene.world.value(touched[n]).unwrap().as_whole().unwrap()).into();
    assert_eq!(orders, [1, 2, 3]);
    assert_eq!(scene.count(), 3);
}

#[test]
fn a_routine_keeps_its_own_values_and_its_caller_goes_on_when_it_has_ended() {
    let mut scene = scene();
    let inner = [
        Step::Wait(secs(0.1)),
        Step::Set { target: Target::Local(0), to: Expr::Local(0).plus(1_i64) },
        Step::Set { target: Target::Var(scene.count), to: Expr::Local(0) },
    ];
    let inner = scene.world.routine("inner", 1, inner).unwrap();
    let outer = [Step::Run { routine: inner, values: vec![Expr::Local(0).plus(10_i64)] }];
    let outer = scene.world.routine("outer", 1, outer).unwrap();
    let done = scene.world.var("done", 0_i64).unwrap();
    let steps = [
        Step::Set { target: Target::Local(0), to: 5_i64.into() },
        Step::Run { routine: outer, values: vec![100_i64.into()] },
        Step::Set { target: Target::Var(done), to: Expr::Local(0) },
    ];
    scene.world.on(scene.bell).run_steps(steps).unwrap();
    scene.ring();
    assert_eq!(scene.world.value(done).unwrap(), &Value::Whole(0), "the caller waits with its routine");
    scene.run(4);
    assert_eq!((scene.count(), scene.world.value(done).unwrap()), (111, &Value::Whole(5)));
    let wrong = scene.world.on(scene.bell).run_steps([Step::Run { routine: inner, values: vec![] }]);
    assert!(matches!(wrong, Err(Error::WrongValues { .. })), "{wrong:?}");
}

#[test]
fn stop_ends_the_whole_sequence_from_within_a_routine_and_a_loop() {
    let mut scene = scene();
    let routine = scene.world.routine("ending", 0, [scene.count_up(), Step::Stop]).unwrap();
    let steps = Step::Repeat { times: 5_i64.into(), steps: vec![Step::Run { routine, values: vec![] }] };
    let after = scene.count_up();
    scene.world.on(scene.bell).run_steps([steps, after]).unwrap();
    scene.ring();
    assert_eq!(scene.count(), 1);
}

#[test]
fn a_wait_until_goes_on_at_once_or_in_the_clocks_phase_after_it_came_to_hold() {
    let mut scene = scene();
    let open = scene.gate.is(Door::OPEN);
    let steps = Steps::new().until(open).step(scene.count_up());
    scene.world.on(scene.bell).run_steps(steps).unwrap();
    scene.ring();
    assert_eq!((scene.count(), scene.world.waiting()), (0, 1));
    scene.world.command(scene.gate.part, Door::TO_OPEN).unwrap();
    // Told in intake, it moves in the motion phases of this tick and the next two.
    scene.run(3);
    assert_eq!(scene.world.state_word(scene.gate.part), Some("open"));
    assert_eq!(scene.count(), 0, "it came to hold after the clocks of that tick");
    scene.run(1);
    assert_eq!(scene.count(), 1);
    scene.ring();
    assert_eq!(scene.count(), 2, "it holds already");
}

#[test]
fn a_wait_until_that_took_too_long_does_something_else_and_one_that_just_made_it_does_not() {
    for (opens_after, late) in [(20, 1), (2, 0)] {
        let mut scene = scene();
        let late_count = scene.world.var("late", 0_i64).unwrap();
        let otherwise = Step::Set { target: Target::Var(late_count), to: 1_i64.into() };
        let steps = [
            Step::Until {
                condition: scene.gate.is(Door::OPENING),
                within: Some(scene.world.rate().ticks(secs(0.1)).unwrap().into()),
                otherwise: vec![otherwise],
            },
            scene.count_up(),
        ];
        scene.world.on(scene.bell).run_steps(steps).unwrap();
        scene.ring();
        scene.run(opens_after - 1);
        scene.world.command(scene.gate.part, Door::TO_OPEN).unwrap();
        scene.run(10);
        assert_eq!(scene.world.value(late_count).unwrap(), &Value::Whole(late));
        assert_eq!(scene.count(), 1, "either way it goes on");
    }
}

#[test]
fn a_wait_outlives_who_caused_it_and_what_needs_the_one_who_is_gone_is_left_out() {
    let mut scene = scene();
    let spot = scene.world.spot_at("steps", None, Vec3::X, Rotation::NONE).unwrap();
    let steps = [
        Step::Wait(secs(0.1)),
        Step::Send { who: Expr::Who, spot: Value::from(spot).into() },
        scene.count_up(),
    ];
    scene.world.on(scene.bell).run_steps(steps).unwrap();
    let ada = scene.world.player("ada").add().unwrap();
    scene.world.emit_for(Some(ada), scene.bell, ()).unwrap();
    scene.run(1);
    scene.world.destroy(ada).unwrap();
    scene.run(5);
    assert_eq!(scene.count(), 1);
    assert_eq!(scene.faults().len(), 1);
    assert!(scene.faults()[0].ends_with("is gone: it was destroyed, or its scene was unloaded"));
}

#[test]
fn a_reaction_is_given_up_at_the_instant_its_owner_is_disabled_and_does_not_come_back() {
    let mut scene = scene();
    let post = scene.world.object("post").add().unwrap();
    let steps = [Step::Wait(secs(1.0)), scene.count_up()];
    scene.world.on(scene.bell).owned_by(post).run_steps(steps).unwrap();
    scene.ring();
    scene.world.disable(post).unwrap();
    scene.world.enable(post).unwrap();
    scene.run(1);
    assert_eq!(scene.world.waiting(), 0);
    scene.run(40);
    assert_eq!(scene.count(), 0);
    let dropped = |event: &Event| matches!(event, Event::Dropped { restarted: false, .. });
    assert_eq!(scene.world.trace().records().filter(|(_, record)| dropped(&record.event)).count(), 1);
}

#[test]
fn a_reaction_that_disables_its_own_owner_does_not_wait() {
    let mut scene = scene();
    let post = scene.world.object("post").add().unwrap();
    let steps = [Step::Disable(post.into()), scene.count_up(), Step::Wait(secs(0.1)), scene.count_up()];
    scene.world.on(scene.bell).owned_by(post).run_steps(steps).unwrap();
    scene.ring();
    assert_eq!((scene.count(), scene.world.waiting()), (1, 0));
}

#[test]
fn what_is_spawned_after_a_mould_has_its_tag_its_variables_and_a_name_of_its_own() {
    let mut scene = scene();
    let tag = scene.world.tag_named("float").unwrap();
    let mould = Mould::new("float").tag("drifting").var(NewVar::new("age", 3_i64));
    let mould = scene.world.mould(mould).unwrap();
    let steps = [Step::Spawn { mould, at: Vec3::X.into(), local: Some(0) }, Step::Destroy(Expr::Local(0))];
    scene.world.on(scene.bell).run_steps(&steps[..1]).unwrap();
    scene.ring();
    scene.ring();
    let made: Vec<ObjectId> = scene.world.tagged(tag).collect();
    assert_eq!(made.len(), 2);
    assert_ne!(scene.world.name(made[0]), scene.world.name(made[1]));
    assert_eq!(scene.world.property(made[1], "age"), Some(&Value::Whole(3)));
    assert!(scene.world.has_tag(made[0], "drifting"));
    scene.world.on(scene.bell).run_steps(&steps).unwrap();
    scene.ring();
    assert_eq!(scene.world.tagged(tag).count(), 3, "one by the first wire; that of the second is gone again");
}

/// A scene in which a sequence stands in the middle of everything at once.
fn busy() -> Scene {
    let mut scene = scene();
    let tag = scene.world.tag_named("gate").unwrap();
    let inner = [Step::Wait(secs(0.2)), scene.count_up()];
    let inner = scene.world.routine("inner", 1, inner).unwrap();
    let around = Step::ForEach {
        among: Among::tagged(tag),
        local: 1,
        steps: vec![Step::Repeat {
            times: 3_i64.into(),
            steps: vec![Step::Run { routine: inner, values: vec![7_i64.into()] }],
        }],
    };
    let late = Step::Until { condition: scene.gate.is(Door::OPEN), within: None, otherwise: Vec::new() };
    let last = scene.count_up();
    scene.world.on(scene.bell).run_steps([around, late, last]).unwrap();
    scene
}

#[test]
fn a_world_that_is_saved_in_the_middle_of_a_wait_goes_on_exactly_there_in_another_process() {
    let mut unbroken = busy();
    unbroken.ring();
    for saved_after in [1, 5, 8, 15, 21, 30] {
        let mut scene = busy();
        scene.ring();
        scene.run(saved_after);
        let saved = serde_json::to_string(&scene.world.snapshot().unwrap()).unwrap();
        let mut other = busy();
        let read: Snapshot = serde_json::from_str(&saved).unwrap();
        other.world.restore(&read).unwrap();
        for world in [&mut scene, &mut other] {
            world.run(40 - saved_after);
            world.world.command(world.gate.part, Door::TO_OPEN).unwrap();
            world.run(10);
            assert_eq!(world.count(), 4);
        }
        assert_eq!(scene.world.trace().digest(), other.world.trace().digest(), "saved after {saved_after}");
    }
}

#[test]
fn steps_with_ids_of_another_world_are_faults_and_never_panic() {
    let mut other = scene();
    let far_spot = other.world.spot_at("far", None, Vec3::ZERO, Rotation::NONE).unwrap();
    let far_mould = other.world.mould(Mould::new("far")).unwrap();
    let mut world = World::<()>::new();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let steps = [
        Step::Send { who: Expr::Who, spot: Value::from(far_spot).into() },
        Step::Spawn { mould: far_mould, at: Vec3::ZERO.into(), local: None },
        Step::Set { target: Target::Var(other.count), to: 1_i64.into() },
        Step::Tell { object: Expr::Who, command: "open".into(), args: Vec::new() },
        Step::Enable(Expr::Local(9)),
        Step::WaitFor(Expr::Who),
    ];
    world.on(bell).run_steps(&steps).unwrap();
    world.emit(bell, ()).unwrap();
    world.step(&mut ()).unwrap();
    let fault = |event: &Event| matches!(event, Event::Fault { .. });
    assert_eq!(world.trace().records().filter(|(_, record)| fault(&record.event)).count(), 5);
    assert_eq!(world.waiting(), 1, "a span that is none counts as one tick");
    let routine = other.world.routine("far", 0, &[] as &[Step]).unwrap();
    let run = world.on(bell).run_steps([Step::Run { routine, values: vec![] }]);
    assert!(matches!(run, Err(Error::NoSuchRoutine)));
}
