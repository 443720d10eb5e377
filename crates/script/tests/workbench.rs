//! Playtests as a workbench: what is done by hand, what is asked of what came, cases, and several worlds.

use stoicheon_core::{
    Catalogue, Config, TraceLevel, World,
    playtest::{Found, PlaytestError, PlaytestHost},
};

use crate::support::{fails, found, found_certain};

const BELL: &str = r#"
signal struck(strokes: whole, by: player) sent by game
signal rung(strokes: whole)
effect ring(strokes: whole)
var level: whole = 0
var coins: whole = 0 per player
spot bank at (4, 0, 0)
object post at (0, 0, 0) { prompt "Wind" key use, hold 1s, reach 9 }
object plank at (0, 0, 4) facing west { pick box (4, 2, 2) }
object pad at (8, 0, 0) { zone box (2, 2, 2) admits player }
mould leaf tags drifting { var age: whole = 0 }
on struck when strokes > 0 { perform ring(strokes); wait 1s; emit rung(strokes) }
on rung { level += strokes }
on post.answered { coins of who += 1 }
on plank.picked(_, _, _, "secondary") { level = 7 }
"#;

/// What a playtest with these lines finds instead of what it expects, if anything.
fn bell(lines: &str) -> Option<Found> {
    let text = format!("{BELL}playtest \"p\" {{ player ada at bank\n player bob at bank\n{lines}\n}}");
    assert_eq!(found_certain(&text), [""; 0], "{lines}");
    fails(&text)
}

#[test]
fn what_a_playtest_emits_sets_and_makes_is_done_at_once() {
    for lines in [
        "emit struck(2, ada)\n expect ring(2)\n wait 29ticks\n expect level == 0\n wait 2ticks\n expect level == 2",
        "emit struck(2, ada) for bob\n expect last struck.who == bob and last struck.by == ada",
        "set level = 3\n set level += 2\n set coins of bob = 4\n expect level == 5 and coins of bob == 4 and coins of ada == 0",
        "set coins of everyone = 2\n expect coins of ada + coins of bob == 4",
        "spawn leaf at (1, 0, 0)\n spawn leaf at bank\n expect count(drifting) == 2\n destroy every drifting\n expect count(leaf) == 0",
        "disable post\n expect post is disabled\n enable post\n expect post is enabled",
        "send ada to bank\n tag ada as keeper\n expect ada tagged keeper\n untag ada as keeper\n expect not (ada tagged keeper)",
        "set ada.place = (8, 0, 0)\n expect pad.entered(placed)\n ada walks to bank\n expect pad.left(walked)",
        "ada leaves\n allow faults\n emit struck(1, bob) for ada\n expect ring exactly 0",
    ] {
        assert_eq!(bell(lines), None, "{lines}");
    }
    // What cannot be done is told with the line that did it.
    let Some(Found::Fault(fault)) = bell("ada leaves\n set coins of ada = 1") else { panic!() };
    assert!(fault.message.contains("ada"), "{}", fault.message);
}

#[test]
fn what_came_is_compared_and_what_it_carried_is_told() {
    let twice = "emit struck(2, ada)\n emit struck(3, ada)\n";
    for lines in [
        "expect struck(3, ada)\n expect struck(_, ada) exactly 2\n expect struck(2) exactly 1\n expect ring(2) exactly 1",
        "expect last ring.strokes == 3\n expect last struck.strokes == last ring.strokes",
        "expect rung(3) within 2s\n expect last rung.strokes == 3",
    ] {
        assert_eq!(bell(&format!("{twice}{lines}")), None, "{lines}");
    }
    // Since somebody did something; from the start, if it is counted.
    let carried = |found: Option<Found>| match found {
        Some(Found::Carried(all)) => all.len(),
        other => panic!("{other:?}"),
    };
    assert_eq!(carried(bell(&format!("{twice}expect struck(2)"))), 1);
    assert_eq!(carried(bell(&format!("{twice}expect struck(4) exactly 1"))), 2);
    assert_eq!(carried(bell("expect struck(4)")), 0);
    assert_eq!(bell(&format!("{twice}expect ring(2) exactly 2")), Some(Found::Count(1)));
    assert!(matches!(bell("expect last ring.strokes == 0"), Some(Found::NoLast(_))));
    let Some(Found::Readings(read)) = bell(&format!("{twice}expect last ring.strokes == 2")) else {
        panic!()
    };
    assert_eq!(read, [3.into()]);
}

