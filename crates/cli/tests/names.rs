//! Names: where they stand, and what is left of a scene when one of them is another.

use std::{
    collections::BTreeMap,
    path::{Path, PathBuf},
};

use stoicheon_core::{Catalogue, World};
use stoicheon_files::{self as files, Fresh, Wiring};
use stoicheon_script::{NameKind, NotRenamed};

use crate::support::Folder;

/// All wiring that ships, but that of one file that needs its game.
fn shipped() -> Vec<PathBuf> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let folders = ["demo", "cookbook", "hosts", "crates/script/tests/scenes"];
    let (mut all, mut scenes) = (Vec::new(), std::collections::BTreeSet::new());
    for folder in folders {
        let (wirings, troubles) = files::read_all(&[root.join(folder)], &Catalogue::built_in());
        assert!(troubles.is_empty());
        for wiring in wirings {
            let name = match &wiring {
                Wiring::Project(project) | Wiring::SceneOf(project, _) => project.head().name().to_owned(),
                Wiring::Scene(scene) => scene.name().to_owned(),
            };
            if scenes.insert(name.clone()) {
                all.push(PathBuf::from(name));
            }
        }
    }
    all
}

/// All that happens in the playtests, without the ending that new names have.
fn traces(wiring: &Wiring) -> Vec<Vec<String>> {
    let mut all = Vec::new();
    for (index, part) in wiring.parts().into_iter().enumerate() {
        for (number, name) in part.playtests().enumerate() {
            let wiring = wiring.for_playtest(index, number);
            let part = wiring.parts()[index];
            let mut world: World<()> = wiring.world(Some(7)).unwrap();
            let fresh = Fresh { world: &|| wiring.world(Some(7)), game: &|| () };
            let ran = files::run(part, number, &mut world, &mut (), fresh, &mut |_| {});
            assert!(ran.failure.is_empty(), "{name}: {:?}", ran.failure);
            let records =
                world.trace().records().map(|(id, record)| format!("{id:?} {record:?}").replace(ENDING, ""));
            all.push(records.collect());
        }
    }
    all
}

/// What new names end with.
const ENDING: &str = "_new2";

#[test]
fn any_name_of_all_that_ships_can_be_another_and_nothing_else_changes() {
    let catalogue = Catalogue::built_in();
    let (mut renamed, mut wrong) = (0, Vec::new());
    for path in shipped() {
        let before = files::read(&path, &catalogue).unwrap();
        let index = before.index();
        let mut edits_of_all = Vec::new();
        for thing in index.things() {
            let new = format!("{}{ENDING}", thing.name);
            let at = format!("{}: {} {}", path.display(), thing.kind.word(), thing.whole);
            let edits = match thing.renamed(&new, before.sources(), &catalogue) {
                Err(NotRenamed::EveryWorlds { .. }) if thing.name == "player" => continue,
                Err(NotRenamed::Elsewhere(file)) if file.contains(".gltf") => continue,
                other => other.unwrap_or_else(|error| panic!("{at}: {error}")),
            };
            let edited: BTreeMap<String, String> = before.sources().edited(&edits).into_iter().collect();
            let after = files::read_edited(&path, &catalogue, &edited).unwrap();
            let count =
                |wiring: &Wiring| wiring.parts().iter().map(|part| part.diagnostics().len()).sum::<usize>();
            let first = after.parts().into_iter().find_map(|part| {
                let found = part.diagnostics().first()?;
                Some(stoicheon_script::render(found, part.sources(), false))
            });
            let is_placed = first.as_ref().is_some_and(|found| found.contains("(unplaced)"));
            if is_placed {
                continue;
            }
            if count(&before) != count(&after) {
                wrong.push(format!("{at}: {first:?}"));
            } else if let Err(error) = after.index().was_renamed(&index, &edits) {
                wrong.push(format!("{at}: {error}"));
            }
            // A text may say who somebody is.
            if thing.kind != NameKind::Player {
                edits_of_all.extend(edits);
            }
            renamed += 1;
        }
        // With all of them at once, the playtests run as they did.
        let edited: BTreeMap<String, String> = before.sources().edited(&edits_of_all).into_iter().collect();
        let after = files::read_edited(&path, &catalogue, &edited).unwrap();
        let (before, after) = (traces(&before), traces(&after));
        for (one, two) in before.iter().zip(&after) {
            let other = one.iter().zip(two).find(|(one, two)| one != two);
            assert!(other.is_none() && one.len() == two.len(), "{}: {other:?}", path.display());
        }
        assert_eq!(before.len(), after.len());
    }
    assert!(wrong.is_empty(), "{} of {renamed}:\n{}", wrong.len(), wrong.join("\n"));
    assert!(renamed > 700, "{renamed}");
}

