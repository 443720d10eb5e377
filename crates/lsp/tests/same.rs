//! The same edits through the server and through what the command calls: the same findings, names, renamings and formats.

use std::collections::{BTreeMap, BTreeSet};

use proptest::{prelude::*, test_runner::RngSeed};
use serde_json::{Value, json};
use stoicheon_core::Catalogue;
use stoicheon_files::{self as files, Wiring};
use stoicheon_script::{Loaded, Span, format};

use crate::{
    changes::edited,
    support::{Editor, canal, position},
};

/// Words that are put somewhere.
const WORDS: [&str; 16] = [
    "toll_gate",
    "weir",
    "splash",
    "on ",
    "{",
    "}",
    "who",
    "is open",
    "emit toll_due",
    "every ",
    ".",
    "2s",
    "\n",
    "say(\"a\")",
    "object pad at (0, 0, 0)\n",
    "// \u{1f6a3} \n",
];

/// An edit: which file, from where to where as parts of its length, and what is put there.
type Edit = (usize, u16, u16, usize);

/// A place in a text that is no place within a letter.
fn at(text: &str, part: u16) -> usize {
    let mut at = text.len() * usize::from(part) / usize::from(u16::MAX);
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// What is found in each file, by where and what.
fn found_by_command(editor: &Editor) -> BTreeMap<String, BTreeSet<(u64, u64, String)>> {
    let (wirings, _) = files::read_all(&[editor.folder.path().to_owned()], &Catalogue::built_in());
    let mut all: BTreeMap<String, BTreeSet<(u64, u64, String)>> = BTreeMap::new();
    for wiring in wirings.iter().map(Wiring::checked_in_place) {
        for found in wiring.parts().into_iter().flat_map(Loaded::diagnostics) {
            let span = found.labels.first().map(|label| label.span).unwrap_or_default();
            let source = wiring.sources().get(span.file).unwrap();
            let name = source.name().rsplit('/').next().unwrap().to_owned();
            let place = position(source.text(), span.start as usize);
            let place = (place["line"].as_u64().unwrap(), place["character"].as_u64().unwrap());
            all.entry(name).or_default().insert((place.0, place.1, found.message.clone()));
        }
    }
    all
}

fn found_by_server(editor: &Editor) -> BTreeMap<String, BTreeSet<(u64, u64, String)>> {
    let told = editor.found.iter().filter(|(_, found)| !found.is_empty()).map(|(name, found)| {
        let found = found.iter().map(|found| {
            let start = &found["range"]["start"];
            let message = found["message"].as_str().unwrap().lines().next().unwrap().to_owned();
            (start["line"].as_u64().unwrap(), start["character"].as_u64().unwrap(), message)
        });
        (name.clone(), found.collect())
    });
    told.collect()
}

/// Where something stands: the file, and where it begins.
fn place(text: &str, name: &str, span: Span) -> String {
    let start = position(text, span.start as usize);
    format!("{} {}:{}", name.rsplit('/').next().unwrap(), start["line"], start["character"])
}

/// Each name that the command finds, with all its places; and the same through the server.
fn compare_names(editor: &mut Editor, part: u16) {
    let path = editor.folder.path().to_owned();
    let indexes = files::indexes(&path, &Catalogue::built_in()).unwrap();
    let things: Vec<_> = indexes
        .iter()
        .flat_map(|(wiring, index)| index.things().iter().map(move |thing| (wiring, thing)))
        .collect();
    if things.is_empty() {
        return;
    }
    let (wiring, thing) = things[things.len() * usize::from(part) / (usize::from(u16::MAX) + 1)];
    let source = |file: u32| wiring.sources().get(file).unwrap();
    let known: BTreeSet<String> = thing
        .places
        .iter()
        .map(|place_of| {
            let source = source(place_of.span.file);
            place(source.text(), source.name(), place_of.span)
        })
        .collect();
    let first = thing.places[0].span;
    let name = source(first.file).name().rsplit('/').next().unwrap().to_owned();
    let start = position(source(first.file).text(), first.start as usize);
    let document = json!({ "uri": editor.uri(&name) });
    let mut params =
        json!({ "textDocument": document, "position": start, "context": { "includeDeclaration": true } });
    let references = editor.ask("textDocument/references", params.clone());
    let told: BTreeSet<String> = references
        .as_array()
        .unwrap()
        .iter()
        .map(|location| {
            let start = &location["range"]["start"];
            let name = location["uri"].as_str().unwrap().rsplit('/').next().unwrap();
            format!("{name} {}:{}", start["line"], start["character"])
        })
        .collect();
    assert_eq!(told, known, "{} {}", thing.kind.word(), thing.whole);

    params["newName"] = "another_name".into();
    let renamed = editor.ask("textDocument/rename", params);
    // By the place of its declaration, so that no other thing of that name is meant.
    let scene = thing.scene.as_ref().map_or_else(String::new, |scene| format!("{scene}."));
    let asked = format!("{} {scene}{}", thing.kind.word(), thing.whole);
    match files::rename(&path, &Catalogue::built_in(), &asked, "another_name") {
        Ok(renaming) => {
            for (path, old, new) in renaming.files {
                let uri = format!("file://{}", path.display());
                assert_eq!(edited(&old, &renamed["changes"][&uri]), new, "{asked}");
            }
        }
        Err(files::RenameError::Several { .. } | files::RenameError::Nothing { .. }) => {}
        Err(why) => assert_eq!(renamed["message"], why.to_string(), "{asked}"),
    }
}

fn compare_format(editor: &mut Editor, name: &str, text: &str) {
    let params = json!({ "textDocument": { "uri": editor.uri(name) }, "options": { "tabSize": 2, "insertSpaces": true } });
    let edits = editor.ask("textDocument/formatting", params);
    match format(text) {
        Ok(formatted) => assert_eq!(edited(text, &edits), formatted),
        Err(_) => assert_eq!(edits, Value::Null),
    }
}

fn through_both(edits: &[Edit], part: u16) {
    let mut editor = Editor::on_canal();
    let mut texts = canal();
    texts.sort();
    for (name, text) in &texts {
        editor.open_as(name, text);
    }
    for (file, one, two, word) in edits {
        let count = texts.len();
        let (name, text) = &mut texts[file % count];
        let (one, two) = (at(text, *one), at(text, *two));
        // Not more than some words go.
        let (start, end) = (one.min(two), one.max(two).min(one.min(two) + 30));
        let end = (start..=end).rev().find(|end| text.is_char_boundary(*end)).unwrap();
        let range = json!({ "start": position(text, start), "end": position(text, end) });
        editor.type_in(name, &range, WORDS[word % WORDS.len()]);
        text.replace_range(start..end, WORDS[word % WORDS.len()]);
        std::fs::write(editor.path(name), text.as_str()).unwrap();
    }
    editor.settle();
    assert_eq!(found_by_server(&editor), found_by_command(&editor));
    compare_names(&mut editor, part);
    for (name, text) in &texts {
        compare_format(&mut editor, name, text);
    }
    editor.end().unwrap();
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 60,
        failure_persistence: None,
        rng_seed: RngSeed::Fixed(20),
        ..ProptestConfig::default()
    })]

    #[test]
    fn the_same_edits_give_the_same(
        edits in prop::collection::vec((0_usize..4, any::<u16>(), any::<u16>(), 0_usize..16), 0..6),
        part in any::<u16>(),
    ) {
        through_both(&edits, part);
    }

    /// Small ones, after which most of it is still right.
    #[test]
    fn good_wiring_is_renamed_in_the_same_places(part in any::<u16>()) {
        through_both(&[], part);
    }
}
