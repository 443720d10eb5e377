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
    let wirings: Vec<Wiring> = wirings.iter().map(Wiring::checked_in_place).collect();
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
    for file in &loaded {
        findings.of(file);
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
    findings.end();
    Ok(out::end(&troubles, faults))
}

/// How many scenes a file has that is a project's.
fn scenes_of(wirings: &[Wiring], file: &Loaded) -> String {
    let heads = wirings.iter().filter_map(|wiring| match wiring {
        Wiring::Project(project) => Some(project),
        Wiring::Scene(_) | Wiring::SceneOf(..) => None,
    });
    let head = heads.into_iter().find(|project| std::ptr::eq(project.head(), file));
    head.map_or_else(String::new, |project| out::plural(project.scenes().len(), "scene") + ", ")
}