const LOCK: &str = r#"scene lock

signal bell
effect say(words: text)
kit ring(post: object, calls: signal) {
  var rung: whole = 0
  on post.answered { rung += 1; emit calls }
}

object bell at (2, 0, 0) tags bell { prompt "Ring the bell" key use, reach 2 }
object gate tags gate { door { swing 85deg about y, over 1s }; var lit: boolean = false }
object hatch tags gate { door { swing 85deg about y, over 1s }; var lit: boolean = false }

add ring as porch(post: bell, calls: bell)
add ring(post: bell, calls: bell)
on bell { open gate; perform say("the bell rings") }
on bell by player when ring_1.rung > 2 { close gate }
bind each gate.lit = it is open

playtest "the bell opens" {
  player ada at bell tags keeper
  ada answers bell
  expect porch.rung == 1
}
"#;

fn lock() -> Folder {
    Folder::of(&[("lock.stoi", LOCK)])
}

#[test]
fn a_name_is_found_by_what_it_means_with_where_it_is_declared_first() {
    let folder = lock();
    let all = folder.call(&["find", "bell", "lock.stoi"]).ends(0).text;
    for words in ["object bell", "tag bell", "signal bell"] {
        assert!(all.contains(words), "{words}: {all}");
    }
    let signal = folder.call(&["find", "signal bell", "lock.stoi"]).ends(0).text;
    let lines: Vec<&str> = signal.lines().collect();
    assert!(
        lines[1].contains("lock.stoi:3:8")
            && lines[1].contains("declared")
            && lines[1].ends_with("signal bell"),
        "{signal}"
    );
    assert!(lines.iter().any(|line| line.contains("taken") && line.contains("on bell {")), "{signal}");
    // A word in a text and an object of the same name are none of it.
    assert!(!signal.contains("Ring the bell") && lines.len() == 6, "{signal}");
    let lit = folder.call(&["find", "gate.lit", "lock.stoi"]).ends(0).text;
    assert_eq!(lit.lines().filter(|line| line.contains("declared")).count(), 2, "{lit}");
    assert!(lit.contains("set        bind each gate.lit"), "{lit}");
    // What a nameless use is called begins with the name of its kit.
    folder
        .call(&["find", "kit ring", "."])
        .ends(0)
        .says("lock.stoi:17:24")
        .says("used       add ring(post: bell");
    folder.write("bad.stoi", "scene bad\nobject gate\non gaet.opened {}\n");
    folder.call(&["find", "gate", "bad.stoi"]).ends(0).says("object gate").complains("the wiring has errors");
    folder.call(&["find", "gat", "lock.stoi"]).ends(2).complains("did you mean `gate`?");
    folder.call(&["find", "answered", "lock.stoi"]).ends(2).complains("a signal of the catalogue");
    let json: serde_json::Value =
        serde_json::from_str(&folder.call(&["find", "porch", "lock.stoi", "--json"]).ends(0).text).unwrap();
    assert_eq!(json["things"][0]["places"][0]["line"], 14, "{json}");
}

