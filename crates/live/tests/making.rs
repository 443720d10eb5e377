//! Lines that are typed, and playtests that are made of what was done.

use serde_json::{Value, json};
use stoicheon_core::{Catalogue, World};
use stoicheon_live::{Live, LiveWiring};
use stoicheon_script::{Loaded, load};

use crate::served::{Page, said, tape};

const LOCK: &str = r#"scene lock
effect say(words: text)
signal bell(strokes: whole)
var level: number = 0.5
var rung: whole = 0 per player
spot steps at (0, 0, 0)
object gauge_post at (6, 0, 0) { prompt "Wind" key use, hold 0.5s, reach 2 }
object upper_gate at (6, 0, 3) { door { over 400ms } }
object pool at (0, -1, 6) { zone box (4, 2, 4) }
on gauge_post.answered when level > 9 { perform say("High water!") }
on gauge_post.answered { open upper_gate; rung of who += 1 }
on upper_gate.opened { perform say("Mind the gap.") }
on pool.entered by player { perform say("Brr!"); send who to steps }
on bell { level += strokes / 10 }

playtest "somebody is here" {
  player ada at steps
  player bob at (1, 0, 1) tags keeper
  wait 1s
}
"#;

struct Shown {
    live: Live,
    world: World<()>,
    page: Page,
}

impl Shown {
    fn new(to: Option<&std::path::Path>) -> Self {
        let loaded = load("lock.stoi", LOCK, &Catalogue::built_in());
        assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
        let fresh = |loaded: &Loaded| -> Result<World<()>, stoicheon_core::Error> {
            let mut world = World::new();
            loaded.build(&mut world)?;
            Ok(world)
        };
        let mut world = fresh(&loaded).unwrap();
        loaded.make_players(0, &mut world).unwrap();
        let again = loaded.clone();
        let wiring = LiveWiring::new(vec![loaded], move || fresh(&again));
        let wiring = match to {
            Some(file) => wiring.writes_to(file),
            None => wiring,
        };
        let live = Live::listen("127.0.0.1:0").unwrap().with_wiring(wiring);
        let page = Page::open(&live);
        let mut shown = Self { live, world, page };
        shown.asks(&[], 1);
        shown
    }

    fn asks(&mut self, ask: &[Value], ticks: usize) -> Vec<Value> {
        self.page.asks((&mut self.live, &mut self.world), ask, ticks)
    }

    fn line(&mut self, text: &str, ticks: usize) -> Vec<String> {
        said(&self.asks(&[json!({ "do": "line", "who": "ada", "text": text })], ticks))
    }

    /// What a playtest could expect, and what is made of that which is on.
    fn make(&mut self, name: &str, write: bool) -> (Vec<String>, String, Vec<Value>, Vec<String>) {
        let made =
            |told: &[Value]| told.iter().map(|reply| reply["made"].clone()).find(|made| !made.is_null());
        let offered = made(&self.asks(&[json!({ "do": "offer", "since": 0 })], 0)).unwrap();
        let lines = offered["expected"].as_array().unwrap();
        let on = lines.iter().filter(|line| line["on"] == json!(true));
        let on: Vec<String> = on.map(|line| line["text"].as_str().unwrap().to_owned()).collect();
        let told = self.asks(&[json!({ "do": "make", "name": name, "expected": on, "write": write })], 0);
        let done = made(&told).unwrap();
        let text = done["text"].as_str().unwrap().to_owned();
        (on, text, done["story"].as_array().unwrap().clone(), said(&told))
    }
}

#[test]
fn lines_are_those_of_playtests_and_statements() {
    let mut shown = Shown::new(None);
    assert_eq!(shown.line("open upper_gate", 20), ["done { open upper_gate }"]);
    assert_eq!(shown.line("set level = 0.75", 2), ["done set level = 0.75"]);
    assert_eq!(shown.line("bell(2)", 0).len(), 1);
    assert_eq!(
        shown.line("emit bell(2) for bob; emit bell(1)", 2),
        ["done emit bell(2) for bob; emit bell(1)"]
    );
    assert_eq!(shown.line("expect level == 1.05", 0), ["done expect level == 1.05"]);
    assert_eq!(
        shown.line("bob walks to gauge_post, answers gauge_post", 90),
        ["done bob walks to gauge_post, answers gauge_post"]
    );
    let level = shown.world.find_var("rung").unwrap();
    let bob = shown.world.find("bob").unwrap();
    assert_eq!(shown.world.value_of(level, bob).unwrap(), &1.into());

    let wrong = [
        ("opn upper_gate", "opn"),
        ("open uper_gate", "did you mean `upper_gate`"),
        ("ada wlaks to steps", "walks to"),
        ("expect level == 7", "level is 1.05"),
        ("expect bell within 1s", "need a whole playtest"),
        ("ada answers gauge_post", "offered"),
        ("eve walks to steps", "eve"),
        ("", "found nothing"),
        ("// a remark", "found nothing"),
        ("}", "expected"),
    ];
    for (text, why) in wrong {
        let told = shown.line(text, 4);
        assert!(told.len() == 1 && told[0].starts_with("no ") && told[0].contains(why), "{text}: {told:?}");
    }
}

