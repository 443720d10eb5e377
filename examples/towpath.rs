//! One pad, one gate, one bell, wired in Rust: the scene of `demo/towpath.stoi` without a file.
//!
//! Both give the same trace, down to the digest. Run it with `cargo run --example towpath`.

#![allow(unreachable_pub, reason = "a test builds the same scene")]
#![allow(clippy::print_stdout, reason = "an example shows what it did")]
#![allow(clippy::missing_errors_doc, reason = "an example's functions fail with whatever the world says")]

use stoicheon::{
    Error, ObjectId, Value, Vec3, World,
    parts::{Door, Zone},
    payload,
    plan::{Expr, Steps},
    secs,
    view::TraceText,
};

payload! {
    /// The lock bell was rung.
    pub struct Rung {
        /// How many strokes.
        pub strokes: u32,
    }
}

/// The game's own state: every reaction gets it, mutably, with nothing shared and nothing locked.
#[derive(Debug, Default)]
pub struct Game {
    /// Strokes heard so far.
    pub strokes: u32,
}

/// The scene and the keeper who walks in it.
#[derive(Debug)]
pub struct Towpath {
    /// The world.
    pub world: World<Game>,
    /// The keeper.
    pub ada: ObjectId,
}

/// Where the keeper starts, and where the pad is.
pub const STEPS: Vec3 = Vec3::new(0.0, 0.0, 4.0);
/// Where the pad is.
pub const PAD: Vec3 = Vec3::new(4.0, 0.0, 10.0);

/// Makes the scene.
pub fn build() -> Result<Towpath, Error> {
    let mut world = World::<Game>::new();
    let passages = world.var("passages", 0_i64)?;
    let rung = world.declare_signal::<Rung>("rung")?;
    let bell = world.declare_effect::<Rung>("bell")?;

    world.object("towpath_steps").at(STEPS).add()?;
    let gate = world.object("upper_gate").at(Vec3::new(0.0, 0.0, 12.0)).tag("gate").add()?;
    let gate = world.attach(gate, Door::swing(85.0).hinge(Vec3::new(-2.0, 0.0, 0.0)).over(secs(1.0)))?;
    let pad = world.object("towpath_pad").at(PAD).add()?;
    let pad = world.attach(pad, Zone::boxed(Vec3::new(2.0, 1.0, 2.0)).admits("keeper"))?;

    // A reaction that waits is a sequence: plain data, which can be looked at while it waits.
    world
        .on(pad.entered)
        .by("keeper")
        .when(gate.is(Door::CLOSED))
        .run_steps(Steps::new().open(gate).wait(secs(2.0)).close(gate))?;

    world.on(gate.opened).run(move |_, (), cx| cx.emit(rung, Rung { strokes: 2 }))?;

    let first = Expr::var(passages).less_than(1_i64);
    world.on(rung).when(first).run(move |game: &mut Game, rung, cx| {
        game.strokes += rung.strokes;
        cx.perform(bell, [rung.strokes.into()])?;
        let so_far = cx.value(passages)?.as_whole().unwrap_or_default();
        cx.set(passages, Value::from(so_far + 1))
    })?;

    let ada = world.player("ada").at(STEPS).tag("keeper").add()?;
    Ok(Towpath { world, ada })
}

/// Walks up to the pad, waits, and walks there once more.
pub fn walk(scene: &mut Towpath, game: &mut Game) -> Result<(), Error> {
    for to in [PAD, STEPS, PAD] {
        scene.world.walk(scene.ada, to, 4.0)?;
        for _ in 0..180 {
            scene.world.step(game)?;
        }
    }
    Ok(())
}

#[allow(dead_code, reason = "a test uses the scene without its main")]
fn main() -> Result<(), Error> {
    let mut scene = build()?;
    let mut game = Game::default();
    walk(&mut scene, &mut game)?;
    print!("{}", TraceText::plain().new_ticks(&scene.world));
    println!("{}", TraceText::digest(&scene.world));
    println!("strokes heard: {}", game.strokes);
    Ok(())
}
