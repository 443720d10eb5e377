//! Parts: ready-made behaviours on an object.
//!
//! A part is a small machine: it takes commands, moves tick by tick while it has to, and says what happened
//! through its signals. It never knows another part; a wire joins them. A game's own parts are written against
//! the same [`Part`] trait as ours.

mod door;
mod kind;
mod zone;

use std::{any::Any, collections::BTreeSet, fmt};

use slotmap::{SlotMap, new_key_type};
use smallvec::SmallVec;

pub use door::{Door, DoorHandle, Swing};
pub use kind::{BuildPart, PartKind, Setting, SettingType, SettingValue, Settings, SignalKind};
pub use zone::{Reason, Touched, Zone, ZoneHandle};

use crate::{
    bus::{Bus, Doing},
    clock::TickRate,
    error::{Error, NoSuchSignal},
    object::ObjectId,
    payload::Payload,
    signal::{Signal, SignalId},
    trace::Event,
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

    /// The region it watches, for parts that want to be told who comes and goes.
    fn region(&self) -> Option<&Zone> {
        None
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
            None => Err(NoSuchSignal.into()),
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

/// A part in its place.
#[derive(Debug)]
pub(crate) struct Slot {
    pub(crate) object: ObjectId,
    /// Object number, then the order of attaching: the order of the motion phase.
    rank: (u32, u32),
    pub(crate) signals: SmallVec<[SignalId; 4]>,
    /// Whom its present motion goes back to.
    doing: Doing,
    pub(crate) part: Box<dyn Part>,
}

/// All parts.
#[derive(Debug, Default)]
pub(crate) struct Parts {
    slots: SlotMap<PartId, Slot>,
    moving: BTreeSet<((u32, u32), PartId)>,
    last_number: u32,
    /// Kept to spare an allocation per tick.
    turn: Vec<PartId>,
}

impl Parts {
    pub(crate) fn get(&self, id: PartId) -> Option<&Slot> {
        self.slots.get(id)
    }

    /// Puts a part in its place; the signals are known once it has one.
    pub(crate) fn insert(&mut self, object: ObjectId, object_number: u32, part: Box<dyn Part>) -> PartId {
        self.last_number += 1;
        let rank = (object_number, self.last_number);
        self.slots.insert(Slot { object, rank, signals: SmallVec::new(), doing: Doing::default(), part })
    }

    pub(crate) fn set_signals(&mut self, id: PartId, signals: SmallVec<[SignalId; 4]>) {
        if let Some(slot) = self.slots.get_mut(id) {
            slot.signals = signals;
        }
    }

    pub(crate) fn remove(&mut self, id: PartId) -> Option<Slot> {
        let slot = self.slots.remove(id)?;
        self.moving.remove(&(slot.rank, id));
        Some(slot)
    }

    /// Tells a part what to do.
    pub(crate) fn command(
        &mut self,
        id: PartId,
        command: u8,
        bus: &mut Bus,
        doing: Doing,
    ) -> Result<(), Error> {
        let slot = self.slots.get_mut(id).ok_or(Error::NoSuchPart)?;
        let mut cx = PartCx { part: id, signals: &slot.signals, bus, doing, woken: false };
        slot.part.command(command, &mut cx);
        if cx.woken {
            slot.doing = Doing { by: None, ..cx.doing };
            self.moving.insert((slot.rank, id));
        }
        Ok(())
    }

    /// One tick of everything that moves, by object number. `may_move` leaves out what is disabled.
    pub(crate) fn motion(&mut self, bus: &mut Bus, may_move: impl Fn(ObjectId) -> bool) {
        if self.moving.is_empty() {
            return;
        }
        let mut turn = std::mem::take(&mut self.turn);
        turn.extend(self.moving.iter().map(|(_, id)| *id));
        for id in turn.drain(..) {
            let Some(slot) = self.slots.get_mut(id).filter(|slot| may_move(slot.object)) else { continue };
            let mut cx = PartCx { part: id, signals: &slot.signals, bus, doing: slot.doing, woken: false };
            if slot.part.motion(&mut cx) == Activity::Still {
                self.moving.remove(&(slot.rank, id));
            }
        }
        self.turn = turn;
    }
}
