//! The command, as people call it.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

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

fn demo() -> String {
    std::fs::read_to_string(root().join("demo/harrow_lock.stoi")).unwrap()
}

#[test]
fn the_demo_prints_its_trace_and_always_the_same_digest() {
    let (status, one, errors) = call(&["demo"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!(one);
    assert_eq!(one, call(&["demo"]).1);
    let (status, played, _) = call(&["play", "demo/harrow_lock.stoi"]);
    assert_eq!((status, played), (0, one), "the shipped scene is the file in demo/");
}

#[test]
fn a_misspelled_signal_is_underlined_and_the_right_name_is_suggested() {
    let (_folder, path) = file("lock.stoi", &demo().replace("emit rung(1)", "emit runk(1)"));
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
    let calls: [&[&str]; 9] = [
        &["check", "nowhere.stoi"],
        &["play", "nowhere.stoi"],
        &["test", "nowhere"],
        &["check", &empty],
        &["check", &binary],
        &["play", "demo/towpath.stoi", "--playtest", "no such"],
        &["play", "demo/towpath.stoi", "--for", "-1"],
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
    insta::assert_snapshot!(text, @r"
    passed  demo/harrow_lock.stoi: the gates take turns  (26.333s, 790 ticks)
    passed  demo/towpath.stoi: the bell rings for the first passage only  (10.900s, 327 ticks)
    2 playtests passed, 0 failed
    ");
}

#[test]
fn a_playtest_that_fails_says_what_was_expected_and_what_happened() {
    let falsified = [
        ("expect level == 0", "expect level == 0.5"),
        ("expect bell exactly 1", "expect bell exactly 2"),
        ("expect lower_gate.opened within 2s", "expect upper_gate.opened within 500ms"),
        ("expect upper_gate is closed\n  expect passages", "expect upper_gate is open\n  expect passages"),
        ("ada walks to gauge_post, presses wind", "never passages == 1"),
    ];
    let mut reports = String::new();
    for (from, to) in falsified {
        assert!(demo().contains(from), "{from}");
        let (_folder, path) = file("lock.stoi", &demo().replace(from, to));
        let (status, text, _) = call(&["test", &path]);
        assert_eq!(status, 1, "{to}");
        reports.push_str(&text.replace(&path, "lock.stoi"));
    }
    insta::assert_snapshot!(reports);
}

#[test]
fn a_broken_rule_fails_the_play_and_the_trace_names_it() {
    let gate = |name: &str| format!("object {name} {{ door {{ swing 85deg }} }}\n");
    let scene = "never upper is not closed and lower is not closed\non ready { open upper; open lower }\n";
    let (_folder, path) = file("lock.stoi", &[&gate("upper"), &gate("lower"), scene].concat());
    let (status, text, _) = call(&["play", &path, "--for", "1"]);
    assert_eq!(status, 1);
    let broken = "rule broken: never upper is not closed and lower is not closed  lock.stoi:3";
    assert_eq!(text.matches(broken).count(), 1, "{text}");
}

#[test]
fn a_scene_without_a_playtest_runs_alone() {
    let (_folder, path) = file("bell.stoi", "effect bell\non ready { wait 1s; perform bell }\n");
    let (status, text, _) = call(&["play", &path, "--for", "2", "--no-places"]);
    assert_eq!(status, 0);
    insta::assert_snapshot!(text);
}

#[test]
fn a_runaway_tick_fails_the_play_and_names_the_loop() {
    let (_folder, path) = file("loop.stoi", "signal ping\non ready { emit ping }\non ping { emit ping }\n");
    let (status, text, _) = call(&["play", &path, "--for", "1"]);
    assert_eq!(status, 1);
    assert!(text.contains("did not come to rest"), "{text}");
    assert!(text.contains("loop.stoi:3 → ping"), "{text}");
}

#[test]
fn findings_and_results_come_as_json_too() {
    let (_folder, path) = file("lock.stoi", "signal rung\non rungg { emit rung }\n");
    let (status, text, _) = call(&["check", "--json", &path]);
    assert_eq!(status, 1);
    let findings: serde_json::Value = serde_json::from_str(&text).unwrap();
    let found = &findings.as_array().unwrap()[1];
    assert_eq!(found["code"], "unknown-signal");
    assert_eq!((&found["line"], &found["column"]), (&2.into(), &4.into()));
    assert_eq!(found["help"], "did you mean `rung`?");

    let (status, text, _) = call(&["test", "--json", "demo"]);
    assert_eq!(status, 0);
    let results: serde_json::Value = serde_json::from_str(&text).unwrap();
    assert_eq!(results[0]["passed"], true);
    assert_eq!(results[0]["ticks"], 790);
}
