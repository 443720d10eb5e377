//! Delivering a signal: against a bare loop, channels, and the hand-written observer list.

use std::{cell::RefCell, hint::black_box, rc::Rc};

use stoicheon::{Config, Signal, World, payload, trace::TraceLevel};

use crate::{Ratios, Timed};

payload! {
    /// What is delivered.
    #[derive(Clone, Copy)]
    pub struct Rung {
        /// How many strokes.
        pub strokes: f64,
    }
}

/// How many signals a round delivers.
const BURST: u32 = 1000;

fn world(trace: TraceLevel) -> World<f64> {
    World::with(Config { trace, ..Config::default() })
}

/// Wires `fan_out` closures to a signal and a driver that emits a burst of it when asked.
fn burst(world: &mut World<f64>, fan_out: u32) -> Signal<()> {
    let rung = world.declare_signal::<Rung>("rung").unwrap();
    for index in 0..fan_out {
        let weight = f64::from(index);
        world.on(rung).run(move |sum: &mut f64, rung, _| *sum += rung.strokes * weight).unwrap();
    }
    let go = world.declare_signal::<()>("go").unwrap();
    world
        .on(go)
        .run(move |_: &mut f64, (), cx| {
            for _ in 0..BURST {
                cx.emit(rung, black_box(Rung { strokes: 1.0 })).unwrap();
            }
        })
        .unwrap();
    go
}

/// Emits and delivers a burst in one tick.
fn ours<'a>(trace: TraceLevel, fan_out: u32) -> Timed<'a> {
    let mut world = world(trace);
    let go = burst(&mut world, fan_out);
    let mut sum = 0.0;
    Timed::new(BURST, move || {
        world.emit(go, ()).unwrap();
        world.step(&mut sum).unwrap();
        black_box(sum);
    })
}

type Bare = Vec<Box<dyn FnMut(&mut f64, &Rung)>>;

/// The least that calls a list of closures.
fn bare<'a>(fan_out: u32) -> Timed<'a> {
    let mut closures: Bare = Vec::new();
    for index in 0..fan_out {
        let weight = f64::from(index);
        closures.push(Box::new(move |sum, rung| *sum += rung.strokes * weight));
    }
    let mut sum = 0.0;
    Timed::new(BURST, move || {
        for _ in 0..BURST {
            let rung = black_box(Rung { strokes: 1.0 });
            for closure in &mut closures {
                closure(&mut sum, &rung);
            }
        }
        black_box(sum);
    })
}

fn std_channel<'a>() -> Timed<'a> {
    let (send, receive) = std::sync::mpsc::channel();
    let mut sum = 0.0;
    Timed::new(BURST, move || {
        for _ in 0..BURST {
            send.send(black_box(Rung { strokes: 1.0 })).unwrap();
            sum += receive.recv().unwrap().strokes;
        }
        black_box(sum);
    })
}

fn crossbeam<'a>() -> Timed<'a> {
    let (send, receive) = crossbeam_channel::unbounded();
    let mut sum = 0.0;
    Timed::new(BURST, move || {
        for _ in 0..BURST {
            send.send(black_box(Rung { strokes: 1.0 })).unwrap();
            sum += receive.recv().unwrap().strokes;
        }
        black_box(sum);
    })
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "payloads are passed by reference everywhere")]
trait Observer {
    fn hear(&mut self, rung: &Rung);
}

struct Listener {
    weight: f64,
    sum: Rc<RefCell<f64>>,
}

impl Observer for Listener {
    fn hear(&mut self, rung: &Rung) {
        *self.sum.borrow_mut() += rung.strokes * self.weight;
    }
}

/// The list people write by hand: shared listeners that share the state they change.
fn observers<'a>(fan_out: u32) -> Timed<'a> {
    let sum = Rc::new(RefCell::new(0.0));
    let listeners: Vec<Rc<RefCell<dyn Observer>>> = (0..fan_out)
        .map(|index| {
            let listener = Listener { weight: f64::from(index), sum: Rc::clone(&sum) };
            Rc::new(RefCell::new(listener)) as Rc<RefCell<dyn Observer>>
        })
        .collect();
    Timed::new(BURST, move || {
        for _ in 0..BURST {
            let rung = black_box(Rung { strokes: 1.0 });
            for listener in &listeners {
                listener.borrow_mut().hear(&rung);
            }
        }
        black_box(&sum);
    })
}

/// A thousand signals, each of which causes the next.
fn chain<'a>(trace: TraceLevel) -> Timed<'a> {
    let mut world = world(trace);
    let signals: Vec<_> =
        (0..1000).map(|index| world.declare_signal::<Rung>(&format!("link_{index}")).unwrap()).collect();
    for pair in signals.windows(2) {
        let next = pair[1];
        world.on(pair[0]).run(move |_: &mut f64, rung, cx| cx.emit(next, *rung)).unwrap();
    }
    let first = signals[0];
    let mut sum = 0.0;
    Timed::new(1000, move || {
        world.emit(first, Rung { strokes: 1.0 }).unwrap();
        world.step(&mut sum).unwrap();
    })
}

/// Ten wires awake on a signal, beside that many whose owner is disabled.
fn sleeping<'a>(asleep: u32) -> Timed<'a> {
    let mut world = world(TraceLevel::Off);
    let owner = world.object("lamp").add().unwrap();
    let go = burst(&mut world, 10);
    let rung = world.declare_signal::<Rung>("rung").unwrap();
    for _ in 0..asleep {
        world.on(rung).owned_by(owner).run(|sum: &mut f64, rung, _| *sum += rung.strokes).unwrap();
    }
    world.disable(owner).unwrap();
    let mut sum = 0.0;
    world.step(&mut sum).unwrap();
    Timed::new(BURST, move || {
        world.emit(go, ()).unwrap();
        world.step(&mut sum).unwrap();
        black_box(sum);
    })
}

pub(crate) fn rows(ratios: &mut Ratios) {
    const LOOP: &str = "bare loop over boxed closures";
    for (row, fan_out, trace, bar) in [
        ("delivery.fan1.off", 1, TraceLevel::Off, 5.0),
        ("delivery.fan1.counts", 1, TraceLevel::Counts, 5.0),
        ("delivery.fan1.full", 1, TraceLevel::Full, 15.0),
        ("delivery.fan16.off", 16, TraceLevel::Off, 1.8),
        ("delivery.fan16.counts", 16, TraceLevel::Counts, 1.8),
        ("delivery.fan16.full", 16, TraceLevel::Full, 3.5),
        ("delivery.fan256.off", 256, TraceLevel::Off, 1.6),
        ("delivery.fan256.counts", 256, TraceLevel::Counts, 1.6),
        ("delivery.fan256.full", 256, TraceLevel::Full, 3.5),
    ] {
        ratios.row(row, bar, ours(trace, fan_out), LOOP, bare(fan_out));
    }
    let one = || ours(TraceLevel::Off, 1);
    ratios.row("delivery.fan1.channel", 0.4, one(), "std channel, send and receive", std_channel());
    ratios.row("delivery.fan1.crossbeam", 0.6, one(), "crossbeam-channel, send and receive", crossbeam());
    let sixteen = ours(TraceLevel::Off, 16);
    ratios.row("delivery.fan16.observers", 1.3, sixteen, "list of Rc<RefCell<dyn Observer>>", observers(16));
    ratios.row("chain.1000", 1.0, chain(TraceLevel::Off), "std channel, send and receive", std_channel());
    ratios.row("sleeping.100k", 1.2, sleeping(100_000), "the same without sleepers", sleeping(0));
}
