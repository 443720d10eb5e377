//! Building: what was resolved is made in a world.

/// Where the ids come from.
macro_rules! ids {
    ($builder:expr) => {
        InScene { world: &*$builder.world, scene: $builder.scene.clone(), sources: $builder.sources }
    };
}

mod loaded;
mod objects;
mod playtest;
mod wires;

use std::collections::BTreeMap;

use stoicheon_core::{
    BuildError, Error, Expr, Kept, NewWire, Rotation, SceneId, SmolStr, Tag, Value, Vec3, World,
};

pub(crate) use playtest::{Written, make_players, playtest, run_playtest};

use crate::{
    diagnostic::Diagnostic,
    fingerprint::fingerprint,
    load::Loaded,
    resolve::{InScene, Keeps, OWN_SIGNALS, Pose, Resolver, Role, View},
    source::Sources,
};

/// A scene on its way into a world.
struct Builder<'m, 'd, 'w, G> {
    resolver: Resolver<'m, 'd>,
    world: &'w mut World<G>,
    sources: &'m Sources,
    /// The scene, if it is one of a project.
    scene: Option<SmolStr>,
}

/// Makes the scene: all that is declared, then all objects, then routines, then all wires in the order of the text, then
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
    builder.routines()?;
    let mut of_moulds: BTreeMap<usize, Vec<NewWire>> = BTreeMap::new();
    for index in 0..builder.resolver.names.wires.len() {
        let placed = builder.resolver.names.wires[index];
        if !builder.is_own(placed.scope) {
            continue;
        }
        let Some(plan) = builder.resolver.wire(index, &ids!(builder)) else { continue };
        match placed.owner.filter(|owner| builder.resolver.names.objects[*owner].role == Role::Mould) {
            Some(mould) => of_moulds.entry(mould).or_default().push(plan.new_wire(&ids!(builder))),
            None => builder.wire(plan)?,
        }
    }
    for (mould, wires) in of_moulds {
        let mould = builder.resolver.names.objects[mould].mould;
        builder.world.wire_mould(mould, wires)?;
    }
    builder.part_wires()?;
    builder.binds()?;
    builder.rules();
    Ok(())
}

/// What a world is made of is part of what a snapshot of it fits.
fn note_alone<G: 'static>(loaded: &Loaded, world: &mut World<G>) -> Result<(), Error> {
    let contents = fingerprint(&mut loaded.own_files());
    let numbered = || (1..).map(|number| format!("the wiring {number}"));
    let what = match loaded.scene_name() {
        Some(name) => format!("the scene {name}"),
        None => {
            let before = numbered().take_while(|what| world.is_made_of(what).is_some());
            if let Some(what) = before.clone().find(|what| world.is_made_of(what) == Some(contents)) {
                return Err(Error::Build(BuildError::BuiltTwice { what: what.into() }));
            }
            numbered().nth(before.count()).unwrap_or_default()
        }
    };
    if world.is_made_of(&what).is_some() {
        return Err(Error::Build(BuildError::BuiltTwice { what: what.into() }));
    }
    world.made_of(&what, contents);
    Ok(())
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

    fn routines(&mut self) -> Result<(), Error> {
        for index in self.resolver.routine_order() {
            if !self.is_own(self.resolver.names.routines[index].scope) {
                let here = self.world.find_routine(&self.resolver.names.routines[index].name);
                self.resolver.names.routines[index].id = here.unwrap_or_default();
                continue;
            }
            let steps = self.resolver.routine(index, &ids!(self));
            let routine = &self.resolver.names.routines[index];
            let values = u8::try_from(routine.written.fields.len()).unwrap_or(u8::MAX);
            let id = self.world.routine(&routine.name, values, steps)?;
            self.resolver.names.routines[index].id = id;
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
                Keeps::Var(var) => Kept::Var(self.resolver.names.vars[*var].id),
                Keeps::Each(tag, name) => Kept::Each(self.tag(tag)?, self.world.property_named(name)?),
                Keeps::Pose(Ok(object), pose) => {
                    let object = self.resolver.names.objects[*object].id;
                    if *pose == Pose::Place { Kept::Place(object) } else { Kept::Facing(object) }
                }
                Keeps::Pose(Err(tag), pose) => {
                    let tag = self.tag(tag)?;
                    if *pose == Pose::Place { Kept::EachPlace(tag) } else { Kept::EachFacing(tag) }
                }
                Keeps::Setting { object, part, name } => {
                    let ids = &self.resolver.names.objects[*object].part_ids;
                    let part = ids.get(*part).copied().unwrap_or_default();
                    Kept::Setting(part, self.world.setting_of(part, name)?)
                }
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
