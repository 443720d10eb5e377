//! Checking: every name against what is declared, every value against the type it needs.

mod expr;
mod names;
mod part;
mod playtest;
mod statement;
mod unused;

use stoicheon_core::Catalogue;

pub(crate) use names::{fields, nearest};
pub(crate) use part::read_settings;
pub(crate) use playtest::bare;

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Scene, Wire},
};
use names::{Found, Names, a};

/// Checks a whole scene.
pub(crate) fn check(scene: &Scene, catalogue: &Catalogue, diagnostics: &mut Vec<Diagnostic>) {
    let names = Names::of(scene, catalogue, diagnostics);
    let mut checker = Checker { names: &names, catalogue, diagnostics };
    for var in &scene.vars {
        checker.var(var);
    }
    for object in &scene.objects {
        for part in &object.parts {
            checker.part(part);
        }
    }
    for (wire, _) in scene.all_wires() {
        checker.wire(wire);
    }
    for rule in &scene.rules {
        checker.condition(rule, &[]);
    }
    for playtest in &scene.playtests {
        checker.playtest(playtest);
    }
    unused::check(scene, &names, diagnostics);
}

struct Checker<'a> {
    names: &'a Names,
    catalogue: &'a Catalogue,
    diagnostics: &'a mut Vec<Diagnostic>,
}

impl Checker<'_> {
    fn wire(&mut self, wire: &Wire) {
        let names = self.names;
        let Some(fields) = names.signal(&wire.signal) else {
            // Names cannot be told apart from fields of a signal nobody knows, so the rest would only add noise.
            return self.unknown_signal(&wire.signal);
        };
        for tag in &wire.filter {
            self.tag(tag);
        }
        if let Some(guard) = &wire.guard {
            self.condition(guard, fields);
        }
        self.statements(&wire.body, fields);
    }

    fn var(&mut self, var: &crate::model::Var) {
        let Some((ty, span)) = var.ty else { return };
        if let Some(found) = self.expr(&var.first, &[])
            && found != Found::Type(ty)
        {
            self.diagnostics.push(
                Diagnostic::error(
                    Code::WrongType,
                    format!(
                        "`{}` holds {}, its first value is {}",
                        var.name.text,
                        a(ty.word()),
                        a(found.word())
                    ),
                )
                .at(var.first.span, a(found.word()))
                .at(span, format!("declared as {} here", ty.word())),
            );
        }
    }
}
