//! Time is exact: nothing that repeats or waits drifts, whatever the rate of ticks.

use stoicheon_core::{
    Cycle, Expr, NewVar, Seconds, Step, Steps, Target, Tick, TickRate, Ticks, Timer, Value, Vec3, World,
    Zone, secs, ticks,
};

use crate::support::towpath;

fn world(rate: u32) -> World<()> {
    let rate = TickRate::new(rate).unwrap();
    World::with(stoicheon_core::Config { rate, ..stoicheon_core::Config::default() })
}

fn run(world: &mut World<()>, seconds: u32) {
    for _ in 0..seconds * world.rate().per_second() {
        world.step(&mut ()).unwrap();
    }
}

fn delivered(world: &World<()>, name: &str) -> u64 {
    world.delivered(world.find_signal(name).unwrap())
}

#[test]
fn what_repeats_strikes_as_often_as_its_span_fits_at_any_rate() {
    for (rate, span, seconds, strikes) in [
        (30, 0.25, 100, 400),
        (30, 0.05, 10, 200),
        (7, 0.3, 30, 100),
        (60, 0.007, 7, 1000),
        (30, 0.01, 10, 1000),
        (144, 1.0 / 3.0, 100, 300),
    ] {
        let mut world = world(rate);
        for (name, cycle) in [("clock", false), ("tide", true)] {
            let object = world.object(name).add().unwrap();
            if cycle {
                let tide = Cycle::new().state("low", secs(span)).state("high", secs(span)).repeats();
                world.attach(object, tide).unwrap();
            } else {
                world.attach(object, Timer::every(secs(span))).unwrap();
            }
        }
        run(&mut world, seconds);
        assert_eq!(delivered(&world, "clock.struck"), strikes, "every {span} s at {rate}");
        assert_eq!(delivered(&world, "tide.changed"), strikes, "{span} s at {rate}");
    }
}

/// The tick in which a sequence of so many waits has ended.
fn waits(rate: u32, times: i64, wait: Step) -> u64 {
    let mut world = world(rate);
    let done = world.var("done", false).unwrap();
    let started = world.started();
    let steps = vec![
        Step::Repeat { times: times.into(), steps: vec![wait] },
        Step::Set { target: Target::Var(done), to: true.into() },
    ];
    world.on(started).run_steps(Steps(steps)).unwrap();
    loop {
        world.step(&mut ()).unwrap();
        if world.value(done).unwrap() == &Value::Bool(true) {
            return world.now().0;
        }
    }
}

#[test]
fn a_sequence_goes_on_from_the_moment_it_waited_for() {
    let span = |seconds: f64| Step::Wait(secs(seconds));
    let kept = |rate: u32, seconds: f64| {
        Step::WaitFor(Expr::from(TickRate::new(rate).unwrap().ticks(secs(seconds)).unwrap()))
    };
    assert_eq!(waits(30, 100, span(0.05)), 150);
    assert_eq!(waits(30, 100, kept(30, 0.05)), 150);
    assert_eq!(waits(30, 3, span(0.05)), 5);
    assert_eq!(waits(7, 70, span(0.3)), 147);
    // Shorter than a tick: several in one.
    assert_eq!(waits(30, 100, span(0.01)), 30);
    assert_eq!(waits(30, 1, span(0.01)), 1);
    assert_eq!(waits(30, 4, Step::WaitFor(ticks(2).into())), 8);
    // No time at all is one tick.
    assert_eq!(waits(30, 5, Step::WaitFor(Ticks::ZERO.into())), 5);
    let never =
        |_: u32| Step::Until { condition: false.into(), within: Some(kept_span(0.05)), otherwise: vec![] };
    assert_eq!(waits(30, 100, never(0)), 150);
}

fn kept_span(seconds: f64) -> Expr {
    Expr::from(TickRate::default().ticks(secs(seconds)).unwrap())
}

