//! Projects over several calls: what is saved, what is put aside, and how playtests are told of.

use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tempfile::TempDir;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// Exit status, standard output and standard error of a call.
fn call(args: &[&str]) -> (i32, String, String) {
    let mut command = Command::cargo_bin("stoicheon").unwrap();
    let output = command.env("NO_COLOR", "1").current_dir(root()).args(args).output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    (output.status.code().unwrap(), text(output.stdout), text(output.stderr))
}

/// The demo's project in a folder of its own, with something replaced.
fn canal(from: &str, to: &str) -> (TempDir, String) {
    let folder = TempDir::new().unwrap();
    for name in ["canal.stoi", "lockside.stoi", "tunnel.stoi", "shared.stoi"] {
        let text = std::fs::read_to_string(root().join("demo/canal").join(name)).unwrap();
        std::fs::write(folder.path().join(name), text.replace(from, to)).unwrap();
    }
    let path = folder.path().display().to_string();
    (folder, path)
}

/// The line with the digest.
fn digest(text: &str) -> &str {
    let line = text.lines().rfind(|line| line.starts_with("digest ")).unwrap();
    line.split_once("  ").unwrap().0
}

#[test]
fn a_save_is_read_by_people_and_taken_up_by_another_call() {
    let (folder, project) = canal("", "");
    for name in ["kept.json", "kept.cbor"] {
        let kept = folder.path().join(name).display().to_string();
        let (status, said, errors) = call(&["play", &project, "--save", &kept]);
        assert_eq!((status, errors.as_str()), (0, ""), "{said}");
        let (status, said, errors) = call(&["play", &project, "--load", &kept, "--for", "1"]);
        assert_eq!((status, errors.as_str()), (0, ""), "{said}");
        assert!(said.contains("ada joins as player 1") && said.contains("bob joins as player 2"), "{said}");
        // The same world, saved again, remembers the same, one tick later.
        let again = folder.path().join(format!("again_{name}")).display().to_string();
        call(&["play", &project, "--load", &kept, "--for", "0.03", "--save", &again]);
        let [one, two] = [&kept, &again].map(|file| {
            let save = stoicheon_store::read::<stoicheon_core::Save>(Path::new(file)).unwrap();
            let mut value = serde_json::to_value(save).unwrap();
            let tick = value["tick"].take().as_u64().unwrap();
            (tick, value)
        });
        assert_eq!((one.0 + 1, one.1), two);
    }
    let text = std::fs::read_to_string(folder.path().join("kept.json")).unwrap();
    insta::assert_snapshot!(text);
    let json = std::fs::metadata(folder.path().join("kept.json")).unwrap().len();
    let cbor = std::fs::metadata(folder.path().join("kept.cbor")).unwrap().len();
    assert!(cbor * 2 < json, "{cbor} bytes of CBOR, {json} of JSON");
}

#[test]
fn a_world_put_aside_goes_on_in_another_call_with_the_same_digest() {
    let (folder, project) = canal("", "");
    let aside = folder.path().join("aside.cbor").display().to_string();
    let twice = folder.path().join("twice.json").display().to_string();
    // One way in one piece, one in three; the tunnel is frozen or not, whatever the playtest left.
    assert_eq!(call(&["play", &project, "--suspend", &aside]).0, 0);
    let (status, whole, _) = call(&["play", &project, "--resume", &aside, "--for", "3"]);
    assert_eq!(status, 0);
    call(&["play", &project, "--resume", &aside, "--for", "1", "--suspend", &twice]);
    let (_, pieces, _) = call(&["play", &project, "--resume", &twice, "--for", "2"]);
    assert_eq!(digest(&whole), digest(&pieces));

    // A project that was changed meanwhile is told of, name by name.
    let (_other, changed) = canal("over 1s", "over 2s");
    let (status, said, errors) = call(&["play", &changed, "--resume", &aside]);
    assert_eq!(status, 2, "{said}");
    insta::assert_snapshot!(errors.replace(&aside, "aside.cbor"), @"error: aside.cbor was not loaded: the snapshot does not fit this world: the scene lockside is written otherwise now");
}

#[test]
fn a_save_of_other_wiring_is_taken_up_as_far_as_it_fits() {
    let (folder, project) = canal("", "");
    let kept = folder.path().join("kept.json").display().to_string();
    call(&["play", &project, "--save", &kept]);
    for (from, to, wanted) in [
        ("tolls", "dues", "the save has a variable \"tolls\", which is not remembered here: left out"),
        ("tolls", "dues", "the save has no variable \"dues\": it starts with its first value"),
        (
            "over 1s; remember",
            "over 1s",
            "the save has a part \"lockside.toll_gate.door\", which is not remembered",
        ),
    ] {
        let (_other, changed) = canal(from, to);
        let (status, said, errors) = call(&["play", &changed, "--load", &kept, "--for", "1"]);
        assert!(said.contains(wanted), "{to}: {status} {said} {errors}");
    }
    let text = std::fs::read_to_string(&kept).unwrap().replace("\"tolls\": 0", "\"tolls\": \"many\"");
    std::fs::write(&kept, text).unwrap();
    let (status, said, _) = call(&["play", &project, "--load", &kept, "--for", "1"]);
    let wanted = "expected whole for variable \"tolls\", found text: it starts with its first value";
    assert!(status == 0 && said.contains(wanted), "{said}");
}

