//! What a reaction does on somebody's behalf, and the journeys it sends bodies on.

use glam::Vec3;

use crate::{
    base::{
        doing::Doing,
        error::{Error, NoSuchSignal},
        ids::{ObjectId, PartId},
        numbers::Command,
        payload::Payload,
        signal::Signal,
        value::Value,
    },
    part::cx::owned,
    trace::record::Event,
    world::cx::Cx,
};

impl<G: 'static> Cx<'_, G> {
    /// The same cause, on behalf of somebody else.
    fn doing_for(&self, who: Option<ObjectId>) -> Result<Doing, Error> {
        if let Some(who) = who {
            self.state.moment.objects.get(who).ok_or(Error::NoSuchObject)?;
        }
        Ok(Doing { who, ..self.doing })
    }

    /// Emits a signal on somebody's behalf; `None` for nobody's.
    ///
    /// ```
    /// use stoicheon_core::World;
    /// let mut world = World::<Vec<String>>::new();
    /// let turn = world.declare_signal::<()>("turn")?;
    /// let moved = world.declare_signal::<()>("moved")?;
    /// let ben = world.player("ben").add()?;
    /// world.on(turn).run(move |_: &mut Vec<String>, (), cx| cx.emit_for(Some(ben), moved, ()))?;
    /// world.on(moved).run(|notes: &mut Vec<String>, (), cx| {
    ///     notes.extend(cx.who().and_then(|who| cx.name(who)).map(str::to_owned));
    /// })?;
    /// world.emit(turn, ())?;
    /// let mut notes = Vec::new();
    /// world.step(&mut notes)?;
    /// assert_eq!(notes, ["ben"]);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`]; [`Error::NoSuchObject`] for whom.
    pub fn emit_for<T: Payload>(
        &mut self,
        who: Option<ObjectId>,
        signal: Signal<T>,
        payload: T,
    ) -> Result<(), Error> {
        let doing = self.doing_for(who)?;
        self.state.bus.emit(signal, payload, doing).map_err(|NoSuchSignal| NoSuchSignal.into())
    }

    /// Tells a part what to do on somebody's behalf, with what is said with the command by name.
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
        let doing = self.doing_for(who)?;
        self.state.command_with(part, command, &owned(args), doing)
    }

    /// Sends a body on a straight walk at so many scene units per second, from the next motion phase on.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::NotABody`] or [`BuildError::BadPlace`](crate::BuildError::BadPlace); [`BuildError::BadNumber`](crate::BuildError::BadNumber) for a speed that is not
    /// above 0.
    pub fn walk(&mut self, body: ObjectId, to: Vec3, speed: f64) -> Result<(), Error> {
        self.state.check_walk(body, to, speed)?;
        let cause = self.state.bus.trace.note(self.doing.cause, 0, Event::SetOut { body, to });
        self.state.set_out(body, to, speed, cause)
    }

    /// Takes a body to a spot of another scene in this tick's upkeep; the scene is loaded if it has to be.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`Error::UnknownName`] for a scene this world neither has nor can load. A spot that is not
    /// there is a fault in upkeep.
    pub fn bring(&mut self, body: ObjectId, scene: &str, spot: &str) -> Result<(), Error> {
        self.state.check_journey(body, scene)?;
        self.state.send_away(body, &scene.into(), &spot.into(), self.doing);
        Ok(())
    }
}
