//! What is printed, and in which colours. Colour only on a terminal, and not when `NO_COLOR` is set; `anstream`
//! sees to both.

use std::{io::Write, path::PathBuf};

use anstream::ColorChoice;
use stoicheon_script::{Diagnostic, Loaded, Severity, render};

/// How a call ended that was itself right.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outcome {
    Good,
    Faults,
}

impl Outcome {
    pub(crate) fn of(faults: bool) -> Self {
        if faults { Self::Faults } else { Self::Good }
    }
}

/// A call that is wrong itself.
#[derive(Debug, thiserror::Error)]
pub(crate) enum Misuse {
    #[error("there is no file or folder {}: give the path of a .stoi file, or of a folder of them", .0.display())]
    Missing(PathBuf),
    #[error("there is no .stoi file in {}: put one there, or give the path of another folder", .0.display())]
    NoFiles(PathBuf),
    #[error("{} cannot be read: {reason}", path.display())]
    Unreadable { path: PathBuf, reason: String },
    #[error("expected a folder named with letters, digits and underscores, not starting with a digit, found {}", .0.display())]
    NoName(PathBuf),
    #[error("{} is there already: give the name of a folder to be made", .0.display())]
    Taken(PathBuf),
    #[error("{} has {found}: give the path of the one to play", path.display())]
    WhichFile { path: PathBuf, found: String },
    #[error("{} is not a text in UTF-8 (byte {at}): save it as UTF-8", path.display())]
    NotText { path: PathBuf, at: usize },
    #[error("{} cannot be written: {reason}", path.display())]
    Unwritable { path: PathBuf, reason: String },
    #[error("{} is no catalogue: {reason}; a game writes its own out as JSON", path.display())]
    NoCatalogue { path: PathBuf, reason: String },
    #[error("give a .stoi or .json file to convert, or --schema")]
    NothingToConvert,
    #[error("{} was not taken up: {reason}", path.display())]
    NoSave { path: PathBuf, reason: String },
    #[error("{} was not kept: {reason}", path.display())]
    NotKept { path: PathBuf, reason: String },
    #[error("{file} has no scene \"{wanted}\"; it has {known}")]
    NoScene { file: String, wanted: String, known: String },
    #[error("{file} has no playtest \"{wanted}\"; it has {known}")]
    NoPlaytest { file: String, wanted: String, known: String },
    #[error("--for takes a time above 0 and up to 86400 seconds, found {0}")]
    BadTime(f64),
}

/// One line on standard error.
pub(crate) fn complain(misuse: &Misuse) {
    let style = anstyle::AnsiColor::Red.on_default().bold();
    let mut stream = anstream::stderr();
    // Nobody is left to be told when standard error itself is closed.
    let _ = writeln!(stream, "{style}error{style:#}: {misuse}");
}

/// Whether standard output gets colours.
pub(crate) fn coloured() -> bool {
    anstream::AutoStream::choice(&std::io::stdout()) != ColorChoice::Never
}

/// Text on standard output. A reader that went away is no fault of ours.
pub(crate) fn print(text: &str) {
    let mut stream = anstream::stdout().lock();
    let _ = stream.write_all(text.as_bytes());
    let _ = stream.flush();
}

/// The findings of one text.
pub(crate) fn print_diagnostics(loaded: &Loaded) {
    for diagnostic in loaded.diagnostics() {
        print(&format!("{}\n\n", render(diagnostic, loaded.sources(), coloured())));
    }
}

/// `2 errors, 1 warning`
pub(crate) fn count(diagnostics: &[Diagnostic]) -> String {
    let of = |severity| diagnostics.iter().filter(|diagnostic| diagnostic.severity == severity).count();
    format!("{}, {}", plural(of(Severity::Error), "error"), plural(of(Severity::Warning), "warning"))
}

/// `1 wire`, `2 wires`
pub(crate) fn plural(count: usize, word: &str) -> String {
    if count == 1 { format!("1 {word}") } else { format!("{count} {word}s") }
}
