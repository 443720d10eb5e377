//! Why something did not happen: the wires that came nearest, and what refused each.

use std::{collections::BTreeSet, ops::RangeInclusive};

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
        let mut happened = 0;
        let mut nearest: Vec<Miss> = Vec::new();
        let mut wires: Vec<WireId> = match about {
            About::Wire(wire) => vec![wire],
            About::Signal(signal) => self.wires_on(signal),
            About::Effect(_) | About::Part(_) | About::Var(_) => self.wires_towards(about),
        };
        let records = || self.trace().records().filter(|(_, record)| ticks.contains(&record.tick));
        for (_, record) in records() {
            happened += u64::from(match (about, &record.event) {
                (About::Wire(wire), Event::Took { wire: other }) => wire == *other,
                (About::Signal(signal), Event::Delivered { signal: other, .. }) => signal == *other,
                (About::Effect(effect), Event::Performed { effect: other, .. }) => effect == *other,
                (About::Part(part), Event::Shifted { part: other, .. }) => part == *other,
                (About::Var(var), Event::Set { var: other, from, to, .. }) => var == *other && from != to,
                _ => false,
            });
        }
        if let (About::Signal(_), 0) = (about, happened) {
            wires = self.wires_towards(about);
        }
        for wire in &wires {
            nearest.push(Miss { wire: *wire, refused: None, why: None, took: None });
        }
        let caused_by = |cause: Option<RecordId>| match self.trace().get(cause?)?.event {
            Event::Delivered { who, .. } => who,
            _ => None,
        };
        let is_theirs = |cause| who.is_some() && caused_by(cause) == who;
        let mut theirs = vec![false; nearest.len()];
        for (id, record) in records() {
            let (wire, why) = match record.event {
                Event::Refused { wire, why } => (wire, Some(why)),
                Event::Took { wire } => (wire, None),
                _ => continue,
            };
            let Some(at) = nearest.iter().position(|miss| miss.wire == wire) else { continue };
            let miss = &mut nearest[at];
            let Some(why) = why else {
                miss.took = Some((id, record.tick));
                continue;
            };
            let is_theirs = is_theirs(record.cause);
            // Of two that came equally near, the later one says more.
            let nearer = (is_theirs, nearness(Some(&why))) >= (theirs[at], nearness(miss.why.as_ref()));
            if nearer {
                theirs[at] = is_theirs;
                miss.refused = Some((id, record.tick));
                miss.why = Some(why);
            }
        }
        let mut ordered: Vec<_> = nearest.into_iter().zip(theirs).collect();
        ordered.sort_by_key(|(miss, is_theirs)| {
            let key = (*is_theirs, nearness(miss.why.as_ref()), miss.took.is_some());
            (std::cmp::Reverse(key), self.moment.wires.rank(miss.wire))
        });
        let mut nearest: Vec<Miss> = ordered.into_iter().map(|(miss, _)| miss).collect();
        if matches!(about, About::Wire(_)) || happened > 0 {
            nearest.retain(|miss| miss.refused.is_some());
        }
        WhyNot { happened, misses: nearest }
    }

    /// All wires on a signal, awake or not, in their order.
    fn wires_on(&self, signal: SignalId) -> Vec<WireId> {
        let on = |(id, wire): (WireId, &crate::plan::wires::Wire)| {
            wire.source.signals().contains(&signal).then_some(id)
        };
        let mut wires: Vec<_> = self.moment.wires.iter().filter_map(on).collect();
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
        let gives = |part: PartId, signal: SignalId| {
            self.parts.get(part).is_some_and(|slot| slot.signals.contains(&signal))
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
            (Op::Emit { signal: other, .. }, About::Signal(signal)) => *other == signal,
            (Op::EmitOf { signal: name, .. }, About::Signal(signal)) => {
                let lane = self.bus.signals.lane(signal);
                lane.is_some_and(|lane| {
                    lane.name.strip_suffix(name.as_str()).is_some_and(|of| of.ends_with('.'))
                })
            }
            (Op::Command { part, .. }, About::Signal(signal)) => gives(*part, signal),
            (Op::Command { part, .. }, About::Part(other)) => *part == other,
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
        self.moment.wires.iter().filter_map(towards).collect()
    }
}
