//! Building: what was resolved is made in a world.

mod loaded;
mod playtest;

use stoicheon_core::{
    Error, Expr, Group, Kept, Mould, NewVar, ObjectId, PartInfo, Pose, Rotation, SceneId, SettingInfoType,
    SmolStr, Tag, Value, Values, Vec3, World,
};

pub(crate) use playtest::{playtest, run_playtest};

use crate::{
    diagnostic::Diagnostic,
    fingerprint::fingerprint,
    load::Loaded,
    resolve::{Hears, InScene, Made, OWN_SIGNALS, Resolver, Role, View, WirePlan},
    source::Sources,
};

/// Where the ids come from.
macro_rules! ids {
    ($builder:expr) => {
        InScene { world: &*$builder.world, scene: $builder.scene.clone() }
    };
}

/// A scene on its way into a world.
struct Builder<'m, 'd, 'w, G> {
    resolver: Resolver<'m, 'd>,
    world: &'w mut World<G>,
    sources: &'m Sources,
    /// The scene, if it is one of a project.
    scene: Option<SmolStr>,
}

/// Makes the scene: all that is declared, then all objects, then tasks, then all wires in the order of the text, then
/// binds and rules. Of a scene of a project, what is the project's is found, and what is here already is left as it is.
pub(crate) fn build<G: 'static>(loaded: &Loaded, world: &mut World<G>) -> Result<(), Error> {
    let mut ignored: Vec<Diagnostic> = Vec::new();
    if loaded.view == View::Alone {
        note_alone(loaded, world)?;
    }
    let mut builder = Builder::new(loaded, world, &mut ignored);
    builder.know(loaded)?;
    builder.messages()?;
    builder.objects()?;
    builder.hang()?;
    builder.vars()?;
    builder.worked_out()?;
    builder.moulds()?;
    builder.tasks()?;
    for index in 0..builder.resolver.names.wires.len() {
        if builder.is_own(builder.resolver.names.wires[index].scope) {
            let plan = builder.resolver.wire(index, &ids!(builder));
            builder.wire(plan)?;
        }
    }
    builder.part_wires()?;
    builder.binds()?;
    builder.rules();
    Ok(())
}

/// What a world is made of is part of what a snapshot of it fits.
fn note_alone<G: 'static>(loaded: &Loaded, world: &mut World<G>) -> Result<(), Error> {
    let contents = fingerprint(loaded.own_files());
    let numbered = || (1..).map(|number| format!("the wiring {number}"));
    let what = match loaded.scene_name() {
        Some(name) => format!("the scene {name}"),
        None => {
            let before = numbered().take_while(|what| world.is_made_of(what).is_some());
            if let Some(what) = before.clone().find(|what| world.is_made_of(what) == Some(contents)) {
                return Err(Error::BuiltTwice { what: what.into() });
            }
            numbered().nth(before.count()).unwrap_or_default()
        }
    };
    if world.is_made_of(&what).is_some() {
        return Err(Error::BuiltTwice { what: what.into() });
    }
    world.made_of(&what, contents);
    Ok(())
}

fn object_is_made(role: Role) -> bool {
    matches!(role, Role::Object | Role::Manager)
}

fn is_worked_out(ty: &SettingInfoType) -> bool {
    matches!(ty, SettingInfoType::Condition | SettingInfoType::Amount)
}

fn has_worked_out(info: &PartInfo) -> bool {
    info.settings.iter().any(|setting| is_worked_out(&setting.ty))
}

fn unknown(kind: &'static str, found: &str) -> Error {
    Error::UnknownName { kind, found: found.into() }
}

