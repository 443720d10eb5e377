//! `stoicheon check`

use serde::Serialize;
use stoicheon_script::{Diagnostic, Loaded};

use crate::{
    args::Check,
    files,
    out::{self, Misuse, Outcome},
    wiring::Wiring,
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

impl<'a> Finding<'a> {
    fn of(loaded: &'a Loaded, diagnostic: &'a Diagnostic) -> Self {
        let span = diagnostic.labels.first().map(|label| label.span).unwrap_or_default();
        let source = loaded.sources().get(span.file);
        let (line, column) = source.map_or((1, 1), |source| source.position(span.start));
        Self { file: source.map_or("", |source| source.name()), line, column, diagnostic }
    }
}

pub(crate) fn check(args: &Check) -> Result<Outcome, Misuse> {
    let catalogue = files::catalogue(args.catalogue.as_ref())?;
    let wirings = files::read_all(&args.paths, &catalogue)?;
    let loaded: Vec<&Loaded> = wirings.iter().flat_map(Wiring::parts).collect();
    let faults = loaded.iter().any(|part| part.has_errors());
    if args.json {
        let findings: Vec<_> = loaded
            .iter()
            .flat_map(|file| file.diagnostics().iter().map(move |diagnostic| Finding::of(file, diagnostic)))
            .collect();
        let text = serde_json::to_string_pretty(&findings).unwrap_or_default();
        out::print(&format!("{text}\n"));
        return Ok(Outcome::of(faults));
    }
    for file in &loaded {
        out::print_diagnostics(file);
        let name = file.name();
        if file.diagnostics().is_empty() {
            let (objects, wires) = file.counts();
            let objects = out::plural(objects, "object");
            let wires = out::plural(wires, "wire");
            let playtests = out::plural(file.playtests().count(), "playtest");
            let scenes = scenes_of(&wirings, file);
            out::print(&format!("{name}: good ({scenes}{objects}, {wires}, {playtests})\n"));
        } else {
            out::print(&format!("{name}: {}\n", out::count(file.diagnostics())));
        }
    }
    Ok(Outcome::of(faults))
}

/// How many scenes a file has that is a project's.
fn scenes_of(wirings: &[Wiring], file: &Loaded) -> String {
    let heads = wirings.iter().filter_map(|wiring| match wiring {
        Wiring::Project(project) => Some(project),
        Wiring::Scene(_) => None,
    });
    let head = heads.into_iter().find(|project| std::ptr::eq(project.head(), file));
    head.map_or_else(String::new, |project| out::plural(project.scenes().len(), "scene") + ", ")
}
