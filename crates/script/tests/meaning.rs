//! What wiring from a file means: small scenes that are run, and what comes of them.

use stoicheon_core::{Catalogue, SmolStr, Value, Vec3, World};
use stoicheon_script::{load, load_with, render};

const GATES: &str = "
    object upper_gate at (0, 0, 12) tags gate { door { over 100ms } }
    object lower_gate at (0, 0, -12) tags gate { door { over 100ms } }
    object pad at (4, 0, 0) { zone box (2, 1, 2) }
";

/// A world with that scene; a text with faults fails the test.
fn world(text: &str) -> World<()> {
    let loaded = load("scene.stoi", text, &Catalogue::built_in());
    let found: Vec<_> =
        loaded.diagnostics().iter().map(|found| render(found, loaded.sources(), false)).collect();
    assert!(!loaded.has_errors(), "{}", found.join("\n"));
    let mut world = World::new();
    loaded.build(&mut world).unwrap();
    world
}

fn run(world: &mut World<()>, ticks: u32) {
    (0..ticks).for_each(|_| world.step(&mut ()).unwrap());
}

/// What a variable holds after so many ticks of a scene.
fn after(ticks: u32, text: &str, var: &str) -> Value {
    let mut world = world(text);
    run(&mut world, ticks);
    let var = world.find_var(var).unwrap();
    world.value(var).unwrap().clone()
}

fn whole(number: i64) -> Value {
    Value::Whole(number)
}

#[test]
fn units_percentages_and_directions_are_what_they_say() {
    let text =
        "var a: duration = 2.5s\nvar b: duration = 400ms\nvar c: duration = 3ticks\nvar d: number = 40%
        var e: rotation = west\nvar f: rotation = 90deg about y\nvar g: colour = #6fa8b0\nvar h: number = -1.5
        var i: vector = (1, 2, 3) * 2 + (1, 0, 0)\nvar j: duration = 1s + 500ms\nvar k: whole = 7 - 2 * 3";
    let world = world(text);
    let value = |name| world.value(world.find_var(name).unwrap()).unwrap();
    let span = |ticks| Value::Duration(stoicheon_core::ticks(ticks));
    assert_eq!([value("a"), value("b"), value("c"), value("j")], [&span(75), &span(12), &span(3), &span(45)]);
    assert_eq!([value("d"), value("h")], [&Value::Number(0.4), &Value::Number(-1.5)]);
    assert_eq!(value("e"), value("f"));
    assert_eq!(value("g"), &Value::Colour("#6fa8b0".parse().unwrap()));
    assert_eq!(value("i"), &Value::Vector(Vec3::new(3.0, 4.0, 6.0)));
    assert_eq!(value("k"), &whole(1));
}

#[test]
fn a_value_that_is_kept_ends_with_its_braces_and_an_inner_one_hides_an_outer() {
    let text = "var seen: whole = 0
        on started { var left = 1; if true { var left = 5; left += 1; seen += left } seen += left * 10 }";
    assert_eq!(after(1, text, "seen"), whole(16));
}

#[test]
fn loops_branches_and_stop_do_what_they_say() {
    for (body, expected) in [
        ("repeat 4 { seen += 1 }", 4),
        ("repeat seen { seen += 1 }", 0),
        ("var left = 5; repeat while left > 0 { seen += left; left -= 2 }", 9),
        ("if seen > 0 { seen = 1 } else if seen == 0 { seen = 2 } else { seen = 3 }", 2),
        ("repeat 4 { seen += 1; if seen == 2 { stop } }", 2),
        ("for each g in every gate { seen += 1; if g is closed { seen += 10 } }", 22),
        ("for each g in gate where it.place == upper_gate.place { seen += 1 }", 1),
        ("for each g in everyone { seen += 1 }", 0),
        ("wait 1tick; seen = 3", 3),
        ("wait 100ms * 2; seen = 4", 4),
    ] {
        let text = format!("{GATES} var seen: whole = 0\non started {{ {body} }}");
        assert_eq!(after(10, &text, "seen"), whole(expected), "{body}");
    }
}

