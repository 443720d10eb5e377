//! The playtests of a folder of wiring files, each as a test of its own: with its name, its failure in the words of
//! `stoicheon test`, and everything `cargo test` can do with tests, such as running those whose names have a word in them.
//!
//! One line in a test of the game's own, which says in `Cargo.toml` that it has no harness of Rust's:
//!
//! ```toml
//! [[test]]
//! name = "wiring"
//! harness = false
//! ```
//!
//! ```no_run
//! // tests/wiring.rs
//! fn main() -> std::process::ExitCode {
//!     stoicheon_testing::playtests("wiring").run()
//! }
//! ```
//!
//! A game whose Rust takes part in its scenes says how: [`Playtests::of_game`].

use std::{
    path::{Path, PathBuf},
    process::ExitCode,
    sync::Arc,
};

use libtest_mimic::{Arguments, Failed, Trial};
use stoicheon_core::{Catalogue, Error, World};
use stoicheon_files::{Fresh, Wiring, read_all};
use stoicheon_script::{Loaded, Severity, render};

/// The playtests of the wiring files at a path, which need nothing of a game's own. A path that is not absolute begins at the
/// folder of the package under test, or wherever the tests are run.
pub fn playtests(path: impl Into<PathBuf>) -> Playtests<()> {
    Playtests::of_game(path, Catalogue::built_in(), || (), |_| Ok(()))
}

/// What wires a game's closures to a world.
type Wire<G> = dyn Fn(&mut World<G>) -> Result<(), Error> + Send + Sync;

/// Playtests that are to be run.
#[derive(Clone)]
pub struct Playtests<G> {
    paths: Vec<PathBuf>,
    catalogue: Catalogue,
    make_game: Arc<dyn Fn() -> G + Send + Sync>,
    wire: Arc<Wire<G>>,
}

impl<G> std::fmt::Debug for Playtests<G> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Playtests").field("paths", &self.paths).finish_non_exhaustive()
    }
}

impl<G: 'static> Playtests<G> {
    /// The playtests of a game: what it offers to its wiring, how its own state begins, and how its closures are wired to a
    /// world that was made of a file. Every playtest has a game and a world of its own.
    ///
    /// ```no_run
    /// use stoicheon_core::{Catalogue, World, payload};
    /// use stoicheon_testing::Playtests;
    ///
    /// payload! {
    ///     /// A fish was landed.
    ///     pub struct Landed { pub weight: f64 }
    /// }
    ///
    /// #[derive(Default)]
    /// struct Game { catch: f64 }
    ///
    /// fn main() -> std::process::ExitCode {
    ///     let catalogue = Catalogue::built_in().with_signal::<Landed>("landed", "A fish was landed.");
    ///     Playtests::of_game("wiring", catalogue, Game::default, |world: &mut World<Game>| {
    ///         let landed = world.declare_signal::<Landed>("landed")?;
    ///         world.on(landed).run(|game: &mut Game, landed, _| game.catch += landed.weight)?;
    ///         Ok(())
    ///     })
    ///     .run()
    /// }
    /// ```
    pub fn of_game(
        path: impl Into<PathBuf>,
        catalogue: Catalogue,
        make_game: impl Fn() -> G + Send + Sync + 'static,
        wire: impl Fn(&mut World<G>) -> Result<(), Error> + Send + Sync + 'static,
    ) -> Self {
        let (make_game, wire) = (Arc::new(make_game), Arc::new(wire));
        Self { paths: vec![path.into()], catalogue, make_game, wire }
    }

    /// The wiring files of another path too.
    pub fn and(mut self, path: impl Into<PathBuf>) -> Self {
        self.paths.push(path.into());
        self
    }

    /// Runs them as the arguments of the process say, and says so as `cargo test` does.
    pub fn run(self) -> ExitCode {
        let arguments = Arguments::from_args();
        libtest_mimic::run(&arguments, self.trials()).exit_code()
    }

    /// A test for each playtest and seed; one that fails for what cannot be read or has faults, and for paths without any
    /// playtest, which would pass whatever is broken.
    fn trials(self) -> Vec<Trial> {
        let (wirings, troubles) = read_all(&self.paths, &self.catalogue);
        let this = Arc::new(self);
        let mut trials: Vec<Trial> = troubles
            .into_iter()
            .map(|trouble| {
                Trial::test("wiring files can be read", move || Err(Failed::from(trouble.to_string())))
            })
            .collect();
        for wiring in wirings.into_iter().map(Arc::new) {
            let broken = wiring.broken();
            trials.extend(broken.iter().map(|part| broken_trial(part)));
            if broken.is_empty() {
                this.add_playtests(&wiring, &mut trials);
            }
        }
        if trials.is_empty() {
            let paths: Vec<_> = this.paths.iter().map(|path| path.display().to_string()).collect();
            let message =
                format!("there is no playtest in {}: write one, or give another path", paths.join(", "));
            trials.push(Trial::test("there are playtests", move || Err(message.into())));
        }
        trials
    }

    fn add_playtests(self: &Arc<Self>, wiring: &Arc<Wiring>, trials: &mut Vec<Trial>) {
        for (part_number, part) in wiring.parts().into_iter().enumerate() {
            for (number, name) in part.playtests().enumerate() {
                let seeds = wiring.seeds(part, number);
                for seed in seeds.iter().copied() {
                    let mut name = format!("{}: {name}", file_name(part));
                    if let (Some(seed), true) = (seed, seeds.len() > 1) {
                        name = format!("{name} (seed {seed})");
                    }
                    let (this, wiring) = (self.clone(), wiring.clone());
                    trials.push(Trial::test(name, move || this.run_one(&wiring, part_number, number, seed)));
                }
            }
        }
    }

    fn run_one(&self, wiring: &Wiring, part: usize, number: usize, seed: Option<u64>) -> Result<(), Failed> {
        let wiring = wiring.for_playtest(part, number);
        let parts = wiring.parts();
        let part = parts.get(part).ok_or("the file has another number of scenes than before")?;
        let make = || {
            let mut world = wiring.world(seed)?;
            (self.wire)(&mut world)?;
            Ok(world)
        };
        let mut world: World<G> = make().map_err(|error: Error| Failed::from(error.to_string()))?;
        let mut game = (self.make_game)();
        let fresh = Fresh { world: &make, game: &*self.make_game };
        let ran = stoicheon_files::run(part, number, &mut world, &mut game, fresh, &mut |_| {});
        if ran.passed() { Ok(()) } else { Err(ran.failure.join("\n").into()) }
    }
}

/// The name of a file without its folders.
fn file_name(part: &Loaded) -> String {
    let name = Path::new(part.name()).file_name();
    name.map_or_else(|| part.name().to_owned(), |name| name.to_string_lossy().into_owned())
}

/// A file that has errors fails a test with them.
fn broken_trial(part: &Loaded) -> Trial {
    let errors = part.diagnostics().iter().filter(|diagnostic| diagnostic.severity == Severity::Error);
    let told: Vec<String> = errors.map(|diagnostic| render(diagnostic, part.sources(), false)).collect();
    Trial::test(format!("{}: has no errors", file_name(part)), move || Err(told.join("\n").into()))
}
