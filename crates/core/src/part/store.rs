//! All parts of a world: where each belongs, which of them move, and how they are saved.

use std::{borrow::Cow, collections::BTreeSet, sync::Arc};

use indexmap::{IndexMap, IndexSet};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    base::{
        chunks::Chunks,
        doing::Doing,
        error::Error,
        ids::{ObjectId, PartId, SignalId, VarId},
        shared::Shared,
        slots::{Slots, place_of},
        value::{Text, Value},
    },
    moment::alarms::Alarm,
    part::{
        contract::{Activity, Part},
        cx::{Args, PartCx},
        kind::PartKind,
    },
    space::{shape::Shape, tracker::ZoneKey},
    state::State,
};

/// A part's place: all of it that is not its own behaviour.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Slot {
    pub(crate) object: ObjectId,
    /// The number of its kind in this world.
    kind: u32,
    /// Object number, then the order of attaching: the order of the motion phase.
    rank: (u32, u32),
    pub(crate) signals: SmallVec<[SignalId; 4]>,
    /// The variables it keeps.
    pub(crate) vars: SmallVec<[VarId; 2]>,
    /// When it wants to be called in the clocks phase.
    pub(crate) alarm: Alarm,
    /// Whom that goes back to.
    pub(crate) alarm_for: Doing,
    /// Which of its wires to its own object's signals are made, by number.
    pub(crate) joined: u32,
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
    moving: Shared<BTreeSet<((u32, u32), PartId)>>,
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
type Made = (PartId, Arc<dyn Part>);

/// A part as it behaves; one that is being called is out of its place. Shared with snapshots until it is called.
#[derive(Clone, Debug)]
pub(crate) struct Behaviour {
    id: PartId,
    part: Option<Arc<dyn Part>>,
}

/// The behaviours of all parts, by the places of their ids.
#[derive(Clone, Debug, Default)]
pub(crate) struct Behaviours(Chunks<Option<Behaviour>>);

impl Behaviours {
    fn get(&self, id: PartId) -> Option<&dyn Part> {
        let behaviour = self.0.get(place_of(id))?.as_ref().filter(|behaviour| behaviour.id == id)?;
        behaviour.part.as_deref()
    }

    fn part_mut(&mut self, id: PartId) -> Option<&mut Option<Arc<dyn Part>>> {
        let behaviour = self.0.get_mut(place_of(id))?.as_mut().filter(|behaviour| behaviour.id == id)?;
        Some(&mut behaviour.part)
    }

    fn get_mut(&mut self, id: PartId) -> Option<&mut dyn Part> {
        self.part_mut(id)?.as_mut().map(dyn_clone::arc_make_mut)
    }

    fn insert(&mut self, id: PartId, part: Arc<dyn Part>) {
        let place = place_of(id);
        while self.0.len() <= place {
            self.0.push(None);
        }
        if let Some(at) = self.0.get_mut(place) {
            *at = Some(Behaviour { id, part: Some(part) });
        }
    }

    fn remove(&mut self, id: PartId) -> Option<Arc<dyn Part>> {
        let part = self.part_mut(id)?.take();
        if let Some(at) = self.0.get_mut(place_of(id)) {
            *at = None;
        }
        part
    }

    fn iter(&self) -> impl Iterator<Item = (PartId, &dyn Part)> {
        let all = self.0.iter().flatten();
        all.filter_map(|behaviour| Some((behaviour.id, behaviour.part.as_deref()?)))
    }
}

/// The parts of a snapshot: shared with the world while both are in memory, data otherwise.
#[derive(Clone, Debug)]
pub(crate) enum PartsThen {
    Shared(Behaviours),
    Saved(SavedParts),
}

impl PartsThen {
    /// The parts as data.
    pub(crate) fn saved(&self) -> Cow<'_, SavedParts> {
        match self {
            Self::Shared(parts) => Cow::Owned(SavedParts::of(parts)),
            Self::Saved(saved) => Cow::Borrowed(saved),
        }
    }
}

impl Serialize for PartsThen {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.saved().serialize(to)
    }
}

impl<'de> Deserialize<'de> for PartsThen {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        SavedParts::deserialize(from).map(Self::Saved)
    }
}

