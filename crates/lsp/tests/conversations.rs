//! Each thing an editor asks, recorded.

use serde_json::{Value, json};

use crate::support::Editor;

#[test]
fn findings_come_and_go() {
    let mut editor = Editor::on_canal();
    assert!(editor.found.is_empty(), "{:?}", editor.found);
    editor.open("lockside.stoi");
    let text = std::fs::read_to_string(editor.path("lockside.stoi")).unwrap();
    editor.change("lockside.stoi", &text.replace("emit toll_due", "emit toll_deu"));
    insta::assert_snapshot!(editor.plain(&json!(editor.found)));
    editor.change("lockside.stoi", &text);
    assert!(editor.found.values().all(Vec::is_empty), "{:?}", editor.found);
    // What is wrong in one file may be told of in another.
    editor.change("lockside.stoi", &text.replace("spot arrival", "spot arriving"));
    assert_eq!(editor.found.iter().filter(|(_, found)| !found.is_empty()).count(), 2, "{:#?}", editor.found);
    editor.end().unwrap();
}

/// Asks about a place in the lockside, and records what comes back.
fn recorded(method: &str, at: (&str, usize), more: Value) -> String {
    let mut editor = Editor::on_canal();
    let name = "lockside.stoi";
    editor.open(name);
    let text = std::fs::read_to_string(editor.path(name)).unwrap();
    let answer = editor.ask_at(method, name, (&text, at), more);
    let plain = editor.plain(&answer);
    editor.end().unwrap();
    plain
}

#[test]
fn definition() {
    insta::assert_snapshot!(recorded("textDocument/definition", ("emit toll_due", 6), json!({})));
}

#[test]
fn references() {
    let with = json!({ "context": { "includeDeclaration": true } });
    insta::assert_snapshot!(recorded("textDocument/references", ("add catch_floor", 5), with));
}

#[test]
fn highlight() {
    insta::assert_snapshot!(recorded("textDocument/documentHighlight", ("object toll_gate", 8), json!({})));
}

#[test]
fn rename() {
    insta::assert_snapshot!(recorded("textDocument/prepareRename", ("emit toll_due", 7), json!({})));
    insta::assert_snapshot!(recorded(
        "textDocument/rename",
        ("emit toll_due", 7),
        json!({ "newName": "fare_due" })
    ));
    let taken = recorded("textDocument/rename", ("object toll_gate", 8), json!({ "newName": "weir_pool" }));
    assert!(taken.contains("there is already an object `weir_pool`"), "{taken}");
}

#[test]
fn hover() {
    insta::assert_snapshot!(recorded("textDocument/hover", ("emit toll_due", 7), json!({})));
    insta::assert_snapshot!(recorded("textDocument/hover", ("door {", 1), json!({})));
    insta::assert_snapshot!(recorded("textDocument/hover", ("toll_gate.answered", 12), json!({})));
    insta::assert_snapshot!(recorded("textDocument/hover", ("0.5s", 1), json!({})));
    insta::assert_snapshot!(recorded("textDocument/hover", ("open toll_gate", 1), json!({})));
}

#[test]
fn signature_help() {
    insta::assert_snapshot!(recorded(
        "textDocument/signatureHelp",
        ("weir_pool, landing: weir", 20),
        json!({})
    ));
}

#[test]
fn completion() {
    let mut editor = Editor::with(
        &[("lock.stoi", "")],
        json!({ "textDocument": { "completion": { "completionItem": { "snippetSupport": true } } } }),
    );
    let text = "effect say(words: text)\nobject gate { door { swing 85deg, ov } }\non gate.op";
    editor.open_as("lock.stoi", text);
    let of_signal = editor.ask_at("textDocument/completion", "lock.stoi", (text, ("gate.op", 7)), json!({}));
    insta::assert_snapshot!(editor.plain(&of_signal));
    let setting = editor.ask_at("textDocument/completion", "lock.stoi", (text, ("ov }", 2)), json!({}));
    let items = setting["items"].as_array().unwrap();
    let over = items.iter().find(|item| item["label"] == "over").unwrap();
    insta::assert_snapshot!(editor.plain(over));
    editor.end().unwrap();
}

#[test]
fn outline_and_symbols() {
    let mut editor = Editor::on_canal();
    let document = json!({ "textDocument": { "uri": editor.uri("tunnel.stoi") } });
    let outline = editor.ask("textDocument/documentSymbol", document);
    insta::assert_snapshot!(editor.plain(&outline));
    let symbols = editor.ask("workspace/symbol", json!({ "query": "tlg" }));
    insta::assert_snapshot!(editor.plain(&symbols));
    editor.end().unwrap();
}

#[test]
fn folds_and_hints() {
    let mut editor = Editor::on_canal();
    let document = json!({ "textDocument": { "uri": editor.uri("shared.stoi") } });
    let folds = editor.ask("textDocument/foldingRange", document);
    insta::assert_snapshot!(folds.to_string());
    let all = json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 100, "character": 0 } });
    let params = json!({ "textDocument": { "uri": editor.uri("shared.stoi") }, "range": all });
    let hints = editor.ask("textDocument/inlayHint", params);
    insta::assert_snapshot!(editor.plain(&hints));
    editor.end().unwrap();
}