#[test]
fn routines_take_objects_and_values_and_run_in_their_order() {
    let text = format!(
        "{GATES} var seen: whole = 0
        routine pass(gate: object, times: whole) {{
          open gate
          wait until gate is open within 1s else {{ seen = -1; stop }}
          repeat times {{ seen += 1 }}
          do shut(gate)
        }}
        routine shut(gate: object) {{ close gate; wait until gate is closed; seen *= 10 }}
        on started {{ do pass(upper_gate, 3); do pass(nearest gate to lower_gate, 2) }}"
    );
    assert_eq!(after(60, &text, "seen"), whole(320));
}

#[test]
fn each_use_of_a_kit_has_names_and_state_of_its_own_and_kits_nest() {
    let text = format!(
        "{GATES}
        kit counter(step: whole) {{
          var count: whole = 0
          signal up
          on up {{ count += step }}
        }}
        kit pair(gate: object, step: whole) {{
          add counter as mine(step: step)
          on gate.opened {{ emit mine.up }}
          object lamp at (0, 0, 0) tags lamp {{ var lit: boolean = false }}
          bind lamp.lit = gate is open
        }}
        add pair as upper(gate: upper_gate, step: 1)
        add pair as lower(gate: lower_gate, step: 10)
        add counter(step: 5)
        on started {{ open upper_gate; wait 1s; open lower_gate; wait 1s; close upper_gate }}"
    );
    let mut world = world(&text);
    let value = |world: &World<()>, name: &str| world.value(world.find_var(name).unwrap()).unwrap().clone();
    run(&mut world, 20);
    assert_eq!([value(&world, "upper.mine.count"), value(&world, "lower.mine.count")], [whole(1), whole(0)]);
    assert_eq!(
        [value(&world, "upper.lamp.lit"), value(&world, "lower.lamp.lit")],
        [true.into(), false.into()]
    );
    run(&mut world, 60);
    assert_eq!([value(&world, "upper.mine.count"), value(&world, "lower.mine.count")], [whole(1), whole(10)]);
    assert_eq!(
        [value(&world, "upper.lamp.lit"), value(&world, "lower.lamp.lit")],
        [false.into(), true.into()]
    );
    assert_eq!(value(&world, "counter_1.count"), whole(0));
}

#[test]
fn a_wire_on_a_group_knows_whose_signal_it_is_and_a_pattern_picks_values() {
    let text = format!(
        "{GATES} var last: object = pad\nvar twos: whole = 0\nvar all: whole = 0\nsignal rung(strokes: whole, by: object)
        on every gate.opened {{ last = it; emit rung(2, it); emit rung(1, it) }}
        on rung(2) {{ twos += 1 }}\non rung(_, lower_gate) {{ all += strokes }}
        on started {{ open every gate is closed }}"
    );
    let mut world = world(&text);
    run(&mut world, 10);
    let value = |name| world.value(world.find_var(name).unwrap()).unwrap().clone();
    assert_eq!(value("last").as_object(), world.find("lower_gate"));
    assert_eq!([value("twos"), value("all")], [whole(2), whole(3)]);
}

#[test]
fn the_limits_of_a_wire_are_kept() {
    for (limits, expected) in [
        ("", 5),
        ("once", 1),
        ("times 3", 3),
        ("cooldown 100ms", 2),
        ("while running ignore", 1),
        ("while running queue", 1),
        ("while running restart", 0),
        ("delay 100ms", 3),
        ("order -1, times 2", 2),
    ] {
        let wait = if limits.contains("running") { "wait 100ms;" } else { "" };
        let text = format!(
            "var seen: whole = 0\nsignal ping\non ping {limits} {{ {wait} seen += 1 }}
             on started {{ repeat 5 {{ emit ping; wait 1tick }} }}"
        );
        assert_eq!(after(5, &text, "seen"), whole(expected), "{limits}");
    }
}

