//! Everything of a world that is data: what can be looked at from outside and from inside a reaction.

pub(crate) mod bus;
pub(crate) mod destroyed_names;
pub(crate) mod parts;
pub(crate) mod scenes;
pub(crate) mod wiring;

use std::{
    cell::RefCell,
    collections::{BTreeMap, BTreeSet},
};

use glam::Vec3;
use rand_pcg::{Pcg32, rand_core::SeedableRng};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Clock, Tick, TickRate},
        error::Error,
        geometry::Rotation,
        ids::{
            BindId, ObjectId, PartId, PropertyName, RecordId, RuleId, SignalId, SpotId, Tag, VarId, WireId,
        },
        shared::Shared,
    },
    moment::{
        alarms::Alarms,
        effects::Effects,
        faults::Faults,
        hands::AllHands,
        leaving::Leaving,
        memory::Memory,
        messages::Message,
        objects::Objects,
        runaway::{Runaway, Spawner},
        scenes::Scenes,
        spots::{Spot, Spots},
        tweens::Tweens,
        vars::Vars,
        waiting::Waiting,
        wires::Wires,
        zones::Zones,
    },
    part::{mould::Moulds, store::Parts},
    plan::{
        among::StateTest,
        binds::Bind,
        crossings::{Crossing, Side},
        expr::Expr,
        ops::Task,
        rules::Rule,
    },
    space::{reaches::Reaches, touch::Touches, tracker::ZoneKey},
    state::{bus::Bus, destroyed_names::Gone},
    trace::Trace,
};

/// The world without its closures.
///
/// A [`World`](crate::World) and a [`Cx`](crate::Cx) both lead here, so that what can be asked between ticks can
/// be asked within a reaction too.
#[derive(Debug)]
pub struct State {
    pub(crate) clock: Clock,
    pub(crate) bus: Bus,
    pub(crate) objects: Objects,
    pub(crate) parts: Parts,
    pub(crate) wires: Wires,
    pub(crate) vars: Vars,
    pub(crate) effects: Effects,
    pub(crate) rules: Shared<Vec<Rule>>,
    pub(crate) tracker: Zones,
    /// Zones that tell every so often of whoever is inside, by number.
    pub(crate) pulsing: Shared<Vec<ZoneKey>>,
    /// Parts that offer something, that push, and that rays meet; each by object number.
    pub(crate) prompts: Shared<Vec<PartId>>,
    pub(crate) pushes: Shared<Vec<PartId>>,
    pub(crate) aimed: Shared<Vec<PartId>>,
    /// What parts want to be worked out while the world runs, by setting.
    pub(crate) asked: Shared<BTreeMap<PartId, Vec<(SmolStr, Expr)>>>,
    /// How far from their objects prompts reach.
    pub(crate) reaches: Reaches,
    pub(crate) hands: Shared<AllHands>,
    /// The bodies that the motion phase moves, by number.
    pub(crate) movers: Shared<BTreeSet<(u32, ObjectId)>>,
    pub(crate) waiting: Waiting,
    pub(crate) alarms: Alarms,
    /// The signals that cross to other worlds, which side this one is on, and what is on its way.
    pub(crate) crossings: Shared<BTreeMap<SignalId, Crossing>>,
    pub(crate) side: Side,
    pub(crate) outgoing: Vec<Message>,
    /// The wires that belong to stages, by the variable that says which.
    pub(crate) staged: Shared<BTreeMap<VarId, Vec<WireId>>>,
    pub(crate) scenes: Scenes,
    /// Start-up is over.
    pub(crate) started: bool,
    /// Objects made since the last upkeep, with the record of it.
    pub(crate) spawned: Vec<(ObjectId, Option<RecordId>)>,
    /// Drawn from by statements, which see the rest of the world unchanged meanwhile.
    pub(crate) random: RefCell<Pcg32>,
    pub(crate) spots: Spots,
    pub(crate) tasks: Shared<Vec<Task>>,
    pub(crate) binds: Shared<Vec<Bind>>,
    /// The binds that keep variables of objects, by the names of those.
    pub(crate) bind_names: Shared<BTreeMap<PropertyName, Vec<BindId>>>,
    /// Binds were made since they were ranked.
    pub(crate) binds_unranked: bool,
    pub(crate) tweens: Tweens,
    pub(crate) moulds: Shared<Moulds>,
    /// Bodies on their way to scenes that are not in this world, for the host.
    pub(crate) leaving: Vec<Leaving>,
    /// Bodies that are taken to other scenes in this tick's upkeep, with the records of their sending.
    pub(crate) travelling: Vec<(Leaving, Option<RecordId>)>,
    /// What is remembered of scenes that are not loaded.
    pub(crate) memory: Memory,
    /// What the world was made of: names, and what stands for their contents.
    pub(crate) made_of: Shared<BTreeMap<SmolStr, u64>>,
    /// How many players there may be.
    pub(crate) most_players: Option<u32>,
    /// How many objects there may be before nothing more can be spawned.
    pub(crate) most_objects: u32,
    /// The wire that would have spawned more, in this tick.
    pub(crate) overfull: Option<Spawner>,
    /// What could not be done since the host asked last.
    pub(crate) faults: Faults,
    /// The rules that the last tick broke.
    pub(crate) broken_now: Vec<RuleId>,
    /// How often signals were delivered that ended since, of those somebody counts by name.
    pub(crate) ended_counts: BTreeMap<SmolStr, u64>,
    /// A sequence that did not come to rest in this tick.
    pub(crate) endless: Option<WireId>,
    /// Objects destroyed in this tick, in that order.
    pub(crate) doomed: Vec<ObjectId>,
    pub(crate) touches: Touches,
    /// Signals whose object was freed in this tick; they go once their wires are gone.
    pub(crate) gone_signals: Vec<SignalId>,
    /// The names of what is gone, for as long as the trace may speak of it.
    pub(crate) gone: Gone,
}

