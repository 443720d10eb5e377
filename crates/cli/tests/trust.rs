//! Nothing a user made is lost, and nothing is said that is not so.

use std::{fs, os::unix::fs::PermissionsExt, time::Duration};

use super::support::Folder;

/// What is not set as `fmt` sets it.
const LOOSE: &str = "scene lock\nvar  level:number=0.4\n";
const SET: &str = "scene lock\nvar level: number = 0.4\n";

const TOLL: &str = r#"scene toll
signal paid(coins: whole)
var purse: whole = 0
on paid { purse += coins }
on started { emit paid(0) }
playtest "nobody pays" { wait 1s; expect purse == 0 }
"#;

#[test]
fn fmt_and_convert_write_beside_and_move_into_place() {
    let folder = Folder::of(&[("one.stoi", LOOSE), ("two.stoi", LOOSE)]);
    // A file that can grow to one block only: whatever is longer cannot be written.
    let long = format!("{LOOSE}{}", "var  more_and_more_of_it:number=1\n".repeat(4000));
    folder.write("long.stoi", &long.replace("more_and_more_of_it", "x"));
    let before = folder.read("long.stoi");
    for call in ["fmt long.stoi", "convert long.stoi long.json"] {
        let said = folder.shell(&format!("ulimit -f 1; stoicheon {call}"));
        assert_ne!(said.status, 0, "{}", said.text);
        assert_eq!(folder.read("long.stoi"), before, "{call}");
    }
    assert!(!folder.path("long.json").exists());
    // Permissions and links are kept.
    fs::set_permissions(folder.path("one.stoi"), fs::Permissions::from_mode(0o640)).unwrap();
    std::os::unix::fs::symlink("two.stoi", folder.path("link.stoi")).unwrap();
    folder.call(&["fmt", "one.stoi", "link.stoi"]).ends(0).says("2 files, 2 formatted");
    assert_eq!(folder.read("one.stoi"), SET);
    assert_eq!(fs::metadata(folder.path("one.stoi")).unwrap().permissions().mode() & 0o777, 0o640);
    assert!(fs::symlink_metadata(folder.path("link.stoi")).unwrap().is_symlink());
    assert_eq!(folder.read("two.stoi"), SET);
    // A new file gets the permissions that the system gives new files.
    folder.shell("umask 022; stoicheon convert one.stoi one.json").ends(0);
    assert_eq!(fs::metadata(folder.path("one.json")).unwrap().permissions().mode() & 0o777, 0o644);
}

#[test]
fn what_killed_writers_left_behind_is_cleared_away_and_what_is_in_use_is_not() {
    let folder = Folder::of(&[("one.stoi", LOOSE), (".stoicheon-left", "half"), (".stoicheon-used", "half")]);
    let long_ago = std::time::SystemTime::now() - Duration::from_mins(10);
    let [left, used] = [".stoicheon-left", ".stoicheon-used"]
        .map(|name| fs::File::options().write(true).open(folder.path(name)).unwrap());
    left.set_modified(long_ago).unwrap();
    used.set_modified(long_ago).unwrap();
    used.lock().unwrap();
    folder.call(&["fmt", "one.stoi"]).ends(0);
    assert_eq!(folder.names(), [".stoicheon-used", "one.stoi"]);
}

#[test]
fn a_call_that_would_write_one_form_into_a_file_of_the_other_is_refused() {
    let folder = Folder::of(&[("a.stoi", SET), ("b.stoi", SET)]);
    for (args, words) in [
        (["a.stoi", "a.stoi"], "is the file to convert"),
        (["a.stoi", "./a.stoi"], "is the file to convert"),
        (["a.stoi", "b.stoi"], "it becomes JSON, in a file that ends in .json, found b.stoi"),
        (["a.stoi", "c.txt"], "expected a file that ends in .stoi or .json, found c.txt"),
        (["c.txt", "a.json"], "expected a file that ends in .stoi, .json, .gltf or .glb, found c.txt"),
    ] {
        folder.call(&["convert", args[0], args[1]]).ends(2).complains(words);
    }
    assert_eq!((folder.read("a.stoi"), folder.read("b.stoi")), (SET.to_owned(), SET.to_owned()));
    assert_eq!(folder.names(), ["a.stoi", "b.stoi"]);
    folder.call(&["convert", "a.stoi", "a.json"]).ends(0);
    folder.call(&["convert", "a.json", "a.json"]).ends(2).complains("is the file to convert");
    folder.call(&["convert", "a.json", "b.stoi"]).ends(0);
    assert_eq!(folder.read("b.stoi"), SET);
}

