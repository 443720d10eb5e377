//! Objects and what is theirs: written otherwise, and ended.

use std::collections::BTreeMap;

use smol_str::SmolStr;

use crate::{
    base::{
        doing::Way,
        error::Error,
        geometry::Pose,
        ids::{ObjectId, PartId, Tag},
        names::{check_name, path},
    },
    moment::object::Object,
    part::{contract::Part, kind::PartKind, mould::Mould, setting::Settings},
    state::State,
    world::rewire::{Rewiring, report::Became},
};

/// A part that is described, with the number it has among those of its kind.
type Described<'m> = ((&'m str, usize), (&'static PartKind, &'m Settings));

fn parts_of(mould: &Mould) -> Vec<Described<'_>> {
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    let each = mould.kinds.iter().zip(&mould.parts);
    each.map(|(kind, (name, settings))| {
        let count = counts.entry(name).or_default();
        *count += 1;
        ((name.as_str(), *count - 1), (*kind, settings))
    })
    .collect()
}

impl<G: 'static> Rewiring<'_, G> {
    /// An object that stays is described otherwise: its tags, parts, signals and variables. Whether it is a body does not
    /// change.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; what is wrong with a setting; a signal that the game has wired with a type of its own and that
    /// carries other fields now.
    pub fn change_object(&mut self, id: ObjectId, before: &Mould, after: &Mould) -> Result<(), Error> {
        let name = SmolStr::new(self.world.state.name_of(id)?);
        let place = after.place.clone();
        for tag in before.tags.iter().filter(|tag| !after.tags.contains(tag)) {
            self.world.state.set_tag_of(id, tag, false)?;
            self.tell("object", &*name, Became::Changed, place.clone());
        }
        for tag in after.tags.iter().filter(|tag| !before.tags.contains(tag)) {
            check_name(tag)?;
            self.world.state.set_tag_of(id, tag, true)?;
            self.tell("object", &*name, Became::Changed, place.clone());
        }
        self.change_signals(id, before, after)?;
        self.change_vars(id, before, after)?;
        let (was, is) = (parts_of(before), parts_of(after));
        let mut gone = Vec::new();
        for (key, _) in &was {
            if !is.iter().any(|(other, _)| other == key) {
                gone.extend(self.nth_part(id, *key).map(|part| (part, key.0)));
            }
        }
        for (part, kind) in gone {
            let doing = self.doing();
            self.world.state.detach(part, doing);
            self.tell("part", path(&name, kind), Became::Gone { waits: 0 }, place.clone());
        }
        for (key, (kind, settings)) in is {
            let old = was.iter().find(|(other, _)| *other == key).map(|(_, (_, settings))| *settings);
            match (old, self.nth_part(id, key)) {
                (Some(old), Some(part)) if old != settings => {
                    let doing = self.doing();
                    let became = self.world.state.remake(part, kind, [old, settings], doing)?;
                    self.tell("part", path(&name, key.0), became, place.clone());
                }
                (None, _) => {
                    let doing = self.doing();
                    let part = self.world.state.attach_kind(id, kind, settings)?;
                    if self.world.state.moment.objects.get(id).is_some_and(|object| !object.fresh) {
                        self.world.state.part_told(part, doing, &[], Part::started);
                    }
                    self.world.state.look_again(id);
                    self.tell("part", path(&name, key.0), Became::New, place.clone());
                }
                _ => {}
            }
        }
        Ok(())
    }

    fn nth_part(&self, object: ObjectId, (kind, number): (&str, usize)) -> Option<PartId> {
        let state = &self.world.state;
        let of_kind = |part: &PartId| state.kind_of(*part).is_some_and(|known| known.name == kind);
        state.parts_of(object).iter().copied().filter(of_kind).nth(number)
    }

    fn change_signals(&mut self, id: ObjectId, before: &Mould, after: &Mould) -> Result<(), Error> {
        let name = SmolStr::new(self.world.state.name_of(id)?);
        for (signal, _) in
            before.signals.iter().filter(|(name, _)| !after.signals.iter().any(|(n, _)| n == name))
        {
            if let Some(found) = self.world.state.bus.signals.find(&path(&name, signal)) {
                self.end_signal(found);
            }
        }
        for (signal, fields) in &after.signals {
            let known = before.signals.iter().find(|(name, _)| name == signal);
            let found = self.world.state.bus.signals.find(&path(&name, signal));
            match (known, found) {
                (Some((_, was)), Some(found)) if was != fields => self.change_signal(found, fields)?,
                (None, _) => {
                    self.doing();
                    self.world.state.own_signal_with(id, signal, fields.clone())?;
                    self.tell("signal", path(&name, signal), Became::New, after.place.clone());
                }
                _ => {}
            }
        }
        Ok(())
    }

