//! What a playtest needs of its runner.

use crate::{
    moment::memory::Save,
    playtest::error::PlaytestError,
    world::{World, snapshot::Snapshot},
};

/// What a playtest needs of its runner.
pub trait PlaytestHost<G> {
    /// A look at the world after every tick.
    fn watch(&mut self, world: &mut World<G>) {
        let _ = world;
    }

    /// A new world, made as the one under test was, for a playtest that reloads or suspends it.
    ///
    /// # Errors
    /// [`PlaytestError::NoHost`] where there is no way to make one.
    fn fresh(&mut self) -> Result<World<G>, PlaytestError> {
        Err(PlaytestError::NoHost)
    }

    /// The game's own state for another world, in a playtest in which each player has a world of their own.
    ///
    /// # Errors
    /// [`PlaytestError::NoHost`] where there is no way to make one.
    fn fresh_game(&mut self) -> Result<G, PlaytestError> {
        Err(PlaytestError::NoHost)
    }

    /// The world that a new one has taken the place of, in a playtest that reloads or suspends it.
    fn replaced(&mut self, old: World<G>) {
        drop(old);
    }

    /// What was saved, by way of a file if there is one. An error is what to tell people.
    ///
    /// # Errors
    /// What is wrong with it.
    fn keep(&mut self, save: Save) -> Result<Save, String> {
        Ok(save)
    }

    /// The same for a whole world.
    ///
    /// # Errors
    /// What is wrong with it.
    fn keep_whole(&mut self, snapshot: Snapshot) -> Result<Snapshot, String> {
        Ok(snapshot)
    }
}

/// A stage that watches nothing and makes no other world.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoHost;

impl<G> PlaytestHost<G> for NoHost {}

pub(crate) struct OnlyWatch<'w, G>(pub(crate) &'w mut dyn FnMut(&mut World<G>));

impl<G> PlaytestHost<G> for OnlyWatch<'_, G> {
    fn watch(&mut self, world: &mut World<G>) {
        (self.0)(world);
    }
}
