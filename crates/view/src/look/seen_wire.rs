//! Wires and what waits, with names instead of ids.

use schemars::JsonSchema;
use serde::Serialize;
use stoicheon_core::{Busy, InspectedWait, InspectedWire, State};

use crate::{
    lead::SeenLead,
    look::seen::{name, seconds},
    phrase::expr_text,
    trace_text::{short_place, with_printer},
};

/// A wire.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenWire {
    /// Where it was written.
    pub place: String,
    /// The object it sleeps and ends with.
    pub owner: Option<String>,
    /// The signals it listens to.
    pub signals: Vec<String>,
    /// The tag, if it listens to the signal of every object that has it; empty for every object that gives it.
    pub every: Option<String>,
    /// The tags it asks of the body that causes its signal.
    pub by: Vec<String>,
    /// Its guard.
    pub when: Option<String>,
    /// Its limits, a word or a few each: `order 10`, `cooldown 2s`.
    pub limits: Vec<String>,
    /// What it leads to.
    pub leads_to: Vec<SeenLead>,
    /// Its reaction is a closure, which nobody can look into.
    pub closure: bool,
    /// Its owner is disabled, or its scene is frozen.
    pub asleep: bool,
    /// How often it was taken.
    pub taken: u64,
    /// How often it refused a signal while awake.
    pub refused: u64,
    /// The last refusal that the trace still has.
    pub last_refusal: Option<SeenRefusal>,
    /// When it was taken last, in seconds, as far as the trace still has it.
    pub last_taken: Option<f64>,
}

/// Why a wire refused its signal.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenRefusal {
    /// When, in seconds.
    pub at: f64,
    /// Why, with the values it saw.
    pub why: String,
}

/// A reaction that waits.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenWait {
    /// Where its wire was written.
    pub wire: String,
    /// The signal it took.
    pub signal: String,
    /// The player who caused it.
    pub who: Option<String>,
    /// Since when it waits, in seconds.
    pub since: f64,
    /// When it goes on, in seconds; at the latest, if it waits for a condition.
    pub due: Option<f64>,
    /// The condition it waits for.
    pub until: Option<String>,
}

impl SeenWire {
    pub(crate) fn of(state: &State, seen: &InspectedWire) -> Self {
        let signal = |signal| state.signal_name(signal).unwrap_or("a signal that is gone").to_owned();
        let fields = seen.signals.first().map_or(&[][..], |signal| state.signal_fields(*signal));
        let guard = seen.guard.as_ref().map(|guard| expr_text(state, guard, fields));
        let last_refusal = seen.last_refusal.as_ref().map(|(_, tick, why)| {
            let why = with_printer(state, |printer| printer.refusal(seen.wire, why, fields));
            SeenRefusal { at: seconds(state, *tick), why: why.trim_start_matches("refused: ").to_owned() }
        });
        Self {
            place: short_place(&seen.place),
            owner: seen.owner.map(|owner| name(state, owner)),
            signals: seen.signals.iter().copied().map(signal).collect(),
            every: seen.every.as_ref().map(ToString::to_string),
            by: seen.filter.iter().map(ToString::to_string).collect(),
            when: guard.or_else(|| seen.guard_name.as_ref().map(ToString::to_string)),
            limits: limits(state, seen),
            leads_to: seen.leads.iter().map(|lead| SeenLead::of(state, lead, fields)).collect(),
            closure: seen.is_closure,
            asleep: seen.is_asleep,
            taken: seen.counts.taken,
            refused: seen.counts.refused.all(),
            last_refusal,
            last_taken: seen.last_taken.map(|(_, tick)| seconds(state, tick)),
        }
    }
}

/// What a wire asks for beside its guard, as wiring writes it.
fn limits(state: &State, seen: &InspectedWire) -> Vec<String> {
    let span = |span| format!("{}s", state.rate().seconds(span).0);
    let per_who = |each: bool| if each { " per who" } else { "" };
    let mut all = Vec::new();
    if seen.order != 0 {
        all.push(format!("order {}", seen.order));
    }
    if let Some((stage, word)) = &seen.during {
        let stages = state.var_name(*stage).unwrap_or("a stage that is gone");
        all.push(format!("while {} is {word}", stages.trim_end_matches(".stage")));
    }
    match seen.times {
        Some(1) => all.push("once".to_owned()),
        Some(times) => all.push(format!("{times} times")),
        None => {}
    }
    if let Some((length, each)) = seen.cooldown {
        all.push(format!("cooldown {}{}", span(length), per_who(each)));
    }
    if let Some(delay) = seen.delay {
        all.push(format!("delay {}", span(delay)));
    }
    let (busy, each) = seen.while_running;
    let word = match busy {
        Busy::Ignore => "ignore",
        Busy::Restart => "restart",
        Busy::Queue => "queue",
        _ => return all,
    };
    all.push(format!("while running {word}{}", per_who(each)));
    all
}

impl SeenWait {
    pub(crate) fn of(state: &State, seen: &InspectedWait) -> Self {
        let fields = state.signal_fields(seen.signal);
        Self {
            wire: state.wire_place(seen.wire).map(short_place).unwrap_or_default(),
            signal: state.signal_name(seen.signal).unwrap_or("a signal that is gone").to_owned(),
            who: seen.who.map(|who| name(state, who)),
            since: seconds(state, seen.since),
            due: seen.due.map(|due| seconds(state, due)),
            until: seen.until.as_ref().map(|until| expr_text(state, until, fields)),
        }
    }
}
