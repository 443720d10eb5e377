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

/// Runs a playtest of a part of some wiring in a world made of it. Where it begins anew, `make` makes the next world; `watch`
/// is called after every tick.
///
/// ```
/// use stoicheon_core::Catalogue;
/// # let folder = tempfile::tempdir()?;
/// # let path = folder.path().join("lock.stoi");
/// # std::fs::write(&path, "object gate { door { swing 85deg, over 1s } }\nsignal bell\non bell { open gate }\n\
/// # playtest \"the bell opens the gate\" { emit bell; wait 2s; expect gate is open }\n")?;
/// let wiring = stoicheon_files::read(&path, &Catalogue::built_in())?;
/// let scene = wiring.parts()[0];
/// assert_eq!(scene.playtests().collect::<Vec<_>>(), ["the bell opens the gate"]);
/// let make = || wiring.world::<()>(None);
/// let mut world = make()?;
/// let ran = stoicheon_files::run(scene, 0, &mut world, &mut (), &make, &mut |_| {});
/// assert!(ran.passed(), "{:?}", ran.failure);
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
    let mut stage = OnFiles { make, watch };
    match part.run_playtest(number, world, game, &mut stage) {
        Ok(verdict) => {
            let failure = verdict.failure.map(|failure| failure_text(world, &failure));
            Ran { ticks: verdict.ticks, failure: failure.unwrap_or_default() }
        }
        Err(error) => Ran { ticks: world.now().0, failure: vec![error.to_string()] },
    }
}