impl<'m, 'd, 'w, G: 'static> Builder<'m, 'd, 'w, G> {
    fn new(loaded: &'m Loaded, world: &'w mut World<G>, ignored: &'d mut Vec<Diagnostic>) -> Self {
        let scenes = loaded.scenes.as_deref();
        let mut resolver = Resolver::new(&loaded.files, &loaded.catalogue, scenes, loaded.view, ignored);
        resolver.mark_bound();
        let scene = loaded.scene_name().filter(|_| resolver.names.home != 0).map(SmolStr::new);
        Self { resolver, world, sources: &loaded.sources, scene }
    }

    /// Whether something is made here, and not with the project.
    fn is_own(&self, scope: usize) -> bool {
        self.resolver.names.is_own(scope)
    }

    fn in_project(&self) -> bool {
        self.resolver.names.view != View::Alone
    }

    fn scene_id(&self) -> Option<SceneId> {
        self.world.find_scene(self.scene.as_ref()?)
    }

    /// A tag as wiring of this scene means it.
    fn tag(&mut self, word: &str) -> Result<Tag, Error> {
        match self.scene_id() {
            Some(scene) => self.world.tag_in(scene, word),
            None => self.world.tag_named(word),
        }
    }

    /// Tags, names of properties and kinds of part that expressions ask for by number.
    fn know(&mut self, loaded: &Loaded) -> Result<(), Error> {
        for tag in &loaded.wanted_tags {
            self.world.tag_named(tag)?;
            self.tag(tag)?;
        }
        for name in &loaded.wanted_properties {
            self.world.property_named(name)?;
        }
        for part in loaded.catalogue.parts() {
            if let Some(kind) = part.kind {
                self.world.know(kind);
            }
        }
        Ok(())
    }

    fn messages(&mut self) -> Result<(), Error> {
        for signal in &self.resolver.names.signals {
            let own = signal.name.rsplit('.').next().is_some_and(|last| OWN_SIGNALS.contains(&last));
            if !(own && signal.span.is_none()) {
                let id = self.world.declare_signal_with(&signal.name, signal.fields.to_vec())?;
                if let Some((to, by)) = &signal.crosses {
                    let by: Vec<_> = by.iter().map(SmolStr::as_str).collect();
                    self.world.let_cross(id, *to, &by)?;
                }
            }
        }
        for effect in &mut self.resolver.names.effects {
            effect.effect = self.world.declare_effect_with(&effect.name, effect.fields.to_vec())?;
        }
        Ok(())
    }

    fn value(&self, expr: Option<Expr>) -> Option<Value> {
        expr.map(|expr| self.world.evaluate(&expr))
    }

    fn vector(&self, expr: Option<Expr>) -> Vec3 {
        self.value(expr).and_then(|value| value.as_vector()).unwrap_or_default()
    }

    fn rotation(&self, expr: Option<Expr>) -> Rotation {
        match self.value(expr) {
            Some(Value::Rotation(rotation)) => rotation,
            _ => Rotation::NONE,
        }
    }

    fn objects(&mut self) -> Result<(), Error> {
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
                    let here = self.world.find(&object.name).filter(|_| !own || self.in_project());
                    match here {
                        None if own => self.object(index)?,
                        here => {
                            let id = here.unwrap_or_default();
                            let object = &mut self.resolver.names.objects[index];
                            (object.id, object.part_ids) = (id, self.world.parts_of(id).to_vec());
                        }
                    }
                }
            }
        }
        for index in 0..self.resolver.names.spots.len() {
            let spot = &self.resolver.names.spots[index];
            let (own, here) = (self.is_own(spot.scope), self.world.find_spot(&spot.name));
            if !own || here.is_some() && self.in_project() {
                self.resolver.names.spots[index].id = here.unwrap_or_default();
                continue;
            }
            let (at, facing) = self.resolver.spot(index, &ids!(self));
            let (at, facing) = (self.vector(at), self.rotation(facing));
            let spot = &self.resolver.names.spots[index];
            let object = spot.object.map(|object| self.resolver.names.objects[object].id);
            let name = if object.is_some() { &spot.written.name.text } else { &spot.name };
            let id = self.world.spot_at(name, object, at, facing)?;
            self.resolver.names.spots[index].id = id;
        }
        Ok(())
    }

    fn object(&mut self, index: usize) -> Result<(), Error> {
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
        let object = &mut self.resolver.names.objects[index];
        (object.id, object.part_ids) = (id, part_ids);
        Ok(())
    }

    /// Hangs objects on others: what holds others first, since places are as seen from there.
    fn hang(&mut self) -> Result<(), Error> {
        for index in self.resolver.hanging().order {
            let object = &self.resolver.names.objects[index];
            let (id, scope) = (object.id, object.scope);
            let Some(of) = object.written.and_then(|written| written.of.as_ref()) else { continue };
            let Some(parent) = self.resolver.parent(Some(of), scope, &ids!(self)) else { continue };
            let object = &self.resolver.names.objects[index];
            let made = object_is_made(object.role) && self.is_own(object.scope);
            if made && self.world.parent(id).is_none() {
                let seat = Pose { at: self.world.place(id)?, facing: self.world.facing(id)? };
                self.world.hang_at(id, self.resolver.names.objects[parent].id, seat)?;
            }
        }
        Ok(())
    }

    /// What parts work out while the world runs may speak of anything, so it is set when everything is there.
    fn worked_out(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            let object = &self.resolver.names.objects[index];
            let made = object_is_made(object.role) && self.is_own(object.scope);
            if !made || !object.parts.iter().any(|(_, info)| has_worked_out(info)) {
                continue;
            }
            let Made { settings, .. } = self.resolver.object_parts(index, &ids!(self));
            let object = &self.resolver.names.objects[index];
            for (((_, info), part), settings) in object.parts.iter().zip(&object.part_ids).zip(&settings) {
                // Beside a signal to be counted, `when` is the guard of the wire that is made of it.
                let on_wire =
                    info.settings.iter().any(|setting| matches!(setting.ty, SettingInfoType::Signal(_)));
                let asked = info.settings.iter().filter(|setting| is_worked_out(&setting.ty));
                for setting in asked.filter(|_| !on_wire) {
                    if let Some(expr) = settings.expr(&setting.name) {
                        self.world.set_asked(*part, &setting.name, expr.clone())?;
                    }
                }
            }
        }
        Ok(())
    }

    fn new_var(&mut self, index: usize) -> NewVar {
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

    fn vars(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.vars.len() {
            let object = self.resolver.names.vars[index].object;
            let object = object.map(|object| &self.resolver.names.objects[object]);
            if object.is_some_and(|object| object.role == Role::Mould) {
                continue;
            }
            let var = &self.resolver.names.vars[index];
            let (own, here) = (self.is_own(var.scope), self.world.find_var(&var.name));
            if !own || var.kept_by.is_some() || here.is_some() && self.in_project() {
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
        }
        Ok(())
    }

    fn moulds(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            if self.resolver.names.objects[index].role != Role::Mould {
                continue;
            }
            if let Some(here) = self.world.find_mould(&self.resolver.names.objects[index].name)
                && self.in_project()
            {
                self.resolver.names.objects[index].mould = here;
                continue;
            }
            let Made { settings, .. } = self.resolver.object_parts(index, &ids!(self));
            let vars = self.resolver.names.objects[index].vars.values().copied();
            let vars: Vec<usize> =
                vars.filter(|var| self.resolver.names.vars[*var].kept_by.is_none()).collect();
            let vars: Vec<_> = vars.into_iter().map(|var| self.new_var(var)).collect();
            let object = &self.resolver.names.objects[index];
            let mut mould = Mould::new(&object.name).written_at(self.sources.place(object.span));
            for tag in object.tags.iter().filter(|tag| **tag != object.name) {
                mould = mould.tag(tag);
            }
            if object.written.is_some_and(|written| written.body) {
                mould = mould.body();
            }
            for ((_, info), settings) in object.parts.iter().zip(settings) {
                let kind =
                    info.kind.ok_or_else(|| unknown("a kind of part that can be made here", &info.name))?;
                mould = mould.part(kind, settings);
            }
            for (name, (fields, _)) in &object.signals {
                mould = mould.signal(name, fields.to_vec());
            }
            mould = vars.into_iter().fold(mould, Mould::var);
            self.resolver.names.objects[index].mould = self.world.mould(mould)?;
        }
        Ok(())
    }

    fn tasks(&mut self) -> Result<(), Error> {
        for index in self.resolver.task_order() {
            if !self.is_own(self.resolver.names.tasks[index].scope) {
                let here = self.world.find_task(&self.resolver.names.tasks[index].name);
                self.resolver.names.tasks[index].id = here.unwrap_or_default();
                continue;
            }
            let steps = self.resolver.task(index, &ids!(self));
            let task = &self.resolver.names.tasks[index];
            let values = u8::try_from(task.written.fields.len()).unwrap_or(u8::MAX);
            let id = self.world.task(&task.name, values, steps)?;
            self.resolver.names.tasks[index].id = id;
        }
        Ok(())
    }

    /// The wires that are settings of parts.
    fn part_wires(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            let object = &self.resolver.names.objects[index];
            if object_is_made(object.role) && self.is_own(object.scope) {
                for plan in self.resolver.part_wires(index, &ids!(self)) {
                    self.wire(Some(plan))?;
                }
            }
        }
        Ok(())
    }

    fn wire(&mut self, plan: Option<WirePlan>) -> Result<(), Error> {
        let Some(plan) = plan else { return Ok(()) };
        let WirePlan { hears, owner, by, guard, order, cooldown, delay, times, busy, during, steps, span } =
            plan;
        let place = self.sources.place(span);
        let owner = owner.map(|owner| self.resolver.names.objects[owner].id);
        self.ready_signals(&hears)?;
        let mut on = match &hears {
            Hears::One(name) => {
                if self.world.find_signal(name).is_none() {
                    return Err(unknown("a signal", name));
                }
                let signal = self.world.signal::<Values>(name)?;
                self.world.on(signal)
            }
            Hears::Every(tag, signal) => {
                let group = Group::tagged(tag);
                let group = match self.scene_id() {
                    Some(scene) => group.in_scene(scene),
                    None => group,
                };
                self.world.on_every_named::<Values>(group, signal)
            }
        };
        on = on.order(order).while_running(busy).written_at(place);
        on = by.iter().fold(on, |on, tag| on.by(tag));
        if let Some(owner) = owner {
            on = on.owned_by(owner);
        }
        if let Some(guard) = guard {
            on = on.when(guard);
        }
        if let Some((stages, stage)) = during {
            on = on.during(stages, &stage);
        }
        if let Some(times) = times {
            on = on.times(times.into());
        }
        if let Some(delay) = delay {
            on = on.delay(delay);
        }
        on = match cooldown {
            Some((span, true)) => on.cooldown_per_who(span),
            Some((span, false)) => on.cooldown(span),
            None => on,
        };
        on.run_steps(steps).map(|_| ())
    }

    /// An object tells that it is ready only when somebody listens.
    fn ready_signals(&mut self, hears: &Hears) -> Result<(), Error> {
        match hears {
            Hears::One(name) => {
                let of_scene = self.scene.as_ref().and_then(|scene| {
                    name.strip_prefix(scene.as_str()).and_then(|rest| rest.strip_prefix('.'))
                });
                let own = of_scene.filter(|name| OWN_SIGNALS.contains(name));
                if let (Some(own), Some(scene)) = (own, self.scene_id()) {
                    self.world.signal_in(scene, own)?;
                } else if let Some(object) =
                    name.strip_suffix(".ready").and_then(|name| self.world.find(name))
                {
                    self.world.ready_of(object)?;
                }
            }
            Hears::Every(tag, signal) if signal == "ready" => {
                let tag = self.tag(tag)?;
                let members: Vec<_> = self.world.tagged(tag).collect();
                for object in members {
                    self.world.ready_of(object)?;
                }
            }
            Hears::Every(..) => {}
        }
        Ok(())
    }

    fn binds(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.binds.len() {
            if !self.is_own(self.resolver.names.binds[index].scope) {
                continue;
            }
            let Some(plan) = self.resolver.bind(index, &ids!(self)) else { continue };
            let kept = match &plan.kept {
                Ok(var) => Kept::Var(self.resolver.names.vars[*var].id),
                Err((tag, name)) => Kept::Each(self.tag(tag)?, self.world.property_named(name)?),
            };
            self.world.bind_at(kept, plan.to, self.sources.place(plan.span))?;
        }
        Ok(())
    }

    fn rules(&mut self) {
        for index in 0..self.resolver.names.rules.len() {
            if !self.is_own(self.resolver.names.rules[index].scope) {
                continue;
            }
            if let Some((never, span)) = self.resolver.rule(index, &ids!(self)) {
                self.world.never_at(never, self.sources.place(span));
            }
        }
    }
}
