//! What is said of wiring is so: findings, playtests that fail for what failed, traces in the order things ran.

use std::fmt::Write;

use stoicheon_core::{Catalogue, World, playtest::Found};
use stoicheon_script::{Project, from_json, load, load_with, to_json};
use stoicheon_view::TraceText;

use crate::support::{fails, found, loaded, world};

const TOKEN: &str = r"
object post
object token at (4, 0, 0) tags coin { zone box (2, 1, 2) }
on token.entered { destroy token }
";

#[test]
fn signals_of_what_was_destroyed_keep_their_counts() {
    let with = |line: &str| format!("{TOKEN}playtest \"p\" {{ player ada at post; {line} }}");
    let walks = "ada walks to token; wait 100ms";
    assert!(matches!(fails(&with(&format!("never token.entered; {walks}"))), Some(Found::Happened(_))));
    assert_eq!(fails(&with(&format!("{walks}; expect token.entered exactly 1"))), None);
    assert_eq!(fails(&with(&format!("{walks}; expect token.entered exactly 2"))), Some(Found::Count(1)));
    assert_eq!(fails(&with(&format!("{walks}; expect token.entered"))), None);
}

#[test]
fn a_fault_in_a_reaction_fails_the_playtest_and_says_what_it_was() {
    let text = r#"object post
        object gate { door { over 100ms } }
        signal bell
        on pressed("k") by player { destroy gate; wait 100ms; open gate }
        playtest "p" { player ada at post; ada presses k; wait 1s }"#;
    let Some(Found::Fault(fault)) = fails(text) else { panic!("no fault") };
    assert!(fault.message.starts_with("\"gate\" is gone"), "{}", fault.message);
    assert!(fault.wire.is_some());
    // One without faults passes.
    assert_eq!(fails(&text.replace("destroy gate; ", "")), None);
}

#[test]
fn what_is_expected_on_the_first_line_is_expected_after_start_up() {
    let text = "signal bell\nvar begun: whole = 0\non started { begun += 1 }\non pressed { emit bell }\non bell { }\n";
    for line in [
        "expect begun == 1",
        "expect started",
        "always begun == 1; wait 100ms",
        "allow faults; expect begun == 1",
        "never bell; save; expect begun == 1; wait 100ms",
    ] {
        assert_eq!(fails(&format!("{text}playtest \"p\" {{ {line} }}")), None, "{line}");
    }
    let wrong = fails(&format!("{text}playtest \"p\" {{ expect begun == 0 }}"));
    assert!(matches!(wrong, Some(Found::Readings(_))), "{wrong:?}");
}

#[test]
fn a_never_after_which_nothing_happens_is_told_of() {
    let base = "object post\nsignal bell\non pressed { emit bell }\non bell { }\n";
    let vacuous = |lines: &str| {
        let all = found(&format!("{base}playtest \"p\" {{ player ada at post; {lines} }}"));
        all.iter().filter(|line| line.starts_with("vacuous")).count()
    };
    assert_eq!(vacuous("ada presses k; never bell"), 1);
    assert_eq!(vacuous("never bell; ada presses k; never bell; save"), 1);
    assert_eq!(vacuous("never bell; ada presses k"), 0);
    assert_eq!(vacuous("never bell; expect bell within 1s"), 0);
    assert_eq!(vacuous("never bell; expect bell"), 1);
}

#[test]
fn a_rule_that_was_broken_is_named() {
    let text = r#"object post
        var level: number = 0.5
        never level > 1.0
        on pressed { level += 1.0 }
        playtest "p" { player ada at post; ada presses k; wait 100ms }"#;
    let Some(Found::RuleBroken(rule)) = fails(text) else { panic!("no rule") };
    assert_eq!(world(text).rule(rule).unwrap().1.line, 3);
}

fn traced(text: &str, ticks: u32) -> (String, u64) {
    let mut world = world(text);
    for _ in 0..ticks {
        let _ = world.step(&mut ());
    }
    (TraceText::plain().without_places().new_ticks(&world), world.trace().digest())
}

