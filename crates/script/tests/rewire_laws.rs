//! The laws of wiring that takes over, held on what ships and on players who walk by chance.

use std::{
    collections::BTreeSet,
    path::{Path, PathBuf},
    sync::Arc,
};

use rand_pcg::{
    Pcg32,
    rand_core::{Rng as _, SeedableRng as _},
};
use stoicheon_core::{
    Became, Catalogue, Config, Event, Place, Rewired, TraceLevel, Vec3, World,
    playtest::{PlaytestError, PlaytestHost},
};
use stoicheon_script::{Givens, Loaded, Project, is_project, load_with};

use crate::rewire::good;

/// What worlds are made of, and can be made of instead.
#[derive(Clone)]
enum Text {
    Alone(Box<Loaded>),
    Project(Arc<Project>),
}

impl Text {
    fn world(&self) -> World<()> {
        let rate = if let Self::Project(project) = self { project.config() } else { Config::default() };
        let mut world = World::with(rate);
        match self {
            Self::Alone(loaded) => loaded.build(&mut world).unwrap(),
            Self::Project(project) => project.build(&mut world).unwrap(),
        }
        world
    }

    fn take_over(&self, world: &mut World<()>, from: &Self) -> Rewired {
        match (self, from) {
            (Self::Alone(loaded), Self::Alone(from)) => loaded.rewire(world, from).unwrap(),
            (Self::Project(project), Self::Project(from)) => project.rewire(world, from).unwrap(),
            _ => unreachable!("one stays what it is"),
        }
    }

    fn with_given(&self, givens: &Givens) -> Self {
        match self {
            Self::Alone(loaded) => Self::Alone(Box::new(loaded.with_given(givens))),
            Self::Project(project) => Self::Project(Arc::new(project.with_given(givens))),
        }
    }

    fn parts(&self) -> Vec<&Loaded> {
        match self {
            Self::Alone(loaded) => vec![&**loaded],
            Self::Project(project) => project.parts().collect(),
        }
    }
}

/// Lets another text take over every so many ticks, and then the first one again.
struct Again {
    texts: [Text; 2],
    every: u64,
    ticks: u64,
}

impl PlaytestHost<()> for Again {
    fn watch(&mut self, world: &mut World<()>) {
        self.ticks += 1;
        if self.ticks.is_multiple_of(self.every) {
            let [from, to] = &self.texts;
            let rewired = to.take_over(world, from);
            assert_eq!(rewired.changes, [], "nothing is written otherwise");
            self.texts.reverse();
        }
    }

    fn fresh(&mut self) -> Result<World<()>, PlaytestError> {
        Ok(self.texts[0].world())
    }

    fn fresh_game(&mut self) -> Result<(), PlaytestError> {
        Ok(())
    }
}

/// The digest at the end of a playtest during which another text takes over every so many ticks.
fn digest(texts: [Text; 2], part: usize, number: usize, every: u64) -> u64 {
    let givens = texts[0].parts()[part].given_in(number);
    let texts = texts.map(|text| text.with_given(&givens));
    let (mut world, loaded) = (texts[0].world(), texts[0].clone());
    let part = loaded.parts()[part];
    let verdict = part.run_playtest(number, &mut world, &mut (), &mut Again { texts, every, ticks: 0 });
    assert_eq!(verdict.unwrap().failure, None, "{:?}", part.playtests().nth(number));
    world.trace().digest()
}

/// Reads what ships, with so many empty lines before each file's first.
fn shipped(lines: usize) -> Vec<(PathBuf, Text)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    let read = |path: &Path| {
        let text = std::fs::read_to_string(path).map_err(|error| error.to_string())?;
        Ok::<_, String>("\n".repeat(lines) + &text)
    };
    let mut all = Vec::new();
    for folder in [
        "tests/scenes",
        "../../cookbook",
        "../../demo",
        "../../cookbook/05_tunnel",
        "../../cookbook/27_passages",
    ] {
        let folder = root.join(folder);
        let mut paths: Vec<_> =
            std::fs::read_dir(&folder).unwrap().map(|entry| entry.unwrap().path()).collect();
        paths.sort();
        for path in paths.into_iter().filter(|path| path.extension().is_some_and(|ending| ending == "stoi")) {
            let text = read(&path).unwrap();
            let name = path.file_name().unwrap().to_str().unwrap();
            let read = |name: &str| read(&folder.join(name));
            if is_project(&text) {
                let project = Project::load(name, &text, &Catalogue::built_in(), &read);
                assert!(!project.has_errors(), "{}", path.display());
                all.push((path, Text::Project(Arc::new(project))));
            } else {
                let loaded = load_with(name, &text, &Catalogue::built_in(), &read);
                // A scene of a project speaks of what it shares with the others.
                if !loaded.has_errors() {
                    all.push((path, Text::Alone(Box::new(loaded))));
                }
            }
        }
    }
    all
}

