//! Objects, what hangs on what, their variables, and moulds.

use stoicheon_core::{
    BuildError, Error, Expr, NewVar, ObjectId, PartId, PartInfo, Pose, SettingInfoType, SmolStr,
};

use super::{Builder, described::parts_here, unknown};
use crate::resolve::{InScene, Made, Role};

impl<G: 'static> Builder<'_, '_, '_, G> {
    pub(super) fn objects(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            match self.resolver.names.objects[index].role {
                Role::Mould => {}
                Role::Foreign => {
                    let role = &self.resolver.names.objects[index].name;
                    // A world that is not the game's own has no such manager; what is told to it is a fault then.
                    self.resolver.names.objects[index].id = self.world.manager(role).unwrap_or_default();
                }
                Role::Object | Role::Manager => {
                    let object = &self.resolver.names.objects[index];
                    let own = self.is_own(object.scope);
                    // What somebody carries is here before its scene is.
                    let here = self.world.find(&object.name).filter(|_| !own || self.reuses());
                    if self.is_left_out(&object.name) {
                        continue;
                    }
                    if own && here.is_some() {
                        self.check_known(&["object", "body", "manager", "manager and body"], &object.name)?;
                    }
                    match here {
                        None if own => self.object(index)?,
                        here => {
                            let id = here.unwrap_or_default();
                            let object = &mut self.resolver.names.objects[index];
                            object.id = id;
                            object.part_ids = parts_here(self.world, object);
                        }
                    }
                }
            }
        }
        for index in 0..self.resolver.names.spots.len() {
            let spot = &self.resolver.names.spots[index];
            let (own, here) = (self.is_own(spot.scope), self.world.find_spot(&spot.name));
            if own && here.is_some() {
                self.check_known(&["spot"], &spot.name)?;
            }
            if !own || here.is_some() && self.reuses() || self.is_of_left_out(spot.object) {
                self.resolver.names.spots[index].id = here.unwrap_or_default();
                continue;
            }
            let (at, facing) = self.resolver.spot(index, &ids!(self));
            let (at, facing) = (self.vector(at), self.rotation(facing));
            let spot = &self.resolver.names.spots[index];
            let object = spot.object.map(|object| self.resolver.names.objects[object].id);
            let name = if object.is_some() { &spot.written.name.text } else { &spot.name };
            let id = self.world.spot_at(name, object, at, facing)?;
            let (name, place) = (spot.name.clone(), self.sources.place(spot.written.name.span));
            self.note_made("spot", name, place);
            self.resolver.names.spots[index].id = id;
        }
        Ok(())
    }

    pub(super) fn object(&mut self, index: usize) -> Result<(), Error> {
        let Made { at, facing, settings } = self.resolver.object_parts(index, &ids!(self));
        let (at, facing) = (self.vector(at), self.rotation(facing));
        let object = &self.resolver.names.objects[index];
        let Some(written) = object.written else { return Ok(()) };
        let mut new = if object.role == Role::Manager {
            self.world.manager_for(&object.name)
        } else {
            self.world.object(&object.name)
        };
        new = new.at(at).facing(facing).written_at(self.sources.place(object.span));
        for tag in &object.tags {
            new = new.tag(tag);
        }
        if written.body {
            new = new.body();
        }
        if written.disabled {
            new = new.disabled();
        }
        if written.remember {
            new = new.remembered();
        }
        let id = new.add()?;
        let mut part_ids = Vec::new();
        for ((_, info), settings) in object.parts.iter().zip(&settings) {
            let kind =
                info.kind.ok_or_else(|| unknown("a kind of part that can be made here", &info.name))?;
            part_ids.push(self.world.attach_kind(id, kind, settings)?);
        }
        for (name, (fields, _)) in &object.signals {
            self.world.declare_signal_of_with(id, name, fields.to_vec())?;
        }
        let (name, place) = (object.name.clone(), self.sources.place(object.span));
        self.note_made("object", name, place);
        let object = &mut self.resolver.names.objects[index];
        (object.id, object.part_ids) = (id, part_ids);
        Ok(())
    }

    /// Whether an object is not made, since play has ended it.
    fn is_left_out(&self, name: &str) -> bool {
        self.beside.as_ref().is_some_and(|beside| beside.left_out.contains(name))
    }

    /// What is here already beside what is made now is of the text before it, and not something else of its name.
    fn check_known(&self, what: &[&'static str], name: &SmolStr) -> Result<(), Error> {
        let Some(beside) = &self.beside else { return Ok(()) };
        if what.iter().any(|what| beside.known.contains(&(*what, name.clone()))) {
            return Ok(());
        }
        let kind = if what == ["spot"] {
            "a spot"
        } else if what == ["variable"] {
            "a variable"
        } else {
            "an object"
        };
        Err(Error::Build(BuildError::NameTaken { kind, name: name.clone() }))
    }

    fn is_of_left_out(&self, object: Option<usize>) -> bool {
        object.is_some_and(|object| self.is_left_out(&self.resolver.names.objects[object].name))
    }

    /// Whether an object is made here, and not here already.
    fn is_made_now(&self, name: &str) -> bool {
        self.beside.as_ref().is_none_or(|beside| beside.objects.contains(name))
    }

    /// Hangs objects on others: what holds others first, since places are as seen from there.
    pub(super) fn hang(&mut self) -> Result<(), Error> {
        for index in self.resolver.hanging().order {
            let object = &self.resolver.names.objects[index];
            let (id, scope) = (object.id, object.scope);
            let Some(of) = object.written.and_then(|written| written.of.as_ref()) else { continue };
            let Some(parent) = self.resolver.parent(Some(of), scope, &ids!(self)) else { continue };
            let object = &self.resolver.names.objects[index];
            let made =
                object_is_made(object.role) && self.is_own(object.scope) && self.is_made_now(&object.name);
            if made && self.world.parent(id).is_none() {
                let seat = Pose { at: self.world.place(id)?, facing: self.world.facing(id)? };
                self.world.hang_at(id, self.resolver.names.objects[parent].id, seat)?;
            }
        }
        Ok(())
    }

    /// What parts work out while the world runs may speak of anything, so it is set when everything is there.
    pub(super) fn worked_out(&mut self) -> Result<(), Error> {
        self.each_worked_out(|builder, part, name, expr| builder.world.set_asked(part, name, expr.clone()))
    }

    /// Does something with each of them.
    pub(super) fn each_worked_out(
        &mut self,
        mut each: impl FnMut(&mut Self, PartId, &str, &Expr) -> Result<(), Error>,
    ) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            let object = &self.resolver.names.objects[index];
            let made = object_is_made(object.role) && self.is_own(object.scope);
            if !made || !object.parts.iter().any(|(_, info)| has_worked_out(info)) {
                continue;
            }
            let Made { settings, .. } = self.resolver.object_parts(index, &ids!(self));
            let object = &self.resolver.names.objects[index];
            let mut found = Vec::new();
            for (((_, info), part), settings) in object.parts.iter().zip(&object.part_ids).zip(&settings) {
                // Beside a signal to be counted, `when` is the guard of the wire that is made of it.
                let on_wire =
                    info.settings.iter().any(|setting| matches!(setting.ty, SettingInfoType::Signal(_)));
                let asked = info.settings.iter().filter(|setting| is_worked_out(&setting.ty));
                for setting in asked.filter(|_| !on_wire) {
                    if let Some(expr) = settings.expr(&setting.name) {
                        found.push((*part, setting.name.clone(), expr.clone()));
                    }
                }
            }
            found.into_iter().try_for_each(|(part, name, expr)| each(self, part, &name, &expr))?;
        }
        Ok(())
    }

    pub(super) fn new_var(&mut self, index: usize) -> NewVar {
        let first = self.resolver.var_first(index, &ids!(self));
        let first = self.value(first).unwrap_or_default();
        let var = &self.resolver.names.vars[index];
        let name =
            var.written.filter(|_| var.object.is_some()).map_or(&var.name, |written| &written.name.text);
        let mut new = NewVar::new(name, first).of_type(var.ty.clone());
        if var.per_player {
            new = new.per_player();
        }
        if var.written.is_some_and(|written| written.remember) { new.remembered() } else { new }
    }

    pub(super) fn vars(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.vars.len() {
            let object = self.resolver.names.vars[index].object;
            let object = object.map(|object| &self.resolver.names.objects[object]);
            if object.is_some_and(|object| object.role == Role::Mould) {
                continue;
            }
            let var = &self.resolver.names.vars[index];
            let (own, here) = (self.is_own(var.scope), self.world.find_var(&var.name));
            if own && here.is_some() && var.object.is_none() {
                self.check_known(&["variable"], &var.name)?;
            }
            // The variables of an object that is here already are seen to with it.
            let seen_to = object.is_some_and(|object| !self.is_made_now(&object.name));
            if !own || var.kept_by.is_some() || here.is_some() && self.reuses() || seen_to {
                self.resolver.names.vars[index].id = here.unwrap_or_default();
                continue;
            }
            let id: Option<ObjectId> = object.map(|object| object.id);
            let new = self.new_var(index);
            let new = match id {
                Some(id) => new.of(id),
                None => new,
            };
            self.resolver.names.vars[index].id = self.world.declare(new)?;
            let var = &self.resolver.names.vars[index];
            if var.object.is_none() {
                let (name, place) = (var.name.clone(), self.sources.place(var.span));
                self.note_made("variable", name, place);
            }
        }
        Ok(())
    }

    pub(super) fn moulds(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            if self.resolver.names.objects[index].role != Role::Mould {
                continue;
            }
            if let Some(here) = self.world.find_mould(&self.resolver.names.objects[index].name)
                && self.reuses()
            {
                self.resolver.names.objects[index].mould = here;
                continue;
            }
            let mould = self.mould_of(index)?;
            let object = &self.resolver.names.objects[index];
            let (name, place) = (object.name.clone(), self.sources.place(object.span));
            self.note_made("mould", name, place);
            self.resolver.names.objects[index].mould = self.world.mould(mould)?;
        }
        Ok(())
    }
}

pub(crate) fn object_is_made(role: Role) -> bool {
    matches!(role, Role::Object | Role::Manager)
}

fn is_worked_out(ty: &SettingInfoType) -> bool {
    matches!(ty, SettingInfoType::Condition | SettingInfoType::Amount)
}

fn has_worked_out(info: &PartInfo) -> bool {
    info.settings.iter().any(|setting| is_worked_out(&setting.ty))
}