#[test]
fn keys_stay_down_and_pointers_hit_where_they_are_told_to() {
    for lines in [
        "ada holds use\n bob walks to (4, 0, 4)\n wait 1s\n expect coins of ada == 1 and coins of bob == 0\n ada releases use",
        // Down for less than a second, twice.
        "ada holds use\n wait 20ticks\n ada releases use\n ada holds use 20ticks\n expect coins of ada == 0",
        "ada holds use, waits 2s, releases use\n expect coins of ada == 1",
        "together { ada holds use, waits 2s, releases use; bob waits 1s }\n expect coins of ada == 1",
        // Who leaves holds nothing.
        "ada holds use\n ada leaves\n wait 2s\n expect post.answered exactly 0",
        "ada points at plank with secondary\n expect level == 7",
        "ada points at plank\n expect level == 0",
        // The plank faces west: what is to its right lies to the north.
        "ada points at plank at (1, 0, 0)\n expect last plank.picked.point.z < 3.9",
        "ada points at (0, 0, 7) with secondary\n expect last plank.picked.point.z > 4.1",
        "ada goes through (2, 0, 0)\n expect ada.place.x < 2",
        "ada walks to pad.place + (0.5, 0, 0)\n expect pad.entered(walked) and ada.place == (8.5, 0, 0)",
    ] {
        assert_eq!(
            bell(&lines.replace(" and ada.place == (8.5", "\n expect ada.place == (8.5")),
            None,
            "{lines}"
        );
    }
}

#[test]
fn a_table_of_cases_is_one_playtest_for_each_row() {
    let text = r#"given toll: whole = 3 "what the gate asks"
        given double: whole = toll * 2
        object gate { door { over 300ms } }
        playtest "the toll" seeds 4, 5 {
          cases (toll, asked) { "plain" (2, 4); (3, 6) "wrong" (1, 3) }
          player ada at gate
          expect double == asked
        }
        playtest "no case" { player bob at gate; expect double == 6 }"#;
    let loaded = stoicheon_script::load("toll.stoi", text, &Catalogue::built_in());
    assert_eq!(loaded.diagnostics(), []);
    let names: Vec<_> = loaded.playtests().collect();
    assert_eq!(names, ["the toll: plain", "the toll: 3, 6", "the toll: wrong", "no case"]);
    assert_eq!(loaded.seeds(2), [4, 5]);
    assert_eq!(loaded.seeds(3), [0_u64; 0]);
    let passes = |number: usize| {
        let given = loaded.with_given(&loaded.given_in(number));
        let mut world = World::<()>::new();
        given.build(&mut world).unwrap();
        given.playtest(number, &mut world).unwrap().run(&mut world, &mut ()).unwrap().passed()
    };
    assert_eq!([0, 1, 2, 3].map(passes), [true, true, false, true]);
}

/// Makes worlds of a text.
struct Worlds<'l>(&'l stoicheon_script::Loaded);

impl PlaytestHost<()> for Worlds<'_> {
    fn fresh(&mut self) -> Result<World<()>, PlaytestError> {
        let mut world = World::new();
        self.0.build(&mut world)?;
        Ok(world)
    }

    fn fresh_game(&mut self) -> Result<(), PlaytestError> {
        Ok(())
    }
}

const LOCK: &str = r#"
signal fill(wanted: number) crosses to authority by bargee
signal filled(now: number) crosses to players
effect show(level: number)
var level: number = 0
spot bank at (4, 0, 0)
spot far at (40, 0, 0)
object pit at (-4, 0, 0) { zone box (2, 2, 2) admits player }
object post at (4, 0, 1) { prompt "Fill" key use, reach 3 }
on pit.entered { destroy who }
on post.answered { emit fill(0.5); asked += 1 }
var asked: whole = 0
never asked > 2
on fill { level += wanted; emit filled(level) }
on filled { perform show(now) }
"#;

fn linked(lines: &str) -> Option<Found> {
    let players = "player ada at bank tags bargee\n player bob at bank tags bargee\n";
    let text = format!("{LOCK}playtest \"p\" linked {{ {players}{lines}\n}}");
    let loaded = stoicheon_script::load("lock.stoi", &text, &Catalogue::built_in());
    assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
    let mut host = Worlds(&loaded);
    let mut world = host.fresh().unwrap();
    let verdict = loaded.run_playtest(0, &mut world, &mut (), &mut host);
    verdict.unwrap().failure.map(|failure| failure.found)
}

