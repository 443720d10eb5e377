//! An editor for tests, with a folder of wiring.

use std::{
    collections::BTreeMap,
    io::{BufReader, PipeReader, PipeWriter, Read, Write, pipe},
    path::{Path, PathBuf},
    thread::JoinHandle,
};

use serde_json::{Value, json};
use stoicheon_core::Catalogue;
use stoicheon_lsp::{ServeError, serve};

/// The shipped canal, file by file.
pub(crate) fn canal() -> Vec<(String, String)> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/canal");
    let files = std::fs::read_dir(folder).unwrap().map(|file| file.unwrap().path());
    let named = files.map(|path| {
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        (name, std::fs::read_to_string(path).unwrap())
    });
    named.collect()
}

/// An editor that has begun a conversation about a folder.
pub(crate) struct Editor {
    pub(crate) folder: tempfile::TempDir,
    to: PipeWriter,
    from: BufReader<PipeReader>,
    server: Option<JoinHandle<Result<(), ServeError>>>,
    asked: i32,
    versions: BTreeMap<String, i32>,
    /// What is found in each file, as it was told last.
    pub(crate) found: BTreeMap<String, Vec<Value>>,
    /// What was said besides.
    pub(crate) logged: Vec<String>,
}

impl Editor {
    /// On files by their names; none of them is open.
    pub(crate) fn on(files: &[(&str, &str)]) -> Self {
        Self::with(files, json!({}))
    }

    pub(crate) fn on_canal() -> Self {
        let files = canal();
        let files: Vec<_> = files.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
        Self::on(&files)
    }

    pub(crate) fn with(files: &[(&str, &str)], capabilities: Value) -> Self {
        let mut editor = Self::silent(files);
        let root = editor.uri("");
        let folders = json!([{ "uri": root.trim_end_matches('/'), "name": "canal" }]);
        let params = json!({ "processId": null, "rootUri": null, "workspaceFolders": folders, "capabilities": capabilities });
        editor.ask("initialize", params);
        editor.say("initialized", json!({}));
        editor.settle();
        editor
    }

    /// One that has not said a word yet.
    pub(crate) fn silent(files: &[(&str, &str)]) -> Self {
        let folder = tempfile::tempdir().unwrap();
        for (name, text) in files {
            std::fs::write(folder.path().join(name), text).unwrap();
        }
        let (theirs, to) = pipe().unwrap();
        let (from, ours) = pipe().unwrap();
        let server = std::thread::spawn(move || serve(BufReader::new(theirs), ours, Catalogue::built_in()));
        Self {
            folder,
            to,
            from: BufReader::new(from),
            server: Some(server),
            asked: 0,
            versions: BTreeMap::new(),
            found: BTreeMap::new(),
            logged: Vec::new(),
        }
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.path().join(name)
    }

    pub(crate) fn uri(&self, name: &str) -> String {
        format!("file://{}", self.path(name).display())
    }

    pub(crate) fn write(&mut self, bytes: &[u8]) {
        self.to.write_all(bytes).unwrap();
    }

    pub(crate) fn send(&mut self, message: &Value) {
        let body = message.to_string();
        self.write(format!("Content-Length: {}\r\n\r\n{body}", body.len()).as_bytes());
    }

