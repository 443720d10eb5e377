//! Two hundred walkers and forty zones on the towpath, a playtest among them, and a map of it all.
//!
//! Run it with `cargo run --example walkers`; the map is in `target/walkers.svg` then.

#![allow(clippy::print_stdout, reason = "an example shows what it did")]

use stoicheon::{
    Config, Error, ObjectId, Vec3, World,
    parts::{Push, Zone, ZoneHandle},
    plan::Expr,
    playtest::Playtest,
    secs,
    space::Shape,
    trace::TraceLevel,
    view,
};

/// How long the towpath is, in scene units.
const LENGTH: f32 = 120.0;

#[derive(Debug, Default)]
struct Game {
    visits: u32,
    jostles: u32,
}

/// From 0 up to 1, the same in every run.
struct Dice(u64);

impl Dice {
    fn roll(&mut self) -> f32 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        f32::from(u16::try_from(self.0 >> 48).unwrap_or_default()) / 65_536.0
    }

    fn place(&mut self) -> Vec3 {
        Vec3::new(self.roll() * LENGTH, 0.0, self.roll() * 40.0)
    }
}

fn zones(world: &mut World<Game>) -> Result<Vec<ZoneHandle>, Error> {
    let mut zones = Vec::new();
    for number in 0..40_u8 {
        let (column, row) = (f32::from(number % 10), f32::from(number / 10));
        let place = Vec3::new(6.0 + column * 12.0, 0.0, 5.0 + row * 10.0);
        let turn = stoicheon::Rotation::about(Vec3::Y, f64::from(number) * 9.0);
        let shape = match number % 4 {
            0 => Shape::boxed(Vec3::new(6.0, 2.0, 3.0)),
            1 => Shape::ball(2.2),
            2 => Shape::capsule(Vec3::new(5.0, 0.0, 0.0), 1.2),
            _ => Shape::boxed(Vec3::new(2.0, 2.0, 6.0)).and(Shape::cylinder(1.8, 2.0)),
        };
        let name = format!("landing_{number}");
        let object = world.object(&name).at(place).facing(turn).tag("landing").add()?;
        let zone = world.attach(object, Zone::of(shape).admits("walker"))?;
        world.on(zone.entered).run(|game, _, _| game.visits += 1)?;
        // A walker who comes where others are already is in their way.
        let full = Expr::field(0).equals("walked");
        world.on(zone.entered).when(full).run(move |game, _, cx| {
            game.jostles += u32::from(cx.count_inside(zone.part) > 2);
        })?;
        zones.push(zone);
    }
    Ok(zones)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let config = Config { trace: TraceLevel::Full, kept: 65_536, ..Config::default() };
    let mut world = World::<Game>::with(config);
    let mut game = Game::default();
    let zones = zones(&mut world)?;

    // A current in the race, which carries what drifts into it.
    let race = world.object("race").at(Vec3::new(60.0, 0.0, 45.0)).add()?;
    world.attach(race, Zone::boxed(Vec3::new(LENGTH, 2.0, 4.0)).admits("floating"))?;
    world.attach(race, Push::along(Vec3::X).by(2.0).stills())?;
    world.object("float").at(Vec3::new(2.0, 0.0, 45.0)).tag("floating").body_of(Shape::ball(0.4)).add()?;

    let mut dice = Dice(29);
    let mut walkers: Vec<ObjectId> = Vec::new();
    for number in 0..200 {
        let place = dice.place();
        let new = world.object(&format!("walker_{number}")).at(place).tag("walker");
        walkers.push(new.body_of(Shape::ball(0.3)).add()?);
    }
    let ada = world.player("ada").at(Vec3::new(0.0, 0.0, 5.0)).tag("walker").add()?;

    // Everybody walks about for half a minute.
    let mut map = view::Map::new("Two hundred walkers on the towpath, after 30 s").without_labels();
    for tick in 0..900 {
        for walker in &walkers {
            if !world.is_walking(*walker) {
                world.walk(*walker, dice.place(), 1.5 + f64::from(dice.roll()) * 3.0)?;
            }
        }
        world.step(&mut game)?;
        if tick % 6 == 0 {
            map.note(&world, walkers.iter().copied().take(24).chain([ada]));
        }
    }
    let inside: usize = zones.iter().map(|zone| world.count_inside(zone.part)).sum();
    println!("{} visits, {} where others were, {inside} inside now", game.visits, game.jostles);

    // Ada, on her way through, is told of the first landing and leaves it again.
    let first = zones[0];
    let playtest = Playtest::new("ada crosses the first landing")
        .walk(ada, Vec3::new(6.0, 0.0, 5.0))
        .expect_signal(first.entered)
        .expect(first.has(ada))
        .walk(ada, Vec3::new(6.0, 0.0, 0.0))
        .wait(secs(0.1))
        .expect(first.has(ada).not());
    let verdict = playtest.run(&mut world, &mut game)?;
    map.note(&world, [ada]);
    println!("{}: {}", playtest.name, if verdict.passed() { "passed" } else { "failed" });

    let target = std::env::var("CARGO_TARGET_DIR").unwrap_or_else(|_| "target".into());
    std::fs::create_dir_all(&target)?;
    std::fs::write(format!("{target}/walkers.svg"), map.draw(&world))?;
    println!("digest {:016x}", world.trace().digest());
    if verdict.passed() { Ok(()) } else { Err("the playtest failed".into()) }
}
