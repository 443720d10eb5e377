//! A playtest, made of what was done: the steps as people write them, and what happened as expectations.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use serde::Serialize;
use stoicheon_core::{State, Value};
use stoicheon_view::value_text;

use crate::{
    deeds::{Deed, Deeds},
    tape::Line,
};

/// How exactly it is written what was done.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Care {
    /// As people write it: places to the hundredth, and no waits that nobody would notice.
    Short,
    /// With every digit and every tick.
    Exact,
}

/// A wait that is shorter needs no line, in ticks.
const SHORT: u64 = 2;

/// What a playtest can expect.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub(crate) struct Expected {
    pub(crate) text: String,
    /// It is expected unless somebody says otherwise.
    pub(crate) on: bool,
}

/// The lines of players and what they did, up to a tick.
pub(crate) fn steps(deeds: &Deeds, state: &State, care: Care) -> Vec<String> {
    let mut lines: Vec<String> = deeds.came.iter().map(crate::deeds::Came::line).collect();
    let done = deeds.ended(state);
    let mut now = deeds.began.unwrap_or(0);
    for group in groups(&done) {
        let first = group.iter().map(|deed| deed.from).min().unwrap_or(now);
        let last = group.iter().map(|deed| deed.to).max().unwrap_or(now);
        lines.extend(wait(first.saturating_sub(now + 1), care).map(|wait| format!("wait {wait}")));
        match group[..] {
            [deed] => lines.push(line(deed, care)),
            _ => {
                lines.push("together {".to_owned());
                lines.extend(together(&group, first, care).into_iter().map(|line| format!("  {line}")));
                lines.push("}".to_owned());
            }
        }
        now = last;
    }
    lines.extend(wait(state.now().0.saturating_sub(now), care).map(|wait| format!("wait {wait}")));
    lines
}

fn line(deed: &Deed, care: Care) -> String {
    let exact = deed.exact.as_ref().filter(|_| care == Care::Exact);
    let text = exact.unwrap_or(&deed.text);
    deed.who.as_ref().map_or_else(|| text.clone(), |who| format!("{who} {text}"))
}

fn wait(ticks: u64, care: Care) -> Option<String> {
    let shortest = if care == Care::Short { SHORT } else { 0 };
    (ticks > shortest).then(|| format!("{ticks}ticks"))
}

/// What goes on at the same time: deeds of several players that overlap. Anything else stands alone.
fn groups(done: &[Deed]) -> Vec<Vec<&Deed>> {
    let mut groups: Vec<Vec<&Deed>> = Vec::new();
    let mut until = 0;
    for deed in done {
        let overlaps = groups.last().is_some_and(|group| {
            let others = group.iter().any(|other| other.who != deed.who);
            let all_players = deed.who.is_some() && group.iter().all(|other| other.who.is_some());
            deed.from < until && all_players && (others || group.len() > 1)
        });
        if overlaps && let Some(group) = groups.last_mut() {
            group.push(deed);
        } else {
            groups.push(vec![deed]);
            until = 0;
        }
        until = until.max(deed.to);
    }
    groups
}

/// The lines of several players, each with their own waits.
fn together(group: &[&Deed], first: u64, care: Care) -> Vec<String> {
    let mut now: BTreeMap<&str, u64> = BTreeMap::new();
    let mut lines = Vec::new();
    for deed in group {
        let who = deed.who.as_deref().unwrap_or_default();
        let before = now.insert(who, deed.to).unwrap_or(first.saturating_sub(1));
        lines.extend(
            wait(deed.from.saturating_sub(before + 1), care).map(|wait| format!("{who} waits {wait}")),
        );
        lines.push(line(deed, care));
    }
    lines
}

/// What happened since a tick, as expectations: what has another value or stands otherwise now, effects, and signals, with how often
/// they came since the beginning.
pub(crate) fn expected<'l>(
    state: &State,
    tape: impl IntoIterator<Item = &'l Arc<Line>>,
    since: u64,
) -> Vec<Expected> {
    let mut signals: BTreeMap<&str, bool> = BTreeMap::new();
    let mut effects: BTreeSet<&str> = BTreeSet::new();
    let mut values: BTreeMap<String, String> = BTreeMap::new();
    let mut delivered: Option<&Line> = None;
    for line in tape.into_iter().filter(|line| line.tick > since) {
        let about = line.about.as_deref().unwrap_or_default();
        match line.event.as_str() {
            "delivered" => {
                signals.entry(about).or_default();
                delivered = Some(line.as_ref());
            }
            // A delivery has reached all its wires before the next one is.
            "took" => {
                if let Some(delivered) = delivered.filter(|delivered| delivered.n == line.cause) {
                    signals.insert(delivered.about.as_deref().unwrap_or_default(), true);
                }
            }
            "performed" => drop(effects.insert(about)),
            "set" => values.extend(value_now(state, about, line.who.as_deref())),
            "shifted" => values.extend(state_now(state, about)),
            _ => {}
        }
    }
    let count = |name: &str| state.find_signal(name).map_or(0, |signal| state.delivered(signal));
    let performed = |name: &str| state.find_effect(name).map_or(0, |effect| state.performed(effect));
    let line = |text: String, on: bool| Expected { text, on };
    let values = values.into_iter().map(|(name, is)| line(format!("expect {name} {is}"), true));
    let effects =
        effects.into_iter().map(|name| line(format!("expect {name} exactly {}", performed(name)), true));
    let signals = signals.into_iter().filter(|(name, _)| !OWN.contains(name));
    let signals = signals.map(|(name, taken)| line(format!("expect {name} exactly {}", count(name)), taken));
    values.chain(effects).chain(signals).collect()
}

/// The signals that every world gives.
const OWN: [&str; 6] = ["started", "joined", "pressed", "released", "arrived", "quit"];

/// What a variable is now, if a playtest can say so.
fn value_now(state: &State, name: &str, of: Option<&str>) -> Option<(String, String)> {
    let var = state.find_var(name)?;
    let (value, of) = match of {
        Some(of) => (state.value_of(var, state.find(of)?).ok()?, format!(" of {of}")),
        None => (state.value(var).ok()?, String::new()),
    };
    can_be_compared(value).then(|| (format!("{name}{of}"), format!("== {}", value_text(state, value))))
}

/// The state that a part of an object is in now.
fn state_now(state: &State, name: &str) -> Option<(String, String)> {
    let word = state.parts_of(state.find(name)?).iter().find_map(|part| state.state_word(*part))?;
    Some((name.to_owned(), format!("is {word}")))
}

/// Whether a playtest can say what a value is by writing it.
fn can_be_compared(value: &Value) -> bool {
    matches!(value, Value::Bool(_) | Value::Whole(_) | Value::Text(_) | Value::Duration(_) | Value::Number(_))
}

/// The whole of it.
pub(crate) fn text(name: &str, steps: &[String], expected: &[String]) -> String {
    let mut text = format!("playtest \"{}\" {{\n", name.replace(['"', '\n', '\\'], " "));
    for line in steps.iter().chain(expected) {
        text.push_str("  ");
        text.push_str(line);
        text.push('\n');
    }
    text.push_str("}\n");
    text
}
