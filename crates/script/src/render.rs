//! How a diagnostic looks to people.

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet, renderer::DecorStyle};

use crate::{
    diagnostic::{Diagnostic, Severity},
    source::{Sources, Span},
};

/// A diagnostic with the lines it is about, underlined. `coloured` adds styles for a terminal.
pub fn render(diagnostic: &Diagnostic, sources: &Sources, coloured: bool) -> String {
    let level = match diagnostic.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    let mut group = level.primary_title(diagnostic.message.as_str()).id(diagnostic.code.word());
    let mut files: Vec<u32> = Vec::new();
    for label in &diagnostic.labels {
        if !files.contains(&label.span.file) {
            files.push(label.span.file);
        }
    }
    let mut group = {
        let mut elements = Vec::new();
        for file in files {
            let Some(source) = sources.get(file) else { continue };
            let labels = diagnostic.labels.iter().enumerate().filter(|(_, label)| label.span.file == file);
            let ranges: Vec<_> = labels
                .map(|(index, label)| (index, within(source.text(), label.span), label.text.as_str()))
                .collect();
            // Only the lines it is about are looked at: a long text has many findings.
            let first = ranges.iter().map(|(_, range, _)| range.start).min().unwrap_or(0);
            let last = ranges.iter().map(|(_, range, _)| range.end).max().unwrap_or(0);
            let (line, lines) = source.lines_of(first..last);
            let annotations = ranges.into_iter().map(|(index, range, text)| {
                let kind = if index == 0 { AnnotationKind::Primary } else { AnnotationKind::Context };
                kind.span(range.start - lines.start..range.end - lines.start).label(text)
            });
            let snippet = Snippet::source(&source.text()[lines.clone()]).line_start(line);
            elements.push(snippet.path(source.name()).annotations(annotations));
        }
        let mut elements = elements.into_iter();
        match elements.next() {
            Some(first) => {
                let group = group.element(first);
                elements.fold(group, annotate_snippets::Group::element)
            }
            None => {
                group = group.id(diagnostic.code.word());
                group.element(Level::NOTE.message("in no file"))
            }
        }
    };
    if let Some(help) = &diagnostic.help {
        group = group.element(Level::HELP.message(help.as_str()));
    }
    let renderer = if coloured { Renderer::styled() } else { Renderer::plain() };
    renderer.decor_style(DecorStyle::Ascii).render(&[group])
}

/// The range, brought inside the text and onto whole characters.
fn within(text: &str, span: Span) -> std::ops::Range<usize> {
    let start = text.floor_char_boundary(span.start as usize);
    start..text.ceil_char_boundary(span.end as usize).max(start)
}
