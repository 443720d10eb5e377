//! Places: as the editor counts them, and as wiring does.

use std::path::{Path, PathBuf};

use line_index::{LineIndex, WideEncoding, WideLineCol};
use lsp_types::{Position, PositionEncodingKind, Range, Uri};
use stoicheon_script::Span;
use url::Url;

/// How an editor counts the letters of a line.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Counts {
    /// In bytes of UTF-8.
    Bytes,
    /// In units of UTF-16, unless both sides agree on something else.
    #[default]
    Units,
}

impl Counts {
    /// What is agreed on with an editor that offers those.
    pub(crate) fn agreed(offered: Option<&[PositionEncodingKind]>) -> Self {
        let takes_bytes = offered.is_some_and(|offered| offered.contains(&PositionEncodingKind::UTF8));
        if takes_bytes { Self::Bytes } else { Self::Units }
    }

    pub(crate) fn word(self) -> PositionEncodingKind {
        match self {
            Self::Bytes => PositionEncodingKind::UTF8,
            Self::Units => PositionEncodingKind::UTF16,
        }
    }
}

/// A text, by lines.
#[derive(Debug)]
pub(crate) struct Lines {
    index: LineIndex,
    counts: Counts,
    length: u32,
}

impl Lines {
    pub(crate) fn of(text: &str, counts: Counts) -> Self {
        let length = u32::try_from(text.len()).unwrap_or(u32::MAX);
        Self { index: LineIndex::new(text), counts, length }
    }

    pub(crate) fn position(&self, byte: u32) -> Position {
        let place = self.index.line_col(byte.min(self.length).into());
        if self.counts == Counts::Units
            && let Some(wide) = self.index.to_wide(WideEncoding::Utf16, place)
        {
            return Position::new(wide.line, wide.col);
        }
        Position::new(place.line, place.col)
    }

    pub(crate) fn range(&self, span: Span) -> Range {
        Range::new(self.position(span.start), self.position(span.end))
    }

    /// The byte at a position; one behind the end of its line is that end, and one behind the text its end.
    pub(crate) fn byte(&self, position: Position) -> u32 {
        let Some(line) = self.index.line(position.line) else { return self.length };
        let place = match self.counts {
            Counts::Bytes => {
                let start = self.index.line_col(line.start());
                Some(line_index::LineCol { col: position.character, ..start })
            }
            Counts::Units => {
                let wide = WideLineCol { line: position.line, col: position.character };
                self.index.to_utf8(WideEncoding::Utf16, wide)
            }
        };
        let byte = place.and_then(|place| self.index.offset(place)).map_or(self.length, u32::from);
        // A line ends before what ends it.
        let is_last = u32::from(line.end()) >= self.length;
        let end = if is_last { self.length } else { u32::from(line.end()) - 1 };
        byte.min(end).max(line.start().into())
    }
}

/// The file that an address is of; none for what is no file on this machine.
pub(crate) fn path_of(uri: &Uri) -> Option<PathBuf> {
    Url::parse(uri.as_str()).ok()?.to_file_path().ok()
}

/// The address of a file.
pub(crate) fn uri_of(path: &Path) -> Option<Uri> {
    let whole = std::path::absolute(path).ok()?;
    Url::from_file_path(whole).ok()?.as_str().parse().ok()
}

/// The path of a file that is the same however it is reached.
pub(crate) fn key(path: &Path) -> PathBuf {
    path.canonicalize().unwrap_or_else(|_| path.to_owned())
}
