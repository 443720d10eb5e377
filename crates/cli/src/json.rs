//! What `check`, `test`, `play`, `look` and `find` say to programs. Names and lines, never numbers of files: a program has no list of them.

use schemars::JsonSchema;
use serde::Serialize;
use stoicheon_script::{Diagnostic, Label, Loaded};
use stoicheon_view::{Seen, SeenRecord};

use crate::{names::Found, out};

/// What is printed with `--json`, by command.
#[derive(Debug, Serialize, JsonSchema)]
#[schemars(title = "What stoicheon prints with --json")]
pub(crate) struct Outputs<'a> {
    /// `stoicheon check --json`
    check: Checked<'a>,
    /// `stoicheon test --json`
    test: Tested<'a>,
    /// A line of `stoicheon play --json`
    play: PlayLine<'a>,
    /// `stoicheon look --json`
    look: Seen,
    /// `stoicheon find --json`
    find: Found,
}

/// What `check` found.
#[derive(Debug, Serialize, JsonSchema)]
pub(crate) struct Checked<'a> {
    /// What is wrong or doubtful, file by file.
    pub(crate) findings: Vec<Finding<'a>>,
}

/// What `test` found.
#[derive(Debug, Serialize, JsonSchema)]
pub(crate) struct Tested<'a> {
    /// What keeps files from being run.
    pub(crate) findings: Vec<Finding<'a>>,
    /// How each playtest went, once for each of its seeds.
    pub(crate) playtests: Vec<Report<'a>>,
}

/// A line of how a scene was played: first what is wrong or doubtful, then what happened, record by record, then how it went. Wiring
/// with errors has no more than findings.
#[derive(Debug, Serialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum PlayLine<'a> {
    /// Something wrong or doubtful in the wiring.
    Finding(&'a Finding<'a>),
    /// Something that happened.
    Record(Box<SeenRecord>),
    /// How it went.
    Report(&'a Report<'a>),
}

/// How one playtest went, or a scene that ran alone.
#[derive(Debug, Serialize, JsonSchema)]
pub(crate) struct Report<'a> {
    /// The file of the scene.
    pub(crate) file: &'a str,
    /// The playtest; nothing for a scene that ran alone.
    pub(crate) playtest: Option<String>,
    /// Where random numbers began, if it or its project names seeds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) seed: Option<u64>,
    /// Whether everything was as expected.
    pub(crate) passed: bool,
    /// How many ticks it ran.
    pub(crate) ticks: u64,
    /// What two runs agree on that are the same: 16 hexadecimal digits.
    pub(crate) digest: String,
    /// What was expected and what was found, if it failed; a line each.
    pub(crate) failure: Vec<String>,
    #[serde(skip)]
    pub(crate) time: String,
}

/// Something wrong or doubtful.
#[derive(Debug, Serialize, JsonSchema)]
pub(crate) struct Finding<'a> {
    /// The file it is in.
    file: &'a str,
    /// The line, from 1.
    line: usize,
    /// The column, from 1, in characters.
    column: usize,
    /// `error` or `warning`.
    severity: &'static str,
    /// What kind of finding it is: `unknown-signal` and the like.
    code: &'static str,
    /// What is wrong, in one sentence.
    message: &'a str,
    /// The place itself first, then places that explain it.
    labels: Vec<Place<'a>>,
    /// What to do.
    help: Option<&'a str>,
}

/// A place in a file, with a few words about it.
#[derive(Debug, Serialize, JsonSchema)]
struct Place<'a> {
    /// The file.
    file: &'a str,
    /// The line it begins in, from 1.
    line: usize,
    /// The column it begins in, from 1, in characters.
    column: usize,
    /// The line it ends in.
    end_line: usize,
    /// The column it ends before.
    end_column: usize,
    /// What is to be said there.
    text: &'a str,
}

impl<'a> Place<'a> {
    fn of(loaded: &'a Loaded, label: &'a Label) -> Self {
        let source = loaded.sources().get(label.span.file);
        let at = |byte| source.map_or((1, 1), |source| source.position(byte));
        let ((line, column), (end_line, end_column)) = (at(label.span.start), at(label.span.end));
        let file = source.map_or("", |source| source.name());
        Self { file, line, column, end_line, end_column, text: &label.text }
    }
}

impl<'a> Finding<'a> {
    pub(crate) fn file(&self) -> &'a str {
        self.file
    }

    pub(crate) fn line(&self) -> usize {
        self.line
    }

    pub(crate) fn code(&self) -> &'static str {
        self.code
    }

    pub(crate) fn message(&self) -> &'a str {
        self.message
    }

    pub(crate) fn help(&self) -> Option<&'a str> {
        self.help
    }

    pub(crate) fn is_error(&self) -> bool {
        self.severity == "error"
    }

    /// The file, where it begins and ends, and what is to be said there: the place itself first.
    pub(crate) fn places(&self) -> impl Iterator<Item = (&'a str, [usize; 4], &'a str)> {
        self.labels.iter().map(|place| {
            (place.file, [place.line, place.column, place.end_line, place.end_column], place.text)
        })
    }

    pub(crate) fn all_of(loaded: &'a Loaded) -> impl Iterator<Item = Self> {
        loaded.diagnostics().iter().map(move |diagnostic| Self::of(loaded, diagnostic))
    }

    fn of(loaded: &'a Loaded, diagnostic: &'a Diagnostic) -> Self {
        let labels: Vec<_> = diagnostic.labels.iter().map(|label| Place::of(loaded, label)).collect();
        let (file, line, column) =
            labels.first().map_or((loaded.name(), 1, 1), |place| (place.file, place.line, place.column));
        Self {
            file,
            line,
            column,
            severity: diagnostic.severity.word(),
            code: diagnostic.code.word(),
            message: &diagnostic.message,
            labels,
            help: diagnostic.help.as_deref(),
        }
    }
}

/// Prints it in one line.
pub(crate) fn print_line(value: &impl Serialize) {
    let text = serde_json::to_string(value).unwrap_or_default();
    out::print(&format!("{text}\n"));
}

/// Prints it.
pub(crate) fn print(value: &impl Serialize) {
    // Names and numbers, which JSON has.
    let text = serde_json::to_string_pretty(value).unwrap_or_default();
    out::print(&format!("{text}\n"));
}

/// The JSON Schema of all of it.
pub(crate) fn schema() -> String {
    let schema = schemars::schema_for!(Outputs<'_>);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
