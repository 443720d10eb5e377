//! The texts of files, and places in them.

use std::{
    ops::Range,
    sync::{Arc, OnceLock},
};

use rustc_hash::FxHashMap;
use serde::Serialize;
use smol_str::SmolStr;
use stoicheon_core::Place;

/// A stretch of text, in bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Span {
    /// The number of the file, among those that were read together.
    pub file: u32,
    /// Where it begins.
    pub start: u32,
    /// Where it ends; the byte there is not part of it.
    pub end: u32,
}

impl Span {
    pub(crate) fn new(file: u32, start: usize, end: usize) -> Self {
        // Texts longer than this are refused before they are read.
        let short = |at: usize| u32::try_from(at).unwrap_or(u32::MAX);
        Self { file, start: short(start), end: short(end) }
    }

    /// Whether another one lies within this one.
    pub(crate) fn contains(self, other: Self) -> bool {
        self.file == other.file && self.start <= other.start && other.end <= self.end
    }

    /// From the start of this one to the end of the other.
    pub(crate) fn to(self, other: Self) -> Self {
        Self { end: other.end, ..self }
    }
}

/// A file's name and text.
#[derive(Clone, Debug)]
pub struct Source {
    name: SmolStr,
    text: Arc<str>,
    /// Where each line begins.
    lines: Arc<[usize]>,
    /// How often each word stands in it, once somebody has counted.
    pub(crate) words: Arc<OnceLock<FxHashMap<SmolStr, usize>>>,
    /// The scene of a project that it belongs to, as files count them.
    pub(crate) scene_number: u32,
}

impl Source {
    pub(crate) fn new(name: &str, text: &str) -> Self {
        let ends = text.bytes().enumerate().filter(|(_, byte)| *byte == b'\n').map(|(at, _)| at + 1);
        Self {
            name: name.into(),
            text: text.into(),
            lines: std::iter::once(0).chain(ends).collect(),
            words: Arc::default(),
            scene_number: 0,
        }
    }

    /// The file's name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The whole text.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The whole lines that a stretch of bytes lies in: the number of the first, from 1, and where they are.
    pub(crate) fn lines_of(&self, bytes: Range<usize>) -> (usize, Range<usize>) {
        let line = self.lines.partition_point(|start| *start <= bytes.start).max(1);
        let after = self.lines.partition_point(|start| *start <= bytes.end);
        let end = self.lines.get(after).copied().unwrap_or(self.text.len());
        (line, self.lines[line - 1]..end)
    }

    /// The line that a byte stands in.
    pub fn line_at(&self, at: u32) -> &str {
        let (_, line) = self.lines_of(at as usize..at as usize);
        self.text.get(line).unwrap_or_default()
    }

    /// Line and column of a byte, both from 1; the column counts characters.
    pub fn position(&self, at: u32) -> (usize, usize) {
        let at = at as usize;
        let line = self.lines.partition_point(|start| *start <= at).max(1);
        let start = self.lines[line - 1];
        let before = self.text.get(start..at.min(self.text.len())).unwrap_or_default();
        (line, before.chars().count() + 1)
    }
}

/// The same path without the steps that lead nowhere: `a/./b` and `a/c/../b` are the file `a/b`.
pub(crate) fn normal(path: &str) -> SmolStr {
    let mut steps: Vec<&str> = Vec::new();
    for step in path.split('/') {
        match step {
            "." => {}
            "" if !steps.is_empty() => {}
            ".." if steps.last().is_some_and(|last| !matches!(*last, ".." | "")) => {
                steps.pop();
            }
            step => steps.push(step),
        }
    }
    steps.join("/").into()
}

/// The files that were read together, by number.
#[derive(Clone, Debug, Default)]
pub struct Sources(Vec<Source>);

impl Sources {
    /// One file alone.
    pub fn of(name: &str, text: &str) -> Self {
        Self(vec![Source::new(name, text)])
    }

    pub(crate) fn add(&mut self, name: &str, text: &str) -> u32 {
        self.add_of(0, name, text)
    }

    /// A file of the scene of that number.
    pub(crate) fn add_of(&mut self, scene_number: u32, name: &str, text: &str) -> u32 {
        self.0.push(Source { scene_number, ..Source::new(name, text) });
        u32::try_from(self.0.len() - 1).unwrap_or(u32::MAX)
    }

    pub(crate) fn push(&mut self, source: Source) {
        self.0.push(source);
    }

    /// The file of that number.
    pub fn get(&self, file: u32) -> Option<&Source> {
        self.0.get(file as usize)
    }

    /// All files; the one that was asked for first.
    pub fn iter(&self) -> impl Iterator<Item = &Source> {
        self.0.iter()
    }

    /// What a path that is written in the first file is called: it is meant from where that file is.
    pub(crate) fn beside(&self, path: &str) -> SmolStr {
        let folder =
            self.0.first().and_then(|first| first.name.rfind(['/', '\\']).map(|end| &first.name[..=end]));
        match folder {
            Some(folder) if !path.starts_with(['/', '\\']) => normal(&format!("{folder}{path}")),
            _ => normal(path),
        }
    }

    /// How many there are.
    pub(crate) fn len(&self) -> u32 {
        u32::try_from(self.0.len()).unwrap_or(u32::MAX)
    }

    pub(crate) fn place(&self, span: Span) -> Place {
        let Some(source) = self.get(span.file) else { return Place { file: "?".into(), line: 0 } };
        let (line, _) = source.position(span.start);
        Place { file: source.name.clone(), line: u32::try_from(line).unwrap_or(u32::MAX) }
    }
}
