//! The command, as people call it.

use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tempfile::TempDir;

fn stoicheon() -> Command {
    let mut command = Command::cargo_bin("stoicheon").unwrap();
    command.env("NO_COLOR", "1").current_dir(root());
    command
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// Exit status and standard output of a call; standard error too.
fn call(args: &[&str]) -> (i32, String, String) {
    let output = stoicheon().args(args).output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    (output.status.code().unwrap(), text(output.stdout), text(output.stderr))
}

/// A file of that text in a folder of its own.
fn file(name: &str, text: &str) -> (TempDir, String) {
    let folder = TempDir::new().unwrap();
    let path = folder.path().join(name);
    std::fs::write(&path, text).unwrap();
    (folder, path.display().to_string())
}

/// What was printed, without how long it took.
fn untimed(text: &str) -> String {
    let timed = |line: &str| line.contains(" failed") && line.contains(", in ");
    let line = |line: &str| {
        if timed(line) { line.rsplit_once(", in ").map(|(line, _)| line.to_owned()) } else { None }
    };
    text.lines().map(|one| line(one).unwrap_or_else(|| one.to_owned()) + "\n").collect()
}

fn demo() -> String {
    std::fs::read_to_string(root().join("demo/harrow_lock.stoi")).unwrap()
}

#[test]
fn the_demo_prints_its_trace_and_always_the_same_digest() {
    let (status, one, errors) = call(&["demo"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!(one);
    assert_eq!(one, call(&["demo"]).1);
    let (status, played, _) = call(&["play", "demo/canal"]);
    assert_eq!((status, played), (0, one), "what ships is the project in demo/");
}

#[test]
fn a_misspelled_signal_is_underlined_and_the_right_name_is_suggested() {
    let (_folder, path) = file("lock.stoi", &demo().replace("emit rung(strokes)", "emit runk(strokes)"));
    let (status, text, errors) = call(&["check", &path]);
    assert_eq!((status, errors.as_str()), (1, ""));
    insta::with_settings!({ filters => [(r"[^ \n]*lock\.stoi", "lock.stoi")] }, {
        insta::assert_snapshot!(text);
    });
    assert_eq!(call(&["play", &path]).0, 1, "a scene with errors is not played");
    assert_eq!(call(&["test", &path]).0, 1, "nor tested");
}

#[test]
fn what_is_wrong_with_the_call_is_said_in_a_plain_sentence() {
    let folder = TempDir::new().unwrap();
    let empty = folder.path().display().to_string();
    let (_binary, binary) = file("binary.stoi", "");
    std::fs::write(&binary, b"scene \xff\xfe").unwrap();
    let calls: [&[&str]; 10] = [
        &["check", "nowhere.stoi"],
        &["play", "nowhere.stoi"],
        &["test", "nowhere"],
        &["check", &empty],
        &["check", &binary],
        &["play", "demo/towpath.stoi", "--playtest", "no such"],
        &["play", "demo/towpath.stoi", "--for", "-1"],
        &["play", "demo/canal", "--load", "a.json", "--resume", "b.cbor"],
        &["play"],
        &["pley"],
    ];
    for args in calls {
        let (status, text, errors) = call(args);
        assert_eq!((status, text.as_str()), (2, ""), "{args:?}");
        assert!(errors.starts_with("error: "), "{args:?}: {errors}");
    }
    let (_, _, errors) = call(&["check", "nowhere.stoi"]);
    insta::assert_snapshot!(errors, @"error: there is no file or folder nowhere.stoi: give the path of a .stoi file, or of a folder of them");
}

#[test]
fn playtests_pass_one_line_each() {
    let (status, text, _) = call(&["test", "demo"]);
    assert_eq!(status, 0);
    insta::assert_snapshot!(untimed(&text), @r"
    passed  demo/canal/canal.stoi: two bargees go through the tunnel, one leaves, and the rest is remembered  (12.567s, 402 ticks)
    passed  demo/canal/lockside.stoi: nobody stays in the pool  (11.267s, 338 ticks)
    passed  demo/canal/tunnel.stoi: the sump sets you back at the mouth  (2.567s, 77 ticks)
    passed  demo/footbridge.stoi: each pad opens its gate, for as long as somebody stands on it  (9.133s, 274 ticks)
    passed  demo/harrow_lock.stoi: the gates take turns  (28.367s, 851 ticks)
    passed  demo/harrow_lock.stoi: every keeper is counted alone  (9.667s, 290 ticks)
    passed  demo/towpath.stoi: the bell rings for the first passage only  (10.900s, 327 ticks)
    7 playtests passed, 0 failed
    ");
}

#[test]
fn a_playtest_that_fails_says_what_was_expected_and_what_happened() {
    let falsified = [
        ("expect level == 0", "expect level == 2"),
        ("expect bell exactly 1", "expect bell exactly 2"),
        ("expect lower_gate.opened within 2s", "expect upper_gate.opened within 500ms"),
        ("expect upper_gate is closed\n  expect say", "expect upper_gate is open\n  expect say"),
        ("ada walks to gauge_post, presses wind", "never passages of ada == 1"),
    ];
    let mut reports = String::new();
    for (from, to) in falsified {
        assert!(demo().contains(from), "{from}");
        let (_folder, path) = file("lock.stoi", &demo().replace(from, to));
        let (status, text, _) = call(&["test", &path]);
        assert_eq!(status, 1, "{to}: {text}");
        reports.push_str(&untimed(&text).replace(&path, "lock.stoi"));
    }
    insta::assert_snapshot!(reports);
}

#[test]
fn a_broken_rule_fails_the_play_and_the_trace_names_it() {
    let gate = |name: &str| format!("object {name} {{ door {{ swing 85deg }} }}\n");
    let scene = "never upper is not closed and lower is not closed\non started { open upper; open lower }\n";
    let (_folder, path) = file("lock.stoi", &[&gate("upper"), &gate("lower"), scene].concat());
    let (status, text, _) = call(&["play", &path, "--for", "1"]);
    assert_eq!(status, 1);
    let broken = "rule broken: never upper is not closed and lower is not closed  lock.stoi:3";
    assert_eq!(text.matches(broken).count(), 1, "{text}");
}

#[test]
fn a_scene_without_a_playtest_runs_alone() {
    let (_folder, path) = file("bell.stoi", "effect bell\non started { wait 1s; perform bell }\n");
    let (status, text, _) = call(&["play", &path, "--for", "2", "--no-places"]);
    assert_eq!(status, 0);
    insta::assert_snapshot!(text);
}

#[test]
fn a_runaway_tick_fails_the_play_and_names_the_loop() {
    let (_folder, path) = file("loop.stoi", "signal ping\non started { emit ping }\non ping { emit ping }\n");
    let (status, text, _) = call(&["play", &path, "--for", "1"]);
    assert_eq!(status, 1);
    assert!(text.contains("did not settle"), "{text}");
    assert!(text.contains("loop.stoi:3 → ping"), "{text}");
}

#[test]
fn findings_and_results_come_as_json_too() {
    let (_folder, path) = file("lock.stoi", "signal rung\non rungg { emit rung }\n");
    let (status, text, _) = call(&["check", "--json", &path]);
    assert_eq!(status, 1);
    let findings: serde_json::Value = serde_json::from_str(&text).unwrap();
    let found = &findings["findings"][1];
    assert_eq!(found["code"], "unknown-signal");
    assert_eq!((&found["line"], &found["column"]), (&2.into(), &4.into()));
    assert_eq!(found["help"], "did you mean `rung`?");

    let (status, text, _) = call(&["test", "--json", "demo"]);
    assert_eq!(status, 0);
    let results: serde_json::Value = serde_json::from_str(&text).unwrap();
    assert_eq!(results["playtests"][0]["passed"], true);
    assert_eq!(results["playtests"][0]["ticks"], 402);
}

#[test]
fn fmt_sets_files_keeps_comments_and_changes_nothing_a_second_time() {
    let (_folder, path) = file("lock.stoi", "// one\nvar  level:number=1\n");
    let (status, text, _) = call(&["fmt", "--check", &path]);
    assert_eq!(status, 1);
    assert!(
        text.contains("not formatted as `stoicheon fmt` formats it")
            && text.ends_with("1 file, 1 to be formatted\n")
    );
    assert_eq!(call(&["fmt", &path]).0, 0);
    assert_eq!(std::fs::read_to_string(&path).unwrap(), "// one\nvar level: number = 1\n");
    let (status, text, _) = call(&["fmt", &path]);
    assert_eq!((status, text.as_str()), (0, "1 file, 0 formatted\n"));
}

#[test]
fn fmt_leaves_a_file_with_faults_alone() {
    let faulty = "var  level number = 1\n";
    let (_folder, path) = file("lock.stoi", faulty);
    let (status, text, _) = call(&["fmt", &path]);
    assert_eq!(status, 1);
    assert!(text.contains("expected `:`") && text.contains("1 error, 0 warnings, nothing changed"), "{text}");
    assert_eq!(std::fs::read_to_string(&path).unwrap(), faulty);
}

#[test]
fn everything_that_ships_is_set_and_good_and_passes() {
    let (status, text, _) = call(&["fmt", "--check", "demo"]);
    assert_eq!((status, text.as_str()), (0, "7 files, 0 to be formatted\n"));
    assert_eq!(call(&["check", "demo"]).0, 0);
    let (status, text, _) = call(&["test", "demo"]);
    assert_eq!(status, 0, "{text}");
    assert!(untimed(&text).ends_with("7 playtests passed, 0 failed\n"), "{text}");
}

#[test]
fn the_places_of_a_scene_become_wiring() {
    let folder = TempDir::new().unwrap();
    let file = |name: &str| folder.path().join(name).display().to_string();
    let (status, text, _) = call(&["convert", "demo/harrow.gltf"]);
    assert_eq!(status, 0);
    assert!(text.contains("object towpath_pad at (4, 0, 10) of quay { zone box (2, 1, 2) }\n"), "{text}");
    let places = file("places.stoi");
    assert_eq!(call(&["convert", "demo/harrow.gltf", &places]).0, 0);
    assert_eq!(std::fs::read_to_string(&places).unwrap(), text);
    let (status, said, _) = call(&["check", &places]);
    assert!(status == 0 && said.contains("good (8 objects"), "{said}");
    assert_eq!(call(&["fmt", "--check", &places]).0, 0);

    // Neither what is no wiring nor what cannot be read is written, and what was there stays.
    let (status, _, errors) = call(&["convert", "demo/harrow.gltf", &file("places.json")]);
    assert!(status == 2 && errors.contains("it becomes wiring"), "{errors}");
    std::fs::write(file("torn.glb"), b"glTF\x02\0\0\0\xff").unwrap();
    let (status, said, _) = call(&["convert", &file("torn.glb"), &places]);
    assert!(status == 1 && said.contains("torn.glb: expected glTF 2.0"), "{said}");
    assert_eq!(std::fs::read_to_string(&places).unwrap(), text);
    // A letter that names can have in Rust, and not in wiring: it is told of and not written.
    let odd = "{ \"asset\": { \"version\": \"2.0\" }, \"scenes\": [{ \"nodes\": [0] }], \"nodes\": [{ \"name\": \"k\u{93e}\" }] }";
    std::fs::write(file("odd.gltf"), odd).unwrap();
    let (status, said, _) = call(&["convert", &file("odd.gltf"), &places]);
    assert!(status == 1 && said.contains("  (syntax)") && said.contains("nothing changed"), "{said}");
    assert_eq!(std::fs::read_to_string(&places).unwrap(), text);
    let (status, _, errors) = call(&["convert", &file("none.gltf")]);
    assert!(status == 2 && errors.contains("there is no file"), "{errors}");

    // Or wiring takes the places as it is read.
    let (status, said, _) = call(&["test", "demo/footbridge.stoi"]);
    assert!(status == 0 && said.contains("1 playtest passed"), "{said}");
    let (_, path) = (&folder, file("wired.stoi"));
    std::fs::write(&path, "places \"torn.glb\"\nplaces \"here.gltf\"\nobject gate { zone told }\n").unwrap();
    std::fs::write(file("here.gltf"), odd.replace("k\u{93e}", "gate")).unwrap();
    let (status, said, _) = call(&["check", &path]);
    assert!(
        status == 1 && said.contains("expected glTF 2.0") && said.contains("1 error, 0 warnings"),
        "{said}"
    );
    std::fs::write(file("torn.glb"), odd).unwrap();
    let (status, said, _) = call(&["check", &path]);
    assert!(status == 1 && said.contains("torn.glb (as wiring):1:9"), "{said}");
}

#[test]
fn convert_goes_there_and_back_and_says_what_a_file_lacks() {
    let (folder, path) = file("lock.stoi", "scene lock\nobject gate { door { over 1s } }\n");
    let json = folder.path().join("lock.json").display().to_string();
    let back = folder.path().join("back.stoi").display().to_string();
    assert_eq!(call(&["convert", &path, &json]).0, 0);
    assert_eq!(call(&["convert", &json, &back]).0, 0);
    let text = std::fs::read_to_string(&back).unwrap();
    assert_eq!(text, "scene lock\nobject gate {\n  door { over 1s }\n}\n");
    let (status, schema, _) = call(&["convert", "--schema"]);
    assert_eq!(status, 0);
    assert_eq!(schema, std::fs::read_to_string(root().join("docs/wiring.schema.json")).unwrap());
    for (text, wanted) in [
        ("{", "this is not a wiring file in JSON"),
        ("[]", "expected an object with `scene`"),
        (r#"{"sceen": "lock"}"#, "unknown field `sceen`"),
        (r#"{"items": [{"object": {"name": "two words"}}]}"#, "found `words`"),
    ] {
        std::fs::write(&json, text).unwrap();
        let (status, said, _) = call(&["convert", &json]);
        assert!(status == 1 && said.contains(wanted), "{text}: {said}");
    }
    let (status, _, errors) = call(&["convert"]);
    assert!(status == 2 && errors.contains("give a .stoi, .json or .gltf file"), "{errors}");
}

/// A game that has a part of its own, as its catalogue says.
const GAME: &str = r#"{
  "parts": [{
    "name": "windlass",
    "states": ["slack", "winding", "taut"],
    "signals": [{ "name": "strained", "fields": [{ "name": "load", "type": "number" }] }],
    "commands": ["wind", "slacken"],
    "settings": [{ "name": "rope", "type": "number", "required": true }]
  }],
  "signals": [{ "name": "storm", "fields": [{ "name": "force", "type": "whole" }] }],
  "effects": [{ "name": "creak" }],
  "roles": [{ "name": "harbourmaster", "signals": [{ "name": "called" }] }]
}"#;

#[test]
fn wiring_for_a_game_is_checked_against_its_catalogue_without_the_game() {
    let text = "object post { windlass rope 12 }\n\
        on post.strained when load > 3 and post is not taut { wind post; perform creak }\n\
        on storm(9) { slacken post }\n\
        on harbourmaster.called { wind post }\n";
    let (folder, path) = file("post.stoi", text);
    let catalogue = folder.path().join("game.json").display().to_string();
    std::fs::write(&catalogue, GAME).unwrap();
    let (status, said, _) = call(&["check", "--catalogue", &catalogue, &path]);
    assert_eq!(status, 0, "{said}");
    assert_eq!(call(&["check", &path]).0, 1, "without the catalogue nobody knows a windlass");

    // A file can name the catalogue itself.
    std::fs::write(&path, format!("catalogue \"game.json\"\n{text}")).unwrap();
    let (status, said, _) = call(&["catalogue", &path]);
    assert!(status == 0 && said.contains("windlass") && said.contains("harbourmaster"), "{said}");
    assert_eq!(call(&["check", &path]).0, 0);
    let (status, said, _) = call(&["play", &path]);
    assert!(status == 1 && said.contains("windlass"), "what cannot be made here is not played: {said}");

    for (from, to, wanted) in [
        ("post.strained when", "post.straned when", "did you mean `strained`?"),
        ("wind post;", "winde post;", "did you mean `wind`?"),
        ("load > 3", "laod > 3", "did you mean `load`?"),
        ("not taut", "not taught", "did you mean `taut`?"),
        ("rope 12", "rope \"a\"", "`rope` takes a number, found text"),
        ("rope 12", "", "a windlass needs the setting `rope`"),
        ("storm(9)", "storm(\"a\")", "`force` is a whole number, found text"),
        ("harbourmaster.called", "harbormaster.called", "did you mean `harbourmaster`?"),
    ] {
        std::fs::write(&path, format!("catalogue \"game.json\"\n{}", text.replace(from, to))).unwrap();
        let (status, said, _) = call(&["check", &path]);
        assert!(status == 1 && said.contains(wanted), "{to}: {said}");
    }
    std::fs::write(&catalogue, "{\"prats\": []}").unwrap();
    let (status, said, _) = call(&["check", &path]);
    assert!(status == 1 && said.contains("unknown field `prats`"), "{said}");
    let (status, _, errors) = call(&["check", "--catalogue", &catalogue, &path]);
    assert!(status == 2 && errors.contains("is not a catalogue"), "{errors}");
}

#[test]
fn the_catalogue_is_shown_to_people_and_to_programs() {
    let (status, page, _) = call(&["catalogue"]);
    assert_eq!(status, 0);
    insta::assert_snapshot!(page);
    let (status, json, _) = call(&["catalogue", "--json"]);
    assert_eq!(status, 0);
    let (_folder, path) = file("game.json", &json);
    assert_eq!(call(&["catalogue", "--catalogue", &path]).1, page, "it can be read as it was written");
}

#[test]
fn a_project_names_its_scenes_and_each_is_checked_with_what_all_share() {
    let copy = |from: &str, to: &str| {
        let folder = TempDir::new().unwrap();
        for name in ["canal.stoi", "lockside.stoi", "tunnel.stoi", "shared.stoi"] {
            let text = std::fs::read_to_string(root().join("demo/canal").join(name)).unwrap();
            std::fs::write(folder.path().join(name), text.replace(from, to)).unwrap();
        }
        folder
    };
    for (from, to, wanted) in [
        ("arrival in tunnel", "arival in tunnel", "did you mean `south_mouth.arrival`?"),
        ("in tunnel", "in tunel", "did you mean `tunnel`?"),
        ("\"tunnel.stoi\"", "\"tunel.stoi\"", "the scene \"tunel.stoi\" could not be read"),
        ("\"shared.stoi\"", "\"shard.stoi\"", "the file \"shard.stoi\" could not be read"),
        ("perform splash(who.place)", "perform splash(who)", "in this use of the kit"),
        ("scene tunnel", "", "does not say which scene it is"),
        ("scene tunnel", "scene lockside", "two files are the scene `lockside`"),
        ("left frozen", "left frosen", "did you mean `frozen`?"),
        ("players up to 8", "players up to 0", "expected a whole number above 0"),
        ("players up to 8", "ticks 5000 per second", "expected a tick rate from 1 to 1000 per second"),
        ("players up to 8", "seeds 1, two", "expected"),
        ("players up to 8", "object post at (0, 0, 0)", "`post` is not in a scene"),
        ("scene lockside\n", "scene lockside\nmanager keeper {\n}", "stays when scenes change"),
        ("scene tunnel\n", "scene tunnel\neffect say(times: whole)", "`say`"),
        ("emit toll_due", "emit tol_due", "did you mean `toll_due`?"),
        ("ada in tunnel and", "ada in tunel and", "did you mean `tunnel`?"),
        ("tunnel.lantern.lit\n\n", "tunnel.lantern.lid\n\n", "has no signal `lid`"),
        ("at weir_steps in lockside", "at weir_step in lockside", "did you mean `weir_steps`?"),
        ("answers tunnel.lantern", "answers tunnel.sump", "`tunnel.sump` has no prompt"),
        ("in order splash", "in order spash", "did you mean `splash`?"),
    ] {
        let folder = copy(from, to);
        let path = folder.path().join("canal.stoi").display().to_string();
        let (status, said, _) = call(&["check", &path]);
        assert!(status == 1 && said.contains(wanted), "{to}: {said}");
    }
    // A signal that all scenes share is heard in any of them, or in none.
    let folder = copy("signal toll_due\n", "signal toll_due\nsignal unheard\non toll_due { emit unheard }\n");
    let (status, said, _) = call(&["check", &folder.path().display().to_string()]);
    assert!(status == 0 && said.matches("no wire listens").count() == 1, "{said}");
    let folder = copy("", "");
    let path = folder.path().join("canal.stoi").display().to_string();
    let (status, said, _) = call(&["play", &path, "--scene", "tunnel", "--no-places"]);
    assert!(status == 0 && said.contains("is sent to tunnel.south_mouth.arrival"), "{said}");
    let (status, _, errors) = call(&["play", &path, "--scene", "tunel"]);
    assert!(status == 2 && errors.contains("it has lockside, tunnel"), "{errors}");
    // A folder is read as a project, and no part of it once more alone.
    let (status, said, _) = call(&["check", &folder.path().display().to_string()]);
    assert_eq!((status, said.lines().count()), (0, 3), "{said}");
}

#[test]
fn a_new_project_checks_plays_and_passes_at_once() {
    let folder = TempDir::new().unwrap();
    let made = folder.path().join("games").join("ferry_crossing");
    let path = made.display().to_string();
    let (status, text, _) = call(&["new", &path]);
    assert_eq!(status, 0);
    insta::assert_snapshot!(text.replace(&path, "ferry_crossing"), @r"
    made ferry_crossing/ferry_crossing.stoi
    made ferry_crossing/landing.stoi

      stoicheon check ferry_crossing
      stoicheon test ferry_crossing
      stoicheon play ferry_crossing/ferry_crossing.stoi
    ");
    for (command, last) in [
        ("check", "landing.stoi: good (2 objects, 3 wires, 2 playtests)"),
        ("test", "2 playtests passed, 0 failed"),
        ("play", ""),
    ] {
        let (status, text, errors) = call(&[command, &path]);
        assert_eq!((status, errors.as_str()), (0, ""), "{command}");
        assert!(untimed(&text).trim_end().ends_with(last), "{command}: {text}");
    }
    assert_eq!(call(&["fmt", "--check", &path]).0, 0);

    // A folder that is there stays as it is; a name that is none makes nothing.
    let before = std::fs::read_to_string(made.join("landing.stoi")).unwrap();
    let (status, _, errors) = call(&["new", &path]);
    assert_eq!(status, 2);
    assert!(errors.contains("already exists: give the name of a new folder"), "{errors}");
    assert_eq!(std::fs::read_to_string(made.join("landing.stoi")).unwrap(), before);
    let (status, _, errors) = call(&["new", &folder.path().join("2 gates").display().to_string()]);
    assert_eq!(status, 2);
    assert!(errors.contains("named with letters, digits and underscores"), "{errors}");
    let left: Vec<_> =
        std::fs::read_dir(folder.path()).unwrap().map(|entry| entry.unwrap().file_name()).collect();
    assert_eq!(left, ["games"], "nothing is left lying about");
}

#[test]
fn a_folder_is_played_by_its_project_and_asked_about_when_there_are_several() {
    let (status, text, _) = call(&["play", "demo/canal"]);
    assert_eq!(status, 0);
    assert!(text.starts_with("canal (2 scenes, "), "{text}");
    let (status, _, errors) = call(&["play", "crates/script/tests/scenes"]);
    assert_eq!(status, 2);
    assert!(errors.contains("has 6 scenes and no project: give the path of the one to play"), "{errors}");
}
