//! A game's own loop, with closures and a state of its own, attached to the live page: walk in it, look, change things, go back.
//!
//! `cargo run --example live` prints the address of the page and plays until it is ended. With `-- 2` it ends after so many seconds.

#![allow(missing_docs, clippy::print_stdout, reason = "an example shows what it did")]

use std::{
    error::Error,
    thread::sleep,
    time::{Duration, Instant},
};

use stoicheon::{
    World,
    catalogue::Catalogue,
    live::Live,
    parts::{Door, custom::Touched},
    script, secs,
};

const LOCK: &str = r#"
scene harrow_lock
effect say(words: text)

spot towpath_steps at (0, 0, 8) facing north
object gauge_post at (3, 0, 3) {
  prompt "Wind the paddle" key use, hold 1s, reach 2
}
object upper_gate at (0, 0, 0) {
  door { swing 85deg about y, hinge (-2, 0, 0), over 2.5s }
}
object weir_pool at (-6, -1, 4) {
  zone box (4, 2, 4) admits player
}
on gauge_post.answered when upper_gate is closed {
  open upper_gate
  wait until upper_gate is open
  wait 5s
  close upper_gate
}
on weir_pool.entered {
  perform say("Brr!")
  send who to towpath_steps
}
"#;

/// What the game itself keeps. It is cloned for each moment that is kept, so that it goes back together with the world.
#[derive(Clone, Debug, Default)]
struct Game {
    boats_through: u32,
    wet_feet: u32,
}

fn main() -> Result<(), Box<dyn Error>> {
    let ends =
        std::env::args().nth(1).map(|seconds| seconds.parse().map(Duration::from_secs_f64)).transpose()?;

    let loaded = script::load("harrow_lock.stoi", LOCK, &Catalogue::built_in());
    let mut world = World::<Game>::new();
    loaded.build(&mut world)?;
    let opened = world.signal::<()>("upper_gate.opened")?;
    world.on(opened).run(|game, (), _| game.boats_through += 1)?;
    let splash = world.signal::<Touched>("weir_pool.entered")?;
    world.on(splash).run(|game, _, _| game.wet_feet += 1)?;
    let steps = world.spot(world.find_spot("towpath_steps").ok_or("no steps")?)?.at;
    world.player("ada").at(steps).add()?;

    let mut live = Live::listen("127.0.0.1:0")?.titled("Harrow Lock").with_text("harrow_lock.stoi", LOCK);
    println!("{}", live.address());

    let (mut game, began) = (Game::default(), Instant::now());
    let mut before = began;
    while ends.is_none_or(|ends| began.elapsed() < ends) {
        let frame = before.elapsed();
        before = Instant::now();
        let advanced = world.advance(live.pace(secs(frame.as_secs_f64())), &mut game);
        live.took(advanced)?;
        live.show_cloned(&mut world, &mut game)?;
        for effect in world.take_effects() {
            // Here the game would play it.
            drop(effect);
        }
        sleep(Duration::from_millis(16));
    }
    let open = world.part_of::<Door>(world.find("upper_gate").ok_or("no gate")?)?.openness();
    println!(
        "{} ticks, {} boats through, {} pairs of wet feet, the gate {:.0}% open",
        world.now().0,
        game.boats_through,
        game.wet_feet,
        open * 100.0
    );
    Ok(())
}