#[test]
fn fmt_keeps_the_ends_of_lines() {
    let dos = LOOSE.replace('\n', "\r\n");
    let folder = Folder::of(&[("dos.stoi", &dos), ("unix.stoi", LOOSE)]);
    folder.call(&["fmt", "."]).ends(0).says("2 files, 2 formatted");
    assert_eq!(folder.read("dos.stoi"), SET.replace('\n', "\r\n"));
    assert_eq!(folder.read("unix.stoi"), SET);
    folder.call(&["fmt", "--check", "."]).ends(0).says("2 files, 0 to be formatted");
}

#[test]
fn output_that_cannot_be_written_is_a_failure_and_a_reader_that_went_away_is_none() {
    let folder = Folder::of(&[("toll.stoi", TOLL)]);
    for call in
        ["check toll.stoi", "test toll.stoi", "play toll.stoi", "catalogue", "convert toll.stoi", "demo"]
    {
        let said = folder.shell(&format!("stoicheon {call} >/dev/full"));
        said.ends(2).complains("what is printed could not be written");
    }
    folder.shell("stoicheon catalogue | head -n 1 >/dev/null; exit 0").ends(0);
    folder.shell("stoicheon convert toll.stoi /dev/stdout").ends(0).says("\"scene\": \"toll\"");
}

#[test]
fn one_file_that_cannot_be_read_leaves_the_rest_and_is_told_of() {
    let folder = Folder::of(&[("a.stoi", TOLL), ("c.stoi", LOOSE)]);
    fs::write(folder.path("b.stoi"), [0xff, 0xfe, b'x']).unwrap();
    folder
        .call(&["check", "."])
        .ends(2)
        .says("a.stoi: good")
        .says("c.stoi: good")
        .complains("not a text in UTF-8");
    folder.call(&["test", "."]).ends(2).says("1 playtest passed, 0 failed").complains("not a text in UTF-8");
    folder.call(&["fmt", "."]).ends(2).says("c.stoi: formatted").complains("not a text in UTF-8");
    folder
        .call(&["check", "a.stoi", "nowhere"])
        .ends(2)
        .says("a.stoi: good")
        .complains("no file or folder nowhere");
    folder.call(&["check", "--json", "."]).ends(2).says("\"findings\": []");
}

/// The schema of what is printed for programs, as it is committed.
fn output_schema() -> serde_json::Value {
    let path = super::support::root().join("docs/output.schema.json");
    let committed = fs::read_to_string(path).unwrap();
    let folder = Folder::of(&[]);
    let said = folder.call(&["convert", "--output-schema"]).ends(0);
    assert_eq!(committed, said.text, "write it again: stoicheon convert --output-schema");
    serde_json::from_str(&committed).unwrap()
}

#[test]
fn what_is_printed_for_programs_follows_its_schema_and_speaks_of_files_by_name() {
    let broken = "scene b\nvar level: number = \"high\"\non started { open gaet }\n";
    let folder = Folder::of(&[("a.stoi", TOLL), ("b.stoi", broken)]);
    let whole = output_schema();
    let calls = [
        ("check", vec!["check", "--json", "."], 1),
        ("test", vec!["test", "--json", "."], 1),
        ("play", vec!["play", "--json", "a.stoi"], 0),
        ("play", vec!["play", "--json", "--alone", "--for", "0.1", "a.stoi"], 0),
        ("play", vec!["play", "--json", "b.stoi"], 1),
    ];
    for (command, args, status) in calls {
        let said = folder.call(&args).ends(status);
        // `play` prints a line for each thing.
        let lines: Vec<&str> =
            if command == "play" { said.text.lines().collect() } else { vec![said.text.as_str()] };
        let mut schema = whole.clone();
        schema["required"] = serde_json::json!([command]);
        let mut value = serde_json::Value::Null;
        for line in &lines {
            value = serde_json::from_str(line).unwrap();
            let outer = serde_json::json!({ command: value });
            if let Err(error) = jsonschema::validate(&schema, &outer) {
                panic!("{args:?}: {error} in {line}");
            }
        }
        if command == "play" {
            let last = if status == 0 { "report" } else { "finding" };
            assert!(value.get(last).is_some(), "{args:?}: {value}");
            assert_eq!(lines.iter().any(|line| line.starts_with("{\"record\"")), status == 0);
        } else {
            let finding = &value["findings"][0];
            assert_eq!((&finding["file"], &finding["line"]), (&"./b.stoi".into(), &2.into()), "{args:?}");
            assert_eq!(finding["labels"][0]["file"], "./b.stoi");
            assert_eq!(value["findings"].as_array().unwrap().len(), 2);
        }
        if command == "test" {
            assert_eq!(value["playtests"][0]["playtest"], "nobody pays");
            assert_eq!(value["playtests"][0]["passed"], true);
        }
    }
}

