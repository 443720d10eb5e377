//! Signals that emit each other without a wait and without an end.

use std::collections::BTreeMap;

use smol_str::SmolStr;

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{StatementKind, Wire},
    resolve::{Cx, NoIds, Resolver, circle::follow},
    source::Span,
};

/// A signal leads to another at once.
struct Leads {
    to: usize,
    span: Span,
    scope: usize,
}

/// Whether a wire takes every signal that comes, as often as it comes.
fn takes_all(wire: &Wire) -> bool {
    wire.when.is_none()
        && wire.during.is_none()
        && wire.pattern.is_empty()
        && wire.by.is_empty()
        && wire.cooldown.is_none()
        && wire.delay.is_none()
        && wire.times.is_none()
}

impl Resolver<'_, '_> {
    pub(super) fn check_runaway(&mut self) {
        let mut numbers: BTreeMap<SmolStr, usize> = BTreeMap::new();
        let mut names: Vec<SmolStr> = Vec::new();
        let mut leads: Vec<Vec<Leads>> = Vec::new();
        let mut number = |name: SmolStr, leads: &mut Vec<Vec<Leads>>| {
            *numbers.entry(name.clone()).or_insert_with(|| {
                names.push(name);
                leads.push(Vec::new());
                names.len() - 1
            })
        };
        for placed in self.names.wires.iter().filter(|placed| self.names.is_own(placed.scope)) {
            let wire = placed.written;
            if wire.every || !takes_all(wire) {
                continue;
            }
            let cx = Cx { owner: placed.owner, ..Cx::new(placed.scope, &NoIds) };
            for statement in &wire.body {
                let signal = match &statement.kind {
                    StatementKind::Emit { signal, .. } => signal,
                    StatementKind::Wait(_) | StatementKind::Until { .. } | StatementKind::Stop => break,
                    _ => continue,
                };
                let (Some(from), Some(to)) =
                    (self.signal_named(&wire.on, &cx), self.signal_named(signal, &cx))
                else {
                    continue;
                };
                let (from, to) = (number(from.name, &mut leads), number(to.name, &mut leads));
                leads[from].push(Leads { to, span: signal.span(), scope: placed.scope });
            }
        }
        let circles = follow(leads.len(), |from| leads[from].iter().map(|lead| lead.to).collect()).circles;
        for circle in circles {
            let round: Vec<usize> = circle.iter().chain(circle.first()).copied().collect();
            let way: Vec<&str> = round.iter().map(|signal| names[*signal].as_str()).collect();
            let message = format!("these signals emit each other without an end: {}", way.join(", then "));
            let mut found = Diagnostic::warning(Code::EndlessSignals, message);
            let mut scope = None;
            for pair in round.windows(2) {
                let Some(lead) = leads[pair[0]].iter().find(|lead| lead.to == pair[1]) else { continue };
                found = found.at(lead.span, format!("`{}` emits it, without a wait", names[pair[0]]));
                scope = scope.or(Some(lead.scope));
            }
            let found = found.help("add a `wait`, a `when` that ends it, or a limit such as `cooldown 1s`");
            self.within(scope.unwrap_or(0), |r| r.wrong(found));
        }
    }
}