#[test]
fn objects_are_sent_spawned_tagged_switched_and_destroyed() {
    let text = format!(
        "{GATES} var seen: whole = 0\nspot steps at (1, 2, 3) facing south
        object ferry at (0, 0, 0) tags boat disabled {{ spot bow at (0, 0, 2); on started {{ seen = 100 }} }}
        mould leaf tags drifting {{ var age: whole = 1; on started {{ seen += it.age }} }}
        on started {{
          send ferry to steps
          spawn leaf at ferry as one
          one.age = 7
          spawn leaf at ferry.bow
          tag pad as wet
          wait 2ticks
          if count(leaf) == 2 and count(wet) == 1 and ferry is disabled {{ seen += 20 }}
          destroy every leaf
          untag pad as wet
          enable ferry
          if no leaf where it.age > 0 and not any wet and ferry is enabled {{ seen += 200 }}
          destroy ferry
          if ferry is gone {{ seen += 2000 }}
        }}"
    );
    let mut world = world(&text);
    run(&mut world, 1);
    let ferry = world.find("ferry").unwrap();
    assert_eq!(world.place(ferry).unwrap(), Vec3::new(1.0, 2.0, 3.0));
    assert!(
        (world.facing(ferry).unwrap().turn(Vec3::NEG_Z) - Vec3::Z).length() < 1e-5,
        "south is where z is"
    );
    run(&mut world, 4);
    let seen = world.value(world.find_var("seen").unwrap()).unwrap();
    assert_eq!(seen, &whole(7 + 1 + 20 + 200 + 2000));
}

#[test]
fn a_manager_is_told_first_and_found_by_everybody() {
    let text = "var order: whole = 0
        object lamp { on lamp.started { order = order * 10 + 2 } }
        manager keeper { var calls: whole = 0; signal called(by: object)
          on started { order = order * 10 + 3 }
          on keeper.started { order = order * 10 + 1 }
          on called { keeper.calls += 1 } }
        on started order 5 { emit keeper.called(lamp) }";
    // Within an object `started` is its own; the lamp was made first, the manager is told first.
    assert_eq!(after(2, text, "order"), whole(312));
    assert_eq!(after(2, text, "keeper.calls"), whole(1));
}

#[test]
fn per_player_state_is_each_ones_own_until_it_is_everyones() {
    let text = "var coins: whole = 0 per player\nsignal paid\nsignal taxed
        on paid { coins of who += 5 }
        on taxed { for each p in everyone where coins of it > 3 { coins of p -= 1 } }
        signal over\non over { coins of everyone = 50 }";
    let mut world = world(text);
    let [ada, bob] = ["ada", "bob"].map(|name| world.player(name).add().unwrap());
    let [paid, taxed, over] =
        ["paid", "taxed", "over"].map(|name| world.signal::<stoicheon_core::Values>(name).unwrap());
    let none = stoicheon_core::Values::new;
    let coins = world.find_var("coins").unwrap();
    let of =
        |world: &World<()>| [ada, bob].map(|who| world.value_of(coins, who).unwrap().as_whole().unwrap());
    world.emit_for(Some(ada), paid, none()).unwrap();
    world.emit(taxed, none()).unwrap();
    run(&mut world, 1);
    assert_eq!(of(&world), [4, 0]);
    world.emit(over, none()).unwrap();
    run(&mut world, 1);
    assert_eq!(of(&world), [50, 50]);
    // Nobody caused it, so there is nobody to pay: that is a fault in the trace, and nothing else.
    world.emit(paid, none()).unwrap();
    run(&mut world, 1);
    assert_eq!(of(&world), [50, 50]);
}

