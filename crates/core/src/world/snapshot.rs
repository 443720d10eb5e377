//! Snapshots: the whole state of a world, to go back to.

use std::{cell::RefCell, collections::VecDeque};

use serde::{Deserialize, Deserializer, Serialize, Serializer, de::Error as _};
use smol_str::SmolStr;

use crate::{
    base::{clock::Tick, error::SaveError, shared::Shared},
    part::behaviours::SnapshotParts,
    state::{State, scratch::Scratch},
    world::{
        World,
        input::Input,
        world_data::{WorldData, WorldKey},
    },
};

/// The whole state of a world between two ticks.
///
/// It has everything that decides what happens next: objects, parts, signals, wires with their limits, sequences
/// that wait, variables, what was handed in and not yet taken in, the random numbers, and where the digest stands.
/// Closures are not in it: a wire in a snapshot finds its closure in the world it is restored to, by number. That works
/// in the world the snapshot is of, and in one that was built by the same program. What waits in mailboxes and for the
/// host to perform is the host's.
///
/// A snapshot in memory shares with the world whatever has not changed since: taking one and going back to it cost
/// little, and what changes afterwards is copied then. Written with `serde` it is a world put aside as data. Data is
/// checked once, as it is read.
///
/// ```
/// use stoicheon_core::World;
/// let mut world = World::<u32>::new();
/// let bell = world.declare_signal::<()>("bell")?;
/// world.on(bell).run(|count, (), _| *count += 1)?;
/// let before = world.snapshot()?;
/// let mut digests = Vec::new();
/// for _ in 0..2 {
///     world.emit(bell, ())?;
///     world.step(&mut 0)?;
///     digests.push(world.trace().digest());
///     world.restore(&before)?;
/// }
/// assert_eq!(digests[0], digests[1]);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Snapshot {
    /// The world it was taken of, if that was in this process.
    of: Option<TakenOf>,
    data: Box<WorldData>,
}

#[derive(Clone, Copy, Debug)]
struct TakenOf {
    world: WorldKey,
    /// How many closures the world had let go.
    forgotten: u64,
}

impl Serialize for Snapshot {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.data.serialize(to)
    }
}

impl<'de> Deserialize<'de> for Snapshot {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let mut data = Box::new(WorldData::deserialize(from)?);
        data.check().map_err(D::Error::custom)?;
        data.moment.objects.index_names_if_missing();
        data.moment.vars.index_if_missing();
        data.signals.index_names_if_missing();
        data.plan.edit().binds_unranked = true;
        Ok(Self { of: None, data })
    }
}

impl Snapshot {
    /// The tick after which it was taken.
    pub fn tick(&self) -> Tick {
        self.data.moment.clock.now
    }
}

/// What of going back and forth is not generic; a game compiles the rest.
impl State {
    fn taken(&self, inputs: &[Input], forgetting: &VecDeque<(Tick, u32, u32)>) -> WorldData {
        WorldData {
            plan: self.plan.clone(),
            moment: self.moment.clone(),
            random: self.random.borrow().clone(),
            places: self.parts.places.clone(),
            parts: SnapshotParts::Shared(self.parts.behaviours.clone()),
            signals: self.bus.signals.clone(),
            watches: self.bus.watches.clone(),
            trace: self.bus.trace.head().clone(),
            inputs: inputs.to_vec(),
            queue: self.bus.queue.waiting().to_vec(),
            payloads: self.bus.payloads.all_values(),
            closures: self.bus.payloads.closures.clone(),
            forgetting: forgetting.clone(),
        }
    }

    /// `own`: it is of this world. `bare`: it was read from data, and what follows from the rest is worked out again.
    fn go_back(&mut self, data: &WorldData, own: bool, bare: bool) -> Result<(), SaveError> {
        match &data.parts {
            SnapshotParts::Shared(parts) if own => {
                (self.parts.places, self.parts.behaviours) = (data.places.clone(), parts.clone());
            }
            parts => {
                let saved = parts.saved();
                let made = self.parts.prepare(&saved)?;
                self.parts.load(data.places.clone(), &saved, made);
            }
        }
        self.plan.clone_from(&data.plan);
        self.moment.clone_from(&data.moment);
        self.random = RefCell::new(data.random.clone());
        self.bus.signals.clone_from(&data.signals);
        self.bus.watches.clone_from(&data.watches);
        if bare {
            self.revive_tracker();
            self.find_movers();
            self.find_reaches();
            self.find_pushing();
            self.find_pulsing();
        }
        self.scratch = Scratch::default();
        self.outbox.leaving.clear();
        self.outbox.effects.clear();
        self.bus.delivering = None;
        self.bus.trace.go_back(data.trace.clone());
        self.requeue(data);
        Ok(())
    }

