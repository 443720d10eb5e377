//! What is done with a name where it stands: from the statements and clauses around it.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::{
    index::NameRole,
    model::{
        Among, Expr, ExprKind, File, Items, Object, Objects, Path, PlaytestStep, Statement, StatementKind,
        Step, Wire,
    },
    resolve::walk,
    source::Span,
};

/// By where a name stands; what is not among them is read.
#[derive(Debug, Default)]
pub(crate) struct Roles(FxHashMap<Span, NameRole>);

impl Roles {
    pub(crate) fn of(files: &[Arc<File>]) -> Self {
        let mut roles = Self::default();
        for file in files {
            roles.items(&file.items);
            file.kits.iter().filter(|kit| kit.made == 0).for_each(|kit| roles.items(&kit.items));
            for playtest in &file.playtests {
                playtest.given.iter().for_each(|given| roles.one(given.name.span, NameRole::Set));
                roles.steps(&playtest.steps);
            }
            file.given.iter().for_each(|given| roles.one(given.name.span, NameRole::Set));
        }
        roles
    }

    pub(crate) fn at(&self, span: Span) -> NameRole {
        self.0.get(&span).copied().unwrap_or(NameRole::Read)
    }

    fn one(&mut self, span: Span, role: NameRole) {
        self.0.insert(span, role);
    }

    fn path(&mut self, path: &Path, role: NameRole) {
        path.0.iter().for_each(|name| self.one(name.span, role));
    }

    fn items(&mut self, items: &Items) {
        self.wires(&items.wires);
        items.binds.iter().for_each(|bind| self.path(&bind.keep, NameRole::Set));
        items.routines.iter().for_each(|routine| self.statements(&routine.body));
        for used in &items.uses {
            self.one(used.kit.span, NameRole::Used);
            used.given.iter().for_each(|given| self.one(given.name.span, NameRole::Given));
        }
        let objects = items.objects.iter().chain(&items.managers).chain(&items.moulds);
        objects.for_each(|object| self.object(object));
    }

    fn object(&mut self, object: &Object) {
        object.tags.iter().for_each(|tag| self.one(tag.span, NameRole::Given));
        self.wires(&object.wires);
    }

    fn wires(&mut self, wires: &[Wire]) {
        for wire in wires {
            self.path(&wire.on, NameRole::Taken);
            self.statements(&wire.body);
        }
    }

    fn statements(&mut self, statements: &[Statement]) {
        walk(statements, &mut |statement| self.statement(statement));
    }

    fn statement(&mut self, statement: &Statement) {
        match &statement.kind {
            StatementKind::On(wire) => self.path(&wire.on, NameRole::Taken),
            StatementKind::Emit { signal, .. } => self.path(signal, NameRole::Sent),
            StatementKind::Perform { effect, .. } => self.path(effect, NameRole::Performed),
            StatementKind::Do { routine, .. } => self.path(routine, NameRole::Used),
            StatementKind::Set { target, .. } | StatementKind::Tween { target, .. } => {
                self.path(target.path(), NameRole::Set);
            }
            StatementKind::Spawn { mould, .. } => self.one(mould.span, NameRole::Used),
            StatementKind::Tell { who, .. }
            | StatementKind::Enable(who)
            | StatementKind::Disable(who)
            | StatementKind::Destroy(who) => self.commanded(who),
            StatementKind::Tag { tag, .. } => self.one(tag.span, NameRole::Given),
            _ => {}
        }
    }

    fn commanded(&mut self, who: &Objects) {
        match who {
            Objects::One(Expr { kind: ExprKind::Name(path), .. }) => self.path(path, NameRole::Commanded),
            Objects::Every(Among { of, .. }) => self.one(of.span, NameRole::Commanded),
            Objects::One(_) => {}
        }
    }

    fn steps(&mut self, steps: &[PlaytestStep]) {
        for step in steps {
            match &step.step {
                Step::Together(steps) => self.steps(steps),
                Step::Does(statement) => self.statement(statement),
                Step::Block(statements) => statements.iter().for_each(|statement| self.statement(statement)),
                _ => {}
            }
        }
    }
}
