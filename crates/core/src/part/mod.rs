//! Parts: ready-made behaviours on an object.
//!
//! A part is a small machine: it takes commands, moves tick by tick while it has to, and says what happened
//! through its signals. It never knows another part; a wire joins them. A game's own parts are written against
//! the same [`Part`] trait as ours.

mod body;
mod door;
mod kind;
mod pick;
mod prompt;
mod push;
mod region;
mod zone;

use std::{any::Any, collections::BTreeSet, fmt};

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use slotmap::{SecondaryMap, new_key_type};
use smallvec::SmallVec;
use smol_str::SmolStr;

pub use body::BodyShape;
pub use door::{Door, DoorHandle, Swing};
pub use kind::{BuildPart, PartKind, Setting, SettingType, SettingValue, Settings, SignalKind};
pub use pick::{Aim, Pick, PickHandle, Picked, Solid};
pub use prompt::{Offer, Progress, Prompt, PromptHandle};
pub use push::{Current, Push};
pub use region::{Pulse, Region, Touched, shape_from};
pub use zone::{Zone, ZoneHandle};

use crate::{
    bus::{Bus, Doing},
    clock::TickRate,
    error::{Error, NoSuchSignal},
    expr::Expr,
    object::ObjectId,
    payload::Payload,
    signal::{Signal, SignalId},
    slots::Slots,
    space::{Shape, ZoneKey},
    trace::Event,
    value::Value,
    watch::Read,
};

new_key_type! {
    /// A part of an object.
    pub struct PartId;
}

/// Whether a part has something to do in the next motion phase.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Activity {
    /// It is called again in the next tick.
    Moving,
    /// It is called no more until it wakes itself in a command.
    Still,
}

/// A behaviour an object can have.
pub trait Part: fmt::Debug + Any {
    /// What kind of part it is: the same for all parts of its type.
    fn kind(&self) -> &'static PartKind;

    /// The state it is in, as a number of its kind's list of states.
    fn state(&self) -> u8 {
        0
    }

    /// Does what it is told; `command` is a number of its kind's list of commands.
    fn command(&mut self, command: u8, cx: &mut PartCx<'_>) {
        let _ = (command, cx);
    }

    /// Moves one tick. Called only while it is [`Activity::Moving`].
    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        let _ = cx;
        Activity::Still
    }

    /// Everything it is, as data: what [`load`](Self::load) needs to make a blank part of its kind the same.
    fn save(&self, to: &mut Vec<Value>);

    /// Becomes what was saved. False if that cannot be read; the part is not used then.
    fn load(&mut self, saved: &[Value]) -> bool;

    /// What of it is to be remembered when its scene is unloaded and in a [`Save`](crate::Save), by the names of fields:
    /// what it is now, and nothing of its settings. Empty for a part that remembers nothing.
    fn remembered(&self) -> Vec<(&'static str, Value)> {
        Vec::new()
    }

    /// Becomes what it remembers; a field may be missing. False if that is nothing it can be, and then it stays as it is.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let _ = (fields, cx);
        false
    }

    /// The region it watches, for parts that want to be told who comes and goes. The first signals of its kind are
    /// [`Zone::SIGNALS`] then.
    fn region(&self) -> Option<&Region> {
        None
    }

    /// The shape that its object touches zones with, for a part that makes it a body.
    fn body(&self) -> Option<&Shape> {
        None
    }

    /// What it offers to players who are near. The first signals of its kind are those of a [`Prompt`] then.
    fn offer(&self) -> Option<&Offer> {
        None
    }

    /// What it does to the velocity of those inside the zones of its object.
    fn current(&self) -> Option<&Current> {
        None
    }

    /// What it is to a ray. The first signal of its kind is that of a [`Pick`] then, if it can be picked.
    fn aim(&self) -> Option<&Aim> {
        None
    }

    /// What it wants to be worked out while the world runs, by the names of its settings. The world keeps these; they
    /// can be [set anew](crate::World::set_asked).
    fn asks(&self) -> Vec<(&'static str, Expr)> {
        Vec::new()
    }

    /// Takes another shape; false for a part that has none.
    fn reshape(&mut self, shape: &Shape) -> bool {
        let _ = shape;
        false
    }
}

