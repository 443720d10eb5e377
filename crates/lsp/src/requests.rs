//! What an editor says and asks, by name.

use std::panic::{AssertUnwindSafe, catch_unwind};

use lsp_server::{ErrorCode, Notification, Request, Response};
use lsp_types::{notification as says, request as asks};
use serde::de::DeserializeOwned;

use crate::{
    actions,
    answer::{Answer, Refusal},
    complete,
    desk::Desk,
    format, lenses, look, names, sync,
};

/// A question, with what answers it.
struct Asked<'s> {
    desk: &'s mut Desk,
    request: Request,
}

impl Asked<'_> {
    /// Answers with what there is.
    fn to<R: asks::Request>(self, answer: fn(&mut Desk, &R::Params) -> R::Result) -> Response {
        self.tried::<R>(|desk, params| Ok(answer(desk, params)))
    }

    /// Answers with what there is, or says why there is nothing.
    fn tried<R: asks::Request>(
        self,
        answer: impl FnOnce(&mut Desk, &R::Params) -> Answer<R::Result>,
    ) -> Response {
        let Self { desk, request } = self;
        let id = request.id;
        let params: R::Params = match serde_json::from_value(request.params) {
            Ok(params) => params,
            Err(error) => {
                let why = format!("{}: {error}", R::METHOD);
                return Response::new_err(id, ErrorCode::InvalidParams as i32, why);
            }
        };
        // A defect in one answer does not take the others along.
        match catch_unwind(AssertUnwindSafe(|| answer(desk, &params))) {
            Ok(Ok(answer)) => Response::new_ok(id, answer),
            Ok(Err(Refusal { code, why })) => Response::new_err(id, code as i32, why),
            Err(_) => {
                let why = format!("{}: a defect of the server; please report it", R::METHOD);
                Response::new_err(id, ErrorCode::InternalError as i32, why)
            }
        }
    }
}

/// Answers a question.
pub(crate) fn answer(desk: &mut Desk, request: Request) -> Response {
    let method = request.method.clone();
    let asked = Asked { desk, request };
    match method.as_str() {
        <asks::Completion as asks::Request>::METHOD => asked.to::<asks::Completion>(complete::completion),
        <asks::HoverRequest as asks::Request>::METHOD => asked.to::<asks::HoverRequest>(complete::hover),
        <asks::SignatureHelpRequest as asks::Request>::METHOD => {
            asked.to::<asks::SignatureHelpRequest>(complete::signature)
        }
        <asks::GotoDefinition as asks::Request>::METHOD => {
            asked.to::<asks::GotoDefinition>(names::definition)
        }
        <asks::References as asks::Request>::METHOD => asked.to::<asks::References>(names::references),
        <asks::DocumentHighlightRequest as asks::Request>::METHOD => {
            asked.to::<asks::DocumentHighlightRequest>(names::highlight)
        }
        <asks::PrepareRenameRequest as asks::Request>::METHOD => {
            asked.to::<asks::PrepareRenameRequest>(names::prepare_rename)
        }
        <asks::CodeActionRequest as asks::Request>::METHOD => {
            asked.to::<asks::CodeActionRequest>(actions::actions)
        }
        <asks::CodeLensRequest as asks::Request>::METHOD => asked.to::<asks::CodeLensRequest>(lenses::lenses),
        <asks::ExecuteCommand as asks::Request>::METHOD => {
            asked.tried::<asks::ExecuteCommand>(lenses::execute)
        }
        <asks::Rename as asks::Request>::METHOD => asked.tried::<asks::Rename>(names::rename),
        <asks::WorkspaceSymbolRequest as asks::Request>::METHOD => {
            asked.to::<asks::WorkspaceSymbolRequest>(names::symbols)
        }
        <asks::DocumentSymbolRequest as asks::Request>::METHOD => {
            asked.to::<asks::DocumentSymbolRequest>(look::outline)
        }
        <asks::FoldingRangeRequest as asks::Request>::METHOD => {
            asked.to::<asks::FoldingRangeRequest>(look::folds)
        }
        <asks::SemanticTokensFullRequest as asks::Request>::METHOD => {
            asked.to::<asks::SemanticTokensFullRequest>(look::classes)
        }
        <asks::SemanticTokensRangeRequest as asks::Request>::METHOD => {
            asked.to::<asks::SemanticTokensRangeRequest>(look::classes_within)
        }
        <asks::InlayHintRequest as asks::Request>::METHOD => asked.to::<asks::InlayHintRequest>(look::hints),
        <asks::Formatting as asks::Request>::METHOD => asked.to::<asks::Formatting>(format::file),
        <asks::RangeFormatting as asks::Request>::METHOD => asked.to::<asks::RangeFormatting>(format::range),
        _ => {
            let why = format!("`{method}` is not known here");
            Response::new_err(asked.request.id, ErrorCode::MethodNotFound as i32, why)
        }
    }
}

/// Hears something, if it is what it says.
fn heard<N: says::Notification>(desk: &mut Desk, said: Notification, hear: fn(&mut Desk, N::Params))
where
    N::Params: DeserializeOwned,
{
    match serde_json::from_value(said.params) {
        Ok(params) => hear(desk, params),
        Err(error) => desk.log(&format!("{}: {error}", N::METHOD)),
    }
}

/// Takes in what the editor says.
pub(crate) fn hear(desk: &mut Desk, said: Notification) {
    match said.method.as_str() {
        <says::DidOpenTextDocument as says::Notification>::METHOD => {
            heard::<says::DidOpenTextDocument>(desk, said, sync::opened);
        }
        <says::DidChangeTextDocument as says::Notification>::METHOD => {
            heard::<says::DidChangeTextDocument>(desk, said, sync::changed);
        }
        <says::DidCloseTextDocument as says::Notification>::METHOD => {
            heard::<says::DidCloseTextDocument>(desk, said, |desk, params| sync::closed(desk, &params));
        }
        <says::DidSaveTextDocument as says::Notification>::METHOD
        | <says::DidChangeWatchedFiles as says::Notification>::METHOD => sync::disk_changed(desk),
        // What begins with a dollar may be left alone; so may all that nothing here depends on.
        _ => {}
    }
}
