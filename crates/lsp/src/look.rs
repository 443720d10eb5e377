//! How a text looks: its outline, folds, colours, hints.

use lsp_types::{
    DocumentSymbol, DocumentSymbolParams, DocumentSymbolResponse, FoldingRange, FoldingRangeKind,
    FoldingRangeParams, InlayHint, InlayHintKind, InlayHintLabel, InlayHintParams, InlayHintTooltip,
    SemanticToken, SemanticTokenType, SemanticTokens, SemanticTokensLegend, SemanticTokensParams,
    SemanticTokensRangeParams, SemanticTokensRangeResult, SemanticTokensResult, SymbolKind,
    TextDocumentIdentifier,
};
use stoicheon_script::{
    NameKind,
    editing::{self, Class, Entry, EntryKind},
};

use crate::{
    desk::Desk,
    known::Known,
    place::{key, path_of},
};

fn file_of<'s>(desk: &'s mut Desk, document: &TextDocumentIdentifier) -> Option<(&'s Known, u32)> {
    let path = key(&path_of(&document.uri)?);
    desk.file(&path)
}

fn symbol_kind(kind: EntryKind) -> SymbolKind {
    match kind {
        EntryKind::Scene => SymbolKind::MODULE,
        EntryKind::Given => SymbolKind::CONSTANT,
        EntryKind::Variable => SymbolKind::VARIABLE,
        EntryKind::Signal | EntryKind::Effect => SymbolKind::EVENT,
        EntryKind::Object | EntryKind::Manager => SymbolKind::OBJECT,
        EntryKind::Mould => SymbolKind::CLASS,
        EntryKind::Part => SymbolKind::FIELD,
        EntryKind::Spot => SymbolKind::PROPERTY,
        EntryKind::Wire => SymbolKind::INTERFACE,
        EntryKind::Bind => SymbolKind::OPERATOR,
        EntryKind::Rule => SymbolKind::BOOLEAN,
        EntryKind::Routine => SymbolKind::FUNCTION,
        EntryKind::Kit | EntryKind::Use => SymbolKind::STRUCT,
        EntryKind::Playtest => SymbolKind::METHOD,
        _ => SymbolKind::VARIABLE,
    }
}

#[expect(deprecated, reason = "the type of the protocol has a field that nobody uses any more")]
fn symbol(known: &Known, entry: &Entry) -> DocumentSymbol {
    let name = match entry.kind {
        EntryKind::Wire => format!("on {}", entry.name),
        EntryKind::Bind => format!("bind {}", entry.name),
        EntryKind::Rule => format!("never {}", entry.name),
        _ => entry.name.clone(),
    };
    let inner: Vec<_> = entry.inner.iter().map(|entry| symbol(known, entry)).collect();
    DocumentSymbol {
        // Editors refuse one without a name.
        name: if name.trim().is_empty() { "…".to_owned() } else { name },
        detail: (!entry.detail.is_empty()).then(|| entry.detail.clone()),
        kind: symbol_kind(entry.kind),
        tags: None,
        deprecated: None,
        range: known.range(entry.span),
        selection_range: known.range(entry.name_span),
        children: (!inner.is_empty()).then_some(inner),
    }
}

pub(crate) fn outline(desk: &mut Desk, params: &DocumentSymbolParams) -> Option<DocumentSymbolResponse> {
    let (known, file) = file_of(desk, &params.text_document)?;
    let entries = editing::outline(known.text(file), file);
    let symbols = entries.iter().map(|entry| symbol(known, entry)).collect();
    Some(DocumentSymbolResponse::Nested(symbols))
}

pub(crate) fn folds(desk: &mut Desk, params: &FoldingRangeParams) -> Option<Vec<FoldingRange>> {
    let (known, file) = file_of(desk, &params.text_document)?;
    let folds = editing::folds(known.text(file), file).into_iter().filter_map(|fold| {
        let range = known.range(fold.span);
        // The line with the closing brace stays to be seen.
        let end = if fold.is_comment { range.end.line } else { range.end.line.saturating_sub(1) };
        (end > range.start.line).then(|| FoldingRange {
            start_line: range.start.line,
            end_line: end,
            kind: Some(if fold.is_comment { FoldingRangeKind::Comment } else { FoldingRangeKind::Region }),
            ..FoldingRange::default()
        })
    });
    Some(folds.collect())
}

/// The kinds of word, by the numbers that are sent for them.
const TYPES: [SemanticTokenType; 17] = [
    SemanticTokenType::COMMENT,
    SemanticTokenType::NUMBER,
    SemanticTokenType::STRING,
    SemanticTokenType::OPERATOR,
    SemanticTokenType::KEYWORD,
    SemanticTokenType::TYPE,
    SemanticTokenType::PROPERTY,
    SemanticTokenType::ENUM_MEMBER,
    SemanticTokenType::FUNCTION,
    SemanticTokenType::MACRO,
    SemanticTokenType::VARIABLE,
    SemanticTokenType::EVENT,
    SemanticTokenType::CLASS,
    SemanticTokenType::STRUCT,
    SemanticTokenType::PARAMETER,
    SemanticTokenType::NAMESPACE,
    SemanticTokenType::DECORATOR,
];

