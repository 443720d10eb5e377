//! Variables and signals that are there: written otherwise, and ended.

use crate::{
    base::{
        doing::Doing,
        error::{BuildError, Error},
        ids::{SignalId, VarId},
        payload::{Field, list_fields},
        value::Values,
    },
    plan::{new_var::NewVar, reads::Read},
    state::State,
    trace::record::Event,
};

impl State {
    /// A variable that is written otherwise keeps what it holds, if play has changed it and it can.
    pub(super) fn change_var(
        &mut self,
        id: VarId,
        before: &NewVar,
        after: &NewVar,
        doing: Doing,
    ) -> Result<(), Error> {
        let var = self.moment.vars.var(id).ok_or(Error::NoSuchVar)?;
        let ty = after.ty.clone().or_else(|| after.first.type_of());
        let first = match &ty {
            Some(ty) => ty.hold(after.first.clone()).unwrap_or_else(|| after.first.clone()),
            None => after.first.clone(),
        };
        let fits = |value: &crate::base::value::Value| match &ty {
            Some(ty) => ty.hold(value.clone()),
            None => Some(value.clone()),
        };
        let (from, hash) = (var.value.clone(), var.hash);
        let as_written = self.moment.vars.check(id, before.first.clone()).is_ok_and(|first| first == from);
        let is_bound =
            var.bound.and_then(|bind| self.plan.binds.get(bind.0 as usize)).is_some_and(|b| !b.ended);
        let to = match fits(&from) {
            Some(held) if !as_written || is_bound => held,
            _ => first,
        };
        let each = match (&var.each, after.per_player) {
            (Some(each), true) => {
                let held = each.iter().filter_map(|(who, value)| Some((*who, fits(value)?)));
                Some(held.collect())
            }
            (None, true) => Some(std::collections::BTreeMap::new()),
            (_, false) => None,
        };
        self.moment.vars.revise(id, |var| {
            (var.ty, var.value, var.each, var.remembered) = (ty, to.clone(), each, after.remembered);
        });
        if from != to {
            let record = self.bus.trace.note(doing.cause, hash, Event::Set { var: id, of: None, from, to });
            self.bus.watches.changed(Read::Var(id), record);
        }
        Ok(())
    }

    /// Ends a variable.
    pub(super) fn end_var(&mut self, id: VarId) {
        let Some(var) = self.moment.vars.remove(id) else { return };
        if let Some(object) = var.of.and_then(|object| self.moment.objects.get_mut(object)) {
            object.properties.retain(|(_, other)| *other != id);
        }
        self.gone.var(id, var.name, self.bus.trace.len());
        self.bus.watches.changed(Read::Var(id), None);
    }

    /// Ends a signal, and the wires on it alone.
    pub(super) fn drop_signal(&mut self, id: SignalId) {
        let Some(lane) = self.bus.signals.lane_mut(id) else { return };
        lane.closed = true;
        let of = lane.of;
        self.end_signal(id);
        if let Some(object) = of.and_then(|object| self.moment.objects.get_mut(object)) {
            object.signals.retain(|other| *other != id);
        }
        self.scratch.gone_signals.push(id);
    }

    /// A signal carries other fields from now on. One that the game has wired in Rust, with a type of its own, cannot.
    pub(super) fn change_fields(&mut self, id: SignalId, fields: &[Field]) -> Result<(), Error> {
        let values = self.bus.payloads.store_of::<Values>();
        let lane = self.bus.signals.lane_mut(id).ok_or(crate::base::error::NoSuchSignal)?;
        if *lane.fields == *fields {
            return Ok(());
        }
        if lane.store != values {
            let (name, declared) = (lane.name.clone(), list_fields(&lane.fields));
            let found = list_fields(fields);
            return Err(Error::Build(BuildError::PayloadMismatch { name, declared, found }));
        }
        lane.fields = fields.into();
        Ok(())
    }
}
