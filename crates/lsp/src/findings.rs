//! Findings, as an editor shows them.

use std::{
    collections::{BTreeMap, HashSet},
    path::PathBuf,
};

use lsp_types::{
    Diagnostic, DiagnosticRelatedInformation, DiagnosticSeverity, DiagnosticTag, NumberOrString,
};
use stoicheon_script::{self as script, Code, Severity};

use crate::{desk::Desk, known::Known, lenses};

/// What is found in each file of some wiring; one in which nothing is has an empty list.
pub(crate) fn found(known: &Known) -> &BTreeMap<PathBuf, Vec<Diagnostic>> {
    known.found.get_or_init(|| of(known))
}

fn of(known: &Known) -> BTreeMap<PathBuf, Vec<Diagnostic>> {
    let mut all: BTreeMap<PathBuf, Vec<Diagnostic>> =
        known.files.iter().map(|file| (file.path.clone(), Vec::new())).collect();
    // What several parts of a project say of a file that they share is said once.
    let mut said = HashSet::new();
    for found in known.diagnostics() {
        let span = found.labels.first().map(|label| label.span).unwrap_or_default();
        let Some(file) = known.files.get(span.file as usize).or(known.files.first()) else { continue };
        if said.insert((span, found.message.as_str())) {
            all.entry(file.path.clone()).or_default().push(told(found, known));
        }
    }
    all
}

pub(crate) fn told(found: &script::Diagnostic, known: &Known) -> Diagnostic {
    let (first, rest) = match found.labels.split_first() {
        Some((first, rest)) => (Some(first), rest),
        None => (None, &[][..]),
    };
    let mut message = found.message.clone();
    let label = first.map(|label| label.text.as_str()).filter(|label| !label.is_empty());
    // Many editors show all of it in one line: what to do comes before what the place itself is called.
    for more in found.help.as_deref().into_iter().chain(label) {
        message.push('\n');
        message.push_str(more);
    }
    let related = rest.iter().filter_map(|label| {
        let location = known.location(label.span)?;
        Some(DiagnosticRelatedInformation { location, message: label.text.clone() })
    });
    let related: Vec<_> = related.collect();
    Diagnostic {
        range: first.map(|label| known.range(label.span)).unwrap_or_default(),
        severity: Some(match found.severity {
            Severity::Error => DiagnosticSeverity::ERROR,
            Severity::Warning => DiagnosticSeverity::WARNING,
        }),
        code: Some(NumberOrString::String(found.code.word().to_owned())),
        source: Some(Known::SOURCE.to_owned()),
        message,
        related_information: (!related.is_empty()).then_some(related),
        tags: is_unused(found.code).then(|| vec![DiagnosticTag::UNNECESSARY]),
        ..Diagnostic::default()
    }
}

/// Whether it is about something that does nothing where it stands.
fn is_unused(code: Code) -> bool {
    matches!(code, Code::UnusedSignal | Code::UnusedKit | Code::Unread | Code::UnusedPlace | Code::NeverTaken)
}

/// What is found in all files: by a check, and by playtests that were run.
pub(crate) fn of_all(desk: &mut Desk) -> BTreeMap<PathBuf, Vec<Diagnostic>> {
    let mut all = BTreeMap::new();
    for known in desk.known() {
        join(&mut all, found(known));
        join(&mut all, &lenses::failed(known));
    }
    all
}

/// What is found in some files altogether; what is found in several wirings of a file that they share is said once.
fn join(all: &mut BTreeMap<PathBuf, Vec<Diagnostic>>, more: &BTreeMap<PathBuf, Vec<Diagnostic>>) {
    for (path, found) in more {
        let here = all.entry(path.clone()).or_default();
        let is_first = here.is_empty();
        for one in found {
            if is_first || !here.contains(one) {
                here.push(one.clone());
            }
        }
    }
}