/// All parts.
#[derive(Debug, Default)]
pub(crate) struct Parts {
    pub(crate) places: Places,
    pub(crate) behaviours: Behaviours,
    /// The kinds there were so far, for parts that come back with a snapshot.
    kinds: IndexMap<&'static str, &'static PartKind>,
    /// Kept to spare an allocation per tick.
    turn: Vec<PartId>,
}

impl Parts {
    pub(crate) fn get(&self, id: PartId) -> Option<&Slot> {
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
    pub(crate) fn state(&self, id: PartId) -> Option<u8> {
        self.part(id).map(Part::state)
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

    /// The kind of that name, if this world has known one.
    pub(crate) fn kind_named(&self, name: &str) -> Option<&'static PartKind> {
        self.kinds.get(name).copied()
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
        let slot = Slot {
            object,
            kind,
            rank,
            signals: SmallVec::new(),
            vars: SmallVec::new(),
            alarm: Alarm::None,
            alarm_for: Doing::default(),
            joined: 0,
            zone: None,
            doing: Doing::default(),
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
        self.behaviours.get_mut(id).is_some_and(|part| part.reshape(shape))
    }

    pub(crate) fn set_vars(&mut self, id: PartId, vars: SmallVec<[VarId; 2]>) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.vars = vars;
        }
    }

    pub(crate) fn set_signals(&mut self, id: PartId, signals: SmallVec<[SignalId; 4]>) {
        if let Some(slot) = self.places.slots.get_mut(id) {
            slot.signals = signals;
        }
    }

    /// Ends a part, and says what kind it was.
    pub(crate) fn remove(&mut self, id: PartId) -> Option<&'static PartKind> {
        let slot = self.places.slots.remove(id)?;
        if self.places.moving.contains(&(slot.rank, id)) {
            self.places.moving.edit().remove(&(slot.rank, id));
        }
        self.behaviours.remove(id).map(|part| part.kind())
    }

    pub(crate) fn get_mut(&mut self, id: PartId) -> Option<&mut Slot> {
        self.places.slots.get_mut(id)
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = (PartId, &Slot)> {
        self.places.slots.iter()
    }

    /// Takes a part out of its place to be called.
    fn take(&mut self, id: PartId) -> Option<Arc<dyn Part>> {
        self.behaviours.part_mut(id)?.take()
    }

    /// Puts it back, unless it has ended meanwhile.
    fn put_back(&mut self, id: PartId, part: Arc<dyn Part>) {
        if let Some(place) = self.behaviours.part_mut(id) {
            *place = Some(part);
        }
    }

    /// Changes a part of a kind from outside, if it is of that kind.
    pub(crate) fn change<P: Part>(&mut self, id: PartId, change: impl FnOnce(&mut P)) {
        let part = self.behaviours.get_mut(id);
        if let Some(part) = part.and_then(|part| (part as &mut dyn std::any::Any).downcast_mut::<P>()) {
            change(part);
        }
    }

    fn set_moving(&mut self, id: PartId, doing: Option<Doing>) {
        let Some(slot) = self.places.slots.get_mut(id) else { return };
        match doing {
            Some(doing) => {
                slot.doing = Doing { by: None, ..doing.later() };
                self.places.moving.edit().insert((slot.rank, id));
            }
            None => {
                self.places.moving.edit().remove(&(slot.rank, id));
            }
        }
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
            if self.part(*id).is_none_or(|here| here.kind().name != name) {
                made.push((*id, part.into()));
            }
        }
        Ok(made)
    }

    /// Goes back to what was saved, with the parts that were made for it.
    pub(crate) fn load(&mut self, places: Places, saved: &SavedParts, made: Vec<Made>) {
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
            if let Some(part) = self.behaviours.get_mut(*id) {
                // It was tried out on a blank part before.
                part.load(saved.values_of(index));
            }
        }
    }
}

impl SavedParts {
    fn of(parts: &Behaviours) -> Self {
        let mut kinds = IndexSet::new();
        let mut saved = Self::default();
        for (id, part) in parts.iter() {
            let (kind, _) = kinds.insert_full(part.kind().name);
            let first = saved.values.len();
            part.save(&mut saved.values);
            let number = |number| u32::try_from(number).unwrap_or(u32::MAX);
            saved.parts.push((id, number(kind), number(first)));
        }
        saved.kinds = kinds.into_iter().map(SmolStr::new_static).collect();
        saved
    }