    fn change_vars(&mut self, id: ObjectId, before: &Mould, after: &Mould) -> Result<(), Error> {
        let name = SmolStr::new(self.world.state.name_of(id)?);
        for var in &before.vars {
            if !after.vars.iter().any(|other| other.name == var.name)
                && let Some(found) = self.world.state.find_var(&path(&name, &var.name))
            {
                self.end_var(found);
            }
        }
        for new in &after.vars {
            let found = self.world.state.find_var(&path(&name, &new.name));
            match (before.vars.iter().find(|var| var.name == new.name), found) {
                (Some(old), Some(found)) => self.change_var(found, old, new)?,
                (None, _) => {
                    self.doing();
                    self.world.state.declare_var(new.clone().of(id))?;
                    self.tell("variable", path(&name, &new.name), Became::New, after.place.clone());
                }
                _ => {}
            }
        }
        Ok(())
    }

    /// An object is written at another place, or to face another way. It goes there if it is where it was written; as seen from
    /// what it hangs on, if it hangs.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn move_object(&mut self, id: ObjectId, before: Pose, after: Pose) -> Result<(), Error> {
        if before == after {
            return Ok(());
        }
        let object = self.world.state.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let parent =
            object.parent.and_then(|parent| self.world.state.moment.objects.get(parent)).map(Object::pose);
        let (name, pose) = (object.name.clone(), object.pose());
        let was = parent.map_or(before, |parent| parent.carry(before));
        if pose != was {
            self.doing();
            self.tell("object", name, Became::Stays, None);
            return Ok(());
        }
        let doing = self.doing();
        let to = parent.map_or(after, |parent| parent.carry(after));
        self.world.state.relocate(id, to, Way::Placed, doing.cause)?;
        self.tell("object", name, Became::Changed, None);
        Ok(())
    }

    /// An object is written to hang on something else, or on nothing, at a place as seen from there. It does if it hangs where it was
    /// written.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`BuildError::HangsOnItself`](crate::BuildError::HangsOnItself).
    pub fn hang_object(
        &mut self,
        id: ObjectId,
        before: Option<ObjectId>,
        after: Option<ObjectId>,
        seat: Pose,
    ) -> Result<(), Error> {
        if before == after {
            return Ok(());
        }
        let object = self.world.state.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let (name, stays) = (object.name.clone(), object.parent != before);
        let doing = self.doing();
        if stays {
            self.tell("object", name, Became::Stays, None);
            return Ok(());
        }
        self.world.state.set_parent(id, after)?;
        let above = after.and_then(|after| self.world.state.moment.objects.get(after)).map(Object::pose);
        let to = above.map_or(seat, |above| above.carry(seat));
        self.world.state.relocate(id, to, Way::Placed, doing.cause)?;
        self.tell("object", name, Became::Changed, None);
        Ok(())
    }

    /// An object is written to begin enabled or disabled. It is so if it is as it was written.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn switch_object(&mut self, id: ObjectId, before: bool, after: bool) -> Result<(), Error> {
        if before == after {
            return Ok(());
        }
        let object = self.world.state.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let (name, off) = (object.name.clone(), object.off);
        let doing = self.doing();
        if off == before {
            // It was switched since, to what is written now.
            return Ok(());
        }
        self.world.state.switch(id, after, doing)?;
        self.tell("object", name, Became::Changed, None);
        Ok(())
    }

    /// Whether an object is [remembered](crate::NewObject::remembered).
    pub fn remember_object(&mut self, id: ObjectId, remembered: bool) {
        let object = self.world.state.moment.objects.get(id).filter(|object| object.remembered != remembered);
        if object.is_some()
            && let Some(object) = self.world.state.moment.objects.get_mut(id)
        {
            object.remembered = remembered;
        }
    }

    /// Ends an object, at once.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn end_object(&mut self, id: ObjectId) -> Result<(), Error> {
        let name = SmolStr::new(self.world.state.name_of(id)?);
        let object = self.world.state.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let runs = |wire| self.world.state.moment.wires.now(wire).map_or(0, |now| now.runs.len());
        let waits = object.wires.iter().map(|wire| runs(*wire)).sum();
        let doing = self.doing();
        self.world.state.destroy(id, doing)?;
        self.tell("object", name, Became::Gone { waits }, None);
        Ok(())
    }

    /// What has ended is freed, so that its names may be given again.
    pub fn free(&mut self) {
        self.world.free_what_ended();
    }

    /// An object stays as it is, with so many variables.
    pub fn keep_object(&mut self, vars: usize) {
        self.rewired.kept.objects += 1;
        self.rewired.kept.vars += vars;
    }

    /// An object hangs on nothing from now on, and stays where it is.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn take_off(&mut self, id: ObjectId) -> Result<(), Error> {
        self.doing();
        self.world.state.set_parent(id, None)
    }
}

impl State {
    /// Gives an object a tag or takes it away, as one that is made in its scene has it.
    fn set_tag_of(&mut self, id: ObjectId, word: &str, on: bool) -> Result<(), Error> {
        self.set_tag(id, word, on)?;
        let home = self.moment.objects.get(id).and_then(|object| object.home);
        if let Some(scene) = home.and_then(|scene| self.moment.scenes.name(scene)).cloned() {
            let tag: Tag = self.moment.objects.tag_in(word, &scene);
            self.give_tag(id, tag, on)?;
        }
        Ok(())
    }
}
