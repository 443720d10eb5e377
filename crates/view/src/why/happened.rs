//! Why something happened: the chain of causes, back to an input, with what each guard on the way had seen.

use stoicheon_core::{Event, Expr, RecordId, State, WireId};

use crate::{
    phrase::{clock_time, expr_text, part_text, readings_text},
    trace_text::with_printer,
    why::history::History,
};

/// How many links of a chain are shown at most.
pub(crate) const LONGEST_CHAIN: usize = 24;

/// How many links of a chain a failure shows.
const SHORT_CHAIN: usize = 8;

impl History<'_> {
    /// A record and what it came from, a line each, with the guards on the way.
    pub(crate) fn story(&self, id: RecordId) -> Vec<String> {
        let mut lines = Vec::new();
        let chain: Vec<_> = self.chain(id).collect();
        for id in chain.iter().take(LONGEST_CHAIN) {
            lines.push(self.line(*id));
            if let Some(Event::Took { wire }) = self.get(*id).map(|record| &record.event) {
                lines.extend(self.guard(*wire, *id).into_iter().map(|line| format!("{:22}{line}", "")));
            }
        }
        if chain.len() > LONGEST_CHAIN {
            lines.push(format!("{:>9}  … and {} more before it", "", chain.len() - LONGEST_CHAIN));
        }
        lines
    }

    /// What the guard of a wire had seen when it let a signal through.
    fn guard(&self, wire: WireId, took: RecordId) -> Vec<String> {
        let Some(guard) = self.state.wire_guard(wire) else { return Vec::new() };
        let fields =
            self.state.wire_signals(wire).first().map_or(&[][..], |one| self.state.signal_fields(*one));
        let who = self.who(took);
        let mut lines = vec![format!("when {}", expr_text(self.state, guard, fields))];
        for read in guard.reads() {
            let Some(origin) = self.origin(read, who, Some(took)) else { continue };
            let since = self.since(&origin);
            let shown = origin.value.map_or_else(
                || expr_text(self.state, read, fields),
                |value| readings_text(self.state, read, std::slice::from_ref(&value), fields),
            );
            lines.push(format!("  {shown} {since}"));
        }
        lines
    }
}

/// Lines without an indent: the last time that something happened, and the chain of causes that led up to it, the last
/// one first. Empty when it did not happen, as far as the trace reaches.
pub(crate) fn last_time(history: &History<'_>, is_it: impl Fn(&Event) -> bool) -> Vec<String> {
    let found = history.iter().rev().find(|(_, record)| is_it(&record.event));
    found.map(|(id, _)| told(history, id)).unwrap_or_default()
}

/// A record, and what led up to it.
fn told(history: &History<'_>, id: RecordId) -> Vec<String> {
    let chain = links(history, Some(id)).into_iter().enumerate();
    let mut lines: Vec<_> =
        chain.map(|(index, link)| if index == 0 { link } else { format!("after {link}") }).collect();
    if !history.is_wired(id) {
        lines.push("no wire took part in it".to_owned());
    }
    lines
}

/// How many of the things that a condition reads are told of.
const MOST_READS: usize = 3;

/// Lines without an indent: how what a condition reads came to be as it is.
pub(crate) fn how_it_came(history: &History<'_>, condition: &Expr) -> Vec<String> {
    let state = history.state;
    let mut lines: Vec<String> = Vec::new();
    for read in condition.reads().into_iter().take(MOST_READS) {
        let Some(origin) = history.origin(read, None, None) else { continue };
        match origin.record {
            Some(id) if origin.kept_by.is_none() => {
                let story = told(history, id);
                // Two that came about together are told once.
                if !story.first().is_some_and(|first| lines.contains(first)) {
                    lines.extend(story);
                }
            }
            _ => lines.push(format!("{} has been so {}", subject(state, read), history.since(&origin))),
        }
    }
    if lines.is_empty() {
        lines.push("nothing that it reads has changed since the start".to_owned());
    }
    lines
}

/// What a reading is about, where its value stands elsewhere.
pub(crate) fn subject(state: &State, read: &Expr) -> String {
    match read {
        Expr::State { part, .. } => part_text(state, *part).to_owned(),
        Expr::Inside { body: of, .. }
        | Expr::Place(of)
        | Expr::StateOf { object: of, .. }
        | Expr::InScene { object: of, .. }
        | Expr::Tagged { object: of, .. }
        | Expr::Carries { object: of, .. }
        | Expr::Gone(of)
        | Expr::Enabled(of)
        | Expr::Hidden(of)
        | Expr::Passable(of) => expr_text(state, of, &[]),
        other => expr_text(state, other, &[]),
    }
}

/// What led up to a record, itself first.
pub(crate) fn links(history: &History<'_>, from: Option<RecordId>) -> Vec<String> {
    let state: &State = history.state;
    let mut lines = Vec::new();
    let chain = from.into_iter().flat_map(|from| history.chain(from));
    for id in chain.take(SHORT_CHAIN) {
        let Some(record) = history.get(id) else { break };
        let text = with_printer(state, |printer| printer.link(&record.event));
        if !text.is_empty() {
            lines.push(format!("{text}, at {}", clock_time(state.rate(), record.tick)));
        }
    }
    lines
}
