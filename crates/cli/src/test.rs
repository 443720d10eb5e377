//! `stoicheon test`

use serde::Serialize;
use stoicheon_core::{Catalogue, World};
use stoicheon_script::Loaded;
use stoicheon_view::clock_time;

use crate::{
    args::Test,
    failure, files,
    out::{self, Misuse, Outcome},
};

/// How one playtest went.
#[derive(Serialize)]
struct Report<'a> {
    file: &'a str,
    playtest: &'a str,
    passed: bool,
    ticks: u64,
    digest: String,
    /// What was expected and what was found, if it failed.
    failure: Vec<String>,
    #[serde(skip)]
    time: String,
}

pub(crate) fn test(args: &Test) -> Result<Outcome, Misuse> {
    let loaded = files::read_all(&args.paths, &Catalogue::built_in())?;
    let mut reports = Vec::new();
    let mut broken_files = 0;
    for file in &loaded {
        if file.has_errors() {
            broken_files += 1;
            if !args.json {
                out::print_diagnostics(file);
                let name = file.name();
                out::print(&format!("{name}: {}\n", out::count(file.diagnostics())));
            }
            continue;
        }
        for (number, name) in file.playtests().enumerate() {
            let report = run(file, number, name);
            if !args.json {
                print(&report);
            }
            reports.push(report);
        }
    }
    let failed = reports.iter().filter(|report| !report.passed).count();
    if args.json {
        let text = serde_json::to_string_pretty(&reports).unwrap_or_default();
        out::print(&format!("{text}\n"));
    } else {
        let unread = match broken_files {
            0 => String::new(),
            some => format!(", {} not run", out::plural(some, "file")),
        };
        let passed = out::plural(reports.len() - failed, "playtest");
        out::print(&format!("{passed} passed, {failed} failed{unread}\n"));
    }
    Ok(Outcome::of(failed + broken_files > 0))
}

fn run<'a>(file: &'a Loaded, number: usize, name: &'a str) -> Report<'a> {
    let mut world = World::<()>::new();
    let verdict = file
        .build(&mut world)
        .and_then(|()| file.playtest(number, &mut world))
        .and_then(|playtest| playtest.run(&mut world, &mut ()));
    let (failure, ticks) = match verdict {
        Ok(verdict) => {
            let failure = verdict.failure.map(|failure| failure::describe(&world, &failure));
            (failure.unwrap_or_default(), verdict.ticks)
        }
        Err(error) => (vec![error.to_string()], world.now().0),
    };
    Report {
        file: file.name(),
        playtest: name,
        passed: failure.is_empty(),
        ticks,
        digest: format!("{:016x}", world.trace().digest()),
        failure,
        time: clock_time(world.rate(), world.now()),
    }
}

fn print(report: &Report<'_>) {
    let (style, word) = if report.passed {
        (anstyle::AnsiColor::Green.on_default(), "passed")
    } else {
        (anstyle::AnsiColor::Red.on_default().bold(), "failed")
    };
    let Report { file, playtest, ticks, time, .. } = report;
    out::print(&format!("{style}{word}{style:#}  {file}: {playtest}  ({time}, {ticks} ticks)\n"));
    for line in &report.failure {
        out::print(&format!("        {line}\n"));
    }
}
