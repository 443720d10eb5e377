//! Files: whole or not at all, in two forms, and never a panic.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use std::{
    path::Path,
    process::{Command, Stdio},
    time::Duration,
};

use proptest::prelude::*;
use stoicheon_core::{Door, NewVar, Save, Snapshot, Value, Vec3, World, secs};
use stoicheon_store::{Form, StoreError, from_bytes, read, save_schema, to_bytes, write};

/// A world with a value of every type to remember, and so many lamps.
fn canal(lamps: u32) -> World<()> {
    let mut world = World::new();
    let post = world.object("post").at(Vec3::new(1.0, 2.0, 3.0)).remembered().add().unwrap();
    let steps = world.spot_at("steps", None, Vec3::ONE, stoicheon_core::Rotation::NONE).unwrap();
    let gate = world.object("gate").add().unwrap();
    world.attach(gate, Door::swing(85.0).over(secs(1.0)).remembered()).unwrap();
    let values: [(&str, Value); 10] = [
        ("open", true.into()),
        ("level", 0.4.into()),
        ("laps", 7_i64.into()),
        ("words", "Mind the gap.".into()),
        ("pause", Value::Duration(stoicheon_core::ticks(75))),
        ("place", Vec3::new(4.0, 0.5, -10.0).into()),
        ("turn", Value::Rotation(stoicheon_core::Rotation::about(Vec3::Y, 90.0))),
        ("tint", Value::Colour("#6fa8b0".parse().unwrap())),
        ("keeper", post.into()),
        ("landing", Value::Spot(steps)),
    ];
    for (name, value) in values {
        world.declare(NewVar::new(name, value).remembered()).unwrap();
    }
    for lamp in 0..lamps {
        let id = world.object(&format!("lamp_{lamp}")).add().unwrap();
        world.declare(NewVar::new("lit", lamp % 3 == 0).of(id).remembered()).unwrap();
    }
    world
}

fn change(world: &mut World<()>, words: &str) {
    let var = world.find_var("words").unwrap();
    world.set(var, words).unwrap();
    world.step(&mut ()).unwrap();
}

#[test]
fn a_save_is_the_same_by_way_of_both_forms_and_another_world_takes_it_up() {
    let mut world = canal(3);
    change(&mut world, "Hold on.");
    let save = world.save().unwrap();
    for form in [Form::Json, Form::Cbor] {
        let bytes = to_bytes(&save, form).unwrap();
        let back: Save = from_bytes(&bytes).unwrap();
        assert_eq!(back, save, "{form:?}");
        let mut other = canal(3);
        assert_eq!(other.recall(&back).unwrap(), []);
        assert_eq!(other.save().unwrap().scenes, save.scenes);
    }
    let json = String::from_utf8(to_bytes(&save, Form::Json).unwrap()).unwrap();
    insta::assert_snapshot!(json);
}

#[test]
fn a_whole_world_goes_on_the_same_by_way_of_both_forms() {
    let mut world = canal(3);
    let gate = world.parts_of(world.find("gate").unwrap())[0];
    world.command(gate, Door::TO_OPEN).unwrap();
    world.join("ada", Some(("", "steps"))).unwrap();
    change(&mut world, "Half-way.");
    let whole = world.snapshot().unwrap();
    (0..40).for_each(|_| world.step(&mut ()).unwrap());
    for form in [Form::Json, Form::Cbor] {
        let back: Snapshot = from_bytes(&to_bytes(&whole, form).unwrap()).unwrap();
        let mut other = canal(3);
        other.restore(&back).unwrap();
        (0..40).for_each(|_| other.step(&mut ()).unwrap());
        assert_eq!(other.trace().digest(), world.trace().digest(), "{form:?}");
    }
}

#[test]
fn the_schema_that_is_committed_is_current_and_saves_follow_it() {
    let committed = include_str!("../../../docs/save.schema.json");
    assert_eq!(format!("{}\n", save_schema()), committed, "write it again: stoicheon convert --save-schema");
    let rules = jsonschema::validator_for(&serde_json::from_str(committed).unwrap()).unwrap();
    let json = |save: &Save| serde_json::from_slice(&to_bytes(save, Form::Json).unwrap()).unwrap();
    let mut world = canal(2);
    world.join("ada", Some(("", "steps"))).unwrap();
    world.step(&mut ()).unwrap();
    let mut good: serde_json::Value = json(&world.save().unwrap());
    let faults: Vec<_> = rules.iter_errors(&good).map(|fault| fault.to_string()).collect();
    assert!(faults.is_empty(), "{faults:?}");
    good["content"]["players"][0]["at"] = serde_json::json!([1, 2]);
    assert!(!rules.is_valid(&good));
}

