//! Puts names where the parameters of a kit stand.

use smol_str::SmolStr;
use stoicheon_core::{Catalogue, PartInfo};

use super::names::Names;
use crate::model::{
    Among, Atom, Expr, ExprKind, Items, Name, Object, Objects, Path, Statement, StatementKind, Target, Use,
    Where, Wire,
};

/// Puts what is given into what a kit is made of.
#[derive(Debug)]
pub(crate) struct Put<'c> {
    catalogue: &'c Catalogue,
    pub(crate) names: Names,
}

impl<'c> Put<'c> {
    pub(crate) fn new(catalogue: &'c Catalogue) -> Self {
        Self { catalogue, names: Names::default() }
    }

    pub(crate) fn items(&self, items: &mut Items) {
        let objects = items.objects.iter_mut().chain(&mut items.managers).chain(&mut items.moulds);
        objects.for_each(|object| self.object(object));
        self.wires(&mut items.wires);
        for bind in &mut items.binds {
            if bind.each {
                self.names.first_tag(&mut bind.keep);
            }
            self.expr(&mut bind.to);
        }
        items.rules.iter_mut().for_each(|rule| self.expr(rule));
        items.routines.iter_mut().for_each(|routine| self.statements(&mut routine.body));
        items.vars.iter_mut().for_each(|var| self.expr(&mut var.first));
        items.uses.iter_mut().for_each(|used| self.used(used));
    }

    fn used(&self, used: &mut Use) {
        used.given.iter_mut().for_each(|given| self.passed_on(&mut given.value));
    }

    /// What is given to another kit: a parameter, also as one of several.
    fn passed_on(&self, value: &mut Expr) {
        match &mut value.kind {
            ExprKind::Name(path) if path.single().is_some() => {
                if let Some(given) = self.names.value(path.first()) {
                    *value = given;
                } else {
                    self.expr(value);
                }
            }
            ExprKind::Or(one, two) => {
                self.passed_on(one);
                self.passed_on(two);
            }
            _ => self.expr(value),
        }
    }

    fn object(&self, object: &mut Object) {
        self.names.tags(&mut object.tags);
        for part in &mut object.parts {
            self.atoms(&mut part.settings, self.catalogue.part(&part.kind.text));
        }
        object.vars.iter_mut().for_each(|var| self.expr(&mut var.first));
        self.wires(&mut object.wires);
    }

    fn atoms(&self, atoms: &mut Vec<Atom>, info: Option<&PartInfo>) {
        let mut put: Vec<Atom> = Vec::with_capacity(atoms.len());
        // The name of a setting stays as it is; right after it, the same word is what is given: `admits admits`.
        let mut named: Option<SmolStr> = None;
        for mut atom in std::mem::take(atoms) {
            let is_name = |word: &Name| info.is_some_and(|info| info.setting(&word.text).is_some());
            let setting = match &atom {
                Atom::Word(word) if is_name(word) && named.as_ref() != Some(&word.text) => {
                    Some(word.text.clone())
                }
                _ => None,
            };
            named.clone_from(&setting);
            if setting.is_some() {
                put.push(atom);
                continue;
            }
            match &mut atom {
                Atom::Word(word) => {
                    if let Some(words) = self.names.words(word) {
                        put.extend(words);
                        continue;
                    }
                }
                Atom::Value(Expr { kind: ExprKind::Name(path), .. }) if path.0.len() > 1 => {
                    self.names.first_tag(path);
                }
                Atom::Value(value) => self.expr(value),
                Atom::Group(group) => self.atoms(group, info),
            }
            put.push(atom);
        }
        *atoms = put;
    }

    /// A wire to a signal that stands for several becomes several.
    fn wires(&self, wires: &mut Vec<Wire>) {
        let all = std::mem::take(wires);
        wires.extend(all.into_iter().flat_map(|wire| self.wires_of(wire)));
    }

    fn wires_of(&self, mut wire: Wire) -> Vec<Wire> {
        let signals = if wire.every {
            self.names.first_tag(&mut wire.on);
            None
        } else {
            self.names.signals(&wire.on)
        };
        self.wire(&mut wire);
        match signals {
            Some(signals) => signals.iter().map(|on| Wire { on: on.clone(), ..wire.clone() }).collect(),
            None => vec![wire],
        }
    }

    fn wire(&self, wire: &mut Wire) {
        self.names.tags(&mut wire.by);
        wire.pattern.iter_mut().chain(&mut wire.when).for_each(|expr| self.expr(expr));
        self.statements(&mut wire.body);
    }

    fn among(&self, among: &mut Among) {
        self.names.one_tag(&mut among.of);
        among.such_that.iter_mut().for_each(|expr| self.expr(expr));
    }

    fn objects(&self, objects: &mut Objects) {
        match objects {
            Objects::One(expr) => self.expr(expr),
            Objects::Every(among) => self.among(among),
        }
    }

    fn target(&self, target: &mut Target) {
        if let Target::Of(_, whose) = target {
            self.expr(whose);
        }
    }

    /// A statement about a name that stands for several becomes several.
    fn statements(&self, statements: &mut Vec<Statement>) {
        for mut statement in std::mem::take(statements) {
            self.statement(&mut statement.kind);
            let several = self.several(&mut statement.kind);
            if several.is_empty() {
                statements.push(statement);
            } else {
                statements.extend(several.into_iter().map(|kind| Statement { kind, ..statement.clone() }));
            }
        }
    }