pub(crate) fn legend() -> SemanticTokensLegend {
    SemanticTokensLegend { token_types: TYPES.to_vec(), token_modifiers: Vec::new() }
}

fn of_class(class: Class) -> SemanticTokenType {
    match class {
        Class::Comment => SemanticTokenType::COMMENT,
        Class::Number | Class::Colour => SemanticTokenType::NUMBER,
        Class::Text => SemanticTokenType::STRING,
        Class::Operator => SemanticTokenType::OPERATOR,
        Class::Keyword => SemanticTokenType::KEYWORD,
        Class::Type => SemanticTokenType::TYPE,
        Class::Setting => SemanticTokenType::PROPERTY,
        Class::State => SemanticTokenType::ENUM_MEMBER,
        Class::Function => SemanticTokenType::FUNCTION,
        Class::Known => SemanticTokenType::MACRO,
        Class::Signal => SemanticTokenType::EVENT,
        _ => SemanticTokenType::VARIABLE,
    }
}

fn of_name(kind: NameKind) -> SemanticTokenType {
    match kind {
        NameKind::Signal | NameKind::Effect => SemanticTokenType::EVENT,
        NameKind::Mould => SemanticTokenType::CLASS,
        NameKind::Kit | NameKind::KitUse => SemanticTokenType::STRUCT,
        NameKind::Parameter | NameKind::Field | NameKind::Local => SemanticTokenType::PARAMETER,
        NameKind::Routine => SemanticTokenType::FUNCTION,
        NameKind::Scene => SemanticTokenType::NAMESPACE,
        NameKind::Tag => SemanticTokenType::DECORATOR,
        NameKind::Spot => SemanticTokenType::PROPERTY,
        NameKind::Given => SemanticTokenType::ENUM_MEMBER,
        _ => SemanticTokenType::VARIABLE,
    }
}

fn tokens(known: &Known, file: u32, within: Option<(u32, u32)>) -> Vec<SemanticToken> {
    let Some(lines) = known.lines(file) else { return Vec::new() };
    let names = known.names_in(file);
    let mut last = (0, 0);
    let mut all = Vec::new();
    for word in editing::classes(known.text(file), file) {
        if within.is_some_and(|(start, end)| word.span.end < start || end < word.span.start) {
            continue;
        }
        let name = names.get(&word.span.start).filter(|_| matches!(word.class, Class::Name | Class::Keyword));
        let ty = name.map_or_else(|| of_class(word.class), |kind| of_name(*kind));
        let range = lines.range(word.span);
        let (line, start) = (range.start.line, range.start.character);
        let delta_start = if line == last.0 { start - last.1 } else { start };
        let number = TYPES.iter().position(|known| *known == ty).unwrap_or(0);
        all.push(SemanticToken {
            delta_line: line - last.0,
            delta_start,
            length: range.end.character.saturating_sub(start),
            token_type: u32::try_from(number).unwrap_or(0),
            token_modifiers_bitset: 0,
        });
        last = (line, start);
    }
    all
}

pub(crate) fn classes(desk: &mut Desk, params: &SemanticTokensParams) -> Option<SemanticTokensResult> {
    let (known, file) = file_of(desk, &params.text_document)?;
    let data = tokens(known, file, None);
    Some(SemanticTokensResult::Tokens(SemanticTokens { result_id: None, data }))
}

pub(crate) fn classes_within(
    desk: &mut Desk,
    params: &SemanticTokensRangeParams,
) -> Option<SemanticTokensRangeResult> {
    let (known, file) = file_of(desk, &params.text_document)?;
    let lines = known.lines(file)?;
    let within = (lines.byte(params.range.start), lines.byte(params.range.end));
    let data = tokens(known, file, Some(within));
    Some(SemanticTokensRangeResult::Tokens(SemanticTokens { result_id: None, data }))
}

pub(crate) fn hints(desk: &mut Desk, params: &InlayHintParams) -> Option<Vec<InlayHint>> {
    let (known, file) = file_of(desk, &params.text_document)?;
    let (Some(lines), Some(part)) = (known.lines(file), known.part(file)) else { return None };
    let (start, end) = (lines.byte(params.range.start), lines.byte(params.range.end));
    let hints = part.hints(file, known.index()).into_iter();
    let hints = hints.filter(|hint| start <= hint.span.end && hint.span.end <= end).map(|hint| InlayHint {
        position: lines.position(hint.span.end),
        label: InlayHintLabel::String(hint.text),
        kind: None::<InlayHintKind>,
        text_edits: None,
        tooltip: Some(InlayHintTooltip::String(hint.about)),
        padding_left: Some(true),
        padding_right: Some(false),
        data: None,
    });
    Some(hints.collect())
}
