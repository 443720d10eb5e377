//! `stoicheon test`

use std::time::Instant;

use stoicheon_core::{Catalogue, SmolStr};
use stoicheon_files::{self as files, Fresh, Wiring};
use stoicheon_script::Loaded;
use stoicheon_view::{ReportedPlaytest, clock_time};

use crate::{
    args::Test,
    ci,
    json::{self, Finding, Report, Tested},
    out::{self, Findings, Misuse, Outcome},
};

pub(crate) fn test(args: &Test) -> Result<Outcome, Misuse> {
    let began = Instant::now();
    let (wirings, troubles) = files::read_all(&args.paths, &Catalogue::built_in());
    if wirings.is_empty() {
        return Ok(out::end(&troubles, false));
    }
    let mut reports = Vec::new();
    let mut told = Vec::new();
    let mut findings = Findings::new(args.all);
    let mut broken_files = 0;
    for wiring in &wirings {
        let broken = wiring.broken();
        for part in &broken {
            broken_files += 1;
            told.extend(Finding::all_of(part));
            if !args.json {
                findings.of(part);
                out::print(&format!("{}: {}\n", part.name(), out::count(part.diagnostics())));
            }
        }
        if !broken.is_empty() {
            continue;
        }
        of_wiring(wiring, &mut |report| {
            if !args.json {
                print(&report);
            }
            reports.push(report);
        });
    }
    let failed = reports.iter().filter(|report| !report.passed).count();
    if let Some(path) = &args.junit {
        ci::junit(path, &reports, &told)?;
    }
    if args.json {
        json::print(&Tested { findings: told, playtests: reports });
    } else {
        findings.end();
        let unread = match broken_files {
            0 => String::new(),
            some => format!(", {} not run", out::plural(some, "file")),
        };
        let passed = out::plural(reports.len() - failed, "playtest");
        let took = began.elapsed().as_secs_f64();
        out::print(&format!("{passed} passed, {failed} failed{unread}, in {took:.2}s\n"));
    }
    Ok(out::end(&troubles, failed + broken_files > 0))
}

/// Runs all playtests of some wiring, each with each of its seeds.
pub(crate) fn of_wiring<'a>(wiring: &'a Wiring, done: &mut dyn FnMut(Report<'a>)) {
    for (index, part) in wiring.parts().into_iter().enumerate() {
        for (number, name) in part.playtests().enumerate() {
            for seed in wiring.seeds(part, number) {
                done(run(wiring, (index, part), (number, name.clone()), seed));
            }
        }
    }
}

/// How a playtest went, for a page.
pub(crate) fn reported(report: Report<'_>) -> ReportedPlaytest {
    let name = format!("{}: {}", report.file, report.playtest.unwrap_or_default());
    let seed = report.seed.map_or_else(String::new, |seed| format!(", seed {seed}"));
    ReportedPlaytest::new(name, format!("{}, {} ticks{seed}", report.time, report.ticks), report.failure)
}

fn run<'a>(
    wiring: &'a Wiring,
    (index, part): (usize, &'a Loaded),
    (number, name): (usize, SmolStr),
    seed: Option<u64>,
) -> Report<'a> {
    let mut report = Report {
        file: part.name(),
        playtest: Some(name.to_string()),
        seed,
        passed: false,
        ticks: 0,
        digest: String::new(),
        failure: Vec::new(),
        time: String::new(),
    };
    let wiring = wiring.for_playtest(index, number);
    let Some(part) = wiring.parts().get(index).copied() else { return report };
    let mut world = match wiring.world(seed) {
        Ok(world) => world,
        Err(error) => {
            report.failure.push(error.to_string());
            return report;
        }
    };
    let fresh = Fresh { world: &|| wiring.world(seed), game: &|| () };
    let ran = files::run(part, number, &mut world, &mut (), fresh, &mut |_| {});
    (report.ticks, report.failure) = (ran.ticks, ran.failure);
    report.passed = report.failure.is_empty();
    report.digest = format!("{:016x}", world.trace().digest());
    report.time = clock_time(world.rate(), world.now());
    report
}

fn print(report: &Report<'_>) {
    let (style, word) = if report.passed {
        (anstyle::AnsiColor::Green.on_default(), "passed")
    } else {
        (anstyle::AnsiColor::Red.on_default().bold(), "failed")
    };
    let Report { file, ticks, time, .. } = report;
    let playtest = report.playtest.clone().unwrap_or_default();
    let seed = report.seed.map_or_else(String::new, |seed| format!(", seed {seed}"));
    out::print(&format!("{style}{word}{style:#}  {file}: {playtest}  ({time}, {ticks} ticks{seed})\n"));
    for line in &report.failure {
        out::print(&format!("        {line}\n"));
    }
}
