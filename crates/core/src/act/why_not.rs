//! Why something did not happen: the wires that came nearest, and what refused each.

use std::{
    collections::{BTreeMap, BTreeSet},
    ops::RangeInclusive,
};

use slotmap::SecondaryMap;

use crate::{
    base::{
        clock::Tick,
        ids::{EffectId, ObjectId, PartId, RecordId, SignalId, VarId, WireId},
    },
    plan::{
        binds::{Bind, Kept},
        ops::Op,
        reads::Read,
        refusals::Refusal,
        steps::Target,
    },
    state::State,
    trace::record::Event,
};

/// What is asked about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum About {
    /// Why did this wire not take its signal?
    Wire(WireId),
    /// Why was this signal not delivered, or not taken?
    Signal(SignalId),
    /// Why was this effect not performed?
    Effect(EffectId),
    /// Why did this part not go from one state to another?
    Part(PartId),
    /// Why was this variable not set?
    Var(VarId),
}

impl From<WireId> for About {
    fn from(wire: WireId) -> Self {
        Self::Wire(wire)
    }
}

impl<T: Into<SignalId>> From<T> for About {
    fn from(signal: T) -> Self {
        Self::Signal(signal.into())
    }
}

/// A wire that could have done it, and what kept it from doing so.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Miss {
    /// The wire.
    pub wire: WireId,
    /// The record of the refusal, and its tick; `None` when its signal was never delivered to it.
    pub refused: Option<(RecordId, Tick)>,
    /// Why it refused, with the values its guard saw.
    pub why: Option<Refusal>,
    /// The record of the last time it took its signal, and its tick: its reaction did not come as far as that.
    pub took: Option<(RecordId, Tick)>,
}

/// What kept something from happening in a stretch of time.
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct WhyNot {
    /// How often the signal was delivered, or the wire taken, after all.
    pub happened: u64,
    /// The wires that could have done it, the one that came nearest first. A wire whose reaction is a closure
    /// is listed only for its own signal, since nobody can see into it.
    pub misses: Vec<Miss>,
}

/// How near a wire came: the later the check that stopped it, the nearer.
fn nearness(why: Option<&Refusal>) -> (u8, u8) {
    match why {
        None => (0, 0),
        Some(Refusal::Asleep) => (1, 0),
        Some(Refusal::Spent) => (2, 0),
        Some(Refusal::Who) => (3, 0),
        Some(Refusal::Guard { condition, .. }) => (4, *condition),
        Some(Refusal::Payload) => (5, 0),
        Some(Refusal::Cooling { .. }) => (6, 0),
        Some(Refusal::Running) => (7, 0),
    }
}

impl State {
    /// Why something did not happen in the ticks given: the wires that came nearest and what refused each.
    ///
    /// Asked about a wire, it is that wire's refusals. Asked about a signal, it is the refusals of the wires on it;
    /// and, if it was not delivered at all, those of the sequences that would have emitted it or would have
    /// commanded the part that gives it. Only what the trace still keeps is seen.
    pub fn why_not(&self, about: impl Into<About>, ticks: RangeInclusive<Tick>) -> WhyNot {
        self.why_not_for(about, None, ticks)
    }

