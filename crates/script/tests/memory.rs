//! Read again and again: what has not changed is taken from memory, and what comes back is the same as without.

use std::collections::BTreeMap;

use proptest::{prelude::*, test_runner::RngSeed};
use stoicheon_core::Catalogue;
use stoicheon_script::{Loaded, Memory, Project, load_again, load_noting};

fn canal() -> BTreeMap<String, String> {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/canal");
    let files = std::fs::read_dir(folder).unwrap().map(|file| file.unwrap().path());
    let named = files.map(|path| {
        (path.file_name().unwrap().to_string_lossy().into_owned(), std::fs::read_to_string(path).unwrap())
    });
    named.collect()
}

/// Words that go somewhere, and lines that change what belongs to what.
const WORDS: [&str; 13] = [
    "weir",
    "splash",
    "{",
    "}",
    "spot arrival at (0, 0, 0)\n",
    "shared \"shared.stoi\"\n",
    "scene \"tunnel.stoi\"\n",
    "scene tunnel\n",
    "given depth: number = 1\n",
    "given depth = 2\n",
    "places \"lockside.stoi\"\n",
    "catalogue \"game.json\"\n",
    "playtest \"x\" { player ada at weir_steps in lockside; expect ada in tunnel }\n",
];

fn said(parts: &[&Loaded]) -> Vec<String> {
    let of = |part: &&Loaded| {
        let found = part.diagnostics().iter().map(|found| format!("{found:?}")).collect::<Vec<_>>();
        format!("{} {:?} {:?} {found:?}", part.name(), part.counts(), part.scene_name())
    };
    parts.iter().map(of).collect()
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 150, failure_persistence: None, rng_seed: RngSeed::Fixed(20), ..ProptestConfig::default()
    })]

    #[test]
    fn a_project_is_read_again_as_if_for_the_first_time(
        edits in prop::collection::vec((0_usize..4, any::<u16>(), 0_usize..20, 0_usize..13), 1..8)
    ) {
        let mut texts = canal();
        let names: Vec<String> = texts.keys().cloned().collect();
        let mut memory = Memory::default();
        for (file, part, length, word) in edits {
            let text = texts.get_mut(&names[file]).unwrap();
            let start = text.len() * usize::from(part) / usize::from(u16::MAX);
            let start = text[..start].rfind([' ', '\n']).map_or(0, |at| at + 1);
            let end = (start + length).min(text.len());
            text.replace_range(start..end, WORDS[word]);
            let catalogue = Catalogue::built_in();
            let read = |path: &str| texts.get(path).cloned().ok_or_else(|| "there is no such file".to_owned());
            let head = &texts["canal.stoi"];
            let again = Project::load_again("canal.stoi", head, &catalogue, &read, &mut memory);
            let first = Project::load_noting("canal.stoi", head, &catalogue, &read);
            prop_assert_eq!(said(&again.parts().collect::<Vec<_>>()), said(&first.parts().collect::<Vec<_>>()));
            let (again, first) = (again.index(), first.index());
            prop_assert_eq!(again.things(), first.things());
        }
    }
}

/// All texts of a folder.
fn texts(folder: &str) -> Vec<String> {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join(folder);
    let mut files: Vec<_> = std::fs::read_dir(folder).unwrap().map(|file| file.unwrap().path()).collect();
    files.retain(|path| path.extension().is_some_and(|ending| ending == "stoi"));
    files.sort();
    files.iter().map(|path| std::fs::read_to_string(path).unwrap()).collect()
}

