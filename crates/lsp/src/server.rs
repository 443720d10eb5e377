//! The server: messages in, messages out, one after the other.

use std::{
    collections::{BTreeMap, VecDeque},
    io::{BufRead, Write},
    panic::{AssertUnwindSafe, catch_unwind},
    path::PathBuf,
    sync::mpsc,
};

use lsp_server::{ErrorCode, Message, Notification, Request, RequestId, Response};
use lsp_types::{
    Diagnostic, InitializeParams, InitializeResult, LogMessageParams, MessageType, PublishDiagnosticsParams,
    ServerInfo,
    notification::{LogMessage, Notification as _, PublishDiagnostics},
};
use stoicheon_core::Catalogue;
use stoicheon_files::Wiring;

use crate::{
    abilities::abilities,
    desk::Desk,
    findings,
    place::{Counts, path_of, uri_of},
    requests,
    transport::{self, Incoming},
};

/// Why a conversation ended before the editor said that it ends.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ServeError {
    /// The editor is gone, or does not take what is written.
    #[error("the editor can no longer be reached: {0}")]
    Lost(#[from] std::io::Error),
    /// It went without a word.
    #[error("the editor has closed the conversation without `shutdown` and `exit`")]
    Gone,
}

/// What the server waits for.
enum Event {
    Incoming(Incoming),
    /// Some wiring, and the same with what was found once it was made into a world.
    Checked(Box<(Wiring, Wiring)>),
    Gone,
}

/// Talks with an editor, until it says that the conversation ends. `catalogue` is what its wiring may speak of.
///
/// Findings are told as soon as all that has come is looked at. What is found only once a world is made of the wiring is looked for meanwhile, in a thread of its own,
/// and told afterwards; whoever has to know that everything is told asks `stoicheon/settled`, which is answered then.
///
/// ```
/// use std::io::Cursor;
/// use stoicheon_core::Catalogue;
/// let message = |body: &str| format!("Content-Length: {}\r\n\r\n{body}", body.len());
/// let from = [
///     message(r#"{"jsonrpc":"2.0","id":1,"method":"initialize","params":{"processId":null,"rootUri":null,"capabilities":{}}}"#),
///     message(r#"{"jsonrpc":"2.0","id":2,"method":"shutdown"}"#),
///     message(r#"{"jsonrpc":"2.0","method":"exit"}"#),
/// ];
/// let mut to = Vec::new();
/// stoicheon_lsp::serve(Cursor::new(from.concat()), &mut to, Catalogue::built_in())?;
/// assert!(String::from_utf8(to).unwrap().contains("completionProvider"));
/// # Ok::<(), stoicheon_lsp::ServeError>(())
/// ```
///
/// # Errors
/// [`ServeError`]
pub fn serve(
    mut from: impl BufRead + Send + 'static,
    mut to: impl Write,
    catalogue: Catalogue,
) -> Result<(), ServeError> {
    let (sender, receiver) = mpsc::channel();
    let reader = sender.clone();
    // It ends when the editor closes its side, or with the process.
    std::thread::spawn(move || {
        while let Ok(Some(incoming)) = transport::read(&mut from) {
            if reader.send(Event::Incoming(incoming)).is_err() {
                return;
            }
        }
        // Nobody may be there any more to hear it.
        let _ = reader.send(Event::Gone);
    });
    let mut server = Server::new(catalogue);
    let mut is_gone = false;
    loop {
        // What has come meanwhile is looked at together: an edit that another one follows is not checked for itself.
        let mut next = None;
        if server.is_idle() {
            if is_gone {
                return Err(ServeError::Gone);
            }
            next = Some(receiver.recv().unwrap_or(Event::Gone));
        }
        while let Some(event) = next.take().or_else(|| receiver.try_recv().ok()) {
            match event {
                Event::Incoming(incoming) => server.queue(incoming),
                Event::Checked(found) => server.checked(&found.0, found.1),
                Event::Gone => is_gone = true,
            }
        }
        server.step();
        if let Some(wiring) = server.next_to_check() {
            let done = sender.clone();
            std::thread::spawn(move || {
                let checked = catch_unwind(AssertUnwindSafe(|| wiring.checked_in_place()));
                let checked = checked.unwrap_or_else(|_| wiring.clone());
                // Nobody may be there any more to hear it.
                let _ = done.send(Event::Checked(Box::new((wiring, checked))));
            });
        }
        for message in server.take_out() {
            message.write(&mut to)?;
        }
        match server.end {
            Some(true) => return Ok(()),
            Some(false) => return Err(ServeError::Gone),
            None => {}
        }
    }
}

