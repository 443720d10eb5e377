//! What can be looked at: variables, signals, effects, wires and rules.

use smol_str::SmolStr;

use crate::{
    base::{
        error::Error,
        ids::{EffectId, ObjectId, RoutineId, RuleId, SignalId, VarId, WireId},
        payload::Field,
        place::Place,
        value::{Type, Value},
    },
    moment::wires::WireCounts,
    plan::{
        expr::Expr,
        wires::{ASLEEP, CUT, Entry, Guard, Wire},
    },
    state::State,
};

impl State {
    /// The variable of that name.
    pub fn find_var(&self, name: &str) -> Option<VarId> {
        self.moment.vars.find(name)
    }

    /// The name of a variable.
    pub fn var_name(&self, var: VarId) -> Option<&str> {
        let here = self.moment.vars.var(var).map(|var| var.name.as_str());
        here.or_else(|| self.gone.vars.get(var).map(SmolStr::as_str))
    }

    /// The type of what a variable holds; `None` for one that holds whatever comes.
    pub fn var_type(&self, var: VarId) -> Option<&Type> {
        self.moment.vars.var(var).and_then(|var| var.ty.as_ref())
    }

    /// What a variable holds; one that each player has, what a player begins with.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`].
    pub fn value(&self, var: VarId) -> Result<&Value, Error> {
        self.moment.vars.get(var, None).ok_or(Error::NoSuchVar)
    }

    /// What a variable holds for a player.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`].
    pub fn value_of(&self, var: VarId, who: ObjectId) -> Result<&Value, Error> {
        self.moment.vars.get(var, Some(who)).ok_or(Error::NoSuchVar)
    }

    /// What the variable of that name of an object holds, if the object has one.
    pub fn property(&self, object: ObjectId, name: &str) -> Option<&Value> {
        let name = self.moment.objects.find_property_name(name)?;
        let var = self.moment.objects.get(object)?.property(name)?;
        self.moment.vars.get(var, None)
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
        let here = self.bus.signals.lane(signal).map(|lane| &*lane.fields);
        here.or_else(|| self.gone.signals.get(signal).map(|(_, fields)| &**fields)).unwrap_or_default()
    }

    /// How often a signal was delivered so far, whether anybody took it or not.
    pub fn delivered(&self, signal: impl Into<SignalId>) -> u64 {
        let signal = signal.into();
        let burst = if self.bus.delivering == Some(signal) { self.bus.burst } else { 0 };
        self.bus.signals.lane(signal).map_or(0, |_| self.bus.signals.delivered(signal) + burst)
    }

    /// How many wires hear a signal, the sleeping ones left out.
    pub fn listeners(&self, signal: impl Into<SignalId>) -> usize {
        let awake = |lane: &crate::plan::signals::Lane| {
            let hears = |entry: &&Entry| self.moment.wires.flags(entry.wire) & (ASLEEP | CUT) == 0;
            lane.wires.all().filter(hears).count()
        };
        self.bus.signals.lane(signal.into()).map_or(0, awake)
    }

    /// The variables, in the order of their making.
    pub fn vars(&self) -> impl Iterator<Item = VarId> {
        self.moment.vars.iter().map(|(id, _)| id)
    }

    /// The effects, in the order they were declared.
    pub fn effects(&self) -> impl Iterator<Item = EffectId> {
        self.moment.effects.ids()
    }

    /// The wires, in no particular order.
    pub fn wires(&self) -> impl Iterator<Item = WireId> {
        self.moment.wires.iter().map(|(id, _)| id)
    }

    /// Whether a wire is there, awake or not.
    pub fn is_wired(&self, wire: WireId) -> bool {
        self.moment.wires.alive(wire).is_some()
    }

