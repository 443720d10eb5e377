//! Running a playtest of a file.

use stoicheon_core::{Error, World};
use stoicheon_script::Loaded;
use stoicheon_view::failure_text;

use crate::wiring::OnFiles;

/// How a playtest of a file went.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Ran {
    /// For how many ticks it ran.
    pub ticks: u64,
    /// What was expected and what happened instead, line by line; empty if it passed.
    pub failure: Vec<String>,
}

impl Ran {
    /// Whether everything was as expected.
    pub fn passed(&self) -> bool {
        self.failure.is_empty()
    }
}

/// Runs a playtest of a part of some wiring in a world made of it. Where it goes on in a fresh world, `make` makes that; `watch`
/// is called after every tick. A part with errors is not run: what could not be read would pass.
///
/// ```
/// use stoicheon_core::Catalogue;
/// # let folder = tempfile::tempdir()?;
/// # let path = folder.path().join("lock.stoi");
/// # std::fs::write(&path, "object gate { door { swing 85deg, over 1s } }\non pressed(\"ring\") { open gate }\n\
/// # playtest \"who rings opens the gate\" { player ada at gate; ada presses ring; wait 2s; expect gate is open }\n")?;
/// let wiring = stoicheon_files::read(&path, &Catalogue::built_in())?;
/// let scene = wiring.parts()[0];
/// assert_eq!(scene.playtests().collect::<Vec<_>>(), ["who rings opens the gate"]);
/// let make = || wiring.world::<()>(None);
/// let mut world = make()?;
/// let ran = stoicheon_files::run(scene, 0, &mut world, &mut (), &make, &mut |_| {});
/// assert!(ran.passed(), "{:?}", ran.failure);
///
/// std::fs::write(&path, "playtest \"nothing of it can be read\" { ada flies }")?;
/// let faulty = stoicheon_files::read(&path, &Catalogue::built_in())?;
/// let ran = stoicheon_files::run(faulty.parts()[0], 0, &mut world, &mut (), &make, &mut |_| {});
/// assert!(!ran.passed());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn run<G: 'static>(
    part: &Loaded,
    number: usize,
    world: &mut World<G>,
    game: &mut G,
    make: &dyn Fn() -> Result<World<G>, Error>,
    watch: &mut dyn FnMut(&mut World<G>),
) -> Ran {
    if part.has_errors() {
        let failure = format!("{} has errors: check it", part.name());
        return Ran { ticks: 0, failure: vec![failure] };
    }
    let mut stage = OnFiles { make, watch };
    match part.run_playtest(number, world, game, &mut stage) {
        Ok(verdict) => {
            let failure = verdict.failure.map(|failure| failure_text(world, &failure));
            Ran { ticks: verdict.ticks, failure: failure.unwrap_or_default() }
        }
        Err(error) => Ran { ticks: world.now().0, failure: vec![error.to_string()] },
    }
}