/// How a part is described in Rust before an object has it, and what its user gets in return.
pub trait PartSpec {
    /// A small `Copy` handle with the part's signals.
    type Handle: Copy;

    /// Makes the part, with every span in ticks of that rate.
    ///
    /// # Errors
    /// When a setting is out of its range.
    fn into_part(self, rate: TickRate) -> Result<Box<dyn Part>, Error>;

    /// The handle; the signals come in the order of the kind's list.
    fn handle(part: PartId, signals: &[SignalId]) -> Self::Handle;
}

/// What a part may do while it is called.
#[derive(Debug)]
pub struct PartCx<'a> {
    pub(crate) part: PartId,
    pub(crate) signals: &'a [SignalId],
    pub(crate) bus: &'a mut Bus,
    pub(crate) doing: Doing,
    pub(crate) woken: bool,
}

impl PartCx<'_> {
    /// Whom this goes back to.
    pub fn who(&self) -> Option<ObjectId> {
        self.doing.who
    }

    /// Emits the signal of that number in the kind's list. A payload that does not fit it is recorded as a
    /// fault.
    pub fn emit<T: Payload>(&mut self, signal: usize, payload: T) {
        let told = match self.signals.get(signal) {
            Some(id) => self.bus.emit(Signal::new(*id), payload, self.doing),
            None => Err(NoSuchSignal),
        };
        if let Err(error) = told {
            let message = error.to_string().into();
            self.bus.trace.note(self.doing.cause, 0, Event::Fault { message });
        }
    }

    /// Records that the part went from one state to another; what it emits from here on came from that.
    pub fn shift(&mut self, from: u8, to: u8) {
        let event = Event::Shifted { part: self.part, from, to };
        if let Some(record) = self.bus.trace.note(self.doing.cause, 0, event) {
            self.doing.cause = Some(record);
        }
        self.bus.watches.changed(Read::Part(self.part), self.doing.cause);
    }

    /// Records that it was told to do what it does or has done already.
    pub fn unmoved(&mut self, state: u8) {
        self.bus.trace.note(self.doing.cause, 0, Event::Unmoved { part: self.part, state });
    }

    /// Asks to be called in every motion phase from the next one on.
    pub fn wake(&mut self) {
        self.woken = true;
    }
}

/// A part's place: all of it that is not its own behaviour.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Slot {
    pub(crate) object: ObjectId,
    /// The number of its kind in this world.
    kind: u32,
    /// Object number, then the order of attaching: the order of the motion phase.
    rank: (u32, u32),
    pub(crate) signals: SmallVec<[SignalId; 4]>,
    /// The zone of its region, if it watches one.
    pub(crate) zone: Option<ZoneKey>,
    /// Whom its present motion goes back to.
    doing: Doing,
}

impl Slot {
    /// Its turn in the motion phase, and in the lists of those that are asked every tick.
    pub(crate) fn rank(&self) -> (u32, u32) {
        self.rank
    }
}

/// The places of all parts, and which of them move.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Places {
    slots: Slots<PartId, Slot>,
    moving: BTreeSet<((u32, u32), PartId)>,
    last_number: u32,
}

/// What the parts say of themselves, as data.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct SavedParts {
    kinds: Vec<SmolStr>,
    /// Each part with the number of its kind and of the first of its values.
    parts: Vec<(PartId, u32, u32)>,
    values: Vec<Value>,
}

/// A part that was made for a snapshot, and where it goes.
type Made = (PartId, Box<dyn Part>);

