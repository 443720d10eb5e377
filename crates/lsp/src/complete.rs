//! What may come next, what stands here, what is being given values.

use lsp_types::{
    CompletionItem, CompletionItemKind, CompletionItemLabelDetails, CompletionList, CompletionParams,
    CompletionResponse, CompletionTextEdit, Documentation, Hover, HoverContents, HoverParams,
    InsertTextFormat, MarkupContent, MarkupKind, ParameterInformation, ParameterLabel, SignatureHelp,
    SignatureHelpParams, SignatureInformation, TextEdit,
};
use stoicheon_files::Wiring;
use stoicheon_script::editing::{Offer, OfferKind};

use crate::desk::Desk;

/// How editors mark a kind of word.
fn item_kind(kind: OfferKind) -> CompletionItemKind {
    match kind {
        OfferKind::Keyword => CompletionItemKind::KEYWORD,
        OfferKind::PartKind => CompletionItemKind::MODULE,
        OfferKind::Setting => CompletionItemKind::PROPERTY,
        OfferKind::Object | OfferKind::Manager => CompletionItemKind::VALUE,
        OfferKind::Mould | OfferKind::Kit => CompletionItemKind::CLASS,
        OfferKind::Tag => CompletionItemKind::UNIT,
        OfferKind::Signal | OfferKind::Effect => CompletionItemKind::EVENT,
        OfferKind::Variable | OfferKind::Local => CompletionItemKind::VARIABLE,
        OfferKind::Given => CompletionItemKind::CONSTANT,
        OfferKind::Spot => CompletionItemKind::REFERENCE,
        OfferKind::Routine | OfferKind::Function => CompletionItemKind::FUNCTION,
        OfferKind::Command => CompletionItemKind::METHOD,
        OfferKind::Field => CompletionItemKind::FIELD,
        OfferKind::Player => CompletionItemKind::VALUE,
        OfferKind::State => CompletionItemKind::ENUM_MEMBER,
        OfferKind::Scene => CompletionItemKind::FILE,
        OfferKind::Type => CompletionItemKind::TYPE_PARAMETER,
        _ => CompletionItemKind::TEXT,
    }
}

pub(crate) fn completion(desk: &mut Desk, params: &CompletionParams) -> Option<CompletionResponse> {
    let takes_snippets = desk.takes_snippets;
    let here = desk.here(&params.text_document_position);
    let here = here.first()?;
    let found = here.part().and_then(|part| part.complete(here.file, here.byte))?;
    let range = here.known.range(found.word);
    let items = (0_usize..).zip(found.offers).map(|(number, offer)| {
        let snippet = offer.snippet.clone().filter(|_| takes_snippets);
        let format = snippet.as_ref().map(|_| InsertTextFormat::SNIPPET);
        let text = snippet.unwrap_or_else(|| offer.name.to_string());
        let detail = match offer.detail.as_str() {
            "" => String::new(),
            fields if fields.starts_with('(') => fields.to_owned(),
            detail => format!(" {detail}"),
        };
        CompletionItem {
            label: offer.name.to_string(),
            label_details: Some(CompletionItemLabelDetails { detail: Some(detail), description: None }),
            kind: Some(item_kind(offer.kind)),
            detail: (!offer.detail.is_empty()).then(|| described(&offer)),
            documentation: (!offer.about.is_empty()).then(|| Documentation::String(offer.about.clone())),
            // In the order in which they are offered, and not by their letters.
            sort_text: Some(format!("{number:05}")),
            insert_text_format: format,
            text_edit: Some(CompletionTextEdit::Edit(TextEdit::new(range, text))),
            ..CompletionItem::default()
        }
    });
    let items = items.collect();
    Some(CompletionResponse::List(CompletionList { is_incomplete: false, items }))
}

/// A word with what it carries or is.
fn described(offer: &Offer) -> String {
    if offer.detail.starts_with('(') {
        format!("{}{}", offer.name, offer.detail)
    } else {
        format!("{}: {}", offer.name, offer.detail)
    }
}

/// Code, and sentences about it.
fn marked(code: &str, about: &str) -> MarkupContent {
    let code = if code.is_empty() { String::new() } else { format!("```stoi\n{code}\n```\n") };
    MarkupContent { kind: MarkupKind::Markdown, value: format!("{code}{about}").trim_end().to_owned() }
}

pub(crate) fn hover(desk: &mut Desk, params: &HoverParams) -> Option<Hover> {
    let here = desk.here(&params.text_document_position_params);
    let here = here.first()?;
    let rate = match &here.known.wiring {
        Wiring::Scene(_) => stoicheon_core::TickRate::default(),
        Wiring::Project(project) | Wiring::SceneOf(project, _) => project.config().rate,
    };
    let found = here.part().and_then(|part| part.describe(here.file, here.byte, here.thing(), rate));
    found.map(|found| Hover {
        contents: HoverContents::Markup(marked(&found.code, &found.about)),
        range: Some(here.known.range(found.span)),
    })
}

pub(crate) fn signature(desk: &mut Desk, params: &SignatureHelpParams) -> Option<SignatureHelp> {
    let here = desk.here(&params.text_document_position_params);
    let here = here.first()?;
    let call = here.part().and_then(|part| part.call(here.file, here.byte))?;
    let takes: Vec<String> = call.takes.iter().map(|(name, ty)| format!("{name}: {ty}")).collect();
    let label = format!("{}({})", call.name, takes.join(", "));
    let at = u32::try_from(call.at).ok();
    let signature = SignatureInformation {
        label,
        documentation: (!call.about.is_empty()).then_some(Documentation::String(call.about)),
        parameters: Some(
            takes
                .into_iter()
                .map(|label| ParameterInformation {
                    label: ParameterLabel::Simple(label),
                    documentation: None,
                })
                .collect(),
        ),
        active_parameter: at,
    };
    Some(SignatureHelp { signatures: vec![signature], active_signature: Some(0), active_parameter: at })
}
