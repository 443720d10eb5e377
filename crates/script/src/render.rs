//! How a diagnostic looks to people.

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet, renderer::DecorStyle};

use crate::{
    diagnostic::{Diagnostic, Severity},
    source::Source,
};

/// A diagnostic with the lines it is about, underlined. `coloured` adds styles for a terminal.
pub fn render(diagnostic: &Diagnostic, source: &Source, coloured: bool) -> String {
    let level = match diagnostic.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    let annotations = diagnostic.labels.iter().enumerate().map(|(index, label)| {
        let kind = if index == 0 { AnnotationKind::Primary } else { AnnotationKind::Context };
        kind.span(within(source.text(), label.span.start, label.span.end)).label(label.text.as_str())
    });
    let snippet = Snippet::source(source.text()).path(source.name()).annotations(annotations);
    let mut group =
        level.primary_title(diagnostic.message.as_str()).id(diagnostic.code.word()).element(snippet);
    if let Some(help) = &diagnostic.help {
        group = group.element(Level::HELP.message(help.as_str()));
    }
    let renderer = if coloured { Renderer::styled() } else { Renderer::plain() };
    renderer.decor_style(DecorStyle::Ascii).render(&[group])
}

/// The range, brought inside the text and onto whole characters.
fn within(text: &str, start: usize, end: usize) -> std::ops::Range<usize> {
    let start = text.floor_char_boundary(start);
    start..text.ceil_char_boundary(end).max(start)
}