    /// The same statement for each of what a name in it stands for; none if it is no parameter.
    fn several(&self, kind: &mut StatementKind) -> Vec<StatementKind> {
        match kind {
            StatementKind::Emit { signal, values, behalf } => {
                let with = |signal: &Path| StatementKind::Emit {
                    signal: signal.clone(),
                    values: values.clone(),
                    behalf: behalf.clone(),
                };
                self.names.signals(signal).unwrap_or_default().iter().map(with).collect()
            }
            StatementKind::Perform { effect, values, behalf } => {
                let with = |effect: &Path| StatementKind::Perform {
                    effect: effect.clone(),
                    values: values.clone(),
                    behalf: behalf.clone(),
                };
                self.names.effects(effect).unwrap_or_default().iter().map(with).collect()
            }
            StatementKind::Spawn { mould, at, name } => {
                let moulds = self.names.moulds(mould, name.is_some());
                let with = |mould: Name| StatementKind::Spawn { mould, at: at.clone(), name: name.clone() };
                moulds.into_iter().map(with).collect()
            }
            StatementKind::Tag { who, tag, away } => {
                let mut tags = vec![tag.clone()];
                self.names.tags(&mut tags);
                let with = |tag: Name| StatementKind::Tag { who: who.clone(), tag, away: *away };
                tags.into_iter().map(with).collect()
            }
            StatementKind::On(wire) => {
                let wires = self.wires_of(Wire::clone(wire)).into_iter();
                wires.map(|wire| StatementKind::On(Box::new(wire))).collect()
            }
            _ => Vec::new(),
        }
    }

    fn statement(&self, kind: &mut StatementKind) {
        match kind {
            StatementKind::Tell { who, args, .. } => {
                self.objects(who);
                args.iter_mut().for_each(|arg| self.expr(&mut arg.value));
            }
            StatementKind::Wait(expr) | StatementKind::Keep { value: expr, .. } => self.expr(expr),
            StatementKind::Until { condition, within, otherwise } => {
                std::iter::once(condition).chain(within).for_each(|expr| self.expr(expr));
                self.statements(otherwise);
            }
            StatementKind::Emit { values, behalf, .. } | StatementKind::Perform { values, behalf, .. } => {
                values.iter_mut().chain(behalf).for_each(|expr| self.expr(expr));
            }
            StatementKind::Do { values, .. } => values.iter_mut().for_each(|expr| self.expr(expr)),
            StatementKind::Set { target, to, .. } => {
                self.target(target);
                self.expr(to);
            }
            StatementKind::Tween { target, to, over, .. } => {
                self.target(target);
                self.expr(to);
                self.expr(over);
            }
            StatementKind::Enable(who) | StatementKind::Disable(who) | StatementKind::Destroy(who) => {
                self.objects(who);
            }
            StatementKind::Spawn { at, .. } => self.expr(at),
            StatementKind::Send { who, spot, scene } => {
                self.objects(who);
                match spot {
                    Where::Named(path) => {
                        if let Some((path, away)) = self.names.away(path) {
                            (*spot, *scene) = (Where::Named(path), Some(away));
                        }
                    }
                    Where::Held(value) => self.expr(value),
                }
            }
            StatementKind::Tag { who, .. } => self.objects(who),
            StatementKind::If { when, then, otherwise } => {
                self.expr(when);
                self.statements(then);
                self.statements(otherwise);
            }
            StatementKind::Repeat { times: expr, body }
            | StatementKind::RepeatWhile { condition: expr, body } => {
                self.expr(expr);
                self.statements(body);
            }
            StatementKind::ForEach { among, body, .. } => {
                self.among(among);
                self.statements(body);
            }
            StatementKind::ForEachCell { of, body, .. } => {
                of.iter_mut().for_each(|expr| self.expr(expr));
                self.statements(body);
            }
            // What these say is put when they become several.
            StatementKind::On(_) | StatementKind::Stop => {}
        }
    }

    fn expr(&self, expr: &mut Expr) {
        if let ExprKind::Name(path) = &expr.kind
            && let Some((spot, scene)) = self.names.away(path)
        {
            let object = Box::new(Expr { span: expr.span, kind: ExprKind::Name(spot) });
            expr.kind = ExprKind::InScene { object, scene, not: false };
            // The spot may be called as the parameter is.
            return;
        }
        if let Some(several) = self.names.tested(expr) {
            *expr = several;
        }
        match &mut expr.kind {
            ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Last(_) | ExprKind::Bad => {}
            ExprKind::Of(_, one) | ExprKind::About(one, _) | ExprKind::Not(one) | ExprKind::Negate(one) => {
                self.expr(one);
            }
            ExprKind::Is { subject: one, .. }
            | ExprKind::InScene { object: one, .. }
            | ExprKind::Tagged { object: one, .. }
            | ExprKind::Carries { object: one, .. } => self.expr(one),
            ExprKind::Inside { body, span, .. } => {
                self.expr(body);
                span.iter_mut().for_each(|span| self.expr(span));
            }
            ExprKind::Call(_, parts) | ExprKind::Vector(parts) | ExprKind::Text(parts) => {
                parts.iter_mut().for_each(|part| self.expr(part));
            }
            ExprKind::Count(among) | ExprKind::Quantity(_, among) => self.among(among),
            ExprKind::Nearest(among, to) => {
                self.among(among);
                to.iter_mut().for_each(|to| self.expr(to));
            }
            ExprKind::And(one, two)
            | ExprKind::Or(one, two)
            | ExprKind::Compare(_, one, two)
            | ExprKind::Arithmetic(_, one, two) => {
                self.expr(one);
                self.expr(two);
            }
        }
    }
}
