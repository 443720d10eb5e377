//! Parts of objects that are there: given other settings, and taken away.

use crate::{
    base::{
        doing::Doing,
        error::Error,
        ids::{ObjectId, PartId, VarId},
    },
    part::{contract::Part, cx::ReadCx, kind::PartKind, region::Region, setting::Settings},
    plan::{new_var::NewVar, ops::Op},
    space::reason::Reason,
    state::State,
    world::{
        attach::lists_of,
        rewire::{
            merge::{Merged, merged},
            report::Became,
        },
    },
};

impl State {
    /// Gives a part other settings than it was built with. What it is otherwise stays, as far as it can be told apart.
    pub(super) fn remake(
        &mut self,
        id: PartId,
        kind: &'static PartKind,
        [before, after]: [&Settings; 2],
        doing: Doing,
    ) -> Result<Became, Error> {
        let rate = self.rate();
        let (before, after) = ((kind.build)(before, rate)?, (kind.build)(after, rate)?);
        let stays = self.change_live(id, kind, [&*before, &*after], doing);
        let mut now = Vec::new();
        self.parts.part(id).ok_or(Error::NoSuchPart)?.save(&mut now);
        let [was, is] = [&before, &after].map(|part| {
            let mut values = Vec::new();
            part.save(&mut values);
            values
        });
        let (values, mut became) = match merged(&was, &now, &is) {
            Merged::Built => (is, Became::Changed),
            Merged::Both(values) if (kind.blank)().load(&values) => (values, Became::Changed),
            Merged::Both(_) | Merged::Apart => (is, Became::Again { waits: 0 }),
        };
        if became == Became::Changed && stays {
            became = Became::Stays;
        }
        let passable = self.parts.part(id).is_some_and(Part::lets_through);
        let lists = [&before, &after].map(|part| lists_of(&**part));
        self.end_reach(id);
        if lists[0] != lists[1] {
            self.unlist_part(id);
        }
        let again = matches!(became, Became::Again { .. });
        if again {
            self.parts.set_moving(id, None);
            self.end_alarm(id);
        }
        values.iter().for_each(|value| self.bus.trace.feed(value));
        self.parts.behaviours.change(id, |part| part.load(&values));
        self.ask_as_built(id, &*after);
        if lists[0] == lists[1] {
            self.set_reach(id);
            self.watch_offer(id, true);
            self.unlist_gait(id);
            self.list_gait(id);
        } else {
            self.list_part(id, lists[1]);
        }
        let object = self.object_of(id).ok_or(Error::NoSuchPart)?;
        self.change_region(id, object, [before.region(), after.region()], doing)?;
        if before.body() != after.body()
            && let Some(shape) = after.body().cloned()
        {
            self.make_body(object, Some(shape))?;
        }
        self.change_part_vars(id, object, [before.variables(), after.variables()], doing)?;
        if before.joins() != after.joins() {
            self.cut_joined(id, object, doing);
            self.parts.get_mut(id).into_iter().for_each(|slot| slot.joined = 0);
            self.join_parts(object)?;
        }
        let lets_through = self.parts.part(id).is_some_and(Part::lets_through);
        if lets_through != passable {
            self.let_touch(object, !lets_through, doing);
        }
        self.bus.watches.called(id, doing.cause);
        self.look_again(object);
        if again && self.moment.objects.get(object).is_some_and(|object| !object.fresh) {
            self.part_told(id, doing, &[], Part::started);
        }
        Ok(became)
    }

    /// Settings that may change while the world runs change as if they were told to; true if play has changed one.
    fn change_live(
        &mut self,
        id: PartId,
        kind: &'static PartKind,
        [before, after]: [&dyn Part; 2],
        doing: Doing,
    ) -> bool {
        let mut stays = false;
        for setting in kind.settings.iter().filter(|setting| setting.live) {
            let of = ReadCx { state: self, part: id, who: None };
            let (was, is) = (before.read(setting.name, &of), after.read(setting.name, &of));
            let (Some(was), Some(is)) = (was, is) else { continue };
            if was == is {
                continue;
            }
            if self.reading(id, setting.name, None).is_none_or(|now| now == was) {
                // What cannot be said so, like nothing at all, is in what the part saves.
                self.change_setting(id, setting.name, is, doing).ok();
            } else {
                stays = true;
            }
        }
        stays
    }

    /// Takes a part off the lists it is on.
    fn unlist_part(&mut self, id: PartId) {
        let on = |list: &Vec<PartId>| list.contains(&id);
        let plan = &self.plan;
        if [&plan.prompts, &plan.pushes, &plan.aimed, &plan.gaits].into_iter().any(|list| on(list)) {
            for list in self.plan.edit().lists().into_iter().filter(|list| on(list)) {
                list.edit().retain(|other| *other != id);
            }
        }
        self.unlist_gait(id);
    }

    fn unlist_gait(&mut self, id: PartId) {
        if self.plan.gaits_of.values().any(|list| list.contains(&id)) {
            let gaits = self.plan.edit().gaits_of.edit();
            gaits.values_mut().for_each(|list| list.retain(|other| *other != id));
        }
    }

    /// What a part wants to be worked out is what it was built with.
    fn ask_as_built(&mut self, id: PartId, built: &dyn Part) {
        let asks: Vec<_> = built.asks().into_iter().map(|(name, expr)| (name.into(), expr)).collect();
        if self.plan.asked.contains_key(&id) || !asks.is_empty() {
            let asked = self.plan.edit().asked.edit();
            if asks.is_empty() {
                asked.remove(&id);
            } else {
                asked.insert(id, asks);
            }
        }
    }

