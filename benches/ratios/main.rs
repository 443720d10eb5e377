//! Ratios of our time to that of stated peers, measured side by side in one run.
//!
//! `cargo bench --bench ratios` prints a row each and writes `target/ratios.json`; `-- --quick` takes fewer rounds.
//! Every row has a bar; a missed one makes the run exit with 1. Rounds of ours and of the peer alternate, and a row is the median of the rounds, so that a noisy machine troubles
//! both alike. Quote ratios, never times.

#![allow(clippy::print_stdout, reason = "a benchmark prints what it measured")]
#![allow(clippy::unwrap_used, reason = "a benchmark fails by panicking")]

mod delivery;
mod editor;
mod host;
mod idle;
mod language;
mod live;
mod saves;
mod snapshots;
mod view;
mod zones;

use std::{hint::black_box, process::ExitCode, time::Instant};

use serde::Serialize;

/// One measured ratio.
#[derive(Serialize)]
#[expect(clippy::struct_field_names, reason = "the names readers of the file were promised")]
struct Row {
    row: String,
    ours_ns: f64,
    peer: &'static str,
    peer_ns: f64,
    ratio: f64,
    /// The most the ratio may be.
    bar: f64,
    holds: bool,
}

/// Collects rows.
struct Ratios {
    rounds: usize,
    rows: Vec<Row>,
    /// The beginnings of the names of the rows that are wanted; all of them if there are none.
    named: Vec<String>,
}

/// Something that can be timed: each call does the work `units` times over.
struct Timed<'a> {
    units: u32,
    /// What is added to each unit, in nanoseconds: an allowance.
    allowed: f64,
    work: Box<dyn FnMut() + 'a>,
}

impl<'a> Timed<'a> {
    fn new(units: u32, work: impl FnMut() + 'a) -> Self {
        Self { units, allowed: 0.0, work: Box::new(work) }
    }

    /// The same, and so many nanoseconds more per unit.
    fn and(mut self, allowed: f64) -> Self {
        self.allowed = allowed;
        self
    }

    /// Nanoseconds per unit of one round of at least a millisecond.
    fn round(&mut self) -> f64 {
        let start = Instant::now();
        let mut calls = 0_u32;
        while calls == 0 || start.elapsed().as_micros() < 1000 {
            (self.work)();
            calls += 1;
        }
        start.elapsed().as_secs_f64() * 1e9 / f64::from(calls) / f64::from(self.units) + self.allowed
    }
}

fn median(mut rounds: Vec<f64>) -> f64 {
    rounds.sort_by(f64::total_cmp);
    rounds[rounds.len() / 2]
}

impl Ratios {
    /// Whether a row of a group that was asked for was.
    fn wants(&self, row: &str) -> bool {
        let wanted = |name: &String| !name.contains('.') || row.starts_with(name);
        self.named.is_empty() || self.named.iter().any(wanted)
    }

    fn row(
        &mut self,
        row: impl Into<String>,
        bar: f64,
        mut ours: Timed<'_>,
        peer: &'static str,
        mut theirs: Timed<'_>,
    ) {
        let row = row.into();
        if !self.wants(&row) {
            return;
        }
        for _ in 0..3 {
            ours.round();
            theirs.round();
        }
        let (mut mine, mut other) = (Vec::new(), Vec::new());
        for _ in 0..self.rounds {
            mine.push(ours.round());
            other.push(theirs.round());
        }
        let (ours_ns, peer_ns) = (median(mine), median(other));
        let ratio = ours_ns / peer_ns;
        let holds = ratio <= bar;
        let verdict = format!("≤ {bar:.2} {}", if holds { "holds" } else { "MISSED" });
        println!(
            "{row:<28} {ratio:>8.3}   {ours_ns:>12.1} ns against {peer_ns:>12.1} ns  {peer:<34} {verdict}"
        );
        self.rows.push(Row { row, ours_ns, peer, peer_ns, ratio, bar, holds });
    }
}

impl Ratios {
    /// Ours against a time, in nanoseconds, that it may take.
    fn within(&mut self, row: &str, most: f64, ours: Timed<'_>) {
        self.row(row, 1.0, ours, "the time it may take", Timed::new(u32::MAX, || ()).and(most));
    }
}

fn main() -> ExitCode {
    let quick = std::env::args().any(|arg| arg == "--quick");
    // `zones` alone, say, or `zones.still`, instead of all rows.
    let named: Vec<String> = std::env::args().skip(1).filter(|arg| !arg.starts_with("--")).collect();
    let groups = named.clone();
    let only =
        |group: &str| groups.is_empty() || groups.iter().any(|name| name.split('.').next() == Some(group));
    let mut ratios = Ratios { rounds: if quick { 31 } else { 1001 }, rows: Vec::new(), named };
    if only("delivery") {
        delivery::rows(&mut ratios);
    }
    if only("idle") {
        idle::rows(&mut ratios);
    }
    if only("host") {
        host::rows(&mut ratios);
    }
    if only("snapshots") {
        snapshots::rows(&mut ratios);
    }
    if only("language") {
        language::rows(&mut ratios);
    }
    if only("editor") {
        editor::rows(&mut ratios);
    }
    if only("live") {
        live::rows(&mut ratios);
    }
    if only("saves") {
        saves::rows(&mut ratios);
    }
    if only("view") {
        view::rows(&mut ratios);
    }
    if only("zones") {
        zones::rows(&mut ratios);
    }
    black_box(&ratios.rows);
    let json = serde_json::to_string_pretty(&ratios.rows).unwrap();
    let target = std::env::var("CARGO_TARGET_DIR")
        .unwrap_or_else(|_| concat!(env!("CARGO_MANIFEST_DIR"), "/target").into());
    std::fs::create_dir_all(&target).unwrap();
    std::fs::write(format!("{target}/ratios.json"), json + "\n").unwrap();
    let missed: Vec<_> = ratios.rows.iter().filter(|row| !row.holds).map(|row| row.row.as_str()).collect();
    println!(
        "{} rows; bars missed: {}",
        ratios.rows.len(),
        if missed.is_empty() { "none".into() } else { missed.join(", ") }
    );
    ExitCode::from(u8::from(!missed.is_empty()))
}
