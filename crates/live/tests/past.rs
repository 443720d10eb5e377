//! Time: held, a tick on, back, and on from there.

use serde_json::{Value, json};
use stoicheon_core::{World, secs};
use stoicheon_live::Live;

use crate::served::{Page, lock, said, state};

fn walk(along: [i32; 2]) -> Value {
    json!({ "do": "walk", "who": "ada", "along": along })
}

#[test]
fn every_tick_can_be_gone_back_to_and_on_from() {
    let (mut live, mut world) = (Live::listen("127.0.0.1:0").unwrap(), lock());
    let mut page = Page::open(&live);
    page.asks((&mut live, &mut world), &[walk([1, 0])], 25);
    page.asks((&mut live, &mut world), &[walk([0, 1])], 30);
    page.asks((&mut live, &mut world), &[json!({ "do": "emit", "signal": "bell", "who": null })], 45);
    page.asks((&mut live, &mut world), &[json!({ "do": "pause" })], 1);
    let last = world.now().0;
    let at = |page: &mut Page, live: &mut Live, world: &mut World<()>, tick: u64| {
        let told = page.asks((live, world), &[json!({ "do": "wind", "tick": tick })], 1);
        assert_eq!((world.now().0, said(&told).len()), (tick, 0));
        (world.trace().digest(), world.place(world.find("ada").unwrap()).unwrap())
    };
    let once: Vec<_> = (0..=last).rev().map(|tick| at(&mut page, &mut live, &mut world, tick)).collect();
    // There and back again, in leaps: each tick is what it was.
    for tick in [40, 3, 77, 76, 100, 1, last] {
        assert_eq!(at(&mut page, &mut live, &mut world, tick), once[usize::try_from(last - tick).unwrap()]);
    }
    // A new branch: what came after it did not happen.
    at(&mut page, &mut live, &mut world, 20);
    let told = page.asks((&mut live, &mut world), &[json!({ "do": "resume" }), walk([-1, 0])], 20);
    assert_eq!(state(&told)["looking_back"], false);
    assert_eq!(world.now().0, 40);
    let told = page.asks((&mut live, &mut world), &[json!({ "do": "wind", "tick": last })], 0);
    assert_eq!(said(&told), [format!("no tick {last} has not been: the last is 40")]);
}

#[test]
fn a_held_world_goes_on_tick_by_tick() {
    let (mut live, mut world) = (Live::listen("127.0.0.1:0").unwrap(), lock());
    let mut page = Page::open(&live);
    page.asks((&mut live, &mut world), &[json!({ "do": "pause" })], 5);
    let before = world.now().0;
    page.asks((&mut live, &mut world), &[json!({ "do": "step" }), json!({ "do": "step" })], 5);
    assert_eq!(world.now().0, before + 2);
    page.asks((&mut live, &mut world), &[json!({ "do": "pace", "times": 4 }), json!({ "do": "resume" })], 10);
    assert_eq!(world.now().0, before + 2 + 40);
}

/// A game with a state of its own, which counts what it is told.
fn counting() -> World<u32> {
    let mut world = World::<u32>::new();
    let tick = world.object("bell").add().unwrap();
    let tick = world.attach(tick, stoicheon_core::Timer::every(secs(0.1))).unwrap();
    world.on(tick.struck).run(|count, _, _| *count += 1).unwrap();
    world
}

fn runs<G: 'static>(
    live: &mut Live,
    world: &mut World<G>,
    game: &mut G,
    ticks: u32,
    clones: fn(&mut Live, &mut World<G>, &mut G),
) {
    for _ in 0..ticks {
        world.advance(live.pace(secs(1.0 / 30.0 + 1e-9)), game).unwrap();
        clones(live, world, game);
    }
}

#[test]
fn a_game_whose_state_is_cloned_goes_back_with_the_world_and_another_is_asked() {
    let show_cloned: fn(&mut Live, &mut World<u32>, &mut u32) =
        |live, world, game| live.show_cloned(world, game).unwrap();
    let show: fn(&mut Live, &mut World<u32>, &mut u32) = |live, world, game| live.show(world, game).unwrap();
    for (clones, shows) in [(true, show_cloned), (false, show)] {
        let (mut live, mut world, mut game) = (Live::listen("127.0.0.1:0").unwrap(), counting(), 0);
        let mut page = Page::open(&live);
        runs(&mut live, &mut world, &mut game, 60, shows);
        assert_eq!(game, 20);
        let wind = |page: &mut Page, live: &mut Live, world: &mut World<u32>, game: &mut u32, ask: Value| {
            page.send(&json!({ "seen": 0, "ask": [ask] }).to_string());
            page.read().unwrap();
            shows(live, world, game);
        };
        wind(&mut page, &mut live, &mut world, &mut game, json!({ "do": "wind", "tick": 31 }));
        if clones {
            assert_eq!((world.now().0, game), (31, 10));
            continue;
        }
        assert_eq!((world.now().0, game), (60, 20));
        wind(
            &mut page,
            &mut live,
            &mut world,
            &mut game,
            json!({ "do": "wind", "tick": 31, "anyway": true }),
        );
        // What happened again on the way from the moment before happened to the game, too.
        assert_eq!((world.now().0, game), (31, 20));
    }
}

#[test]
fn what_is_saved_is_told_and_the_world_restarts_when_a_page_asks() {
    let (mut live, mut world) = (Live::listen("127.0.0.1:0").unwrap(), lock());
    let mut page = Page::open(&live);
    let told = page.asks((&mut live, &mut world), &[json!({ "do": "restart" })], 30);
    // A world that nobody can make again does not restart.
    assert_eq!((state(&told)["restarts"].clone(), live.wants_restart()), (json!(false), false));
    live.tell_saved(vec!["lock.stoi:2:1  error  no".to_owned()], false);
    let told = page.asks((&mut live, &mut world), &[], 1);
    assert_eq!(state(&told)["findings"], json!(["lock.stoi:2:1  error  no"]));
    live.tell_saved(Vec::new(), true);
    let told = page.asks((&mut live, &mut world), &[], 1);
    assert_eq!(
        (state(&told)["is_other"].clone(), state(&told)["restarts"].clone()),
        (json!(true), json!(true))
    );

    page.asks((&mut live, &mut world), &[json!({ "do": "restart" })], 0);
    assert!(live.wants_restart() && !live.wants_restart());
    world = lock();
    live.restarted(None);
    let told = page.asks((&mut live, &mut world), &[], 1);
    assert!(told.iter().any(|reply| reply["whole"] == json!(true)));
    assert_eq!((state(&told)["is_other"].is_null(), world.now().0), (true, 1));
    let told = page.asks((&mut live, &mut world), &[json!({ "do": "wind", "tick": 20 })], 0);
    assert_eq!(said(&told), ["no tick 20 has not been: the last is 1"]);
}
