//! What an expression depends on.

use std::collections::BTreeSet;

use super::{Among, Expr};
use crate::{object::PropertyName, var::VarId, watch::Read};

impl Expr {
    /// What it reads that can change, as far as a trace can show it: variables, fields, what a sequence keeps, part
    /// states, counts; each once, in the order they stand.
    pub fn reads(&self) -> Vec<&Self> {
        let mut found: Vec<&Self> = Vec::new();
        let mut open = vec![self];
        while let Some(expr) = open.pop() {
            let shown = matches!(
                expr,
                Self::Var(_)
                    | Self::VarOf(..)
                    | Self::Property { .. }
                    | Self::Field(_)
                    | Self::Local(_)
                    | Self::State { .. }
                    | Self::Count(_)
                    | Self::Distance(..)
                    | Self::InsideFor { .. }
                    | Self::Velocity(_)
                    | Self::Nearest { .. }
            );
            if !shown {
                open.extend(expr.operands().into_iter().rev());
                continue;
            }
            let same = |other: &&Self| match (expr, *other) {
                (Self::State { part: a, .. }, Self::State { part: b, .. }) => a == b,
                (a, b) => a == b,
            };
            if !found.iter().any(same) {
                found.push(expr);
            }
        }
        found
    }

    /// What must change before it can give something else.
    pub(crate) fn depends_on(&self) -> BTreeSet<Read> {
        let mut reads = BTreeSet::new();
        self.collect(&mut reads);
        reads
    }

    fn collect(&self, reads: &mut BTreeSet<Read>) {
        match self {
            Self::Var(var) | Self::VarOf(var, _) => {
                reads.insert(Read::Var(*var));
            }
            Self::Property { .. } => reads.extend([Read::AnyVar, Read::Objects]),
            Self::State { part, .. } => {
                reads.insert(Read::Part(*part));
            }
            Self::StateOf { .. } => reads.extend([Read::AnyPart, Read::Objects]),
            Self::Inside { zone, .. } => {
                reads.insert(Read::Zone(*zone));
            }
            Self::InsideFor { zone, .. } => reads.extend([Read::Zone(*zone), Read::Clock]),
            Self::Velocity(_) => reads.extend([Read::Clock, Read::Objects]),
            Self::Tagged { .. } | Self::InScene { .. } | Self::Gone(_) | Self::Enabled(_) => {
                reads.insert(Read::Objects);
            }
            Self::Hidden(_) | Self::Passable(_) | Self::Carries { .. } => {
                reads.extend([Read::AnyPart, Read::Objects]);
            }
            Self::Place(_) | Self::Facing(_) | Self::Distance(..) => {
                reads.extend([Read::Places, Read::Objects]);
            }
            Self::Count(among) | Self::Any(among) => among.collect(reads),
            Self::Nearest { among, .. } => {
                among.collect(reads);
                reads.insert(Read::Places);
            }
            _ => {}
        }
        for operand in self.operands() {
            operand.collect(reads);
        }
    }

    /// The variables it reads, and the names of those it reads of objects that are known only then.
    pub(crate) fn variables(&self, vars: &mut Vec<VarId>, names: &mut Vec<PropertyName>) {
        match self {
            Self::Var(var) | Self::VarOf(var, _) => vars.push(*var),
            Self::Property { name, .. } => names.push(*name),
            _ => {}
        }
        for operand in self.operands() {
            operand.variables(vars, names);
        }
    }
}

impl Among {
    fn collect(&self, reads: &mut BTreeSet<Read>) {
        reads.insert(Read::Objects);
        reads.extend(self.inside.map(Read::Zone));
    }
}
