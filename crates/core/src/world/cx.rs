//! What a reaction in Rust can do.

use std::ops::Deref;

use glam::Vec3;

use crate::{
    base::{
        clock::Seconds,
        doing::Doing,
        ease::{Ease, Moved},
        error::{Error, NoSuchSignal},
        geometry::Rotation,
        ids::{EffectId, MouldId, ObjectId, PartId, SignalId, SpotId, VarId, WireId},
        numbers::Command,
        payload::Payload,
        signal::Signal,
        value::{Text, Value, Values},
    },
    part::contract::PartSpec,
    parts::door::{Door, DoorHandle},
    space::shape::Shape,
    state::State,
    world::{closures::Fresh, new_object::NewObject, on::On},
};

/// The world as a reaction sees it, and what it can change there.
///
/// What it changes is true at once; what it emits joins the end of the queue. Everything that can be asked of a
/// [`State`] can be asked here too.
pub struct Cx<'a, G> {
    pub(crate) state: &'a mut State,
    pub(crate) fresh: &'a mut Vec<Fresh<G>>,
    pub(crate) doing: Doing,
    pub(crate) signal: SignalId,
}

impl<G> Deref for Cx<'_, G> {
    type Target = State;
    fn deref(&self) -> &State {
        self.state
    }
}

impl<G> std::fmt::Debug for Cx<'_, G> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Cx").field("doing", &self.doing).field("signal", &self.signal).finish_non_exhaustive()
    }
}

impl<G: 'static> Cx<'_, G> {
    /// The body or player that caused this, if anybody did.
    pub fn who(&self) -> Option<ObjectId> {
        self.doing.who
    }

    /// The signal that is being delivered.
    pub fn signal(&self) -> SignalId {
        self.signal
    }

    /// Emits a signal; it goes back to the same one as this delivery.
    ///
    /// # Errors
    /// [`NoSuchSignal`].
    #[inline]
    pub fn emit<T: Payload>(&mut self, signal: Signal<T>, payload: T) -> Result<(), NoSuchSignal> {
        self.state.bus.emit(signal, payload, self.doing)
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
        self.state.check_command(part, command, &[])?;
        self.state.command(part, command, self.doing)
    }

    /// Sets a variable.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`], or [`Error::WrongType`] when it holds something else.
    pub fn set(&mut self, var: VarId, to: impl Into<Value>) -> Result<(), Error> {
        self.state.set_var(var, None, to.into(), self.doing)
    }

    /// Sets a variable that each player has, for one of them.
    ///
    /// # Errors
    /// As for [`set`](Self::set), and [`Error::NoSuchObject`].
    pub fn set_of(&mut self, var: VarId, who: ObjectId, to: impl Into<Value>) -> Result<(), Error> {
        self.state.moment.objects.get(who).ok_or(Error::NoSuchObject)?;
        self.state.set_var(var, Some(who), to.into(), self.doing)
    }

    /// Lets something go to another value over a time, in the motion phase from the next tick on. What moves it
    /// already gives way, and so does this when something else sets it.
    ///
    /// # Errors
    /// What would be wrong with setting it; [`BuildError::BadDuration`](crate::BuildError::BadDuration).
    pub fn tween(
        &mut self,
        moved: Moved,
        to: impl Into<Value>,
        over: Seconds,
        ease: Ease,
    ) -> Result<(), Error> {
        let over = self.state.rate().ticks(over)?;
        self.state.tween(moved, to.into(), over, ease, self.doing)
    }

    /// Sends a body to a spot: it is there at once, and faces as the spot says.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::NoSuchSpot`].
    pub fn send(&mut self, who: ObjectId, spot: SpotId) -> Result<(), Error> {
        self.state.send(who, spot, self.doing)
    }

