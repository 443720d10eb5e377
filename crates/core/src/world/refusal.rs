//! Whether a wire with conditions takes a signal, and what taking it costs.

use std::cell::Cell;

use smallvec::SmallVec;

use crate::{
    act::scope::{Own, Scope},
    base::{
        doing::Doing,
        error::{BuildError, Error},
        ids::{ObjectId, RecordId, SignalId, WireId},
        payload::{Field, list_fields},
        value::Values,
    },
    plan::{
        calc::EvalFault,
        refusals::Refusal,
        wires::{Busy, Guard},
    },
    state::State,
    trace::record::Event,
};

/// A delivery, as a wire with conditions looks at it.
pub(crate) struct Offer<'a> {
    pub(crate) who: Option<ObjectId>,
    pub(crate) signal: SignalId,
    pub(crate) values: &'a Values,
    /// What its guard in Rust says, if it has one.
    pub(crate) guard: Option<bool>,
    /// Its closure can take what the signal carries.
    pub(crate) fits: bool,
}

impl State {
    /// Why a wire with conditions does not take a signal, if it does not.
    pub(crate) fn refusal(&self, id: WireId, offer: &Offer<'_>) -> (Option<Refusal>, Option<EvalFault>) {
        let eval_fault = Cell::new(None);
        (self.why_refused(id, offer, &eval_fault), eval_fault.get())
    }

    fn why_refused(
        &self,
        id: WireId,
        offer: &Offer<'_>,
        eval_fault: &Cell<Option<EvalFault>>,
    ) -> Option<Refusal> {
        let Offer { who, signal, values, guard, fits } = *offer;
        let (wire, so_far) = (self.moment.wires.get(id)?, self.moment.wires.now(id)?);
        if wire.times.is_some_and(|times| so_far.spent >= times) {
            return Some(Refusal::Spent);
        }
        if !wire.filter.is_empty() {
            let body = who.and_then(|who| self.moment.objects.get_even_doomed(who));
            if !body.is_some_and(|body| body.has_any(&wire.filter)) {
                return Some(Refusal::Who);
            }
        }
        let locals = wire.kept.as_deref().unwrap_or_default();
        let (signal, own) = (Some(signal), Own::Of(id));
        let scope = Scope { values, locals, who, signal, own, ..Scope::of(self, eval_fault) };
        match &wire.guard {
            Guard::Data(expr) if !scope.holds(expr) => {
                let (condition, readings) =
                    if self.bus.trace.is_on() { scope.failing(expr) } else { (0, SmallVec::new()) };
                return Some(Refusal::Guard { condition, readings });
            }
            // A guard in Rust is asked about the same type as the closure.
            _ if !fits => return Some(Refusal::Payload),
            Guard::Rust(_) if guard == Some(false) => {
                return Some(Refusal::Guard { condition: 0, readings: SmallVec::new() });
            }
            _ => {}
        }
        let cooling = |cooldown| so_far.cooled.cooling(cooldown, who, self.moment.clock.now);
        if let Some(until) = wire.cooldown.and_then(cooling) {
            return Some(Refusal::Cooling { until });
        }
        let full = match wire.running.busy {
            Busy::Ignore => so_far.is_running(wire.running, who),
            Busy::Queue => so_far.held.len() >= Busy::LONGEST_QUEUE,
            Busy::Overlap | Busy::Restart => false,
        };
        full.then_some(Refusal::Running)
    }

    /// The error for values of a signal that a closure with these fields cannot take.
    pub(crate) fn payload_unfit(&self, signal: SignalId, values: &Values, fields: &[Field]) -> Error {
        let words: Vec<_> = values.iter().map(|value| format!("{value:?}")).collect();
        Error::Build(BuildError::PayloadUnfit {
            signal: self.signal_name(signal).unwrap_or_default().into(),
            expected: list_fields(fields),
            found: words.join(", "),
        })
    }

    pub(crate) fn refuse(&mut self, wire: WireId, why: Refusal, record: Option<RecordId>) {
        if let Some(so_far) = self.moment.wires.now_mut(wire).filter(|_| why != Refusal::Asleep) {
            so_far.refused.count(&why);
        }
        self.bus.trace.note(record, 0, Event::Refused { wire, why });
    }

    /// Counts a wire's limits down, starts its cooldown, and says whether its reaction may begin now. An earlier
    /// reaction gives way, if the wire says so.
    pub(crate) fn spend(&mut self, id: WireId, doing: Doing) -> bool {
        let now = self.moment.clock.now;
        let Some(wire) = self.moment.wires.get(id) else { return true };
        let (times, cooldown, running) = (wire.times, wire.cooldown, wire.running);
        if (times.is_some() || cooldown.is_some())
            && let Some(so_far) = self.moment.wires.now_mut(id)
        {
            so_far.spent += 1;
            if let Some(cooldown) = cooldown {
                so_far.cooled.start(cooldown, doing.who, now);
            }
        }
        let runs = self.moment.wires.now(id).is_some_and(|so_far| so_far.is_running(running, doing.who));
        match running.busy {
            Busy::Queue => !runs,
            Busy::Restart if runs && running.per_who => {
                let so_far = self.moment.wires.now(id);
                let keys = so_far.and_then(|so_far| so_far.whose.get(&doing.who)).cloned();
                self.drop_some_runs(id, &keys.unwrap_or_default(), true, doing);
                true
            }
            Busy::Restart if runs => {
                self.drop_runs(id, true, doing);
                true
            }
            _ => true,
        }
    }

    /// Holds a signal back until the wire's earlier reaction has ended.
    pub(crate) fn hold(&mut self, id: WireId, signal: SignalId, values: Values, mut doing: Doing) {
        let record = self.bus.trace.note(doing.cause, 0, Event::Held { wire: id });
        doing.cause = record.or(doing.cause);
        if let Some(so_far) = self.moment.wires.now_mut(id) {
            so_far.held.push_back((signal, values, doing));
        }
    }
}
