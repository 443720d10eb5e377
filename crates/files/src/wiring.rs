//! Wiring that was read: one scene, or a project.

use std::{path::PathBuf, sync::Arc};

use stoicheon_core::{BuildError, Catalogue, Config, Error, Rewired, World};
use stoicheon_script::{Givens, Index, Loaded, Project, Sources};

/// What one path means.
#[derive(Clone, Debug)]
pub enum Wiring {
    /// A scene that is no project's.
    Scene(Arc<Loaded>),
    /// A project with all its scenes.
    Project(Arc<Project>),
    /// One scene of a project, by its place among them.
    SceneOf(Arc<Project>, usize),
}

impl Wiring {
    /// The files that are told of one by one: a scene; or what the scenes of a project share, and each of them.
    pub fn parts(&self) -> Vec<&Loaded> {
        match self {
            Self::Scene(scene) => vec![scene],
            Self::Project(project) => project.parts().collect(),
            Self::SceneOf(project, number) => project.scenes().get(*number).into_iter().collect(),
        }
    }

    /// The file it is read by: its own, or that of its project.
    pub fn head(&self) -> PathBuf {
        PathBuf::from(match self {
            Self::Scene(scene) => scene.name(),
            Self::Project(project) | Self::SceneOf(project, _) => project.head().name(),
        })
    }

    /// The same with other values for its constants. What is wrong with those is found in [`broken`](Self::broken).
    pub fn with_given(&self, givens: &Givens) -> Self {
        match self {
            Self::Scene(scene) => Self::Scene(Arc::new(scene.with_given(givens))),
            Self::Project(project) => Self::Project(Arc::new(project.with_given(givens))),
            Self::SceneOf(project, number) => Self::SceneOf(Arc::new(project.with_given(givens)), *number),
        }
    }

    /// The same as one of its playtests plays it: with the values that the playtest gives to constants. `part` is the place of
    /// its part among the [`parts`](Self::parts).
    pub fn for_playtest(&self, part: usize, number: usize) -> Self {
        let givens = self.parts().get(part).map(|part| part.given_in(number)).unwrap_or_default();
        if givens.is_empty() { self.clone() } else { self.with_given(&givens) }
    }

    /// All of them [checked in place](Self::checked_in_place); a project of which several scenes are asked for, once.
    #[must_use]
    pub fn all_checked_in_place(wirings: &[Self]) -> Vec<Self> {
        let mut known: Vec<(&Arc<Project>, Arc<Project>)> = Vec::new();
        let mut all = Vec::new();
        for wiring in wirings {
            let Self::SceneOf(project, number) = wiring else {
                all.push(wiring.checked_in_place());
                continue;
            };
            let same = known.iter().find(|(before, _)| Arc::ptr_eq(before, project));
            let checked = same.map(|(_, checked)| checked.clone());
            let checked = checked.unwrap_or_else(|| {
                let checked = Arc::new(project.checked_in_place());
                known.push((project, checked.clone()));
                checked
            });
            all.push(Self::SceneOf(checked, *number));
        }
        all
    }

    /// The same, with what was found suspicious once a world was made of it.
    #[must_use]
    pub fn checked_in_place(&self) -> Self {
        match self {
            Self::Scene(scene) => Self::Scene(Arc::new(scene.checked_in_place())),
            Self::Project(project) => Self::Project(Arc::new(project.checked_in_place())),
            Self::SceneOf(project, number) => Self::SceneOf(Arc::new(project.checked_in_place()), *number),
        }
    }

    /// Its names; for a scene of a project, those of the whole project.
    pub fn index(&self) -> Index {
        match self {
            Self::Scene(scene) => scene.index(),
            Self::Project(project) | Self::SceneOf(project, _) => project.index(),
        }
    }

    /// What it may speak of: what was given when it was read, and the catalogues it names.
    pub fn catalogue(&self) -> &Catalogue {
        match self {
            Self::Scene(scene) => scene.catalogue(),
            Self::Project(project) | Self::SceneOf(project, _) => project.head().catalogue(),
        }
    }

    /// All files that it was read from.
    pub fn sources(&self) -> &Sources {
        match self {
            Self::Scene(scene) => scene.sources(),
            Self::Project(project) | Self::SceneOf(project, _) => project.head().sources(),
        }
    }

    /// The files that keep a world from being made of it, since something is wrong in them.
    pub fn broken(&self) -> Vec<&Loaded> {
        let all: Vec<&Loaded> = match self {
            Self::SceneOf(project, _) => project.parts().collect(),
            _ => self.parts(),
        };
        all.into_iter().filter(|part| part.has_errors()).collect()
    }

    /// A world made of it, with that seed in place of its own.
    ///
    /// # Errors
    /// What building says. A file that is [broken](Self::broken) is not built.
    pub fn world<G: 'static>(&self, seed: Option<u64>) -> Result<World<G>, Error> {
        self.world_with(seed, |config| config)
    }

    /// The same, with a change to how it is set up: how much of its trace it keeps, for one.
    ///
    /// # Errors
    /// As for [`world`](Self::world).
    pub fn world_with<G: 'static>(
        &self,
        seed: Option<u64>,
        change: impl FnOnce(Config) -> Config,
    ) -> Result<World<G>, Error> {
        let mut config = match self {
            Self::Scene(_) => Config::default(),
            Self::Project(project) | Self::SceneOf(project, _) => project.config(),
        };
        config.seed = seed.unwrap_or(config.seed);
        let mut world = World::with(change(config));
        match self {
            Self::Scene(scene) => scene.build(&mut world)?,
            Self::Project(project) | Self::SceneOf(project, _) => project.build(&mut world)?,
        }
        Ok(world)
    }

    /// Takes the place of the wiring that a world was made of, while the world runs: see [`Loaded::rewire`].
    ///
    /// # Errors
    /// As for [`Loaded::rewire`] and [`Project::rewire`]; a scene does not take the place of a project.
    pub fn rewire<G: 'static>(&self, world: &mut World<G>, before: &Self) -> Result<Rewired, Error> {
        match (self, before) {
            (Self::Scene(after), Self::Scene(before)) => after.rewire(world, before),
            (
                Self::Project(after) | Self::SceneOf(after, _),
                Self::Project(before) | Self::SceneOf(before, _),
            ) => after.rewire(world, before),
            (_, Self::Scene(before)) => {
                Err(Error::Build(BuildError::NotMadeOf { what: before.name().into() }))
            }
            (_, Self::Project(before) | Self::SceneOf(before, _)) => {
                Err(Error::Build(BuildError::NotMadeOf { what: before.name().into() }))
            }
        }
    }

    /// The seeds a playtest of one of its parts runs with: its own, or the project's, or none in particular.
    pub fn seeds(&self, part: &Loaded, number: usize) -> Vec<Option<u64>> {
        let own = part.seeds(number);
        let seeds = match self {
            Self::Project(project) | Self::SceneOf(project, _) if own.is_empty() => project.seeds(),
            _ => own,
        };
        if seeds.is_empty() { vec![None] } else { seeds.iter().copied().map(Some).collect() }
    }
}
