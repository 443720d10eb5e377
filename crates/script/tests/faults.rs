//! Faulty texts and what is said about them.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use stoicheon_core::{Catalogue, World};
use stoicheon_script::{load, render};

fn report(name: &str, text: &str) -> String {
    let loaded = load(name, text, &Catalogue::built_in());
    let all: Vec<_> =
        loaded.diagnostics().iter().map(|found| render(found, loaded.sources(), false)).collect();
    all.join("\n\n")
}

/// One snapshot for each file of the folder.
#[test]
fn every_faulty_text_is_explained() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/faulty");
    let mut files: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.retain(|file| file.extension().is_some_and(|ending| ending == "stoi"));
    files.sort();
    assert!(files.len() > 15);
    for file in files {
        let name = file.file_stem().unwrap().to_string_lossy().into_owned();
        let text = std::fs::read_to_string(&file).unwrap();
        let report = report(&format!("{name}.stoi"), &text);
        assert!(!report.is_empty(), "{name} has no fault");
        insta::with_settings!({ snapshot_path => "faulty", prepend_module_to_snapshot => false, omit_expression => true }, {
            insta::assert_snapshot!(name, report);
        });
    }
}

#[test]
fn a_text_with_faults_still_yields_the_rest() {
    let text = include_str!("faulty/five_faults.stoi");
    let loaded = load("five_faults.stoi", text, &Catalogue::built_in());
    let mut places: Vec<_> = loaded.diagnostics().iter().map(|found| found.labels[0].span.start).collect();
    let sorted = {
        places.sort_unstable();
        places.clone()
    };
    assert_eq!(places, sorted);
    let (objects, wires) = loaded.counts();
    assert_eq!((objects, wires), (1, 1));
}

#[test]
fn deep_nesting_is_an_error_and_no_overflow() {
    let deep = |open: &str, close: &str| {
        format!("var level: number = 1\nnever {}1{} > 2\n", open.repeat(20_000), close.repeat(20_000))
    };
    for text in [deep("(", ")"), deep("-", ""), deep("not ", ""), deep("1 + ", ""), deep("1 + (", ")")] {
        let loaded = load("deep.stoi", &text, &Catalogue::built_in());
        assert!(loaded.has_errors());
    }
    let blocks = format!("on ready {}{}", "{ if true ".repeat(20_000), "}".repeat(20_000));
    assert!(load("deep.stoi", &blocks, &Catalogue::built_in()).has_errors());
    let chain = format!("on ready {{ {} {{ }} }}", "if true { } else ".repeat(20_000));
    assert!(load("deep.stoi", &chain, &Catalogue::built_in()).has_errors());
}

#[test]
fn odd_texts_give_clear_errors_or_right_results() {
    let good = "\u{feff}scene lock\r\n// a comment\r\nvar level: number = 1\r\n";
    assert!(load("bom.stoi", good, &Catalogue::built_in()).diagnostics().is_empty());
    assert!(load("empty.stoi", "", &Catalogue::built_in()).diagnostics().is_empty());
    assert!(load("blank.stoi", " \n\t\n// only this", &Catalogue::built_in()).diagnostics().is_empty());
    for text in [
        "\u{0}",
        "💥",
        "scene 💥",
        "\"",
        "\"unclosed",
        "on",
        "never",
        "{",
        "}",
        "object a {",
        // These two were looked at for ever once.
        "object a {\n  { door",
        "object a { door {\n  = 1 } }",
        "var v: number =",
    ] {
        let loaded = load("odd.stoi", text, &Catalogue::built_in());
        assert!(loaded.has_errors(), "{text:?}");
        let rendered: Vec<_> =
            loaded.diagnostics().iter().map(|found| render(found, loaded.sources(), false)).collect();
        assert!(rendered.iter().all(|text| text.contains("error")), "{text:?}");
    }
}

/// Cut off anywhere, the demo is never more than faulty.
#[test]
fn a_text_cut_off_anywhere_never_panics() {
    let text = include_str!("../../../demo/harrow_lock.stoi");
    for end in (0..text.len()).filter(|end| text.is_char_boundary(*end)).step_by(3) {
        let loaded = load("cut.stoi", &text[..end], &Catalogue::built_in());
        loaded.diagnostics().iter().for_each(|found| drop(render(found, loaded.sources(), false)));
        // Building what is there may be refused, and must not panic.
        let mut world = World::<()>::new();
        drop(loaded.build(&mut world));
    }
}

/// Pieces of the shipped scenes deleted, doubled, swapped and cut, with a fixed seed. Whatever can be built is run.
#[test]
fn texts_taken_apart_never_panic() {
    use rand_pcg::{
        Pcg32,
        rand_core::{Rng as _, SeedableRng as _},
    };
    let texts = [include_str!("../../../demo/harrow_lock.stoi"), include_str!("../../../demo/towpath.stoi")];
    let mut random = Pcg32::seed_from_u64(7);
    let mut pick = |below: usize| usize::try_from(random.next_u32()).unwrap() % below.max(1);
    let mut built = 0;
    for case in 0..1500 {
        let mut pieces: Vec<&str> = texts[case % 2].split_inclusive(|c: char| !c.is_alphanumeric()).collect();
        for _ in 0..=pick(4) {
            let (one, two) = (pick(pieces.len()), pick(pieces.len()));
            match pick(4) {
                0 => drop(pieces.remove(one)),
                1 => pieces.insert(two, pieces[one]),
                2 => pieces.swap(one, two),
                _ => pieces.truncate(one.max(1)),
            }
        }
        let loaded = load("apart.stoi", &pieces.concat(), &Catalogue::built_in());
        loaded.diagnostics().iter().for_each(|found| drop(render(found, loaded.sources(), false)));
        let mut world = World::<()>::new();
        let whole = loaded.build(&mut world).is_ok();
        assert!(whole || loaded.has_errors(), "a text without a fault can be built:\n{}", pieces.concat());
        if whole && !loaded.has_errors() {
            built += 1;
            let playtest = loaded.playtest(0, &mut world).ok();
            // A playtest that was taken apart may fail; only the first steps are of interest.
            drop(playtest.map(|_| (0..20).try_for_each(|_| world.step(&mut ()))));
        }
    }
    assert!(built > 50, "only {built} could be run");
}
