//! Saves, for the host.

use crate::{
    act::recall::unknown,
    base::{clock::Tick, error::SaveError},
    moment::memory::{Save, SaveMismatch},
    world::World,
};

/// A clock that stands later could run over.
const LAST_TICK: u64 = 1 << 60;

impl<G: 'static> World<G> {
    /// Everything the world was told to remember, as data.
    ///
    /// # Errors
    /// [`SaveError::BrokenOff`] after a reaction panicked.
    pub fn save(&self) -> Result<Save, SaveError> {
        self.check_whole().map_err(|_| SaveError::BrokenOff)?;
        Ok(self.state.save())
    }

    /// Puts what was remembered back: now, for what is loaded; when it is loaded, for other scenes. Players of the save
    /// are known, each with their number; they [join again](Self::rejoin) where they were. The clock goes on from the time of
    /// the save, if the world has not begun.
    ///
    /// For a world that was just made, before anybody joins. Gives back what did not fit and was left out. What does not
    /// fit of a scene that is loaded later is traced as a fault then.
    ///
    /// # Errors
    /// [`SaveError::Version`] for one of another form; [`SaveError::TooLate`] when players have other numbers here.
    /// Then nothing is changed.
    pub fn recall(&mut self, save: &Save) -> Result<Vec<SaveMismatch>, SaveError> {
        self.check_whole().map_err(|_| SaveError::BrokenOff)?;
        if save.version == 0 || save.version > Save::VERSION {
            return Err(SaveError::Version { found: save.version, known: Save::VERSION });
        }
        if save.tick > LAST_TICK {
            return Err(SaveError::Mismatch { what: format!("its tick {} is past all counting", save.tick) });
        }
        let mut others = self.state.moment.objects.people.keys().zip(&save.players);
        if let Some((here, there)) = others.find(|(here, there)| **here != there.name) {
            let (here, there) = (here.clone(), there.name.clone());
            return Err(SaveError::TooLate { here, there });
        }
        let mut mismatches = Vec::new();
        let state = &mut self.state;
        if !state.moment.started {
            state.moment.clock.now = Tick(state.moment.clock.now.0.max(save.tick));
        }
        state.recall_players(&save.players, &mut mismatches);
        let mut away = Vec::new();
        for (name, memory) in &save.scenes {
            if name.is_empty() {
                mismatches.append(&mut state.recall_in(None, memory));
                continue;
            }
            match state.moment.scenes.find(name) {
                Some(scene) if state.moment.scenes.is_loaded(scene) => {
                    mismatches.append(&mut state.recall_in(Some(scene), memory));
                }
                Some(scene) => {
                    if memory.objects.values().any(|object| !object.gone && object.scene.is_some()) {
                        away.push(scene);
                    }
                    state.moment.memory.scenes.edit().insert(name.clone(), memory.clone());
                }
                None => mismatches.push(unknown("a scene", name)),
            }
        }
        // What was taken out of its scene is made with it, and stays where it was taken when that ends again.
        for scene in away {
            match self.load_and_recall(scene) {
                Ok(mut found) => mismatches.append(&mut found),
                Err(error) => {
                    let name = self.state.moment.scenes.name(scene).cloned().unwrap_or_default();
                    mismatches.push(SaveMismatch::Refused {
                        kind: "scene",
                        name,
                        reason: error.to_string().into(),
                    });
                }
            }
            self.state.unload_scene(scene);
            self.free_what_ended();
        }
        self.free_what_ended();
        Ok(mismatches)
    }
}
