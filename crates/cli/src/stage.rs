//! What a call plays: a scene, one of its playtests, and for how long. `play`, `look`, `why` and `draw` share it.

use stoicheon_core::{Catalogue, Config, SmolStr, World, secs};
use stoicheon_files::{self as files, Fresh, Projects, Wiring};
use stoicheon_script::{Givens, Loaded};

use crate::{
    args::Which,
    out::{self, Findings, Misuse},
};

/// How long a scene runs alone, in seconds.
const ALONE: f64 = 10.0;

/// The longest time that a call may name, in seconds.
pub(crate) const LONGEST: f64 = 86_400.0;

/// How many records are kept where the whole trace is asked about.
const WHOLE_TRACE: usize = 4_000_000;

/// What is played.
#[derive(Clone, Debug)]
pub(crate) struct Stage {
    pub(crate) wiring: Wiring,
    /// The same without what its playtest gives to constants.
    pub(crate) written: Wiring,
    /// Which of its parts.
    pub(crate) part: usize,
    /// Which playtest of it; `None` for a scene that runs alone.
    pub(crate) number: Option<usize>,
    seed: Option<u64>,
    seconds: f64,
}

/// How it went.
#[derive(Debug)]
pub(crate) struct Ran {
    /// What was expected and found instead; empty if all is well.
    pub(crate) failure: Vec<String>,
    pub(crate) ticks: u64,
}

impl Stage {
    /// What a call names, with the values that it gives to constants.
    pub(crate) fn of(which: &Which, is_taken_up: bool) -> Result<Self, Misuse> {
        if let Some(seconds) = which.seconds
            && !(seconds > 0.0 && seconds <= LONGEST)
        {
            return Err(Misuse::BadTime(seconds));
        }
        let head = files::head_of(&which.file)?;
        let mut wiring = files::read_in_project(&head, &Catalogue::built_in(), &mut Projects::default())?;
        if let (Wiring::SceneOf(project, _), Some(_)) = (&wiring, &which.scene) {
            wiring = Wiring::Project(project.clone());
        }
        let part = choose_part(&wiring, which)?;
        Self::at(&wiring, part, which, is_taken_up)
    }

    /// A part of some wiring.
    pub(crate) fn at(wiring: &Wiring, part: usize, which: &Which, is_taken_up: bool) -> Result<Self, Misuse> {
        let seconds = which.seconds.unwrap_or(ALONE);
        let parts = wiring.parts();
        let Some(written) = parts.get(part).copied() else {
            return Ok(Self {
                wiring: wiring.clone(),
                written: wiring.clone(),
                part,
                number: None,
                seed: None,
                seconds,
            });
        };
        // A world that was taken up has its players already.
        let is_alone = which.alone || is_taken_up;
        let number = if is_alone { None } else { choose(written, which.playtest.as_deref())? };
        if number.is_some() && which.seconds.is_some() {
            return Err(Misuse::ForPlaytest { file: written.name().to_owned() });
        }
        let played = number.map_or_else(|| wiring.clone(), |number| wiring.for_playtest(part, number));
        let givens = givens(which)?;
        let (wiring, written) = (played.with_given(&givens), wiring.with_given(&givens));
        let seed = {
            let parts = wiring.parts();
            let written = parts.get(part).copied();
            let seeds = number.zip(written).map(|(number, written)| wiring.seeds(written, number));
            seeds.and_then(|seeds| seeds.first().copied().flatten())
        };
        Ok(Self { wiring, written, part, number, seed, seconds })
    }

    /// The file that is played.
    pub(crate) fn loaded(&self) -> &Loaded {
        self.wiring.parts()[self.part]
    }

    /// The name of the project or of the scene.
    pub(crate) fn title(&self) -> String {
        match &self.wiring {
            Wiring::Scene(scene) => scene.scene_name().unwrap_or("a scene without a name").to_owned(),
            Wiring::Project(project) | Wiring::SceneOf(project, _) => project.name().to_owned(),
        }
    }

    /// The name of the playtest.
    pub(crate) fn playtest(&self) -> Option<SmolStr> {
        self.loaded().playtests().nth(self.number?)
    }

    pub(crate) fn seed(&self) -> Option<u64> {
        self.seed
    }

    /// Prints what is wrong with wiring that is too broken to be played; true if it is.
    pub(crate) fn is_broken(&self) -> bool {
        let broken = self.wiring.broken();
        let mut findings = Findings::new(false);
        broken.iter().for_each(|part| findings.of(part));
        findings.end();
        for part in &broken {
            out::print(&format!("{}: {}\n", part.name(), out::count(part.diagnostics())));
        }
        !broken.is_empty()
    }

    /// The world before it runs.
    pub(crate) fn world(&self) -> Result<World<()>, stoicheon_core::Error> {
        self.wiring.world(self.seed)
    }

