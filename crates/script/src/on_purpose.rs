//! Suspicions that a comment explains: `// on purpose: the game shows it`.

use crate::{
    diagnostic::Diagnostic,
    source::{Source, Sources},
};

const BEGINS: &str = "on purpose:";

/// Leaves out suspicions with a reason in a comment on their line or alone on the line before.
pub(crate) fn without_explained(diagnostics: &mut Vec<Diagnostic>, sources: &Sources) {
    diagnostics.retain(|found| {
        let first = found.labels.first();
        let place = first.filter(|_| found.code.is_suspicion());
        let Some((label, source)) = place.and_then(|label| Some((label, sources.get(label.span.file)?)))
        else {
            return true;
        };
        let start = label.span.start as usize;
        let (line, lines) = source.lines_of(start..start);
        let on_line = source.text().get(lines.clone()).unwrap_or_default();
        !(has_reason(on_line) || line > 1 && is_alone(source, lines.start))
    });
}

/// Whether the line that ends there is nothing but a comment with a reason.
fn is_alone(source: &Source, end: usize) -> bool {
    let before = source.text().get(..end).unwrap_or_default();
    let line = before.lines().next_back().unwrap_or_default();
    line.trim_start().starts_with("//") && has_reason(line)
}

fn has_reason(line: &str) -> bool {
    let comment = line.split_once("//").map(|(_, comment)| comment.trim());
    comment.and_then(|comment| comment.strip_prefix(BEGINS)).is_some_and(|reason| !reason.trim().is_empty())
}
