//! A player's world and the authority's, joined by a line in memory: a request goes one way, the answer the other.
//!
//! Both are built from `cookbook/12_request.stoi`. `cargo run --example request`

#![allow(clippy::print_stdout, reason = "an example shows what it did")]

use stoicheon::{
    World,
    catalogue::Catalogue,
    link::{AuthorityEnd, PlayerEnd, loopback},
    script,
};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let loaded =
        script::load("request.stoi", include_str!("../cookbook/12_request.stoi"), &Catalogue::built_in());
    let (mut here, mut there) = (World::<()>::new(), World::<()>::new());
    loaded.build(&mut here)?;
    loaded.build(&mut there)?;
    // Who may ask is the authority's to say: Ada is a bargee there, and Bob is not.
    let ada = here.player("ada").tag("bargee").add()?;
    there.player("ada").tag("bargee").add()?;

    let (one, other) = loopback();
    let mut player = PlayerEnd::new(one);
    let mut authority = AuthorityEnd::new();
    authority.accept("ada", other)?;
    player.ask("fill")?;

    here.press(ada, "fill")?;
    for _ in 0..5 {
        player.exchange(&mut here)?;
        here.step(&mut ())?;
        authority.exchange(&mut there)?;
        there.step(&mut ())?;
    }
    for heard in player.heard() {
        println!("ada hears      {heard:?}");
    }
    let level = there.find_var("level").ok_or("there is no level")?;
    println!("the level      {:?} there, {:?} here", there.value(level)?, here.value(level)?);
    for effect in here.take_effects() {
        println!("ada is shown   {:?}", effect.values);
    }
    println!("digests        {} {}", here.trace().digest(), there.trace().digest());
    Ok(())
}
