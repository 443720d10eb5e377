//! Delivering allocates nothing once everything has grown to its size.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use stoicheon_core::{Config, TraceLevel, World, payload};

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
        let [first, second] = ["first", "second"].map(|name| world.signal::<Rung>(name).unwrap());
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
