//! Instances that speak for themselves: `own`, signals of objects that are known only then, wires that statements make, and
//! what is done on somebody's behalf.

use stoicheon_core::{World, playtest::Found};

use crate::support::{fails, found, found_certain, loaded, world};

const HERON: &str = r#"
effect say(words: text)
signal rung
mould heron {
  var heard: whole = 0
  signal gone(left: whole)
  on rung { own.heard += 1 }
}
object nest at (4, 0, 0)
on pressed("h") { spawn heron at nest }
on pressed("r") { emit rung }
"#;

fn plays(more: &str, lines: &str) -> Option<Found> {
    fails(&format!("{HERON}{more}\nplaytest \"p\" {{ player ada at nest; player bob at nest; {lines} }}"))
}

#[test]
fn a_wire_of_a_mould_runs_once_for_each_that_is_awake() {
    let lines = "ada presses r, presses h, presses r, presses h, presses r, waits 100ms";
    let told = "var all: whole = 0\non pressed(\"s\") { for each h in every heron { all += h.heard } }";
    assert_eq!(plays(told, &format!("{lines}; ada presses s; expect all == 3")), None);
    // Nobody runs it where there is none, and one that is disabled sleeps.
    let off = "on pressed(\"d\") { disable nearest heron to nest }";
    let lines = format!("{lines}; ada presses d, presses r, presses s; expect all == 4");
    assert_eq!(plays(&format!("{told}\n{off}"), &lines), None);
}

