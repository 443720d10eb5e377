//! The same scene through both doors: written in Rust with closures, and read from a file.

#[path = "../examples/towpath.rs"]
mod towpath;

use stoicheon::{ObjectId, Vec3, World, catalogue::Catalogue, script, view::TraceText};
use towpath::{Game, PAD, STEPS};

/// The scene of the file, with the same keeper.
fn from_file(text: &str) -> (World<()>, ObjectId) {
    let loaded = script::load("towpath.stoi", text, &Catalogue::built_in());
    assert!(loaded.diagnostics().is_empty(), "{:#?}", loaded.diagnostics());
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    let ada = world.player("ada").at(STEPS).tag("keeper").add().unwrap();
    (world, ada)
}

/// The same inputs as `towpath::walk`.
fn walk(world: &mut World<()>, ada: ObjectId) {
    for to in [PAD, STEPS, PAD] {
        world.walk(ada, to, 4.0).unwrap();
        for _ in 0..180 {
            world.step(&mut ()).unwrap();
        }
    }
}

#[test]
fn both_doors_give_the_same_trace() {
    let mut in_rust = towpath::build().unwrap();
    let mut game = Game::default();
    towpath::walk(&mut in_rust, &mut game).unwrap();
    let (mut read, ada) = from_file(include_str!("../demo/towpath.stoi"));
    walk(&mut read, ada);

    let plain = |state| TraceText::plain().without_places().new_ticks(state);
    let (one, two) = (plain(&in_rust.world), plain(&read));
    insta::assert_snapshot!(one);
    assert_eq!(one, two);
    assert_eq!(TraceText::digest(&in_rust.world), TraceText::digest(&read));
    // The closure had the game's own state at hand all the while.
    assert_eq!(game.strokes, 2);
}

#[test]
fn other_order_numbers_in_the_file_give_another_trace() {
    let scene = |first, second| {
        format!(
            "signal rung\neffect bell(tone: text)\n\
             on rung order {first} {{ perform bell(\"high\") }}\n\
             on rung order {second} {{ perform bell(\"low\") }}\n"
        )
    };
    let tones = |text: &str| {
        let loaded = script::load("bell.stoi", text, &Catalogue::built_in());
        let mut world = World::<()>::new();
        loaded.build(&mut world).unwrap();
        let rung = world.signal::<()>("rung").unwrap();
        world.emit(rung, ()).unwrap();
        world.step(&mut ()).unwrap();
        let tones: Vec<_> = world.take_effects().map(|effect| effect.values[0].clone()).collect();
        (tones, TraceText::plain().new_ticks(&world), world.trace().digest())
    };
    let (one, one_text, one_digest) = tones(&scene(1, 2));
    let (two, two_text, two_digest) = tones(&scene(2, 1));
    assert_eq!(one, ["high".into(), "low".into()]);
    assert_eq!(two, ["low".into(), "high".into()]);
    assert_ne!(one_text, two_text);
    assert_ne!(one_digest, two_digest);
    insta::assert_snapshot!(two_text);
}

#[test]
fn a_reaction_in_rust_takes_a_signal_that_a_file_declared() {
    let mut world = World::<Vec<u32>>::new();
    let loaded = script::load("bell.stoi", "signal rung(strokes: whole)", &Catalogue::built_in());
    loaded.build(&mut world).unwrap();
    let rung = world.signal::<towpath::Rung>("rung").unwrap();
    world.on(rung).run(|heard, rung, _| heard.push(rung.strokes)).unwrap();
    world.emit(rung, towpath::Rung { strokes: 3 }).unwrap();
    let mut heard = Vec::new();
    world.step(&mut heard).unwrap();
    assert_eq!(heard, [3]);
}

#[test]
fn a_disabled_pad_reports_left_before_it_is_dark() {
    let text = "
        object pad at (4, 0, 10) { zone box (2, 1, 2) }
        effect say(words: text)
        on pressed when key == \"dark\" { disable pad }
        on pad.left { perform say(reason) }
    ";
    let (mut world, ada) = from_file(text);
    world.put(ada, Vec3::new(4.0, 0.0, 10.0)).unwrap();
    world.step(&mut ()).unwrap();
    world.press(ada, "dark").unwrap();
    let mut text = TraceText::plain();
    text.new_ticks(&world);
    world.step(&mut ()).unwrap();
    insta::assert_snapshot!(text.new_ticks(&world));
}

#[test]
fn two_signals_of_a_file_that_feed_each_other_are_named_with_their_lines() {
    let text =
        "signal ping\nsignal pong\non ping { emit pong }\non pong { emit ping }\non started { emit ping }\n";
    let loaded = script::load("loop.stoi", text, &Catalogue::built_in());
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    let error = world.step(&mut ()).unwrap_err().to_string();
    insta::with_settings!({ filters => [(r"\d+ deliveries in \d+ rounds", "[many]")] }, {
        insta::assert_snapshot!(error);
    });
}
