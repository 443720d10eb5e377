//! The wiring language: reading and building a big project, a wire from a file against one in Rust, and sequences that
//! wait.

use std::{fmt::Write, hint::black_box};

use stoicheon::{
    Config, World,
    catalogue::Catalogue,
    payload,
    plan::{Expr, Step, Steps, Target},
    script, secs,
    trace::TraceLevel,
};

use crate::{Ratios, Timed};

/// How many objects and how many wires the project has.
const SIZE: usize = 10_000;

payload! {
    struct Rung { strokes: u32 }
}

/// A generated project of 14 lines for each object and its wire.
pub(crate) fn project(size: usize) -> String {
    let mut text = String::from("scene long_canal\n\nvar level: number = 0.4\nvar passages: whole = 0\n\n");
    text.push_str("signal rung(strokes: whole)\neffect bell(strokes: whole)\n\n");
    for number in 0..size {
        let (x, z) = (number % 100, number / 100);
        let _ = write!(
            text,
            "object gate_{number} at ({x}, 0, {z}) tags gate {{\n  door {{ swing 85deg about y, over 2.5s }}\n  \
             var lit: boolean = false\n}}\n\n"
        );
        let next = (number * 7 + 1) % size;
        let _ = write!(
            text,
            "on gate_{number}.opened by keeper\n  when gate_{next} is closed and level > 0.95\n{{\n  \
             emit rung({})\n  gate_{number}.lit = true\n  wait 2s\n  close gate_{number}\n}}\n\n",
            number % 9
        );
    }
    text.push_str("on rung { perform bell(strokes); passages += 1 }\n");
    text
}

/// The same with a slip in each line that has more than a brace.
fn with_slips(text: &str) -> String {
    const SLIPS: [(&str, &str); 9] = [
        ("tags gate", "tgas gate"),
        ("over 2.5s", "ovr 2.5s"),
        ("boolean", "boolaen"),
        (".opened", ".opend"),
        ("is closed", "is closd"),
        ("emit rung", "emit rnug"),
        (".lit =", ".lti ="),
        ("wait 2s", "wiat 2s"),
        ("close gate", "clsoe gate"),
    ];
    SLIPS.iter().fold(text.to_owned(), |text, (right, slip)| text.replace(right, slip))
}

/// How many errors are found.
fn check(text: &str) -> usize {
    let loaded = script::load("long_canal.stoi", text, &Catalogue::built_in());
    loaded.diagnostics().iter().filter(|found| found.severity == script::Severity::Error).count()
}

fn build(text: &str) -> World<()> {
    let loaded = script::load("long_canal.stoi", text, &Catalogue::built_in());
    assert!(!loaded.has_errors());
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    world
}

/// The lines of a file that is saved.
const LINES: usize = 1_000;

fn project_of_lines(lines: usize) -> String {
    project(lines / 14)
}

/// A text of so many lines is read, is checked and takes over in a world that runs; each time with another number in it.
fn rewiring(lines: usize) -> Timed<'static> {
    let text = project_of_lines(lines);
    let texts = [text.replacen("over 2.5s", "over 3.5s", 1), text];
    let read = |text: &str| script::load("long_canal.stoi", text, &Catalogue::built_in());
    let (mut world, mut before, mut times) = (build(&texts[1]), read(&texts[1]), 0);
    Timed::new(1, move || {
        world.step(&mut ()).unwrap();
        let after = read(&texts[times % 2]);
        let rewired = after.rewire(&mut world, &before).unwrap();
        assert_eq!(rewired.changes.len(), 1);
        (before, times) = (after, times + 1);
    })
}

fn quiet() -> World<u64> {
    World::with(Config { trace: TraceLevel::Off, ..Config::default() })
}

/// How many times the signal comes in one round.
const TIMES: u32 = 256;

/// A world with a wire, and what rings it so many times.
fn ringing(wire: impl FnOnce(&mut World<u64>)) -> Timed<'static> {
    let mut world = quiet();
    wire(&mut world);
    let rung = world.declare_signal::<Rung>("rung").unwrap();
    let mut game = 0;
    Timed::new(TIMES, move || {
        for _ in 0..TIMES {
            world.emit(rung, Rung { strokes: 2 }).unwrap();
        }
        world.step(&mut game).unwrap();
        black_box(game);
    })
}

