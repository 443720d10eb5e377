//! `stoicheon demo` and `stoicheon play`

use std::sync::Arc;

use stoicheon_core::{Catalogue, TickRate, World};
use stoicheon_files::Wiring;
use stoicheon_script::{Loaded, Project};
use stoicheon_view::{Paint, SeenRecord, TraceFilter, TraceText};

use crate::{
    args::Play,
    json::{self, Finding, PlayLine, Report},
    keep,
    moment::{self, Asked},
    out::{self, Findings, Misuse, Outcome},
    stage::Stage,
};

/// The project that ships with the command: its own file first.
const DEMO: [(&str, &str); 4] = [
    ("canal.stoi", include_str!("../../../demo/canal/canal.stoi")),
    ("lockside.stoi", include_str!("../../../demo/canal/lockside.stoi")),
    ("tunnel.stoi", include_str!("../../../demo/canal/tunnel.stoi")),
    ("shared.stoi", include_str!("../../../demo/canal/shared.stoi")),
];

pub(crate) fn demo() -> Result<Outcome, Misuse> {
    let file = |path: &str| {
        let found = DEMO.iter().find(|(name, _)| *name == path);
        found.map(|(_, text)| (*text).to_owned()).ok_or_else(|| "there is no such file".to_owned())
    };
    let (name, head) = DEMO[0];
    let project = Project::load(name, head, &Catalogue::built_in(), &file);
    let args = Play::default();
    run(&Stage::at(&Wiring::Project(Arc::new(project)), 0, &args.which, false)?, &args)
}

pub(crate) fn play(args: &Play) -> Result<Outcome, Misuse> {
    run(&Stage::of(&args.which, keep::is_taken_up(args))?, args)
}

/// What is played, in a line.
fn title(wiring: &Wiring, part: &Loaded) -> String {
    let (mut objects, mut wires) = part.counts();
    let name = match wiring {
        Wiring::Scene(scene) => scene.scene_name().unwrap_or("a scene without a name").to_owned(),
        Wiring::Project(project) | Wiring::SceneOf(project, _) => {
            (objects, wires) = project
                .parts()
                .map(Loaded::counts)
                .fold((0, 0), |sum, next| (sum.0 + next.0, sum.1 + next.1));
            let scenes = out::plural(project.scenes().len(), "scene");
            return format!(
                "{} ({scenes}, {}, {})",
                project.name(),
                out::plural(objects, "object"),
                out::plural(wires, "wire")
            );
        }
    };
    format!("{name} ({}, {})", out::plural(objects, "object"), out::plural(wires, "wire"))
}

fn run(stage: &Stage, args: &Play) -> Result<Outcome, Misuse> {
    let parts = stage.wiring.parts();
    if parts.is_empty() {
        return Ok(Outcome::Faults);
    }
    let part = stage.loaded();
    let told: Vec<_> = parts.iter().flat_map(|part| Finding::all_of(part)).collect();
    if tell(&stage.wiring, &parts, args) {
        return Ok(Outcome::Faults);
    }
    let mut world = match stage.world() {
        Ok(world) => world,
        Err(error) => {
            out::print(&format!("{}: {error}\n", part.name()));
            return Ok(Outcome::Faults);
        }
    };
    let playtest = stage.playtest();
    let what = playtest.as_ref().map_or_else(String::new, |name| format!(": {name}"));
    if !args.json {
        out::print(&format!("{}{what}\n", title(&stage.wiring, part)));
    }
    keep::take_up(args, &mut world)?;
    let filter = filter(args, world.rate())?;
    let mut text = trace_text(args).only(filter.clone());
    if args.json {
        told.iter().for_each(|finding| json::print_line(&PlayLine::Finding(finding)));
    }
    let (mut printed, mut shown) = (0, false);
    let ran = stage.run(&mut world, &mut |world: &mut World<()>| {
        if args.json {
            printed = records(world, &filter, printed, &mut shown);
        } else {
            let lines = text.new_ticks(world);
            shown |= lines.lines().any(|line| line.starts_with("    "));
            out::print(&lines);
        }
        // Nobody performs them here; the trace has shown them.
        world.take_effects().for_each(drop);
    });
    if !shown && !filter.is_all() {
        out::note("nothing that happened is what was asked for");
    }
    let passed = ran.failure.is_empty() && world.times_broken() == 0;
    let ended = stoicheon_view::clock_time(world.rate(), world.now());
    if args.json {
        let report = Report {
            file: part.name(),
            playtest: playtest.map(|name| name.to_string()),
            seed: stage.seed(),
            passed,
            ticks: ran.ticks,
            digest: format!("{:016x}", world.trace().digest()),
            failure: ran.failure,
            time: ended,
        };
        json::print_line(&PlayLine::Report(&report));
    } else {
        if !ran.failure.is_empty() {
            out::print(&format!("\nfailed\n  {}\n", ran.failure.join("\n  ")));
        }
        out::print(&format!("{}  ({ended}, {} ticks)\n", TraceText::digest(&world), ran.ticks));
    }
    keep::put_aside(args, &world)?;
    Ok(Outcome::of(!passed))
}

/// Tells what is wrong with the wiring; true if it is too broken to be played.
fn tell(wiring: &Wiring, parts: &[&Loaded], args: &Play) -> bool {
    let broken = wiring.broken();
    if args.json {
        for finding in broken.iter().flat_map(|part| Finding::all_of(part)) {
            json::print_line(&PlayLine::Finding(&finding));
        }
        return !broken.is_empty();
    }
    let mut findings = Findings::new(args.all);
    let shown = if broken.is_empty() { parts } else { &broken };
    shown.iter().for_each(|part| findings.of(part));
    findings.end();
    for part in &broken {
        out::print(&format!("{}: {}\n", part.name(), out::count(part.diagnostics())));
    }
    !broken.is_empty()
}

/// Prints the records since the last call, a line each; gives the number of the last one.
fn records(world: &World<()>, filter: &TraceFilter, printed: u64, shown: &mut bool) -> u64 {
    // Another world begins with its first record.
    let printed = if world.trace().len() < printed { 0 } else { printed };
    for (id, record) in world.trace().records_after(printed) {
        if filter.shows(world, (id, &record)) {
            json::print_line(&PlayLine::Record(Box::new(SeenRecord::of(world, id, &record))));
            *shown = true;
        }
    }
    world.trace().len()
}

/// Which part of the trace is printed.
fn filter(args: &Play, rate: TickRate) -> Result<TraceFilter, Misuse> {
    let mut filter = args.only.iter().fold(TraceFilter::new(), |filter, name| filter.about(name));
    if let Some(who) = &args.who {
        filter = filter.by(who);
    }
    for (word, value) in [("--from", &args.from), ("--to", &args.to)] {
        let Some(time) = value else { continue };
        let at = moment::seconds(time).map_err(|_| Misuse::BadWindow(word, time.clone()))?;
        let tick = Asked { at: Some(at), ..Asked::default() }.tick(rate).unwrap_or_default();
        filter = if word == "--from" { filter.from(tick) } else { filter.to(tick) };
    }
    if args.refused {
        filter = filter.refused();
    }
    Ok(if args.effects { filter.effects() } else { filter })
}

/// How the trace is printed.
fn trace_text(args: &Play) -> TraceText {
    let is_coloured = out::coloured() && !args.json;
    let mut text = TraceText::new(if is_coloured { Paint::coloured() } else { Paint::plain() });
    if args.no_places {
        text = text.without_places();
    }
    if args.all {
        text = text.unfolded();
    }
    text
}
