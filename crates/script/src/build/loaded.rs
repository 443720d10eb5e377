//! What was read, made in a world: a scene, its playtests, a whole project.

use std::sync::Arc;

use stoicheon_core::{
    BuildError, Error, WhenEmpty, World,
    playtest::{Playtest, PlaytestError, PlaytestHost, Verdict},
};

use super::{build, make_players, playtest, run_playtest};
use crate::{fingerprint::fingerprint, load::Loaded, project::Project};

/// What a world that was made of a project calls its part of every scene.
pub(super) const SHARED: &str = "what all scenes share";

impl Loaded {
    /// Makes the scene in a world: what is declared, objects with their parts, routines, then wires, then binds and
    /// rules.
    ///
    /// # Errors
    /// What the world says to a part of the scene, such as a name it has already. A text that has errors is
    /// built as far as it goes; ask [`has_errors`](Self::has_errors) first.
    pub fn build<G: 'static>(&self, world: &mut World<G>) -> Result<(), Error> {
        build(self, world)
    }

    /// Makes the players of the playtest of that number in a world that has the scene, and the playtest itself.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for a number there is none of, and what the world says to a player.
    pub fn playtest<G: 'static>(&self, number: usize, world: &mut World<G>) -> Result<Playtest, Error> {
        playtest(self, number, world)
    }

    /// Makes the players of the playtest of that number in a world that has the scene, or the project, and no more: for those who
    /// walk about themselves.
    ///
    /// # Errors
    /// As for [`playtest`](Self::playtest).
    pub fn make_players<G: 'static>(&self, number: usize, world: &mut World<G>) -> Result<(), Error> {
        make_players(self, number, world)
    }

    /// Makes the players of the playtest of that number in a world that has the scene, or the project, and runs it. What
    /// its lines speak of is looked up when their turn comes, so that they may go from scene to scene.
    ///
    /// # Errors
    /// As for [`playtest`](Self::playtest) and for [`run`](stoicheon_core::playtest::run).
    pub fn run_playtest<G: 'static>(
        &self,
        number: usize,
        world: &mut World<G>,
        game: &mut G,
        stage: &mut dyn PlaytestHost<G>,
    ) -> Result<Verdict, PlaytestError> {
        run_playtest(self, number, world, game, stage)
    }
}

impl Project {
    /// Makes what all scenes share, offers each scene, and loads the first one and those that go on while nobody is in
    /// them.
    ///
    /// # Errors
    /// [`BuildError::BuiltTwice`]; what the world says to a part of it. A project that has errors is built as far as it goes; ask
    /// [`has_errors`](Self::has_errors) first.
    pub fn build<G: 'static>(self: &Arc<Self>, world: &mut World<G>) -> Result<(), Error> {
        if world.is_made_of(SHARED).is_some() {
            return Err(Error::Build(BuildError::BuiltTwice { what: SHARED.into() }));
        }
        world.made_of(SHARED, fingerprint(&mut self.head.own_files()));
        if let Some(most) = self.most_players {
            world.limit_players(most);
        }
        // Scenes are known first, so that what all of them share may ask who is in which.
        let mut ids = Vec::new();
        for (number, (scene, left)) in self.scenes.iter().zip(&self.left).enumerate() {
            let name = scene.scene_name().unwrap_or_default();
            world.made_of(&format!("the scene {name}"), fingerprint(&mut scene.own_files()));
            let project = self.clone();
            let make = move |world: &mut World<G>| build(&project.scenes[number], world);
            ids.push(world.offer_scene(name, *left, make));
        }
        build(&self.head, world)?;
        for (number, (scene, left)) in ids.iter().zip(&self.left).enumerate() {
            if number == 0 || *left == WhenEmpty::Running {
                world.load_scene(*scene)?;
            }
        }
        world.end_scene();
        Ok(())
    }
}
