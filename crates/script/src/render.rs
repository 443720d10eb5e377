//! How a diagnostic looks to people: the place first, then the lines with marks under them, then what to do. It is set as the
//! trace is.

use std::fmt::Write;

use anstyle::{AnsiColor, Style};
use unicode_width::UnicodeWidthChar;

use crate::{
    diagnostic::{Diagnostic, Label, Severity},
    source::{Source, Sources, Span},
};

/// How much of a line is shown, in columns of a terminal.
const WIDEST: usize = 96;

/// A diagnostic with the lines it is about, marked. `coloured` adds styles for a terminal.
///
/// ```
/// use stoicheon_core::Catalogue;
/// use stoicheon_script::{load, render};
/// let loaded = load("lock.stoi", "object gate { door { over 1s } }\non pressed(\"k\") { open gaet }\n", &Catalogue::built_in());
/// let text = render(&loaded.diagnostics()[0], loaded.sources(), false);
/// assert_eq!(text, "\
/// lock.stoi:2:24  error  there is no object `gaet`  (unknown-object)
///     2     on pressed(\"k\") { open gaet }
///                                  ~~~~ expected an object
///     hint  did you mean `gate`?");
/// ```
pub fn render(diagnostic: &Diagnostic, sources: &Sources, coloured: bool) -> String {
    let style = |style: Style| if coloured { style } else { Style::new() };
    let (word, colour) = match diagnostic.severity {
        Severity::Error => ("error", AnsiColor::Red),
        Severity::Warning => ("warning", AnsiColor::Yellow),
    };
    let (loud, bold) = (style(colour.on_default().bold()), style(Style::new().bold()));
    let (quiet, helps) = (style(Style::new().dimmed()), style(AnsiColor::Cyan.on_default()));
    let shown: Vec<_> = diagnostic.labels.iter().filter_map(|label| Shown::of(label, sources)).collect();
    let mut text = String::new();
    if let Some(first) = shown.first() {
        let _ = write!(text, "{bold}{}:{}:{}{bold:#}  ", first.source.name(), first.line, first.column);
    }
    let code = diagnostic.code.word();
    let _ = write!(text, "{loud}{word}{loud:#}  {}  {quiet}({code}){quiet:#}", diagnostic.message);
    let head = |one: &Shown<'_>| match shown.first() {
        Some(first) if first.source.name() == one.source.name() => one.line.to_string(),
        _ => format!("{}:{}", one.source.name(), one.line),
    };
    // As wide as the word for what to do, so that lines of all findings stand below each other.
    let width = shown.iter().map(|one| head(one).len()).fold("hint".len(), usize::max);
    let mut before = None;
    for (index, one) in shown.iter().enumerate() {
        let head = head(one);
        if before.as_ref() != Some(&(head.clone(), one.from)) {
            let _ = write!(text, "\n    {quiet}{head:<width$}{quiet:#}  {}", one.text);
        }
        let (mark, style) = if index == 0 { ("~", loud) } else { ("-", helps) };
        let marks = mark.repeat(one.marks.max(1));
        let blank = " ".repeat(4 + width + 2 + one.before);
        let _ = write!(text, "\n{blank}{style}{marks}{style:#} {}", one.label);
        before = Some((head, one.from));
    }
    for (index, line) in diagnostic.help.iter().flat_map(|help| help.lines()).enumerate() {
        let head = if index == 0 { "hint" } else { "" };
        let _ = write!(text, "\n    {helps}{head:<width$}{helps:#}  {line}");
    }
    text.lines().map(str::trim_end).collect::<Vec<_>>().join("\n")
}

/// A line with a mark under it.
struct Shown<'a> {
    source: &'a Source,
    line: usize,
    column: usize,
    /// What is shown of the line, and the character it begins with.
    text: String,
    from: usize,
    /// How many columns stand before the mark, and how many are marked.
    before: usize,
    marks: usize,
    label: &'a str,
}

impl<'a> Shown<'a> {
    fn of(label: &'a Label, sources: &'a Sources) -> Option<Self> {
        let source = sources.get(label.span.file)?;
        let range = within(source.text(), label.span);
        let (line, lines) = source.lines_of(range.start..range.start);
        let whole = source.text()[lines.clone()].trim_end_matches(['\n', '\r']);
        let start = whole.floor_char_boundary((range.start - lines.start).min(whole.len()));
        let end = whole.floor_char_boundary((range.end - lines.start).min(whole.len())).max(start);
        let column = whole[..start].chars().count() + 1;
        // Of a line that is too long, what stands around the mark.
        let mut from = 0;
        let mut room = WIDEST;
        if columns(whole, WIDEST + 1) > WIDEST {
            let back = whole[..start].char_indices().rev().nth(WIDEST / 3).map_or(0, |(at, _)| at);
            (from, room) = (back, WIDEST - 2);
        }
        let mut text = if from > 0 { "…".to_owned() } else { String::new() };
        let mut used = 0;
        let (mut before, mut marks) = (text.chars().count(), 0);
        for (at, letter) in whole[from..].char_indices().map(|(at, letter)| (at + from, letter)) {
            let (seen, wide) = seen(letter);
            if used + wide > room {
                text.push('…');
                break;
            }
            used += wide;
            text.push_str(seen);
            if seen.is_empty() {
                text.push(letter);
            }
            before += if at < start { wide } else { 0 };
            marks += if (start..end).contains(&at) { wide } else { 0 };
        }
        Some(Self { source, line, column, text, from, before, marks, label: &label.text })
    }
}

/// What is shown for a letter, if not itself, and how many columns that takes.
fn seen(letter: char) -> (&'static str, usize) {
    match letter {
        '\t' => ("    ", 4),
        letter => match letter.width() {
            Some(0) | None => ("\u{fffd}", 1),
            Some(wide) => ("", wide),
        },
    }
}

/// How many columns a text takes, as far as it matters.
fn columns(text: &str, most: usize) -> usize {
    let mut used = 0;
    for letter in text.chars() {
        used += seen(letter).1;
        if used >= most {
            break;
        }
    }
    used
}

/// The range, brought inside the text and onto whole characters.
fn within(text: &str, span: Span) -> std::ops::Range<usize> {
    let start = text.floor_char_boundary((span.start as usize).min(text.len()));
    start..text.ceil_char_boundary((span.end as usize).min(text.len())).max(start)
}