/// What the child of the next test does: it writes two saves in turn until it is ended from outside.
#[test]
#[ignore = "run by the test after it, in a process of its own"]
fn writes_until_it_is_killed() {
    let path = std::env::var("KEPT").unwrap();
    let mut world = canal(3000);
    for round in 0.. {
        change(&mut world, if round % 2 == 0 { "even" } else { "odd" });
        write(Path::new(&path), &world.save().unwrap()).unwrap();
    }
}

#[test]
fn a_writer_that_is_killed_at_any_point_leaves_a_whole_file() {
    for name in ["kept.json", "kept.cbor"] {
        let folder = tempfile::TempDir::new().unwrap();
        let path = folder.path().join(name);
        let mut world = canal(3000);
        change(&mut world, "first");
        write(&path, &world.save().unwrap()).unwrap();
        let words = world.save().unwrap();
        let mut seen = std::collections::BTreeSet::new();
        for round in 0..40_u64 {
            let mut child = Command::new(std::env::current_exe().unwrap())
                .args(["--exact", "writes_until_it_is_killed", "--ignored"])
                .env("KEPT", &path)
                .stdout(Stdio::null())
                .stderr(Stdio::null())
                .spawn()
                .unwrap();
            // Some end before they have begun, some in the middle of their first file, some later.
            std::thread::sleep(Duration::from_micros(20_000 + round * 2_345));
            child.kill().unwrap();
            child.wait().unwrap();
            let save: Save = read(&path).unwrap_or_else(|error| panic!("after round {round}: {error}"));
            let count = |save: &Save| save.scenes[""].vars.len();
            assert_eq!(count(&save), count(&words), "all of it is there");
            seen.insert(format!("{:?}", save.scenes[""].vars["words"]));
        }
        assert!(seen.len() > 1, "the children wrote something: {seen:?}");
    }
}

#[test]
fn a_folder_that_is_not_there_and_a_file_that_is_a_folder_are_told_of() {
    let folder = tempfile::TempDir::new().unwrap();
    let save = canal(0).save().unwrap();
    let wrong = write(&folder.path().join("no/kept.json"), &save);
    assert!(matches!(wrong, Err(StoreError::Unwritable { .. })), "{wrong:?}");
    assert!(matches!(write(folder.path(), &save), Err(StoreError::Unwritable { .. })));
    assert!(matches!(read::<Save>(folder.path()), Err(StoreError::Unreadable { .. })));
    let left: Vec<_> = std::fs::read_dir(folder.path()).unwrap().collect();
    assert!(left.is_empty(), "nothing is left lying about");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2000, failure_persistence: None, ..ProptestConfig::default() })]

    /// Bytes from anywhere, and files with a byte changed, are read or refused; nothing panics, nothing is half read.
    #[test]
    fn damaged_files_are_refused_or_read(
        cbor in any::<bool>(),
        whole in any::<bool>(),
        at in any::<prop::sample::Index>(),
        byte in any::<u8>(),
        cut in any::<bool>(),
        noise in proptest::collection::vec(any::<u8>(), 0..64),
    ) {
        let form = if cbor { Form::Cbor } else { Form::Json };
        let world = canal(2);
        let mut bytes = if whole {
            to_bytes(&world.snapshot().unwrap(), form).unwrap()
        } else {
            to_bytes(&world.save().unwrap(), form).unwrap()
        };
        let at = at.index(bytes.len());
        bytes[at] = byte;
        if cut {
            bytes.truncate(at);
        }
        for bytes in [&bytes, &noise] {
            if let Ok(save) = from_bytes::<Save>(bytes) {
                let mut other = canal(2);
                drop(other.recall(&save));
                drop(other.step(&mut ()));
            }
            if let Ok(snapshot) = from_bytes::<Snapshot>(bytes) {
                let mut other = canal(2);
                if other.restore(&snapshot).is_ok() {
                    drop(other.step(&mut ()));
                }
            }
        }
    }
}