#[test]
fn each_player_has_a_world_and_those_who_go_take_nobody_along() {
    for lines in [
        "ada answers post\n expect fill(0.5) within 3ticks\n ada sees show(0.5) within 3ticks\n bob sees show exactly 1",
        // Prompts are offered in each world: bob's is bob's own.
        "together { ada answers post; bob answers post }\n wait 3ticks\n expect level == 1",
        // Ada ends half-way; bob, who came after her, goes on.
        "together { ada walks to (-4, 0, 0); bob walks to far }\n expect ada is gone and bob.place.x == 40",
        "ada leaves\n bob answers post\n bob sees show(0.5) within 3ticks\n expect last fill.who == bob",
        "together { ada leaves, waits 1s; bob waits 2s }\n ada joins\n ada answers post\n ada sees show within 3ticks",
        "ada leaves\n ada joins at far tags bargee\n wait 3ticks\n ada sees ada.place.x == 40\n expect ada.place.x == 40",
        "emit filled(3)\n ada sees show(3) within 2ticks\n bob sees show(3) exactly 1\n set level = 9\n ada sees level == 0",
    ] {
        assert_eq!(linked(lines), None, "{lines}");
    }
    // A failure in a world of hers is told with what happened there.
    assert!(
        matches!(linked("ada answers post\n wait 3ticks\n ada sees show(0.6) exactly 1"), Some(Found::Carried(all)) if all.len() == 1)
    );
    assert!(matches!(linked("ada declines"), Some(Found::NotAsked)));
    // Prompts are answered in her own world, and so the rule is broken there alone.
    let thrice = "ada answers post\n ada answers post\n ada answers post\n wait 3ticks";
    assert!(matches!(linked(thrice), Some(Found::RuleBroken(_))), "{:?}", linked(thrice));
    assert_eq!(linked("ada answers post\n ada answers post\n bob answers post\n wait 3ticks"), None);
    // Who is tagged in the authority's world alone is no bargee in hers.
    let stranger = linked("cid joins at bank\n cid answers post\n wait 3ticks");
    assert!(matches!(stranger, Some(Found::Fault(_))), "{stranger:?}");
}

#[test]
fn a_world_without_a_trace_cannot_say_what_came() {
    let text =
        format!("{BELL}playtest \"p\" {{ player ada at bank; emit struck(2, ada); expect struck(2) }}");
    let loaded = stoicheon_script::load("bell.stoi", &text, &Catalogue::built_in());
    let mut world = World::<()>::with(Config { trace: TraceLevel::Counts, ..Config::default() });
    loaded.build(&mut world).unwrap();
    let ran = loaded.playtest(0, &mut world).unwrap().run(&mut world, &mut ());
    assert_eq!(ran, Err(PlaytestError::NoTrace));
    // Each player needs a world of their own, and nobody can make one.
    let text = text.replace("\"p\" {", "\"p\" linked {");
    let loaded = stoicheon_script::load("bell.stoi", &text, &Catalogue::built_in());
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    let ran = loaded.run_playtest(0, &mut world, &mut (), &mut stoicheon_core::playtest::NoHost);
    assert_eq!(ran, Err(PlaytestError::NoHost));
}

#[test]
fn a_player_starts_at_a_place() {
    let text = "given east: number = 3
        spot bank at (1, 0, 1)
        playtest \"p\" {
          player kim at (east, 0, 4) tags keeper
          player wim at bank
          expect kim.place == (3, 0, 4) and kim tagged keeper and wim.place == (1, 0, 1)
        }";
    assert_eq!(fails(text), None);
    assert_eq!(fails(&stoicheon_script::from_json(&stoicheon_script::to_json(text).unwrap()).unwrap()), None);
    // What is wrong with the start is all that is wrong.
    let nowhere = text.replace("at bank", "at bench").replace("(1, 0, 1)", "(1, 0, 1)\n");
    assert_eq!(found(&nowhere), ["unknown-object: there is no object `bench`"]);
    let number = text.replace("at bank", "at 5");
    assert_eq!(found(&number), ["syntax: expected an object, a spot or a place to start at, found `5`"]);
}
