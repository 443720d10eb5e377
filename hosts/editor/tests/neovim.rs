//! The shipped canal in an editor: Neovim as Debian packages it, with its own client, led by a script.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use std::{
    path::{Path, PathBuf},
    process::Command,
};

use serde_json::Value;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The command, built.
fn command() -> PathBuf {
    let built = Command::new(env!("CARGO"))
        .current_dir(root())
        .args(["build", "--quiet", "--locked", "-p", "stoicheon-cli", "--message-format=json"])
        .output()
        .unwrap();
    assert!(built.status.success(), "{}", String::from_utf8_lossy(&built.stderr));
    let lines = String::from_utf8(built.stdout).unwrap();
    let said: Vec<Value> = lines.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let made = said.iter().find_map(|line| line["executable"].as_str());
    PathBuf::from(made.unwrap())
}

/// A copy of the canal.
fn canal() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for file in std::fs::read_dir(root().join("demo/canal")).unwrap() {
        let file = file.unwrap().path();
        std::fs::copy(&file, folder.path().join(file.file_name().unwrap())).unwrap();
    }
    folder
}

#[test]
fn the_canal_is_written_in_an_editor() {
    let folder = canal();
    let report = folder.path().join("report.json");
    let output = Command::new("nvim")
        .args(["--headless", "--clean", "-S"])
        .arg(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/drive.lua"))
        .env("STOI_COMMAND", command())
        .env("STOI_FOLDER", folder.path())
        .env("STOI_REPORT", &report)
        .env("XDG_STATE_HOME", folder.path())
        .output()
        .unwrap();
    let seen = std::fs::read_to_string(&report);
    let seen = seen.unwrap_or_else(|_| panic!("{}", String::from_utf8_lossy(&output.stderr)));
    let seen: Value = serde_json::from_str(&seen).unwrap();
    assert_eq!(seen["trouble"], Value::Null, "{seen:#}");
    assert_eq!((&seen["began"], &seen["settled"]), (&Value::Bool(true), &Value::Bool(true)));
    assert_eq!(seen["at_first"], serde_json::json!([]));

    let slip = &seen["slip"][0];
    assert_eq!((slip["line"].as_u64(), slip["column"].as_u64()), (Some(23), Some(8)), "{seen:#}");
    assert_eq!(slip["code"], "unknown-object");
    assert!(slip["message"].as_str().unwrap().contains("did you mean `toll_gate`?"), "{slip}");

    let offered: Vec<&str> =
        seen["offered"].as_array().unwrap().iter().map(|item| item.as_str().unwrap()).collect();
    assert!(offered.contains(&"toll_gate") && !offered.contains(&"weir_pool"), "{offered:?}");
    assert_eq!(seen["mended"], serde_json::json!([]));

    // The renaming is on disk, in three files and no others, and nothing is wrong with it.
    assert_eq!(seen["after_rename"], serde_json::json!([]));
    let names = ["canal.stoi", "lockside.stoi", "shared.stoi", "tunnel.stoi"];
    let counts = names.map(|name| {
        let text = std::fs::read_to_string(folder.path().join(name)).unwrap();
        (text.matches("safety_net").count(), text.matches("catch_floor").count())
    });
    assert_eq!(counts, [(0, 0), (1, 0), (1, 0), (1, 0)]);
    let checked = Command::new(command()).arg("check").arg(folder.path()).output().unwrap();
    assert!(checked.status.success(), "{}", String::from_utf8_lossy(&checked.stdout));

    assert_eq!(seen["formatted"], true, "{seen:#}");
    assert_eq!(seen["ended"], true);
}
