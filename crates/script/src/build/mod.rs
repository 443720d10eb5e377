//! Building: what was resolved is made in a world.

/// Where the ids come from.
macro_rules! ids {
    ($builder:expr) => {
        InScene { world: &*$builder.world, scene: $builder.scene.clone(), sources: $builder.sources }
    };
}

mod described;
mod loaded;
mod objects;
mod playtest;
mod rewire;
mod wires;

use std::collections::{BTreeMap, BTreeSet};

use stoicheon_core::{
    BuildError, Error, Expr, NewWire, Place, Rotation, SceneId, SmolStr, Tag, Value, Vec3, World,
};

pub(crate) use playtest::{Written, make_players, playtest, run_playtest};

use crate::{
    diagnostic::Diagnostic,
    fingerprint::fingerprint,
    load::Loaded,
    resolve::{InScene, OWN_SIGNALS, Resolver, Role, View},
    source::Sources,
};

/// A scene on its way into a world.
struct Builder<'m, 'd, 'w, G> {
    resolver: Resolver<'m, 'd>,
    world: &'w mut World<G>,
    sources: &'m Sources,
    /// The scene, if it is one of a project.
    scene: Option<SmolStr>,
    /// When it is made beside what is here already of a text before it.
    beside: Option<Beside>,
}

/// What is made beside what is here already.
#[derive(Default)]
struct Beside {
    /// Objects that are not made, since play has ended them.
    left_out: BTreeSet<SmolStr>,
    /// What the text before it made, by what it is.
    known: BTreeSet<(&'static str, SmolStr)>,
    /// What was made.
    made: Vec<(&'static str, SmolStr, Place)>,
    /// The objects among that.
    objects: BTreeSet<SmolStr>,
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
    let what = match loaded.scene_name() {
        Some(name) => format!("the scene {name}"),
        None => {
            if let Some(what) = wirings(world).find(|what| world.is_made_of(what) == Some(contents)) {
                return Err(Error::Build(BuildError::BuiltTwice { what: what.into() }));
            }
            free_wiring(world)
        }
    };
    if world.is_made_of(&what).is_some() {
        return Err(Error::Build(BuildError::BuiltTwice { what: what.into() }));
    }
    world.made_of(&what, contents);
    Ok(())
}

fn numbered(number: usize) -> String {
    format!("the wiring {number}")
}

/// What a world calls the texts without a name that it was made of.
fn wirings<G: 'static>(world: &World<G>) -> impl Iterator<Item = String> {
    (1..).map(numbered).take_while(|what| world.is_made_of(what).is_some())
}

/// What it would call one more.
fn free_wiring<G: 'static>(world: &World<G>) -> String {
    numbered(wirings(world).count() + 1)
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
        Self { resolver, world, sources: &loaded.sources, scene, beside: None }
    }

    /// Whether what is here already is left as it is.
    fn reuses(&self) -> bool {
        self.resolver.names.view != View::Alone || self.beside.is_some()
    }

    /// Whether something is made here, and not with the project.
    fn is_own(&self, scope: usize) -> bool {
        self.resolver.names.is_own(scope)
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
                if let (Some(beside), Some(span)) = (&mut self.beside, signal.span)
                    && self.world.find_signal(&signal.name).is_none()
                {
                    beside.made.push(("signal", signal.name.clone(), self.sources.place(span)));
                }
                let id = self.world.declare_signal_with(&signal.name, signal.fields.to_vec())?;
                if let Some((to, by)) = &signal.crosses {
                    let by: Vec<_> = by.iter().map(SmolStr::as_str).collect();
                    self.world.let_cross(id, *to, &by)?;
                }
            }
        }
        for effect in &mut self.resolver.names.effects {
            if let (Some(beside), Some(span)) = (&mut self.beside, effect.span)
                && self.world.find_effect(&effect.name).is_none()
            {
                beside.made.push(("effect", effect.name.clone(), self.sources.place(span)));
            }
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

    /// Notes what was made, if that is asked for.
    fn note_made(&mut self, what: &'static str, name: SmolStr, place: Place) {
        if let Some(beside) = &mut self.beside {
            if what == "object" {
                beside.objects.insert(name.clone());
            }
            beside.made.push((what, name, place));
        }
    }

    /// Declares the routines that are not here yet; what they do is said when everything they speak of is here.
    fn new_routines(&mut self) -> Result<(), Error> {
        for index in self.resolver.routine_order() {
            let routine = &self.resolver.names.routines[index];
            if self.is_own(routine.scope) && self.world.find_routine(&routine.name).is_none() {
                let values = u8::try_from(routine.written.fields.len()).unwrap_or(u8::MAX);
                self.world.routine(&routine.name, values, [])?;
                let place = self.sources.place(routine.written.name.span);
                let name = routine.name.clone();
                self.note_made("routine", name, place);
            }
        }
        Ok(())
    }

    fn binds(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.binds.len() {
            if !self.is_own(self.resolver.names.binds[index].scope) {
                continue;
            }
            let Some(plan) = self.resolver.bind(index, &ids!(self)) else { continue };
            let kept = self.kept(&plan.kept)?;
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