    /// Whether this world was made of the same as the one the snapshot is of.
    fn check_made_of(&self, data: &WorldData) -> Result<(), SaveError> {
        let (then, here) = (&data.plan.made_of, &self.plan.made_of);
        let mut differs: Vec<String> = Vec::new();
        for (name, what) in then.iter() {
            match here.get(name) {
                None => differs.push(format!("{name} is not here any more")),
                Some(other) if other != what => differs.push(format!("{name} is written otherwise now")),
                Some(_) => {}
            }
        }
        differs.extend(
            here.keys().filter(|name| !then.contains_key(*name)).map(|name| format!("{name} is new")),
        );
        if differs.is_empty() {
            return Ok(());
        }
        Err(SaveError::Mismatch { what: differs.join("; ") })
    }
}

impl<G: 'static> World<G> {
    /// The whole state of the world.
    ///
    /// # Errors
    /// [`SaveError::BrokenOff`] after a reaction panicked.
    pub fn snapshot(&self) -> Result<Snapshot, SaveError> {
        self.check_whole().map_err(|_| SaveError::BrokenOff)?;
        let data = self.state.taken(&self.inputs.all, &self.forgetting);
        let of = Some(TakenOf { world: self.key, forgotten: self.forgotten });
        Ok(Snapshot { of, data: Box::new(data) })
    }

    /// Goes back to a snapshot: the world is then as it was when that was taken, and the same inputs lead to the
    /// same trace. Records made since are forgotten.
    ///
    /// A world that was broken off by a panic is whole again. One that was [rewired](World::rewire) since is what it was made of
    /// then, and can be rewired once more; only how scenes are made that it loads stays as it is now.
    ///
    /// # Errors
    /// [`SaveError::Mismatch`] when the snapshot is of a world that was built otherwise, or when it needs a
    /// closure that was let go: see [`Config::rollback`](crate::Config::rollback). Then nothing is changed.
    pub fn restore(&mut self, snapshot: &Snapshot) -> Result<(), SaveError> {
        let Snapshot { of, data } = snapshot;
        let of = of.filter(|of| of.world == self.key);
        // What it was made of before it was rewired comes back with the snapshot.
        let was_so = |made: &Shared<_>| **made == *data.plan.made_of;
        if of.is_none() || !self.was_made_of.iter().any(was_so) {
            self.state.check_made_of(data)?;
        }
        match of {
            Some(of) if of.forgotten == self.forgotten => {}
            Some(_) => self.check_closures(data)?,
            None => self.check_fits(data)?,
        }
        self.go(snapshot, of.is_some())
    }

    /// Goes back to a snapshot of this world that was taken a moment ago, whatever the world is made of since.
    pub(crate) fn go_back_to(&mut self, snapshot: &Snapshot) -> Result<(), SaveError> {
        self.go(snapshot, true)
    }

    fn go(&mut self, Snapshot { of, data }: &Snapshot, own: bool) -> Result<(), SaveError> {
        self.state.go_back(data, own, of.is_none())?;
        self.inputs.restore(&data.inputs);
        self.forgetting.clone_from(&data.forgetting);
        self.fresh.clear();
        self.in_tick = false;
        Ok(())
    }

    /// Whether everything the snapshot refers to is here, or is in the snapshot.
    fn check_fits(&self, data: &WorldData) -> Result<(), SaveError> {
        let mismatch = |what: &str| Err(SaveError::Mismatch { what: what.to_owned() });
        if data.moment.clock.rate != self.rate() {
            return mismatch("it counts another number of ticks per second");
        }
        let stores = self.state.bus.payloads.closures.len();
        if data.closures.len() > stores || data.payloads.len() > stores {
            return mismatch("it has payload types this world has not");
        }
        let scenes = data.moment.scenes.ids().filter_map(|id| Some((id, data.moment.scenes.get(id)?)));
        for (id, _) in scenes.filter(|(_, scene)| scene.offered) {
            let name = data.moment.scenes.name(id).map_or("", SmolStr::as_str);
            if self.state.moment.scenes.find(name) != Some(id) || !self.makers.contains_key(&id) {
                let what = format!("nobody here says how its scene \"{name}\" is made");
                return Err(SaveError::Mismatch { what });
            }
        }
        let known = |kind: &str| self.state.parts.kind_named(kind).is_some();
        if let Some(kind) = data.plan.moulds.values().find_map(|mould| mould.lacks(known)) {
            let what =
                format!("a mould of it has a part of the kind \"{kind}\", of which this world had none");
            return Err(SaveError::Mismatch { what });
        }
        self.check_closures(data)
    }

    /// Whether every closure that its wires need is still here.
    fn check_closures(&self, data: &WorldData) -> Result<(), SaveError> {
        match data.moment.wires.closures().find(|(store, closure, _)| !self.stores.has(*store, *closure)) {
            Some((_, _, place)) => Err(SaveError::Mismatch {
                what: format!("the closure of the wire made at {place} is not in this world"),
            }),
            None => Ok(()),
        }
    }
}

/// Snapshots can be looked at by several threads.
const fn can_be_shared<T: Send + Sync>() {}
const _: () = can_be_shared::<Snapshot>();
