//! `stoicheon check`

use stoicheon_files::{self as files, Wiring};
use stoicheon_script::Loaded;

use crate::{
    args::Check,
    ci,
    json::{self, Checked, Finding},
    out::{self, Findings, Misuse, Outcome},
};

pub(crate) fn check(args: &Check) -> Result<Outcome, Misuse> {
    let catalogue = files::catalogue(args.catalogue.as_deref())?;
    let (wirings, troubles) = files::read_all(&args.paths, &catalogue);
    if wirings.is_empty() {
        return Ok(out::end(&troubles, false));
    }
    let wirings = Wiring::all_checked_in_place(&wirings);
    let loaded: Vec<&Loaded> = wirings.iter().flat_map(Wiring::parts).collect();
    let faults = loaded.iter().any(|part| part.has_errors());
    if let Some(path) = &args.sarif {
        let findings: Vec<_> = loaded.iter().flat_map(|file| Finding::all_of(file)).collect();
        ci::sarif(path, &findings)?;
    }
    if args.json {
        let findings = loaded.iter().flat_map(|file| Finding::all_of(file)).collect();
        json::print(&Checked { findings });
        return Ok(out::end(&troubles, faults));
    }
    let mut findings = Findings::new(args.all);
    for wiring in &wirings {
        let parts = wiring.parts();
        // The first part of a project is what its scenes share.
        let scenes = matches!(wiring, Wiring::Project(_)).then(|| parts.len() - 1);
        for (number, file) in parts.into_iter().enumerate() {
            findings.of(file);
            tell(file, scenes.filter(|_| number == 0));
        }
    }
    findings.end();
    Ok(out::end(&troubles, faults))
}

/// How a file is, in one line; with the number of its scenes, if it is a project's.
fn tell(file: &Loaded, scenes: Option<usize>) {
    let name = file.name();
    if file.diagnostics().is_empty() {
        let (objects, wires) = file.counts();
        let objects = out::plural(objects, "object");
        let wires = out::plural(wires, "wire");
        let playtests = out::plural(file.playtests().count(), "playtest");
        let scenes = scenes.map_or_else(String::new, |scenes| out::plural(scenes, "scene") + ", ");
        out::print(&format!("{name}: good ({scenes}{objects}, {wires}, {playtests})\n"));
    } else {
        out::print(&format!("{name}: {}\n", out::count(file.diagnostics())));
    }
}
