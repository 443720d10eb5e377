//! Running a playtest of a file.

use stoicheon_core::{
    Error, Place, Save, Snapshot, World,
    playtest::{PlaytestError, PlaytestHost},
};
use stoicheon_script::Loaded;
use stoicheon_store::{Form, from_bytes, to_bytes};
use stoicheon_view::failure_text;

/// How a playtest of a file went.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Ran {
    /// For how many ticks it ran.
    pub ticks: u64,
    /// What was expected and what happened instead, line by line; empty if it passed.
    pub failure: Vec<String>,
    /// The line that was not as expected.
    pub place: Option<Place>,
}

impl Ran {
    /// Whether everything was as expected.
    pub fn passed(&self) -> bool {
        self.failure.is_empty()
    }
}

/// How the other worlds are made that a playtest needs.
pub struct Fresh<'f, G> {
    /// A world, made as the first one was.
    pub world: &'f dyn Fn() -> Result<World<G>, Error>,
    /// The game's own state for it.
    pub game: &'f dyn Fn() -> G,
}

impl<G> Clone for Fresh<'_, G> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<G> Copy for Fresh<'_, G> {}

impl<G> std::fmt::Debug for Fresh<'_, G> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Fresh").finish_non_exhaustive()
    }
}

/// Runs a playtest of a part of some wiring in a world made of it. Where it needs other worlds, `fresh` makes them, each with a
/// game of its own; `watch`
/// is called after every tick. A part with errors is not run: what could not be read would pass.
///
/// ```
/// use stoicheon_core::Catalogue;
/// use stoicheon_files::Fresh;
/// # let folder = tempfile::tempdir()?;
/// # let path = folder.path().join("lock.stoi");
/// # std::fs::write(&path, "object gate { door { swing 85deg, over 1s } }\non pressed(\"ring\") { open gate }\n\
/// # playtest \"who rings opens the gate\" { player ada at gate; ada presses ring; wait 2s; expect gate is open }\n")?;
/// let wiring = stoicheon_files::read(&path, &Catalogue::built_in())?;
/// let scene = wiring.parts()[0];
/// assert_eq!(scene.playtests().collect::<Vec<_>>(), ["who rings opens the gate"]);
/// let make = || wiring.world::<()>(None);
/// let fresh = Fresh { world: &make, game: &|| () };
/// let mut world = make()?;
/// let ran = stoicheon_files::run(scene, 0, &mut world, &mut (), fresh, &mut |_| {});
/// assert!(ran.passed(), "{:?}", ran.failure);
///
/// std::fs::write(&path, "playtest \"nothing of it can be read\" { ada flies }")?;
/// let faulty = stoicheon_files::read(&path, &Catalogue::built_in())?;
/// let ran = stoicheon_files::run(faulty.parts()[0], 0, &mut world, &mut (), fresh, &mut |_| {});
/// assert!(!ran.passed());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn run<G: 'static>(
    part: &Loaded,
    number: usize,
    world: &mut World<G>,
    game: &mut G,
    fresh: Fresh<'_, G>,
    watch: &mut dyn FnMut(&mut World<G>),
) -> Ran {
    run_keeping(part, number, (world, game), fresh, watch, &mut drop)
}

/// The same, where a world that a new one takes the place of, since the playtest reloads or suspends it, is handed to `replaced`.
pub fn run_keeping<G: 'static>(
    part: &Loaded,
    number: usize,
    (world, game): (&mut World<G>, &mut G),
    fresh: Fresh<'_, G>,
    watch: &mut dyn FnMut(&mut World<G>),
    replaced: &mut dyn FnMut(World<G>),
) -> Ran {
    if part.has_errors() {
        let failure = format!("{} has errors: check it", part.name());
        return Ran { ticks: 0, failure: vec![failure], place: None };
    }
    let mut stage = OnFiles { fresh, watch, replaced };
    match part.run_playtest(number, world, game, &mut stage) {
        Ok(verdict) => {
            let place = verdict.failure.as_ref().map(|failure| failure.place.clone());
            let failure = verdict.failure.map(|failure| failure_text(world, &failure));
            Ran { ticks: verdict.ticks, failure: failure.unwrap_or_default(), place }
        }
        Err(error) => Ran { ticks: world.now().0, failure: vec![error.to_string()], place: None },
    }
}

/// The stage a playtest runs on: other worlds are made as the first one was, and what is kept goes through the bytes of a
/// file.
struct OnFiles<'w, G> {
    fresh: Fresh<'w, G>,
    watch: &'w mut dyn FnMut(&mut World<G>),
    replaced: &'w mut dyn FnMut(World<G>),
}

impl<G: 'static> PlaytestHost<G> for OnFiles<'_, G> {
    fn watch(&mut self, world: &mut World<G>) {
        (self.watch)(world);
    }

    fn replaced(&mut self, old: World<G>) {
        (self.replaced)(old);
    }

    fn fresh(&mut self) -> Result<World<G>, PlaytestError> {
        Ok((self.fresh.world)()?)
    }

    fn fresh_game(&mut self) -> Result<G, PlaytestError> {
        Ok((self.fresh.game)())
    }

    fn keep(&mut self, save: Save) -> Result<Save, String> {
        let bytes = to_bytes(&save, Form::Json).map_err(|error| error.to_string())?;
        from_bytes(&bytes).map_err(|error| error.to_string())
    }

    fn keep_whole(&mut self, snapshot: Snapshot) -> Result<Snapshot, String> {
        let bytes = to_bytes(&snapshot, Form::Cbor).map_err(|error| error.to_string())?;
        from_bytes(&bytes).map_err(|error| error.to_string())
    }
}