    /// A world that keeps the whole of its trace.
    pub(crate) fn traced(&self) -> Result<World<()>, Misuse> {
        let world = self.wiring.world_with(self.seed, keep_all);
        world.map_err(|error| Misuse::NotBuilt {
            file: self.loaded().name().to_owned(),
            reason: error.to_string(),
        })
    }

    /// A world in which all scenes are there, before anything happens.
    pub(crate) fn whole(&self) -> Result<World<()>, Misuse> {
        let mut world = self.traced()?;
        for scene in self.wiring.parts().into_iter().filter_map(Loaded::scene_name) {
            if let Some(scene) = world.find_scene(scene) {
                let loaded = world.load_scene(scene);
                loaded.map_err(|error| Misuse::NotBuilt {
                    file: self.loaded().name().to_owned(),
                    reason: error.to_string(),
                })?;
            }
        }
        Ok(world)
    }

    /// Runs it; `watch` is called after every tick.
    pub(crate) fn run(&self, world: &mut World<()>, watch: &mut dyn FnMut(&mut World<()>)) -> Ran {
        self.run_keeping(world, watch, &|| self.world(), &mut drop)
    }

    /// Runs it, and gives all the worlds there were: more than one if it is reloaded or suspended, each with the whole of its
    /// trace.
    pub(crate) fn run_traced(&self) -> Result<(Vec<World<()>>, Ran), Misuse> {
        self.run_watched(&mut |_| {})
    }

    /// The same; `watch` is called before the first tick and after every tick.
    pub(crate) fn run_watched(
        &self,
        watch: &mut dyn FnMut(&World<()>),
    ) -> Result<(Vec<World<()>>, Ran), Misuse> {
        let mut world = self.traced()?;
        let mut earlier = Vec::new();
        watch(&world);
        let mut watch = |world: &mut World<()>| {
            watch(world);
            world.take_effects().for_each(drop);
        };
        let fresh = || self.wiring.world_with(self.seed, keep_all);
        let ran = self.run_keeping(&mut world, &mut watch, &fresh, &mut |old| earlier.push(old));
        earlier.push(world);
        Ok((earlier, ran))
    }

    fn run_keeping(
        &self,
        world: &mut World<()>,
        watch: &mut dyn FnMut(&mut World<()>),
        make: &dyn Fn() -> Result<World<()>, stoicheon_core::Error>,
        replaced: &mut dyn FnMut(World<()>),
    ) -> Ran {
        let before = world.now();
        match self.number {
            Some(number) => {
                let fresh = Fresh { world: make, game: &|| () };
                let worlds = (&mut *world, &mut ());
                let ran = files::run_keeping(self.loaded(), number, worlds, fresh, watch, replaced);
                Ran { failure: ran.failure, ticks: ran.ticks }
            }
            None => {
                let failure = self.run_alone(world, watch).into_iter().collect();
                Ran { failure, ticks: world.now().0.saturating_sub(before.0) }
            }
        }
    }

    fn run_alone(&self, world: &mut World<()>, watch: &mut dyn FnMut(&mut World<()>)) -> Option<String> {
        let ticks = match world.rate().ticks(secs(self.seconds)) {
            Ok(ticks) => ticks,
            Err(error) => return Some(error.to_string()),
        };
        for _ in 0..ticks.whole() {
            let stepped = world.step(&mut ());
            watch(world);
            if let Err(error) = stepped {
                return Some(error.to_string());
            }
        }
        None
    }

    /// A scene that runs alone runs as long as that at least.
    pub(crate) fn lasts(mut self, seconds: f64) -> Self {
        self.seconds = self.seconds.max(seconds);
        self
    }
}

fn keep_all(config: Config) -> Config {
    Config { kept: WHOLE_TRACE, ..config }
}

/// The part that is played: the scene that was asked for, or the first one with a playtest.
fn choose_part(wiring: &Wiring, which: &Which) -> Result<usize, Misuse> {
    let parts = wiring.parts();
    let has_playtest = |part: &&Loaded| part.playtests().next().is_some();
    let chosen = match &which.scene {
        None => parts.iter().position(has_playtest).or(parts.len().checked_sub(1)),
        Some(wanted) => parts.iter().position(|part| part.scene_name() == Some(wanted)),
    };
    chosen.ok_or_else(|| {
        let known: Vec<_> = parts.iter().filter_map(|part| part.scene_name()).collect();
        Misuse::NoScene {
            file: which.file.display().to_string(),
            wanted: which.scene.clone().unwrap_or_default(),
            known: if known.is_empty() { "none".to_owned() } else { known.join(", ") },
        }
    })
}

/// The values that the call gives to constants.
fn givens(which: &Which) -> Result<Givens, Misuse> {
    let mut givens = Givens::new();
    for given in &which.given {
        givens = givens.written(given).map_err(|error| Misuse::NotGiven(error.to_string()))?;
    }
    Ok(givens)
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