    fn values_of(&self, index: usize) -> &[Value] {
        let first = |index: usize| self.parts.get(index).map(|(.., first)| *first as usize);
        let end = first(index + 1).unwrap_or(self.values.len());
        first(index).and_then(|first| self.values.get(first..end)).unwrap_or_default()
    }
}

impl State {
    /// Tells a part what to do.
    pub(crate) fn command(&mut self, part: PartId, command: u8, doing: Doing) -> Result<(), Error> {
        self.command_with(part, command, &[], doing)
    }

    /// Tells a part what to do, with values.
    /// The error for an object that has ended, if its name is still known.
    pub(crate) fn ended(&self, object: ObjectId) -> Option<Error> {
        self.name(object).map(|name| Error::Ended { name: name.into() })
    }

    /// Whether a part has a command of that number for others.
    pub(crate) fn check_command(&self, part: PartId, command: u8) -> Result<(), Error> {
        let object = self.parts.get(part).ok_or(Error::NoSuchPart)?.object;
        let kind = self.kind_of(part).filter(|_| self.objects.get(object).is_some());
        let kind = kind.ok_or(Error::NoSuchPart)?;
        if usize::from(command) < kind.commands.len() {
            return Ok(());
        }
        Err(Error::NoCommandNumber {
            kind: kind.name,
            object: self.name(object).unwrap_or_default().into(),
            known: kind.commands.len(),
            found: command,
        })
    }

    pub(crate) fn command_with(
        &mut self,
        part: PartId,
        command: u8,
        args: &[(Text, Value)],
        doing: Doing,
    ) -> Result<(), Error> {
        let object = self.object_of(part).ok_or(Error::NoSuchPart)?;
        if self.objects.get(object).is_none() {
            return Err(self.ended(object).unwrap_or(Error::NoSuchPart));
        }
        let args = Args::from(args);
        self.part_told(part, doing, &args, |part, cx| part.command(command, cx)).ok_or(Error::NoSuchPart)
    }

    /// Lets something be done with a part, which may ask to be moved from then on.
    pub(crate) fn part_told<R>(
        &mut self,
        id: PartId,
        doing: Doing,
        args: &[(Text, Value)],
        tell: impl FnOnce(&mut dyn Part, &mut PartCx<'_>) -> R,
    ) -> Option<R> {
        let object = self.parts.get(id)?.object;
        let mut part = self.parts.take(id)?;
        let mut cx = PartCx { state: self, part: id, object, args, doing, woken: false };
        let told = tell(dyn_clone::arc_make_mut(&mut part), &mut cx);
        let (woken, doing) = (cx.woken, cx.doing);
        self.parts.put_back(id, part);
        self.review_reach(id);
        if woken {
            self.parts.set_moving(id, Some(doing));
        }
        Some(told)
    }

    /// One tick of everything that moves, by object number, but for what is disabled or frozen.
    pub(crate) fn move_parts(&mut self) {
        if self.parts.places.moving.is_empty() {
            return;
        }
        let mut turn = std::mem::take(&mut self.parts.turn);
        turn.extend(self.parts.places.moving.iter().map(|(_, id)| *id));
        for id in turn.drain(..) {
            let Some(slot) = self.parts.get(id) else { continue };
            if !self.is_awake(slot.object) {
                continue;
            }
            let doing = slot.doing;
            let rests =
                self.part_told(id, doing, &[], |part, cx| part.motion(cx) == Activity::Still && !cx.woken);
            if rests.unwrap_or(false) {
                self.parts.set_moving(id, None);
            }
        }
        self.parts.turn = turn;
    }

    /// Whether an object is there, enabled, and not in a frozen scene.
    pub(crate) fn is_awake(&self, object: ObjectId) -> bool {
        let object = self.objects.get(object).filter(|object| object.enabled);
        object.is_some_and(|object| !self.scenes.is_frozen(object.scene))
    }
}
