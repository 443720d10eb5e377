//! A game loop without a file: two typed signals, a manager, a cooldown per player, and a mailbox.
//!
//! Bargees ring the ferry bell at the landing; the ferryman counts the fares and calls the crossing. Run it with
//! `cargo run --example ferry`.

#![allow(clippy::print_stdout, reason = "an example shows what it did")]

use stoicheon::{Error, ObjectId, Vec3, World, parts::Zone, payload, secs, ticks};

payload! {
    /// Somebody rang the ferry bell.
    pub struct BellRung {
        /// Whether it was a long ring.
        pub long: bool,
    }

    /// The ferry is about to cross.
    #[derive(Clone, Debug)]
    pub struct Crossing {
        /// How many are aboard.
        pub aboard: u32,
    }
}

/// What the game itself keeps. Every reaction gets it, mutably.
#[derive(Debug, Default)]
struct Game {
    fares: u32,
    aboard: Vec<ObjectId>,
}

fn main() -> Result<(), Error> {
    let mut world = World::<Game>::new();

    // Who is there: a landing with a zone, the ferryman by the role, two bargees.
    let landing = world.object("landing").at(Vec3::new(10.0, 0.0, 0.0)).add()?;
    let landing = world.attach(landing, Zone::boxed(Vec3::new(3.0, 2.0, 3.0)).admits("bargee"))?;
    let ferryman = world.manager_for("ferryman").add()?;
    let ada = world.player("ada").tag("bargee").add()?;
    let bob = world.player("bob").tag("bargee").at(Vec3::new(0.0, 0.0, 5.0)).add()?;

    // What they tell each other.
    let bell = world.declare_signal::<BellRung>("ferry_bell")?;
    let crossing = world.declare_signal_of::<Crossing>(ferryman, "crossing")?;

    // Who steps onto the landing rings, but nobody more than once in two seconds.
    world
        .on(landing.entered)
        .by("bargee")
        .cooldown_per_who(secs(2.0))
        .run(move |_, _, cx| cx.emit(bell, BellRung { long: false }))?;

    // The ferryman takes the fare of the player who rang, and crosses as soon as two are aboard.
    world.on(bell).owned_by(ferryman).run(move |game, _, cx| {
        let Some(who) = cx.who() else { return Ok(()) };
        game.fares += 1;
        if !game.aboard.contains(&who) {
            game.aboard.push(who);
        }
        match game.aboard.len() {
            2 => cx.emit(crossing, Crossing { aboard: 2 }),
            _ => Ok(()),
        }
    })?;

    // The rest of the game would rather read than be called.
    let crossings = world.on(crossing).into_mailbox()?;

    // Both walk to the landing; ada paces in and out of it while she waits.
    let mut game = Game::default();
    let walks = [
        (ada, Vec3::new(10.0, 0.0, 0.0)),
        (ada, Vec3::new(6.0, 0.0, 0.0)),
        (ada, Vec3::new(10.0, 0.0, 0.0)),
        (bob, Vec3::new(10.0, 0.0, 1.0)),
    ];
    for (who, to) in walks {
        world.walk(who, to, 6.0)?;
        let mut walking = true;
        while walking {
            // One frame of the game: whatever time it took, whole ticks of it are run.
            world.advance(secs(1.0 / 60.0), &mut game)?;
            walking = world.is_walking(who);
            for letter in world.take_letters(crossings)? {
                let seconds = world.rate().seconds(ticks(letter.tick.0));
                let who = letter.who.and_then(|who| world.name(who)).unwrap_or("nobody");
                println!("{seconds}: crossing with {} aboard; {who} came last", letter.payload.aboard);
            }
        }
    }
    println!("fares: {}", game.fares);
    println!("digest {:016x}", world.trace().digest());
    Ok(())
}
