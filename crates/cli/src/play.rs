//! `stoicheon demo` and `stoicheon play`

use std::sync::Arc;

use stoicheon_core::{Catalogue, World, secs};
use stoicheon_files::{self as files, Fresh, Projects, Wiring};
use stoicheon_script::{Givens, Loaded, Project};
use stoicheon_view::{Paint, TraceText};

use crate::{
    args::Play,
    json::{self, Finding, Played, Report},
    keep,
    out::{self, Findings, Misuse, Outcome},
};

/// The project that ships with the command: its own file first.
const DEMO: [(&str, &str); 4] = [
    ("canal.stoi", include_str!("../../../demo/canal/canal.stoi")),
    ("lockside.stoi", include_str!("../../../demo/canal/lockside.stoi")),
    ("tunnel.stoi", include_str!("../../../demo/canal/tunnel.stoi")),
    ("shared.stoi", include_str!("../../../demo/canal/shared.stoi")),
];

/// How long a scene runs alone, in seconds.
const ALONE: f64 = 10.0;

pub(crate) fn demo() -> Result<Outcome, Misuse> {
    let file = |path: &str| {
        let found = DEMO.iter().find(|(name, _)| *name == path);
        found.map(|(_, text)| (*text).to_owned()).ok_or_else(|| "there is no such file".to_owned())
    };
    let (name, head) = DEMO[0];
    let project = Project::load(name, head, &Catalogue::built_in(), &file);
    run(&Wiring::Project(Arc::new(project)), 0, &Play::default())
}

