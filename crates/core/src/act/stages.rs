//! Wires that belong to a stage: they sleep in any other, and what they have begun ends with it.

use std::sync::Arc;

use crate::{
    base::{
        doing::Doing,
        error::{BuildError, Error},
        ids::{PartId, VarId},
        value::{Text, Value},
    },
    plan::{expr::Expr, wires::Guard},
    state::State,
};

impl State {
    /// The variable that says in which stage a part is.
    pub(crate) fn stage_of(&self, part: PartId, stage: &Text) -> Result<VarId, Error> {
        let slot = self.parts.get(part).ok_or(Error::NoSuchPart)?;
        // The first variable of a part with stages says which it is in.
        let var = slot.vars.first().copied().ok_or(Error::NoSuchPart)?;
        self.moment.vars.check(var, Value::Text(stage.clone()))?;
        Ok(var)
    }

    /// The guard of a wire of a stage: it asks for that first.
    pub(crate) fn guard_of_stage(&self, var: VarId, stage: &Text, guard: Guard) -> Result<Guard, Error> {
        let each = self.moment.vars.var(var).is_some_and(|var| var.each.is_some());
        let now = if each { Expr::VarOf(var, Box::new(Expr::Who)) } else { Expr::Var(var) };
        let there = now.equals(Expr::Value(Value::Text(stage.clone())));
        match guard {
            Guard::None => Ok(Guard::Data(Arc::new(there))),
            Guard::Data(expr) => Ok(Guard::Data(Arc::new(there.and((*expr).clone())))),
            Guard::Rust(_) => Err(Error::Build(BuildError::BadSettings {
                expected: "a guard that is an expression, on a wire that belongs to a stage",
            })),
        }
    }

    /// A stage was left, by somebody or by all: what its wires have begun there ends.
    pub(crate) fn leave_stage(&mut self, var: VarId, doing: Doing) {
        for wire in self.plan.staged.get(&var).cloned().unwrap_or_default() {
            let Some((_, stage)) = self.moment.wires.get(wire).and_then(|wire| wire.during.clone()) else {
                continue;
            };
            let stage = Value::Text(stage);
            let left = |who| self.moment.vars.get(var, who) != Some(&stage);
            let ends = self.runs_where(wire, |doing| left(doing.who));
            self.drop_some_runs(wire, &ends, false, doing);
            if self.moment.wires.now(wire).is_none_or(|now| now.held.is_empty()) {
                continue;
            }
            let kept: std::collections::VecDeque<_> = match self.moment.wires.now_mut(wire) {
                Some(now) => std::mem::take(&mut now.held),
                None => continue,
            };
            let kept = kept
                .into_iter()
                .filter(|(_, _, held)| self.moment.vars.get(var, held.who) == Some(&stage))
                .collect();
            if let Some(now) = self.moment.wires.now_mut(wire) {
                now.held = kept;
            }
        }
    }

    /// Wires that are gone belong to no stage.
    pub(crate) fn forget_staged(&mut self, wire: crate::base::ids::WireId) {
        let staged = self.plan.edit().staged.edit();
        for wires in staged.values_mut() {
            wires.retain(|other| *other != wire);
        }
        staged.retain(|_, wires| !wires.is_empty());
    }
}
