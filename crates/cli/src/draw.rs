//! `stoicheon draw`

use std::path::Path;

use stoicheon_core::{ObjectId, Tick, World};
use stoicheon_script::Severity;
use stoicheon_store::write_bytes;
use stoicheon_view::{
    Map, Report, ReportedFinding, ReportedPlaytest, Timeline, WiringGraph, clock_time, png,
};

use crate::{
    args::{Draw, DrawMap, DrawReport, DrawTimeline, DrawWiring, Which},
    moment::Asked,
    out::{self, Misuse, Outcome},
    stage::Stage,
    test,
};

pub(crate) fn draw(args: &Draw) -> Result<Outcome, Misuse> {
    match args {
        Draw::Map(args) => map(args),
        Draw::Wiring(args) => wiring(args),
        Draw::Timeline(args) => timeline(args),
        Draw::Report(args) => report(args),
    }
}

/// What a call names; nothing if it is too broken to be played.
fn staged(which: &Which, asked: &Asked) -> Result<Option<Stage>, Misuse> {
    let stage = Stage::of(which, false)?.lasts(asked.at.unwrap_or(0.0));
    Ok(if stage.is_broken() { None } else { Some(stage) })
}

fn map(args: &DrawMap) -> Result<Outcome, Misuse> {
    let asked = Asked::of(&args.words)?;
    if let Some(word) = asked.what.first().or(asked.who.as_ref()) {
        return Err(Misuse::NoPlace(word.clone(), "draw map"));
    }
    let Some(stage) = staged(&args.which, &asked)? else { return Ok(Outcome::Faults) };
    let mut world = stage.traced()?;
    let wanted = asked.tick(world.rate());
    let title = |world: &World<()>| {
        let playtest = stage.playtest().map_or_else(String::new, |name| format!(": {name}"));
        format!("{}{playtest}, at {}", stage.title(), clock_time(world.rate(), world.now()))
    };
    let make = |title: &str| match (args.above, args.side) {
        (true, _) => Map::new(title).above(),
        (_, true) => Map::new(title).flat(),
        _ => Map::new(title),
    };
    let mut ways = make("");
    let mut drawn = match wanted {
        // Before anything happens, all scenes are there.
        Some(Tick(0)) => {
            let whole = stage.whole()?;
            Some(make(&title(&world)).draw(&whole))
        }
        _ => None,
    };
    stage.run(&mut world, &mut |world| {
        let players: Vec<ObjectId> = world.players().collect();
        if drawn.is_none() {
            ways.note(world, players);
        }
        if drawn.is_none() && wanted.is_some_and(|tick| world.now() >= tick) {
            drawn = Some(ways.clone().titled(&title(world)).draw(world));
        }
        world.take_effects().for_each(drop);
    });
    let svg = match (drawn, asked.at) {
        (Some(svg), _) => svg,
        (None, None) => ways.titled(&title(&world)).draw(&world),
        (None, Some(at)) => {
            let ends = world.rate().seconds(stoicheon_core::ticks(world.now().0)).0;
            return Err(Misuse::PastEnd { at, ends });
        }
    };
    write(&svg, args.output.as_deref())
}

fn wiring(args: &DrawWiring) -> Result<Outcome, Misuse> {
    let Some(stage) = staged(&args.which, &Asked::default())? else { return Ok(Outcome::Faults) };
    // As it is before anything happens: all scenes are there.
    let world = stage.whole()?;
    let title = match &args.around {
        Some(name) => format!("{}, around {name}", stage.title()),
        None => stage.title(),
    };
    let graph = WiringGraph::new(&title);
    let graph = if args.unfolded { graph.unfolded() } else { graph };
    let svg = match &args.around {
        Some(name) => graph
            .draw_around(&world, name, args.depth)
            .map_err(|error| Misuse::NoQuestion(error.to_string()))?,
        None => graph.draw(&world),
    };
    write(&svg, args.output.as_deref())
}

fn timeline(args: &DrawTimeline) -> Result<Outcome, Misuse> {
    let which = Which { playtest: args.of.clone().or(args.which.playtest.clone()), ..args.which.clone() };
    let Some(stage) = staged(&which, &Asked::default())? else { return Ok(Outcome::Faults) };
    let (worlds, _) = stage.run_traced()?;
    let playtest = stage.playtest().map_or_else(String::new, |name| format!(": {name}"));
    let timeline = Timeline::new(&format!("{}{playtest}", stage.title()));
    let mut timeline = worlds.iter().fold(timeline, |timeline, world| timeline.with(world));
    for (word, value) in [("--from", &args.from), ("--to", &args.to)] {
        let Some(time) = value else { continue };
        let seconds = crate::moment::seconds(time).map_err(|_| Misuse::BadWindow(word, time.clone()))?;
        timeline = if word == "--from" { timeline.from(seconds) } else { timeline.to(seconds) };
    }
    write(&timeline.draw(), args.output.as_deref())
}

fn report(args: &DrawReport) -> Result<Outcome, Misuse> {
    if let Some(path) =
        args.output.as_deref().filter(|path| !["html", "htm"].contains(&ending(path).as_str()))
    {
        return Err(Misuse::NoPage(path.to_owned()));
    }
    let Some(stage) = staged(&args.which, &Asked::default())? else { return Ok(Outcome::Faults) };
    let played = stage.playtest().map_or_else(|| "without a playtest".to_owned(), |name| name.to_string());
    let mut report = Report::new(&stage.title()).of(&played).with_wiring(&*stage.whole()?);
    let (worlds, ran) = stage.run_watched(&mut |world| report.note(world))?;
    let mut report = worlds.iter().fold(report, |report, world| report.with_world(world));
    for part in stage.wiring.parts() {
        for found in part.diagnostics() {
            let text = stoicheon_script::render(found, part.sources(), false);
            report = report.with_finding(ReportedFinding::new(found.severity == Severity::Error, text));
        }
    }
    if stage.playtest().is_none() && !ran.failure.is_empty() {
        report =
            report.with_playtest(ReportedPlaytest::new(stage.title(), "without a playtest", ran.failure));
    }
    let mut results = Vec::new();
    test::of_wiring(&stage.written, &mut |result| results.push(test::reported(result)));
    let page = results.into_iter().fold(report, Report::with_playtest).html();
    match args.output.as_deref() {
        Some(path) => {
            write_bytes(path, page.as_bytes()).map_err(|error| Misuse::Unkept(error.to_string()))?;
        }
        None => out::print(&page),
    }
    Ok(Outcome::Good)
}

fn ending(path: &Path) -> String {
    path.extension().and_then(|ending| ending.to_str()).unwrap_or_default().to_lowercase()
}

/// A picture: SVG on standard output or in a file, PNG in a file.
fn write(svg: &str, to: Option<&Path>) -> Result<Outcome, Misuse> {
    let Some(path) = to else {
        out::print(svg);
        out::print("\n");
        return Ok(Outcome::Good);
    };
    let bytes = match ending(path).as_str() {
        "svg" => svg.as_bytes().to_vec(),
        "png" => png(svg).map_err(|error| Misuse::NotDrawn(error.to_string()))?,
        _ => return Err(Misuse::NoPicture(path.to_owned())),
    };
    write_bytes(path, &bytes).map_err(|error| Misuse::Unkept(error.to_string()))?;
    Ok(Outcome::Good)
}