#[test]
fn a_scene_with_a_playtest_runs_without_it_and_words_that_would_do_nothing_are_refused() {
    let folder = Folder::of(&[("toll.stoi", TOLL)]);
    folder.call(&["play", "toll.stoi"]).ends(0).says("nobody pays").says("30 ticks");
    let alone = folder.call(&["play", "--alone", "--for", "2", "toll.stoi"]).ends(0);
    alone.says_not("nobody pays").says("60 ticks");
    folder.call(&["play", "--for", "2", "toll.stoi"]).ends(2).complains("add --alone");
    for args in [
        &["play", "toll.stoi", "--alone", "--playtest", "1"][..],
        &["play", "toll.stoi", "--playtest", "1", "--load", "kept.json"],
        &["play", "toll.stoi", "--playtest", "1", "--resume", "kept.cbor"],
        &["convert", "toll.stoi", "--schema"],
        &["convert", "--schema", "--save-schema"],
        &["check", "toll.stoi", "--json", "--all"],
    ] {
        folder.call(args).ends(2).complains("cannot be used with");
    }
}

#[test]
fn at_most_a_hundred_findings_are_printed_unless_all_are_asked_for() {
    let many = (0..250).map(|n| format!("on started {{ emit rugn_{n} }}\n")).collect::<Vec<_>>().concat();
    let folder = Folder::of(&[("many.stoi", &format!("scene many\nsignal rung\n{many}"))]);
    let few = folder.call(&["check", "many.stoi"]).ends(1).says("… and 150 more; --all prints them");
    assert_eq!(few.text.matches("  error  ").count(), 100);
    few.says("many.stoi: 250 errors");
    let all = folder.call(&["check", "--all", "many.stoi"]).ends(1).says_not("more; --all");
    assert_eq!(all.text.matches("  error  ").count(), 250);
    assert!(all.text.contains("many.stoi:252:19  error  "), "lines are counted from the start of the file");
}

const CANAL: &str = "project canal\nshared \"./common.stoi\"\nscene \"parts/../parts/lock.stoi\"\n";
const COMMON: &str = "signal flooded\nvar level: number = 0.5\non flooded { level = 1.0 }\n";
const LOCK: &str = r#"scene lock
object gate tags gate { door { over 100ms } }
on pressed("f") { emit flooded }
playtest "ada floods it" { player ada at gate; ada presses f; expect level == 1.0 }
"#;

#[test]
fn a_scene_of_a_project_that_is_called_alone_finds_its_project() {
    let folder = Folder::of(&[("canal.stoi", CANAL), ("common.stoi", COMMON), ("parts/lock.stoi", LOCK)]);
    folder.call(&["check", "parts/lock.stoi"]).ends(0).says("lock.stoi: good (1 object, 1 wire, 1 playtest)");
    folder.call(&["test", "parts/lock.stoi"]).ends(0).says("1 playtest passed");
    folder.call(&["play", "parts/lock.stoi"]).ends(0).says("ada floods it");
    // One file is one file, however it is spelled, and read once.
    folder.call(&["check", "."]).ends(0).says_not("common.stoi: good");
    folder.call(&["test", "."]).ends(0).says("1 playtest passed");
    // What keeps another part of the project from being built keeps this one from being run.
    folder.write("common.stoi", &format!("{COMMON}on started {{ emit flodded }}\n"));
    folder.call(&["check", "parts/lock.stoi"]).ends(0);
    folder.call(&["test", "parts/lock.stoi"]).ends(1).says("flodded").says("0 playtests passed");
}

#[test]
fn new_leaves_nothing_behind_and_clears_away_what_was_left() {
    let folder = Folder::of(&[(".stoicheon-new-abc/project/half.stoi", "scene half")]);
    let half = fs::File::open(folder.path(".stoicheon-new-abc")).unwrap();
    half.set_modified(std::time::SystemTime::now() - Duration::from_mins(10)).unwrap();
    folder.call(&["new", "harbour"]).ends(0).says("made harbour/harbour.stoi");
    assert_eq!(folder.names(), ["harbour"]);
    folder.call(&["test", "harbour"]).ends(0);
}