#[test]
fn colours() {
    let text = "// A gate\nobject gate { door { over 1s } }\non gate.opened by player { emit bell(2) }\nsignal bell(strokes: whole)\n";
    let mut editor = Editor::on(&[("lock.stoi", text)]);
    let document = json!({ "textDocument": { "uri": editor.uri("lock.stoi") } });
    let tokens = editor.ask("textDocument/semanticTokens/full", document);
    insta::assert_snapshot!(words(text, &tokens["data"]).join("\n"));
    editor.end().unwrap();
}

/// Each word, with its kind.
fn words(text: &str, data: &Value) -> Vec<String> {
    const KINDS: [&str; 17] = [
        "comment",
        "number",
        "string",
        "operator",
        "keyword",
        "type",
        "property",
        "enumMember",
        "function",
        "macro",
        "variable",
        "event",
        "class",
        "struct",
        "parameter",
        "namespace",
        "decorator",
    ];
    let numbers: Vec<usize> = data
        .as_array()
        .unwrap()
        .iter()
        .map(|number| usize::try_from(number.as_u64().unwrap()).unwrap())
        .collect();
    let lines: Vec<&str> = text.lines().collect();
    let (mut line, mut column) = (0, 0);
    let word = |token: &[usize]| {
        column = if token[0] == 0 { column + token[1] } else { token[1] };
        line += token[0];
        format!("{} {}", KINDS[token[3]], &lines[line][column..column + token[2]])
    };
    numbers.chunks(5).map(word).collect()
}

#[test]
fn formatting() {
    let text = "on  bell{ open   gate }\n\n\n\nobject gate { door { over 1s } }\n signal bell sent by game";
    let mut editor = Editor::on(&[("lock.stoi", text)]);
    let document = json!({ "uri": editor.uri("lock.stoi") });
    let options = json!({ "tabSize": 2, "insertSpaces": true });
    let all = editor.ask("textDocument/formatting", json!({ "textDocument": document, "options": options }));
    insta::assert_snapshot!(editor.plain(&all));
    let first = json!({ "start": { "line": 0, "character": 0 }, "end": { "line": 0, "character": 5 } });
    let some = editor.ask(
        "textDocument/rangeFormatting",
        json!({ "textDocument": document, "options": options, "range": first }),
    );
    assert_eq!(some.as_array().unwrap().len(), 1, "{some}");
    editor.end().unwrap();
}

/// What two scenes share that are no project's is one thing for both.
#[test]
fn what_several_wirings_share_is_renamed_in_all_of_them() {
    let scene = |pool: &str| {
        format!(
            "shared \"kits.stoi\"\nobject {pool} {{ zone box (1, 1, 1) }}\nspot bank at (0, 0, 0)\nadd net(pool: {pool}, bank: bank)\n"
        )
    };
    let kit = "kit net(pool: object, bank: spot) {\n  on pool.entered by player { send who to bank }\n}\n";
    let (weir, pond) = (scene("weir"), scene("pond"));
    let mut editor = Editor::on(&[("kits.stoi", kit), ("weir.stoi", &weir), ("pond.stoi", &pond)]);
    let answer = editor.ask_at(
        "textDocument/rename",
        "weir.stoi",
        (&weir, ("add net", 5)),
        json!({ "newName": "safety" }),
    );
    let files: Vec<String> = answer["changes"]
        .as_object()
        .unwrap()
        .keys()
        .map(|uri| uri.rsplit('/').next().unwrap().to_owned())
        .collect();
    assert_eq!(files, ["kits.stoi", "pond.stoi", "weir.stoi"]);
    // One that is called so in the other scene alone is in the way there, too.
    let taken = editor.ask_at(
        "textDocument/rename",
        "weir.stoi",
        (&weir, ("add net", 5)),
        json!({ "newName": "a b" }),
    );
    assert_eq!(taken["code"], -32803, "{taken}");
    let with = json!({ "context": { "includeDeclaration": true } });
    let places = editor.ask_at("textDocument/references", "weir.stoi", (&weir, ("add net", 5)), with);
    assert_eq!(places.as_array().unwrap().len(), 3, "{places}");
    editor.end().unwrap();
}

#[test]
fn a_scene_is_read_with_its_project_that_stands_above_the_folder() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::create_dir(folder.path().join("scenes")).unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    write("canal.stoi", "project canal\nscene \"scenes/lock.stoi\"\nshared \"effects.stoi\"\n");
    write("effects.stoi", "effect say(words: text)\n");
    let text = "scene lock\non started { perform say(\"a\") }\n";
    write("scenes/lock.stoi", text);
    let mut editor = Editor::on(&[]);
    let uri = format!("file://{}", folder.path().join("scenes/lock.stoi").display());
    let document = json!({ "uri": uri, "languageId": "stoi", "version": 1, "text": text });
    editor.say("textDocument/didOpen", json!({ "textDocument": document }));
    editor.settle();
    assert_eq!(editor.lines_found("lock.stoi"), Vec::<String>::new());
    editor.end().unwrap();
}
