//! `stoicheon demo` and `stoicheon play`

use stoicheon_core::{Catalogue, World, playtest::Playtest, secs};
use stoicheon_script::{Loaded, load};
use stoicheon_view::{Paint, TraceText};

use crate::{
    args::Play,
    failure, files,
    out::{self, Misuse, Outcome},
};

/// The scene that ships with the command.
const DEMO: &str = include_str!("../../../demo/harrow_lock.stoi");

pub(crate) fn demo() -> Result<Outcome, Misuse> {
    run(&load("harrow_lock.stoi", DEMO, &Catalogue::built_in()), None, 10.0, true)
}

pub(crate) fn play(args: &Play) -> Result<Outcome, Misuse> {
    if !(args.seconds > 0.0 && args.seconds <= 86_400.0) {
        return Err(Misuse::BadTime(args.seconds));
    }
    let scenes = files::read(&files::head_of(&args.file)?, &Catalogue::built_in())?;
    let chosen = match &args.scene {
        None => scenes.iter().find(|scene| scene.scene_name().is_some()).or(scenes.first()),
        Some(wanted) => scenes.iter().find(|scene| scene.scene_name() == Some(wanted)),
    };
    let Some(scene) = chosen else {
        let known: Vec<_> = scenes.iter().filter_map(|scene| scene.scene_name()).collect();
        return Err(Misuse::NoScene {
            file: args.file.display().to_string(),
            wanted: args.scene.clone().unwrap_or_default(),
            known: if known.is_empty() { "none".to_owned() } else { known.join(", ") },
        });
    };
    run(scene, args.playtest.as_deref(), args.seconds, !args.no_places)
}

fn run(loaded: &Loaded, playtest: Option<&str>, seconds: f64, places: bool) -> Result<Outcome, Misuse> {
    let number = choose(loaded, playtest)?;
    out::print_diagnostics(loaded);
    if loaded.has_errors() {
        out::print(&format!("{}: {}\n", loaded.name(), out::count(loaded.diagnostics())));
        return Ok(Outcome::Faults);
    }
    let mut world = World::<()>::new();
    let playtest = match build(loaded, number, &mut world) {
        Ok(playtest) => playtest,
        Err(error) => {
            out::print(&format!("{}: {error}\n", loaded.name()));
            return Ok(Outcome::Faults);
        }
    };
    let (objects, wires) = loaded.counts();
    let scene = loaded.scene_name().unwrap_or("a scene without a name");
    let what = playtest.as_ref().map_or_else(String::new, |playtest| format!(": {}", playtest.name));
    out::print(&format!(
        "{scene} ({}, {}){what}\n",
        out::plural(objects, "object"),
        out::plural(wires, "wire")
    ));
    let mut text = TraceText::new(if out::coloured() { Paint::coloured() } else { Paint::plain() });
    if !places {
        text = text.without_places();
    }
    let mut watch = |world: &mut World<()>| {
        out::print(&text.new_ticks(world));
        // Nobody performs them here; the trace has shown them.
        world.effects().for_each(drop);
    };
    let faults = match playtest {
        Some(playtest) => match playtest.run_watched(&mut world, &mut (), &mut watch) {
            Ok(verdict) => verdict.failure.map(|failure| failure::describe(&world, &failure)),
            Err(error) => Some(vec![error.to_string()]),
        },
        None => run_alone(&mut world, seconds, &mut watch),
    };
    if let Some(lines) = &faults {
        out::print(&format!("\nfailed\n  {}\n", lines.join("\n  ")));
    }
    let rate = world.rate();
    let ended = stoicheon_view::clock_time(rate, world.now());
    out::print(&format!("{}  ({ended}, {} ticks)\n", TraceText::digest(&world), world.now().0));
    Ok(Outcome::of(faults.is_some() || world.times_broken() > 0))
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
    for _ in 0..ticks.0 {
        let stepped = world.step(&mut ());
        watch(world);
        if let Err(error) = stepped {
            return Some(vec![error.to_string()]);
        }
    }
    None
}

fn build(
    loaded: &Loaded,
    number: Option<usize>,
    world: &mut World<()>,
) -> Result<Option<Playtest>, stoicheon_core::Error> {
    loaded.build(world)?;
    number.map(|number| loaded.playtest(number, world)).transpose()
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
