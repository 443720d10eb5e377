//! A server that stays, whatever comes.

use serde_json::{Value, json};
use stoicheon_lsp::ServeError;

use crate::support::{Editor, position, range};

const LOCK: &str =
    "signal bell\nobject gate { door { over 1s } }\non bell { open gate }\non gate.opened { emit bell }\n";

#[test]
fn a_conversation_begins_and_ends() {
    let mut editor = Editor::silent(&[("lock.stoi", LOCK)]);
    let early = editor.ask("textDocument/hover", json!({}));
    assert_eq!(early["code"], -32002, "{early}");
    editor.say("textDocument/didOpen", json!({ "rubbish": 1 }));
    let began =
        editor.ask("initialize", json!({ "processId": null, "rootUri": editor.uri(""), "capabilities": {} }));
    assert_eq!(began["serverInfo"]["name"], "stoicheon");
    assert_eq!(began["capabilities"]["positionEncoding"], "utf-16");
    let again = editor.ask("initialize", json!({ "processId": null, "capabilities": {} }));
    assert_eq!(again["code"], -32600);
    editor.ask("shutdown", Value::Null);
    let late = editor.ask("textDocument/hover", json!({}));
    assert_eq!(late["code"], -32600, "{late}");
    editor.say("exit", Value::Null);
    assert!(matches!(editor.vanish(), Ok(())));
}

#[test]
fn an_editor_that_vanishes_ends_it() {
    assert!(matches!(Editor::on(&[("lock.stoi", LOCK)]).vanish(), Err(ServeError::Gone)));
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    // Half a message, and no more.
    editor.write(b"Content-Length: 400\r\n\r\n{\"jsonrpc\"");
    assert!(matches!(editor.vanish(), Err(ServeError::Gone)));
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    editor.say("exit", Value::Null);
    assert!(matches!(editor.vanish(), Err(ServeError::Gone)));
}

#[test]
fn rubbish_is_told_of_and_passed_over() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    editor.write(b"Content-Length: 9\r\n\r\nnot json!");
    editor.write(b"Content-Type: text\r\n\r\n");
    editor.write(b"Content-Length: never\r\n\r\n");
    editor.write(b"Content-Length: 7\r\n\r\n{\"a\":1}");
    editor.write(b"content-length: 2\r\n\r\n[]");
    editor.write(b"Content-Length: 4\r\n\r\n\xff\xfe\xfd\xfc");
    editor.open("lock.stoi");
    assert_eq!(editor.logged.len(), 6, "{:#?}", editor.logged);
    assert!(editor.logged[1].contains("Content-Length: BYTES"), "{}", editor.logged[1]);
    let unknown = editor.ask("textDocument/moonrise", json!({}));
    assert_eq!(unknown["code"], -32601);
    let wrong = editor.ask("textDocument/hover", json!({ "position": "here" }));
    assert_eq!(wrong["code"], -32602);
    editor.say("$/setTrace", json!({ "value": "off" }));
    editor.say("textDocument/didChange", json!({ "textDocument": { "uri": 3 } }));
    editor.settle();
    assert!(editor.logged[6].contains("didChange"), "{:?}", editor.logged);
    editor.end().unwrap();
}

#[test]
fn files_that_are_none_of_it() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    let nowhere = json!({ "textDocument": { "uri": "file:///nowhere/at/all.stoi" }, "position": { "line": 3, "character": 4 } });
    for method in ["hover", "completion", "definition", "prepareRename", "documentHighlight", "signatureHelp"]
    {
        assert_eq!(editor.ask(&format!("textDocument/{method}"), nowhere.clone()), Value::Null, "{method}");
    }
    let document =
        json!({ "uri": "untitled:Untitled-1", "languageId": "stoi", "version": 1, "text": "on on on" });
    editor.say("textDocument/didOpen", json!({ "textDocument": document }));
    editor.say("textDocument/didClose", json!({ "textDocument": { "uri": "file:///nowhere/at/all.stoi" } }));
    editor.settle();
    assert!(editor.logged[0].contains("untitled:Untitled-1 is no file"), "{:?}", editor.logged);
    assert!(editor.found.is_empty());

    // A file that stands elsewhere is read alone.
    let elsewhere = tempfile::tempdir().unwrap();
    let path = elsewhere.path().join("pool.stoi");
    std::fs::write(&path, "on splash { }\n").unwrap();
    let uri = format!("file://{}", path.display());
    let document = json!({ "uri": uri, "languageId": "stoi", "version": 1, "text": "on splash { }\n" });
    editor.say("textDocument/didOpen", json!({ "textDocument": document }));
    editor.settle();
    assert!(editor.lines_found("pool.stoi")[0].starts_with("1:4 unknown-signal"), "{:?}", editor.found);
    editor.end().unwrap();
}

#[test]
fn a_file_that_is_not_on_disk_yet() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    editor.open_as("new.stoi", "on splash { }\n");
    assert_eq!(editor.lines_found("new.stoi").len(), 1);
    editor.change("new.stoi", "signal splash sent by game\non splash { wait 1s }\n");
    assert_eq!(editor.lines_found("new.stoi").len(), 0);
    // Never saved, and gone.
    editor.change("new.stoi", "on splash { }\n");
    editor.say("textDocument/didClose", json!({ "textDocument": { "uri": editor.uri("new.stoi") } }));
    editor.settle();
    assert_eq!(editor.lines_found("new.stoi").len(), 0);
    editor.end().unwrap();
}

