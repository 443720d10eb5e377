//! Everything of a world that is data: what can be looked at from outside and from inside a reaction.

use std::any::Any;

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    bus::Bus,
    clock::{Clock, Tick, TickRate},
    effect::{EffectId, Effects},
    error::Error,
    expr::{Expr, Scope},
    gone::Gone,
    object::{ObjectId, Objects},
    part::{Part, PartId, PartKind, Parts},
    payload::Field,
    rule::{Rule, RuleId},
    sequence::Waiting,
    signal::SignalId,
    space::{Touches, Tracker},
    trace::Trace,
    value::Value,
    var::{VarId, Vars},
    wire::{ASLEEP, CUT, Guard, Place, WireCounts, WireId, Wires},
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
    pub(crate) rules: Vec<Rule>,
    pub(crate) tracker: Tracker,
    pub(crate) waiting: Waiting,
    /// Objects destroyed in this tick, in that order.
    pub(crate) doomed: Vec<ObjectId>,
    pub(crate) touches: Touches,
    /// Signals whose object was freed in this tick; they go once their wires are gone.
    pub(crate) gone_signals: Vec<SignalId>,
    /// The names of what is gone, for as long as the trace may speak of it.
    pub(crate) gone: Gone,
}

impl State {
    pub(crate) fn new(rate: TickRate, trace: Trace) -> Self {
        Self {
            clock: Clock::new(rate),
            bus: Bus::new(trace),
            objects: Objects::default(),
            parts: Parts::default(),
            wires: Wires::default(),
            vars: Vars::default(),
            effects: Effects::default(),
            rules: Vec::new(),
            tracker: Tracker::default(),
            waiting: Waiting::default(),
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
        let has = |object: &crate::object::Object| {
            object.tags.iter().any(|other| self.objects.tag_word(*other) == tag)
        };
        self.objects.get(object).is_some_and(has)
    }

    /// The parts of an object, in the order they were attached.
    pub fn parts_of(&self, object: ObjectId) -> &[PartId] {
        self.objects.get(object).map_or(&[], |object| &object.parts)
    }

    /// A part, to be read.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] when it is gone or of another type.
    pub fn part<P: Part>(&self, part: PartId) -> Result<&P, Error> {
        let slot = self.parts.get(part).ok_or(Error::NoSuchPart)?;
        let any: &dyn Any = &*slot.part;
        any.downcast_ref().ok_or(Error::NoSuchPart)
    }

    /// What kind of part it is.
    pub fn kind_of(&self, part: PartId) -> Option<&'static PartKind> {
        let here = self.parts.get(part).map(|slot| slot.part.kind());
        here.or_else(|| self.gone.parts.get(part).map(|(_, kind)| *kind))
    }

    /// The object a part belongs to.
    pub fn object_of(&self, part: PartId) -> Option<ObjectId> {
        let here = self.parts.get(part).map(|slot| slot.object);
        here.or_else(|| self.gone.parts.get(part).map(|(object, _)| *object))
    }

