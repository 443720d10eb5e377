//! What a part may do while it is called: the same as a reaction.

use std::ops::Deref;

use glam::Vec3;
use smallvec::SmallVec;

use crate::{
    base::{
        clock::Ticks,
        doing::Doing,
        ease::{Ease, Moved},
        error::{Error, NoSuchSignal},
        geometry::Pose,
        ids::{ObjectId, PartId, SpotId, VarId},
        numbers::{Command, PartState},
        payload::Payload,
        signal::Signal,
        value::{Text, Value},
    },
    moment::object::Object,
    plan::reads::Read,
    state::State,
    trace::record::Event,
};

/// The values a command is given, by name.
pub type Args = SmallVec<[(Text, Value); 2]>;

/// What is said with a command, to be kept.
pub(crate) fn owned(said: &[(&str, Value)]) -> Args {
    said.iter().map(|(name, value)| (Text::from(*name), value.clone())).collect()
}

/// The world as a part sees it, and what it can change there.
///
/// What it changes is true at once; what it emits joins the end of the queue. Everything that can be asked of a
/// [`State`] can be asked here too. While a part is called it is out of its place: what looks at it meanwhile finds
/// no part there.
#[derive(Debug)]
pub struct PartCx<'a> {
    pub(crate) state: &'a mut State,
    pub(crate) part: PartId,
    pub(crate) object: ObjectId,
    pub(crate) args: &'a [(Text, Value)],
    pub(crate) doing: Doing,
    pub(crate) woken: bool,
}

impl Deref for PartCx<'_> {
    type Target = State;
    fn deref(&self) -> &State {
        self.state
    }
}

/// The world as a part sees it that is asked for one of its [readings](crate::PartKind::readings). Everything that can be
/// asked of a [`State`] can be asked here too.
#[derive(Clone, Copy, Debug)]
pub struct ReadCx<'a> {
    pub(crate) state: &'a State,
    pub(crate) part: PartId,
    pub(crate) who: Option<ObjectId>,
}

impl Deref for ReadCx<'_> {
    type Target = State;
    fn deref(&self) -> &State {
        self.state
    }
}

impl ReadCx<'_> {
    /// The player it is asked of, if there is a reading for each.
    pub fn who(&self) -> Option<ObjectId> {
        self.who
    }

    /// The part itself.
    pub fn id(&self) -> PartId {
        self.part
    }

    /// How long it is until [`due`](crate::Part::due) is called, if that was asked for.
    pub fn rings_in(&self) -> Option<Ticks> {
        self.state.rings_in(self.part)
    }

    /// Where its object is, and which way that faces.
    pub fn pose(&self) -> Pose {
        let object = self.state.object_of(self.part).and_then(|object| self.state.moment.objects.get(object));
        object.map(Object::pose).unwrap_or_default()
    }

    /// How much of the time its key must be held the player has held it, from 0 to 1; 0 while it is not held, or is offered to
    /// the player no more.
    pub fn held(&self) -> Option<f64> {
        let who = self.who?;
        let offered = self.state.offered_to(who) == Some(self.part);
        Some(if offered { self.state.hold_of(who).unwrap_or(0.0) } else { 0.0 })
    }
}

/// What it knows.
impl PartCx<'_> {
    /// Whom this goes back to.
    pub fn who(&self) -> Option<ObjectId> {
        self.doing.who
    }

    /// The part itself.
    pub fn id(&self) -> PartId {
        self.part
    }

    /// The object it belongs to.
    pub fn object(&self) -> ObjectId {
        self.object
    }

    /// A value the command was given.
    pub fn arg(&self, name: &str) -> Option<&Value> {
        self.args.iter().find(|(arg, _)| arg == name).map(|(_, value)| value)
    }

    /// A number the command was given.
    pub fn number(&self, name: &str) -> Option<f64> {
        self.arg(name).and_then(Value::as_number)
    }

    /// A span of time the command was given.
    pub fn span(&self, name: &str) -> Option<Ticks> {
        if let Some(Value::Duration(span)) = self.arg(name) { Some(*span) } else { None }
    }

    /// A word or a text the command was given.
    pub fn word(&self, name: &str) -> Option<Text> {
        self.arg(name).and_then(Value::as_text).map(Text::from)
    }

    /// Whether the command was given that word.
    pub fn has(&self, name: &str) -> bool {
        self.arg(name).and_then(Value::as_bool).unwrap_or(false)
    }

    /// What an expression that the part [asks](crate::Part::asks) for gives now, with `who` for whom this goes back
    /// to. Nothing if it has none of that name.
    pub fn asked(&mut self, name: &str) -> Option<Value> {
        self.state.work_out_asked(self.part, name, self.doing)
    }

    /// A number from 0 up to but not including 1, from the world's own seeded source.
    pub fn draw(&self) -> f64 {
        self.state.draw()
    }

    /// Everybody inside the zones of its object: zone by zone, each by object number.
    pub fn visitors(&self) -> impl Iterator<Item = ObjectId> {
        self.parts_of(self.object).iter().flat_map(|part| self.inside(*part))
    }

    /// How long it is until [`due`](crate::Part::due) is called, if that was asked for.
    pub fn rings_in(&self) -> Option<Ticks> {
        self.state.rings_in(self.part)
    }

    /// What one of its variables holds; of a player, if each has one. The number is that of its list.
    pub fn own(&self, variable: usize, of: Option<ObjectId>) -> Value {
        let var = self.own_var(variable).ok();
        var.and_then(|var| self.state.moment.vars.get(var, of)).cloned().unwrap_or_default()
    }

    fn own_var(&self, variable: usize) -> Result<VarId, Error> {
        let slot = self.state.parts.get(self.part);
        slot.and_then(|slot| slot.vars.get(variable)).copied().ok_or(Error::NoSuchVar)
    }
}