    /// The same about one player: what refused a signal that goes back to them came nearer than what refused others.
    pub fn why_not_for(
        &self,
        about: impl Into<About>,
        who: Option<ObjectId>,
        ticks: RangeInclusive<Tick>,
    ) -> WhyNot {
        let about = about.into();
        let alike = match about {
            About::Signal(signal) => self.signals_named_as(signal),
            _ => BTreeSet::new(),
        };
        let mut happened = 0;
        let mut nearest: Vec<Miss> = Vec::new();
        let mut wires: Vec<WireId> = match about {
            About::Wire(wire) => vec![wire],
            About::Signal(signal) => self.wires_on(signal),
            About::Effect(_) | About::Part(_) | About::Var(_) => self.wires_towards(about),
        };
        let records = || self.trace().records().filter(|(_, record)| ticks.contains(&record.tick));
        for (id, record) in records() {
            let counts = match (about, &record.event) {
                (About::Wire(wire), Event::Took { wire: other }) => wire == *other,
                (About::Signal(_), Event::Delivered { signal: other, .. }) => alike.contains(other),
                (About::Effect(effect), Event::Performed { effect: other, .. }) => effect == *other,
                (About::Part(part), Event::Shifted { part: other, .. }) => part == *other,
                (About::Var(var), Event::Set { var: other, from, to, .. }) => var == *other && from != to,
                _ => false,
            };
            happened += u64::from(counts && who.is_none_or(|who| self.goes_back_to(id, who)));
        }
        if let (About::Signal(_), 0) = (about, happened) {
            wires = self.wires_towards(about);
        }
        for wire in &wires {
            nearest.push(Miss { wire: *wire, refused: None, why: None, took: None });
        }
        let places: SecondaryMap<WireId, usize> =
            wires.iter().enumerate().map(|(index, wire)| (*wire, index)).collect();
        let is_theirs = |cause: Option<RecordId>| {
            who.zip(cause).is_some_and(|(who, cause)| self.goes_back_to(cause, who))
        };
        let mut theirs = vec![false; nearest.len()];
        for (id, record) in records() {
            let (wire, why) = match record.event {
                Event::Refused { wire, why } => (wire, Some(why)),
                Event::Took { wire } => (wire, None),
                _ => continue,
            };
            let Some(at) = places.get(wire).copied() else { continue };
            let miss = &mut nearest[at];
            let is_theirs = is_theirs(record.cause);
            if is_theirs && !theirs[at] {
                // What came of others says no more than what came of them.
                (miss.refused, miss.why, miss.took) = (None, None, None);
            }
            if theirs[at] && !is_theirs {
                continue;
            }
            theirs[at] = is_theirs;
            let Some(why) = why else {
                miss.took = Some((id, record.tick));
                continue;
            };
            // Of two that came equally near, the later one says more.
            if nearness(Some(&why)) >= nearness(miss.why.as_ref()) {
                miss.refused = Some((id, record.tick));
                miss.why = Some(why);
            }
        }
        let mut ordered: Vec<_> = nearest.into_iter().zip(theirs).collect();
        ordered.sort_by_key(|(miss, is_theirs)| {
            // One that took its signal, and whose reaction did not come to it, was the nearest of all.
            let in_vain =
                miss.took.is_some_and(|(took, _)| miss.refused.is_none_or(|(refused, _)| took > refused));
            let key = (*is_theirs, in_vain, nearness(miss.why.as_ref()), miss.took.is_some());
            (std::cmp::Reverse(key), self.moment.wires.rank(miss.wire))
        });
        let mut nearest: Vec<Miss> = ordered.into_iter().map(|(miss, _)| miss).collect();
        // A scene that was loaded again has the same wires once more: the one that came nearest speaks for all of them.
        let mut places = BTreeMap::<String, bool>::new();
        nearest.retain(|miss| {
            let place = self.wire_place(miss.wire).map(ToString::to_string).unwrap_or_default();
            let is_gone = self.gone.wires.contains_key(miss.wire);
            match places.get(&place) {
                Some(first_is_gone) => !is_gone && !first_is_gone,
                None => places.insert(place, is_gone).is_none(),
            }
        });
        if matches!(about, About::Wire(_)) || happened > 0 {
            nearest.retain(|miss| miss.refused.is_some());
        }
        WhyNot { happened, misses: nearest }
    }

    /// All wires on a signal, awake or not, in their order.
    fn wires_on(&self, signal: SignalId) -> Vec<WireId> {
        let alike = self.signals_named_as(signal);
        let on = |(id, wire): (WireId, &crate::plan::wires::Wire)| {
            wire.source.signals().iter().any(|other| alike.contains(other)).then_some(id)
        };
        let mut wires: Vec<_> = self.all_wires().filter_map(on).collect();
        wires.sort_by_key(|wire| self.moment.wires.rank(*wire));
        wires
    }

    /// A variable, and every one that a bind makes it from.
    fn leads_to_var(&self, var: VarId) -> BTreeSet<VarId> {
        let mut all = BTreeSet::from([var]);
        let mut new = vec![var];
        while let Some(var) = new.pop() {
            for bind in self.plan.binds.iter().filter(|bind| !bind.ended && self.keeps(bind, var)) {
                for read in bind.to.depends_on() {
                    if let Read::Var(read) = read
                        && all.insert(read)
                    {
                        new.push(read);
                    }
                }
            }
        }
        all
    }

    fn keeps(&self, bind: &Bind, var: VarId) -> bool {
        match bind.kept {
            Kept::Var(kept) => kept == var,
            Kept::Each(_, name) => self.moment.vars.var(var).is_some_and(|var| var.property == Some(name)),
            _ => false,
        }
    }

