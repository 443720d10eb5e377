//! What is printed, and in which colours. Colour only on a terminal, and not when `NO_COLOR` is set; `anstream`
//! sees to both.

use std::{
    io::{ErrorKind, Write},
    path::PathBuf,
    sync::OnceLock,
};

use anstream::ColorChoice;
use stoicheon_files::ReadError;
use stoicheon_script::{Diagnostic, Loaded, Severity, Sources, render};
use stoicheon_view::thousands;

/// How a call ended that was itself right.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Outcome {
    Good,
    Faults,
    /// Not everything could be looked at.
    Unread,
}

impl Outcome {
    pub(crate) fn of(faults: bool) -> Self {
        if faults { Self::Faults } else { Self::Good }
    }
}

/// A call that is wrong itself.
#[derive(Debug, thiserror::Error)]
pub(crate) enum Misuse {
    #[error(transparent)]
    Read(#[from] ReadError),
    #[error("expected a folder named with letters, digits and underscores, not starting with a digit, found {}", .0.display())]
    NoName(PathBuf),
    #[error("{} already exists: give the name of a new folder", .0.display())]
    Taken(PathBuf),
    #[error("{} cannot be created: {reason}; nothing was left behind", path.display())]
    Unwritable { path: PathBuf, reason: String },
    #[error(transparent)]
    Served(stoicheon_lsp::ServeError),
    #[error("what is printed could not be written: {0}")]
    NotPrinted(String),
    #[error("{0}")]
    Unkept(String),
    #[error("--given: {0}")]
    NotGiven(String),
    #[error("{} is the file to convert: give another file to write to", .0.display())]
    SameFile(PathBuf),
    #[error("expected a file that ends in .stoi or .json, found {}", .0.display())]
    NoForm(PathBuf),
    #[error("expected a kind of part, found {found}: the kinds are {}", kinds.join(", "))]
    NoPart { found: String, kinds: Vec<String> },
    #[error("expected a file that ends in .stoi, .json, .gltf or .glb, found {}", .0.display())]
    NoSource(PathBuf),
    #[error("it becomes {word}, found {}: nothing was written", path.display())]
    SameForm { path: PathBuf, word: &'static str },
    #[error("give a .stoi, .json or .gltf file to convert, or --schema")]
    NothingToConvert,
    #[error("{} was not loaded: {reason}", path.display())]
    NoSave { path: PathBuf, reason: String },
    #[error("{} was not written: {reason}", path.display())]
    NotKept { path: PathBuf, reason: String },
    #[error("{file} has no scene \"{wanted}\"; it has {known}")]
    NoScene { file: String, wanted: String, known: String },
    #[error("{file} has no playtest \"{wanted}\"; it has {known}")]
    NoPlaytest { file: String, wanted: String, known: String },
    #[error("{file} has a playtest, and --for is for a scene that runs alone: leave it out, or add --alone")]
    ForPlaytest { file: String },
    #[error("{file} could not be built: {reason}")]
    NotBuilt { file: String, reason: String },
    #[error("{0}")]
    NotLive(String),
    #[error(
        "expected an address of this machine alone, such as 127.0.0.1:0, found \"{0}\", which others can reach: --to-others allows that"
    )]
    NotLoopback(String),
    #[error("expected a time such as 3.2s or 400ms, at most a day, after `at`, found {}", if .0.is_empty() { "nothing" } else { .0 })]
    BadMoment(String),
    #[error("expected {1} after `{0}`, found nothing")]
    NoWordAfter(&'static str, &'static str),
    #[error("`{0}` has no meaning for {1}: leave it out")]
    NoPlace(String, &'static str),
    #[error("nothing is called `{wanted}` in {path}{hint}")]
    NotFound { wanted: String, path: String, hint: String },
    #[error("not renamed: {0}")]
    NotRenamed(String),
    #[error("{0}")]
    NotDrawn(String),
    #[error("expected a file that ends in .svg or .png, found {}", .0.display())]
    NoPicture(PathBuf),
    #[error("expected a file that ends in .html, found {}", .0.display())]
    NoPage(PathBuf),
    #[error("{0}")]
    NoQuestion(String),
    #[error("expected what to ask about, such as \"upper_gate opened\", found nothing")]
    NothingAsked,
    #[error("{file} has no player \"{wanted}\"; it has {known}")]
    NoPlayer { file: String, wanted: String, known: String },
    #[error("{0} takes a time such as 3.2s or 400ms, at most a day, found {1}")]
    BadWindow(&'static str, String),
    #[error("expected one name, found {}: ask about one after the other", .0.join(", "))]
    ManyNames(Vec<String>),
    #[error(
        "it ends at {ends:.3}s, before {at}s: give an earlier time, or run the scene longer with --alone"
    )]
    PastEnd { at: f64, ends: f64 },
    #[error("{file} has nothing named {what}{}", near.as_ref().map_or_else(String::new, |near| format!(": did you mean {near}?")))]
    NothingNamed { file: String, what: String, near: Option<String> },
    #[error("--for takes a time above 0 and up to 86400 seconds, found {0}")]
    BadTime(f64),
}

