//! Every statement of a list, those within others too.

use crate::model::{Statement, StatementKind};

/// Looks at every statement, those within others too.
pub(crate) fn walk(statements: &[Statement], look: &mut dyn FnMut(&Statement)) {
    for statement in statements {
        look(statement);
        match &statement.kind {
            StatementKind::If { then, otherwise, .. } => {
                walk(then, look);
                walk(otherwise, look);
            }
            StatementKind::Until { otherwise, .. } => walk(otherwise, look),
            StatementKind::On(wire) => walk(&wire.body, look),
            StatementKind::Repeat { body, .. }
            | StatementKind::RepeatWhile { body, .. }
            | StatementKind::ForEach { body, .. }
            | StatementKind::ForEachCell { body, .. } => walk(body, look),
            _ => {}
        }
    }
}
