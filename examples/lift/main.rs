//! A part of the game's own, used from a wiring file: `lift.stoi` is played, with the lift of `part.rs`.
//!
//! `cargo run --example lift -- --catalogue` writes out what the game offers; with that, `stoicheon check
//! examples/lift/lift.stoi` knows the lift without running the game.

#![allow(missing_docs, clippy::print_stdout, clippy::cast_possible_truncation, clippy::cast_precision_loss)]
#![allow(unreachable_pub, reason = "a test builds the same scene")]

mod part;

use stoicheon::{World, catalogue::Catalogue, script};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let catalogue = Catalogue::built_in().with_part(&part::LIFT);
    if std::env::args().any(|arg| arg == "--catalogue") {
        println!("{}", serde_json::to_string_pretty(&catalogue.without_built_in())?);
        return Ok(());
    }
    let text = include_str!("lift.stoi");
    let loaded =
        script::load_with("lift.stoi", text, &catalogue, &|_: &str| Ok(include_str!("lift.json").into()));
    assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
    let mut world = World::<()>::new();
    loaded.build(&mut world)?;
    let verdict = loaded.playtest(0, &mut world)?.run(&mut world, &mut ())?;
    assert!(verdict.passed(), "{verdict:?}");
    let cage = world.find("cage").ok_or("there is no cage")?;
    println!("the cage stands at {}", world.place(cage)?);
    println!("digest {}", world.trace().digest());
    Ok(())
}