/// What a playtest says that fails.
fn fails(text: &str) -> String {
    let folder = Folder::of(&[("scene.stoi", text)]);
    folder.call(&["test", "scene.stoi"]).ends(1).text
}

#[test]
fn the_nearest_miss_names_the_refusal_of_the_player_it_is_about() {
    let said = fails(
        r#"spot start at (0, 0, 0)
object gate at (3, 0, 0) { door { over 100ms }; zone box (2, 2, 2) }
var level: number = 0.4
on gate.entered by keeper when level > 0.5 { open gate }
playtest "bob opens it" {
  player ada at start tags keeper
  player bob at start
  ada walks to gate
  bob walks to gate
  expect gate is open
}
"#,
    );
    assert!(said.contains("nearest   scene.stoi:4 refused: only by keeper\n"), "{said}");
    assert!(said.contains("after bob enters gate (walked)"), "{said}");
    // Ada's was nearer, and is told where it is hers that is asked for.
    let said = fails(
        r#"spot start at (0, 0, 0)
object toll at (4, 0, 0) { zone box (2, 2, 2) }
var paid: whole = 0 per player
var is_open: boolean = false
on toll.entered by keeper when is_open { paid of who += 5 }
playtest "ada pays" {
  player ada at start tags keeper
  player bob at start
  ada walks to toll
  bob walks to toll
  expect paid of ada == 5
}
"#,
    );
    assert!(said.contains("nearest   scene.stoi:5 refused: is_open; is_open is false\n"), "{said}");
    assert!(said.contains("after toll.entered  who ada"), "{said}");
}

#[test]
fn the_nearest_miss_looks_behind_variables_and_binds_and_never_says_that_what_came_did_not() {
    let said = fails(
        r#"spot start at (0, 0, 0)
var level: number = 0.4
var flow: number = 0.0
bind flow = level * 2
on pressed when level > 1 { level = 2.0 }
playtest "it flows" { player ada at start; ada presses k; expect flow > 3 }
"#
        .replace("; ", "\n")
        .as_str(),
    );
    assert!(said.contains("refused: level > 1; level is 0.4"), "{said}");
    let said = fails(
        r#"spot start at (0, 0, 0)
signal rung
on pressed { if 1 > 2 { emit rung } }
on rung { }
playtest "it rings" { player ada at start
  ada presses k
  expect rung
}
"#,
    );
    assert!(said.contains("scene.stoi:3 took pressed at 0.033s, and did not come to it"), "{said}");
    assert!(!said.contains("never came"), "{said}");
}

#[test]
fn a_fault_and_a_broken_rule_are_told_with_their_words_and_places() {
    let scene = |lines: &str| {
        format!(
            "spot start at (0, 0, 0)\nvar level: number = 0.9\nobject gate {{ door {{ over 100ms }} }}
playtest \"p\" {{ player ada at start\n  ada presses k\n  wait 1s\n}}\n{lines}\n"
        )
    };
    let said =
        fails(&scene("on pressed(k) { destroy gate; wait 0.2s; open gate }").replace("(k)", "(\"k\")"));
    assert!(
        said.contains("\"gate\" is gone: it was destroyed, or its scene was unloaded (scene.stoi:"),
        "{said}"
    );
    let said = fails(&scene("never level > 1\non pressed { level += 0.2 }"));
    assert!(said.contains("found     the rule was broken: never level > 1 (scene.stoi:8)"), "{said}");
}

#[test]
fn a_thousand_errors_and_a_thousand_slips_are_checked_and_told_of() {
    let many = |line: &dyn Fn(usize) -> String| (0..1000).map(line).collect::<Vec<_>>().concat();
    let slips = many(&|n| format!("var level_{n}: number = 0.4\non started {{ levle_{n} = 1.0 }}\n"));
    let wrong = many(&|n| format!("var level_{n}: number = \"high\"\n"));
    let folder = Folder::of(&[("slips.stoi", &slips), ("wrong.stoi", &wrong)]);
    let said =
        folder.call(&["check", "."]).ends(1).says("slips.stoi: 1000 errors").says("wrong.stoi: 1000 errors");
    assert_eq!(said.text.matches("  error  ").count(), 100);
    said.says("… and 1,900 more; --all prints them");
}
