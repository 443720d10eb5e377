//! The text of a file, and places in it.

use serde::Serialize;
use smol_str::SmolStr;
use stoicheon_core::Place;

/// A stretch of text, in bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize)]
pub struct Span {
    /// Where it begins.
    pub start: usize,
    /// Where it ends; the byte there is not part of it.
    pub end: usize,
}

impl From<rowan::TextRange> for Span {
    fn from(range: rowan::TextRange) -> Self {
        Self { start: range.start().into(), end: range.end().into() }
    }
}

/// A file's name and text.
#[derive(Clone, Debug)]
pub struct Source {
    name: SmolStr,
    text: String,
    /// Where each line begins.
    lines: Vec<usize>,
}

impl Source {
    pub(crate) fn new(name: &str, text: &str) -> Self {
        let ends = text.bytes().enumerate().filter(|(_, byte)| *byte == b'\n').map(|(at, _)| at + 1);
        Self { name: name.into(), text: text.to_owned(), lines: std::iter::once(0).chain(ends).collect() }
    }

    /// The file's name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The whole text.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Line and column of a byte, both from 1; the column counts characters.
    pub fn position(&self, at: usize) -> (usize, usize) {
        let line = self.lines.partition_point(|start| *start <= at).max(1);
        let start = self.lines[line - 1];
        let before = self.text.get(start..at.min(self.text.len())).unwrap_or_default();
        (line, before.chars().count() + 1)
    }

    pub(crate) fn place(&self, span: Span) -> Place {
        let (line, _) = self.position(span.start);
        Place { file: self.name.clone(), line: u32::try_from(line).unwrap_or(u32::MAX) }
    }
}