    /// What a part watches is otherwise. Who is inside stays so where the shape is.
    fn change_region(
        &mut self,
        id: PartId,
        object: ObjectId,
        [before, after]: [Option<&Region>; 2],
        doing: Doing,
    ) -> Result<(), Error> {
        let guarded = self.asked_of(id, "when").is_some();
        let zone = self.parts.get(id).and_then(|slot| slot.zone);
        let was_guarded =
            zone.and_then(|zone| self.moment.tracker.zone_entry(zone)).is_some_and(|zone| zone.guarded);
        if before == after && guarded == was_guarded {
            return Ok(());
        }
        let Some(region) = after else { return Ok(()) };
        region.check()?;
        let shape = before.and_then(|before| before.shape.as_ref()).and(region.shape.as_ref());
        let (Some(zone), Some(shape), true) = (zone, shape, guarded == was_guarded) else {
            // A zone that the host tells of, and one with another border, begin with nobody inside.
            self.end_zone(id, doing);
            let zone = self.add_zone(id, object, region.clone())?;
            self.parts.set_zone(id, zone);
            return Ok(());
        };
        let admits = region.admits.iter().map(|tag| self.moment.objects.tag(tag)).collect();
        self.moment.tracker.reshape(zone, shape.clone())?;
        self.moment.tracker.set_margin(zone, region.margin)?;
        let number = self.moment.tracker.zone_number(zone);
        let Some(facts) = self.moment.tracker.zone_facts_mut(zone) else { return Ok(()) };
        (facts.admits, facts.pulse) = (admits, region.pulse);
        let pulses = facts.pulse.is_some() && facts.count > 0;
        if let Some(number) = number {
            let pulsing = self.moment.pulsing.edit();
            if pulses {
                pulsing.insert((number, zone));
            } else {
                pulsing.remove(&(number, zone));
            }
        }
        Ok(())
    }

    /// Everyone inside has left, and then the zone is gone.
    fn end_zone(&mut self, id: PartId, doing: Doing) {
        let Some(zone) = self.parts.get(id).and_then(|slot| slot.zone) else { return };
        for touch in self.moment.tracker.darken(zone, Reason::ZoneGone) {
            self.tell_left(&touch, doing.cause);
        }
        self.remove_zone(id);
    }

    /// The variables a part keeps, one by one.
    fn change_part_vars(
        &mut self,
        id: PartId,
        object: ObjectId,
        [before, after]: [Vec<NewVar>; 2],
        doing: Doing,
    ) -> Result<(), Error> {
        if before == after {
            return Ok(());
        }
        let here: Vec<VarId> = self.parts.get(id).map(|slot| slot.vars.to_vec()).unwrap_or_default();
        let mut gone: Vec<(NewVar, VarId)> = before.into_iter().zip(here).collect();
        let mut vars = Vec::new();
        for new in after {
            match gone.iter().position(|(before, _)| before.name == new.name) {
                Some(index) => {
                    let (before, var) = gone.remove(index);
                    self.change_var(var, &before, &new, doing)?;
                    vars.push(var);
                }
                None => {
                    let var = self.declare_var(new.of(object))?;
                    self.moment.vars.var_mut(var).into_iter().for_each(|var| var.part = Some(id));
                    vars.push(var);
                }
            }
        }
        gone.into_iter().for_each(|(_, var)| self.end_var(var));
        self.parts.set_vars(id, vars.into());
        Ok(())
    }

    /// Cuts the wires that make signals of its own object commands to a part.
    fn cut_joined(&mut self, id: PartId, object: ObjectId, doing: Doing) {
        let Some(owner) = self.moment.objects.get(object) else { return };
        let commands = |op: &Op| matches!(op, Op::Command { part, .. } if *part == id);
        let made_of_kind = |wire: &&crate::base::ids::WireId| {
            let wire = self.moment.wires.get(**wire);
            let joined = wire.filter(|wire| wire.place.is_of_part());
            joined.and_then(|wire| wire.ops.as_ref()).is_some_and(|ops| ops.iter().any(commands))
        };
        let wires: Vec<_> = owner.wires.iter().filter(made_of_kind).copied().collect();
        wires.into_iter().for_each(|wire| self.cut_now(wire, doing));
    }

    /// Takes a part away from an object that stays.
    pub(super) fn detach(&mut self, id: PartId, doing: Doing) {
        let Some(slot) = self.parts.get(id) else { return };
        let (object, signals, vars) = (slot.object, slot.signals.clone(), slot.vars.clone());
        let hid = self.parts.part(id).is_some_and(Part::lets_through);
        if self.offer_of(id).is_some() {
            self.withdraw_all(object, doing.cause);
        }
        self.end_zone(id, doing);
        self.cut_joined(id, object, doing);
        for signal in signals.iter() {
            self.drop_signal(*signal);
        }
        self.end_reach(id);
        self.unlist_part(id);
        if self.plan.asked.contains_key(&id) {
            self.plan.edit().asked.edit().remove(&id);
        }
        self.end_alarm(id);
        vars.iter().for_each(|var| self.end_var(*var));
        if let Some(object) = self.moment.objects.get_mut(object) {
            object.parts.retain(|part| *part != id);
        }
        if let Some(kind) = self.parts.remove(id) {
            self.gone.part(id, object, kind, self.bus.trace.len());
        }
        if hid {
            self.let_touch(object, !self.is_passable(object), doing);
        }
        self.set_pushing(object);
        self.review_groups(object);
        self.look_again(object);
    }
}
