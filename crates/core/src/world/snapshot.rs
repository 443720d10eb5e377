//! Snapshots: the whole state of a world as data, to go back to.

use std::{
    cell::RefCell,
    collections::{BTreeMap, VecDeque},
};

use rand_pcg::Pcg32;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use super::{Input, World};
use crate::{
    alarm::Alarms,
    bind::{Bind, BindId},
    clock::{Clock, Tick},
    cross::{Crossing, Message, Side},
    effect::Effects,
    error::Error,
    expr::Expr,
    memory::Memory,
    mould::Moulds,
    object::{ObjectId, Objects, PropertyName},
    part::{PartId, Places, SavedParts},
    prompting::AllHands,
    queue::Emission,
    rule::Rule,
    scene::Scenes,
    send::Leaving,
    sequence::{Task, Waiting},
    signal::{SignalId, Signals},
    space::ZoneKey,
    spot::Spots,
    state::State,
    touching::Zones,
    trace::{RecordId, TraceHead},
    tween::Tweens,
    value::Values,
    var::Vars,
    watch::Watches,
    wire::Wires,
};

/// The whole state of a world between two ticks, as data.
///
/// Everything is in it that decides what happens next: objects, parts, signals, wires with their limits, sequences
/// that wait, variables, what was handed in and not yet taken in, the random numbers, and where the digest stands.
/// Closures are not: a wire in a snapshot finds its closure in the world it is restored to, by number. That works in
/// the world the snapshot is of, and in one that was built by the same program. What waits in mailboxes and for the
/// host to perform is the host's.
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
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Snapshot {
    clock: Clock,
    started: bool,
    objects: Objects,
    places: Places,
    parts: SavedParts,
    signals: Signals,
    wires: Wires,
    vars: Vars,
    effects: Effects,
    rules: Vec<Rule>,
    tracker: Zones,
    pulsing: Vec<ZoneKey>,
    prompts: Vec<PartId>,
    pushes: Vec<PartId>,
    aimed: Vec<PartId>,
    #[serde(with = "crate::pairs")]
    asked: BTreeMap<PartId, Vec<(SmolStr, Expr)>>,
    #[serde(with = "crate::pairs")]
    hands: AllHands,
    waiting: Waiting,
    alarms: Alarms,
    #[serde(with = "crate::pairs")]
    staged: BTreeMap<crate::VarId, Vec<crate::WireId>>,
    scenes: Scenes,
    travelling: Vec<(Leaving, Option<RecordId>)>,
    memory: Memory,
    made_of: BTreeMap<SmolStr, u64>,
    most_players: Option<u32>,
    spawned: Vec<(ObjectId, Option<RecordId>)>,
    random: Pcg32,
    spots: Spots,
    tasks: Vec<Task>,
    binds: Vec<Bind>,
    #[serde(with = "crate::pairs")]
    bind_names: BTreeMap<PropertyName, Vec<BindId>>,
    tweens: Tweens,
    watches: Watches,
    #[serde(with = "crate::pairs")]
    crossings: BTreeMap<SignalId, Crossing>,
    side: Side,
    /// What was to cross to other worlds and was not taken there yet.
    outgoing: Vec<Message>,
    moulds: Moulds,
    trace: TraceHead,
    inputs: Vec<Input>,
    /// Emitted in the last upkeep.
    queue: Vec<Emission>,
    /// What they and the host's own emissions carry, by payload type.
    payloads: Vec<Vec<Values>>,
    closures: Vec<u32>,
    forgetting: VecDeque<(Tick, u32, u32)>,
}

impl Snapshot {
    /// The tick after which it was taken.
    pub fn tick(&self) -> Tick {
        self.clock.now
    }
}