#[test]
fn files_share_declarations_once_however_often_they_are_named() {
    let read = |path: &str| {
        match path {
            "bells.stoi" => Ok(
                "shared \"words.stoi\"\nkit ringer(on_what: object) { on on_what.started { emit rung(3) } }",
            ),
            "words.stoi" => Ok("shared \"bells.stoi\"\nsignal rung(strokes: whole)\nvar total: whole = 0"),
            _ => Err("there is no such file".to_owned()),
        }
        .map(str::to_owned)
    };
    let text = "scene lock\nshared \"bells.stoi\"\nshared \"words.stoi\"\nobject post
        add ringer(on_what: post)\non rung { total += strokes }";
    let loaded = load_with("lock.stoi", text, &Catalogue::built_in(), &read);
    let told: Vec<_> = loaded.diagnostics().iter().map(|found| found.message.as_str()).collect();
    assert_eq!(told, ["these files share each other in a circle: bells.stoi, words.stoi, bells.stoi"]);
    let names: Vec<SmolStr> = loaded.sources().iter().map(|source| source.name().into()).collect();
    assert_eq!(names, ["lock.stoi", "bells.stoi", "words.stoi"]);
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    run(&mut world, 1);
    assert_eq!(world.value(world.find_var("total").unwrap()).unwrap(), &whole(3));
}

