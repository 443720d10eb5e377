//! What a page asks for goes in as an input of the host does, and what comes of it is told.

use serde_json::json;
use stoicheon_core::{Door, Rotation, Vec3, WhenEmpty, World, secs};
use stoicheon_live::Live;

use crate::served::{Page, lock, said, state, tape};

fn shown() -> (Live, World<()>) {
    (Live::listen("127.0.0.1:0").unwrap().titled("the lock"), lock())
}

#[test]
fn a_player_walks_and_what_comes_of_it_is_on_the_tape() {
    let (mut live, mut world) = shown();
    let mut page = Page::open(&live);
    let first = page.asks((&mut live, &mut world), &[], 1);
    assert_eq!(state(&first)["title"], "the lock");
    assert_eq!(state(&first)["players"][0]["offer"]["label"], "Wind the paddle");
    let whole = first.iter().find(|reply| reply["whole"] == json!(true)).unwrap();
    let names: Vec<_> =
        whole["things"].as_array().unwrap().iter().map(|thing| thing["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["towpath_pad", "upper_gate", "gauge_post", "ada"]);

    let told =
        page.asks((&mut live, &mut world), &[json!({ "do": "walk", "who": "ada", "along": [1, 0] })], 30);
    let tape = tape(&told);
    assert!(tape.iter().any(|line| line == "ada enters towpath_pad (walked)"), "{tape:?}");
    assert!(tape.iter().any(|line| line == "upper_gate closed → opening"), "{tape:?}");
    page.asks((&mut live, &mut world), &[json!({ "do": "walk", "who": "ada", "along": [0, 0] })], 3);
    let there = world.place(world.find("ada").unwrap()).unwrap();
    assert!(there.x > 3.5 && there.x < 4.5, "{there}");
    page.asks((&mut live, &mut world), &[json!({ "do": "go", "who": "ada", "to": [0, 2] })], 40);
    assert_eq!(world.place(world.find("ada").unwrap()).unwrap(), Vec3::new(0.0, 0.0, 2.0));
}

#[test]
fn keys_answer_prompts_and_a_second_player_follows() {
    let (mut live, mut world) = shown();
    let mut page = Page::open(&live);
    let down = |down: bool| json!({ "do": "key", "who": "ada", "key": "use", "down": down });
    page.asks((&mut live, &mut world), &[], 2);
    let told = page.asks((&mut live, &mut world), &[down(true)], 2);
    assert!(tape(&told).iter().any(|line| line == "level 0.5 → 1"), "{told:?}");
    page.asks(
        (&mut live, &mut world),
        &[down(false), json!({ "do": "join", "name": "bob", "spot": null })],
        1,
    );
    let follow = |who: &str, whom: Option<&str>| json!({ "do": "follow", "who": who, "whom": whom });
    page.asks(
        (&mut live, &mut world),
        &[follow("bob", Some("ada")), json!({ "do": "go", "who": "ada", "to": [6, 0] })],
        90,
    );
    let bob = world.place(world.find("bob").unwrap()).unwrap();
    assert!((bob.x - 4.8).abs() < 0.2, "{bob}");
    let told = page.asks((&mut live, &mut world), &[follow("ada", Some("bob"))], 1);
    assert_eq!(said(&told), ["no they would follow each other"]);
    page.asks((&mut live, &mut world), &[json!({ "do": "leave", "who": "bob" })], 1);
    assert_eq!(world.players().count(), 1);
}

#[test]
fn values_parts_and_signals_are_changed_from_the_bench() {
    let (mut live, mut world) = shown();
    let mut page = Page::open(&live);
    let choose = json!({ "do": "choose", "what": "upper_gate" });
    let told = page.asks((&mut live, &mut world), &[choose], 1);
    let bench = told.iter().map(|reply| &reply["bench"]).find(|bench| !bench.is_null()).unwrap();
    assert_eq!(bench["seen"]["objects"][0]["parts"][0]["state"], "closed");
    assert_eq!(bench["told"][0][0]["name"], "open");

    let asks = [
        json!({ "do": "set", "name": "level", "of": null, "to": 0.25 }),
        json!({ "do": "command", "object": "upper_gate", "part": 0, "command": "open" }),
        json!({ "do": "change", "object": "upper_gate", "part": 0, "setting": "over", "to": 0.5 }),
    ];
    let told = page.asks((&mut live, &mut world), &asks, 20);
    assert_eq!(said(&told), [""; 0]);
    let level = world.find_var("level").unwrap();
    assert_eq!(world.value(level).unwrap(), &0.25.into());
    let gate = world.part_of::<Door>(world.find("upper_gate").unwrap()).unwrap();
    assert!(gate.openness() > 0.999);
    let told =
        page.asks((&mut live, &mut world), &[json!({ "do": "emit", "signal": "bell", "who": "ada" })], 2);
    assert!(tape(&told).iter().any(|line| line == "upper_gate open → closing"), "{told:?}");
    page.asks((&mut live, &mut world), &[json!({ "do": "switch", "object": "upper_gate", "on": false })], 1);
    assert!(!world.is_enabled(world.find("upper_gate").unwrap()));
}

#[test]
fn what_cannot_be_done_is_said_and_changes_nothing() {
    let (mut live, mut world) = shown();
    let mut page = Page::open(&live);
    page.asks((&mut live, &mut world), &[], 1);
    let before = world.trace().digest();
    let cases = [
        (json!({ "do": "go", "who": "eve", "to": [0, 0] }), "no nothing is named \"eve\" here"),
        (
            json!({ "do": "set", "name": "level", "of": null, "to": "high" }),
            "no expected a value of the type number, found \"high\"",
        ),
        (json!({ "do": "set", "name": "lvel", "of": null, "to": 1 }), "no no variable is named \"lvel\""),
        (
            json!({ "do": "command", "object": "upper_gate", "part": 0, "command": "burn" }),
            "no a door cannot be told to \"burn\"",
        ),
        (
            json!({ "do": "command", "object": "upper_gate", "part": 7, "command": "open" }),
            "no \"upper_gate\" has no part 7",
        ),
        (json!({ "do": "emit", "signal": "bel", "who": null }), "no no signal is named \"bel\""),
        (json!({ "do": "answer", "who": "ada", "answer": "yes" }), "no nobody asks them anything"),
        (json!({ "do": "join", "name": "ada", "spot": null }), "no \"ada\" is here already"),
        (
            json!({ "do": "pace", "times": 1e9 }),
            "no expected a pace up to 16 times as fast, found 1000000000",
        ),
        (json!({ "do": "wind", "tick": 999 }), "no tick 999 has not been: the last is 1"),
    ];
    for (ask, expected) in cases {
        let told = page.asks((&mut live, &mut world), &[ask], 0);
        assert_eq!(said(&told), [expected]);
    }
    assert_eq!(world.trace().digest(), before);
}

#[test]
fn several_pages_watch_and_one_steers() {
    let (mut live, mut world) = shown();
    let (mut one, mut two) = (Page::open(&live), Page::open(&live));
    let steers = |told: &[serde_json::Value]| {
        told.iter().rev().map(|reply| &reply["steers"]).find(|steers| !steers.is_null()).cloned()
    };
    assert_eq!(steers(&one.asks((&mut live, &mut world), &[], 1)), Some(json!(true)));
    assert_eq!(steers(&two.asks((&mut live, &mut world), &[], 1)), Some(json!(false)));
    let told = two.asks((&mut live, &mut world), &[json!({ "do": "pause" })], 1);
    assert_eq!(said(&told), ["no another page steers: take over first"]);
    let told = two.asks((&mut live, &mut world), &[json!({ "do": "steer" }), json!({ "do": "pause" })], 1);
    assert_eq!((steers(&told), said(&told).len()), (Some(json!(true)), 0));
    assert_eq!(steers(&one.asks((&mut live, &mut world), &[], 1)), Some(json!(false)));
    // Who goes leaves the wheel to the other.
    drop(two);
    while steers(&one.asks((&mut live, &mut world), &[], 1)) != Some(json!(true)) {}
    let told = one.asks((&mut live, &mut world), &[json!({ "do": "resume" })], 2);
    assert_eq!(said(&told).len(), 0);
}

#[test]
fn a_quiet_tick_is_told_in_few_bytes() {
    let (mut live, mut world) = shown();
    let mut page = Page::open(&live);
    page.asks((&mut live, &mut world), &[], 40);
    for _ in 0..5 {
        world.advance(live.pace(secs(1.0 / 30.0 + 1e-9)), &mut ()).unwrap();
        live.show(&mut world, &mut ()).unwrap();
        let length = page.length();
        assert!(length < 200, "{length}");
    }
}

#[test]
fn what_comes_goes_and_is_switched_off_is_told_by_itself() {
    let (mut live, mut world) = shown();
    let lamp = world.object("lamp").at(Vec3::new(1.0, 0.0, 1.0)).add().unwrap();
    let flame = world.object("flame").at(Vec3::new(1.0, 1.0, 1.0)).add().unwrap();
    world.hang(flame, Some(lamp)).unwrap();
    let mut page = Page::open(&live);
    page.asks((&mut live, &mut world), &[], 2);
    let things = |told: &[serde_json::Value]| -> Vec<(String, bool)> {
        let all = told.iter().filter_map(|reply| reply["things"].as_array()).flatten();
        all.map(|thing| (thing["name"].as_str().unwrap().to_owned(), thing["faint"] == json!(true))).collect()
    };
    let told =
        page.asks((&mut live, &mut world), &[json!({ "do": "switch", "object": "lamp", "on": false })], 1);
    let mut faint = things(&told);
    faint.sort();
    assert_eq!(faint, [("flame".to_owned(), true), ("lamp".to_owned(), true)]);
    world.destroy(lamp).unwrap();
    let told = page.asks((&mut live, &mut world), &[], 2);
    let gone: usize = told.iter().filter_map(|reply| reply["gone"].as_array()).map(Vec::len).sum();
    assert_eq!(gone, 2, "{told:?}");
}

#[test]
fn a_scene_that_is_loaded_while_a_page_watches_is_told_by_its_name() {
    let mut world = World::<()>::new();
    for name in ["lockside", "tunnel"] {
        let scene = world.offer_scene(name, WhenEmpty::Frozen, move |world| {
            world.spot_at(&format!("{name}.steps"), None, Vec3::ZERO, Rotation::NONE)?;
            Ok(())
        });
        if name == "lockside" {
            world.load_scene(scene).unwrap();
        }
    }
    let ada = world.join("ada", Some(("lockside", "steps"))).unwrap();
    let mut live = Live::listen("127.0.0.1:0").unwrap();
    let mut page = Page::open(&live);
    page.asks((&mut live, &mut world), &[], 2);
    world.bring(ada, "tunnel", "steps").unwrap();
    let told = page.asks((&mut live, &mut world), &[], 2);
    let scenes = told.iter().filter_map(|reply| reply["scenes"].as_array()).next_back().unwrap();
    let number = state(&told)["players"][0]["scene"].as_u64().unwrap();
    assert_eq!(scenes[usize::try_from(number).unwrap()]["name"], "tunnel");
    assert!(told.iter().all(|reply| reply["whole"].is_null()), "not everything is told again");
}