    /// The first wire that was written there: the end of a path, a colon and the line, as in `lock.stoi:14`.
    pub fn wire_at(&self, place: &str) -> Option<WireId> {
        let is_there = |wire: &Wire| {
            let whole = wire.place.to_string();
            whole.strip_suffix(place).is_some_and(|rest| rest.is_empty() || rest.ends_with(['/', '\\']))
        };
        let found = self.moment.wires.iter().filter(|(_, wire)| is_there(wire));
        found.min_by_key(|(_, wire)| wire.number).map(|(id, _)| id)
    }

    /// The routine of that name.
    pub fn find_routine(&self, name: &str) -> Option<RoutineId> {
        let index = self.plan.routines.iter().position(|routine| routine.name == name && !routine.ended)?;
        u32::try_from(index).ok().map(RoutineId)
    }

    /// The effect of that name.
    pub fn find_effect(&self, name: &str) -> Option<EffectId> {
        self.moment.effects.find(name)
    }

    /// The name of an effect.
    pub fn effect_name(&self, effect: EffectId) -> Option<&str> {
        self.moment.effects.name(effect).map(SmolStr::as_str)
    }

    /// The fields of an effect.
    pub fn effect_fields(&self, effect: EffectId) -> &[Field] {
        self.moment.effects.fields(effect)
    }

    /// How often an effect was performed so far.
    pub fn performed(&self, effect: EffectId) -> u64 {
        self.moment.effects.performed(effect)
    }

    fn wire_even_gone(&self, wire: WireId) -> Option<&Wire> {
        self.moment.wires.get(wire).or_else(|| self.gone.wires.get(wire))
    }

    /// Where a wire was written.
    pub fn wire_place(&self, wire: WireId) -> Option<&Place> {
        self.wire_even_gone(wire).map(|wire| &wire.place)
    }

    /// The order number of a wire.
    pub fn wire_order(&self, wire: WireId) -> Option<i32> {
        self.wire_even_gone(wire).map(|wire| wire.order)
    }

    /// The signals a wire listens to: one, or those of a group.
    pub fn wire_signals(&self, wire: WireId) -> &[SignalId] {
        self.wire_even_gone(wire).map_or(&[], |wire| wire.source.signals())
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

    /// The tags a wire asks of the body that causes its signal; none when it takes anybody.
    pub fn wire_filter(&self, wire: WireId) -> impl Iterator<Item = &str> {
        let tags = self.wire_even_gone(wire).map_or(&[][..], |wire| &wire.filter);
        tags.iter().map(|tag| self.moment.objects.tag_word(*tag))
    }

    /// How often a wire was taken and how often it refused.
    ///
    /// # Errors
    /// [`Error::NoSuchWire`].
    pub fn wire_counts(&self, wire: WireId) -> Result<WireCounts, Error> {
        let (_, info) = self.moment.wires.alive(wire).ok_or(Error::NoSuchWire)?;
        // Those of the delivery under way are counted together at its end.
        let lent = |signal: &SignalId| {
            let absent = |entry: &Entry| entry.wire == wire;
            self.bus.delivering == Some(*signal)
                && !self.bus.signals.lane(*signal).is_some_and(|lane| lane.wires.asleep.iter().any(absent))
                && !self.moment.wires.joining.iter().any(|(other, _)| *other == wire)
        };
        let together = if info.source.signals().iter().any(lent) { self.bus.burst - 1 } else { 0 };
        Ok(WireCounts {
            taken: self.moment.wires.taken(wire).unwrap_or_default() + together,
            refused: self.moment.wires.now(wire).map(|now| now.refused).unwrap_or_default(),
            since: info.since,
        })
    }

    /// The rule's condition and where it was written.
    pub fn rule(&self, rule: RuleId) -> Option<(&Expr, &Place)> {
        self.plan.rules.get(rule.0 as usize).map(|rule| (&rule.never, &rule.place))
    }

    /// How often a rule was broken so far.
    pub fn times_broken(&self) -> u64 {
        self.plan.rules.iter().map(|rule| rule.times_broken).sum()
    }
}
