//! The server: messages in, messages out, one after the other.

use std::{
    collections::{BTreeMap, VecDeque},
    path::PathBuf,
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
    transport::Incoming,
};

/// How far a conversation is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Stage {
    Before,
    Under,
    ShutDown,
}

/// One conversation with an editor.
#[derive(Debug)]
pub(crate) struct Server {
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
    pub(crate) end: Option<bool>,
}

impl Server {
    pub(crate) fn new(catalogue: Catalogue) -> Self {
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
    pub(crate) fn is_idle(&self) -> bool {
        self.queue.is_empty() && !self.desk.is_stale
    }

    /// Takes something in, to be looked at when its turn comes. What was asked and is not wanted any more is answered so at once.
    pub(crate) fn queue(&mut self, incoming: Incoming) {
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
    pub(crate) fn step(&mut self) {
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
    pub(crate) fn next_to_check(&mut self) -> Option<Wiring> {
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

    pub(crate) fn checked(&mut self, wiring: &Wiring, checked: Wiring) {
        self.is_checking = false;
        self.desk.checked(wiring, checked);
    }

    /// What is to be written.
    pub(crate) fn take_out(&mut self) -> Vec<Message> {
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