impl State {
    pub(crate) fn new(rate: TickRate, trace: Trace, runaway: Runaway, seed: u64) -> Self {
        Self {
            clock: Clock::new(rate),
            bus: Bus::new(trace, runaway),
            objects: Objects::default(),
            parts: Parts::default(),
            wires: Wires::default(),
            vars: Vars::default(),
            effects: Effects::default(),
            rules: Shared::default(),
            tracker: Zones::default(),
            pulsing: Shared::default(),
            prompts: Shared::default(),
            pushes: Shared::default(),
            aimed: Shared::default(),
            asked: Shared::default(),
            reaches: Reaches::default(),
            hands: Shared::default(),
            movers: Shared::default(),
            waiting: Waiting::default(),
            alarms: Alarms::default(),
            crossings: Shared::default(),
            side: Side::default(),
            outgoing: Vec::new(),
            staged: Shared::default(),
            scenes: Scenes::default(),
            started: false,
            spawned: Vec::new(),
            random: RefCell::new(Pcg32::seed_from_u64(seed)),
            spots: Spots::default(),
            tasks: Shared::default(),
            binds: Shared::default(),
            bind_names: Shared::default(),
            binds_unranked: false,
            tweens: Tweens::default(),
            moulds: Shared::default(),
            leaving: Vec::new(),
            travelling: Vec::new(),
            memory: Memory::default(),
            made_of: Shared::default(),
            most_players: None,
            most_objects: u32::MAX,
            overfull: None,
            faults: Faults::default(),
            broken_now: Vec::new(),
            ended_counts: BTreeMap::new(),
            endless: None,
            doomed: Vec::new(),
            touches: Touches::default(),
            gone_signals: Vec::new(),
            gone: Gone::default(),
        }
    }

    /// The tick under way, or the last one that ended.
    pub fn now(&self) -> Tick {
        self.clock.now
    }

