//! The language server: whatever is typed and asked, it answers, and ends as it should.
#![no_main]

use std::io::Cursor;

use libfuzzer_sys::{arbitrary, arbitrary::Arbitrary, fuzz_target};
use serde_json::{Value, json};
use stoicheon_core::Catalogue;

/// A text, and what is done with it.
#[derive(Arbitrary, Debug)]
struct Session<'a> {
    text: &'a str,
    steps: Vec<Step<'a>>,
}

#[derive(Arbitrary, Debug)]
enum Step<'a> {
    Type { line: u8, from: u8, to: u8, text: &'a str },
    Ask { method: u8, line: u8, at: u8 },
    /// A message that is none.
    Rubbish(&'a [u8]),
}

const ASKED: [&str; 16] = [
    "completion", "hover", "definition", "references", "documentHighlight", "prepareRename", "rename", "signatureHelp",
    "documentSymbol", "foldingRange", "semanticTokens/full", "inlayHint", "formatting", "rangeFormatting", "codeAction", "codeLens",
];

const URI: &str = "file:///nowhere/fuzz.stoi";

fn message(body: &Value) -> Vec<u8> {
    let body = body.to_string();
    format!("Content-Length: {}\r\n\r\n{body}", body.len()).into_bytes()
}

fn session(session: &Session<'_>) -> Vec<u8> {
    let mut all = message(&json!({ "jsonrpc": "2.0", "id": 0, "method": "initialize", "params": { "processId": null, "rootUri": null, "capabilities": {} } }));
    let document = json!({ "uri": URI, "languageId": "stoi", "version": 0, "text": session.text });
    all.extend(message(&json!({ "jsonrpc": "2.0", "method": "textDocument/didOpen", "params": { "textDocument": document } })));
    for (number, step) in (1..).zip(session.steps.iter().take(24)) {
        match step {
            Step::Type { line, from, to, text } => {
                let range = json!({ "start": { "line": line, "character": from }, "end": { "line": line, "character": to } });
                let document = json!({ "uri": URI, "version": number });
                let changes = json!([{ "range": range, "text": text }]);
                all.extend(message(&json!({ "jsonrpc": "2.0", "method": "textDocument/didChange", "params": { "textDocument": document, "contentChanges": changes } })));
            }
            Step::Ask { method, line, at } => {
                let position = json!({ "line": line, "character": at });
                let end = json!({ "line": u32::from(*line) + 2, "character": at });
                let params = json!({
                    "textDocument": { "uri": URI }, "position": position, "range": { "start": position, "end": end },
                    "newName": "another", "context": { "includeDeclaration": true, "diagnostics": [] },
                    "options": { "tabSize": 2, "insertSpaces": true },
                });
                let method = format!("textDocument/{}", ASKED[usize::from(*method) % ASKED.len()]);
                all.extend(message(&json!({ "jsonrpc": "2.0", "id": number, "method": method, "params": params })));
            }
            Step::Rubbish(bytes) => {
                all.extend(format!("Content-Length: {}\r\n\r\n", bytes.len()).into_bytes());
                all.extend(*bytes);
            }
        }
    }
    all.extend(message(&json!({ "jsonrpc": "2.0", "id": 1000, "method": "shutdown" })));
    all.extend(message(&json!({ "jsonrpc": "2.0", "method": "exit" })));
    all
}

fuzz_target!(|typed: Session<'_>| {
    let mut out = Vec::new();
    let ended = stoicheon_lsp::serve(Cursor::new(session(&typed)), &mut out, Catalogue::built_in());
    assert!(ended.is_ok(), "{ended:?}");
    let out = String::from_utf8_lossy(&out);
    assert!(!out.contains("a defect of the server"), "{out}");
});
