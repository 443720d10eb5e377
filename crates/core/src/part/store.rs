//! All parts of a world: where each belongs, which of them move, and how they are saved.

use std::{collections::BTreeSet, sync::Arc};

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    base::{
        doing::Doing,
        error::SaveError,
        ids::{ObjectId, PartId, SignalId, VarId},
        numbers::{Command, PartState},
        shared::Shared,
        slots::Slots,
    },
    moment::alarms::Alarm,
    part::{
        behaviours::{Behaviours, SavedParts},
        contract::Part,
        kind::PartKind,
    },
    space::{shape::Shape, tracker::ZoneKey},
};

/// A part's place: all of it that is not its own behaviour.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct PartEntry {
    pub(crate) object: ObjectId,
    /// The number of its kind in this world.
    kind: u32,
    /// Object number, then the order of attaching: the order of the motion phase.
    rank: (u32, u32),
    pub(crate) signals: Arc<[SignalId]>,
    /// The variables it keeps.
    pub(crate) vars: Arc<[VarId]>,
    /// When it wants to be called in the clocks phase, and whom that goes back to. Most parts never do.
    alarm: Option<Box<(Alarm, Doing)>>,
    /// Which of its wires to its own object's signals are made, by number.
    pub(crate) joined: u32,
    /// The zone of its region, if it watches one.
    pub(crate) zone: Option<ZoneKey>,
    /// Whom its present motion goes back to, if it ever moved.
    doing: Option<Box<Doing>>,
}

impl PartEntry {
    /// Its turn in the motion phase, and in the lists of those that are asked every tick.
    pub(crate) fn rank(&self) -> (u32, u32) {
        self.rank
    }

    pub(crate) fn alarm(&self) -> Alarm {
        self.alarm.as_deref().map_or(Alarm::None, |(alarm, _)| *alarm)
    }

    pub(crate) fn alarm_for(&self) -> Doing {
        self.alarm.as_deref().map_or(Doing::default(), |(_, doing)| *doing)
    }

    pub(crate) fn set_alarm(&mut self, alarm: Alarm, doing: Doing) {
        self.alarm = (alarm != Alarm::None).then(|| Box::new((alarm, doing)));
    }

    /// Whom its present motion goes back to.
    pub(crate) fn doing(&self) -> Doing {
        self.doing.as_deref().copied().unwrap_or_default()
    }
}

/// The places of all parts, and which of them move.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct PartEntries {
    slots: Slots<PartId, PartEntry>,
    pub(crate) moving: Shared<BTreeSet<((u32, u32), PartId)>>,
    last_number: u32,
}

/// A part that was made for a snapshot, and where it goes.
type Made = (PartId, Arc<dyn Part>);

/// All parts.
#[derive(Debug, Default)]
pub(crate) struct Parts {
    pub(crate) places: PartEntries,
    pub(crate) behaviours: Behaviours,
    /// The kinds there were so far, for parts that come back with a snapshot.
    kinds: IndexMap<&'static str, &'static PartKind>,
    /// Kept to spare an allocation per tick.
    pub(crate) turn: Vec<PartId>,
}

impl Parts {
    pub(crate) fn get(&self, id: PartId) -> Option<&PartEntry> {
        self.places.slots.get(id)
    }

    /// The part whose id has that place.
    pub(crate) fn id_at(&self, place: u32) -> Option<PartId> {
        self.places.slots.key_at(place as usize)
    }

    /// The part itself.
    pub(crate) fn part(&self, id: PartId) -> Option<&dyn Part> {
        self.behaviours.get(id)
    }

    /// The state a part is in.
    #[inline]
    pub(crate) fn state(&self, id: PartId) -> Option<PartState> {
        self.part(id).map(Part::state)
    }

    /// The number of a part's kind, and the state it is in.
    pub(crate) fn kind_and_state(&self, id: PartId) -> Option<(u32, PartState)> {
        Some((self.places.slots.get(id)?.kind, self.state(id)?))
    }

    /// The number of a kind of part in this world.
    pub(crate) fn number_kind(&mut self, kind: &'static PartKind) -> u32 {
        let (index, _) = self.kinds.insert_full(kind.name, kind);
        u32::try_from(index).unwrap_or(u32::MAX)
    }

