//! `stoicheon live`

use std::{
    thread,
    time::{Duration, Instant},
};

use stoicheon_core::{World, secs};
use stoicheon_files as files;
use stoicheon_live::{Live, LiveError, LiveWiring};

use crate::{
    args::LiveArgs,
    out::{self, Misuse, Outcome},
    stage::Stage,
};

/// How long a frame takes, at 60 in a second.
const FRAME: Duration = Duration::from_micros(16_667);
/// The longest time that one frame gives: what a machine that slept has missed is let go.
const LONGEST_FRAME: f64 = 0.25;

pub(crate) fn live(args: &LiveArgs) -> Result<Outcome, Misuse> {
    let stage = Stage::of(&args.which, false)?;
    if stage.is_broken() {
        return Ok(Outcome::Faults);
    }
    let mut world = stage.traced()?;
    let not_built = |error: stoicheon_core::Error| Misuse::NotBuilt {
        file: stage.loaded().name().to_owned(),
        reason: error.to_string(),
    };
    if let Some(number) = stage.number {
        stage.loaded().make_players(number, &mut world).map_err(not_built)?;
    }
    let not_live = |error: LiveError| match error {
        LiveError::NotLoopback { address } => Misuse::NotLoopback(address),
        other => Misuse::NotLive(other.to_string()),
    };
    let listens = if args.to_others { Live::listen_to_others } else { Live::listen };
    let mut live = listens(&args.at).map_err(not_live)?.titled(&stage.title());
    let parts = stage.wiring.parts().into_iter().cloned().collect();
    let (again, seed) = (stage.wiring.clone(), stage.seed());
    let wiring = LiveWiring::new(parts, move || again.world(seed));
    let head = files::head_of(&args.which.file)?;
    live = live.with_wiring(if files::is_json(&head) { wiring } else { wiring.writes_to(head) });
    out::print(&format!("{}: {}\n", stage.title(), live.address()));
    out::note("open that address in a browser; Ctrl+C ends it");
    run(&mut world, &mut live).map_err(not_live)
}

/// Until the process is ended.
fn run(world: &mut World<()>, live: &mut Live) -> Result<Outcome, LiveError> {
    // What is done in it can become a playtest if the page knows it from its beginning.
    live.show(world, &mut ())?;
    let mut before = Instant::now();
    let mut next = before;
    loop {
        let now = Instant::now();
        let frame = now.duration_since(before).as_secs_f64().min(LONGEST_FRAME);
        before = now;
        let advanced = world.advance(live.pace(secs(frame)), &mut ());
        live.took(advanced)?;
        live.show(world, &mut ())?;
        // Nobody performs them here; the page has shown them.
        world.take_effects().for_each(drop);
        world.take_faults().for_each(drop);
        next = (next + FRAME).max(now);
        thread::sleep(next.saturating_duration_since(Instant::now()));
    }
}
