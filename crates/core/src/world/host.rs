//! What the host hands in. It is checked here and takes effect in the intake phase of the next tick, in the order
//! it was handed in.

use std::any::TypeId;

use glam::Vec3;

use crate::{
    act::pointing::Pointing,
    base::{
        error::Error,
        geometry::{Rotation, check_place, check_velocity},
        ids::{ObjectId, PartId, SceneId, VarId, WireId},
        numbers::Command,
        payload::{Payload, fit},
        place::Place,
        signal::Signal,
        value::{Value, Values},
    },
    moment::queue::Emission,
    part::cx::owned,
    parts::{
        choice::Choice,
        door::{Door, DoorHandle},
    },
    plan::{patterns::NewWire, steps::Step},
    space::shape::Shape,
    world::{World, input::Input},
};

impl<G: 'static> World<G> {
    fn hand_in(&mut self, input: Input) -> Result<(), Error> {
        self.check_whole()?;
        self.inputs.push(input);
        Ok(())
    }

    fn check_object(&self, object: ObjectId) -> Result<(), Error> {
        self.state.moment.objects.get(object).map(|_| ()).ok_or(Error::NoSuchObject)
    }

    /// Emits a signal, caused by nobody.
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`]; [`Error::WrongValues`] for what its declared fields cannot hold.
    pub fn emit<T: Payload>(&mut self, signal: Signal<T>, payload: T) -> Result<(), Error> {
        self.emit_for(None, signal, payload)
    }

    /// Emits a signal that goes back to somebody.
    ///
    /// # Errors
    /// As for [`emit`](Self::emit).
    pub fn emit_for<T: Payload>(
        &mut self,
        who: Option<ObjectId>,
        signal: Signal<T>,
        payload: T,
    ) -> Result<(), Error> {
        self.check_whole()?;
        let lane = self.state.bus.open_lane(signal.id())?;
        let store = lane.store;
        // Values of no type of their own may be anything; what they are to be is known.
        if TypeId::of::<T>() == TypeId::of::<Values>() {
            let values = payload.to_values();
            if !fit(&lane.fields, &values) {
                return Err(self.state.bus.wrong_values(signal.id(), &values));
            }
        }
        let pushed = self.state.bus.payloads.push(store, payload);
        pushed.map_err(|values| self.state.bus.wrong_values(signal.id(), &values))?;
        self.inputs.push(Input::Emission(Emission {
            signal: signal.id(),
            who,
            cause: None,
            by: None,
            arrived: None,
            after: 0,
            parent: 0,
        }));
        Ok(())
    }

    /// Puts an object somewhere. A body does not pass what lies between. Of several places of a body since the last tick
    /// the last one counts.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn put(&mut self, object: ObjectId, at: Vec3) -> Result<(), Error> {
        self.check_whole()?;
        self.check_object(object)?;
        check_place(at)?;
        self.hand_in_place(object, at, true);
        Ok(())
    }

    /// Says where a body is that the host moves itself: it passes what lies between.
    ///
    /// Of several since the last tick the last one counts, so a host may say it in every frame, however many ticks that has.
    /// In a frame of several ticks the way is spread over them. A body that is put or sent elsewhere meanwhile stays there:
    /// [`moves`](crate::State::moves) tells of it.
    ///
    /// ```
    /// use stoicheon_core::{Vec3, World, Zone, secs};
    /// let mut world = World::<u32>::new(); // 30 ticks per second
    /// let ada = world.player("ada").at(Vec3::new(0.0, 0.0, 0.0)).add()?;
    /// let pad = world.object("towpath_pad").at(Vec3::new(5.0, 0.0, 0.0)).add()?;
    /// let pad = world.attach(pad, Zone::boxed(Vec3::splat(1.0)))?;
    /// world.on(pad.entered).run(|entered: &mut u32, _, _| *entered += 1)?;
    /// let (mut entered, mut x) = (0, 0.0);
    /// // The game's own loop, at 75 frames a second: most have no tick.
    /// for _ in 0..75 {
    ///     x += 10.0 / 75.0;
    ///     world.move_to(ada, Vec3::new(x, 0.0, 0.0))?;
    ///     world.advance(secs(1.0 / 75.0), &mut entered)?;
    /// }
    /// assert_eq!(entered, 1);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// As for [`put`](Self::put), and [`Error::NotABody`].
    pub fn move_to(&mut self, body: ObjectId, at: Vec3) -> Result<(), Error> {
        self.check_whole()?;
        check_place(at)?;
        self.state.check_body(body)?;
        self.hand_in_place(body, at, false);
        Ok(())
    }

    /// A body is in one place: what was said of it since the last tick is replaced. If it was to be put anywhere, it is
    /// put where it is said to be last.
    fn hand_in_place(&mut self, id: ObjectId, at: Vec3, put: bool) {
        let input = if put { Input::Put { object: id, at } } else { Input::Move { body: id, at } };
        if !self.state.moment.objects.is_body(id) {
            self.inputs.push(input);
            return;
        }
        match self.inputs.place_of(id) {
            Some(Input::Put { at: there, .. }) => *there = at,
            Some(before) => *before = input,
            None => self.inputs.push(input),
        }
    }

    /// Turns an object to face that way.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn face(&mut self, object: ObjectId, facing: Rotation) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Face { object, facing })
    }

    /// Gives a body a velocity, in scene units per second, by which the motion phase moves it; 0 for a body that the
    /// host moves.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::NotABody`] or [`BuildError::BadVelocity`](crate::BuildError::BadVelocity).
    pub fn drive(&mut self, body: ObjectId, velocity: Vec3) -> Result<(), Error> {
        self.state.check_body(body)?;
        check_velocity(velocity)?;
        self.hand_in(Input::Drive { body, velocity })
    }

    /// Says that a body came into a zone that has no shape, or went out of it: for hosts whose own physics knows.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; [`Error::NotTold`] for a zone that has a shape; [`Error::NoSuchObject`],
    /// [`Error::NotABody`].
    pub fn touch(&mut self, zone: PartId, body: ObjectId, inside: bool) -> Result<(), Error> {
        self.state.check_body(body)?;
        if self.state.region_of(zone)?.shape.is_some() {
            return Err(Error::NotTold);
        }
        self.hand_in(Input::Touch { zone, body, inside })
    }

    /// Gives a zone, or another part that has a shape, another one.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; what is wrong with the shape.
    pub fn reshape(&mut self, part: PartId, shape: Shape) -> Result<(), Error> {
        self.state.parts.get(part).ok_or(Error::NoSuchPart)?;
        shape.check()?;
        self.hand_in(Input::Reshape { part, shape })
    }

    /// Hangs an object on another one, or on nothing: it stays where it is, and from then on goes where that goes, is
    /// off while that is off, and ends with it.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]. Whether it would hang on itself is found out in the intake, and traced.
    pub fn hang(&mut self, object: ObjectId, on: Option<ObjectId>) -> Result<(), Error> {
        self.check_object(object)?;
        on.map_or(Ok(()), |on| self.check_object(on))?;
        self.hand_in(Input::Hang { object, on })
    }

    /// A player points: the first thing on the ray is picked, if it can be and is within reach of the player.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] for the player; [`BuildError::BadPlace`](crate::BuildError::BadPlace) or [`BuildError::BadDirection`](crate::BuildError::BadDirection) for the ray.
    pub fn point(&mut self, pointing: Pointing) -> Result<(), Error> {
        self.check_object(pointing.who)?;
        pointing.check()?;
        self.hand_in(Input::Point(pointing))
    }

    /// A player leaves: the player's body is destroyed, and zones say so.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::NotABody`].
    pub fn leave(&mut self, player: ObjectId) -> Result<(), Error> {
        self.state.check_body(player)?;
        self.hand_in(Input::Leave { player })
    }

    /// Sends a body on a straight walk, at so many scene units per second. It passes whatever lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::NotABody`], [`BuildError::BadPlace`](crate::BuildError::BadPlace), or [`BuildError::BadNumber`](crate::BuildError::BadNumber) for a speed
    /// that is not above zero.
    pub fn walk(&mut self, body: ObjectId, to: Vec3, speed: f64) -> Result<(), Error> {
        self.state.check_walk(body, to, speed)?;
        self.hand_in(Input::Walk { body, to, speed })
    }

    /// Whether a body is on a walk.
    pub fn is_walking(&self, body: ObjectId) -> bool {
        let sent = self.inputs.sends_out(body);
        let body = self.state.moment.objects.get(body).and_then(|object| object.body.as_ref());
        sent || body.is_some_and(|body| body.course.is_some())
    }

    /// A player presses a key.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn press(&mut self, who: ObjectId, key: &str) -> Result<(), Error> {
        self.check_object(who)?;
        self.hand_in(Input::Key { who, key: key.into(), down: true })
    }

    /// A player releases a key.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn release(&mut self, who: ObjectId, key: &str) -> Result<(), Error> {
        self.check_object(who)?;
        self.hand_in(Input::Key { who, key: key.into(), down: false })
    }

    /// Enables an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn enable(&mut self, object: ObjectId) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Switch { object, on: true })
    }

    /// Disables an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn disable(&mut self, object: ObjectId) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Switch { object, on: false })
    }

    /// Ends an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn destroy(&mut self, object: ObjectId) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Destroy { object })
    }

    /// Opens a door.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`].
    pub fn open(&mut self, door: DoorHandle) -> Result<(), Error> {
        self.command(door.part, Door::TO_OPEN)
    }

    /// Closes a door.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`].
    pub fn close(&mut self, door: DoorHandle) -> Result<(), Error> {
        self.command(door.part, Door::TO_CLOSE)
    }

    /// Tells a part what to do, where nothing more need be said.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`], [`CommandError::NoCommandNumber`](crate::CommandError::NoCommandNumber) or [`CommandError::MissingArgument`](crate::CommandError::MissingArgument).
    pub fn command(&mut self, part: PartId, command: Command) -> Result<(), Error> {
        self.command_for(None, part, command, &[])
    }

    /// Tells a part what to do, for somebody, with what is said with the command by name. A span is said in ticks:
    /// [`TickRate::ticks`](crate::TickRate::ticks) counts them.
    ///
    /// ```
    /// use stoicheon_core::{Tally, World};
    /// let mut world = World::<()>::new();
    /// let boats = world.object("boats").add()?;
    /// let boats = world.attach(boats, Tally::new())?;
    /// world.command_for(None, boats.part, Tally::COUNT, &[("by", 3.into())])?;
    /// let slip = world.command_for(None, boats.part, Tally::COUNT, &[("buy", 3.into())]);
    /// assert_eq!(
    ///     slip.unwrap_err().to_string(),
    ///     "`count` of a tally takes `by`, `for`, found \"buy\"; did you mean \"by\"?",
    /// );
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; [`CommandError::NoCommandNumber`](crate::CommandError::NoCommandNumber); [`CommandError::NoSuchArgument`](crate::CommandError::NoSuchArgument), [`CommandError::ArgumentTwice`](crate::CommandError::ArgumentTwice),
    /// [`CommandError::MissingArgument`](crate::CommandError::MissingArgument) or [`CommandError::WrongArgument`](crate::CommandError::WrongArgument) for what is said; [`Error::NoSuchObject`] for whom.
    pub fn command_for(
        &mut self,
        who: Option<ObjectId>,
        part: PartId,
        command: Command,
        args: &[(&str, Value)],
    ) -> Result<(), Error> {
        self.state.check_command(part, command, args)?;
        who.map_or(Ok(()), |who| self.check_object(who))?;
        let args = owned(args).into_vec();
        self.hand_in(Input::Command { part, command, who, args })
    }

    /// A player has chosen one of the answers to a question that is put to them.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] for what is no choice; [`Error::NoSuchObject`]; [`Error::UnknownName`] for an answer it does
    /// not have. A question that is not put to them by then is not answered, as the trace says.
    pub fn choose(&mut self, who: ObjectId, choice: PartId, answer: &str) -> Result<(), Error> {
        if !self.state.part::<Choice>(choice)?.answers().iter().any(|known| known == answer) {
            return Err(Error::UnknownName { kind: "an answer", found: answer.into() });
        }
        self.command_for(Some(who), choice, Choice::CHOOSE, &[("answer", answer.into())])
    }

    /// A player does not answer a question that is put to them.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] for what is no choice, or [`Error::NoSuchObject`].
    pub fn decline(&mut self, who: ObjectId, choice: PartId) -> Result<(), Error> {
        self.state.part::<Choice>(choice)?;
        self.command_for(Some(who), choice, Choice::DECLINE, &[])
    }

    /// Sets a variable.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`], or [`Error::WrongType`] when it holds something else.
    pub fn set(&mut self, var: VarId, to: impl Into<Value>) -> Result<(), Error> {
        let to = to.into();
        let to = self.state.moment.vars.check(var, to)?;
        self.state.check_free(var)?;
        self.hand_in(Input::Set { var, of: None, to })
    }

    /// Sets a variable that each player has, for one of them.
    ///
    /// # Errors
    /// As for [`set`](Self::set), and [`Error::NoSuchObject`].
    pub fn set_of(&mut self, var: VarId, who: ObjectId, to: impl Into<Value>) -> Result<(), Error> {
        self.check_object(who)?;
        let to = self.state.moment.vars.check(var, to.into())?;
        self.state.check_free(var)?;
        self.hand_in(Input::Set { var, of: Some(who), to })
    }

    /// Changes a setting of a part that may change while the world runs; the catalogue says which may.
    ///
    /// ```
    /// use stoicheon_core::{Prompt, World};
    /// let mut world = World::<()>::new();
    /// let post = world.object("gauge_post").add()?;
    /// let prompt = world.attach(post, Prompt::new("Wind the paddle"))?;
    /// world.change(prompt.part, "label", "Wind it again")?;
    /// world.step(&mut ())?;
    /// assert_eq!(world.reading(prompt.part, "label", None), Some("Wind it again".into()));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSuchPart`], [`Error::FixedSetting`] or [`Error::WrongSetting`]. A value out of its range is told as a fault in the
    /// tick that takes it in.
    pub fn change(&mut self, part: PartId, setting: &str, to: impl Into<Value>) -> Result<(), Error> {
        let (setting, to) = self.state.check_setting(part, setting, to.into())?;
        self.hand_in(Input::Change { part, setting: setting.into(), to })
    }

    /// Takes a body to a spot of another scene in the upkeep of the next tick; the scene is loaded if it has to be.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`Error::UnknownName`] for a scene this world neither has nor can load. A spot that is
    /// not there is found out when the scene is loaded, and traced.
    pub fn bring(&mut self, body: ObjectId, scene: &str, spot: &str) -> Result<(), Error> {
        self.state.check_journey(body, scene)?;
        self.hand_in(Input::Bring { body, scene: scene.into(), spot: spot.into() })
    }

    /// Does statements in the intake of the next tick, caused by nobody. What waits in them is given up.
    pub(crate) fn do_once(
        &mut self,
        steps: &[Step],
        scene: Option<SceneId>,
        place: Place,
    ) -> Result<(), Error> {
        self.check_whole()?;
        // It hears what has been delivered for the last time: nothing but the input runs it.
        let wire = NewWire::on(self.own.started).run(steps).written_at(place);
        let made = self.wire_in(&wire, scene)?;
        if let Some(journal) = &mut self.journal {
            journal.done.push((wire, scene));
        }
        self.hand_in(Input::Do { wire: made })
    }

    /// Makes a wire as the wiring of a scene does.
    pub(crate) fn wire_in(&mut self, wire: &NewWire, scene: Option<SceneId>) -> Result<WireId, Error> {
        let before = std::mem::replace(&mut self.state.moment.scenes.current, scene);
        let made = self.state.wire(wire, None);
        self.state.moment.scenes.current = before;
        made
    }

    /// Unloads a scene in the upkeep of the next tick: its objects are destroyed, by number, and its wires are cut.
    /// Managers stay, and players with what they carry; they are in no scene then.
    ///
    /// # Errors
    /// [`Error::NoSuchScene`] when it was unloaded already.
    pub fn unload(&mut self, scene: SceneId) -> Result<(), Error> {
        if !self.state.moment.scenes.is_loaded(scene) {
            return Err(Error::NoSuchScene);
        }
        self.hand_in(Input::Unload { scene })
    }
}