    /// The kind of that number.
    pub(crate) fn kind_of_number(&self, number: u32) -> Option<&'static PartKind> {
        self.kinds.get_index(number as usize).map(|(_, kind)| *kind)
    }

    /// The kind of that name, if this world has known one.
    pub(crate) fn kind_named(&self, name: &str) -> Option<&'static PartKind> {
        self.kinds.get(name).copied()
    }

    fn numbered(&self) -> impl Iterator<Item = (u32, &'static PartKind)> {
        (0..).zip(self.kinds.values().copied())
    }

    /// The kinds that take a command, and its number with each.
    pub(crate) fn kinds_that_take(&self, command: &str) -> SmallVec<[(u32, Command); 2]> {
        self.numbered().filter_map(|(number, kind)| Some((number, kind.command(command)?))).collect()
    }

    /// The kinds that can be in a state, and its number with each.
    pub(crate) fn kinds_with_state(&self, state: &str) -> SmallVec<[(u32, PartState); 2]> {
        self.numbered().filter_map(|(number, kind)| Some((number, kind.state(state)?))).collect()
    }

    /// Puts a part in its place; the signals are known once it has one.
    pub(crate) fn insert(&mut self, object: ObjectId, object_number: u32, part: Box<dyn Part>) -> PartId {
        let kind = self.number_kind(part.kind());
        let places = &mut self.places;
        places.last_number += 1;
        let rank = (object_number, places.last_number);
        let slot = PartEntry {
            object,
            kind,
            rank,
            signals: Arc::default(),
            vars: Arc::default(),
            alarm: None,
            joined: 0,
            zone: None,
            doing: None,
        };
        let id = places.slots.insert(slot);
        self.behaviours.insert(id, part.into());
        id
    }

    pub(crate) fn set_zone(&mut self, id: PartId, zone: ZoneKey) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.zone = Some(zone);
        }
    }

    /// Gives a part another shape; false if it has none.
    pub(crate) fn reshape(&mut self, id: PartId, shape: &Shape) -> bool {
        self.behaviours.change(id, |part| part.reshape(shape)).unwrap_or(false)
    }

    pub(crate) fn set_vars(&mut self, id: PartId, vars: Arc<[VarId]>) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.vars = vars;
        }
    }

    pub(crate) fn set_signals(&mut self, id: PartId, signals: Arc<[SignalId]>) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.signals = signals;
        }
    }

    /// Ends a part, and says the number of its kind.
    pub(crate) fn remove(&mut self, id: PartId) -> Option<u32> {
        let slot = self.places.slots.remove(id)?;
        if self.places.moving.contains(&(slot.rank, id)) {
            self.places.moving.edit().remove(&(slot.rank, id));
        }
        self.behaviours.remove(id);
        Some(slot.kind)
    }

    pub(crate) fn get_mut(&mut self, id: PartId) -> Option<&mut PartEntry> {
        self.places.slots.get_mut(id)
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = (PartId, &PartEntry)> {
        self.places.slots.iter()
    }

    /// Changes a part of a kind from outside, if it is of that kind.
    pub(crate) fn change<P: Part>(&mut self, id: PartId, change: impl FnOnce(&mut P)) {
        self.behaviours.change(id, |part| {
            if let Some(part) = (part as &mut dyn std::any::Any).downcast_mut::<P>() {
                change(part);
            }
        });
    }

    /// Lets a part move from here on, on somebody's behalf, or no more.
    pub(crate) fn set_moving(&mut self, id: PartId, doing: Option<Doing>) {
        let Some(slot) = self.places.slots.get(id) else { return };
        let turn = (slot.rank, id);
        let moves = self.places.moving.contains(&turn);
        if let Some(doing) = doing {
            let doing = Doing { by: None, ..doing.later() };
            if slot.doing() != doing
                && let Some(slot) = self.places.slots.get_mut(id)
            {
                slot.doing = Some(Box::new(doing));
            }
            if !moves {
                self.places.moving.edit().insert(turn);
            }
        } else if moves {
            self.places.moving.edit().remove(&turn);
        }
        self.behaviours.set_moving(id, doing.is_some());
    }

    /// Makes the parts of a snapshot, without putting them in place yet. A part that is here already and of the
    /// same kind is left out: [`Self::load`] sets it right.
    pub(crate) fn prepare(&self, saved: &SavedParts) -> Result<Vec<Made>, SaveError> {
        let mismatch = |what: String| SaveError::Mismatch { what };
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
            if self.part(*id).is_none_or(|here| here.kind().name != name) {
                made.push((*id, part.into()));
            }
        }
        Ok(made)
    }

    /// Goes back to what was saved, with the parts that were made for it.
    pub(crate) fn load(&mut self, places: PartEntries, saved: &SavedParts, made: Vec<Made>) {
        self.places = places;
        let here = self.behaviours.iter().map(|(id, _)| id);
        let gone: Vec<_> = here.filter(|id| !self.places.slots.contains_key(*id)).collect();
        for id in gone {
            self.behaviours.remove(id);
        }
        for (id, part) in made {
            self.behaviours.insert(id, part);
        }
        for (index, (id, ..)) in saved.parts.iter().enumerate() {
            // It was tried out on a blank part before.
            self.behaviours.change(*id, |part| part.load(saved.values_of(index)));
        }
        let moving: BTreeSet<_> = self.places.moving.iter().map(|(_, id)| *id).collect();
        for (id, ..) in &saved.parts {
            self.behaviours.set_moving(*id, moving.contains(id));
        }
    }
}