#[test]
fn files_that_cannot_be_taken_up_are_told_of_and_change_nothing() {
    let (folder, project) = canal("", "");
    let path = |name: &str| folder.path().join(name).display().to_string();
    call(&["play", &project, "--save", &path("kept.json"), "--suspend", &path("aside.cbor")]);
    let good = std::fs::read_to_string(path("kept.json")).unwrap();
    let whole = std::fs::read(path("aside.cbor")).unwrap();
    let write = |name: &str, bytes: &[u8]| std::fs::write(path(name), bytes).unwrap();
    write("empty.json", b"");
    write("foreign.json", b"PK\x03\x04");
    write("other.json", br#"{"name": "canal"}"#);
    write("half.json", &good.as_bytes()[..good.len() / 2]);
    write("newer.json", good.replace("\"version\": 2", "\"version\": 7").as_bytes());
    write("unknown.json", good.replace("\"tick\"", "\"tock\"").as_bytes());
    write("half.cbor", &whole[..whole.len() / 2]);
    write("more.cbor", &[&whole[..], b"x"].concat());
    for (how, name, wanted) in [
        ("--load", "nowhere.json", "could not be read"),
        ("--load", "empty.json", "found an empty file"),
        ("--load", "foreign.json", "expected JSON or CBOR, found something else"),
        ("--load", "other.json", "this is not a stoicheon file"),
        ("--load", "half.json", "it ends too early"),
        ("--load", "newer.json", "expected a save of form 2 or before, found one of form 7"),
        ("--load", "unknown.json", "unknown field `tock`"),
        ("--load", "aside.cbor", "expected what a world was told to remember, found \"stoicheon world\""),
        ("--resume", "kept.json", "expected a whole world that was put aside, found \"stoicheon save\""),
        ("--resume", "half.cbor", "not a stoicheon file, or it is damaged"),
        ("--resume", "more.cbor", "more bytes follow its end"),
    ] {
        let (status, text, errors) = call(&["play", &project, how, &path(name)]);
        assert!(status == 2 && errors.contains(wanted), "{name}: {status} {errors}");
        assert!(!text.contains("tick 1\n"), "{name}: nothing was run");
    }
    // What cannot be written leaves what was there.
    let nowhere = path("no/such/folder/kept.json");
    let (status, _, errors) = call(&["play", &project, "--save", &nowhere]);
    assert!(status == 2 && errors.contains("could not be written"), "{errors}");
}

#[test]
fn a_seed_that_fails_is_named() {
    let text = "playtest \"chance\" seeds 3, 4, 5 {\n  wait 0.1s\n  expect drawn > 0.5\n}\n\
        var drawn: number = 0\non started { drawn = random() }\n";
    let folder = TempDir::new().unwrap();
    let path = folder.path().join("dice.stoi").display().to_string();
    std::fs::write(&path, text).unwrap();
    let (status, said, _) = call(&["test", &path]);
    assert_eq!(status, 1);
    let said = said.replace(&path, "dice.stoi");
    let lines: Vec<_> = said.lines().filter(|line| line.contains("seed")).collect();
    insta::assert_snapshot!(lines.join("\n"));
}

#[test]
fn a_playtest_that_fails_shows_the_chain_of_causes_of_the_nearest_miss() {
    let (_folder, project) = canal("tolls of ada == 1 and", "never_so and");
    assert_eq!(call(&["test", &project]).0, 1, "a name nobody knows is found before anything runs");
    let (_folder, project) = canal(
        "on toll_gate.answered when toll_gate is closed",
        "on toll_gate.answered when toll_gate is open",
    );
    let (status, said, _) = call(&["test", &project]);
    assert_eq!(status, 1);
    let said = said.replace(&format!("{project}/"), "");
    let report: Vec<_> = said.lines().take_while(|line| !line.starts_with("passed")).collect();
    insta::assert_snapshot!(report.join("\n"));
}

#[test]
fn two_hundred_playtests_of_the_demo_run_together() {
    let text = std::fs::read_to_string(root().join("demo/canal/canal.stoi")).unwrap();
    let seeds: Vec<_> = (1..=200).map(|seed| seed.to_string()).collect();
    let seeded = text.replace("is remembered\" {", &format!("is remembered\" seeds {} {{", seeds.join(", ")));
    let (folder, project) = canal("", "");
    std::fs::write(folder.path().join("canal.stoi"), seeded).unwrap();
    let (status, said, _) = call(&["test", &project]);
    assert_eq!(status, 0);
    let last = said.lines().last().unwrap();
    assert!(last.starts_with("202 playtests passed, 0 failed, in "), "{last}");
}
