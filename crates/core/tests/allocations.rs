//! Delivering allocates nothing once everything has grown to its size.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use stoicheon_core::{
    Config, Door, Pose, Prompt, TraceLevel, Vec3, World, Zone, payload,
    space::{Shape, Touches, Tracker},
};

payload! {
    /// What is delivered.
    #[derive(Clone, Copy)]
    pub struct Rung {
        /// How many strokes.
        pub strokes: f64,
    }
}

#[test]
fn delivering_allocates_nothing_in_the_steady_state() {
    for trace in [TraceLevel::Off, TraceLevel::Counts, TraceLevel::Full] {
        let mut world = World::<f64>::with(Config { trace, kept: 512, ..Config::default() });
        let [first, second] = ["first", "second"].map(|name| world.declare_signal::<Rung>(name).unwrap());
        for _ in 0..16 {
            world.on(first).run(|sum: &mut f64, rung, _| *sum += rung.strokes).unwrap();
        }
        // One that emits, one with a guard in Rust, one that asks who it was.
        world.on(first).run(move |_, rung, cx| cx.emit(second, *rung)).unwrap();
        let loud = world.on(second).when_fn("loud", |_, rung, _| rung.strokes > 0.5);
        loud.run(|sum, rung, _| *sum += rung.strokes).unwrap();
        world.on(second).by("keeper").run(|_, _, _| ()).unwrap();
        let mut sum = 0.0;
        let mut tick = |world: &mut World<f64>| {
            for _ in 0..8 {
                world.emit(first, Rung { strokes: 1.0 }).unwrap();
            }
            world.step(&mut sum).unwrap();
        };
        let counted = allocation_counter::measure(|| (0..50).for_each(|_| tick(&mut world)));
        assert!(counted.count_total > 0, "the counter counts");
        let counted = allocation_counter::measure(|| (0..50).for_each(|_| tick(&mut world)));
        assert_eq!(counted.count_total, 0, "{trace:?}");
    }
}

#[test]
fn who_touches_what_is_found_without_allocating_in_the_steady_state() {
    let mut tracker = Tracker::<u32, u32>::new();
    let number = |index: u16| f32::from(index);
    for index in 0..400_u16 {
        let place = Vec3::new(number(index % 20) * 4.0, 0.0, number(index / 20) * 4.0);
        tracker.add_zone(index.into(), Some(Shape::boxed(Vec3::splat(2.5))), Pose::at(place)).unwrap();
    }
    let ball = Shape::ball(0.25);
    let mut bodies = Vec::new();
    for index in 0..200_u16 {
        let body = tracker.add_body(index.into(), index.into(), Vec3::ZERO).unwrap();
        tracker.shape_body(body, (index % 2 == 0).then_some(&ball), Pose::default()).unwrap();
        bodies.push(body);
    }
    let (mut touches, mut told) = (Touches::default(), 0);
    let mut round = |tracker: &mut Tracker<u32, u32>| {
        for tick in 0..80_u16 {
            for (index, body) in (0_u16..).zip(&bodies) {
                // Round and round, each on a circle of its own; a few of them fast.
                let turn = number(tick) / 80.0 * std::f32::consts::TAU;
                let wide = 10.0 + number(index % 30);
                let place = Vec3::new(40.0 + turn.cos() * wide, 0.0, 40.0 + turn.sin() * wide);
                tracker.walk(*body, place).unwrap();
            }
            tracker.step(tick.into(), |_, _| true, &mut touches);
            told += touches.entered.len() + touches.left.len() + touches.crossed.len();
        }
    };
    let counted = allocation_counter::measure(|| round(&mut tracker));
    assert!(counted.count_total > 0, "the counter counts");
    let counted = allocation_counter::measure(|| round(&mut tracker));
    assert_eq!(counted.count_total, 0);
    assert!(told > 1_000, "{told}");
}

#[test]
fn zones_that_move_on_and_on_leave_no_memory_behind() {
    let mut tracker = Tracker::<(), ()>::new();
    let shape = || Some(Shape::boxed(Vec3::splat(1.5)));
    let fleet: Vec<_> = (0..40).map(|_| tracker.add_zone((), shape(), Pose::default()).unwrap()).collect();
    tracker.add_body((), 1, Vec3::ZERO).unwrap();
    let (mut touches, mut tick) = (Touches::default(), 0_u16);
    let mut sail = |tracker: &mut Tracker<(), ()>| {
        for _ in 0..2_000 {
            tick += 1;
            for (number, zone) in (0_u16..).zip(&fleet) {
                let place = Vec3::new(f32::from(tick) * 3.0, 0.0, f32::from(number) * 20.0);
                tracker.move_zone(*zone, Pose::at(place)).unwrap();
            }
            tracker.step(tick.into(), |(), ()| true, &mut touches);
        }
    };
    sail(&mut tracker);
    let counted = allocation_counter::measure(|| sail(&mut tracker));
    assert!(counted.bytes_current < 10_000, "{} bytes stayed", counted.bytes_current);
}

/// Bytes that each of so many objects takes, once the first few are there.
fn bytes_per_object(mut add: impl FnMut(&mut World<()>, usize)) -> f64 {
    let mut world = World::<()>::with(Config { trace: TraceLevel::Off, ..Config::default() });
    (0..100).for_each(|index| add(&mut world, index));
    let counted = allocation_counter::measure(|| {
        (100..10_100).for_each(|index| add(&mut world, index));
        world.step(&mut ()).unwrap();
    });
    #[expect(clippy::cast_precision_loss, reason = "a small number")]
    let bytes = counted.bytes_current as f64;
    bytes / 10_000.0
}

#[test]
fn an_object_takes_no_more_memory_than_it_did() {
    let place = |index: usize| {
        let along = |number: usize| f32::from(u16::try_from(number).unwrap()) * 6.0;
        Vec3::new(along(index % 100), 0.0, along(index / 100))
    };
    let bare = bytes_per_object(|world, index| {
        world.object(&format!("gate_{index}")).at(place(index)).add().unwrap();
    });
    let full = bytes_per_object(|world, index| {
        let gate = world.object(&format!("gate_{index}")).at(place(index)).add().unwrap();
        world.attach(gate, Door::swing(85.0)).unwrap();
        world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
        world.attach(gate, Prompt::new("Open")).unwrap();
    });
    // What was counted, and a little more. The aim is 400 and 2,500.
    assert!(bare <= 350.0 && full <= 5000.0, "{bare} and {full} bytes");
}
