//! Formatting a file, or some lines of it.

use lsp_types::{
    DocumentFormattingParams, DocumentRangeFormattingParams, Position, Range, TextDocumentIdentifier,
    TextEdit,
};
use similar::{DiffOp, TextDiff};
use stoicheon_script::format;

use crate::{
    desk::Desk,
    place::{key, path_of},
};

/// The edits that format a text, each of whole lines; those that touch none of the wanted lines are left out. A text that does not follow the grammar is left
/// as it is, as `stoicheon fmt` leaves it: what is wrong with it is told of already.
fn edits(desk: &mut Desk, document: &TextDocumentIdentifier, within: Option<Range>) -> Option<Vec<TextEdit>> {
    let path = path_of(&document.uri).map(|path| key(&path))?;
    let (known, file) = desk.file(&path)?;
    let text = known.text(file);
    let Ok(formatted) = format(text) else { return None };
    let diff = TextDiff::from_lines(text, &formatted);
    let (old, new) = (diff.old_slices(), diff.new_slices());
    let line = |line: usize| Position::new(u32::try_from(line).unwrap_or(u32::MAX), 0);
    let touches = |start: usize, end: usize| {
        let Some(within) = within else { return true };
        let (first, last) = (within.start.line as usize, within.end.line as usize);
        start <= last && first < end.max(start + 1)
    };
    let edit = |op: &DiffOp| {
        let (was, is) = (op.old_range(), op.new_range());
        let text: String = new.get(is).unwrap_or_default().concat();
        // The last line has no end of its own where the text has none.
        let end = if was.end == old.len() && !text.is_empty() && !was.is_empty() {
            let lines = known.lines(file)?;
            lines.position(u32::MAX)
        } else {
            line(was.end)
        };
        touches(was.start, was.end).then(|| TextEdit::new(Range::new(line(was.start), end), text))
    };
    let ops = diff.ops().iter().filter(|op| !matches!(op, DiffOp::Equal { .. }));
    Some(ops.filter_map(edit).collect())
}

pub(crate) fn file(desk: &mut Desk, params: &DocumentFormattingParams) -> Option<Vec<TextEdit>> {
    edits(desk, &params.text_document, None)
}

pub(crate) fn range(desk: &mut Desk, params: &DocumentRangeFormattingParams) -> Option<Vec<TextEdit>> {
    edits(desk, &params.text_document, Some(params.range))
}