#[test]
fn changes_and_emits_stand_in_the_order_the_statements_ran() {
    let text = "signal a\nsignal b\nvar x: whole = 0\nvar y: whole = 0
        on a { }\non b { }\non started { emit a; x = 1; emit b; y = 2; x = 1; emit a }";
    let (trace, _) = traced(text, 1);
    let order: Vec<_> =
        ["emits a", "x 0 → 1", "emits b", "y 0 → 2"].map(|word| trace.find(word).unwrap()).into();
    assert!(order.is_sorted(), "{trace}");
    assert_eq!(trace.matches("x 1 → 1").count(), 0, "a change that changes nothing is no change: {trace}");
    assert_eq!(trace.matches("emits a").count(), 2, "{trace}");
}

#[test]
fn what_repeats_thousands_of_times_is_counted_and_not_printed() {
    let text = "var x: whole = 0\nsignal again(n: whole)
        on started { repeat 3000 { x += 1 }; emit again(0) }
        on again when n < 1000 { emit again(n + 1) }";
    let (trace, _) = traced(text, 1);
    assert!(trace.lines().count() < 250, "{} lines", trace.lines().count());
    assert!(trace.contains("… and 2,961 more"), "{trace}");
    assert!(trace.contains("… and 961 more times again"), "{trace}");
    let mut world = world(text);
    world.step(&mut ()).unwrap();
    assert!(TraceText::plain().unfolded().new_ticks(&world).lines().count() > 4_000);
}

#[test]
fn faults_name_their_object_and_names_outlive_what_they_named() {
    let text = r"object lamp { signal out
            on out { wait 100ms; destroy lamp; wait 100ms } }
        object gate { door { over 100ms } }
        on started { emit lamp.out; send who to mooring }
        spot mooring at (0, 0, 0)";
    let (trace, _) = traced(text, 10);
    assert!(trace.contains("fault"), "{trace}");
    assert!(trace.contains("lamp is destroyed"), "{trace}");
    assert!(!trace.contains("a signal that is gone"), "{trace}");
}

#[test]
fn the_digest_depends_neither_on_lines_nor_on_file_names_also_after_a_runaway() {
    let text =
        "signal ping\nsignal pong\non ping { emit pong }\non pong { emit ping }\non started { emit ping }";
    let digest = |name: &str, text: &str| {
        let loaded = load(name, text, &Catalogue::built_in());
        let mut world = World::<()>::new();
        loaded.build(&mut world).unwrap();
        assert!(world.step(&mut ()).is_err(), "it runs away");
        world.step(&mut ()).unwrap();
        world.trace().digest()
    };
    let first = digest("one.stoi", text);
    assert_eq!(first, digest("some/other/name.stoi", text));
    assert_eq!(
        first,
        digest("one.stoi", &format!("\n\n// further down\n{}", text.replace("\non", "\n\non")))
    );
}

#[test]
fn only_what_is_kept_wherever_it_may_be_is_refused_to_be_set() {
    let base =
        "object a tags lamp { var lit: boolean = false }\nobject b tags lamp { var lit: boolean = false }\n";
    let some =
        format!("{base}bind a.lit = true\non started {{ for each one in every lamp {{ one.lit = true }} }}");
    assert_eq!(found(&some), Vec::<String>::new());
    let all = format!(
        "{base}bind each lamp.lit = true\non started {{ for each one in every lamp {{ one.lit = true }} }}"
    );
    assert!(found(&all).iter().any(|line| line.starts_with("bound")), "{:?}", found(&all));
    // Of the one that is kept, it is a fault, and of the other it is done.
    let mut world = world(&some);
    world.step(&mut ()).unwrap();
    let lit = |name: &str| world.value(world.find_var(name).unwrap()).unwrap().as_bool();
    assert_eq!((lit("a.lit"), lit("b.lit")), (Some(true), Some(true)));
    assert_eq!(world.faults_so_far(), 1);
}

#[test]
fn a_command_to_a_group_nobody_is_in_is_an_error() {
    let base = "object upper tags gate { door { over 100ms } }\n";
    let text = format!("{base}on started {{ open every gaet }}");
    assert_eq!(found(&text), ["unknown-tag: nothing in this file has or gets the tag `gaet`"]);
    assert!(loaded(&text).has_errors());
    // A tag that is given later is one.
    let later = format!("{base}on started {{ tag upper as flooded; open every flooded }}");
    assert_eq!(found(&later), Vec::<String>::new());
}