    /// Makes an object after a mould; it takes part from the end of this tick on.
    ///
    /// # Errors
    /// [`Error::NoSuchMould`] or [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn spawn(&mut self, mould: MouldId, at: Vec3) -> Result<ObjectId, Error> {
        self.state.spawn(mould, at, self.doing)
    }

    /// Asks the host to perform an effect.
    ///
    /// # Errors
    /// [`Error::NoSuchEffect`], or [`Error::WrongValues`].
    pub fn perform(
        &mut self,
        effect: EffectId,
        values: impl IntoIterator<Item = Value>,
    ) -> Result<(), Error> {
        self.state.perform(effect, values.into_iter().collect::<Values>(), self.doing)
    }

    /// Enables an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn enable(&mut self, object: ObjectId) -> Result<(), Error> {
        self.state.switch(object, true, self.doing)
    }

    /// Disables an object: its zones report `left` for everyone inside, and its wires sleep, at once.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn disable(&mut self, object: ObjectId) -> Result<(), Error> {
        self.state.switch(object, false, self.doing)
    }

    /// Ends an object: its zones report `left` for everyone inside, and its wires hear nothing more, at once.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn destroy(&mut self, object: ObjectId) -> Result<(), Error> {
        self.state.destroy(object, self.doing)
    }

    /// Puts an object somewhere. A body does not pass what lies between, and one that has just come stays where it is.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], or [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn put(&mut self, object: ObjectId, at: Vec3) -> Result<(), Error> {
        if self.state.stays_here(object, self.doing) {
            return Ok(());
        }
        self.state.put(object, at, self.doing.cause)
    }

    /// Lets an object face that way.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn face(&mut self, object: ObjectId, facing: Rotation) -> Result<(), Error> {
        self.state.face(object, facing, self.doing.cause)
    }

    /// Gives a body a velocity, in scene units per second, by which the motion phase moves it.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::NotABody`] or [`BuildError::BadVelocity`](crate::BuildError::BadVelocity).
    pub fn drive(&mut self, body: ObjectId, velocity: Vec3) -> Result<(), Error> {
        self.state.drive(body, velocity, self.doing)
    }

    /// Hangs an object on another one, or on nothing: it stays where it is.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::HangsOnItself`](crate::BuildError::HangsOnItself).
    pub fn hang(&mut self, object: ObjectId, on: Option<ObjectId>) -> Result<(), Error> {
        self.state.carry(object, on)
    }

    /// Gives a zone, or another part that has a shape, another one.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; what is wrong with the shape.
    pub fn reshape(&mut self, part: PartId, shape: &Shape) -> Result<(), Error> {
        self.state.reshape(part, shape)
    }

    /// Begins an object; it takes part from the end of this tick on.
    #[track_caller]
    pub fn object(&mut self, name: &str) -> NewObject<'_> {
        NewObject::new(self.state, name)
    }

    /// Gives an object a part.
    ///
    /// # Errors
    /// As for [`World::attach`](crate::World::attach).
    pub fn attach<P: PartSpec>(&mut self, object: ObjectId, spec: P) -> Result<P::Handle, Error> {
        self.state.attach(object, spec)
    }

    /// Declares a signal that an object gives itself.
    ///
    /// # Errors
    /// As for [`World::declare_signal_of`](crate::World::declare_signal_of).
    pub fn declare_signal_of<T: Payload>(
        &mut self,
        object: ObjectId,
        name: &str,
    ) -> Result<Signal<T>, Error> {
        self.state.own_signal(object, name)
    }

    /// The signal of that name that an object gives.
    ///
    /// # Errors
    /// As for [`World::signal_of`](crate::World::signal_of).
    pub fn signal_of<T: Payload>(&mut self, object: ObjectId, name: &str) -> Result<Signal<T>, Error> {
        self.state.signal_of(object, name)
    }

    /// The signal an object gives when it is there with all the others.
    ///
    /// # Errors
    /// As for [`World::started_of`](crate::World::started_of).
    pub fn started_of(&mut self, object: ObjectId) -> Result<Signal<()>, Error> {
        self.state.own_signal(object, "started")
    }

    /// Gives an object a tag.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::BadName`](crate::BuildError::BadName).
    pub fn tag(&mut self, object: ObjectId, tag: &str) -> Result<(), Error> {
        self.state.set_tag(object, tag, true)
    }

    /// Takes a tag away.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::BadName`](crate::BuildError::BadName).
    pub fn untag(&mut self, object: ObjectId, tag: &str) -> Result<(), Error> {
        self.state.set_tag(object, tag, false)
    }

    /// A number from 0 up to but not including 1, from the world's own seeded source.
    pub fn random(&mut self) -> f64 {
        self.state.draw()
    }

    /// Begins a wire; it does not see the delivery under way.
    #[track_caller]
    pub fn on<T: Payload>(&mut self, signal: Signal<T>) -> On<'_, G, T> {
        On::later(self.state, self.fresh, signal)
    }

    /// Records that something could not be done.
    pub fn fault(&mut self, message: impl Into<Text>) {
        self.state.fault(&message.into().as_str(), self.doing);
    }

    /// Cuts a wire: it takes nothing from this instant on.
    ///
    /// # Errors
    /// [`Error::NoSuchWire`] when it was cut already.
    pub fn cut(&mut self, wire: WireId) -> Result<(), Error> {
        self.state.cut(wire)
    }
}
