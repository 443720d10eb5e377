//! What an expression depends on.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    base::ids::{ObjectId, PartId, PropertyName, Tag, VarId},
    plan::{
        among::Among,
        expr::{Expr, PartOf},
    },
};

impl Expr {
    /// What it reads that can change, as far as a trace can show it: variables, fields, what a sequence keeps, part
    /// states, counts, places and tests; each once, in the order they stand.
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
                    | Self::Reading { .. }
                    | Self::Count(_)
                    | Self::Any(_)
                    | Self::Distance(..)
                    | Self::InsideFor { .. }
                    | Self::Velocity(_)
                    | Self::Nearest { .. }
                    | Self::Place(_)
                    | Self::Middle(_)
                    | Self::CellSteps(_)
                    | Self::Facing(_)
                    | Self::Inside { .. }
                    | Self::InScene { .. }
                    | Self::StateOf { .. }
                    | Self::Tagged { .. }
                    | Self::Carries { .. }
                    | Self::Gone(_)
                    | Self::Enabled(_)
                    | Self::Hidden(_)
                    | Self::Passable(_)
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

    /// The tags of which it looks for the nearest object, if it looks at no groups in another way: what an object carries is
    /// such a group, and so is what is counted.
    pub(crate) fn nearest_of(&self) -> Option<SmallVec<[Tag; 2]>> {
        let mut tags = SmallVec::new();
        let mut open: SmallVec<[&Self; 8]> = SmallVec::from_iter([self]);
        while let Some(expr) = open.pop() {
            match expr {
                Self::Count(_) | Self::Any(_) | Self::RandomOf(_) | Self::Carries { .. } => return None,
                Self::Nearest { among, .. } if among.inside.is_some() || among.such_that.is_some() => {
                    return None;
                }
                Self::Nearest { among, .. } => tags.push(among.tag),
                _ => {}
            }
            open.extend(expr.operands());
        }
        Some(tags)
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
            Self::Reading { part, ticking, who, .. } => {
                match part {
                    PartOf::Part(part) => {
                        reads.insert(Read::Reading(*part));
                    }
                    PartOf::Of { .. } => reads.extend([Read::AnyReading, Read::Objects]),
                }
                if *ticking {
                    reads.insert(Read::Clock);
                }
                if who.is_some() {
                    reads.insert(Read::Objects);
                }
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
            Self::Place(_)
            | Self::Facing(_)
            | Self::Forward(_)
            | Self::Direction(..)
            | Self::Middle(_)
            | Self::Distance(..) => {
                reads.extend([Read::Places, Read::Objects]);
            }
            Self::Count(among) | Self::Any(among) | Self::RandomOf(among) => among.collect(reads),
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

/// Something an expression reads that can change.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub(crate) enum Read {
    Var(VarId),
    /// Some variable, which one is known only when it is read.
    AnyVar,
    /// The state of a part.
    Part(PartId),
    AnyPart,
    /// What a part says of itself when it is asked.
    Reading(PartId),
    AnyReading,
    /// Who is inside a zone.
    Zone(PartId),
    AnyZone,
    /// Where an object is. Nobody waits for one alone.
    Place(ObjectId),
    /// Where things are.
    Places,
    /// What tick it is, and what changes with every one.
    Clock,
    /// Whether an object is there and enabled, and its tags. Nobody waits for one alone.
    Object(ObjectId),
    /// Which objects there are, whether they are enabled, and their tags.
    Objects,
}

impl Read {
    /// The wider thing that changes with it.
    pub(crate) fn any(self) -> Option<Self> {
        Some(match self {
            Self::Var(_) => Self::AnyVar,
            Self::Part(_) => Self::AnyPart,
            Self::Reading(_) => Self::AnyReading,
            Self::Zone(_) => Self::AnyZone,
            Self::Place(_) => Self::Places,
            Self::Object(_) => Self::Objects,
            _ => return None,
        })
    }
}