#[test]
fn one_wrong_signal_does_not_hide_what_is_wrong_in_the_braces() {
    let text = "signal rung(strokes: whole)\nvar level: number = 0.4\nobject lamp { }
        on rugn { level = \"high\"; emit rung(strokes); open nothing_there; perform shout(strokes) }
        on rung { level = strokes * 1.0 }";
    let all = found(text);
    for word in ["unknown-signal: there is no signal `rugn`", "wrong-type", "nothing_there", "unknown-effect"]
    {
        assert!(all.iter().any(|line| line.contains(word)), "{word}: {all:#?}");
    }
    assert!(!all.iter().any(|line| line.contains("`strokes`")), "it may be a field: {all:#?}");
}

#[test]
fn a_circle_of_binds_through_a_kit_names_the_objects_and_the_use() {
    let text = "kit pair(one: object, other: object) {
            bind one.lit = other.lit
            bind other.lit = one.lit
        }
        object east { var lit: boolean = false }\nobject west { var lit: boolean = false }
        add pair(one: east, other: west)";
    let loaded = loaded(text);
    let circle = loaded.diagnostics().iter().find(|found| found.code.word() == "circle");
    let circle = circle.unwrap_or_else(|| panic!("{:?}", loaded.diagnostics()));
    assert!(circle.message.contains("east.lit") && circle.message.contains("west.lit"), "{}", circle.message);
    assert!(circle.labels.iter().any(|label| label.text == "in this use of the kit"), "{circle:?}");
}

#[test]
fn what_only_the_file_of_a_project_says_is_refused_elsewhere() {
    for (line, word) in [
        ("ticks 60 per second", "`ticks`"),
        ("players up to 2", "`players`"),
        ("seeds 1, 2, 3", "`seeds`"),
        ("scene \"tunnel.stoi\"", "`scene \"…\"`"),
    ] {
        let all = found(&format!("scene lock\n{line}\n"));
        assert!(
            all.iter().any(|told| told.starts_with("misplaced") && told.contains(word)),
            "{line}: {all:?}"
        );
        let read = |path: &str| match path {
            "lock.stoi" => Ok(format!("scene lock\n{line}\n")),
            _ => Ok("scene tunnel".to_owned()),
        };
        let head = "project canal\nscene \"lock.stoi\"";
        let project = Project::load("canal.stoi", head, &Catalogue::built_in(), &read);
        assert!(project.has_errors(), "{line}");
        let project =
            Project::load("canal.stoi", &format!("{head}\n{line}"), &Catalogue::built_in(), &|path| {
                Ok(format!("scene {}", path.trim_end_matches(".stoi")))
            });
        assert!(!project.has_errors(), "{line}: {:?}", project.head().diagnostics());
    }
}

#[test]
fn files_that_share_each_other_in_a_circle_are_told_of_and_one_file_is_one_however_it_is_spelled() {
    let told = |files: &[(&str, &str)]| {
        let read = |path: &str| {
            let path = path.trim_start_matches("./").trim_start_matches("x/../");
            let found = files.iter().find(|(name, _)| *name == path);
            found.map(|(_, text)| (*text).to_owned()).ok_or_else(|| "there is no such file".to_owned())
        };
        let loaded = load_with(files[0].0, files[0].1, &Catalogue::built_in(), &read);
        let all = loaded.diagnostics().iter();
        all.map(|found| format!("{}: {}", found.code.word(), found.message)).collect::<Vec<_>>()
    };
    let round =
        [("a.stoi", "shared \"b.stoi\""), ("b.stoi", "shared \"c.stoi\""), ("c.stoi", "shared \"./b.stoi\"")];
    assert_eq!(told(&round), ["circle: these files share each other in a circle: b.stoi, c.stoi, b.stoi"]);
    let itself = [("a.stoi", "shared \"a.stoi\"")];
    assert_eq!(told(&itself), ["circle: these files share each other in a circle: a.stoi, a.stoi"]);
    let twice = [
        ("a.stoi", "shared \"b.stoi\"\nshared \"./b.stoi\"\nshared \"x/../b.stoi\""),
        ("b.stoi", "signal bell"),
    ];
    assert_eq!(told(&twice), Vec::<String>::new());
}

