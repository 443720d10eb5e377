//! Texts, checked, built and played.

use stoicheon_core::{Catalogue, World, playtest::Found};
use stoicheon_script::{Loaded, load};

pub fn loaded(text: &str) -> Loaded {
    load("scene.stoi", text, &Catalogue::built_in())
}

/// The same without what is only suspicious: what a test is not about may be there for nothing.
pub fn found_certain(text: &str) -> Vec<String> {
    let all = loaded(text);
    let certain = all.diagnostics().iter().filter(|found| !found.code.is_suspicion());
    certain.map(|found| format!("{}: {}", found.code.word(), found.message)).collect()
}

/// What is wrong with a text: code and message of each finding.
pub fn found(text: &str) -> Vec<String> {
    let told = |loaded: Loaded| {
        let lines = loaded.diagnostics().iter();
        lines.map(|found| format!("{}: {}", found.code.word(), found.message)).collect()
    };
    told(loaded(text))
}

pub fn world(text: &str) -> World<()> {
    let loaded = loaded(text);
    assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
    let mut world = World::new();
    loaded.build(&mut world).unwrap();
    world
}

/// What a playtest found that was not as expected, if anything was.
pub fn fails(text: &str) -> Option<Found> {
    let loaded = loaded(text);
    assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    let verdict = loaded.run_playtest(0, &mut world, &mut (), &mut stoicheon_core::playtest::NoHost);
    verdict.unwrap().failure.map(|failure| failure.found)
}