pub(crate) fn play(args: &Play) -> Result<Outcome, Misuse> {
    let seconds = args.seconds.unwrap_or(ALONE);
    if !(seconds > 0.0 && seconds <= 86_400.0) {
        return Err(Misuse::BadTime(seconds));
    }
    let head = files::head_of(&args.file)?;
    let mut wiring = files::read_in_project(&head, &Catalogue::built_in(), &mut Projects::default())?;
    if let (Wiring::SceneOf(project, _), Some(_)) = (&wiring, &args.scene) {
        wiring = Wiring::Project(project.clone());
    }
    let parts = wiring.parts();
    let has_playtest = |part: &&&Loaded| part.playtests().next().is_some();
    let chosen = match &args.scene {
        None => parts.iter().find(has_playtest).or(parts.last()),
        Some(wanted) => parts.iter().find(|part| part.scene_name() == Some(wanted)),
    };
    let Some(part) = chosen else {
        let known: Vec<_> = parts.iter().filter_map(|part| part.scene_name()).collect();
        return Err(Misuse::NoScene {
            file: args.file.display().to_string(),
            wanted: args.scene.clone().unwrap_or_default(),
            known: if known.is_empty() { "none".to_owned() } else { known.join(", ") },
        });
    };
    let part = parts.iter().position(|other| std::ptr::eq(*other, *part)).unwrap_or(0);
    run(&wiring, part, args)
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

/// The values that the call gives to constants.
fn givens(args: &Play) -> Result<Givens, Misuse> {
    let mut givens = Givens::new();
    for given in &args.given {
        givens = givens.written(given).map_err(|error| Misuse::NotGiven(error.to_string()))?;
    }
    Ok(givens)
}

fn run(wiring: &Wiring, part: usize, args: &Play) -> Result<Outcome, Misuse> {
    let Some(written) = wiring.parts().get(part).copied() else { return Ok(Outcome::Faults) };
    // A world that was taken up has its players already.
    let is_alone = args.alone || keep::is_taken_up(args);
    let number = if is_alone { None } else { choose(written, args.playtest.as_deref())? };
    let for_playtest = number.map_or_else(|| wiring.clone(), |number| wiring.for_playtest(part, number));
    let wiring = &for_playtest.with_given(&givens(args)?);
    let parts = wiring.parts();
    let part = parts[part];
    if number.is_some() && args.seconds.is_some() {
        return Err(Misuse::ForPlaytest { file: part.name().to_owned() });
    }
    let told: Vec<_> = parts.iter().flat_map(|part| Finding::all_of(part)).collect();
    if tell(wiring, &parts, args) {
        return Ok(Outcome::Faults);
    }
    let seed = number.and_then(|number| wiring.seeds(part, number).first().copied().flatten());
    let mut world = match wiring.world(seed) {
        Ok(world) => world,
        Err(error) => {
            out::print(&format!("{}: {error}\n", part.name()));
            return Ok(Outcome::Faults);
        }
    };
    let playtest = number.and_then(|number| part.playtests().nth(number));
    let what = playtest.as_ref().map_or_else(String::new, |name| format!(": {name}"));
    if !args.json {
        out::print(&format!("{}{what}\n", title(wiring, part)));
    }
    keep::take_up(args, &mut world)?;
    let mut text = trace_text(args);
    let mut trace = Vec::new();
    let mut watch = |world: &mut World<()>| {
        let lines = text.new_ticks(world);
        if args.json {
            trace.extend(lines.lines().map(str::to_owned));
        } else {
            out::print(&lines);
        }
        // Nobody performs them here; the trace has shown them.
        world.take_effects().for_each(drop);
    };
    let before = world.now();
    let (faults, ticks) = match number {
        Some(number) => {
            let fresh = Fresh { world: &|| wiring.world(seed), game: &|| () };
            let ran = files::run(part, number, &mut world, &mut (), fresh, &mut watch);
            (Some(ran.failure).filter(|failure| !failure.is_empty()), ran.ticks)
        }
        None => {
            let faults = run_alone(&mut world, args.seconds.unwrap_or(ALONE), &mut watch);
            (faults, world.now().0.saturating_sub(before.0))
        }
    };
    let passed = faults.is_none() && world.times_broken() == 0;
    let rate = world.rate();
    let ended = stoicheon_view::clock_time(rate, world.now());
    if args.json {
        let report = Report {
            file: part.name(),
            playtest: playtest.map(|name| name.to_string()),
            seed,
            passed,
            ticks,
            digest: format!("{:016x}", world.trace().digest()),
            failure: faults.unwrap_or_default(),
            time: ended,
        };
        json::print(&Played { findings: told, report: Some(report), trace });
    } else {
        if let Some(lines) = &faults {
            out::print(&format!("\nfailed\n  {}\n", lines.join("\n  ")));
        }
        out::print(&format!("{}  ({ended}, {ticks} ticks)\n", TraceText::digest(&world)));
    }
    keep::put_aside(args, &world)?;
    Ok(Outcome::of(!passed))
}

/// Tells what is wrong with the wiring; true if it is too broken to be played.
fn tell(wiring: &Wiring, parts: &[&Loaded], args: &Play) -> bool {
    let broken = wiring.broken();
    if args.json {
        if !broken.is_empty() {
            let findings = broken.iter().flat_map(|part| Finding::all_of(part)).collect();
            json::print(&Played { findings, report: None, trace: Vec::new() });
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

fn run_alone(
    world: &mut World<()>,
    seconds: f64,
    watch: &mut dyn FnMut(&mut World<()>),
) -> Option<Vec<String>> {
    let ticks = match world.rate().ticks(secs(seconds)) {
        Ok(ticks) => ticks,
        Err(error) => return Some(vec![error.to_string()]),
    };
    for _ in 0..ticks.whole() {
        let stepped = world.step(&mut ());
        watch(world);
        if let Err(error) = stepped {
            return Some(vec![error.to_string()]);
        }
    }
    None
}

/// The playtest that was asked for: by name, by number from 1, or the first.
fn choose(loaded: &Loaded, wanted: Option<&str>) -> Result<Option<usize>, Misuse> {
    let names: Vec<_> = loaded.playtests().collect();
    let Some(wanted) = wanted else { return Ok((!names.is_empty()).then_some(0)) };
    let by_number = wanted.parse::<usize>().ok().and_then(|number| number.checked_sub(1));
    let by_name = names.iter().position(|name| *name == wanted);
    match by_name.or(by_number.filter(|number| *number < names.len())) {
        Some(number) => Ok(Some(number)),
        None => Err(Misuse::NoPlaytest {
            file: loaded.name().to_owned(),
            wanted: wanted.to_owned(),
            known: if names.is_empty() {
                "none".to_owned()
            } else {
                names.iter().map(|name| format!("\"{name}\"")).collect::<Vec<_>>().join(", ")
            },
        }),
    }
}