/// All parts.
#[derive(Debug, Default)]
pub(crate) struct Parts {
    pub(crate) places: Places,
    behaviours: SecondaryMap<PartId, Box<dyn Part>>,
    /// The kinds there were so far, for parts that come back with a snapshot.
    kinds: IndexMap<&'static str, &'static PartKind>,
    /// Kept to spare an allocation per tick.
    turn: Vec<PartId>,
}

impl Parts {
    pub(crate) fn get(&self, id: PartId) -> Option<&Slot> {
        self.places.slots.get(id)
    }

    /// The part itself.
    pub(crate) fn part(&self, id: PartId) -> Option<&dyn Part> {
        self.behaviours.get(id).map(|part| &**part)
    }

    /// The state a part is in.
    #[inline]
    pub(crate) fn state(&self, id: PartId) -> Option<u8> {
        self.behaviours.get(id).map(|part| part.state())
    }

    /// The number of a part's kind, and the state it is in.
    pub(crate) fn kind_and_state(&self, id: PartId) -> Option<(u32, u8)> {
        Some((self.places.slots.get(id)?.kind, self.state(id)?))
    }

    /// The number of a kind of part in this world.
    pub(crate) fn number_kind(&mut self, kind: &'static PartKind) -> u32 {
        let (index, _) = self.kinds.insert_full(kind.name, kind);
        u32::try_from(index).unwrap_or(u32::MAX)
    }

    fn numbered(&self) -> impl Iterator<Item = (u32, &'static PartKind)> {
        (0..).zip(self.kinds.values().copied())
    }

    /// The kinds that take a command, and its number with each.
    pub(crate) fn kinds_that_take(&self, command: &str) -> SmallVec<[(u32, u8); 2]> {
        self.numbered().filter_map(|(number, kind)| Some((number, kind.command(command)?))).collect()
    }

    /// The kinds that can be in a state, and its number with each.
    pub(crate) fn kinds_with_state(&self, state: &str) -> SmallVec<[(u32, u8); 2]> {
        self.numbered().filter_map(|(number, kind)| Some((number, kind.state(state)?))).collect()
    }

    /// Puts a part in its place; the signals are known once it has one.
    pub(crate) fn insert(&mut self, object: ObjectId, object_number: u32, part: Box<dyn Part>) -> PartId {
        let kind = self.number_kind(part.kind());
        let places = &mut self.places;
        places.last_number += 1;
        let rank = (object_number, places.last_number);
        let slot = Slot { object, kind, rank, signals: SmallVec::new(), zone: None, doing: Doing::default() };
        let id = places.slots.insert(slot);
        self.behaviours.insert(id, part);
        id
    }