#[test]
fn a_fault_in_a_shared_kit_names_the_kits_line_and_the_use() {
    let read = |_: &str| Ok("kit lamp(at_what: object) { on at_what.opend { } }".to_owned());
    let text = "scene lock\nshared \"kits.stoi\"\nobject gate { door { over 1s } }\nadd lamp(at_what: gate)";
    let loaded = load_with("lock.stoi", text, &Catalogue::built_in(), &read);
    let [found] = loaded.diagnostics() else { panic!("{:?}", loaded.diagnostics()) };
    insta::assert_snapshot!(render(found, loaded.sources(), false), @r"
    kits.stoi:1:40  error  `at_what` has no signal `opend`  (unknown-signal)
        1            kit lamp(at_what: object) { on at_what.opend { } }
                                                            ~~~~~ expected a signal
        lock.stoi:4  add lamp(at_what: gate)
                     ----------------------- in this use of the kit
        hint         did you mean `opened`?
    ");
}

#[test]
fn numbers_of_a_vector_are_read_and_set_by_themselves() {
    let text = r#"var wind: vector = (1, 2, 3)
        var x: number = 7
        object boat at (4, 0, 10) facing west body { var sail: vector = (0, 1, 0); spot bow at (0, 0, -2) facing west }
        object raft at (4, 0, 2)
        object beds at (10, 0, 0) { pick box (9, 1, 9) cells square, cell 2 }
        routine lift(what: object) { what.place.y += 1 }
        on pressed("k") {
          wind.x = wind.y + wind.z
          wind.y *= 10
          boat.sail.z = boat.place.z
          boat.velocity.y = -1
          do lift(raft)
          tween raft.place.x to 6 over 500ms
          x = boat.place.x
        }
        playtest "p" {
          player ada at boat
          ada presses k
          expect wind == (5, 20, 3) and boat.sail == (0, 1, 10) and boat.velocity == (0, -1, 0) and x == 4
          wait 1s
          expect raft.place == (6, 1, 2) and distance(boat.forward, (-1, 0, 0)) < 0.001
          expect distance(direction(raft, raft), (0, 0, 0)) == 0 and direction(raft, (6, 9, 2)) == (0, 1, 0)
          expect middle(beds, 1, 0) == (12, 0, 0) and steps_between(beds, 0, 0, 2, -3) == 5
          expect boat.bow.place.z == -2 and boat.bow.forward.x < -0.9
        }"#;
    assert_eq!(crate::support::fails(text), None);
}

#[test]
fn a_loop_goes_round_the_cells_of_a_grid() {
    let text = r#"
        object tiles at (0, 0, 0) { pick box (9, 0.2, 9), cells square, cell 1 }
        object beds at (20, 0, 0) { pick box (9, 0.2, 9), cells hex_flat, cell 1 }
        object rock at (40, 0, 0)
        effect cell(column: whole, row: whole)
        var n: whole = 0
        on pressed("k") {
          for each c, r in neighbours(tiles, 4, -4) { perform cell(c, r); wait 100ms }
          n = 4
        }
        on pressed("r") {
          n = 0
          for each c, r in range(beds, 0, 0, 2) {
            for each d, s in range(tiles, c, r, 0) { if c == d and r == s { n += 1 } }
          }
        }
        on pressed("x") {
          n = 0
          for each c, r in range(beds, 0, 0, -1) { n += 1 }
          for each c, r in neighbours(who, 0, 0) { n += 1 }
          for each c, r in range(beds, 0, 0, 1000) { n += 1 }
        }
        playtest "p" {
          allow faults
          player ada at rock
          ada presses k
          expect cell(3, -4)
          wait 100ms
          expect cell(4, -5)
          expect last cell.row == -5 and n == 0
          wait 300ms
          expect cell exactly 4
          expect n == 4
          ada presses r
          expect n == 19
          ada presses x
          expect n == 1 + 3 * 100 * 101
        }"#;
    assert_eq!(crate::support::fails(text), None);
}

#[test]
fn spans_members_and_chances_are_drawn_and_the_same_seed_draws_the_same() {
    let text = r#"mould heron { var n: whole = 0 }
        var hits: whole = 0
        var even: whole = 0
        var waited: whole = 0
        var nobody: boolean = false
        spot s at (0, 0, 0)
        timer clock every 100ms
        on pressed("h") { nobody = random(every heron) is gone; repeat 5 { spawn heron at s } }
        on pressed("k") {
          repeat 1000 { if random() < 30% and not false { hits += 1 }; var lucky = random(every heron); lucky.n += 1 }
          for each h in every heron { if h.n > 150 and h.n < 250 { even += 1 } }
        }
        on pressed("w") { var from = clock.count; repeat 10 { wait random(1s, 3s) }; waited = clock.count - from }
        playtest "p" { player ada at s; ada presses h, presses k; expect nobody and hits > 250 and hits < 350 and even == 5
          ada presses w; wait 31s; expect waited > 130 and waited < 270 }"#;
    assert_eq!(crate::support::fails(text), None);
    let asks = "mould heron { }\nsignal rung sent by game\nvar a: boolean = false\n";
    for wrong in [
        "on rung when random() < 0.5 { }",
        "on rung { wait until random() < 0.5 }",
        "bind a = random() < 0.5",
    ] {
        let found = crate::support::found(&format!("{asks}{wrong}"));
        assert!(found.iter().any(|line| line.starts_with("random: ")), "{wrong}: {found:?}");
    }
}

#[test]
fn what_a_bind_keeps_is_not_set_through_a_value_either() {
    let text = |line: &str| {
        format!(
            "var level: number = 1
            object float tags boat at (0, 0, 0) {{ zone box (1, 1, 1) }}
            object raft tags boat at (9, 0, 0) {{ zone box (1, 1, 1) }}
            spot bank at (20, 0, 0)
            bind float.place = (0, level, 0)
            on every boat.entered {{ {line} }}
            playtest \"p\" {{ player ada at bank; ada walks to raft, walks to (0, 1, 0); wait 1s }}"
        )
    };
    let fault = crate::support::fails(&text("it.place = (3, 3, 3)"));
    assert!(
        matches!(&fault, Some(stoicheon_core::playtest::Found::Fault(fault)) if fault.message.contains("float.place") && fault.message.contains("is kept by the bind")),
        "{fault:?}"
    );
    // The raft is kept by nothing, and what the bind reads may be set.
    assert_eq!(crate::support::fails(&text("level += 0.1; raft.place = (9, 0.1, 0)")), None);
}
