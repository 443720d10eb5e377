//! What an object is given: a body, parts, signals of its own, variables.

use smol_str::SmolStr;

use crate::{
    act::compile::compile_joined,
    base::{
        error::{BuildError, Error},
        ids::{ObjectId, PartId, SignalId, VarId},
        names::{check_name, path},
        payload::{Field, Payload},
        place::Place,
        signal::Signal,
    },
    moment::{object::Body, scenes::Scenes},
    part::{
        contract::{Part, PartSpec},
        kind::PartKind,
        region::Region,
        setting::Settings,
    },
    plan::{expr::Expr, new_var::NewVar, steps::Step},
    space::shape::Shape,
    state::State,
};

impl State {
    /// Makes an object able to touch zones.
    pub(crate) fn make_body(&mut self, id: ObjectId, shape: Option<Shape>) -> Result<(), Error> {
        let object = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        let (pose, on) = (object.pose(), object.enabled && !object.fresh);
        let room = Scenes::room(object.scene);
        if let Some(body) = &object.body {
            let key = body.key;
            self.moment.tracker.shape_body(key, shape.as_ref(), pose)?;
            self.body_mut(id)?.facts.shape = shape;
            return Ok(());
        }
        let key = self.moment.tracker.add_body(id, object.number, pose.at)?;
        self.moment.tracker.shape_body(key, shape.as_ref(), pose)?;
        self.moment.tracker.set_body_room(key, room)?;
        if !on {
            self.moment.tracker.enable(key, false);
        }
        self.moment.objects.set_body(id, Body::new(key, shape));
        self.look_again(id);
        Ok(())
    }

    pub(crate) fn attach<P: PartSpec>(&mut self, object: ObjectId, spec: P) -> Result<P::Handle, Error> {
        let part = spec.into_part(self.rate())?;
        let part = self.attach_part(object, part)?;
        let signals = self.parts.get(part).map(|slot| slot.signals.clone()).unwrap_or_default();
        Ok(P::handle(part, &signals))
    }

    fn attach_part(&mut self, object: ObjectId, part: Box<dyn Part>) -> Result<PartId, Error> {
        let owner = self.moment.objects.get(object).ok_or(Error::NoSuchObject)?;
        let (name, number) = (owner.name.clone(), owner.number);
        let kind = part.kind();
        for signal in kind.signals {
            check_name(signal.name)?;
            let name = path(&name, signal.name);
            // One that was declared before there was anything to give it, is the one that is given.
            let Some(found) = self.bus.signals.find(&name) else { continue };
            if self.bus.signals.lane(found).is_some_and(|lane| lane.of.is_some()) {
                return Err(Error::Build(BuildError::NameTaken { kind: "a signal", name }));
            }
            self.bus.signals.check_carries(found, &signal.fields())?;
        }
        let region = part.region().cloned();
        let lists = lists_of(&*part);
        let asks = part.asks();
        let body = part.body().cloned();
        let variables = part.variables();
        for variable in &variables {
            check_name(&variable.name)?;
            let name = path(&name, &variable.name);
            if self.moment.vars.find(&name).is_some() {
                return Err(Error::Build(BuildError::NameTaken { kind: "a variable", name }));
            }
        }
        // A part of a game's own may describe what cannot be: then nothing is made of it.
        region.as_ref().map_or(Ok(()), Region::check)?;
        body.as_ref().map_or(Ok(()), Shape::check_body)?;
        let id = self.parts.insert(object, number, part);
        let mut signals = Vec::new();
        for signal in kind.signals {
            let signal = signal.declare(&mut self.bus, &name)?;
            self.bus.signals.lane_mut(signal).into_iter().for_each(|lane| lane.of = Some(object));
            signals.push(signal);
        }
        if !asks.is_empty() {
            let asks = asks.into_iter().map(|(name, expr)| (SmolStr::new_static(name), expr));
            self.plan.edit().asked.edit().insert(id, asks.collect());
        }
        self.list_part(id, lists);
        if let Some(shape) = body {
            self.make_body(object, Some(shape))?;
        }
        if let Some(region) = region {
            let zone = self.add_zone(id, object, region)?;
            self.parts.set_zone(id, zone);
        }
        if let Some(owner) = self.moment.objects.get_mut(object) {
            owner.parts.push(id);
        }
        self.parts.set_signals(id, signals.into());
        let mut vars = Vec::new();
        for variable in variables {
            let var = self.declare_var(variable.of(object))?;
            if let Some(var) = self.moment.vars.var_mut(var) {
                var.part = Some(id);
            }
            vars.push(var);
        }
        self.parts.set_vars(id, vars.into());
        self.set_pushing(object);
        self.review_groups(object);
        self.join_parts(object)?;
        Ok(id)
    }

