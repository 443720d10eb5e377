//! `stoicheon check`

use serde::Serialize;
use stoicheon_script::Diagnostic;

use crate::{
    args::Check,
    files,
    out::{self, Misuse, Outcome},
};

/// One finding, for a program.
#[derive(Serialize)]
struct Finding<'a> {
    file: &'a str,
    line: usize,
    column: usize,
    #[serde(flatten)]
    diagnostic: &'a Diagnostic,
}

pub(crate) fn check(args: &Check) -> Result<Outcome, Misuse> {
    let loaded =
        files::find(&args.paths)?.iter().map(|path| files::read(path)).collect::<Result<Vec<_>, _>>()?;
    let faults = loaded.iter().any(stoicheon_script::Loaded::has_errors);
    if args.json {
        let findings: Vec<_> = loaded
            .iter()
            .flat_map(|file| file.diagnostics().iter().map(move |diagnostic| (file, diagnostic)))
            .map(|(file, diagnostic)| {
                let start = diagnostic.labels.first().map_or(0, |label| label.span.start);
                let (line, column) = file.source().position(start);
                Finding { file: file.source().name(), line, column, diagnostic }
            })
            .collect();
        let text = serde_json::to_string_pretty(&findings).unwrap_or_default();
        out::print(&format!("{text}\n"));
        return Ok(Outcome::of(faults));
    }
    for file in &loaded {
        out::print_diagnostics(file);
        let name = file.source().name();
        if file.diagnostics().is_empty() {
            let (objects, wires) = file.counts();
            let objects = out::plural(objects, "object");
            let wires = out::plural(wires, "wire");
            let playtests = out::plural(file.playtests().count(), "playtest");
            out::print(&format!("{name}: good ({objects}, {wires}, {playtests})\n"));
        } else {
            out::print(&format!("{name}: {}\n", out::count(file.diagnostics())));
        }
    }
    Ok(Outcome::of(faults))
}
