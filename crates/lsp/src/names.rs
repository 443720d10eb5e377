//! Names: where they are declared, where they stand, and how they are changed everywhere at once.

use std::collections::HashMap;

use lsp_types::{
    DocumentHighlight, DocumentHighlightKind, DocumentHighlightParams, GotoDefinitionParams,
    GotoDefinitionResponse, Location, PrepareRenameResponse, ReferenceParams, RenameParams,
    SymbolInformation, SymbolKind, TextDocumentPositionParams, TextEdit, Uri, WorkspaceEdit,
    WorkspaceSymbolParams, WorkspaceSymbolResponse,
};
use stoicheon_script::{NameKind, NamePlace, NameRole, NamedThing};

use crate::{
    answer::{Answer, Refusal},
    desk::Desk,
    known::{Here, Known},
    place::uri_of,
};

/// The places of a thing that fit, each once.
fn places(here: &[Here<'_>], fits: impl Fn(&NamePlace) -> bool) -> Vec<Location> {
    let mut all: Vec<Location> = Vec::new();
    for here in here {
        let places = here.thing().into_iter().flat_map(|thing| &thing.places).filter(|place| fits(place));
        for place in places.filter_map(|place| here.known.location(place.span)) {
            if !all.contains(&place) {
                all.push(place);
            }
        }
    }
    all
}

pub(crate) fn definition(desk: &mut Desk, params: &GotoDefinitionParams) -> Option<GotoDefinitionResponse> {
    let here = desk.everywhere(&params.text_document_position_params);
    let declared = places(&here, |place| place.role == NameRole::Declared);
    // A tag has no place where it is declared: where it is given comes nearest.
    let places =
        if declared.is_empty() { places(&here, |place| place.role == NameRole::Given) } else { declared };
    (!places.is_empty()).then_some(GotoDefinitionResponse::Array(places))
}

pub(crate) fn references(desk: &mut Desk, params: &ReferenceParams) -> Option<Vec<Location>> {
    let here = desk.everywhere(&params.text_document_position);
    let with_declared = params.context.include_declaration;
    let places = places(&here, |place| with_declared || place.role != NameRole::Declared);
    (!here.is_empty()).then_some(places)
}

pub(crate) fn highlight(desk: &mut Desk, params: &DocumentHighlightParams) -> Option<Vec<DocumentHighlight>> {
    let here = desk.here(&params.text_document_position_params);
    let here = here.first()?;
    let places = here.thing().into_iter().flat_map(|thing| &thing.places);
    let marked = places.filter(|place| place.span.file == here.file).map(|place| {
        let writes = matches!(
            place.role,
            NameRole::Declared | NameRole::Set | NameRole::Sent | NameRole::Performed | NameRole::Commanded
        );
        let kind = if writes { DocumentHighlightKind::WRITE } else { DocumentHighlightKind::READ };
        DocumentHighlight { range: here.known.range(place.span), kind: Some(kind) }
    });
    Some(marked.collect())
}

/// Whether something can be renamed there, and what stands there now.
pub(crate) fn prepare_rename(
    desk: &mut Desk,
    params: &TextDocumentPositionParams,
) -> Option<PrepareRenameResponse> {
    let here = desk.here(params);
    let here = here.first()?;
    let thing = here.thing()?;
    let is_here = |place: &&NamePlace| {
        place.span.file == here.file && place.span.start <= here.byte && here.byte <= place.span.end
    };
    let place = thing.places.iter().find(is_here);
    place.map(|place| PrepareRenameResponse::RangeWithPlaceholder {
        range: here.known.range(place.span),
        placeholder: thing.name.to_string(),
    })
}

#[expect(clippy::mutable_key_type, reason = "the type of the protocol; its addresses are not changed")]
pub(crate) fn rename(desk: &mut Desk, params: &RenameParams) -> Answer<Option<WorkspaceEdit>> {
    let position = &params.text_document_position;
    let Some((path, byte)) = desk.path_and_byte(position) else { return Ok(None) };
    let edits = desk.draft.rename(&path, byte, &params.new_name);
    let edits = edits.map_err(|why| Refusal::failed(why.to_string()))?;
    let mut changes: HashMap<Uri, Vec<TextEdit>> = HashMap::new();
    for (path, edits) in edits {
        let uri = desk.open.get(&path).map(|open| open.uri.clone()).or_else(|| uri_of(&path));
        let Some((known, file)) = desk.file(&path) else { continue };
        let Some(lines) = known.lines(file) else { continue };
        let edits =
            edits.into_iter().map(|edit| TextEdit::new(lines.range(edit.span), edit.text.to_string()));
        changes.extend(uri.map(|uri| (uri, edits.collect())));
    }
    Ok(Some(WorkspaceEdit { changes: Some(changes), ..WorkspaceEdit::default() }))
}

/// How editors mark a kind of name.
pub(crate) fn symbol(kind: NameKind) -> SymbolKind {
    match kind {
        NameKind::Scene => SymbolKind::MODULE,
        NameKind::Object => SymbolKind::OBJECT,
        NameKind::Manager => SymbolKind::OBJECT,
        NameKind::Mould => SymbolKind::CLASS,
        NameKind::Tag => SymbolKind::KEY,
        NameKind::Signal => SymbolKind::EVENT,
        NameKind::Effect => SymbolKind::EVENT,
        NameKind::Variable | NameKind::Local => SymbolKind::VARIABLE,
        NameKind::Given => SymbolKind::CONSTANT,
        NameKind::Spot => SymbolKind::PROPERTY,
        NameKind::Routine => SymbolKind::FUNCTION,
        NameKind::Kit => SymbolKind::STRUCT,
        NameKind::KitUse => SymbolKind::STRUCT,
        NameKind::Parameter | NameKind::Field => SymbolKind::FIELD,
        NameKind::Player => SymbolKind::OBJECT,
        _ => SymbolKind::VARIABLE,
    }
}

/// The names that have the letters of what is asked for among theirs, in that order.
fn fits(asked: &str, thing: &NamedThing) -> bool {
    let mut letters = thing.whole.chars().flat_map(char::to_lowercase);
    asked.chars().flat_map(char::to_lowercase).all(|wanted| letters.any(|letter| letter == wanted))
}

#[expect(deprecated, reason = "the type of the protocol has a field that nobody uses any more")]
fn symbol_of(known: &Known, thing: &NamedThing) -> Option<SymbolInformation> {
    let place = thing.places.iter().find(|place| place.role == NameRole::Declared)?;
    let whole = thing.whole.strip_suffix(thing.name.as_str()).and_then(|owner| owner.strip_suffix('.'));
    let container = whole.map(str::to_owned).or(thing.scene.as_ref().map(ToString::to_string));
    Some(SymbolInformation {
        name: thing.name.to_string(),
        kind: symbol(thing.kind),
        tags: None,
        deprecated: None,
        location: known.location(place.span)?,
        container_name: container,
    })
}

pub(crate) fn symbols(desk: &mut Desk, params: &WorkspaceSymbolParams) -> Option<WorkspaceSymbolResponse> {
    let asked = params.query.trim();
    let mut all: Vec<SymbolInformation> = Vec::new();
    for known in desk.known() {
        let things = known.index().things().iter().filter(|thing| {
            !matches!(thing.kind, NameKind::Local | NameKind::Field | NameKind::Parameter)
                && fits(asked, thing)
        });
        for symbol in things.filter_map(|thing| symbol_of(known, thing)) {
            if !all.contains(&symbol) {
                all.push(symbol);
            }
        }
    }
    (!all.is_empty()).then_some(WorkspaceSymbolResponse::Flat(all))
}
