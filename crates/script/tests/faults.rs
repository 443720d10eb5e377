//! Faulty texts and what is said about them.

use stoicheon_core::{Catalogue, Error, World};
use stoicheon_script::{load, render};

fn report(name: &str, text: &str) -> String {
    let loaded = load(name, text, &Catalogue::built_in()).checked_in_place();
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
fn wires_that_set_one_thing_are_told_of_although_one_between_them_excludes_both() {
    let said = |third: &str| {
        let wires =
            format!("on bell when lit {{ level = 1 }}\non bell when not lit {{ level = 2 }}\n{third}");
        let text = format!(
            "signal bell sent by game\nvar lit: boolean = true\nvar level: number = 0\n{wires}\nnever level > 5\n"
        );
        report("lock.stoi", &text)
    };
    assert_eq!(said("on bell when lit order 5 { level = 3 }"), "");
    let told = said("on bell when lit { level = 3 }");
    assert!(told.contains("(same-order)") && told.starts_with("lock.stoi:6:"), "{told}");
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
    let blocks = format!("on started {}{}", "{ if true ".repeat(20_000), "}".repeat(20_000));
    assert!(load("deep.stoi", &blocks, &Catalogue::built_in()).has_errors());
    let chain = format!("on started {{ {} {{ }} }}", "if true { } else ".repeat(20_000));
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

/// A long name, a long line, a long file: a right result or a clear error.
#[test]
fn long_things_give_right_results_or_clear_errors() {
    let name = "a".repeat(1 << 20);
    let long_name = format!("object {name}\nnever {name}b is open\n");
    let loaded = load("long.stoi", &long_name, &Catalogue::built_in());
    let [only] = loaded.diagnostics() else { panic!("{} findings", loaded.diagnostics().len()) };
    assert!(only.message.starts_with("there is no object `aaa"));

    let line =
        format!("effect say(words: text)\non started {{ {} }}", "perform say(\"Wait.\"); ".repeat(450_000));
    assert!(line.len() > 9_000_000);
    let loaded = load("line.stoi", &line, &Catalogue::built_in());
    assert!(loaded.diagnostics().is_empty());

    let faults = "object 7\n".repeat(20_000);
    assert_eq!(load("faults.stoi", &faults, &Catalogue::built_in()).diagnostics().len(), 20_000);
}

/// Everything that ships, and a scene with all there is.
/// The scenes of these tests, which hold the whole grammar, and the cookbook.
fn shipped() -> Vec<String> {
    let folder = |name: &str| format!("{}/{name}", env!("CARGO_MANIFEST_DIR"));
    let mut files: Vec<_> = ["tests/scenes", "../../cookbook", "../../cookbook/27_passages", "../../demo"]
        .into_iter()
        .flat_map(|name| std::fs::read_dir(folder(name)).unwrap().map(|entry| entry.unwrap().path()))
        .filter(|file| file.extension().is_some_and(|ending| ending == "stoi"))
        .collect();
    files.sort();
    assert!(files.len() > 30);
    files.iter().map(|file| std::fs::read_to_string(file).unwrap()).collect()
}

/// A text with a few of its pieces deleted, doubled, swapped or cut off.
fn taken_apart(text: &str, by_byte: bool, pick: &mut impl FnMut(usize) -> usize) -> String {
    let mut pieces: Vec<String> = if by_byte {
        text.chars().map(String::from).collect()
    } else {
        text.split_inclusive(|c: char| !c.is_alphanumeric()).map(str::to_owned).collect()
    };
    for _ in 0..=pick(4) {
        let (one, two) = (pick(pieces.len()), pick(pieces.len()));
        match pick(8) {
            0 | 1 => drop(pieces.remove(one)),
            2 | 3 => pieces.insert(two, pieces[one].clone()),
            4 | 5 => pieces.swap(one, two),
            6 => ["{", "}", "(", ")", "\"", "on ", "0", "\u{0}", "é", ";"][pick(10)]
                .clone_into(&mut pieces[one]),
            _ => pieces.truncate(one.max(pieces.len() / 2)),
        }
    }
    pieces.concat()
}

/// Looks at a text from every side. Gives back whether it could be run.
fn try_out(text: &str) -> bool {
    let loaded = load("apart.stoi", text, &Catalogue::built_in());
    loaded.diagnostics().iter().take(3).for_each(|found| drop(render(found, loaded.sources(), false)));
    if let Ok(set) = stoicheon_script::format(text) {
        assert_eq!(stoicheon_script::format(&set).as_ref(), Ok(&set), "set twice:\n{text}");
    }
    if loaded.has_errors() {
        return false;
    }
    let mut world = World::<()>::with(stoicheon_core::Config { statements: 1000, ..Default::default() });
    let built = loaded.build(&mut world);
    assert!(built.is_ok(), "a text without a fault can be built: {built:?}\n{text}");
    if loaded.playtests().next().is_some() {
        let playtest = loaded.playtest(0, &mut world);
        // Who joins or leaves is found out only when their turn comes.
        let late = |error: &Error| matches!(error, Error::UnknownName { kind, .. } if kind.ends_with("here"));
        assert!(playtest.as_ref().err().is_none_or(late), "and so can its playtest: {playtest:?}\n{text}");
    }
    drop((0..5).try_for_each(|_| world.step(&mut ())));
    true
}

/// So many texts taken apart, always the same ones for a seed.
fn mutations(seed: u64, cases: usize) {
    use rand_pcg::{
        Pcg32,
        rand_core::{Rng as _, SeedableRng as _},
    };
    let mut random = Pcg32::seed_from_u64(seed);
    let mut pick = |below: usize| usize::try_from(random.next_u32()).unwrap() % below.max(1);
    let mut ran = 0;
    // More of them: MUTATIONS=200000 cargo test --release -p stoicheon-script -- taken_apart
    let asked = std::env::var("MUTATIONS").ok().map(|count| count.parse().unwrap());
    let (cases, shipped) = (asked.unwrap_or(cases), shipped());
    for case in 0..cases {
        let text = taken_apart(&shipped[case % shipped.len()], case % 3 == 0, &mut pick);
        ran += usize::from(try_out(&text));
    }
    assert!(ran > cases / 100, "only {ran} of {cases} could be run");
}

/// 20,000 cases in all; each looks at the text from every side.
#[test]
fn texts_taken_apart_never_panic_first_half() {
    mutations(7, 10_000);
}

#[test]
fn texts_taken_apart_never_panic_second_half() {
    mutations(8, 10_000);
}

/// Every code has a fixture and a line on the page, and the page has no other.
#[test]
fn every_code_is_on_the_page_and_in_a_fixture() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/faulty");
    let mut shown = std::collections::BTreeSet::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_some_and(|ending| ending == "snap") {
            let text = std::fs::read_to_string(path).unwrap();
            let codes = text.lines().filter_map(|line| {
                let told = line.contains("  error  ") || line.contains("  warning  ");
                let (_, code) = line.strip_suffix(')').filter(|_| told)?.rsplit_once("  (")?;
                Some(code.to_owned())
            });
            shown.extend(codes);
        }
    }
    // Scenes of a project are the command's to test, and places take a second file: see `places.rs`.
    shown.extend(["unknown-scene", "misplaced", "unused-place", "unplaced"].map(str::to_owned));
    let page = include_str!("../../../docs/diagnostics.md");
    let on_page: std::collections::BTreeSet<_> = page
        .lines()
        .filter_map(|line| line.strip_prefix("| `")?.split_once('`').map(|(code, _)| code.to_owned()))
        .collect();
    assert_eq!(shown, on_page);
}
