//! `stoicheon live`

use std::{
    collections::BTreeMap,
    sync::mpsc::Receiver,
    thread,
    time::{Duration, Instant},
};

use stoicheon_core::{World, secs};
use stoicheon_files::{self as files, Wiring};
use stoicheon_live::{Live, LiveError, LiveWiring};

use crate::{
    args::{LiveArgs, Which},
    out::{self, Misuse, Outcome},
    saved::{self, Saved},
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
    let not_live = |error: LiveError| match error {
        LiveError::NotLoopback { address } => Misuse::NotLoopback(address),
        other => Misuse::NotLive(other.to_string()),
    };
    let listens = if args.to_others { Live::listen_to_others } else { Live::listen };
    let live = listens(&args.at).map_err(not_live)?.titled(&stage.title());
    let mut shown = Shown {
        world: world(&stage)?,
        live,
        taken: vec![stage.wiring.clone()],
        stage,
        saved: saved::watch(&args.which),
        next: None,
    };
    shown.live = shown.live.with_wiring(wiring(&shown.stage, &args.which)?);
    out::print(&format!("{}: {}\n", shown.stage.title(), shown.live.address()));
    out::note("open that address in a browser; Ctrl+C ends it");
    shown.run(&args.which).map_err(not_live)
}

/// What is played, and what is saved meanwhile.
struct Shown {
    stage: Stage,
    world: World<()>,
    live: Live,
    saved: Option<Receiver<Saved>>,
    /// The wiring as it is saved, if it is another, has no faults, and could not take over.
    next: Option<Stage>,
    /// The wiring the world was made of, and all that has taken over since.
    taken: Vec<Wiring>,
}

/// The world of a stage, with the players of its playtest.
fn world(stage: &Stage) -> Result<World<()>, Misuse> {
    let mut world = stage.traced()?;
    if let Some(number) = stage.number {
        stage.loaded().make_players(number, &mut world).map_err(|error| Misuse::NotBuilt {
            file: stage.loaded().name().to_owned(),
            reason: error.to_string(),
        })?;
    }
    Ok(world)
}

fn wiring(stage: &Stage, which: &Which) -> Result<LiveWiring, Misuse> {
    let parts = stage.wiring.parts().into_iter().cloned().collect();
    let (again, seed) = (stage.wiring.clone(), stage.seed());
    let wiring = LiveWiring::new(parts, move || again.world(seed));
    let head = files::head_of(&which.file)?;
    Ok(if files::is_json(&head) { wiring } else { wiring.writes_to(head) })
}

/// The texts that a stage was read from, by name.
fn texts(stage: &Stage) -> BTreeMap<&str, &str> {
    stage.written.sources().iter().map(|source| (source.name(), source.text())).collect()
}

impl Shown {
    /// Until the process is ended.
    fn run(&mut self, which: &Which) -> Result<Outcome, LiveError> {
        // What is done in it can become a playtest if the page knows it from its beginning.
        self.live.show(&mut self.world, &mut ())?;
        let mut before = Instant::now();
        let mut next = before;
        loop {
            let now = Instant::now();
            let frame = now.duration_since(before).as_secs_f64().min(LONGEST_FRAME);
            before = now;
            self.look_at_saved(which);
            if self.live.wants_restart() {
                self.restart(which)?;
            }
            let advanced = self.world.advance(self.live.pace(secs(frame)), &mut ());
            self.live.took(advanced)?;
            self.live.show(&mut self.world, &mut ())?;
            // Nobody performs them here; the page has shown them.
            self.world.take_effects().for_each(drop);
            self.world.take_faults().for_each(drop);
            next = (next + FRAME).max(now);
            thread::sleep(next.saturating_duration_since(Instant::now()));
        }
    }

    fn look_at_saved(&mut self, which: &Which) {
        while let Some(saved) = self.saved.as_ref().and_then(|saved| saved.try_recv().ok()) {
            match saved {
                Saved::Faults(findings) => {
                    self.next = None;
                    self.live.tell_saved(findings, false);
                }
                Saved::Fits(stage) => {
                    if texts(&stage) == texts(&self.stage) {
                        self.next = None;
                        self.live.tell_saved(Vec::new(), false);
                    } else if let Err(reason) = self.take_over(&stage, which) {
                        self.live.tell_saved(vec![reason], true);
                        self.next = Some(*stage);
                    } else {
                        self.next = None;
                        self.stage = *stage;
                    }
                }
            }
        }
    }

    /// Lets the wiring that is saved take over in the world as it is.
    fn take_over(&mut self, stage: &Stage, which: &Which) -> Result<(), String> {
        let wiring = wiring(stage, which).map_err(|misuse| misuse.to_string())?;
        let (after, before) = (stage.wiring.clone(), self.taken.clone());
        let take_over = move |world: &mut World<()>, from: usize| match before.get(from) {
            Some(before) => after.rewire(world, before),
            None => after.rewire(world, &after),
        };
        let taken = self.live.rewire(&mut self.world, Some(wiring), take_over);
        taken.map_err(|error| format!("the world goes on as it was: {error}"))?;
        self.taken.push(stage.wiring.clone());
        Ok(())
    }

    /// Restarts with the wiring as it is saved. What cannot be made is told, and the world goes on.
    fn restart(&mut self, which: &Which) -> Result<(), LiveError> {
        let stage = self.next.as_ref().unwrap_or(&self.stage);
        match world(stage).and_then(|world| Ok((world, wiring(stage, which)?))) {
            Ok((world, wiring)) => {
                self.world = world;
                self.live.restarted(Some(wiring));
                self.stage = self.next.take().unwrap_or_else(|| self.stage.clone());
                self.taken = vec![self.stage.wiring.clone()];
                self.live.show(&mut self.world, &mut ())
            }
            Err(misuse) => {
                self.live.tell_saved(vec![misuse.to_string()], false);
                Ok(())
            }
        }
    }
}
