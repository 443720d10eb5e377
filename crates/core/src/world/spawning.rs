//! Moulds: objects that are described now and made while the world runs.

use std::sync::Arc;

use glam::Vec3;
use smol_str::format_smolstr;

use crate::{
    base::{
        doing::Doing,
        error::{BuildError, Error},
        ids::{MouldId, ObjectId},
        names::{PLAYER, check_name},
    },
    part::mould::Mould,
    plan::{
        expr::Expr,
        patterns::{Hears, NewWire, Pattern},
    },
    state::State,
    world::new_object::NewObject,
};

impl State {
    /// Declares a mould; its parts are tried out, so that making one does not fail for their settings.
    pub(crate) fn declare_mould(&mut self, mould: Mould) -> Result<MouldId, Error> {
        check_name(&mould.name)?;
        mould.tags.iter().try_for_each(|tag| check_name(tag))?;
        if self.plan.moulds.contains_key(&mould.name) {
            return Err(Error::Build(BuildError::NameTaken { kind: "a mould", name: mould.name }));
        }
        for (kind, (_, settings)) in mould.kinds.iter().zip(&mould.parts) {
            (kind.build)(settings, self.rate())?;
        }
        for kind in &mould.kinds {
            self.parts.number_kind(kind);
        }
        let (index, _) = self.plan.edit().moulds.edit().insert_full(mould.name.clone(), Arc::new(mould));
        Ok(MouldId(u32::try_from(index).unwrap_or(u32::MAX)))
    }

    /// Gives a mould its wires, in place of those it had.
    pub(crate) fn wire_mould(&mut self, id: MouldId, wires: &[NewWire]) -> Result<(), Error> {
        let found = self.plan.moulds.get_index(id.0 as usize);
        let mut mould = (**found.ok_or(Error::NoSuchMould)?.1).clone();
        mould.wires = wires.iter().map(|wire| self.pattern(wire)).collect::<Result<_, _>>()?;
        self.plan.edit().moulds.edit().insert(mould.name.clone(), Arc::new(mould));
        Ok(())
    }

    /// Makes an object after a mould.
    pub(crate) fn spawn(&mut self, id: MouldId, at: Vec3, doing: Doing) -> Result<ObjectId, Error> {
        let found = self.plan.moulds.get_index(id.0 as usize);
        let (_, mould) = found.ok_or(Error::NoSuchMould)?;
        let mould = mould.clone();
        self.check_room(doing.by)?;
        let name = format_smolstr!("{}_{}", mould.name, self.moment.objects.next_number());
        let mut new = NewObject::new(self, &name).at(at).tag(&mould.name);
        for tag in &mould.tags {
            new = new.tag(tag);
        }
        if mould.body {
            new = new.body();
        }
        if let Some(place) = &mould.place {
            new = new.written_at(place.clone());
        }
        let object = new.add_caused(doing.cause)?;
        self.furnish(object, &mould)?;
        Ok(object)
    }

    /// Players are made from the mould called `player`, if there is one.
    pub(crate) fn furnish_player(&mut self, object: ObjectId) -> Result<(), Error> {
        let Some(mould) = self.plan.moulds.get(PLAYER).cloned() else { return Ok(()) };
        for tag in &mould.tags {
            self.set_tag(object, tag, true)?;
        }
        self.furnish(object, &mould)
    }

    fn furnish(&mut self, object: ObjectId, mould: &Mould) -> Result<(), Error> {
        for (name, settings) in &mould.parts {
            let kind = self
                .parts
                .kind_named(name)
                .ok_or_else(|| Error::UnknownName { kind: "a kind of part", found: name.clone() })?;
            self.attach_kind(object, kind, settings)?;
        }
        for (name, fields) in &mould.signals {
            self.own_signal_with(object, name, fields.clone())?;
        }
        let hears_start =
            |pattern: &Pattern| matches!(&pattern.hears, Hears::Of(Expr::Own, name) if name == "started");
        if mould.wires.iter().any(hears_start) || self.moment.wires.hear_every("started") {
            self.own_signal::<()>(object, "started")?;
        }
        for var in &mould.vars {
            self.declare_var(var.clone().of(object))?;
        }
        for pattern in &mould.wires {
            self.wire_of_mould(pattern, object)?;
        }
        Ok(())
    }

    /// The mould of that name.
    pub fn find_mould(&self, name: &str) -> Option<MouldId> {
        self.plan.moulds.get_index_of(name).and_then(|index| u32::try_from(index).ok()).map(MouldId)
    }

    /// The name of a mould.
    pub fn mould_name(&self, id: MouldId) -> Option<&str> {
        self.plan.moulds.get_index(id.0 as usize).map(|(name, _)| name.as_str())
    }
}