impl<G: 'static> World<G> {
    /// The whole state of the world, as data.
    ///
    /// # Errors
    /// [`Error::BrokenOff`] after a reaction panicked.
    pub fn snapshot(&self) -> Result<Snapshot, Error> {
        self.check_whole()?;
        let state = &self.state;
        Ok(Snapshot {
            clock: state.clock.clone(),
            started: state.started,
            objects: state.objects.clone(),
            places: state.parts.places.clone(),
            parts: state.parts.save(),
            signals: state.bus.signals.clone(),
            wires: state.wires.clone(),
            vars: state.vars.clone(),
            effects: state.effects.without_waiting(),
            rules: state.rules.clone(),
            tracker: state.tracker.clone(),
            pulsing: state.pulsing.clone(),
            prompts: state.prompts.clone(),
            pushes: state.pushes.clone(),
            aimed: state.aimed.clone(),
            asked: state.asked.clone(),
            hands: state.hands.clone(),
            waiting: state.waiting.clone(),
            alarms: state.alarms.clone(),
            staged: state.staged.clone(),
            scenes: state.scenes.clone(),
            travelling: state.travelling.clone(),
            memory: state.memory.clone(),
            made_of: state.made_of.clone(),
            most_players: state.most_players,
            spawned: state.spawned.clone(),
            random: state.random.borrow().clone(),
            spots: state.spots.clone(),
            tasks: state.tasks.clone(),
            binds: state.binds.clone(),
            bind_names: state.bind_names.clone(),
            tweens: state.tweens.clone(),
            watches: state.bus.watches.clone(),
            crossings: state.crossings.clone(),
            side: state.side,
            outgoing: state.outgoing.clone(),
            moulds: state.moulds.clone(),
            trace: state.bus.trace.head().clone(),
            inputs: self.inputs.clone(),
            queue: state.bus.queue.waiting().to_vec(),
            payloads: state.bus.payloads.all_values(),
            closures: state.bus.payloads.closures.clone(),
            forgetting: self.forgetting.clone(),
        })
    }

    /// Goes back to a snapshot: the world is then as it was when that was taken, and the same inputs lead to the
    /// same trace. Records made since are forgotten.
    ///
    /// A world that was broken off by a panic is whole again.
    ///
    /// # Errors
    /// [`Error::SnapshotMismatch`] when the snapshot is of a world that was built otherwise, or when it needs a
    /// closure that was let go: see [`Config::rollback`](crate::Config::rollback). Then nothing is changed.
    pub fn restore(&mut self, snapshot: &Snapshot) -> Result<(), Error> {
        let made = self.state.parts.prepare(&snapshot.parts)?;
        self.check_fits(snapshot)?;
        let state = &mut self.state;
        state.clock = snapshot.clock.clone();
        state.started = snapshot.started;
        state.objects.clone_from(&snapshot.objects);
        state.objects.index_names_if_missing();
        state.parts.load(snapshot.places.clone(), &snapshot.parts, made);
        state.bus.signals.clone_from(&snapshot.signals);
        state.wires.clone_from(&snapshot.wires);
        state.vars.clone_from(&snapshot.vars);
        state.effects.clone_from(&snapshot.effects);
        state.rules.clone_from(&snapshot.rules);
        state.tracker.clone_from(&snapshot.tracker);
        state.pulsing.clone_from(&snapshot.pulsing);
        state.prompts.clone_from(&snapshot.prompts);
        state.pushes.clone_from(&snapshot.pushes);
        state.aimed.clone_from(&snapshot.aimed);
        state.asked.clone_from(&snapshot.asked);
        state.hands.clone_from(&snapshot.hands);
        state.revive_tracker();
        state.find_movers();
        state.waiting.clone_from(&snapshot.waiting);
        state.alarms.clone_from(&snapshot.alarms);
        state.staged.clone_from(&snapshot.staged);
        state.scenes.clone_from(&snapshot.scenes);
        state.travelling.clone_from(&snapshot.travelling);
        state.memory.clone_from(&snapshot.memory);
        state.most_players = snapshot.most_players;
        state.spawned.clone_from(&snapshot.spawned);
        state.random = RefCell::new(snapshot.random.clone());
        state.spots.clone_from(&snapshot.spots);
        state.tasks.clone_from(&snapshot.tasks);
        state.binds.clone_from(&snapshot.binds);
        state.bind_names.clone_from(&snapshot.bind_names);
        state.binds_unranked = true;
        state.tweens.clone_from(&snapshot.tweens);
        state.bus.watches.clone_from(&snapshot.watches);
        state.crossings.clone_from(&snapshot.crossings);
        state.side = snapshot.side;
        state.outgoing.clone_from(&snapshot.outgoing);
        state.moulds.clone_from(&snapshot.moulds);
        state.endless = None;
        state.leaving.clear();
        state.doomed.clear();
        state.gone_signals.clear();
        state.bus.delivering = None;
        state.bus.trace.go_back(snapshot.trace.clone());
        state.bus.queue.clear();
        snapshot.queue.iter().for_each(|emission| state.bus.queue.push(*emission));
        state.bus.payloads.clear();
        for (store, values) in (0_u32..).zip(&snapshot.payloads) {
            for values in values {
                state.bus.payloads.push_values(store, values);
            }
        }
        state.bus.payloads.closures.clone_from(&snapshot.closures);
        self.inputs.clone_from(&snapshot.inputs);
        self.forgetting.clone_from(&snapshot.forgetting);
        self.fresh.clear();
        self.in_tick = false;
        Ok(())
    }

    /// Whether this world was made of the same as the one the snapshot is of.
    fn check_made_of(&self, snapshot: &Snapshot) -> Result<(), Error> {
        let (then, here) = (&snapshot.made_of, &self.state.made_of);
        let mut differs: Vec<String> = Vec::new();
        for (name, what) in then {
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
        Err(Error::SnapshotMismatch { what: differs.join("; ") })
    }

    /// Whether everything the snapshot refers to is here, or is in the snapshot.
    fn check_fits(&self, snapshot: &Snapshot) -> Result<(), Error> {
        let mismatch = |what: &str| Err(Error::SnapshotMismatch { what: what.to_owned() });
        if snapshot.clock.rate != self.rate() {
            return mismatch("it counts another number of ticks per second");
        }
        self.check_made_of(snapshot)?;
        let stores = self.state.bus.payloads.closures.len();
        if snapshot.closures.len() > stores || snapshot.payloads.len() > stores {
            return mismatch("it has payload types this world has not");
        }
        if !snapshot.wires.is_sound() || !snapshot.signals.is_sound(&snapshot.wires) {
            return mismatch("its lists of wires are damaged");
        }
        if !snapshot.objects.is_sound() {
            return mismatch("its objects are damaged");
        }
        if !State::are_sound(&snapshot.binds, &snapshot.bind_names, &snapshot.vars) {
            return mismatch("its list of binds is damaged");
        }
        if !snapshot.tracker.is_sound() {
            return mismatch("its list of who is inside which zone is damaged");
        }
        if !snapshot.scenes.is_sound() {
            return mismatch("its list of scenes is damaged");
        }
        let scenes = snapshot.scenes.ids().filter_map(|id| Some((id, snapshot.scenes.get(id)?)));
        for (id, _) in scenes.filter(|(_, scene)| scene.offered) {
            let name = snapshot.scenes.name(id).map_or("", SmolStr::as_str);
            if self.state.scenes.find(name) != Some(id) || !self.makers.contains_key(&id) {
                let what = format!("nobody here says how its scene \"{name}\" is made");
                return Err(Error::SnapshotMismatch { what });
            }
        }
        let known = |kind: &str| self.state.parts.kind_named(kind).is_some();
        if let Some(kind) = snapshot.moulds.values().find_map(|mould| mould.lacks(known)) {
            let what =
                format!("a mould of it has a part of the kind \"{kind}\", of which this world had none");
            return Err(Error::SnapshotMismatch { what });
        }
        if !snapshot.waiting.is_sound() {
            return mismatch("a reaction that waits is damaged");
        }
        for (store, closure, place) in snapshot.wires.closures() {
            if !self.stores.has(store, closure) {
                return Err(Error::SnapshotMismatch {
                    what: format!("the closure of the wire made at {place} is not in this world"),
                });
            }
        }
        Ok(())
    }
}
