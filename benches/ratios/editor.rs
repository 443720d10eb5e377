//! The language server: from a keystroke to what is found, through the bytes of its protocol.

use std::{
    hint::black_box,
    io::{BufReader, PipeReader, PipeWriter, Read, Write, pipe},
    path::{Path, PathBuf},
};

use serde_json::{Value, json};
use stoicheon::{catalogue::Catalogue, files, lsp};

use crate::{Ratios, Timed, language};

/// An editor with a file open.
struct Editor {
    to: PipeWriter,
    from: BufReader<PipeReader>,
    uri: String,
    version: i32,
    /// The line that is written in, and whether its slip stands there.
    line: u32,
    slips: bool,
}

impl Editor {
    fn on(path: &Path) -> Self {
        let (theirs, to) = pipe().unwrap();
        let (from, ours) = pipe().unwrap();
        std::thread::spawn(move || lsp::serve(BufReader::new(theirs), ours, Catalogue::built_in()));
        let text = std::fs::read_to_string(path).unwrap();
        let line = text.lines().position(|line| line.contains("wait 2s")).unwrap();
        let uri = format!("file://{}", path.display());
        let mut editor = Self {
            to,
            from: BufReader::new(from),
            uri,
            version: 1,
            line: line.try_into().unwrap(),
            slips: false,
        };
        let root = format!("file://{}", path.parent().unwrap().display());
        editor.send(&json!({ "jsonrpc": "2.0", "id": 1, "method": "initialize", "params": { "processId": null, "rootUri": root, "capabilities": {} } }));
        let document = json!({ "uri": editor.uri, "languageId": "stoi", "version": 1, "text": text });
        editor.send(&json!({ "jsonrpc": "2.0", "method": "textDocument/didOpen", "params": { "textDocument": document } }));
        editor.settle();
        editor
    }

    fn send(&mut self, message: &Value) {
        let body = message.to_string();
        write!(self.to, "Content-Length: {}\r\n\r\n{body}", body.len()).unwrap();
    }

    fn hear(&mut self) -> Value {
        let mut header = Vec::new();
        while !header.ends_with(b"\r\n\r\n") {
            let mut byte = [0];
            self.from.read_exact(&mut byte).unwrap();
            header.push(byte[0]);
        }
        let header = String::from_utf8(header).unwrap();
        let length = header.trim().rsplit(' ').next().unwrap().parse().unwrap();
        let mut body = vec![0; length];
        self.from.read_exact(&mut body).unwrap();
        serde_json::from_slice(&body).unwrap()
    }

    fn settle(&mut self) {
        self.send(&json!({ "jsonrpc": "2.0", "id": 2, "method": "stoicheon/settled" }));
        while self.hear()["id"] != 2 {}
    }

    /// A letter comes or goes, and with it a finding: until that is told.
    fn stroke(&mut self) {
        self.slips = !self.slips;
        self.version += 1;
        let end = if self.slips { 2 } else { 3 };
        let range = json!({ "start": { "line": self.line, "character": 2 }, "end": { "line": self.line, "character": end } });
        let text = if self.slips { "x" } else { "" };
        let document = json!({ "uri": self.uri, "version": self.version });
        let changes = json!([{ "range": range, "text": text }]);
        self.send(&json!({ "jsonrpc": "2.0", "method": "textDocument/didChange", "params": { "textDocument": document, "contentChanges": changes } }));
        loop {
            let message = self.hear();
            if message["method"] == "textDocument/publishDiagnostics" {
                let count = message["params"]["diagnostics"].as_array().unwrap().len();
                assert_eq!(count, usize::from(self.slips));
                return;
            }
        }
    }
}

/// A file of so many lines in which nothing is found.
fn written(folder: &Path, lines: usize) -> PathBuf {
    let text = language::project(lines / 14);
    let text: String =
        text.lines().filter(|line| !line.contains("lit")).flat_map(|line| [line, "\n"]).collect();
    let text = text + "never passages > 1000000\nobject keepers_hut at (0, 0, 0) tags keeper\n";
    let path = folder.join("long_canal.stoi");
    std::fs::write(&path, text).unwrap();
    path
}

fn check(path: &Path) -> Timed<'static> {
    let path = path.to_owned();
    Timed::new(1, move || {
        let (wirings, _) = files::read_all(std::slice::from_ref(&path), &Catalogue::built_in());
        let checked = wirings[0].checked_in_place();
        assert!(black_box(checked.parts()[0].diagnostics()).is_empty());
    })
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let all = std::mem::replace(&mut ratios.rounds, 31);
    for (name, lines, bar) in [("editor.keystroke.1k", 1_000, 1.0), ("editor.keystroke.10k", 10_000, 0.5)] {
        let folder = tempfile::tempdir().unwrap();
        let path = written(folder.path(), lines);
        let mut editor = Editor::on(&path);
        // What is found in place is looked for in between, as it is while somebody thinks.
        let ours = Timed::new(1, move || editor.stroke());
        ratios.row(name, bar, ours, "a whole check", check(&path));
    }
    let folder = tempfile::tempdir().unwrap();
    let path = written(folder.path(), 10_000);
    let mut editor = Editor::on(&path);
    ratios.within("editor.keystroke.100ms", 100e6, Timed::new(1, move || editor.stroke()));
    ratios.rounds = all;
}
