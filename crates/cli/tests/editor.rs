//! `stoicheon lsp`, as an editor starts it.

use assert_cmd::Command;

fn message(body: &str) -> String {
    format!("Content-Length: {}\r\n\r\n{body}", body.len())
}

/// What it prints when that is said to it.
fn said(args: &[&str], messages: &[&str]) -> assert_cmd::assert::Assert {
    let said: String = messages.iter().map(|body| message(body)).collect();
    Command::cargo_bin("stoicheon").unwrap().arg("lsp").args(args).write_stdin(said).assert()
}

const BEGIN: &str =
    r#"{"jsonrpc":"2.0","id":1,"method":"initialize","params":{"processId":null,"capabilities":{}}}"#;
const SHUT_DOWN: &str = r#"{"jsonrpc":"2.0","id":2,"method":"shutdown"}"#;
const EXIT: &str = r#"{"jsonrpc":"2.0","method":"exit"}"#;

#[test]
fn an_editor_begins_and_ends_it() {
    let done = said(&["--stdio"], &[BEGIN, SHUT_DOWN, EXIT]).success();
    let out = String::from_utf8(done.get_output().stdout.clone()).unwrap();
    assert!(
        out.contains("\"renameProvider\"") && out.ends_with("{\"jsonrpc\":\"2.0\",\"id\":2,\"result\":null}"),
        "{out}"
    );
}

#[test]
fn an_editor_that_goes_without_a_word_is_told_of() {
    let gone = said(&[], &[BEGIN]).code(2);
    let error = String::from_utf8(gone.get_output().stderr.clone()).unwrap();
    assert!(error.contains("without `shutdown` and `exit`"), "{error}");
    said(&["--catalogue", "nowhere.json"], &[]).code(2);
}
