//! A playtest, made of what was done: the steps as people write them, and what happened as expectations.

use std::collections::BTreeMap;

use serde::Serialize;
use stoicheon_core::{Event, Record, State, Value};
use stoicheon_view::value_text;

use crate::deeds::{Deed, Deeds};

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
pub(crate) fn steps(deeds: &Deeds, state: &State) -> Vec<String> {
    let mut lines: Vec<String> = deeds.came.iter().map(crate::deeds::Came::line).collect();
    let done = deeds.ended(state);
    let mut now = deeds.began.unwrap_or(0);
    for group in groups(&done) {
        let first = group.iter().map(|deed| deed.from).min().unwrap_or(now);
        let last = group.iter().map(|deed| deed.to).max().unwrap_or(now);
        lines.extend(wait(first.saturating_sub(now + 1)).map(|wait| format!("wait {wait}")));
        match group[..] {
            [deed] => lines.push(line(deed)),
            _ => {
                lines.push("together {".to_owned());
                lines.extend(together(&group, first).into_iter().map(|line| format!("  {line}")));
                lines.push("}".to_owned());
            }
        }
        now = last;
    }
    lines.extend(wait(state.now().0.saturating_sub(now)).map(|wait| format!("wait {wait}")));
    lines
}

fn line(deed: &Deed) -> String {
    deed.who.as_ref().map_or_else(|| deed.text.clone(), |who| format!("{who} {}", deed.text))
}

fn wait(ticks: u64) -> Option<String> {
    (ticks > SHORT).then(|| format!("{ticks}ticks"))
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
fn together(group: &[&Deed], first: u64) -> Vec<String> {
    let mut now: BTreeMap<&str, u64> = BTreeMap::new();
    let mut lines = Vec::new();
    for deed in group {
        let who = deed.who.as_deref().unwrap_or_default();
        let before = now.insert(who, deed.to).unwrap_or(first.saturating_sub(1));
        lines.extend(wait(deed.from.saturating_sub(before + 1)).map(|wait| format!("{who} waits {wait}")));
        lines.push(line(deed));
    }
    lines
}

/// What happened since a tick, as expectations: signals that were taken and effects, with how often they came; and what has another
/// value or stands otherwise now.
pub(crate) fn expected(state: &State, since: u64) -> Vec<Expected> {
    let mut signals: BTreeMap<String, (u64, bool, bool)> = BTreeMap::new();
    let mut effects: BTreeMap<String, (u64, bool)> = BTreeMap::new();
    let mut values: BTreeMap<String, String> = BTreeMap::new();
    for (id, record) in state.trace().records() {
        let is_new = record.tick.0 > since;
        match &record.event {
            Event::Delivered { signal, .. } => {
                let Some(name) = state.signal_name(*signal) else { continue };
                let next = stoicheon_core::RecordId::number(id) + 1;
                let taken =
                    state.trace().records_after(next - 1).next().is_some_and(|(_, next)| is_taken(&next));
                let known = signals.entry(name.to_owned()).or_default();
                (known.0, known.1, known.2) = (known.0 + 1, known.1 | is_new, known.2 | taken);
            }
            Event::Performed { effect, .. } => {
                let Some(name) = state.effect_name(*effect) else { continue };
                let known = effects.entry(name.to_owned()).or_default();
                *known = (known.0 + 1, known.1 | is_new);
            }
            Event::Set { var, of, to, .. } if is_new => {
                let Some(name) = state.var_name(*var) else { continue };
                let of = of.and_then(|of| state.name(of)).map(|of| format!(" of {of}")).unwrap_or_default();
                if can_be_compared(to) {
                    let now = of_now(state, *var, &record).unwrap_or_else(|| to.clone());
                    values.insert(format!("{name}{of}"), format!("== {}", value_text(state, &now)));
                }
            }
            Event::Shifted { part, .. } if is_new => {
                let object = state.object_of(*part).and_then(|object| state.name(object));
                if let (Some(name), Some(word)) = (object, state.state_word(*part)) {
                    values.insert(name.to_owned(), format!("is {word}"));
                }
            }
            _ => {}
        }
    }
    let line = |text: String, on: bool| Expected { text, on };
    let values = values.into_iter().map(|(name, is)| line(format!("expect {name} {is}"), true));
    let effects = effects.into_iter().filter(|(_, (_, new))| *new);
    let effects = effects.map(|(name, (count, _))| line(format!("expect {name} exactly {count}"), true));
    let signals = signals.into_iter().filter(|(_, (_, new, _))| *new);
    let signals =
        signals.map(|(name, (count, _, taken))| line(format!("expect {name} exactly {count}"), taken));
    let own = ["started", "joined", "pressed", "released", "arrived", "quit"];
    let is_own = |text: &str| own.iter().any(|own| text.starts_with(&format!("expect {own} ")));
    values.chain(effects).chain(signals.filter(|line| !is_own(&line.text))).collect()
}

fn is_taken(next: &Record) -> bool {
    matches!(next.event, Event::Took { .. })
}

fn of_now(state: &State, var: stoicheon_core::VarId, record: &Record) -> Option<Value> {
    let Event::Set { of, .. } = &record.event else { return None };
    match of {
        Some(of) => state.value_of(var, *of).ok().cloned(),
        None => state.value(var).ok().cloned(),
    }
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
