//! Building: the model becomes objects, wires and rules of a world.

mod expr;
mod playtest;

use stoicheon_core::{Catalogue, Error, Expr, ObjectId, Signal, Step, Values, World};

pub(crate) use playtest::playtest;

use crate::{
    check::{fields, read_settings},
    model::{Name, Object, Path, Scene, Statement, Wire},
    source::Source,
};
use expr::Exprs;

/// Makes the scene: all that is declared, then all objects, then all wires in the order of the text, then rules.
pub(crate) fn build<G: 'static>(
    scene: &Scene,
    source: &Source,
    catalogue: &Catalogue,
    world: &mut World<G>,
) -> Result<(), Error> {
    for var in &scene.vars {
        let first = Exprs { world, fields: &[] }.expr(&var.first)?;
        world.var(&var.name.text, world.evaluate(&first))?;
    }
    for signal in &scene.signals {
        world.signal_with(&signal.name.text, fields(signal))?;
    }
    for effect in &scene.effects {
        world.effect_with(&effect.name.text, fields(effect))?;
    }
    for object in &scene.objects {
        build_object(object, catalogue, world)?;
    }
    for (wire, owner) in scene.all_wires() {
        build_wire(wire, owner, source, world)?;
    }
    for rule in &scene.rules {
        let never = Exprs { world, fields: &[] }.expr(rule)?;
        world.never_at(never, source.place(rule.span));
    }
    Ok(())
}

fn build_object<G: 'static>(
    object: &Object,
    catalogue: &Catalogue,
    world: &mut World<G>,
) -> Result<(), Error> {
    let mut new = world.object(&object.name.text).at(object.at.unwrap_or_default());
    for tag in &object.tags {
        new = new.tag(&tag.text);
    }
    let id = new.add()?;
    for part in &object.parts {
        let kind = catalogue.part(&part.kind.text).ok_or_else(|| unknown("a kind of part", &part.kind))?;
        // What is wrong with the settings was reported by the check.
        let settings = read_settings(kind, part, &mut Vec::new());
        world.attach_kind(id, kind, &settings)?;
    }
    Ok(())
}

fn build_wire<G: 'static>(
    wire: &Wire,
    owner: Option<&Name>,
    source: &Source,
    world: &mut World<G>,
) -> Result<(), Error> {
    let owner = owner.map(|owner| object(world, owner)).transpose()?;
    let signal: Signal<Values> = signal(world, &wire.signal)?;
    let fields = world.signal_fields(signal.id()).to_vec();
    let exprs = Exprs { world, fields: &fields };
    let guard = wire.guard.as_ref().map(|guard| exprs.expr(guard)).transpose()?;
    let steps = exprs.steps(&wire.body)?;

    let mut on = world.on(signal).order(wire.order).written_at(source.place(wire.span));
    for tag in &wire.filter {
        on = on.by(&tag.text);
    }
    if let Some(owner) = owner {
        on = on.owned_by(owner);
    }
    if let Some(guard) = guard {
        on = on.when(guard);
    }
    if wire.once {
        on = on.once();
    }
    match wire.cooldown {
        Some((span, true)) => on = on.cooldown_per_who(span),
        Some((span, false)) => on = on.cooldown(span),
        None => {}
    }
    on.run_steps(steps).map(|_| ())
}

fn unknown(kind: &'static str, name: &Name) -> Error {
    Error::UnknownName { kind, found: name.text.clone() }
}

/// The object of a name.
fn object<G: 'static>(world: &World<G>, name: &Name) -> Result<ObjectId, Error> {
    world.find(&name.text).ok_or_else(|| unknown("an object", name))
}

/// The signal of a path; `object.ready` comes into being when it is first asked for.
fn signal<G: 'static>(world: &mut World<G>, path: &Path) -> Result<Signal<Values>, Error> {
    if path.second.as_ref().is_some_and(|second| second.text == "ready") {
        let object = object(world, &path.first)?;
        world.ready_of(object)?;
    }
    let found = path.text();
    if world.find_signal(&found).is_none() {
        return Err(Error::UnknownName { kind: "a signal", found });
    }
    world.signal::<Values>(&found)
}

impl<G: 'static> Exprs<'_, G> {
    fn steps(&self, statements: &[Statement]) -> Result<Vec<Step>, Error> {
        statements.iter().map(|statement| self.step(statement)).collect()
    }

    fn step(&self, statement: &Statement) -> Result<Step, Error> {
        Ok(match statement {
            Statement::Command { command, target } => {
                let object = object(self.world, &target.first)?;
                let takes = |part: &&stoicheon_core::PartId| {
                    self.world.kind_of(**part).is_some_and(|kind| kind.command(&command.text).is_some())
                };
                let part = self.world.parts_of(object).iter().find(takes);
                let part = *part.ok_or_else(|| unknown("a command", command))?;
                let number = self.world.kind_of(part).and_then(|kind| kind.command(&command.text));
                Step::Command { part, command: number.unwrap_or_default() }
            }
            Statement::Wait(span) => Step::Wait(*span),
            Statement::Emit { signal, args } => {
                let found = signal.text();
                let id = self.world.find_signal(&found);
                let signal = id.ok_or(Error::UnknownName { kind: "a signal", found })?;
                Step::Emit { signal, values: self.exprs(args)? }
            }
            Statement::Perform { effect, args } => {
                let found = effect.text();
                let id = self.world.find_effect(&found);
                let effect = id.ok_or(Error::UnknownName { kind: "an effect", found })?;
                Step::Perform { effect, values: self.exprs(args)? }
            }
            Statement::Set { var, to } => {
                let id = self.world.find_var(&var.text());
                let var = id.ok_or_else(|| unknown("a variable", &var.first))?;
                Step::Set { var, to: self.expr(to)? }
            }
            Statement::Switch { object: path, on } => {
                let object = object(self.world, &path.first)?;
                if *on { Step::Enable(object) } else { Step::Disable(object) }
            }
            Statement::If { when, then, otherwise } => Step::If {
                when: self.expr(when)?,
                then: self.steps(then)?,
                otherwise: self.steps(otherwise)?,
            },
        })
    }

    fn exprs(&self, exprs: &[crate::model::Expr]) -> Result<Vec<Expr>, Error> {
        exprs.iter().map(|expr| self.expr(expr)).collect()
    }
}
