//! What can be done about findings, other ways to write something, and playtests run from where they stand.

use serde_json::{Value, json};

use crate::support::{Editor, position};

/// The actions for a stretch of a text: the titles, and the text after each.
fn actions(text: &str, from: &str, to: &str) -> Vec<(String, String)> {
    let mut editor = Editor::on(&[("lock.stoi", text)]);
    let start = text.find(from).unwrap();
    let end = start + text[start..].find(to).unwrap() + if from == to { 0 } else { to.len() };
    let range = json!({ "start": position(text, start), "end": position(text, end) });
    let document = json!({ "uri": editor.uri("lock.stoi") });
    let params = json!({ "textDocument": document, "range": range, "context": { "diagnostics": [] } });
    let found = editor.ask("textDocument/codeAction", params);
    let after = |action: &Value| {
        let changes = action["edit"]["changes"].as_object().unwrap();
        let edits = changes.values().next().unwrap();
        (action["title"].as_str().unwrap().to_owned(), edited(text, edits))
    };
    let all = found.as_array().unwrap().iter().map(after).collect();
    editor.end().unwrap();
    all
}

/// A text after edits.
pub(crate) fn edited(text: &str, edits: &Value) -> String {
    let byte = |position: &Value| {
        let line = usize::try_from(position["line"].as_u64().unwrap()).unwrap();
        let start = text.match_indices('\n').nth(line.wrapping_sub(1)).map_or(0, |(at, _)| at + 1);
        let start = if line == 0 { 0 } else { start };
        let mut units = usize::try_from(position["character"].as_u64().unwrap()).unwrap();
        let letters = text[start..].char_indices().take_while(|(_, letter)| {
            let more = units >= letter.len_utf16() && *letter != '\n';
            units = units.saturating_sub(letter.len_utf16());
            more
        });
        start + letters.map(|(_, letter)| letter.len_utf8()).sum::<usize>()
    };
    let mut all: Vec<(usize, usize, String)> = edits
        .as_array()
        .unwrap()
        .iter()
        .map(|edit| {
            let new = edit["newText"].as_str().unwrap().to_owned();
            (byte(&edit["range"]["start"]), byte(&edit["range"]["end"]), new)
        })
        .collect();
    all.sort();
    let mut text = text.to_owned();
    for (start, end, new) in all.into_iter().rev() {
        text.replace_range(start..end, &new);
    }
    text
}

#[track_caller]
fn offered(all: &[(String, String)], title: &str) -> String {
    let titles: Vec<_> = all.iter().map(|(title, _)| title).collect();
    all.iter()
        .find(|(known, _)| known == title)
        .unwrap_or_else(|| panic!("{title} is not among {titles:?}"))
        .1
        .clone()
}

#[test]
fn what_a_finding_knows() {
    let text = "object gate { door { over 1s } }\non started { open gaet }\n";
    let after = offered(&actions(text, "gaet", "gaet"), "Change to `gate`");
    assert_eq!(after, text.replace("gaet", "gate"));

    let text = "var a: boolean = true\nsignal bell sent by game\n// Rings.\non bell when a && not a {\n  wait 1s\n}\n";
    let all = actions(text, "&& not", "&& not");
    assert_eq!(offered(&all, "Change to `and`"), text.replace("&&", "and"));

    let text = "signal bell\nsignal gong\non started { emit bell }\n";
    let all = actions(text, "bell", "bell");
    assert_eq!(
        offered(&all, "Say that it is heard by the game"),
        text.replacen("bell", "bell heard by game", 1)
    );
    let purpose = offered(&all, "Say that this is on purpose");
    assert_eq!(purpose, format!("// on purpose: \n{text}"));
    let both = actions(text, "gong", "gong");
    assert_eq!(offered(&both, "Say that it is sent by the game"), text.replace("gong", "gong sent by game"));
}

#[test]
fn what_is_not_declared_yet() {
    let text = "scene lock\n\n// When it starts.\non started {\n  emit rung(2, \"loud\")\n  perform splash(who.place, 2s, true)\n  send who to steps\n  open barrier\n  level = 3\n}\n";
    let declared = |name: &str, title: &str| {
        let after = offered(&actions(text, name, name), title);
        let line = after.lines().nth(2).unwrap().to_owned();
        assert_eq!(after, text.replace("// When", &format!("{line}\n\n// When")));
        line
    };
    assert_eq!(declared("rung(2", "Declare the signal `rung`"), "signal rung(count_1: whole, words_2: text)");
    let effect = "effect splash(at_1: vector, span_2: duration, on_3: boolean)";
    assert_eq!(declared("splash", "Declare the effect `splash`"), effect);
    assert_eq!(declared("steps", "Declare the spot `steps`"), "spot steps at (0, 0, 0)");
    assert_eq!(declared("barrier", "Declare the object `barrier`"), "object barrier at (0, 0, 0)");
    assert_eq!(declared("level", "Declare the variable `level`"), "var level: number = 0");
}

