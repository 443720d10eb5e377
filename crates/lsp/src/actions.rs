//! What can be done about findings, and other ways to write what stands there.

use std::collections::{BTreeMap, HashMap};

use lsp_types::{
    CodeAction, CodeActionKind, CodeActionOrCommand, CodeActionParams, CodeActionResponse, Diagnostic,
    TextEdit, Uri, WorkspaceEdit,
};
use stoicheon_files::{Draft, Wiring};
use stoicheon_script::editing::Change;

use crate::{
    desk::Desk,
    findings,
    known::Known,
    place::{key, path_of},
};

pub(crate) fn actions(desk: &mut Desk, params: &CodeActionParams) -> Option<CodeActionResponse> {
    let path = key(&path_of(&params.text_document.uri)?);
    let wanted = |kind: &CodeActionKind| {
        let only = params.context.only.as_ref();
        only.is_none_or(|only| only.iter().any(|only| kind.as_str().starts_with(only.as_str())))
    };
    let (draft, known, file) = desk.draft_and_file(&path)?;
    let lines = known.lines(file)?;
    let (start, end) = (lines.byte(params.range.start), lines.byte(params.range.end));
    let part = known.part(file)?;
    let mut all = Vec::new();
    if wanted(&CodeActionKind::QUICKFIX) {
        for (told, found) in known.found_in(file) {
            let label = found.labels.first().map(|label| label.span).unwrap_or_default();
            if label.end < start || end < label.start {
                continue;
            }
            let fixes = part.fixes(found).into_iter();
            all.extend(fixes.map(|fix| action(known, fix, CodeActionKind::QUICKFIX, Some(told.clone()))));
        }
    }
    if wanted(&CodeActionKind::REFACTOR_REWRITE) {
        let changes = part.rewrites(file, start).into_iter();
        // What changes several places has to mean the same.
        let changes =
            changes.filter(|change| change.edits.len() == 1 || means_the_same(draft, &known.wiring, change));
        all.extend(changes.map(|change| action(known, change, CodeActionKind::REFACTOR_REWRITE, None)));
    }
    if wanted(&CodeActionKind::REFACTOR_EXTRACT)
        && let Some(change) = part.extracted(file, (start, end), known.index())
        && means_the_same(draft, &known.wiring, &change)
    {
        all.push(action(known, change, CodeActionKind::REFACTOR_EXTRACT, None));
    }
    Some(all.into_iter().map(CodeActionOrCommand::CodeAction).collect())
}

/// Whether nothing more is wrong after a change.
fn means_the_same(draft: &Draft, wiring: &Wiring, change: &Change) -> bool {
    let edited: BTreeMap<String, String> = wiring.sources().edited(&change.edits).into_iter().collect();
    let count = |wiring: &Wiring| wiring.parts().iter().map(|part| part.diagnostics().len()).sum::<usize>();
    wiring.broken().is_empty()
        && draft.read_with(wiring, &edited).is_ok_and(|after| count(&after) <= count(wiring))
}

#[expect(clippy::mutable_key_type, reason = "the type of the protocol; its addresses are not changed")]
fn action(known: &Known, change: Change, kind: CodeActionKind, about: Option<Diagnostic>) -> CodeAction {
    let mut changes: HashMap<Uri, Vec<TextEdit>> = HashMap::new();
    for edit in change.edits {
        let Some(place) = known.location(edit.span) else { continue };
        changes.entry(place.uri).or_default().push(TextEdit::new(place.range, edit.text.to_string()));
    }
    CodeAction {
        title: change.title,
        kind: Some(kind),
        diagnostics: about.map(|about| vec![about]),
        edit: Some(WorkspaceEdit { changes: Some(changes), ..WorkspaceEdit::default() }),
        is_preferred: change.is_likely.then_some(true),
        ..CodeAction::default()
    }
}

impl Known {
    /// What is found in a file, as an editor is told and as it was found.
    fn found_in(&self, file: u32) -> Vec<(Diagnostic, &stoicheon_script::Diagnostic)> {
        let all = self.diagnostics();
        let here = all.filter(|found| found.labels.first().is_some_and(|label| label.span.file == file));
        here.map(|found| (findings::told(found, self), found)).collect()
    }
}