    /// The wires whose sequences would lead there: they emit the signal, or command the part that gives it; or set the
    /// variable, or one it is made from; or perform the effect; themselves or in a routine they run.
    fn wires_towards(&self, about: About) -> Vec<WireId> {
        let alike = match about {
            About::Signal(signal) => self.signals_named_as(signal),
            _ => BTreeSet::new(),
        };
        let same_part = |one: PartId, other: PartId| {
            let name = |part| Some((self.name(self.object_of(part)?)?, self.kind_of(part)?.name));
            one == other || (name(one).is_some() && name(one) == name(other))
        };
        // By name, since the part may be one that is gone.
        let gives = |part: PartId, signal: SignalId| {
            let name = self.signal_name(signal).and_then(|name| name.rsplit_once('.'));
            let (object, kind) =
                (self.object_of(part).and_then(|object| self.name(object)), self.kind_of(part));
            name.zip(object.zip(kind)).is_some_and(|((of, word), (object, kind))| {
                of == object && kind.signals.iter().any(|signal| signal.name == word)
            })
        };
        let vars = match about {
            About::Var(var) => self.leads_to_var(var),
            _ => BTreeSet::new(),
        };
        let sets = |target: &Target| match target {
            Target::Var(var) | Target::VarOf(var, _) => vars.contains(var),
            Target::Property(_, name) => vars
                .iter()
                .any(|var| self.moment.vars.var(*var).is_some_and(|var| var.property == Some(*name))),
            _ => false,
        };
        let leads_itself = |op: &Op| match (op, about) {
            (Op::Set { target, .. } | Op::Tween { target, .. }, About::Var(_)) => sets(target),
            (Op::Emit { signal: other, .. }, About::Signal(_)) => alike.contains(other),
            (Op::EmitOf { signal: name, .. }, About::Signal(signal)) => {
                let whole = self.signal_name(signal);
                whole.is_some_and(|whole| {
                    whole.strip_suffix(name.as_str()).is_some_and(|of| of.ends_with('.'))
                })
            }
            (Op::Command { part, .. }, About::Signal(signal)) => gives(*part, signal),
            (Op::Command { part, .. }, About::Part(other)) => same_part(*part, other),
            (Op::Perform { effect: other, .. }, About::Effect(effect)) => *other == effect,
            _ => false,
        };
        // A routine runs only routines that were declared before it.
        let mut routines: Vec<bool> = Vec::new();
        for routine in self.plan.routines.iter() {
            let leads = routine.ops.iter().any(|op| {
                let run = |routine: u32| routines.get(routine as usize).copied().unwrap_or(false);
                leads_itself(op) || matches!(op, Op::Run { routine, .. } if run(routine.0))
            });
            routines.push(leads);
        }
        let leads = |op: &Op| {
            let run = |routine: u32| routines.get(routine as usize).copied().unwrap_or(false);
            leads_itself(op) || matches!(op, Op::Run { routine, .. } if run(routine.0))
        };
        let towards = |(id, wire): (WireId, &crate::plan::wires::Wire)| {
            wire.ops.as_ref().is_some_and(|ops| ops.iter().any(leads)).then_some(id)
        };
        self.all_wires().filter_map(towards).collect()
    }

    /// Whether a record goes back to a player, as far as its chain of causes says; what is set for a player is theirs.
    fn goes_back_to(&self, id: RecordId, player: ObjectId) -> bool {
        let mut at = Some(id);
        while let Some(record) = at.and_then(|id| self.trace().get(id)) {
            match record.event {
                Event::Set { of: Some(of), .. } => return of == player,
                Event::Delivered { who, .. } | Event::Resumed { who, .. } => return who == Some(player),
                _ => at = record.cause,
            }
        }
        false
    }

    /// All wires, and those that are gone and that the trace may speak of.
    fn all_wires(&self) -> impl Iterator<Item = (WireId, &crate::plan::wires::Wire)> {
        self.moment.wires.iter().chain(self.gone.wires.iter())
    }

    /// A signal and those of the same name that are gone.
    fn signals_named_as(&self, signal: SignalId) -> BTreeSet<SignalId> {
        let name = self.signal_name(signal);
        let gone = self.gone.signals.iter().filter(|(_, (other, _))| Some(other.as_str()) == name);
        let now = name.and_then(|name| self.find_signal(name));
        gone.map(|(id, _)| id).chain(now).chain([signal]).collect()
    }
}