#[test]
fn the_same_text_changes_no_digest_however_often_it_takes_over() {
    let mut run = 0;
    for ((path, text), (_, moved)) in shipped(0).into_iter().zip(shipped(3)) {
        for (index, part) in text.parts().into_iter().enumerate() {
            for number in 0..part.playtests().count() {
                let plain = digest([text.clone(), text.clone()], index, number, u64::MAX);
                let often = digest([text.clone(), moved.clone()], index, number, 17);
                assert_eq!(plain, often, "{path:?}, {:?}", part.playtests().nth(number));
                run += 1;
            }
        }
    }
    assert!(run > 60, "{run}");
}

/// What stands at a station; the names of all its things end with its number.
const STATION: &str = "
signal called_N
effect say_N(words: text)
routine greet_N(times: whole) { wait 0.5s; perform say_N(\"{times}\") }
object pad_N at (X, 0, 0) { zone box (3, 2, 3) admits player }
object gate_N at (X, 0, 4) tags tall_N {
  door { slide (0, 2, 0) over 1s; stays 2s }
  prompt \"Open\" key use, reach 6
}
object bell_N at (X, 0, 8) { var rung: whole = 0; signal rang(times: whole) }
object clock_N tags tall_N { timer every 0.7s }
object lamp_N at (X, 3, 0) { var lit: boolean = false }
on pad_N.entered order 1 while running queue {
  wait 0.4s
  bell_N.rung += 1
  emit bell_N.rang(bell_N.rung)
}
on pad_N.left { wait until gate_N is open; perform say_N(\"mind\"); emit called_N }
on gate_N.answered cooldown 1s { open gate_N }
on every tall_N.opened { do greet_N(1) }
on clock_N.struck when bell_N.rung > 1 { bell_N.rung -= 1 }
bind lamp_N.lit = gate_N is open
never bell_N.rung > 30
";

/// Of the second station alone: what is made while the world runs would be numbered otherwise.
const BOATS: &str = "
mould boat_1 { var age: whole = 0; on clock_1.struck { own.age += 1 } }
on bell_1.rang times 3 { spawn boat_1 at bell_1 }
";

fn stations() -> String {
    let station = |n: usize| STATION.replace("_N", &format!("_{n}")).replace('X', &(n * 20).to_string());
    format!("{}{}{BOATS}{}{}", station(0), station(1), station(2), station(3))
}

/// What is written otherwise of the second station, and what is written instead.
const CHANGES: &[(&str, &str)] = &[
    ("pad_1 at (20, 0, 0)", "pad_1 at (21, 0, 0)"),
    ("pad_1 at (20, 0, 0) { zone box (3, 2, 3)", "pad_1 at (20, 0, 0) { zone box (1, 2, 1)"),
    ("pad_1 at (20, 0, 0) { zone box (3, 2, 3) admits player", "pad_1 at (20, 0, 0) { zone ball 2"),
    (
        "tags tall_1 {\n  door { slide (0, 2, 0) over 1s; stays 2s }",
        "tags tall_1 {\n  door { slide (0, 2, 0) over 0.3s; stays 1s }",
    ),
    ("tags tall_1 {\n  door { slide (0, 2, 0)", "tags tall_1, wide_1 {\n  door { slide (0, 3, 0)"),
    ("clock_1 tags tall_1", "clock_1"),
    ("reach 6\n}\nobject bell_1", "reach 6, hold 0.2s\n}\nobject bell_1"),
    (
        "bell_1 at (20, 0, 8) { var rung: whole = 0;",
        "bell_1 at (20, 0, 8) { var rung: whole = 3; var cracked: boolean = false;",
    ),
    ("clock_1 tags tall_1 { timer every 0.7s }", "clock_1 tags tall_1 { timer every 1.1s }"),
    ("clock_1 tags tall_1 { timer every 0.7s }", "clock_1 tags tall_1 { timer every 0.7s; switch }"),
    ("wait 0.4s\n  bell_1.rung += 1", "wait 0.1s\n  bell_1.rung += 2"),
    (
        "on pad_1.entered order 1 while running queue",
        "on pad_1.entered by player order 5 while running restart",
    ),
    (
        "on gate_1.answered cooldown 1s { open gate_1 }",
        "on pad_1.entered { perform say_1(\"new\") }\non gate_1.answered { open gate_1 }",
    ),
    ("on bell_1.rang times 3 { spawn boat_1 at bell_1 }", ""),
    ("on clock_1.struck { own.age += 1 }", "on clock_1.struck { own.age += 2 }"),
    ("var age: whole = 0; on clock_1", "var age: whole = 9; var named_1: text = \"x\"; on clock_1"),
    ("wait 0.5s; perform say_1", "wait 0.9s; perform say_1"),
    ("bind lamp_1.lit = gate_1 is open", "bind lamp_1.lit = gate_1 is closed"),
    ("never bell_1.rung > 30", "never bell_1.rung > 2"),
    (
        "object lamp_1 at (20, 3, 0) {",
        "object post_1 { zone ball 3 }\nobject lamp_1 at (20, 3, 1) disabled {",
    ),
    (
        "object lamp_1 at (20, 3, 0) {",
        "spot quay_1 at (20, 0, 1)\nmanager keeper_1 { var hours: whole = 0 }\nobject lamp_1 of gate_1 at (1, 3, 0) {",
    ),
    ("signal called_1", "signal called_1\nsignal hailed_1(loud: number)"),
];

/// What of a world's trace is not of the second station.
fn of_others(world: &World<()>, loaded: &Loaded) -> Vec<String> {
    let mine = |name: &str| name.contains("_1");
    let mut ids: Vec<String> = Vec::new();
    for object in world.objects().filter(|object| world.name(*object).is_some_and(mine)) {
        ids.push(format!("{object:?}"));
        ids.extend(world.parts_of(object).iter().map(|part| format!("{part:?}")));
    }
    let (text, mut own, mut others) = (loaded.sources().get(0).unwrap().text(), BTreeSet::new(), Vec::new());
    let line = |place: &Place| text.lines().nth(place.line as usize - 1).is_some_and(mine);
    for (id, record) in world.trace().records() {
        let mut told = format!("{:?}", record.event);
        // How many records there were before it is no more than a number of all of them.
        if let Some(at) = told.find(", after: ") {
            told.truncate(at);
        }
        let named = match &record.event {
            Event::Rewired => true,
            Event::Delivered { signal, .. } => world.signal_name(*signal).is_some_and(mine),
            Event::Set { var, .. } | Event::Kept { var, .. } => world.var_name(*var).is_some_and(mine),
            Event::Broken { rule } => world.rule(*rule).is_some_and(|(_, place)| line(place)),
            Event::Destroyed { name, .. } => mine(name),
            _ => false,
        };
        let caused = record.cause.is_some_and(|cause| own.contains(&cause));
        if named || caused || ids.iter().any(|id| told.contains(id.as_str())) {
            own.insert(id);
        } else {
            others.push(format!("{:?} {:?} {told}", record.tick, record.phase));
        }
    }
    others
}

/// Two players who walk from station to station and press a key now and then, always in the same way for a seed.
fn walk_about(world: &mut World<()>, seed: u64, ticks: u64, mut at: impl FnMut(&mut World<()>, u64)) {
    let mut pick = Pcg32::seed_from_u64(seed);
    let places =
        [0.0_f32, 20.0, 40.0, 60.0].map(|x| [Vec3::new(x, 0.0, 0.5), Vec3::new(x, 0.0, 6.0)]).concat();
    let players: Vec<_> = ["ada", "cem"].map(|name| world.player(name).add().unwrap()).to_vec();
    for tick in 0..ticks {
        for who in &players {
            match pick.next_u32() % 40 {
                0 => {
                    let to = places[pick.next_u32() as usize % places.len()];
                    world.walk(*who, to, 24.0).unwrap();
                }
                1..4 => world.press(*who, "use").unwrap(),
                4..6 => world.release(*who, "use").unwrap(),
                _ => {}
            }
        }
        at(world, tick);
        world.step(&mut ()).unwrap();
    }
}

#[test]
fn a_change_in_one_object_leaves_every_other_record_as_it_was() {
    let before = good(&stations());
    let world = || {
        let mut world = World::with(Config { kept: 1 << 20, ..Config::default() });
        before.build(&mut world).unwrap();
        world
    };
    let (mut waited, mut began_again) = (0, 0);
    for (number, (old, new)) in CHANGES.iter().enumerate() {
        assert_eq!(stations().matches(old).count(), 1, "{old}");
        let after = good(&stations().replace(old, new));
        let seed = number as u64;
        let mut plain = world();
        walk_about(&mut plain, seed, 600, |_, _| {});
        let mut changed = world();
        walk_about(&mut changed, seed, 600, |world, tick| {
            if tick == 300 + seed * 7 {
                let rewired = after.rewire(world, &before).unwrap();
                assert_ne!(rewired.changes, [], "{new}");
                assert!(
                    rewired.changes.iter().all(|change| change.place.is_some() || change.name.contains("_1"))
                );
                waited += rewired.kept.waits;
                began_again += rewired
                    .changes
                    .iter()
                    .filter(|c| matches!(c.became, Became::Again { waits: 1.. }))
                    .count();
            }
        });
        let (plain, changed) = (of_others(&plain, &before), of_others(&changed, &after));
        let differs = plain.iter().zip(&changed).position(|(plain, changed)| plain != changed);
        assert_eq!(
            differs,
            None,
            "{new}\n{:?}\n{:?}",
            differs.map(|at| &plain[at]),
            differs.map(|at| &changed[at])
        );
        assert_eq!(plain.len(), changed.len(), "{new}");
        assert!(plain.len() > 500, "{}", plain.len());
    }
    assert!(waited > 20 && began_again > 0, "{waited} {began_again}");
}

/// The pieces of a text that begin at the left edge.
fn pieces(text: &str) -> Vec<&str> {
    let mut starts: Vec<usize> = Vec::new();
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        if line.starts_with(|c: char| c.is_alphabetic()) {
            starts.push(at);
        }
        at += line.len();
    }
    let ends = starts.iter().skip(1).copied().chain([text.len()]);
    starts.iter().zip(ends).map(|(start, end)| &text[*start..end]).collect()
}

/// A piece with other numbers in it.
fn with_other_numbers(piece: &str) -> String {
    let mut before = ' ';
    let other = piece.chars().map(|c| {
        let digit = c.to_digit(10).filter(|_| !(before.is_alphanumeric() || before == '_' || before == '.'));
        before = c;
        digit.map_or(c, |digit| char::from_digit(digit % 8 + 1, 10).unwrap_or(c))
    });
    other.collect()
}

#[test]
fn what_has_taken_over_before_the_first_tick_is_as_if_it_had_been_there_from_the_start() {
    let (mut ran, mut missing) = (0, 0);
    for (path, text) in shipped(0) {
        let Text::Alone(after) = &text else { continue };
        let (name, whole) = (after.name(), std::fs::read_to_string(&path).unwrap());
        let playtests = after.playtests().count();
        let folder = path.parent().unwrap();
        let read = |name: &str| std::fs::read_to_string(folder.join(name)).map_err(|error| error.to_string());
        for (number, piece) in pieces(&whole).into_iter().enumerate() {
            if playtests == 0 || piece.starts_with("playtest") {
                continue;
            }
            let playtest = number % playtests;
            // Each piece is missing, or has other numbers in it.
            let others = [String::new(), with_other_numbers(piece)];
            for other in &others[number % 2..=number % 2] {
                let before = load_with(name, &whole.replacen(piece, other, 1), &Catalogue::built_in(), &read);
                if before.has_errors() || before.scene_name() != after.scene_name() {
                    missing += 1;
                    continue;
                }
                let givens = after.given_in(playtest);
                let (before, after) = (before.with_given(&givens), after.with_given(&givens));
                if before.has_errors() {
                    // What the playtest gives a value to is the piece that is missing.
                    missing += 1;
                    continue;
                }
                let mut world = World::new();
                // The piece was not there from the start, or was taken away and is back.
                if number % 4 < 2 {
                    before.build(&mut world).unwrap();
                } else {
                    after.build(&mut world).unwrap();
                    before.rewire(&mut world, &after).unwrap();
                }
                let rewired = after.rewire(&mut world, &before).unwrap();
                let texts = [Text::Alone(Box::new(after.clone())), Text::Alone(Box::new(after.clone()))];
                let mut host = Again { texts, every: u64::MAX, ticks: 0 };
                let verdict = after.run_playtest(playtest, &mut world, &mut (), &mut host).unwrap();
                assert_eq!(verdict.failure, None, "{}: {piece}\n{rewired}", path.display());
                ran += 1;
            }
        }
    }
    assert!(ran > 150, "{ran} {missing}");
}

#[test]
fn what_is_recorded_makes_no_difference_to_what_happens() {
    let before = good(&stations());
    let after = good(
        &stations()
            .replace("pad_1 at (20, 0, 0)", "pad_1 at (21, 0, 0)")
            .replace("wait 0.5s; perform say_1", "wait 0.9s; perform say_1"),
    );
    let ends = [TraceLevel::Full, TraceLevel::Counts, TraceLevel::Off].map(|trace| {
        let mut world = World::with(Config { trace, ..Config::default() });
        before.build(&mut world).unwrap();
        walk_about(&mut world, 3, 300, |world, tick| {
            if tick == 200 {
                after.rewire(world, &before).unwrap();
            }
        });
        let places: Vec<_> = world.objects().map(|object| world.place(object).unwrap()).collect();
        let values: Vec<_> = world.vars().map(|var| world.value(var).unwrap().clone()).collect();
        (places, values, world.waiting())
    });
    assert!(ends[0] == ends[1] && ends[1] == ends[2]);
}
