//! What a playtest expected and what happened instead, in words.

use stoicheon_core::{
    Expr, State, Value,
    playtest::{Expectation, Failure, Found},
};
use stoicheon_view::{clock_time, expr_text};

/// Lines without an indent: what was expected, what happened, where.
pub(crate) fn describe(state: &State, failure: &Failure) -> Vec<String> {
    let time = clock_time(state.rate(), failure.tick);
    let mut lines = Vec::new();
    if let Some(expected) = &failure.expected {
        let within = failure.within.map_or(String::new(), |span| format!(" within {}s", span.0));
        lines.push(format!("expected  {}{within}", expectation(state, expected)));
    }
    lines.push(format!("found     {}", found(state, failure)));
    lines.push(format!("at        {time}, {}", failure.place));
    lines
}

fn expectation(state: &State, expected: &Expectation) -> String {
    let times =
        |count: u64| if count == 1 { "exactly once".to_owned() } else { format!("exactly {count} times") };
    match expected {
        Expectation::Signal(signal) => format!("{} since a player last acted", signal_name(state, *signal)),
        Expectation::SignalExactly(signal, count) => {
            format!("{} {}", signal_name(state, *signal), times(*count))
        }
        Expectation::Effect(effect) => {
            format!("{} performed since a player last acted", state.effect_name(*effect).unwrap_or("?"))
        }
        Expectation::EffectExactly(effect, count) => {
            format!("{} performed {}", state.effect_name(*effect).unwrap_or("?"), times(*count))
        }
        Expectation::Holds(expr) => expr_text(state, expr, &[]),
        _ => "something else".to_owned(),
    }
}

fn signal_name(state: &State, signal: stoicheon_core::SignalId) -> &str {
    state.signal_name(signal).unwrap_or("?")
}

fn found(state: &State, failure: &Failure) -> String {
    match (&failure.found, &failure.expected) {
        (Found::Count(0), Some(Expectation::Signal(_) | Expectation::SignalExactly(..))) => {
            "it was never delivered".to_owned()
        }
        (Found::Count(0), _) => "it was never performed".to_owned(),
        (Found::Count(1), _) => "it happened once in the whole playtest".to_owned(),
        (Found::Count(count), _) => format!("it happened {count} times in the whole playtest"),
        (Found::Readings(values), Some(Expectation::Holds(expr))) => readings(state, expr, values),
        (Found::NotThere, _) => "the player did not get there in ten minutes".to_owned(),
        (Found::RuleBroken, _) => "a rule of the scene was broken; the trace names it".to_owned(),
        (Found::Runaway(message), _) => message.clone(),
        _ => "something else".to_owned(),
    }
}

fn readings(state: &State, expr: &Expr, values: &[Value]) -> String {
    let text = stoicheon_view::readings_text(state, expr, values, &[]);
    if text.is_empty() { "it does not hold".to_owned() } else { text }
}