/// How far a conversation is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Stage {
    Before,
    Under,
    ShutDown,
}

/// One conversation with an editor.
#[derive(Debug)]
struct Server {
    stage: Stage,
    desk: Desk,
    /// The editor asks for lenses again when it is told to.
    refreshes_lenses: bool,
    /// How much was asked of the editor.
    asked: i32,
    /// What has come in, and was not looked at yet.
    queue: VecDeque<Incoming>,
    out: Vec<Message>,
    /// The findings that the editor knows, by file.
    told: BTreeMap<PathBuf, Vec<Diagnostic>>,
    /// The files that cannot be read, as it was logged last.
    troubles: Vec<String>,
    /// A world is being made of some wiring, to see what is found there.
    is_checking: bool,
    /// Those who wait until everything is told.
    waiting: Vec<RequestId>,
    /// Whether the editor said that it ends before it ended.
    end: Option<bool>,
}

impl Server {
    fn new(catalogue: Catalogue) -> Self {
        Self {
            stage: Stage::Before,
            desk: Desk::new(catalogue),
            refreshes_lenses: false,
            asked: 0,
            queue: VecDeque::new(),
            out: Vec::new(),
            told: BTreeMap::new(),
            troubles: Vec::new(),
            is_checking: false,
            waiting: Vec::new(),
            end: None,
        }
    }

    /// Whether there is nothing to do.
    fn is_idle(&self) -> bool {
        self.queue.is_empty() && !self.desk.is_stale
    }

    /// Takes something in, to be looked at when its turn comes. What was asked and is not wanted any more is answered so at once.
    fn queue(&mut self, incoming: Incoming) {
        if let Incoming::Message(Message::Notification(said)) = &incoming
            && said.method == "$/cancelRequest"
        {
            let id = said.params.get("id").and_then(|id| serde_json::from_value(id.clone()).ok());
            let is_it = |incoming: &Incoming| {
                let Incoming::Message(Message::Request(asked)) = incoming else { return false };
                Some(&asked.id) == id.as_ref()
            };
            if let Some(at) = self.queue.iter().position(is_it)
                && let Some(Incoming::Message(Message::Request(asked))) = self.queue.remove(at)
            {
                self.refuse(asked.id, ErrorCode::RequestCanceled, "cancelled");
            }
            return;
        }
        self.queue.push_back(incoming);
    }

    /// Looks at what came first; once all is looked at, tells what is found now.
    fn step(&mut self) {
        match self.queue.pop_front() {
            Some(Incoming::Message(Message::Request(asked))) => self.asked(asked),
            Some(Incoming::Message(Message::Notification(said))) => self.said(said),
            // Nothing is asked of the editor whose answer matters.
            Some(Incoming::Message(Message::Response(_))) => {}
            Some(Incoming::Rubbish(why)) => self.desk.log(&why),
            None => {}
        }
        if self.queue.is_empty() && self.desk.is_stale {
            self.desk.is_stale = false;
            self.tell_findings();
        }
        if std::mem::take(&mut self.desk.has_run) && self.refreshes_lenses {
            self.asked += 1;
            let asked = Request::new(self.asked.into(), "workspace/codeLens/refresh".to_owned(), ());
            self.out.push(asked.into());
        }
        for message in std::mem::take(&mut self.desk.notes) {
            let params = LogMessageParams { typ: MessageType::WARNING, message };
            self.out.push(Notification::new(LogMessage::METHOD.to_owned(), params).into());
        }
    }

    /// Some wiring that a world is to be made of, if there is time for that now.
    fn next_to_check(&mut self) -> Option<Wiring> {
        if self.is_checking || !self.is_idle() {
            return None;
        }
        let next = self.desk.unchecked();
        self.is_checking = next.is_some();
        if next.is_none() && !self.waiting.is_empty() {
            let all = std::mem::take(&mut self.waiting);
            self.out.extend(all.into_iter().map(|id| Message::from(Response::new_ok(id, ()))));
        }
        next
    }

    fn checked(&mut self, wiring: &Wiring, checked: Wiring) {
        self.is_checking = false;
        self.desk.checked(wiring, checked);
    }

    /// What is to be written.
    fn take_out(&mut self) -> Vec<Message> {
        std::mem::take(&mut self.out)
    }