    /// The word for the state a part is in, for kinds that have states.
    pub fn state_word(&self, part: PartId) -> Option<&'static str> {
        let slot = self.parts.get(part)?;
        slot.part.kind().states.get(usize::from(slot.part.state())).copied()
    }

    /// Who is inside a zone, by object number.
    pub fn inside(&self, zone: PartId) -> impl Iterator<Item = ObjectId> {
        self.tracker.inside(zone)
    }

    /// Whether a body is inside a zone.
    pub fn is_inside(&self, body: ObjectId, zone: PartId) -> bool {
        self.inside(zone).any(|other| other == body)
    }

    /// The variable of that name.
    pub fn find_var(&self, name: &str) -> Option<VarId> {
        self.vars.find(name)
    }

    /// The name of a variable.
    pub fn var_name(&self, var: VarId) -> Option<&str> {
        self.vars.name(var).map(SmolStr::as_str)
    }

    /// What a variable holds.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`].
    pub fn value(&self, var: VarId) -> Result<&Value, Error> {
        self.vars.get(var).ok_or(Error::NoSuchVar)
    }

    /// The signal of that name: a scene-wide one, or `object.signal`.
    pub fn find_signal(&self, name: &str) -> Option<SignalId> {
        self.bus.signals.find(name)
    }

    /// The names of all signals, in the order they were declared.
    pub fn signal_names(&self) -> impl Iterator<Item = &str> {
        self.bus.signals.names()
    }

    /// The name of a signal.
    pub fn signal_name(&self, signal: SignalId) -> Option<&str> {
        let here = self.bus.signals.lane(signal).map(|lane| lane.name.as_str());
        here.or_else(|| self.gone.signals.get(signal).map(|(name, _)| name.as_str()))
    }

    /// The fields of a signal.
    pub fn signal_fields(&self, signal: SignalId) -> &[Field] {
        let here = self.bus.signals.lane(signal).map(|lane| lane.fields.as_slice());
        here.or_else(|| self.gone.signals.get(signal).map(|(_, fields)| fields.as_slice()))
            .unwrap_or_default()
    }

    /// How often a signal was delivered so far, whether anybody took it or not.
    pub fn delivered(&self, signal: impl Into<SignalId>) -> u64 {
        self.bus.signals.lane(signal.into()).map_or(0, |lane| lane.delivered)
    }

    /// How many wires hear a signal, the sleeping ones left out.
    pub fn listeners(&self, signal: impl Into<SignalId>) -> usize {
        let awake = |lane: &crate::signal::Lane| {
            let hears =
                |wire: &&WireId| self.wires.hot(**wire).is_some_and(|hot| hot.flags & (ASLEEP | CUT) == 0);
            lane.awake.iter().chain(&lane.asleep).filter(hears).count()
        };
        self.bus.signals.lane(signal.into()).map_or(0, awake)
    }

    /// The effect of that name.
    pub fn find_effect(&self, name: &str) -> Option<EffectId> {
        self.effects.find(name)
    }

    /// The name of an effect.
    pub fn effect_name(&self, effect: EffectId) -> Option<&str> {
        self.effects.name(effect).map(SmolStr::as_str)
    }

    /// The fields of an effect.
    pub fn effect_fields(&self, effect: EffectId) -> &[Field] {
        self.effects.fields(effect)
    }

    /// How often an effect was performed so far.
    pub fn performed(&self, effect: EffectId) -> u64 {
        self.effects.performed(effect)
    }

    fn wire_even_gone(&self, wire: WireId) -> Option<&crate::wire::Wire> {
        self.wires.get(wire).or_else(|| self.gone.wires.get(wire))
    }

    /// Where a wire was written.
    pub fn wire_place(&self, wire: WireId) -> Option<&Place> {
        self.wire_even_gone(wire).map(|wire| &wire.place)
    }

    /// The order number of a wire.
    pub fn wire_order(&self, wire: WireId) -> Option<i32> {
        self.wire_even_gone(wire).map(|wire| wire.order)
    }

    /// The signal a wire listens to.
    pub fn wire_signal(&self, wire: WireId) -> Option<SignalId> {
        self.wire_even_gone(wire).map(|wire| wire.signal)
    }

    /// The object a wire sleeps and ends with.
    pub fn wire_owner(&self, wire: WireId) -> Option<ObjectId> {
        self.wire_even_gone(wire).and_then(|wire| wire.owner)
    }

    /// The guard of a wire, if it is an expression.
    pub fn wire_guard(&self, wire: WireId) -> Option<&Expr> {
        match &self.wire_even_gone(wire)?.guard {
            Guard::Data(expr) => Some(expr),
            _ => None,
        }
    }

    /// What the guard of a wire is called, if it is a closure.
    pub fn wire_guard_name(&self, wire: WireId) -> Option<&str> {
        match &self.wire_even_gone(wire)?.guard {
            Guard::Rust(name) => Some(name),
            _ => None,
        }
    }

    /// The tags a wire asks of whoever causes its signal; none when it takes anybody.
    pub fn wire_filter(&self, wire: WireId) -> impl Iterator<Item = &str> {
        let tags = self.wire_even_gone(wire).map_or(&[][..], |wire| &wire.filter);
        tags.iter().map(|tag| self.objects.tag_word(*tag))
    }

    /// How often a wire was taken and how often it refused.
    ///
    /// # Errors
    /// [`Error::NoSuchWire`].
    pub fn wire_counts(&self, wire: WireId) -> Result<WireCounts, Error> {
        let (hot, info) = self.wires.alive(wire).ok_or(Error::NoSuchWire)?;
        Ok(WireCounts { taken: hot.taken, refused: info.refused })
    }

    /// The rule's condition and where it was written.
    pub fn rule(&self, rule: RuleId) -> Option<(&Expr, &Place)> {
        self.rules.get(rule.0 as usize).map(|rule| (&rule.never, &rule.place))
    }

    /// How often a rule was broken so far.
    pub fn times_broken(&self) -> u64 {
        self.rules.iter().map(|rule| rule.times_broken).sum()
    }

    /// What an expression gives now, caused by nobody and with no payload.
    pub fn evaluate(&self, expr: &Expr) -> Value {
        Scope { state: self, values: &[], who: None }.value(expr)
    }
}