    /// Parts that take signals of their own object for commands are wired to them, as soon as it gives them.
    pub(crate) fn join_parts(&mut self, object: ObjectId) -> Result<(), Error> {
        let Some(known) = self.moment.objects.get(object) else { return Ok(()) };
        let (name, parts) = (known.name.clone(), known.parts.clone());
        for part in parts {
            let Some(behaviour) = self.parts.part(part) else { continue };
            let (joins, kind) = (behaviour.joins(), behaviour.kind().name);
            for (number, join) in joins.into_iter().enumerate() {
                let done = self.parts.get(part).is_some_and(|slot| slot.joined & (1 << number) != 0);
                let Some(signal) = self.bus.signals.find(&path(&name, join.signal)).filter(|_| !done) else {
                    continue;
                };
                // What the signal carries is said with the command.
                let fields = self.signal_fields(signal).iter();
                let args = (0..).zip(fields).map(|(number, field)| (field.name.clone(), Expr::Field(number)));
                let step = Step::Command { part, command: join.command, args: args.collect() };
                let ops = compile_joined(&step, self)?;
                self.join_part(signal, object, join.order, Place::of_part(kind, &name), ops)?;
                if let Some(slot) = self.parts.get_mut(part) {
                    slot.joined |= 1 << number;
                }
            }
        }
        Ok(())
    }

    /// Lists a part that offers, pushes, is aimed at or is told how bodies go, by object number, then as attached.
    pub(crate) fn list_part(&mut self, id: PartId, lists: [bool; 4]) {
        let rank = |part: &PartId| self.parts.get(*part).map(crate::part::store::PartEntry::rank);
        if !lists.contains(&true) {
            return;
        }
        for (list, _) in self.plan.edit().lists().into_iter().zip(lists).filter(|(_, on)| *on) {
            let index = list.partition_point(|other| rank(other) < rank(&id));
            list.edit().insert(index, id);
        }
        self.set_reach(id);
        self.watch_offer(id, true);
        self.list_gait(id);
    }

    /// Takes the parts that have ended off the lists.
    pub(crate) fn unlist_ended_parts(&mut self) {
        let Self { parts, plan, .. } = self;
        let gone = |part: &PartId| parts.get(*part).is_none();
        if [&plan.prompts, &plan.pushes, &plan.aimed, &plan.gaits]
            .into_iter()
            .flat_map(|list| list.iter())
            .any(gone)
        {
            for list in plan.edit().lists().into_iter().filter(|list| list.iter().any(gone)) {
                list.edit().retain(|part| !gone(part));
            }
            if plan.gaits_of.values().flatten().any(gone) {
                plan.edit().gaits_of.edit().values_mut().for_each(|list| list.retain(|part| !gone(part)));
            }
        }
    }

    pub(crate) fn own_signal<T: Payload>(
        &mut self,
        object: ObjectId,
        name: &str,
    ) -> Result<Signal<T>, Error> {
        check_name(name)?;
        let owner = self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.name.clone();
        let signal = self.bus.declare::<T>(&path(&owner, name))?;
        self.give_signal(object, signal.id());
        self.join_parts(object)?;
        Ok(signal)
    }

    pub(crate) fn signal_of<T: Payload>(&mut self, object: ObjectId, name: &str) -> Result<Signal<T>, Error> {
        let whole = path(self.name_of(object)?, name);
        self.bus.find(&whole)
    }

    pub(crate) fn own_signal_with(
        &mut self,
        object: ObjectId,
        name: &str,
        fields: Vec<Field>,
    ) -> Result<SignalId, Error> {
        check_name(name)?;
        let whole = path(self.name_of(object)?, name);
        let signal = self.bus.declare_fields(&whole, fields)?;
        self.give_signal(object, signal);
        self.join_parts(object)?;
        Ok(signal)
    }

    fn give_signal(&mut self, object: ObjectId, signal: SignalId) {
        if let Some(owner) = self.moment.objects.get_mut(object)
            && !owner.signals.contains(&signal)
        {
            owner.signals.push(signal);
        }
        self.bus.signals.lane_mut(signal).into_iter().for_each(|lane| lane.of = Some(object));
        self.review_groups(object);
    }

    pub(crate) fn attach_kind(
        &mut self,
        object: ObjectId,
        kind: &'static PartKind,
        settings: &Settings,
    ) -> Result<PartId, Error> {
        let part = (kind.build)(settings, self.rate())?;
        self.attach_part(object, part)
    }

    pub(crate) fn declare_var(&mut self, new: NewVar) -> Result<VarId, Error> {
        let scene = self.moment.scenes.current;
        let Some(object) = new.object else { return self.moment.vars.declare(new.name.clone(), new, scene) };
        check_name(&new.name)?;
        let owner = self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.name.clone();
        let name = self.moment.objects.property_name(&new.name);
        let var = self.moment.vars.declare(path(&owner, &new.name), new, None)?;
        if let Some(owner) = self.moment.objects.get_mut(object) {
            owner.properties.push((name, var));
        }
        if let Some(var) = self.moment.vars.var_mut(var) {
            var.property = Some(name);
        }
        self.adopt_by_binds(var, object, name);
        Ok(var)
    }
}

/// Whether a part offers something, pushes, is met by rays, and is told how bodies go.
pub(crate) fn lists_of(part: &dyn Part) -> [bool; 4] {
    [part.offer().is_some(), part.current().is_some(), part.aim().is_some(), part.footing().is_some()]
}