/// What may be typed, or pasted.
const TYPED: [&str; 24] = [
    "{",
    "}",
    "\"",
    "(",
    ")",
    "\n",
    " ",
    "//",
    "on ",
    "object ",
    "spot here at (0, 0, 0)\n",
    "wait 1ms\n",
    "wait",
    ".",
    "{ {",
    "scene other\n",
    "given depth: number = 1\n",
    "\nkit round() { spot here at (0, 0, 0) }\nadd round\n",
    "// on purpose: so",
    "playtest \"x\" { wait 1s }\n",
    "tags gate\n",
    "level",
    "é",
    "{ level }",
];

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 600, failure_persistence: None, rng_seed: RngSeed::Fixed(21), ..ProptestConfig::default()
    })]

    #[test]
    fn a_text_is_read_again_after_each_edit_as_if_for_the_first_time(
        which in any::<usize>(),
        edits in prop::collection::vec((any::<u16>(), 0_usize..40, 0_usize..24, any::<bool>()), 1..10)
    ) {
        let all = [texts("../../cookbook"), texts("tests/faulty"), texts("../../demo")].concat();
        let mut text = all[which % all.len()].clone();
        let (mut memory, catalogue) = (Memory::default(), Catalogue::built_in());
        let read = |_: &str| Err("there is no such file".to_owned());
        for (part, length, typed, at_line) in edits {
            let before = text.clone();
            let start = text.len() * usize::from(part) / usize::from(u16::MAX);
            let start = (0..=start).rev().find(|at| text.is_char_boundary(*at)).unwrap();
            let start = if at_line { text[..start].rfind('\n').map_or(0, |at| at + 1) } else { start };
            let end = (start + length).min(text.len());
            let end = (start..=end).rev().find(|at| text.is_char_boundary(*at)).unwrap();
            text.replace_range(start..end, TYPED[typed]);
            // What was typed is taken back in the end, as people do.
            for text in [&text, &before, &text] {
                let again = load_again("lock.stoi", text, &catalogue, &read, &mut memory);
                let first = load_noting("lock.stoi", text, &catalogue, &read);
                prop_assert_eq!(said(&[&again]), said(&[&first]), "{}", text);
                let (again, first) = (again.index(), first.index());
                prop_assert_eq!(again.things(), first.things());
            }
        }
    }
}

#[test]
fn only_what_stands_around_an_edit_is_parsed_again() {
    let gate = |number: usize| {
        format!(
            "object gate_{number} at ({number}, 0, 0) {{ zone box (1, 1, 1) }}\non gate_{number}.entered {{\n  enable gate_{number}\n}}\n"
        )
    };
    let text = "scene lock\n".to_owned() + &(0..500).map(gate).collect::<Vec<_>>().concat();
    let (mut memory, catalogue) = (Memory::default(), Catalogue::built_in());
    let read = |_: &str| Err("there is no such file".to_owned());
    load_again("lock.stoi", &text, &catalogue, &read, &mut memory);
    assert_eq!(memory.bytes_parsed(), text.len());
    // Also while what is typed is no sentence yet.
    for typed in ["enable ", "enable gate_7 wait", "enable gate_8 // \"", "enable gate_9\n}\non started {"] {
        let edited = text.replace("enable gate_250\n", &format!("{typed}\n"));
        let loaded = load_again("lock.stoi", &edited, &catalogue, &read, &mut memory);
        assert!((1..1000).contains(&memory.bytes_parsed()), "{typed}: {}", memory.bytes_parsed());
        let first = load_noting("lock.stoi", &edited, &catalogue, &read);
        assert_eq!(said(&[&loaded]), said(&[&first]));
    }
    load_again("lock.stoi", &text, &catalogue, &read, &mut memory);
    load_again("lock.stoi", &text, &catalogue, &read, &mut memory);
    assert_eq!(memory.bytes_parsed(), 0);
}

#[test]
fn a_scene_waits_for_the_tags_of_players_of_all_playtests() {
    let mut memory = Memory::default();
    let head = "project canal\nscene \"lock.stoi\"\nscene \"tunnel.stoi\"\n";
    let lock = "scene lock\nspot steps at (0, 0, 0)\non arrived by porter { stop }\n";
    for tag in ["porter", "keeper", "porter"] {
        let tunnel = format!(
            "scene tunnel\nspot mouth at (0, 0, 0)\nplaytest \"x\" {{ player ada at mouth tags {tag} }}\n"
        );
        let read = |path: &str| Ok(if path == "lock.stoi" { lock.to_owned() } else { tunnel.clone() });
        let again = Project::load_again("canal.stoi", head, &Catalogue::built_in(), &read, &mut memory);
        let first = Project::load("canal.stoi", head, &Catalogue::built_in(), &read);
        assert_eq!(said(&again.parts().collect::<Vec<_>>()), said(&first.parts().collect::<Vec<_>>()));
        let finds = again.parts().any(|part| !part.diagnostics().is_empty());
        assert_eq!(finds, tag == "keeper");
    }
}

#[test]
fn a_scene_alone_is_read_again_with_what_it_shares() {
    let mut memory = Memory::default();
    let shared = |word: &str| format!("effect {word}(words: text)\n");
    let text = "shared \"a.stoi\"\non started { perform say(\"a\") }\n";
    for word in ["say", "sing", "say"] {
        let read = |_: &str| Ok(shared(word));
        let again = load_again("lock.stoi", text, &Catalogue::built_in(), &read, &mut memory);
        let first = load_noting("lock.stoi", text, &Catalogue::built_in(), &read);
        assert_eq!(said(&[&again]), said(&[&first]));
        assert_eq!(again.has_errors(), word == "sing");
    }
}