#[test]
fn what_changes_on_disk_is_seen_once_it_is_told() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    std::fs::write(editor.path("lock.stoi"), LOCK.replace("open gate", "open gaet")).unwrap();
    editor.say("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
    editor.settle();
    assert_eq!(editor.lines_found("lock.stoi").len(), 1);
    // What is open counts, whatever is on disk.
    editor.open_as("lock.stoi", LOCK);
    assert_eq!(editor.lines_found("lock.stoi").len(), 0);
    editor.say("textDocument/didClose", json!({ "textDocument": { "uri": editor.uri("lock.stoi") } }));
    editor.settle();
    assert_eq!(editor.lines_found("lock.stoi").len(), 1);
    std::fs::remove_file(editor.path("lock.stoi")).unwrap();
    editor.say("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
    editor.settle();
    assert_eq!(editor.lines_found("lock.stoi").len(), 0);
    editor.end().unwrap();
}

#[test]
fn letters_are_counted_as_the_editor_counts_them() {
    // Two units of UTF-16, four bytes.
    let text = "// 🚣\neffect say(words: text)\non started { perform say(\"🚣\"); perfrom say(\"a\") }\n";
    for (encoding, column) in [("utf-16", 33), ("utf-8", 35)] {
        let general = json!({ "general": { "positionEncodings": [encoding] } });
        let mut editor = Editor::with(&[("lock.stoi", text)], general);
        editor.open("lock.stoi");
        let found = editor.lines_found("lock.stoi");
        assert!(found[0].starts_with(&format!("3:{column} ")), "{encoding}: {found:?}");
        editor.end().unwrap();
    }
}

#[test]
fn edits_behind_the_end_and_backwards() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    editor.open("lock.stoi");
    // Behind the end of a line is its end; behind the last line the end of the text.
    editor.type_in("lock.stoi", &range(0, 400, 400), " sent by game");
    editor.type_in("lock.stoi", &range(900, 0, 5), "on nothing { }\n");
    let back = json!({ "start": { "line": 4, "character": 10 }, "end": { "line": 4, "character": 3 } });
    editor.type_in("lock.stoi", &back, "bell");
    editor.settle();
    assert_eq!(editor.lines_found("lock.stoi"), Vec::<String>::new());
    editor.end().unwrap();
}

#[test]
fn rapid_edits_and_questions_that_are_taken_back() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    editor.open("lock.stoi");
    let mut asked = Vec::new();
    for (number, letter) in (0..).zip("on bell { close gate }\n".repeat(20).chars()) {
        let line = 4 + number / 23;
        let at = range(line, number % 23, number % 23);
        editor.type_in("lock.stoi", &at, &letter.to_string());
        let params = json!({ "textDocument": { "uri": editor.uri("lock.stoi") }, "position": { "line": line, "character": number % 23 } });
        let id = editor.begin("textDocument/completion", params);
        editor.say("$/cancelRequest", json!({ "id": id }));
        asked.push(id);
    }
    // Each is answered once, or was taken back in time.
    for id in asked {
        let answer = editor.answer(id);
        assert!(answer.get("result").is_some() || answer["error"]["code"] == -32800, "{answer}");
    }
    editor.settle();
    let found = editor.lines_found("lock.stoi");
    assert!(found.iter().all(|line| !line.contains("syntax")), "{found:#?}");
    editor.say("$/cancelRequest", json!({ "id": 1_000_000 }));
    editor.say("$/cancelRequest", json!({}));
    editor.end().unwrap();
}

#[test]
fn a_line_of_a_megabyte() {
    let long = format!("{LOCK}never {}false\n", "gate is open and ".repeat(60_000));
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    editor.open("lock.stoi");
    editor.change("lock.stoi", &long);
    assert_eq!(editor.lines_found("lock.stoi").len(), 1, "{:?}", editor.found);
    let hover = editor.ask_at("textDocument/hover", "lock.stoi", (&long, ("is open", 1)), json!({}));
    assert!(hover.is_null() || hover.is_object());
    let end = position(&long, long.len());
    let params = json!({ "textDocument": { "uri": editor.uri("lock.stoi") }, "position": end });
    assert!(editor.ask("textDocument/completion", params).is_object());
    editor.change("lock.stoi", &format!("// {}\n{LOCK}", "x".repeat(1 << 20)));
    assert_eq!(editor.lines_found("lock.stoi").len(), 0);
    editor.end().unwrap();
}

#[test]
fn what_cannot_be_read_is_told_of_once_and_what_programs_put_there_is_passed_over() {
    let mut editor = Editor::on(&[("lock.stoi", LOCK)]);
    std::fs::write(editor.path("noise.stoi"), b"\xff\xfe\xff").unwrap();
    std::fs::create_dir(editor.path("target")).unwrap();
    std::fs::write(editor.path("target/copy.stoi"), "on nothing { }").unwrap();
    for _ in 0..3 {
        editor.say("workspace/didChangeWatchedFiles", json!({ "changes": [] }));
        editor.settle();
    }
    assert_eq!(editor.logged.len(), 1, "{:?}", editor.logged);
    assert!(editor.logged[0].contains("noise.stoi is not a text in UTF-8"), "{:?}", editor.logged);
    assert!(editor.found.is_empty(), "{:?}", editor.found);
    editor.end().unwrap();
}