/// The guard has three comparisons, and the reaction two statements.
fn from_file(world: &mut World<u64>) {
    let text = "var level: number = 0.5
        var total: whole = 0
        var last: whole = 0
        signal rung(strokes: whole)
        on rung when strokes > 0 and level > 0.1 and level < 0.9 { total = strokes + 1; last = strokes }";
    let loaded = script::load("wire.stoi", text, &Catalogue::built_in());
    assert!(!loaded.has_errors());
    loaded.build(world).unwrap();
}

fn from_rust(world: &mut World<u64>) {
    let level = world.var("level", 0.5).unwrap();
    let total = world.var("total", 0_i64).unwrap();
    let last = world.var("last", 0_i64).unwrap();
    let rung = world.declare_signal::<Rung>("rung").unwrap();
    world
        .on(rung)
        .when_fn("the level is right", move |_, rung, state| {
            let level = state.value(level).ok().and_then(stoicheon::Value::as_number).unwrap_or_default();
            rung.strokes > 0 && level > 0.1 && level < 0.9
        })
        .run(move |_, rung, cx| {
            cx.set(total, rung.strokes + 1)?;
            cx.set(last, rung.strokes)
        })
        .unwrap();
}

/// A world in which so many sequences wait, each for another time, and what runs a tick of it in which none is due.
fn waiting(count: u32) -> Timed<'static> {
    let mut world = quiet();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let total = world.var("total", 0_i64).unwrap();
    for number in 0..count {
        let up = Step::Set { target: Target::Var(total), to: Expr::var(total).plus(1_i64) };
        let steps = Steps::new().wait(secs(1e6 + f64::from(number))).step(up);
        world.on(bell).run_steps(steps).unwrap();
    }
    world.emit(bell, ()).unwrap();
    world.step(&mut 0).unwrap();
    assert_eq!(world.waiting(), count as usize);
    Timed::new(64, move || (0..64).for_each(|_| world.step(&mut 0).unwrap()))
}

pub(crate) fn rows(ratios: &mut Ratios) {
    ratios.row(
        "language.data_wire",
        2.3,
        ringing(from_file),
        "the same as a Rust closure",
        ringing(from_rust),
    );
    ratios.row("waiting.10k", 1.2, waiting(10_000), "a tick with nobody waiting", waiting(0));

    let text = project(SIZE);
    let json = script::to_json(&text).unwrap();
    println!(
        "{:<28} {} lines, {} MB of text, {} MB of JSON",
        "",
        text.lines().count(),
        text.len() / 1_000_000,
        json.len() / 1_000_000
    );
    let ours = Timed::new(1, move || {
        black_box(build(&text));
    });
    let theirs = Timed::new(1, move || {
        black_box(serde_json::from_str::<serde_json::Value>(&json).unwrap());
    });
    let all = std::mem::replace(&mut ratios.rounds, 15);
    ratios.row("language.build", 2.5, ours, "serde_json reads its JSON form", theirs);
    let whole = project_of_lines(LINES * 10);
    let again = Timed::new(1, move || {
        black_box(build(&whole));
    });
    ratios.row(
        "language.rewire",
        2.0,
        rewiring(LINES * 10),
        "the same text begins again in a new world",
        again,
    );
    // What is left of 150 ms after the pause in which an editor may write more, and a frame of the page.
    let left = Timed::new(1, || {}).and((150.0 - 40.0 - 1000.0 / 60.0) * 1e6);
    ratios.row("language.saved", 1.0, rewiring(LINES), "what is left of 150 ms", left);
    let good = project(SIZE / 10);
    let faulty = with_slips(&good);
    assert!(check(&good) == 0 && check(&faulty) > SIZE / 10 * 7);
    let slips = Timed::new(1, move || {
        black_box(check(&faulty));
    });
    let none = Timed::new(1, move || {
        black_box(check(&good));
    });
    let (long, again) = (project(SIZE), project(SIZE));
    let finds = Timed::new(1, move || {
        let unread = |path: &str| Err(format!("no {path}"));
        let loaded = script::load_noting("long_canal.stoi", &long, &Catalogue::built_in(), &unread);
        let found: usize = loaded.index().find("gate_7").map(|thing| thing.places.len()).sum();
        assert!(black_box(found) > 3);
    });
    let checks = Timed::new(1, move || {
        let loaded = script::load("long_canal.stoi", &again, &Catalogue::built_in());
        black_box(loaded.checked_in_place());
    });
    ratios.row("language.find", 1.0, finds, "the same text checked, in its place too", checks);
    ratios.row("language.slips", 20.0, slips, "the same text without the slips", none);
    ratios.rounds = all;
}
