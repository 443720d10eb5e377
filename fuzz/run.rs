//! Building and running: what has no errors is built and runs, with playtests if it has any.
#![no_main]

use libfuzzer_sys::fuzz_target;
use stoicheon_core::{Catalogue, Config, World, playtest::NoHost};

fuzz_target!(|text: &str| {
    let loaded = stoicheon_script::load("fuzz.stoi", text, &Catalogue::built_in());
    if loaded.has_errors() {
        return;
    }
    let config = Config { statements: 10_000, deliveries: 10_000, ..Config::default() };
    let mut world = World::<()>::with(config);
    if loaded.build(&mut world).is_err() {
        return;
    }
    if let Ok(ada) = world.player("zz_ada").add() {
        let _ = world.press(ada, "use");
    }
    for _ in 0..20 {
        let _ = world.step(&mut ());
    }
    // What a playtest says may be wrong; it must end all the same.
    for number in 0..loaded.playtests().count().min(2) {
        let mut world = World::<()>::with(Config { statements: 10_000, deliveries: 10_000, ..Config::default() });
        if loaded.build(&mut world).is_ok() {
            let _ = loaded.run_playtest(number, &mut world, &mut (), &mut NoHost);
        }
    }
    let snapshot = world.snapshot().expect("between ticks");
    let _ = world.step(&mut ());
    let digest = world.trace().digest();
    world.restore(&snapshot).expect("its own snapshot");
    let _ = world.step(&mut ());
    assert_eq!(digest, world.trace().digest());
});