    pub(crate) fn set_zone(&mut self, id: PartId, zone: ZoneKey) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.zone = Some(zone);
        }
    }

    /// Gives a part another shape; false if it has none.
    pub(crate) fn reshape(&mut self, id: PartId, shape: &Shape) -> bool {
        self.behaviours.get_mut(id).is_some_and(|part| part.reshape(shape))
    }

    pub(crate) fn set_signals(&mut self, id: PartId, signals: SmallVec<[SignalId; 4]>) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.signals = signals;
        }
    }

    /// Ends a part, and says what kind it was.
    pub(crate) fn remove(&mut self, id: PartId) -> Option<&'static PartKind> {
        let slot = self.places.slots.remove(id)?;
        self.places.moving.remove(&(slot.rank, id));
        self.behaviours.remove(id).map(|part| part.kind())
    }

    /// Tells a part what to do.
    pub(crate) fn command(
        &mut self,
        id: PartId,
        command: u8,
        bus: &mut Bus,
        doing: Doing,
    ) -> Result<(), Error> {
        self.told(id, bus, doing, |part, cx| part.command(command, cx)).ok_or(Error::NoSuchPart)
    }

    /// Lets something be done with a part, which may ask to be moved from then on.
    pub(crate) fn told<R>(
        &mut self,
        id: PartId,
        bus: &mut Bus,
        doing: Doing,
        tell: impl FnOnce(&mut dyn Part, &mut PartCx<'_>) -> R,
    ) -> Option<R> {
        let slot = self.places.slots.get_mut(id)?;
        let part = self.behaviours.get_mut(id)?;
        let mut cx = PartCx { part: id, signals: &slot.signals, bus, doing, woken: false };
        let told = tell(&mut **part, &mut cx);
        if cx.woken {
            slot.doing = Doing { by: None, ..cx.doing };
            self.places.moving.insert((slot.rank, id));
        }
        Some(told)
    }

    /// One tick of everything that moves, by object number. `may_move` leaves out what is disabled.
    pub(crate) fn motion(&mut self, bus: &mut Bus, may_move: impl Fn(ObjectId) -> bool) {
        if self.places.moving.is_empty() {
            return;
        }
        let mut turn = std::mem::take(&mut self.turn);
        turn.extend(self.places.moving.iter().map(|(_, id)| *id));
        for id in turn.drain(..) {
            let slot = self.places.slots.get(id).filter(|slot| may_move(slot.object));
            let (Some(slot), Some(part)) = (slot, self.behaviours.get_mut(id)) else { continue };
            let mut cx = PartCx { part: id, signals: &slot.signals, bus, doing: slot.doing, woken: false };
            if part.motion(&mut cx) == Activity::Still {
                self.places.moving.remove(&(slot.rank, id));
            }
        }
        self.turn = turn;
    }

    /// All parts as data.
    pub(crate) fn save(&self) -> SavedParts {
        let kinds = self.kinds.keys().map(|name| SmolStr::new_static(name)).collect();
        let mut saved = SavedParts { kinds, ..SavedParts::default() };
        for (id, part) in &self.behaviours {
            let kind = self.kinds.get_index_of(part.kind().name).unwrap_or(usize::MAX);
            let first = saved.values.len();
            part.save(&mut saved.values);
            let number = |number| u32::try_from(number).unwrap_or(u32::MAX);
            saved.parts.push((id, number(kind), number(first)));
        }
        saved
    }

    /// Makes the parts of a snapshot, without putting them in place yet. A part that is here already and of the
    /// same kind is left out: [`Self::load`] sets it right.
    pub(crate) fn prepare(&self, saved: &SavedParts) -> Result<Vec<Made>, Error> {
        let mismatch = |what: String| Error::SnapshotMismatch { what };
        let mut made = Vec::new();
        for (index, (id, kind, _)) in saved.parts.iter().enumerate() {
            let name = saved.kinds.get(*kind as usize).map_or("", SmolStr::as_str);
            let kind = *self.kinds.get(name).ok_or_else(|| {
                mismatch(format!("it has a part of the kind \"{name}\", of which this world had none"))
            })?;
            let mut part = (kind.blank)();
            if !part.load(saved.values_of(index)) {
                return Err(mismatch(format!("a {name} cannot read what was saved of it")));
            }
            if self.behaviours.get(*id).is_none_or(|here| here.kind().name != name) {
                made.push((*id, part));
            }
        }
        Ok(made)
    }

    /// Goes back to what was saved, with the parts that were made for it.
    pub(crate) fn load(&mut self, places: Places, saved: &SavedParts, made: Vec<Made>) {
        self.places = places;
        self.behaviours.retain(|id, _| self.places.slots.contains_key(id));
        for (id, part) in made {
            self.behaviours.insert(id, part);
        }
        for (index, (id, ..)) in saved.parts.iter().enumerate() {
            if let Some(part) = self.behaviours.get_mut(*id) {
                // It was tried out on a blank part before.
                part.load(saved.values_of(index));
            }
        }
    }
}

impl SavedParts {
    fn values_of(&self, index: usize) -> &[Value] {
        let first = |index: usize| self.parts.get(index).map(|(.., first)| *first as usize);
        let end = first(index + 1).unwrap_or(self.values.len());
        first(index).and_then(|first| self.values.get(first..end)).unwrap_or_default()
    }
}