#[test]
fn what_was_done_becomes_a_playtest_that_passes() {
    let mut shown = Shown::new(None);
    let key = |down: bool| json!({ "do": "key", "who": "ada", "key": "use", "down": down });
    shown.asks(&[json!({ "do": "go", "who": "ada", "to": [5, 1] })], 50);
    shown.asks(&[key(true)], 20);
    shown.asks(&[key(false), json!({ "do": "walk", "who": "bob", "along": [-1, 0] })], 20);
    shown.asks(&[json!({ "do": "walk", "who": "bob", "along": [0, 1] })], 40);
    shown.asks(&[json!({ "do": "walk", "who": "bob", "along": [0, 0] })], 3);
    shown.asks(&[json!({ "do": "set", "name": "level", "of": null, "to": 0.25 })], 4);
    shown.asks(&[json!({ "do": "command", "object": "upper_gate", "part": 0, "command": "close" })], 20);
    // What could not be done was not done.
    shown.asks(
        &[
            json!({ "do": "set", "name": "level", "of": "nobody", "to": 3 }),
            json!({ "do": "leave", "who": "eve" }),
        ],
        1,
    );
    shown.line("open nothing", 2);
    shown.asks(&[json!({ "do": "leave", "who": "bob" })], 5);
    let (on, text, story, _) = shown.make("ada \"and\" bob", false);
    assert_eq!(story.len(), 0, "{text}");
    insta::assert_snapshot!(text);
    assert!(on.contains(&"expect rung of ada == 1".to_owned()), "{on:?}");
    assert!(on.contains(&"expect upper_gate is closed".to_owned()), "{on:?}");
}

#[test]
fn what_two_do_at_once_is_done_together() {
    let mut shown = Shown::new(None);
    shown.asks(
        &[
            json!({ "do": "go", "who": "ada", "to": [4, 0] }),
            json!({ "do": "follow", "who": "bob", "whom": "ada" }),
        ],
        60,
    );
    let (_, text, story, _) = shown.make("both", false);
    let lines = ["  together {", "    ada walks to (4, 0, 0)", "    bob walks to (2."];
    assert!(lines.iter().all(|line| text.lines().any(|known| known.starts_with(line))), "{text}");
    assert_eq!(story.len(), 0, "{text}");
}

#[test]
fn an_earlier_branch_is_no_part_of_it() {
    let mut shown = Shown::new(None);
    shown.asks(&[json!({ "do": "go", "who": "ada", "to": [2, 0] })], 30);
    shown.asks(&[json!({ "do": "emit", "signal": "bell", "who": null })], 0);
    shown.line("emit bell(3)", 20);
    shown.asks(&[json!({ "do": "wind", "tick": 25 })], 0);
    let looking = shown.make("looking", false).1;
    assert!(looking.contains("emit bell(3)"), "{looking}");
    shown.asks(&[json!({ "do": "resume" })], 10);
    let (_, text, story, _) = shown.make("other", false);
    assert!(!text.contains("bell") && text.contains("ada walks to (2, 0, 0)"), "{text}");
    assert_eq!(story.len(), 0, "{text}");
}

#[test]
fn who_joins_where_there_are_no_scenes_is_there_from_the_start() {
    let mut shown = Shown::new(None);
    shown.asks(&[json!({ "do": "join", "name": "cid", "spot": null })], 5);
    shown.asks(&[json!({ "do": "join", "name": "dot", "spot": "steps" })], 5);
    shown.asks(
        &[json!({ "do": "go", "who": "cid", "to": [2, 0] }), json!({ "do": "leave", "who": "dot" })],
        30,
    );
    shown.asks(&[json!({ "do": "join", "name": "dot", "spot": null })], 2);
    let (_, text, story, _) = shown.make("guests", false);
    assert_eq!(story.len(), 0, "{text}");
    for line in ["player cid at steps", "dot joins at steps", "cid walks to (2, 0, 0)", "dot leaves"] {
        assert!(text.contains(line), "{text}");
    }
}