#[test]
fn what_stands_behind_a_backslash_is_resolved_or_refused() {
    let world = world(r#"var a: text = "one\ttwo\nthree \"four\" \\ five\r""#);
    let value = world.value(world.find_var("a").unwrap()).unwrap();
    assert_eq!(value.as_text().map(ToString::to_string), Some("one\ttwo\nthree \"four\" \\ five\r".into()));
    for wrong in [r#"var a: text = "one\x""#, r#"var a: text = "one\0two""#] {
        assert!(found(wrong).iter().any(|line| line.starts_with("bad-literal")), "{wrong}");
    }
    let text = "var a: text = \"one\\ttwo\\n\\\"three\\\"\\\\\"\n";
    assert_eq!(from_json(&to_json(text).unwrap()).unwrap(), text);
}

#[test]
fn every_text_that_is_accepted_goes_to_json_and_back() {
    let nested = |open: &str, close: &str, deep: usize| {
        format!("var a: number = {}1.0{}\n", open.repeat(deep), close.repeat(deep))
    };
    let mut texts = vec![
        nested("-(1.0 + ", ")", 40),
        nested("(", ")", 90),
        nested("min(1.0, ", ")", 90),
        format!("var a: number = 1.0{}\n", " + 1.0".repeat(100)),
        format!("on started {{ {}stop{} }}\n", "if true { ".repeat(60), " }".repeat(60)),
        "on started { var a = \"a\"; or = 2; a = \"b\"; over = 3; of = 4 }\n".to_owned(),
    ];
    texts.push(format!("var a: boolean = {}true\n", "not ".repeat(90)));
    for signed in ["1", "1.5", "#99999f", "(1, 2, 3)", "level", "2s"] {
        texts.push(format!("var level: number = 0\nvar a: number = 1 {}{signed}\n", "-".repeat(80)));
    }
    // Whom a command is for stands in parentheses where it would run into what is said with it.
    let commands = "routine one {\n  swing laps of gate.opened, l(level) over 2s\n  open (nearest gate to who) over 2s\n  open (1)\n  open (-level)\n  open (\"a\")\n  open (1, 2, 3)\n  open sqrt(2)\n}\n";
    assert!(to_json(commands).is_ok());
    texts.push(commands.to_owned());
    // A command of a name that could go on with the statement before is kept from it.
    for word in ["of", "by", "over", "carries", "within"] {
        texts.push(format!("on started {{ wait 10s; {word} gate say(\"Five\") }}\n"));
    }
    // What begins with a word is no word of a part.
    for value in ["min(1, 2)", "count(gate)", "distance(p, q)", "level", "true", "coins of who", "not level"]
    {
        let text = format!("object post {{\n  zone {{ ball ({value}) }}\n}}\n");
        assert!(to_json(&text).is_ok(), "{text}");
        texts.push(text);
    }
    for text in texts {
        let Ok(json) = to_json(&text) else { continue };
        let back = from_json(&json).unwrap_or_else(|error| panic!("{error}: {text}"));
        assert_eq!(to_json(&back).unwrap(), json, "{text}");
    }
    // Chains within chains are refused before they are too high to walk.
    let chain = |inner: &str| format!("({inner}{})", " + 1.0".repeat(90));
    let high = format!("var a: number = {}\n", (0..40).fold("1.0".to_owned(), |inner, _| chain(&inner)));
    assert!(
        found(&high).iter().any(|line| line.contains("operators within each other")),
        "{:?}",
        found(&high)
    );
    // What is no wiring is refused, however deep.
    for deep in ["[".repeat(100_000), "{\"a\":".repeat(100_000), "{\"items\":".repeat(3)] {
        assert!(from_json(&deep).is_err());
    }
}

#[test]
fn what_is_no_word_begins_no_part_and_settings_nest_without_taking_for_ever() {
    let all = found("' var leve");
    assert!(all.iter().any(|line| line.starts_with("syntax: expected scene, given, var,")), "{all:?}");
    assert!(to_json("' var leve").is_err());
    let deep = format!("object c {{ zone capsule (0, 1, 0) {}{} }}", "{ ".repeat(90), "} ".repeat(90));
    let words = deep.replace("{ {", "{ box {");
    for text in [deep, words] {
        assert!(!found(&text).is_empty());
        let _ = to_json(&text).map(|json| from_json(&json));
    }
}

#[test]
fn names_in_json_that_are_none_are_refused() {
    let json = to_json("scene lock\nsignal bell\nvar level: number = 0.4\n").unwrap();
    for (from, to) in [
        ("\"level\"", "\"level\\nvar b\""),
        ("\"bell\"", "\"bell\\nsignal gong\""),
        ("\"lock\"", "\"lock\\nvar c: whole = 1\""),
        ("\"level\"", "\"le vel\""),
        ("\"bell\"", "\"\""),
    ] {
        assert!(json.contains(from), "{json}");
        assert!(from_json(&json.replace(from, to)).is_err(), "{to}");
    }
}

#[test]
fn building_the_same_twice_is_refused_and_changed_wiring_does_not_take_up_a_snapshot() {
    let text = "scene lock\nsignal bell\nvar level: number = 0.4\non bell { level = 1.0 }\n";
    let mut one = world(text);
    let again = loaded(text).build(&mut one).unwrap_err().to_string();
    assert_eq!(again, "the scene lock is already in this world: build it once in each world");
    let snapshot = one.snapshot().unwrap();
    world(text).restore(&snapshot).unwrap();
    world(&text.replace("on bell", "\n// a comment\non bell")).restore(&snapshot).unwrap();
    let changed = world(&text.replace("1.0", "2.0")).restore(&snapshot).unwrap_err().to_string();
    assert!(changed.contains("lock"), "{changed}");
    // Wiring without a name is numbered.
    let nameless = "signal bell\n";
    let mut one = world(nameless);
    loaded("signal gong\n").build(&mut one).unwrap();
    assert!(loaded(nameless).build(&mut one).is_err());
    // A project, too.
    let read = |_: &str| Ok("scene lock".to_owned());
    let project = Project::load("c.stoi", "project c\nscene \"lock.stoi\"", &Catalogue::built_in(), &read);
    let (project, mut world) = (std::sync::Arc::new(project), World::<()>::new());
    project.build(&mut world).unwrap();
    let again = project.build(&mut world).unwrap_err().to_string();
    assert_eq!(again, "what all scenes share is already in this world: build it once in each world");
}

#[test]
fn ten_thousand_slips_are_read_in_about_the_time_of_as_many_names() {
    // Instructions are counted in `benches/growth.rs`; here it is only that nothing is suggested for ever.
    let names = (0..3000).map(|n| format!("var level_{n}: number = 0.4\n")).collect::<Vec<_>>().concat();
    let slips = (0..3000).map(|n| format!("on started {{ levle_{n} = 1.0 }}\n")).collect::<Vec<_>>().concat();
    let loaded = loaded(&format!("{names}{slips}"));
    let helps = loaded.diagnostics().iter().filter_map(|found| found.help.as_deref());
    let (meant, others): (Vec<_>, Vec<_>) = helps.partition(|help| help.starts_with("did you mean"));
    assert!((10..100).contains(&meant.len()), "{} suggestions", meant.len());
    assert_eq!(meant.len() + others.len(), 3000);
    assert!(
        others.iter().all(|help| help.starts_with("check the spelling of the names of a variable")),
        "{:?}",
        others.first()
    );
}

#[test]
fn what_is_nearest_to_each_of_many_is_what_is_nearest_to_each_alone() {
    let mut rng = rand_pcg::Pcg32::new(7, 11);
    // Few places, so that many are as near as others.
    let mut place = || {
        let mut one = || rand_pcg::rand_core::Rng::next_u32(&mut rng) % 7;
        format!("({}, 0, {})", one(), one())
    };
    let mut text = String::from("object none\n");
    for number in 0..60 {
        writeln!(text, "object gate_{number} at {} tags gate", place()).unwrap();
        writeln!(text, "object lamp_{number} at {} tags lamp {{ var next: object = none }}", place())
            .unwrap();
    }
    text += "bind each lamp.next = nearest gate to it\non pressed { gate_7.place = (3, 0, 3) }\n";
    let mut world = world(&text);
    let ada = world.player("ada").add().unwrap();
    for _ in 0..2 {
        (0..2).for_each(|_| world.step(&mut ()).unwrap());
        let among = stoicheon_core::Among::tagged(world.find_tag("gate").unwrap());
        for number in 0..60 {
            let lamp = world.find(&format!("lamp_{number}")).unwrap();
            let (among, to) = (Box::new(among.clone()), Box::new(stoicheon_core::Expr::from(lamp)));
            let alone = world.evaluate(&stoicheon_core::Expr::Nearest { among, to });
            let kept = world.value(world.find_var(&format!("lamp_{number}.next")).unwrap()).unwrap();
            assert_eq!(*kept, alone, "lamp_{number}");
        }
        world.press(ada, "k").unwrap();
    }
}