#[test]
fn renaming_changes_what_is_meant_and_nothing_else_or_nothing_at_all() {
    let folder = lock();
    let before = folder.read("lock.stoi");
    folder
        .call(&["rename", "bell", "chime", "lock.stoi"])
        .ends(2)
        .complains("say which, as in \"object bell\"");
    for (old, new, said) in [
        ("signal bell", "say", "is called say now"),
        ("object bell", "gate", "already an object `gate`"),
        ("signal bell", "pressed", "the catalogue has a signal `pressed`"),
        ("signal bell", "who", "reserved"),
        ("signal bell", "two words", "expected a name of letters"),
        ("gate.lit", "lit", "already"),
        ("tag player", "person", "every world has"),
        ("nobody", "person", "nothing is called `nobody`"),
    ] {
        let call = folder.call(&["rename", old, new, "lock.stoi", "--check"]);
        if said == "is called say now" {
            call.ends(0).says("would be called say");
        } else {
            call.ends(2).complains(said);
        }
        assert_eq!(folder.read("lock.stoi"), before, "{old} {new}");
    }
    folder.call(&["rename", "signal bell", "chimes", "lock.stoi"]).ends(0).says("5 places in 1 file");
    folder.call(&["rename", "kit ring", "ringing", "lock.stoi"]).ends(0);
    folder.call(&["rename", "parameter ring.calls", "told", "."]).ends(2).complains("did you mean");
    folder.call(&["rename", "ringing.calls", "told", "."]).ends(0);
    let after = folder.read("lock.stoi");
    let expected = before
        .replace("signal bell", "signal chimes")
        .replace("on bell ", "on chimes ")
        .replace("calls: bell", "told: chimes")
        .replace("calls: signal", "told: signal")
        .replace("emit calls", "emit told")
        .replace("kit ring(", "kit ringing(")
        .replace("add ring", "add ringing")
        .replace("ring_1", "ringing_1");
    assert_eq!(after, expected);
    folder.call(&["test", "lock.stoi"]).ends(0);
}

#[test]
fn wiring_as_json_is_renamed_in_as_well() {
    let folder = lock();
    folder.call(&["convert", "lock.stoi", "lock.json"]).ends(0);
    folder.call(&["find", "hatch", "lock.json"]).ends(0).says("object hatch");
    folder.call(&["rename", "hatch", "trap", "lock.json"]).ends(0).says("+").says("\"trap\"");
    folder.call(&["rename", "hatch", "trap", "lock.stoi"]).ends(0);
    folder.call(&["convert", "lock.stoi", "again.json"]).ends(0);
    assert_eq!(folder.read("lock.json"), folder.read("again.json"));
}

#[test]
fn a_project_is_renamed_in_whole_or_not_at_all() {
    let folder = Folder::of(&[
        ("canal.stoi", "project canal\nscene \"lock.stoi\"\nscene \"tunnel.stoi\"\nshared \"all.stoi\"\n"),
        ("all.stoi", "signal paid\n"),
        (
            "lock.stoi",
            "scene lock\nspot steps at (0, 0, 0)\non paid { send who to steps in tunnel }\non joined { emit paid }\n",
        ),
        ("tunnel.stoi", "scene tunnel\nspot steps at (0, 0, 9)\non paid { send who to steps in lock }\n"),
    ]);
    // Two spots of one name: each is meant by its own places, in the file of the other scene.
    folder
        .call(&["rename", "spot steps", "stairs", "."])
        .ends(2)
        .complains("tunnel.stoi:2")
        .complains("spot lock.steps");
    folder.call(&["rename", "tunnel.steps", "stairs", "."]).ends(0).says("2 places in 2 files");
    folder.call(&["rename", "stairs", "steps", "."]).ends(0);
    folder.call(&["rename", "tunnel", "cave", "lock.stoi"]).ends(0).says("2 places in 2 files");
    assert!(
        folder.read("lock.stoi").contains("steps in cave")
            && folder.read("tunnel.stoi").starts_with("scene cave")
    );
    let files = ["all.stoi", "lock.stoi", "tunnel.stoi"];
    let before = files.map(|file| folder.read(file));
    folder.call(&["rename", "paid", "tolled", "."]).ends(0).says("4 places in 3 files");
    folder.call(&["rename", "tolled", "paid", "."]).ends(0);
    assert_eq!(files.map(|file| folder.read(file)), before);
    // One of the files cannot be written: none is.
    let mut locked = std::fs::metadata(folder.path("tunnel.stoi")).unwrap().permissions();
    locked.set_readonly(true);
    std::fs::set_permissions(folder.path("tunnel.stoi"), locked).unwrap();
    folder.call(&["rename", "paid", "tolled", "."]).ends(2).complains("tunnel.stoi");
    assert_eq!(files.map(|file| folder.read(file)), before);
}
