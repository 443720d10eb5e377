//! Loops that cannot end.

use std::collections::BTreeSet;

use smol_str::SmolStr;

use super::{Resolver, walk::walk};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Statement, StatementKind},
    source::Span,
};

impl Resolver<'_, '_> {
    /// A loop that never waits and whose condition nothing in it can change.
    pub(super) fn check_endless(&mut self, condition: &model::Expr, body: &[Statement], span: Span) {
        let mut names = BTreeSet::new();
        let mut only_names = true;
        read_by(condition, &mut names, &mut only_names);
        let mut ends = false;
        walk(body, &mut |statement| {
            ends |= match &statement.kind {
                StatementKind::Wait(_) | StatementKind::Until { .. } | StatementKind::Stop => true,
                StatementKind::Set { target, .. } => names.contains(&target.path().text()),
                StatementKind::Emit { .. }
                | StatementKind::On(_)
                | StatementKind::Perform { .. }
                | StatementKind::Keep { .. }
                | StatementKind::Tween { .. }
                | StatementKind::If { .. }
                | StatementKind::Repeat { .. }
                | StatementKind::RepeatWhile { .. }
                | StatementKind::ForEach { .. }
                | StatementKind::ForEachCell { .. } => false,
                StatementKind::Do { .. } => true,
                // These change what a state, a count or a place is.
                _ => !only_names,
            };
        });
        if !ends {
            self.wrong(
                Diagnostic::error(Code::EndlessLoop, "this loop never waits, and nothing in it can end it")
                    .at(condition.span, "nothing in the loop changes this")
                    .at(span, "never ends within one tick")
                    .help("add a `wait`, or set something that the condition reads"),
            );
        }
    }
}

/// The names a condition reads, and whether it reads nothing else that can change.
fn read_by(expr: &model::Expr, names: &mut BTreeSet<SmolStr>, only_names: &mut bool) {
    match &expr.kind {
        ExprKind::Name(path) | ExprKind::Of(path, _) => {
            names.insert(path.text());
        }
        ExprKind::Is { .. }
        | ExprKind::Inside { .. }
        | ExprKind::Tagged { .. }
        | ExprKind::Carries { .. }
        | ExprKind::InScene { .. }
        | ExprKind::Count(_)
        | ExprKind::Quantity(..)
        | ExprKind::Nearest(..)
        | ExprKind::Call(..) => *only_names = false,
        _ => {}
    }
    for part in expr.parts() {
        read_by(part, names, only_names);
    }
}
