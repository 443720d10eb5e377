//! A text that was changed takes the place of what it was, in a world that runs.

mod change;
mod said;

use std::sync::Arc;

use stoicheon_core::{Became, BuildError, Error, Rewired, WhenEmpty, World};

use self::change::change;
use super::{build, free_wiring, loaded::SHARED, wirings};
use crate::{fingerprint::fingerprint, load::Loaded, project::Project, resolve::View};

impl Loaded {
    /// Takes the place of the text that a world was built of, while the world runs and between two ticks. What is written the
    /// same stays as it is, whatever has become of it: where objects are, what parts and variables hold, who is inside, what waits
    /// in a reaction. What is still as it was written becomes as it is written now; what play has changed stays. A reaction
    /// that is written otherwise begins again. What is new is made, last of its kind in the order of objects; what is written
    /// no more ends.
    ///
    /// ```
    /// use stoicheon_core::{Catalogue, World};
    /// use stoicheon_script::load;
    /// let text = "object gate { door { slide (0, 2, 0) over 2s } }\non started { open gate }";
    /// let before = load("lock.stoi", text, &Catalogue::built_in());
    /// let mut world = World::<()>::new();
    /// before.build(&mut world)?;
    /// for _ in 0..90 {
    ///     world.step(&mut ())?;
    /// }
    /// let after = load("lock.stoi", &format!("{text}\nobject lamp"), &Catalogue::built_in());
    /// let rewired = after.rewire(&mut world, &before)?;
    /// assert_eq!(rewired.to_string(), "kept: 1 object, 0 variables, 1 wire, 0 waiting reactions\n\
    ///                                  lock.stoi:3  object lamp: new");
    /// assert_eq!(world.state_word(world.parts_of(world.find("gate").unwrap())[0]), Some("open"));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`BuildError::Faulty`] for a text that has errors; [`BuildError::NotMadeOf`] when the world was not built of `before`;
    /// [`BuildError::PayloadMismatch`] when a signal that the game has wired with a type of its own carries other fields now;
    /// what the world says to a part of it. Then nothing has changed.
    pub fn rewire<G: 'static>(&self, world: &mut World<G>, before: &Self) -> Result<Rewired, Error> {
        check(self)?;
        let was = fingerprint(&mut before.own_files());
        let what = made_as(world, before, was)
            .ok_or_else(|| Error::Build(BuildError::NotMadeOf { what: before.name().into() }))?;
        let now = match self.scene_name() {
            Some(name) => format!("the scene {name}"),
            None if before.scene_name().is_none() => what.clone(),
            None => free_wiring(world),
        };
        if now != what && world.is_made_of(&now).is_some() {
            return Err(Error::Build(BuildError::BuiltTwice { what: now.into() }));
        }
        world.rewire(|rewiring| {
            change(rewiring, before, self)?;
            rewiring.not_made_of(&what);
            rewiring.made_of(&now, fingerprint(&mut self.own_files()));
            Ok(())
        })
    }
}

/// The name under which a world notes what it was made of, if it was made of that text.
fn made_as<G: 'static>(world: &World<G>, before: &Loaded, contents: u64) -> Option<String> {
    match before.scene_name() {
        Some(name) => {
            let what = format!("the scene {name}");
            (world.is_made_of(&what) == Some(contents)).then_some(what)
        }
        None => wirings(world).find(|what| world.is_made_of(what) == Some(contents)),
    }
}

fn check(loaded: &Loaded) -> Result<(), Error> {
    if loaded.has_errors() {
        return Err(Error::Build(BuildError::Faulty { what: loaded.name().into() }));
    }
    Ok(())
}

impl Project {
    /// The same as [`Loaded::rewire`] for a project: what all scenes share, and every scene that is loaded. The others are made as
    /// they are written now when they are loaded next, with what is remembered of them.
    ///
    /// # Errors
    /// As for [`Loaded::rewire`]; [`BuildError::SceneInUse`] for a scene that is loaded and written no more;
    /// [`BuildError::OtherRate`].
    pub fn rewire<G: 'static>(
        self: &Arc<Self>,
        world: &mut World<G>,
        before: &Self,
    ) -> Result<Rewired, Error> {
        self.all().try_for_each(check)?;
        let (here, rate) = (world.rate(), self.config().rate);
        if here != rate {
            let (here, rate) = (here.per_second(), rate.per_second());
            return Err(Error::Build(BuildError::OtherRate { here, rate }));
        }
        for loaded in before.all() {
            let is_made = world.is_made_of(&made_name(loaded)) == Some(fingerprint(&mut loaded.own_files()));
            if !is_made {
                return Err(Error::Build(BuildError::NotMadeOf { what: loaded.name().into() }));
            }
        }
        world.rewire(|rewiring| {
            for gone in before.scenes.iter().filter(|old| self.scene(old.scene_name()).is_none()) {
                rewiring.not_made_of(&made_name(gone));
                rewiring.withdraw_scene(gone.scene_name().unwrap_or_default())?;
            }
            if let Some(most) = self.most_players {
                rewiring.limit_players(most);
            }
            for (number, (scene, left)) in self.scenes.iter().zip(&self.left).enumerate() {
                let project = self.clone();
                let name = scene.scene_name().unwrap_or_default();
                rewiring.offer_scene(name, *left, move |world: &mut World<G>| {
                    build(&project.scenes[number], world)
                });
            }
            change(rewiring, &before.head, &self.head)?;
            for (scene, left) in self.scenes.iter().zip(&self.left) {
                let name = scene.scene_name().unwrap_or_default();
                let id = rewiring.find_scene(name).unwrap_or_default();
                match before.scene(scene.scene_name()) {
                    Some(old) if rewiring.is_loaded(id) => {
                        let outside = rewiring.enter_scene(Some(id));
                        let changed = change(rewiring, old, scene);
                        rewiring.enter_scene(outside);
                        changed?;
                    }
                    None => {
                        rewiring.tell("scene", name, Became::New, None);
                        if *left == WhenEmpty::Running {
                            rewiring.load_scene(id)?;
                        }
                    }
                    Some(_) => {}
                }
            }
            for loaded in self.all() {
                rewiring.made_of(&made_name(loaded), fingerprint(&mut loaded.own_files()));
            }
            Ok(())
        })
    }

    fn all(&self) -> impl Iterator<Item = &Loaded> {
        std::iter::once(&self.head).chain(&self.scenes)
    }

    fn scene(&self, name: Option<&str>) -> Option<&Loaded> {
        self.scenes.iter().find(|scene| scene.scene_name() == name)
    }
}

/// What a world that is made of a project calls a part of it.
fn made_name(loaded: &Loaded) -> String {
    match loaded.scene_name() {
        Some(name) if loaded.view != View::Hall => format!("the scene {name}"),
        _ => SHARED.to_owned(),
    }
}