#[test]
fn frames_of_many_ticks_break_no_walk() {
    let mut shown = Shown::new(None);
    shown.asks(&[json!({ "do": "go", "who": "ada", "to": [6, 1] })], 0);
    for _ in 0..10 {
        let Shown { live, world, .. } = &mut shown;
        // Eight ticks, in which she goes farther than a unit.
        world.advance(live.pace(stoicheon_core::secs(8.0 / 30.0 + 1e-6)), &mut ()).unwrap();
        live.show(world, &mut ()).unwrap();
    }
    let (_, text, story, _) = shown.make("far", false);
    let walks: Vec<_> = text.lines().filter(|line| line.contains("walks to")).collect();
    assert_eq!((walks, story.len()), (vec!["  ada walks to (6, 0, 1)"], 0), "{text}");
}

#[test]
fn one_goes_back_and_on_past_somebody_who_joined_by_a_line() {
    let mut shown = Shown::new(None);
    shown.asks(&[json!({ "do": "go", "who": "ada", "to": [3, 0] })], 12);
    shown.line("cid joins at steps", 3);
    shown.asks(&[json!({ "do": "pause" })], 0);
    let last = shown.world.now().0;
    let digest = shown.world.trace().digest();
    for tick in [last - 9, last - 1, 2, last] {
        let told = shown.asks(&[json!({ "do": "wind", "tick": tick })], 0);
        assert_eq!((said(&told).len(), shown.world.now().0), (0, tick), "{told:?}");
    }
    assert_eq!((shown.world.players().count(), shown.world.trace().digest()), (3, digest));
}

#[test]
fn what_had_begun_when_one_goes_on_from_there_is_part_of_it() {
    let mut shown = Shown::new(None);
    let key = |down: bool| json!({ "do": "key", "who": "ada", "key": "use", "down": down });
    let walk = |along: [i32; 2]| json!({ "do": "walk", "who": "bob", "along": along });
    shown.asks(&[json!({ "do": "go", "who": "ada", "to": [5, 0] })], 45);
    shown.asks(&[key(true), walk([1, 0])], 30);
    shown.asks(&[key(false), walk([0, 0])], 5);
    assert!(shown.make("once", false).1.contains("ada answers gauge_post"));
    // Back to where she had held the key for a third of the time, and bob was on the way: she lets go, and bob walks on.
    shown.asks(&[json!({ "do": "wind", "tick": 51 }), json!({ "do": "resume" })], 10);
    shown.asks(&[key(true)], 20);
    shown.asks(&[key(false), walk([0, 0])], 3);
    let (on, text, story, _) = shown.make("again", false);
    assert_eq!(story.len(), 0, "{text}");
    assert!(text.contains("ada holds use 6ticks"), "{text}");
    assert!(text.contains("ada answers gauge_post"), "{text}");
    assert!(on.contains(&"expect gauge_post.answered exactly 1".to_owned()), "{on:?}");
    let walks = text.lines().filter(|line| line.contains("bob walks to")).count();
    assert_eq!(walks, 1, "{text}");
}

#[test]
fn it_is_written_at_the_end_of_the_file_or_not_at_all() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("lock.stoi");
    std::fs::write(&file, LOCK).unwrap();
    let mut shown = Shown::new(Some(&file));
    shown.line("emit bell(1)", 3);
    let (_, text, _, told) = shown.make("a bell", true);
    assert_eq!(told, [format!("done written into {}", file.display())]);
    let written = std::fs::read_to_string(&file).unwrap();
    assert_eq!(written, format!("{LOCK}\n{text}"));
    assert!(!load("lock.stoi", &written, &Catalogue::built_in()).has_errors());
    // Beside it is nothing else.
    assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);

    // What does not pass is not written, and neither is what cannot be.
    let told = shown
        .asks(&[json!({ "do": "make", "name": "no", "expected": ["expect level == 99"], "write": true })], 0);
    assert_eq!(said(&told), ["no nothing is written: it does not pass"]);
    assert_eq!(std::fs::read_to_string(&file).unwrap(), written);
    std::fs::remove_file(&file).unwrap();
    let told = shown.make("gone", true).3;
    assert!(told[0].starts_with("no ") && told[0].contains("lock.stoi"), "{told:?}");
    let told = Shown::new(None).make("nowhere", true).3;
    assert!(told[0].contains("was made of no file"), "{told:?}");
}

#[test]
fn a_world_without_wiring_says_so() {
    let (mut live, mut world) = (Live::listen("127.0.0.1:0").unwrap(), crate::served::lock());
    let mut page = Page::open(&live);
    let ask =
        [json!({ "do": "line", "who": null, "text": "open gate" }), json!({ "do": "offer", "since": 0 })];
    let told = page.asks((&mut live, &mut world), &ask, 0);
    assert_eq!(said(&told).len(), 2);
    assert!(said(&told).iter().all(|said| said.contains("knows nothing of the wiring")));
    assert_eq!(tape(&told).len(), 0);
}