    pub(crate) fn say(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    /// Asks, without waiting; the number of the question.
    pub(crate) fn begin(&mut self, method: &str, params: Value) -> i32 {
        self.asked += 1;
        let id = self.asked;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }));
        id
    }

    /// The next message.
    pub(crate) fn hear(&mut self) -> Value {
        let mut header = Vec::new();
        while !header.ends_with(b"\r\n\r\n") {
            let mut byte = [0];
            self.from.read_exact(&mut byte).unwrap();
            header.push(byte[0]);
        }
        let header = String::from_utf8(header).unwrap();
        let length = header.lines().find_map(|line| line.strip_prefix("Content-Length: ")).unwrap();
        let mut body = vec![0; length.parse().unwrap()];
        self.from.read_exact(&mut body).unwrap();
        let message: Value = serde_json::from_slice(&body).unwrap();
        match message["method"].as_str() {
            Some("textDocument/publishDiagnostics") => {
                let uri = message["params"]["uri"].as_str().unwrap();
                let name = uri.rsplit('/').next().unwrap().to_owned();
                self.found.insert(name, message["params"]["diagnostics"].as_array().unwrap().clone());
            }
            Some("window/logMessage") => {
                self.logged.push(message["params"]["message"].as_str().unwrap().to_owned());
            }
            _ => {}
        }
        message
    }

    /// What is answered to a question: the whole message.
    pub(crate) fn answer(&mut self, id: i32) -> Value {
        loop {
            let message = self.hear();
            if message["id"] == id && message.get("method").is_none() {
                return message;
            }
        }
    }

    /// Asks, and gives what is answered; a refusal as it is.
    pub(crate) fn ask(&mut self, method: &str, params: Value) -> Value {
        let id = self.begin(method, params);
        let answer = self.answer(id);
        answer.get("result").or(answer.get("error")).cloned().unwrap_or_default()
    }

    /// Until everything is told that is found now.
    pub(crate) fn settle(&mut self) {
        self.ask("stoicheon/settled", Value::Null);
    }

    pub(crate) fn open(&mut self, name: &str) {
        let text = std::fs::read_to_string(self.path(name)).unwrap_or_default();
        self.open_as(name, &text);
    }

    pub(crate) fn open_as(&mut self, name: &str, text: &str) {
        let uri = self.uri(name);
        self.versions.insert(name.to_owned(), 1);
        let document = json!({ "uri": uri, "languageId": "stoi", "version": 1, "text": text });
        self.say("textDocument/didOpen", json!({ "textDocument": document }));
        self.settle();
    }

    fn document(&mut self, name: &str) -> Value {
        let version = self.versions.entry(name.to_owned()).or_default();
        *version += 1;
        let version = *version;
        json!({ "uri": self.uri(name), "version": version })
    }

    /// The whole text becomes another one.
    pub(crate) fn change(&mut self, name: &str, text: &str) {
        let document = self.document(name);
        let changes = json!([{ "text": text }]);
        self.say("textDocument/didChange", json!({ "textDocument": document, "contentChanges": changes }));
        self.settle();
    }

    /// What stands between two places becomes something else; without waiting.
    pub(crate) fn type_in(&mut self, name: &str, range: &Value, text: &str) {
        let document = self.document(name);
        let changes = json!([{ "range": range, "text": text }]);
        self.say("textDocument/didChange", json!({ "textDocument": document, "contentChanges": changes }));
    }

    /// Asks about a place in a file, which is the start of some of its text, so many bytes further on.
    pub(crate) fn ask_at(
        &mut self,
        method: &str,
        name: &str,
        (text, at): (&str, (&str, usize)),
        more: Value,
    ) -> Value {
        let byte = text.find(at.0).unwrap_or_else(|| panic!("there is no {} in {name}", at.0)) + at.1;
        let position = position(text, byte);
        let mut params = json!({ "textDocument": { "uri": self.uri(name) }, "position": position });
        params.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        self.ask(method, params)
    }

    /// Without the folder, which is another one each time.
    pub(crate) fn plain(&self, value: &Value) -> String {
        let text = serde_json::to_string_pretty(value).unwrap();
        text.replace(&self.uri(""), "file:///")
    }

    /// What is found in a file, in a line each.
    pub(crate) fn lines_found(&self, name: &str) -> Vec<String> {
        let found = self.found.get(name).map(Vec::as_slice).unwrap_or_default();
        let line = |found: &Value| {
            let start = &found["range"]["start"];
            let message = found["message"].as_str().unwrap().replace('\n', " | ");
            let (line, column) =
                (start["line"].as_u64().unwrap() + 1, start["character"].as_u64().unwrap() + 1);
            format!("{line}:{column} {} {message}", found["code"].as_str().unwrap())
        };
        found.iter().map(line).collect()
    }

    /// Ends as it should, and says how the server ended.
    pub(crate) fn end(mut self) -> Result<(), ServeError> {
        self.ask("shutdown", Value::Null);
        self.say("exit", Value::Null);
        self.server.take().unwrap().join().unwrap()
    }

    /// Closes its side, and says how the server ended.
    pub(crate) fn vanish(mut self) -> Result<(), ServeError> {
        let server = self.server.take().unwrap();
        drop(self);
        server.join().unwrap()
    }
}

/// Where a byte is, in units of UTF-16.
pub(crate) fn position(text: &str, byte: usize) -> Value {
    let before = &text[..byte];
    let line = before.matches('\n').count();
    let start = before.rfind('\n').map_or(0, |at| at + 1);
    json!({ "line": line, "character": before[start..].encode_utf16().count() })
}

/// A range of positions on one line.
pub(crate) fn range(line: usize, start: usize, end: usize) -> Value {
    json!({ "start": { "line": line, "character": start }, "end": { "line": line, "character": end } })
}