#[test]
fn what_is_between_two_ticks_survives_sleep_and_a_snapshot_as_data() {
    let struck = |interrupt: &dyn Fn(&mut World<()>, u32)| {
        let mut world = world(30);
        let clock = world.object("clock").add().unwrap();
        world.attach(clock, Timer::every(secs(0.05))).unwrap();
        let count = world.var("count", 0_i64).unwrap();
        let more = Expr::var(count).plus(1_i64);
        let steps = vec![Step::RepeatWhile {
            when: true.into(),
            steps: vec![Step::Wait(secs(0.05)), Step::Set { target: Target::Var(count), to: more }],
        }];
        let started = world.started();
        world.on(started).owned_by(clock).run_steps(Steps(steps)).unwrap();
        for tick in 0..300 {
            interrupt(&mut world, tick);
            world.step(&mut ()).unwrap();
        }
        (delivered(&world, "clock.struck"), world.value(count).unwrap().as_whole().unwrap())
    };
    assert_eq!(struck(&|_, _| {}), (200, 200));
    // Data of it goes on where it stood, in the middle between two ticks.
    let aside = |world: &mut World<()>, tick: u32| {
        if tick % 7 == 3 {
            let data = serde_json::to_string(&world.snapshot().unwrap()).unwrap();
            world.restore(&serde_json::from_str(&data).unwrap()).unwrap();
        }
    };
    assert_eq!(struck(&aside), (200, 200));
    // For the ten ticks it is off, it stands still.
    let off = |world: &mut World<()>, tick: u32| {
        let clock = world.find("clock").unwrap();
        match tick {
            101 => world.disable(clock).unwrap(),
            111 => world.enable(clock).unwrap(),
            _ => {}
        }
    };
    let (strikes, counted) = struck(&off);
    assert!((193..=194).contains(&strikes), "{strikes}");
    // A reaction that waits is given up.
    assert_eq!(counted, 67);
}

#[test]
fn a_pulse_comes_as_often_as_it_fits_into_the_time_inside() {
    for (every, pulses) in [(0.25, 40), (0.05, 200), (0.01, 1000), (1.0, 10)] {
        let mut world = world(30);
        let pad = world.object("pad").add().unwrap();
        world.attach(pad, Zone::boxed(Vec3::splat(2.0)).pulse(secs(every))).unwrap();
        world.player("ada").add().unwrap();
        run(&mut world, 10);
        world.step(&mut ()).unwrap();
        assert_eq!(delivered(&world, "pad.pulse"), pulses, "every {every} s");
    }
}

#[test]
fn what_cools_down_or_is_late_is_so_until_the_first_tick_after_the_moment() {
    let mut towpath = towpath();
    let rung = towpath.world.declare_signal::<()>("rung").unwrap();
    // 100 ms and a little are four ticks of a thirtieth of a second.
    let reaction = |notes: &mut Vec<String>, (): &(), cx: &mut stoicheon_core::Cx<'_, Vec<String>>| {
        notes.push(format!("tick {}", cx.now().0));
    };
    towpath.world.on(rung).cooldown(secs(0.101)).run(reaction).unwrap();
    let mut notes = Vec::new();
    for _ in 0..10 {
        towpath.world.emit(rung, ()).unwrap();
        notes.extend(towpath.run(1));
    }
    assert_eq!(notes, ["tick 1", "tick 5", "tick 9"]);
}

#[test]
fn spans_are_exact_written_and_read_again() {
    let rate = TickRate::new(30).unwrap();
    for (seconds, count) in [(0.25, 7.5), (0.001, 0.03), (1e-9, 1e-6), (2.5, 75.0), (1e9, 3e10)] {
        let span = rate.ticks(Seconds(seconds)).unwrap();
        assert_eq!(span.count(), count);
        let text = serde_json::to_string(&Value::from(span)).unwrap();
        assert_eq!(serde_json::from_str::<Value>(&text).unwrap(), span.into(), "{text}");
    }
    assert_eq!(serde_json::to_string(&ticks(75)).unwrap(), "75");
    assert!(serde_json::from_str::<Ticks>("-1").is_err());
    assert!(serde_json::from_str::<Ticks>("-0.5").is_err());
    assert_eq!(Tick(3) + rate.ticks(secs(0.25)).unwrap(), Tick(11));
    assert_eq!(ticks(u64::MAX), ticks(u64::MAX - 1));
    // What strikes all too often is refused, and so is what waits for ever in one tick.
    let mut world = world(30);
    let clock = world.object("clock").add().unwrap();
    assert!(world.attach(clock, Timer::every(secs(1e-5))).is_err());
    assert!(world.attach(clock, Zone::boxed(Vec3::ONE).pulse(secs(1e-5))).is_err());
    let fast = world.declare(NewVar::new("fast", rate.ticks(secs(1e-9)).unwrap())).unwrap();
    let wait = Step::RepeatWhile { when: true.into(), steps: vec![Step::WaitFor(Expr::var(fast))] };
    let started = world.started();
    world.on(started).run_steps([wait]).unwrap();
    assert!(world.step(&mut ()).is_err());
}
