//! How much more work twice the objects are: instructions counted by callgrind, not time, so that a noisy machine changes
//! nothing.
//!
//! `cargo bench -p stoicheon-benches --bench growth` runs each case with 1,000 objects and with 10,000, in a process of
//! its own under `valgrind --tool=callgrind`, which counts only what happens inside [`measured`]. The count per object may
//! grow by a quarter. A name as an argument runs the cases whose names contain it. Exits with 1 if a bar is missed, with
//! 2 if valgrind is not there.

#![allow(clippy::print_stdout, clippy::print_stderr, reason = "a benchmark prints what it measured")]
#![allow(clippy::unwrap_used, reason = "a benchmark fails by panicking")]

mod cases;

use std::{
    env, fs,
    hint::black_box,
    process::{Command, ExitCode, Stdio},
    thread,
};

/// The most the count per object may grow from few objects to many.
const BAR: f64 = 1.25;
const FEW: u32 = 1_000;
const MANY: u32 = 10_000;

/// The work of a case is done in here; callgrind counts from its call to its return.
#[inline(never)]
fn measured(work: Box<dyn FnOnce()>) {
    work();
    black_box(());
}

fn main() -> ExitCode {
    let args: Vec<String> = env::args().skip(1).filter(|arg| arg != "--bench").collect();
    if let [flag, name, size] = &args[..]
        && flag == "--case"
    {
        let case = cases::ALL.iter().find(|case| case.name == name).unwrap();
        measured((case.prepare)(size.parse().unwrap()));
        return ExitCode::SUCCESS;
    }
    if Command::new("valgrind").arg("--version").stdout(Stdio::null()).status().is_err() {
        eprintln!("error: `valgrind` counts the instructions, and is not installed");
        eprintln!("help: apt-get install valgrind");
        return ExitCode::from(2);
    }
    let asked =
        |case: &&cases::Case| args.is_empty() || args.iter().any(|arg| case.name.contains(arg.as_str()));
    let cases: Vec<_> = cases::ALL.iter().filter(asked).collect();
    let missed: Vec<&str> =
        rows(&cases).into_iter().filter(|(_, holds)| !holds).map(|(name, _)| name).collect();
    println!(
        "{}",
        if missed.is_empty() { "all hold".into() } else { format!("missed: {}", missed.join(", ")) }
    );
    ExitCode::from(u8::from(!missed.is_empty()))
}

/// Counts two cases at a time, prints a row for each, and says whether its bar holds.
fn rows(cases: &[&'static cases::Case]) -> Vec<(&'static str, bool)> {
    let mut rows = Vec::new();
    for pair in cases.chunks(2) {
        let counts: Vec<_> = thread::scope(|scope| {
            let counting: Vec<_> = pair.iter().map(|case| scope.spawn(|| per_object(case.name))).collect();
            counting.into_iter().map(|counting| counting.join().unwrap()).collect()
        });
        for (case, [few, many]) in pair.iter().zip(counts) {
            let growth = many / few;
            let verdict = if growth <= BAR { "holds" } else { "MISSED" };
            println!(
                "{:<20} {growth:>5.2}  {many:>10.0} instructions per object for {few:>10.0}  ≤ {BAR} {verdict}",
                case.name
            );
            rows.push((case.name, growth <= BAR));
        }
    }
    rows
}

/// The instructions per object of a case, of few and of many.
fn per_object(name: &str) -> [f64; 2] {
    [FEW, MANY].map(|size| instructions(name, size) / f64::from(size))
}

/// The instructions of a case with so many objects.
fn instructions(name: &str, size: u32) -> f64 {
    let out = env::temp_dir().join(format!("stoicheon-growth-{}-{name}", std::process::id()));
    let run = Command::new("valgrind")
        .args(["--quiet", "--tool=callgrind", "--toggle-collect=*measured*", "--collect-atstart=no"])
        .arg(format!("--callgrind-out-file={}", out.display()))
        .arg(env::current_exe().unwrap())
        .args(["--case", name, &size.to_string()])
        .output()
        .unwrap();
    assert!(run.status.success(), "{name} with {size}: {}", String::from_utf8_lossy(&run.stderr));
    let counts = fs::read_to_string(&out).unwrap();
    fs::remove_file(&out).unwrap();
    let total = counts.lines().find_map(|line| line.strip_prefix("totals: ")).unwrap();
    let total: f64 = total.trim().parse().unwrap();
    assert!(total > 0.0, "nothing was counted in {name}");
    total
}
