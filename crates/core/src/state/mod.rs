//! Everything of a world that is data: what can be looked at from outside and from inside a reaction.

pub(crate) mod between_ticks;
pub(crate) mod bus;
pub(crate) mod destroyed_names;
pub(crate) mod moment;
pub(crate) mod outbox;
pub(crate) mod parts;
pub(crate) mod plan;
pub(crate) mod scenes;
pub(crate) mod scratch;
pub(crate) mod wiring;

use std::cell::RefCell;

use glam::Vec3;
use rand_pcg::{Pcg32, rand_core::SeedableRng};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Tick, TickRate},
        error::Error,
        geometry::Rotation,
        ids::{ObjectId, PropertyName, SpotId, Tag},
        shared::Shared,
    },
    moment::{runaway::Runaway, spots::Spot},
    part::store::Parts,
    plan::among::StateTest,
    state::{bus::Bus, destroyed_names::Gone, moment::Moment, outbox::Outbox, plan::Plan, scratch::Scratch},
    trace::Trace,
};

/// The world without its closures.
///
/// A [`World`](crate::World) and a [`Cx`](crate::Cx) both lead here, so that what can be asked between ticks can
/// be asked within a reaction too.
#[derive(Debug)]
pub struct State {
    /// What has been built. Shared with snapshots.
    pub(crate) plan: Shared<Plan>,
    /// What is true now.
    pub(crate) moment: Moment,
    /// Drawn from by statements, which see the rest of the world unchanged meanwhile.
    pub(crate) random: RefCell<Pcg32>,
    /// Parts: the places they have in the plan, and how they are now.
    pub(crate) parts: Parts,
    /// Signals, with what is under way on them, and the trace.
    pub(crate) bus: Bus,
    /// What lives inside one tick.
    pub(crate) scratch: Scratch,
    /// What waits for the host.
    pub(crate) outbox: Outbox,
    /// The names of what is gone, for as long as the trace may speak of it.
    pub(crate) gone: Gone,
    /// How many objects there may be before nothing more can be spawned.
    pub(crate) most_objects: u32,
}

impl State {
    pub(crate) fn new(rate: TickRate, trace: Trace, runaway: Runaway, seed: u64) -> Self {
        Self {
            plan: Shared::default(),
            moment: Moment::new(rate),
            random: RefCell::new(Pcg32::seed_from_u64(seed)),
            parts: Parts::default(),
            bus: Bus::new(trace, runaway),
            scratch: Scratch::default(),
            outbox: Outbox::default(),
            gone: Gone::default(),
            most_objects: u32::MAX,
        }
    }

    /// The tick under way, or the last one that ended.
    pub fn now(&self) -> Tick {
        self.moment.clock.now
    }

    /// Ticks per second.
    pub fn rate(&self) -> TickRate {
        self.moment.clock.rate
    }

    /// The trace.
    pub fn trace(&self) -> &Trace {
        &self.bus.trace
    }

    /// The object of that name.
    pub fn find(&self, name: &str) -> Option<ObjectId> {
        self.moment.objects.find(name)
    }

    /// All objects, by number.
    pub fn objects(&self) -> impl Iterator<Item = ObjectId> {
        self.moment.objects.iter().map(|(id, _)| id)
    }

    /// The name of an object, also of one that is gone while the trace may speak of it.
    pub fn name(&self, object: ObjectId) -> Option<&str> {
        let here = self.moment.objects.get_even_doomed(object).map(|object| object.name.as_str());
        here.or_else(|| self.gone.objects.get(object).map(SmolStr::as_str))
    }

    /// Where an object is.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn place(&self, object: ObjectId) -> Result<Vec3, Error> {
        self.moment.objects.get(object).map(|object| object.at).ok_or(Error::NoSuchObject)
    }

    /// Whether an object is enabled. One that is gone is not.
    pub fn is_enabled(&self, object: ObjectId) -> bool {
        self.moment.objects.get(object).is_some_and(|object| object.enabled)
    }

    /// Whether an object has a tag.
    pub fn has_tag(&self, object: ObjectId, tag: &str) -> bool {
        let has = |object: &crate::moment::object::Object| {
            object.tags.iter().any(|other| self.moment.objects.tag_word(*other) == tag)
        };
        self.moment.objects.get(object).is_some_and(has)
    }

    /// The velocity of a body, in scene units per second.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::NotABody`].
    pub fn velocity(&self, body: ObjectId) -> Result<Vec3, Error> {
        let object = self.moment.objects.get(body).ok_or(Error::NoSuchObject)?;
        let not_a_body = || Error::NotABody { name: object.name.clone() };
        object.body.as_ref().map(|body| body.facts.velocity).ok_or_else(not_a_body)
    }

    /// What an object hangs on.
    pub fn parent(&self, object: ObjectId) -> Option<ObjectId> {
        self.moment.objects.get(object)?.parent
    }

    /// The object that has a role.
    ///
    /// # Errors
    /// [`Error::NoManager`], which names the roles there are.
    pub fn manager(&self, role: &str) -> Result<ObjectId, Error> {
        self.moment.scenes.manager(role)
    }

    /// Which way an object faces.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn facing(&self, object: ObjectId) -> Result<Rotation, Error> {
        self.moment.objects.get(object).map(|object| object.facing).ok_or(Error::NoSuchObject)
    }

    /// The spot of that name: one of its own, or `object.spot`.
    pub fn find_spot(&self, name: &str) -> Option<SpotId> {
        self.plan.spots.find(name)
    }

    /// The spots, in the order of their making.
    pub fn spots(&self) -> impl Iterator<Item = SpotId> {
        self.plan.spots.ids()
    }

    /// A spot.
    ///
    /// # Errors
    /// [`Error::NoSuchSpot`].
    pub fn spot(&self, spot: SpotId) -> Result<&Spot, Error> {
        self.plan.spots.get(spot).ok_or(Error::NoSuchSpot)
    }

    /// The objects with a tag, by number.
    pub fn tagged(&self, tag: Tag) -> impl Iterator<Item = ObjectId> {
        self.moment.objects.tagged(tag)
    }

    /// The tag of that word, if the world knows it.
    pub fn find_tag(&self, word: &str) -> Option<Tag> {
        self.moment.objects.find_tag(word)
    }

    /// The name of variables of objects, if the world knows it.
    pub fn find_property(&self, word: &str) -> Option<PropertyName> {
        self.moment.objects.find_property_name(word)
    }

    /// A test for a state that parts of any kind known so far can be in.
    pub fn state_test(&self, state: &str) -> StateTest {
        StateTest { word: state.into(), kinds: self.parts.kinds_with_state(state) }
    }

    /// The word of a tag.
    pub fn tag_word(&self, tag: Tag) -> &str {
        self.moment.objects.tag_word(tag)
    }

    /// The word of the name of a property.
    pub fn property_word(&self, name: PropertyName) -> &str {
        self.moment.objects.property_word(name)
    }
}