/// What it does.
impl PartCx<'_> {
    /// Emits the signal of that number in the kind's list. A payload that does not fit it is recorded as a
    /// fault.
    pub fn emit<T: Payload>(&mut self, signal: usize, payload: T) {
        let id = self.state.parts.get(self.part).and_then(|slot| slot.signals.get(signal)).copied();
        let told = match id {
            Some(id) => self.state.bus.emit(Signal::new(id), payload, self.doing),
            None => Err(NoSuchSignal),
        };
        self.check(told);
    }

    /// Whom what it does from here on goes back to.
    pub fn act_for(&mut self, who: Option<ObjectId>) {
        self.doing.who = who;
    }

    /// The same for a body that moves: what moved it is what brought this about.
    pub(crate) fn act_for_mover(&mut self, who: ObjectId) {
        let cause = self.state.moment.objects.get(who).and_then(|body| body.moved_by);
        self.doing = Doing::of(Some(who), cause);
    }

    /// The number of an object: objects that are told one after the other are told by it.
    pub(crate) fn number_of(&self, object: ObjectId) -> u32 {
        self.state.moment.objects.get(object).map_or(u32::MAX, |object| object.number)
    }

    /// Whether a body is here and on, and has not moved in this tick.
    pub fn stands(&self, body: ObjectId) -> bool {
        self.state.stands_still(body)
    }

    /// Records what went wrong, if anything did.
    pub fn check<E: std::fmt::Display>(&mut self, told: Result<(), E>) {
        if let Err(error) = told {
            self.fault(error.to_string());
        }
    }

    /// Records what became of it; what it emits from here on came from that.
    pub(crate) fn note(&mut self, event: Event) {
        if let Some(record) = self.state.bus.trace.note(self.doing.cause, 0, event) {
            self.doing.cause = Some(record);
        }
    }

    /// Records that the part went from one state to another; what it emits from here on came from that.
    pub fn shift(&mut self, from: PartState, to: PartState) {
        let event = Event::Shifted { part: self.part, from, to };
        if let Some(record) = self.state.bus.trace.note(self.doing.cause, 0, event) {
            self.doing.cause = Some(record);
        }
        self.changed();
    }

    /// Records that it was told to do what it does or has done already.
    pub fn unmoved(&mut self, state: PartState) {
        self.state.bus.trace.note(self.doing.cause, 0, Event::Unmoved { part: self.part, state });
    }

    /// Lets those look again who read what the part says of itself.
    pub fn changed(&mut self) {
        self.state.bus.watches.changed(Read::Part(self.part), self.doing.cause);
    }

    /// Makes a value it keeps to itself part of the digest, where no record says what became of it.
    pub fn feed(&mut self, value: impl Into<Value>) {
        self.state.bus.trace.feed(&value.into());
    }

    /// Asks to be called in every motion phase from the next one on.
    pub fn wake(&mut self) {
        self.woken = true;
    }

    /// Asks for [`due`](crate::Part::due) to be called after that time, in the first tick at or after that moment, instead of when it was
    /// asked for before. Asked from within `due`, the time runs from the moment that was due, so that nothing is lost between ticks. That time stands still while its object is disabled and while its scene is frozen.
    pub fn ring_in(&mut self, span: Ticks) {
        self.state.set_alarm(self.part, Some(span.max(Ticks::SHORTEST)), self.doing);
    }

    /// Does not ask for [`due`](crate::Part::due) any more.
    pub fn ring_never(&mut self) {
        self.state.set_alarm(self.part, None, self.doing);
    }

    /// Sets one of its variables, by the number of its list; for a player, if each has one. Without a player it is set
    /// for all.
    pub fn keep(&mut self, variable: usize, of: Option<ObjectId>, to: impl Into<Value>) {
        let told = self.own_var(variable).and_then(|var| {
            let to = self.state.moment.vars.check(var, to.into())?;
            self.state.moment.tweens.stop(Moved::Var(var, of));
            self.state.put_var(var, of, to, self.doing, true)
        });
        self.check(told);
    }

    /// Sets one of its variables without a record: for what changes with every tick.
    pub fn show(&mut self, variable: usize, to: impl Into<Value>) {
        let told = self.own_var(variable).and_then(|var| {
            let to = self.state.moment.vars.check(var, to.into())?;
            self.state.put_var(var, None, to, self.doing, false)
        });
        self.check(told);
    }

    /// Lets one of its variables go to another value over a time, in the motion phase from the next tick on.
    pub fn glide(&mut self, variable: usize, to: impl Into<Value>, over: Ticks, ease: Ease) {
        let told = self
            .own_var(variable)
            .and_then(|var| self.state.glide_var(var, to.into(), over, ease, self.doing));
        self.check(told);
    }

    /// Sends a body to a spot, to so far from it as seen from where the spot faces.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::NoSuchSpot`].
    pub fn send(&mut self, who: ObjectId, spot: SpotId, offset: Vec3) -> Result<(), Error> {
        self.state.send_beside(who, spot, offset, self.doing)
    }

    /// Whether this began with the arrival of a body, and no time has passed since: then nothing here sends it on.
    pub fn has_just_come(&self, who: ObjectId) -> bool {
        self.doing.arrived == Some(who)
    }

    /// Records that somebody is not sent on, since they have just come.
    pub(crate) fn stays_here(&mut self, who: ObjectId) {
        self.state.stays_here(who, self.doing);
    }

    /// From here on, those who have just come are sent on too.
    pub(crate) fn send_arrivals_on(&mut self) {
        self.doing = self.doing.later();
    }

    /// Sends a body to a spot of another scene, in upkeep.
    pub fn send_away(&mut self, who: ObjectId, scene: &Text, spot: &Text) {
        self.state.send_away(who, scene, spot, self.doing);
    }

    /// Gives a body a velocity, in scene units per second.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::NotABody`] or [`BuildError::BadVelocity`](crate::BuildError::BadVelocity).
    pub fn drive(&mut self, body: ObjectId, velocity: Vec3) -> Result<(), Error> {
        self.state.drive(body, velocity, self.doing)
    }

    /// Puts an object somewhere. A body does not pass what lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], or [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn put(&mut self, object: ObjectId, at: Vec3) -> Result<(), Error> {
        if self.state.stays_here(object, self.doing) {
            return Ok(());
        }
        self.state.put(object, at, self.doing.cause)
    }

    /// Moves an object to there; a body passes what lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], or [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn walk(&mut self, object: ObjectId, at: Vec3) -> Result<(), Error> {
        let facing = self.state.facing(object)?;
        let to = Pose { at, facing };
        self.state.relocate(object, to, crate::base::doing::Way::Walked, self.doing.cause)?;
        self.state.bus.trace.feed(&(object, at));
        Ok(())
    }

    /// Hangs an object on another one, or on nothing: it stays where it is.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::HangsOnItself`](crate::BuildError::HangsOnItself).
    pub fn hang(&mut self, object: ObjectId, on: Option<ObjectId>) -> Result<(), Error> {
        self.state.carry_for(object, on, self.doing)
    }

    /// Lets the body of its object touch zones, or not: it has left them all then. For a part that
    /// [lets everybody through](crate::Part::lets_through).
    pub fn touch(&mut self, on: bool) {
        self.state.let_touch(self.object, on, self.doing);
    }

    /// Ends an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn destroy(&mut self, object: ObjectId) -> Result<(), Error> {
        self.state.destroy(object, self.doing)
    }

    /// Tells another part what to do, with what is said with the command by name.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`], also for itself; [`CommandError::NoCommandNumber`](crate::CommandError::NoCommandNumber); [`CommandError::NoSuchArgument`](crate::CommandError::NoSuchArgument),
    /// [`CommandError::ArgumentTwice`](crate::CommandError::ArgumentTwice), [`CommandError::MissingArgument`](crate::CommandError::MissingArgument) or [`CommandError::WrongArgument`](crate::CommandError::WrongArgument) for what is said.
    pub fn command(&mut self, part: PartId, command: Command, args: &[(&str, Value)]) -> Result<(), Error> {
        self.state.check_command(part, command, args)?;
        self.state.command_with(part, command, &owned(args), self.doing)
    }

    /// The same for a command that the list of the kind does not have.
    pub(crate) fn command_unlisted(
        &mut self,
        part: PartId,
        command: Command,
        args: &[(Text, Value)],
    ) -> Result<(), Error> {
        self.state.command_with(part, command, args, self.doing)
    }

    /// Records that something could not be done.
    pub fn fault(&mut self, message: impl Into<Text>) {
        self.state.fault_of(self.object, &message.into().as_str(), self.doing);
    }
}
