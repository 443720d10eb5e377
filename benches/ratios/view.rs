//! What people look at: a wiring graph, and the answer to why. Each has a time that it may take.

use std::hint::black_box;

use stoicheon::{
    Config, World,
    plan::{Expr, Step},
    view::{Question, Why, WiringGraph},
};

use crate::{Ratios, Timed};

/// 250 signals, and 750 wires that each emit three of them: 1,000 things and 3,000 ways between them.
fn wired() -> World<()> {
    let mut world = World::<()>::new();
    let bells: Vec<_> =
        (0..250).map(|number| world.declare_signal::<()>(&format!("bell_{number}")).unwrap()).collect();
    for number in 0..750_usize {
        let emit = |step: usize| Step::Emit {
            signal: bells[(number * 7 + step * 31) % 250].id(),
            values: Vec::new(),
        };
        world.on(bells[number % 250]).run_steps(vec![emit(1), emit(2), emit(3)]).unwrap();
    }
    world
}

/// A trace of 100,000 records, of which the last ones say why a horn was not blown.
fn traced() -> World<()> {
    let mut world = World::<()>::with(Config { kept: 200_000, ..Config::default() });
    let (bell, horn) =
        (world.declare_signal::<()>("bell").unwrap(), world.declare_signal::<()>("horn").unwrap());
    let level = world.var("level", 0.4).unwrap();
    let blow = Step::Emit { signal: horn.id(), values: Vec::new() };
    world.on(bell).when(Expr::var(level).more_than(0.95)).run_steps(vec![blow]).unwrap();
    while world.trace().len() < 100_000 {
        for _ in 0..100 {
            world.emit(bell, ()).unwrap();
        }
        world.step(&mut ()).unwrap();
    }
    world
}

pub(crate) fn rows(ratios: &mut Ratios) {
    // Each round takes long enough to need few of them.
    let rounds = std::mem::replace(&mut ratios.rounds, 15);
    let world = wired();
    let graph = Timed::new(1, || {
        black_box(WiringGraph::new("many").draw(&world));
    });
    ratios.within("view.wiring", 2e9, graph);
    let world = traced();
    let horn = Question::parse(&world, "horn").unwrap();
    let why = Timed::new(1, || {
        black_box(Why::new(&world).answer(&horn));
    });
    ratios.within("view.why", 2e8, why);
    ratios.rounds = rounds;
}