/// One line on standard error.
pub(crate) fn complain(misuse: &impl std::fmt::Display) {
    let style = anstyle::AnsiColor::Red.on_default().bold();
    let mut stream = anstream::stderr();
    // Nobody is left to be told when standard error itself is closed.
    let _ = writeln!(stream, "{style}error{style:#}: {misuse}");
}

/// One line on standard error about something that is no error.
pub(crate) fn note(text: &str) {
    let _ = writeln!(anstream::stderr(), "{text}");
}

/// Whether standard output gets colours.
pub(crate) fn coloured() -> bool {
    anstream::AutoStream::choice(&std::io::stdout()) != ColorChoice::Never
}

/// What kept a text from being printed, if anything did.
static UNPRINTED: OnceLock<std::io::Error> = OnceLock::new();

/// Text on standard output. A reader that went away is no fault of ours; a full disk is told at the end.
pub(crate) fn print(text: &str) {
    let mut stream = anstream::stdout().lock();
    if let Err(error) = stream.write_all(text.as_bytes()).and_then(|()| stream.flush())
        && error.kind() != ErrorKind::BrokenPipe
    {
        let _ = UNPRINTED.set(error);
    }
}

/// Whether everything that was printed could be written.
pub(crate) fn printed() -> Result<(), Misuse> {
    UNPRINTED.get().map_or(Ok(()), |error| Err(Misuse::NotPrinted(error.to_string())))
}

/// How many findings a call prints, unless it is to print all.
const MOST: usize = 100;

/// Prints findings, and counts what is left out.
#[derive(Debug)]
pub(crate) struct Findings {
    most: usize,
    found: usize,
}

impl Findings {
    pub(crate) fn new(all: bool) -> Self {
        Self { most: if all { usize::MAX } else { MOST }, found: 0 }
    }

    pub(crate) fn print(&mut self, diagnostics: &[Diagnostic], sources: &Sources) {
        for diagnostic in diagnostics {
            self.found += 1;
            if self.found <= self.most {
                print(&format!("{}\n\n", render(diagnostic, sources, coloured())));
            }
        }
    }

    pub(crate) fn of(&mut self, loaded: &Loaded) {
        self.print(loaded.diagnostics(), loaded.sources());
    }

    /// How many more there are.
    pub(crate) fn end(&self) {
        if let Some(more) = self.found.checked_sub(self.most).filter(|more| *more > 0) {
            print(&format!("… and {} more; --all prints them\n\n", thousands(more as u64)));
        }
    }
}

/// The rest was done; what could not be, is told on standard error.
pub(crate) fn end(troubles: &[impl std::fmt::Display], faults: bool) -> Outcome {
    troubles.iter().for_each(complain);
    if troubles.is_empty() { Outcome::of(faults) } else { Outcome::Unread }
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
