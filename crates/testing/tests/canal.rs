//! The cookbook and the demo, run as a game runs its own playtests; and before that, what is said where playtests fail,
//! where files have faults, and where there is nothing.

use std::{
    fs,
    path::Path,
    process::{Command, ExitCode},
};

use stoicheon_core::{Catalogue, World, payload};
use stoicheon_testing::{Playtests, playtests};

payload! {
    /// A boat went through.
    struct Passed { tons: f64 }
}

/// Set where this very program runs the playtests of another folder.
const FOLDER: &str = "STOICHEON_PLAYTESTS_OF";

fn main() -> ExitCode {
    if let Ok(folder) = std::env::var(FOLDER) {
        let catalogue = Catalogue::built_in().with_signal::<Passed>("passed", "A boat went through.");
        // The game's own part in it: a boat of more than ten tons rings the bell.
        return Playtests::of_game(
            folder,
            catalogue,
            || 0.0,
            |world: &mut World<f64>| {
                let passed = world.declare_signal::<Passed>("passed")?;
                let bell = world.declare_signal::<()>("bell")?;
                world.on(passed).run(move |tons: &mut f64, passed, cx| {
                    *tons += passed.tons;
                    if *tons > 10.0 { cx.emit(bell, ()) } else { Ok(()) }
                })?;
                Ok(())
            },
        )
        .run();
    }
    what_is_said();
    let canal = concat!(env!("CARGO_MANIFEST_DIR"), "/../../");
    playtests(format!("{canal}cookbook")).and(format!("{canal}demo")).run()
}

/// What the tests of a folder print, and whether they pass.
fn tested(files: &[(&str, &str)], arguments: &[&str]) -> (String, bool) {
    let folder = tempfile::tempdir().expect("a folder can be made");
    for (name, text) in files {
        fs::write(folder.path().join(name), text).expect("a file can be written");
    }
    told(folder.path(), arguments)
}

fn told(folder: &Path, arguments: &[&str]) -> (String, bool) {
    let this = std::env::current_exe().expect("this program is somewhere");
    let mut again = Command::new(this);
    again.env(FOLDER, folder).args(["--color", "never", "--test-threads", "1"]).args(arguments);
    let output = again.output().expect("it can be run again");
    let text = String::from_utf8_lossy(&output.stdout).replace(&format!("{}/", folder.display()), "");
    let lines = text.lines().filter(|line| !line.starts_with("test result")).map(str::trim_end);
    (lines.collect::<Vec<_>>().join("\n"), output.status.success())
}

const LOCK: &str = "\
signal bell
spot bank at (0, 0, 0)
object quay at (4, 0, 0) { zone box (2, 2, 2) admits player }
object gate { door { swing 85deg, over 1s } }
on quay.entered { emit passed(6) }
on bell { open gate }

playtest \"the second boat rings the bell\" seeds 1, 2 {
  player ada at bank
  ada walks to quay
  wait 1s
  expect gate is closed
  ada walks to bank
  ada walks to quay
  wait 2s
  expect gate is open
}

playtest \"the first one does\" {
  player ada at bank
  ada walks to quay
  wait 2s
  expect gate is open
}
";

/// In a linked playtest each world has a game of its own: neither has had ten tons after the first boat.
const LINKED: &str = "\
signal bell
spot bank at (0, 0, 0)
object quay at (4, 0, 0) { zone box (2, 2, 2) admits player }
object gate { door { swing 85deg, over 1s } }
on quay.entered { emit passed(6) }
on bell { open gate }

playtest \"each world counts for itself\" linked {
  player ada at bank
  ada walks to quay
  wait 2s
  expect gate is closed
  ada sees gate is closed
  ada walks to bank
  ada walks to quay
  expect gate is open within 2s
  ada sees gate is open within 2s
}
";

fn what_is_said() {
    let (text, passed) = tested(&[("lock.stoi", LINKED)], &[]);
    assert!(passed, "{text}");
    let (text, passed) = tested(&[("lock.stoi", LOCK)], &[]);
    assert!(!passed);
    insta::assert_snapshot!("fails", text);

    // What is asked for by name alone is run, with a game of its own for each.
    let (text, passed) = tested(&[("lock.stoi", LOCK)], &["second"]);
    assert!(passed, "{text}");
    insta::assert_snapshot!("named", text);

    let (text, passed) = tested(&[("weir.stoi", "object pool { zoen ball 2 }\n")], &[]);
    assert!(!passed);
    insta::assert_snapshot!("faulty", text);

    let (text, passed) = tested(&[("weir.stoi", "object pool { zone ball 2 }\n")], &[]);
    assert!(!passed && text.contains("there is no playtest in "), "{text}");
    let (text, passed) = tested(&[], &[]);
    assert!(!passed && text.contains("there is no .stoi file in "), "{text}");
    let (text, passed) = told(Path::new("nowhere"), &[]);
    assert!(!passed && text.contains("there is no file or folder nowhere"), "{text}");
}