    fn asked(&mut self, asked: Request) {
        match (self.stage, asked.method.as_str()) {
            (Stage::Before, "initialize") => self.begin(asked),
            (Stage::Before, _) => {
                self.refuse(asked.id, ErrorCode::ServerNotInitialized, "expected `initialize` first");
            }
            (Stage::Under, "shutdown") => {
                self.stage = Stage::ShutDown;
                self.out.push(Response::new_ok(asked.id, ()).into());
            }
            (Stage::Under, "initialize") => {
                self.refuse(asked.id, ErrorCode::InvalidRequest, "`initialize` is asked once");
            }
            (Stage::Under, "stoicheon/settled") => self.waiting.push(asked.id),
            (Stage::Under, _) => {
                let answer = requests::answer(&mut self.desk, asked);
                self.out.push(answer.into());
            }
            (Stage::ShutDown, _) => {
                self.refuse(
                    asked.id,
                    ErrorCode::InvalidRequest,
                    "the server is shut down: only `exit` follows",
                );
            }
        }
    }

    fn said(&mut self, said: Notification) {
        match (self.stage, said.method.as_str()) {
            (stage, "exit") => self.end = Some(stage == Stage::ShutDown),
            (Stage::Under, _) => requests::hear(&mut self.desk, said),
            (Stage::Before | Stage::ShutDown, _) => {}
        }
    }

    fn begin(&mut self, asked: Request) {
        let params: InitializeParams = match serde_json::from_value(asked.params) {
            Ok(params) => params,
            Err(error) => {
                self.refuse(asked.id, ErrorCode::InvalidParams, &error.to_string());
                return;
            }
        };
        let general = params.capabilities.general.as_ref();
        self.desk.counts = Counts::agreed(general.and_then(|general| general.position_encodings.as_deref()));
        let of_text = params.capabilities.text_document.as_ref();
        let of_item = of_text.and_then(|text| text.completion.as_ref()?.completion_item.as_ref());
        self.desk.takes_snippets = of_item.and_then(|item| item.snippet_support).unwrap_or(false);
        let of_lenses = params.capabilities.workspace.as_ref().and_then(|of| of.code_lens.as_ref());
        self.refreshes_lenses = of_lenses.and_then(|of| of.refresh_support).unwrap_or(false);
        let folders = params.workspace_folders.unwrap_or_default();
        let mut roots: Vec<PathBuf> = folders.iter().filter_map(|folder| path_of(&folder.uri)).collect();
        #[expect(deprecated, reason = "editors that have one folder still say so")]
        if roots.is_empty() {
            roots.extend(params.root_uri.as_ref().and_then(path_of));
        }
        self.desk.draft.set_roots(roots);
        self.stage = Stage::Under;
        self.desk.changed();
        let result = InitializeResult {
            capabilities: abilities(self.desk.counts),
            server_info: Some(ServerInfo {
                name: "stoicheon".to_owned(),
                version: Some(env!("CARGO_PKG_VERSION").to_owned()),
            }),
        };
        self.out.push(Response::new_ok(asked.id, result).into());
    }

    fn refuse(&mut self, id: RequestId, code: ErrorCode, why: &str) {
        self.out.push(Response::new_err(id, code as i32, why.to_owned()).into());
    }

    /// Tells the editor what is found in each file, where that is something else than it knows.
    fn tell_findings(&mut self) {
        let mut now = findings::of_all(&mut self.desk);
        // What was told of and is no longer there is taken back.
        let gone: Vec<_> = self.told.keys().filter(|path| !now.contains_key(*path)).cloned().collect();
        now.extend(gone.into_iter().map(|path| (path, Vec::new())));
        for (path, diagnostics) in now {
            if self.told.get(&path).map_or(diagnostics.is_empty(), |told| *told == diagnostics) {
                continue;
            }
            let open = self.desk.open.get(&path);
            let version = open.map(|open| open.version);
            let Some(uri) = open.map(|open| open.uri.clone()).or_else(|| uri_of(&path)) else { continue };
            let params = PublishDiagnosticsParams { uri, diagnostics: diagnostics.clone(), version };
            self.out.push(Notification::new(PublishDiagnostics::METHOD.to_owned(), params).into());
            if diagnostics.is_empty() {
                self.told.remove(&path);
            } else {
                self.told.insert(path, diagnostics);
            }
        }
        let troubles: Vec<String> = self.desk.draft.troubles().iter().map(ToString::to_string).collect();
        let new = troubles.iter().filter(|trouble| !self.troubles.contains(*trouble));
        new.for_each(|trouble| self.desk.log(trouble));
        self.troubles = troubles;
    }
}
