//! Scenes of a world: offering, loading, and who comes and goes.

use std::sync::Arc;

use glam::Vec3;

use crate::{
    act::travel::{Arrival, OF_SCENES},
    base::{
        doing::Doing,
        error::{Error, Near},
        geometry::Pose,
        ids::{ObjectId, SceneId, SignalId},
        signal::Signal,
    },
    moment::{
        memory::{Save, SaveMismatch},
        scenes::WhenEmpty,
    },
    space::reason::Reason,
    state::State,
    trace::record::Event,
    world::World,
};

/// What makes a scene.
pub(crate) type Maker<G> = Arc<dyn Fn(&mut World<G>) -> Result<(), Error> + Send + Sync>;

impl<G: 'static> World<G> {
    /// Says how a scene is made, so that it can be loaded whenever somebody goes there, and what becomes of it while no
    /// player is in it.
    ///
    /// `make` makes its objects and wires, in the same order each time. It is called when the scene is
    /// [loaded](Self::load_scene), and in the upkeep of a tick in which somebody was sent there.
    ///
    /// ```
    /// use stoicheon_core::{Expr, Rotation, Step, Vec3, WhenEmpty, World, Zone};
    /// let mut world = World::<()>::new();
    /// let lockside = world.offer_scene("lockside", WhenEmpty::Frozen, |world| {
    ///     let mouth = world.object("tunnel_mouth").add()?;
    ///     let mouth = world.attach(mouth, Zone::boxed(Vec3::new(1.0, 2.0, 2.0)))?;
    ///     let step = Step::SendAway { who: Expr::Who, scene: "tunnel".into(), spot: "landing".into() };
    ///     world.on(mouth.entered).run_steps([step]).map(|_| ())
    /// });
    /// world.offer_scene("tunnel", WhenEmpty::Unloaded, |world| {
    ///     world.spot_at("landing", None, Vec3::ZERO, Rotation::NONE).map(|_| ())
    /// });
    /// world.load_scene(lockside)?;
    /// let ada = world.player("ada").in_scene(lockside).at(Vec3::new(3.0, 0.0, 0.0)).add()?;
    /// world.walk(ada, Vec3::ZERO, 4.0)?;
    /// for _ in 0..30 {
    ///     world.step(&mut ())?;
    /// }
    /// assert_eq!(world.scene_of(ada), world.find_scene("tunnel"));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn offer_scene(
        &mut self,
        name: &str,
        when_empty: WhenEmpty,
        make: impl Fn(&mut Self) -> Result<(), Error> + Send + Sync + 'static,
    ) -> SceneId {
        let id = self.state.moment.scenes.know(name);
        if let Some(scene) = self.state.moment.scenes.get_mut(id) {
            (scene.offered, scene.when_empty) = (true, when_empty);
        }
        self.makers.insert(id, Arc::new(make));
        id
    }

    /// Wires more to a scene each time it loads, and now if it is loaded: a game's closures on a scene of a file, say. What is
    /// wired here belongs to the scene and ends with it. Of several for one scene, the first one is called first.
    ///
    /// ```
    /// use stoicheon_core::{Door, WhenEmpty, World};
    /// let mut world = World::<u32>::new();
    /// let tunnel = world.offer_scene("tunnel", WhenEmpty::Unloaded, |world| {
    ///     let gate = world.object("gate").add()?;
    ///     world.attach(gate, Door::swing(85.0)).map(|_| ())
    /// });
    /// world.on_load("tunnel", |world| {
    ///     let opening = world.signal::<()>("gate.opening")?;
    ///     world.on(opening).run(|openings: &mut u32, (), _| *openings += 1).map(|_| ())
    /// })?;
    /// let mut openings = 0;
    /// for _ in 0..2 {
    ///     world.load_scene(tunnel)?;
    ///     let gate = world.find("gate").expect("the scene is loaded");
    ///     world.command(world.find_part::<Door>(gate)?, Door::TO_OPEN)?;
    ///     world.step(&mut openings)?;
    ///     world.unload(tunnel)?;
    ///     world.step(&mut openings)?;
    /// }
    /// assert_eq!(openings, 2);
    /// assert!(world.on_load("tunel", |_| Ok(())).unwrap_err().to_string().ends_with("did you mean \"tunnel\"?"));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSceneOfName`]; [`Error::BrokenOff`]; if the scene is loaded, what `wire` says, and then what it wired before
    /// that stays until the scene is unloaded. What it says when the scene loads keeps the scene from being loaded.
    pub fn on_load(
        &mut self,
        scene: &str,
        wire: impl Fn(&mut Self) -> Result<(), Error> + Send + Sync + 'static,
    ) -> Result<(), Error> {
        self.check_whole()?;
        let scenes = &self.state.moment.scenes;
        let known = |id: &SceneId| scenes.get(*id).is_some_and(|scene| scene.offered || scene.loaded);
        let Some(id) = scenes.find(scene).filter(known) else {
            let names = scenes.ids().filter(known).filter_map(|id| scenes.name(id));
            let near = Near::of(scene, &mut names.map(smol_str::SmolStr::as_str));
            return Err(Error::NoSceneOfName { found: scene.into(), near });
        };
        if scenes.is_loaded(id) {
            let before = self.state.moment.scenes.current.replace(id);
            let wired = wire(self);
            self.state.moment.scenes.current = before;
            wired?;
        }
        self.wirers.entry(id).or_default().push(Arc::new(wire));
        Ok(())
    }

    /// Loads a scene that was offered, unless it is loaded. What is remembered of it is as it was.
    ///
    /// # Errors
    /// [`Error::NoSuchScene`] for one that was not offered; what its making says, and then nothing of it is there.
    pub fn load_scene(&mut self, scene: SceneId) -> Result<(), Error> {
        self.check_whole()?;
        self.load_now(scene)?;
        self.free_what_ended();
        Ok(())
    }

    pub(crate) fn load_now(&mut self, scene: SceneId) -> Result<(), Error> {
        for mismatch in self.load_and_recall(scene)? {
            self.state.fault(&mismatch, Doing::default());
        }
        Ok(())
    }

    /// Loads a scene, and says what does not fit of what is remembered of it.
    pub(crate) fn load_and_recall(&mut self, scene: SceneId) -> Result<Vec<SaveMismatch>, Error> {
        if self.state.moment.scenes.is_loaded(scene) {
            return Ok(Vec::new());
        }
        let maker = self.makers.get(&scene).cloned().ok_or(Error::NoSuchScene)?;
        let name = self.state.moment.scenes.name(scene).cloned().ok_or(Error::NoSuchScene)?;
        let before = self.state.moment.scenes.current;
        self.state.moment.scenes.begin(&name);
        self.state.wake_brought(scene);
        self.state.moment.scenes.loading = true;
        let wirers = self.wirers.get(&scene).cloned().unwrap_or_default();
        let made = maker(self).and_then(|()| wirers.iter().try_for_each(|wire| wire(self)));
        self.state.moment.scenes.loading = false;
        self.state.moment.scenes.current = before;
        if let Err(error) = made {
            // What is remembered of it stays as it is.
            self.state.end_all_of(scene);
            self.free_what_ended();
            return Err(error);
        }
        self.state.bus.trace.note(None, 0, Event::Loaded { scene });
        Ok(self.state.recall_scene(scene))
    }

    /// Loads a scene for a player on the way there: if the player does not arrive, nobody is in it.
    pub(crate) fn load_for_visit(&mut self, scene: SceneId) -> Result<(), Error> {
        if self.state.moment.scenes.is_loaded(scene) {
            return Ok(());
        }
        self.load_now(scene)?;
        if let Some(scene) = self.state.moment.scenes.get_mut(scene) {
            scene.visited = true;
        }
        Ok(())
    }

    /// A signal that every world gives, of one scene alone: `started` when it has been loaded, and `pressed`, `released`,
    /// `joined`, `quit` and `arrived` of those who are in it.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for another name; [`Error::NoSuchScene`].
    pub fn signal_in(&mut self, scene: SceneId, name: &str) -> Result<SignalId, Error> {
        if !OF_SCENES.contains(&name) {
            return Err(Error::UnknownName { kind: "a signal that every scene gives", found: name.into() });
        }
        let whole =
            crate::base::names::path(self.state.moment.scenes.name(scene).ok_or(Error::NoSuchScene)?, name);
        Ok(match name {
            "pressed" | "released" => self.declare_signal::<crate::world::Key>(&whole)?.id(),
            "arrived" => self.declare_signal::<Arrival>(&whole)?.id(),
            _ => self.declare_signal::<()>(&whole)?.id(),
        })
    }

    /// A player came. Given at start-up too, for everybody who is here then.
    pub fn joined(&self) -> Signal<()> {
        self.own.joined
    }

    /// A player has left. Their body is ending; what is theirs alone can still be read.
    pub fn quit(&self) -> Signal<()> {
        self.own.quit
    }

    /// Somebody came from one scene to another.
    pub fn arrived(&self) -> Signal<Arrival> {
        self.own.arrived
    }

    /// How many players there may be at one time. Default any number.
    pub fn limit_players(&mut self, most: u32) {
        self.state.plan.edit().most_players = Some(most);
    }

    /// Lets a player join: at a spot of a scene, which is loaded if it has to be, or at one of no scene, whose name is
    /// empty then; or, without one, where that player was when they left, with the tags they had.
    ///
    /// # Errors
    /// [`Error::NowhereToJoin`]; [`Error::UnknownName`] for a scene or a spot there is not; [`BuildError::NameTaken`](crate::BuildError::NameTaken) if the player
    /// is here; [`Error::NoRoom`]; what loading the scene says.
    pub fn join(&mut self, name: &str, at: Option<(&str, &str)>) -> Result<ObjectId, Error> {
        let person = self.state.moment.objects.people.get(name);
        let last = person.and_then(|person| person.last.clone());
        let (scene, spot) = match at {
            // What belongs to no scene is found without one.
            Some(("", spot)) => (None, Some(("", spot))),
            Some((scene, spot)) => {
                let unknown = || Error::UnknownName { kind: "a scene", found: scene.into() };
                (Some(self.state.moment.scenes.find(scene).ok_or_else(unknown)?), Some((scene, spot)))
            }
            None => {
                let last = last.as_ref().ok_or_else(|| Error::NowhereToJoin { name: name.into() })?;
                (last.scene, None)
            }
        };
        if let Some(scene) = scene {
            self.load_for_visit(scene)?;
            self.free_what_ended();
        }
        let pose = match (spot, &last) {
            (Some((scene, spot)), _) => {
                let unknown = || Error::UnknownName { kind: "a spot of that scene", found: spot.into() };
                let found = self.state.plan.spots.find_in(scene, spot).ok_or_else(unknown)?;
                let found = self.state.spot(found)?;
                Pose { at: found.at, facing: found.facing }
            }
            (None, Some(last)) => last.pose,
            (None, None) => Pose::at(Vec3::ZERO),
        };
        let mut new = self.player(name).at(pose.at).facing(pose.facing);
        if let Some(scene) = scene {
            new = new.in_scene(scene);
        }
        for tag in last.iter().flat_map(|last| &last.tags).filter(|tag| *tag != crate::base::names::PLAYER) {
            new = new.tag(tag);
        }
        let id = new.add()?;
        // A player who joins inside a door is not sent through it at once.
        let key = self.state.body_mut(id)?.key;
        self.state.moment.tracker.send(key, pose.at)?;
        Ok(id)
    }

    /// Lets everybody join again who was here when a save was made, where they were then. Gives back who cannot, and why.
    ///
    /// # Errors
    /// [`Error::BrokenOff`] after a reaction panicked.
    pub fn rejoin(&mut self, save: &Save) -> Result<Vec<SaveMismatch>, Error> {
        self.check_whole()?;
        let mut mismatches = Vec::new();
        for player in save.here() {
            if let Err(error) = self.join(player, None) {
                let (name, reason) = (player.into(), error.to_string().into());
                mismatches.push(SaveMismatch::Refused { kind: "player", name, reason });
            }
        }
        Ok(mismatches)
    }

    /// What was made so far belongs to the scene that was begun; what is made from now on, to none.
    pub fn end_scene(&mut self) {
        self.state.moment.scenes.current = None;
    }
}

impl State {
    /// Ends the body of a player who has left: they let go of what they held, and set down what they carried.
    pub(crate) fn leave(&mut self, id: ObjectId, doing: Doing) -> Result<(), Error> {
        let scene = self.scene_of(id);
        self.end(id, Reason::PlayerLeft, doing)?;
        self.tell_all_and_scene("quit", scene, &[], Doing { who: Some(id), ..doing });
        Ok(())
    }
}