#[test]
fn what_a_mould_counts_and_limits_it_does_for_each() {
    let told = "var all: whole = 0\nmould gull { on rung once cooldown 10s { all += 1; wait 1s; all += 10 } }
        on pressed(\"g\") { spawn gull at nest }
        on pressed(\"k\") { destroy nearest gull to nest }";
    let lines =
        "ada presses g, presses r, presses r; expect all == 1; ada presses g, presses r; expect all == 2";
    assert_eq!(plays(told, &format!("{lines}; wait 2s; expect all == 22")), None);
    // What it has begun ends with it.
    assert_eq!(plays(told, &format!("{lines}; ada presses k; wait 2s; expect all == 12")), None);
}

#[test]
fn a_mould_tells_that_it_has_started_and_hears_groups() {
    let told = "var up: whole = 0\nvar far: whole = 0
        mould gull tags bird { signal cried; on started { up += 1; emit own.cried } on every bird.cried { far += 1 } }
        on pressed(\"g\") { spawn gull at nest }";
    assert_eq!(plays(told, "ada presses g, presses g, waits 100ms; expect up == 2; expect far == 3"), None);
}

#[test]
fn a_player_has_the_wires_of_the_mould_for_as_long_as_the_player_is_here() {
    let told =
        "var all: whole = 0\nmould player { var rings: whole = 0; on rung { own.rings += 1; all += 1 } }";
    let lines = "ada presses r; expect all == 2; bob leaves; ada presses r; expect all == 3";
    assert_eq!(plays(told, &format!("{lines}; bob joins; ada presses r; expect all == 5")), None);
}

#[test]
fn a_signal_is_emitted_and_heard_through_a_value() {
    let told = r#"var left: whole = 0
        on pressed("x") {
          spawn heron at nest as h
          var twice = 2
          on h.gone when left == twice - 2 { self_told(left) }
          emit h.gone(0) for bob_of_all
        }"#;
    // What a statement wires keeps what the sequence kept then, and hears what is emitted after it.
    let told =
        told.replace("self_told(left)", "all += left + twice; whose = who").replace("bob_of_all", "nest");
    let told = format!("var all: whole = 0\nobject nobody\nvar whose: object = nobody\n{told}");
    assert_eq!(plays(&told, "ada presses x, waits 100ms; expect all == 2; expect whose == nest"), None);
    // Through a parameter of a routine, a loop, `it` and a variable.
    let told = "var all: whole = 0
        routine send_off(bird: object) { emit bird.gone(1) }
        on pressed(\"a\") { for each h in every heron { do send_off(h); emit h.gone(10) } }
        on every heron.gone(1) { emit it.gone(100) }
        on every heron.gone { all += left }";
    assert_eq!(plays(told, "ada presses h, presses h, presses a, waits 100ms; expect all == 222"), None);
}

#[test]
fn an_object_without_such_a_signal_is_named_in_the_fault() {
    let told =
        "routine send_off(bird: object) { emit bird.gone(1) }\non pressed(\"a\") { do send_off(nest) }";
    let Some(Found::Fault(fault)) = plays(told, "ada presses a, waits 100ms") else { panic!("no fault") };
    assert!(fault.message.contains("\"nest.gone\""), "{}", fault.message);
}

#[test]
fn what_a_statement_wires_ends_with_its_object_and_with_its_owner() {
    let told = "var all: whole = 0
        object clock { on pressed(\"x\") { on rung { all += 1 } } }
        on pressed(\"d\") { disable clock }
        on pressed(\"e\") { enable clock }
        on pressed(\"k\") { destroy clock }";
    let lines =
        "ada presses x, presses x, presses r; expect all == 2; ada presses d, presses r; expect all == 2";
    let lines = format!(
        "{lines}; ada presses e, presses r; expect all == 4; ada presses k, presses r; expect all == 4"
    );
    assert_eq!(plays(told, &lines), None);
}

#[test]
fn somebody_else_may_be_meant() {
    let told = "var rings: whole = 0 per player
        switch plate { stays 1s }
        object last\nvar by_whom: object = last
        on plate.turned_on { by_whom = who }
        on rung { rings of who += 1 }
        on pressed(\"o\") { for each p in everyone where it != who { emit rung for p; turn_on plate for p } }";
    let lines =
        "ada presses o, waits 100ms; expect rings of bob == 1 and rings of ada == 0; expect by_whom == bob";
    assert_eq!(plays(told, lines), None);
}

#[test]
fn what_runs_for_one_keeps_nobody_else_out() {
    let told = |word: &str| {
        format!(
            "var begun: whole = 0 per player\nvar done: whole = 0 per player
            on rung while running {word} per who {{ begun of who += 1; wait 1s; done of who += 1 }}
            on pressed(\"x\") {{ emit rung; emit rung; for each p in everyone where it != who {{ emit rung for p }} }}"
        )
    };
    let both = |begun: [i64; 2], done: [i64; 2]| {
        format!(
            "begun of ada == {} and begun of bob == {} and done of ada == {} and done of bob == {}",
            begun[0], begun[1], done[0], done[1]
        )
    };
    for (word, now, later) in [
        ("ignore", ([1, 1], [0, 0]), ([1, 1], [1, 1])),
        ("restart", ([2, 1], [0, 0]), ([2, 1], [1, 1])),
        ("queue", ([1, 1], [0, 0]), ([2, 1], [2, 1])),
        ("overlap", ([2, 1], [0, 0]), ([2, 1], [2, 1])),
    ] {
        let lines = format!(
            "ada presses x, waits 100ms; expect {}; wait 3s; expect {}",
            both(now.0, now.1),
            both(later.0, later.1)
        );
        assert_eq!(plays(&told(word), &lines), None, "{word}");
    }
    // Without it one keeps out the other.
    let lines = "ada presses x, waits 100ms; expect begun of bob == 0";
    assert_eq!(plays(&told("ignore").replace(" per who {", " {"), lines), None);
    // Who has left leaves nothing running, and comes back to a reaction of their own.
    let lines =
        "ada presses x; ada leaves; wait 3s; ada joins; ada presses x; wait 2s; expect done of ada == 1";
    assert_eq!(
        plays(&format!("{}\nroutine none {{ }}", told("ignore")), &format!("allow faults; {lines}")),
        None
    );
}

#[test]
fn a_spot_may_be_held_by_anything_of_that_type() {
    let told = "spot a at (1, 0, 0)\nspot b at (9, 0, 0)
        var meet: spot = a
        var back: spot = a per player
        routine go(whom: player, there: spot) { send whom to there }
        on pressed(\"k\") { back of who = b; send everyone to meet }
        on pressed(\"l\") { send who to back of who }
        on pressed(\"m\") { meet = b; do go(who, meet) }";
    let lines = "bob presses k; expect ada.place == a.place and bob.place == a.place
        ada presses l; bob presses l; expect ada.place == a.place and bob.place == b.place
        ada presses m; expect ada.place == b.place";
    assert_eq!(plays(told, lines), None);
}

#[test]
fn own_is_known_in_braces_alone() {
    assert_eq!(found("var own: number = 1"), ["name-taken: `own` is a reserved name"]);
    let ok = "object lamp { var lit: boolean = false; zone box (1, 1, 1) when not own.lit; on entered { own.lit = true; disable own } }";
    assert_eq!(found_certain(ok), [""; 0]);
    assert!(loaded("on started { disable own }").has_errors());
}

#[test]
fn a_world_put_aside_has_the_wires_that_were_made_meanwhile() {
    let text =
        format!("{HERON}\nvar all: whole = 0\non pressed(\"x\") {{ var n = 5; on rung {{ all += n }} }}");
    let mut before = world(&text);
    let press = |world: &mut World<()>, key| {
        let ada = world.find("ada").unwrap();
        world.press(ada, key).unwrap();
        world.step(&mut ()).unwrap();
    };
    before.player("ada").add().unwrap();
    ["x", "h", "r"].into_iter().for_each(|key| press(&mut before, key));
    let mut after = world(&text);
    let aside = serde_json::to_string(&before.snapshot().unwrap()).unwrap();
    after.restore(&serde_json::from_str(&aside).unwrap()).unwrap();
    for world in [&mut before, &mut after] {
        press(world, "r");
        let value = |name: &str| world.value(world.find_var(name).unwrap()).unwrap().clone();
        assert_eq!([value("all"), value("heron_3.heard")], [10_i64.into(), 2_i64.into()]);
    }
    assert_eq!(before.trace().digest(), after.trace().digest());
}

#[test]
fn a_part_of_a_mould_asks_its_own_object() {
    let told = "var all: whole = 0
        mould trap { var armed: boolean = true; zone box (1, 1, 1) when own.armed; on entered { all += 1; own.armed = false } }
        spot far at (20, 0, 0)
        on pressed(\"t\") { spawn trap at far }";
    let lines = "ada presses t; ada walks to far; expect all == 1; bob walks to far; expect all == 1";
    assert_eq!(plays(told, lines), None);
}

#[test]
fn what_is_meant_for_somebody_who_is_gone_is_done_for_nobody() {
    let told = "var rings: whole = 0 per player\nvar all: whole = 0
        on rung { rings of who += 1; all += 1 }
        on pressed(\"x\") { spawn heron at nest as h; destroy h; emit rung for h; all += 10 }";
    let lines = "allow faults; ada presses x, waits 100ms; expect all == 10 and rings of ada == 0";
    assert_eq!(plays(told, lines), None);
}

#[test]
fn what_is_made_after_what_its_wires_hear_is_gone_is_made_whole() {
    let told = "var all: whole = 0
        object gate { signal shut }
        mould gull { on gate.shut { all += 100 } on rung { all += 1 } }
        mould player { on gate.shut { all += 100 } on rung { all += 10 } }
        on pressed(\"s\") { emit gate.shut }
        on pressed(\"k\") { destroy gate }
        on pressed(\"g\") { spawn gull at nest as g; all += 1000 }";
    let told = told.replace("} on rung", "}\n on rung");
    let lines = "bob leaves; ada presses k, waits 100ms, presses g; bob joins; ada presses r, waits 100ms; expect all == 1021";
    assert_eq!(plays(&told, lines), None);
}
