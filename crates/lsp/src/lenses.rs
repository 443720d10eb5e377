//! Playtests, run from where they stand.

use std::{collections::BTreeMap, path::PathBuf};

use lsp_types::{
    CodeLens, CodeLensParams, Command, Diagnostic, DiagnosticSeverity, ExecuteCommandParams, NumberOrString,
    Position, Range,
};
use serde_json::Value;
use stoicheon_files::{self as files, Fresh, Wiring};
use stoicheon_script::editing::{self, EntryKind};
use stoicheon_view::clock_time;

use crate::{
    answer::{Answer, Refusal},
    desk::Desk,
    known::Known,
    outcome::Outcome,
    place::{key, path_of},
};

/// The command that runs a playtest: the address of its file, and its name.
pub(crate) const RUN: &str = "stoicheon.runPlaytest";

pub(crate) fn lenses(desk: &mut Desk, params: &CodeLensParams) -> Option<Vec<CodeLens>> {
    let path = key(&path_of(&params.text_document.uri)?);
    let (known, file) = desk.file(&path)?;
    let playtests = editing::outline(known.text(file), file).into_iter();
    let playtests = playtests.filter(|entry| entry.kind == EntryKind::Playtest);
    let lenses = playtests.map(|playtest| {
        let outcome = known.outcome(&path, &playtest.name);
        let title = outcome.map_or_else(|| "run".to_owned(), |outcome| outcome.said.clone());
        let arguments = vec![params.text_document.uri.as_str().into(), playtest.name.as_str().into()];
        let command = Command { title, command: RUN.to_owned(), arguments: Some(arguments) };
        CodeLens { range: known.range(playtest.name_span), command: Some(command), data: None }
    });
    Some(lenses.collect())
}

pub(crate) fn execute(desk: &mut Desk, params: &ExecuteCommandParams) -> Answer<Option<Value>> {
    if params.command != RUN {
        return Err(Refusal::failed(format!("expected the command {RUN}, found {}", params.command)));
    }
    let [Value::String(uri), Value::String(name)] = &params.arguments[..] else {
        return Err(Refusal::failed("expected the address of a file, and the name of a playtest in it"));
    };
    let path = uri.parse().ok().and_then(|uri| path_of(&uri)).map(|path| key(&path));
    let path = path.ok_or_else(|| Refusal::failed(format!("{uri} is no file on this machine")))?;
    let (known, file) = desk
        .file(&path)
        .ok_or_else(|| Refusal::failed(format!("{uri} is in no wiring that is looked at")))?;
    let outcome = run(known, file, name)
        .ok_or_else(|| Refusal::failed(format!("there is no playtest \"{name}\" in {uri}")))?;
    desk.ran(&path, name, &outcome);
    Ok(serde_json::to_value(outcome).ok())
}

/// Runs a playtest with each of its cases and seeds, up to the first that fails.
fn run(known: &Known, file: u32, name: &str) -> Option<Outcome> {
    let wiring = &known.wiring;
    let parts = wiring.parts();
    let index = parts.iter().position(|part| part.is_own_file(file))?;
    let part = *parts.get(index)?;
    let is_it =
        |whole: &str| whole == name || whole.strip_prefix(name).is_some_and(|rest| rest.starts_with(": "));
    let numbers = (0..).zip(part.playtests()).filter(|(_, whole)| is_it(whole)).map(|(number, _)| number);
    let numbers: Vec<usize> = numbers.collect();
    let (mut times, mut said) = (0, String::new());
    for number in numbers {
        for seed in wiring.seeds(part, number) {
            times += 1;
            let outcome = run_once(wiring, (index, number), seed);
            if !outcome.passed {
                return Some(outcome);
            }
            said = outcome.said;
        }
    }
    let said = match times {
        0 => return None,
        1 => said,
        many => format!("passed: {many} runs"),
    };
    Some(Outcome { passed: true, said, failure: Vec::new(), place: None })
}

fn run_once(wiring: &Wiring, (index, number): (usize, usize), seed: Option<u64>) -> Outcome {
    let broken =
        |why: String| Outcome { passed: false, said: "not run".to_owned(), failure: vec![why], place: None };
    if let Some(part) = wiring.broken().first() {
        return broken(format!("{} has errors", part.name()));
    }
    let wiring = wiring.for_playtest(index, number);
    let Some(part) = wiring.parts().get(index).copied() else { return broken("it is gone".to_owned()) };
    let mut world = match wiring.world(seed) {
        Ok(world) => world,
        Err(error) => return broken(error.to_string()),
    };
    let fresh = Fresh { world: &|| wiring.world(seed), game: &|| () };
    let ran = files::run(part, number, &mut world, &mut (), fresh, &mut |_| {});
    let time = clock_time(world.rate(), world.now());
    let seed = seed.map_or_else(String::new, |seed| format!(", seed {seed}"));
    let verdict = if ran.passed() { "passed" } else { "failed" };
    let said = format!("{verdict}: {time}, {} ticks{seed}", ran.ticks);
    Outcome { passed: ran.passed(), said, failure: ran.failure, place: ran.place }
}

/// The findings that playtests are which failed.
pub(crate) fn failed(known: &Known) -> BTreeMap<PathBuf, Vec<Diagnostic>> {
    let mut all: BTreeMap<PathBuf, Vec<Diagnostic>> = BTreeMap::new();
    for ((path, name), outcome) in known.outcomes().filter(|(_, outcome)| !outcome.passed) {
        let line = outcome.place.as_ref().map(|place| place.line.saturating_sub(1));
        let place = outcome.place.as_ref().map(|place| key(place.file.as_ref()));
        let here = place.unwrap_or_else(|| path.clone());
        let range = line.map_or_else(Range::default, |line| whole_line(known, &here, line));
        let message = format!("playtest \"{name}\" {}\n{}", outcome.said, outcome.failure.join("\n"));
        all.entry(here).or_default().push(Diagnostic {
            range,
            severity: Some(DiagnosticSeverity::ERROR),
            code: Some(NumberOrString::String("playtest".to_owned())),
            source: Some(Known::SOURCE.to_owned()),
            message,
            ..Diagnostic::default()
        });
    }
    all
}

/// A line without the space around it.
fn whole_line(known: &Known, path: &std::path::Path, line: u32) -> Range {
    let text = known.number(path).map_or("", |file| known.text(file));
    let written = text.lines().nth(line as usize).unwrap_or_default();
    let units = |text: &str| u32::try_from(text.encode_utf16().count()).unwrap_or(0);
    let start = units(written) - units(written.trim_start());
    Range::new(Position::new(line, start), Position::new(line, units(written.trim_end())))
}
