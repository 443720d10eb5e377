//! Times of single deliveries, for looking into with criterion: `cargo bench --bench delivery`.

#![allow(missing_docs, reason = "criterion's macros make functions without any")]
#![allow(clippy::unwrap_used, reason = "a benchmark fails by panicking")]

use std::hint::black_box;

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use stoicheon::{Config, World, trace::TraceLevel};

/// One tick that delivers one signal to so many wires.
fn fan_out(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("tick with one signal");
    for trace in [TraceLevel::Off, TraceLevel::Counts, TraceLevel::Full] {
        for wires in [1_u32, 16, 256] {
            let mut world = World::<u64>::with(Config { trace, kept: 8192, ..Config::default() });
            let bell = world.declare_signal::<()>("bell").unwrap();
            for _ in 0..wires {
                world.on(bell).run(|count: &mut u64, (), _| *count += 1).unwrap();
            }
            let mut count = 0;
            group.bench_function(BenchmarkId::new(format!("{trace:?}"), wires), |bencher| {
                bencher.iter(|| {
                    world.emit(bell, ()).unwrap();
                    world.step(&mut count).unwrap();
                    black_box(count);
                });
            });
        }
    }
}

/// A tick in which nothing happens.
fn idle(criterion: &mut Criterion) {
    let mut world = World::<()>::new();
    criterion.bench_function("idle tick", |bencher| bencher.iter(|| world.step(&mut ()).unwrap()));
}

criterion_group!(benches, fan_out, idle);
criterion_main!(benches);