    /// Ticks per second.
    pub fn rate(&self) -> TickRate {
        self.clock.rate
    }

    /// The trace.
    pub fn trace(&self) -> &Trace {
        &self.bus.trace
    }

    /// The object of that name.
    pub fn find(&self, name: &str) -> Option<ObjectId> {
        self.objects.find(name)
    }

    /// All objects, by number.
    pub fn objects(&self) -> impl Iterator<Item = ObjectId> {
        self.objects.iter().map(|(id, _)| id)
    }

    /// The name of an object, also of one that is gone while the trace may speak of it.
    pub fn name(&self, object: ObjectId) -> Option<&str> {
        let here = self.objects.get_even_doomed(object).map(|object| object.name.as_str());
        here.or_else(|| self.gone.objects.get(object).map(SmolStr::as_str))
    }

    /// Where an object is.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn place(&self, object: ObjectId) -> Result<Vec3, Error> {
        self.objects.get(object).map(|object| object.at).ok_or(Error::NoSuchObject)
    }

    /// Whether an object is enabled. One that is gone is not.
    pub fn is_enabled(&self, object: ObjectId) -> bool {
        self.objects.get(object).is_some_and(|object| object.enabled)
    }

    /// Whether an object has a tag.
    pub fn has_tag(&self, object: ObjectId, tag: &str) -> bool {
        let has = |object: &crate::moment::object::Object| {
            object.tags.iter().any(|other| self.objects.tag_word(*other) == tag)
        };
        self.objects.get(object).is_some_and(has)
    }

    /// The velocity of a body, in scene units per second.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::NotABody`].
    pub fn velocity(&self, body: ObjectId) -> Result<Vec3, Error> {
        let object = self.objects.get(body).ok_or(Error::NoSuchObject)?;
        let not_a_body = || Error::NotABody { name: object.name.clone() };
        object.body.as_ref().map(|body| body.velocity).ok_or_else(not_a_body)
    }

    /// What an object hangs on.
    pub fn parent(&self, object: ObjectId) -> Option<ObjectId> {
        self.objects.get(object)?.parent
    }

    /// The object that has a role.
    ///
    /// # Errors
    /// [`Error::NoManager`], which names the roles there are.
    pub fn manager(&self, role: &str) -> Result<ObjectId, Error> {
        self.scenes.manager(role)
    }

    /// Which way an object faces.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn facing(&self, object: ObjectId) -> Result<Rotation, Error> {
        self.objects.get(object).map(|object| object.facing).ok_or(Error::NoSuchObject)
    }

    /// The spot of that name: one of its own, or `object.spot`.
    pub fn find_spot(&self, name: &str) -> Option<SpotId> {
        self.spots.find(name)
    }

    /// A spot.
    ///
    /// # Errors
    /// [`Error::NoSuchSpot`].
    pub fn spot(&self, spot: SpotId) -> Result<&Spot, Error> {
        self.spots.get(spot).ok_or(Error::NoSuchSpot)
    }

    /// The objects with a tag, by number.
    pub fn tagged(&self, tag: Tag) -> impl Iterator<Item = ObjectId> {
        self.objects.tagged(tag)
    }

    /// The tag of that word, if the world knows it.
    pub fn find_tag(&self, word: &str) -> Option<Tag> {
        self.objects.find_tag(word)
    }

    /// The name of variables of objects, if the world knows it.
    pub fn find_property(&self, word: &str) -> Option<PropertyName> {
        self.objects.find_property_name(word)
    }

    /// A test for a state that parts of any kind known so far can be in.
    pub fn state_test(&self, state: &str) -> StateTest {
        StateTest { word: state.into(), kinds: self.parts.kinds_with_state(state) }
    }

    /// The word of a tag.
    pub fn tag_word(&self, tag: Tag) -> &str {
        self.objects.tag_word(tag)
    }

    /// The word of the name of a property.
    pub fn property_word(&self, name: PropertyName) -> &str {
        self.objects.property_word(name)
    }
}