const THREE: &str = "object red tags lamp { door { over 1s } }\nobject blue tags lamp { door { over 1s } }\n\non red.opened by player {\n  wait 1s\n  close red\n}\n\n// And the other one.\non blue.opened by player {\n  wait 1s\n  close blue\n}\n";

#[test]
fn other_ways_to_write_it() {
    let all = actions(THREE, "on red", "on red");
    assert_eq!(offered(&all, "Give it a guard"), THREE.replacen("player {", "player when true {", 1));
    let group = offered(&all, "Write one wire on every `lamp` for these 2");
    insta::assert_snapshot!(group);
    // One more with that tag would be meant, too.
    let more = format!("object green tags lamp {{ door {{ over 1s }} }}\n{THREE}");
    assert!(!actions(&more, "on red", "on red").iter().any(|(title, _)| title.starts_with("Write one")));
}

#[test]
fn a_kit_of_what_is_marked() {
    let text = "var passages: whole = 0\nspot steps at (0, 0, 0)\nobject pool at (5, 0, 0) { zone box (2, 2, 2) }\nsignal splashed sent by game\n\non pool.entered by player {\n  send who to steps\n  passages += 1\n}\n\non splashed when who inside pool { disable pool }\nnever passages > 5\n";
    let all = actions(text, "object pool", "  passages += 1\n}");
    insta::assert_snapshot!(offered(&all, "Make a kit of these 3"));
    // Half an item is the whole of it; a playtest is none of a kit.
    let with_test = format!("{text}playtest \"a\" {{ player ada at steps; expect passages == 0 }}\n");
    assert!(
        !actions(&with_test, "never passages", "expect")
            .iter()
            .any(|(title, _)| title.starts_with("Make a kit"))
    );
}

#[test]
fn a_playtest_is_run_from_where_it_stands() {
    let text = "object gate { door { over 1s } }\non pressed(\"use\") { open gate }\n\nplaytest \"it opens\" {\n  player ada at gate\n  ada presses use\n  expect gate.opened within 2s\n}\n\nplaytest \"it is open soon enough\" {\n  player ada at gate\n  ada presses use\n  wait 0.5s\n  expect gate is open\n}\n";
    let capabilities = json!({ "workspace": { "codeLens": { "refreshSupport": true } } });
    let mut editor = Editor::with(&[("lock.stoi", text)], capabilities);
    editor.open("lock.stoi");
    let uri = editor.uri("lock.stoi");
    let document = json!({ "textDocument": { "uri": uri } });
    let titles = |editor: &mut Editor| -> Vec<String> {
        let lenses = editor.ask("textDocument/codeLens", document.clone());
        let titles = lenses
            .as_array()
            .unwrap()
            .iter()
            .map(|lens| lens["command"]["title"].as_str().unwrap().to_owned());
        titles.collect()
    };
    assert_eq!(titles(&mut editor), ["run", "run"]);
    for name in ["it opens", "it is open soon enough"] {
        let run = json!({ "command": "stoicheon.runPlaytest", "arguments": [uri, name] });
        let outcome = editor.ask("workspace/executeCommand", run);
        assert_eq!(outcome["passed"], name == "it opens", "{outcome}");
    }
    editor.settle();
    assert_eq!(titles(&mut editor), ["passed: 1.033s, 31 ticks", "failed: 0.567s, 17 ticks"]);
    let found = editor.lines_found("lock.stoi");
    assert_eq!(found.len(), 1);
    assert!(found[0].starts_with("14:3 playtest playtest \"it is open soon enough\" failed"), "{found:?}");
    assert!(found[0].contains("expected  gate is open"), "{found:?}");

    // What was run is of the text as it was.
    editor.change("lock.stoi", &text.replace("0.5s", "1.5s"));
    assert_eq!(editor.lines_found("lock.stoi").len(), 0);
    assert_eq!(titles(&mut editor), ["run", "run"]);

    for arguments in
        [json!([uri, "another"]), json!([]), json!(["file:///nowhere.stoi", "it opens"]), json!([1, 2])]
    {
        let run = json!({ "command": "stoicheon.runPlaytest", "arguments": arguments });
        assert!(editor.ask("workspace/executeCommand", run)["code"].is_i64());
    }
    editor.change("lock.stoi", &text.replace("open gate }", "open gaet }"));
    let run = json!({ "command": "stoicheon.runPlaytest", "arguments": [uri, "it opens"] });
    let outcome = editor.ask("workspace/executeCommand", run);
    assert!(outcome["failure"][0].as_str().unwrap().ends_with("has errors"), "{outcome}");
    editor.end().unwrap();
}
