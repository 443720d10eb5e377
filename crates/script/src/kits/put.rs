//! Puts names where the parameters of a kit stand.

use std::collections::BTreeMap;

use smol_str::SmolStr;
use stoicheon_core::{Catalogue, PartInfo};

use crate::{
    model::{
        Among, Atom, Expr, ExprKind, Items, Name, Object, Objects, ParamType, Parameter, Path, Statement,
        StatementKind, Target, Use, Where, Wire,
    },
    source::Span,
};

/// What stands for a parameter.
#[derive(Clone, Debug)]
pub(crate) enum Stands {
    Tags(Vec<Name>),
    Path(Path),
    Away(Path, Name),
}

/// What is put for which parameter, by what it is.
#[derive(Debug)]
pub(crate) struct Put<'c> {
    catalogue: &'c Catalogue,
    tags: BTreeMap<SmolStr, Vec<Name>>,
    signals: BTreeMap<SmolStr, Path>,
    effects: BTreeMap<SmolStr, Path>,
    moulds: BTreeMap<SmolStr, Path>,
    away: BTreeMap<SmolStr, (Path, Name)>,
    /// All of them as values, for uses of other kits.
    values: BTreeMap<SmolStr, Expr>,
}

impl<'c> Put<'c> {
    pub(crate) fn new(catalogue: &'c Catalogue) -> Self {
        Self {
            catalogue,
            tags: BTreeMap::new(),
            signals: BTreeMap::new(),
            effects: BTreeMap::new(),
            moulds: BTreeMap::new(),
            away: BTreeMap::new(),
            values: BTreeMap::new(),
        }
    }

    pub(crate) fn add(&mut self, parameter: &Parameter, span: Span, stands: Stands) {
        let name = parameter.name.text.clone();
        let named = |path: &Path| Expr { span, kind: ExprKind::Name(path.clone()) };
        let value = match stands {
            Stands::Tags(tags) => {
                let all = tags.iter().map(|tag| named(&Path(vec![tag.clone()])));
                let value = all.reduce(|one, two| {
                    let kind = ExprKind::Or(Box::new(one), Box::new(two));
                    Expr { span, kind }
                });
                self.tags.insert(name.clone(), tags);
                value
            }
            Stands::Path(path) => {
                let value = named(&path);
                let list = match parameter.ty.ty {
                    ParamType::Effect => &mut self.effects,
                    ParamType::Mould => {
                        // What is made after a mould has its name for a tag.
                        self.tags.extend(path.single().map(|tag| (name.clone(), vec![tag.clone()])));
                        &mut self.moulds
                    }
                    _ => &mut self.signals,
                };
                list.insert(name.clone(), path);
                Some(value)
            }
            Stands::Away(path, scene) => {
                let (object, not) = (Box::new(named(&path)), false);
                let value = Expr { span, kind: ExprKind::InScene { object, scene: scene.clone(), not } };
                self.away.insert(name.clone(), (path, scene));
                Some(value)
            }
        };
        self.values.extend(value.map(|value| (name, value)));
    }

    pub(crate) fn items(&self, items: &mut Items) {
        let objects = items.objects.iter_mut().chain(&mut items.managers).chain(&mut items.moulds);
        objects.for_each(|object| self.object(object));
        items.wires.iter_mut().for_each(|wire| self.wire(wire));
        for bind in &mut items.binds {
            if bind.each {
                self.first_tag(&mut bind.keep);
            }
            self.expr(&mut bind.to);
        }
        items.rules.iter_mut().for_each(|rule| self.expr(rule));
        items.routines.iter_mut().for_each(|routine| self.statements(&mut routine.body));
        items.vars.iter_mut().for_each(|var| self.expr(&mut var.first));
        items.uses.iter_mut().for_each(|used| self.used(used));
    }

    fn used(&self, used: &mut Use) {
        for given in &mut used.given {
            if let ExprKind::Name(path) = &given.value.kind
                && let Some(value) = path.single().and_then(|name| self.values.get(&name.text))
            {
                given.value = value.clone();
            } else {
                self.expr(&mut given.value);
            }
        }
    }

    fn object(&self, object: &mut Object) {
        self.tags(&mut object.tags);
        for part in &mut object.parts {
            self.atoms(&mut part.settings, self.catalogue.part(&part.kind.text));
        }
        object.vars.iter_mut().for_each(|var| self.expr(&mut var.first));
        object.wires.iter_mut().for_each(|wire| self.wire(wire));
    }

    /// A tag that stands for several becomes several.
    fn tags(&self, tags: &mut Vec<Name>) {
        let all = tags.iter().flat_map(|tag| match self.tags.get(&tag.text) {
            Some(given) => given.clone(),
            None => vec![tag.clone()],
        });
        *tags = all.collect();
    }

    /// A tag where only one can stand.
    fn tag(&self, tag: &mut Name) {
        if let Some(first) = self.tags.get(&tag.text).and_then(|tags| tags.first()) {
            *tag = first.clone();
        }
    }

    fn first_tag(&self, path: &mut Path) {
        if let Some(first) = path.0.first_mut() {
            self.tag(first);
        }
    }

    fn put_path(path: &mut Path, list: &BTreeMap<SmolStr, Path>) {
        if let Some(given) = path.single().and_then(|name| list.get(&name.text)) {
            *path = given.clone();
        }
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
                    if let Some(tags) = self.tags.get(&word.text) {
                        put.extend(tags.iter().cloned().map(Atom::Word));
                        continue;
                    }
                    if let Some(path) = self.signals.get(&word.text) {
                        put.push(Self::path_atom(path));
                        continue;
                    }
                    if let Some((path, scene)) = self.away.get(&word.text) {
                        let within = Name { span: word.span, text: "in".into() };
                        put.extend([Self::path_atom(path), Atom::Word(within), Atom::Word(scene.clone())]);
                        continue;
                    }
                }
                Atom::Value(Expr { kind: ExprKind::Name(path), .. }) if path.0.len() > 1 => {
                    self.first_tag(path);
                }
                Atom::Value(value) => self.expr(value),
                Atom::Group(group) => self.atoms(group, info),
            }
            put.push(atom);
        }
        *atoms = put;
    }

    fn path_atom(path: &Path) -> Atom {
        match path.single() {
            Some(name) => Atom::Word(name.clone()),
            None => Atom::Value(Expr { span: path.span(), kind: ExprKind::Name(path.clone()) }),
        }
    }

    fn wire(&self, wire: &mut Wire) {
        if wire.every {
            self.first_tag(&mut wire.on);
        } else {
            Self::put_path(&mut wire.on, &self.signals);
        }
        self.tags(&mut wire.by);
        wire.pattern.iter_mut().chain(&mut wire.when).for_each(|expr| self.expr(expr));
        self.statements(&mut wire.body);
    }

    fn among(&self, among: &mut Among) {
        self.tag(&mut among.of);
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

    fn statements(&self, statements: &mut [Statement]) {
        statements.iter_mut().for_each(|statement| self.statement(&mut statement.kind));
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
            StatementKind::Emit { signal, values, behalf } => {
                Self::put_path(signal, &self.signals);
                values.iter_mut().chain(behalf).for_each(|expr| self.expr(expr));
            }
            StatementKind::Perform { effect, values, behalf } => {
                Self::put_path(effect, &self.effects);
                values.iter_mut().chain(behalf).for_each(|expr| self.expr(expr));
            }
            StatementKind::On(wire) => self.wire(wire),
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
            StatementKind::Spawn { mould, at, .. } => {
                if let Some(name) = self.moulds.get(&mould.text).and_then(Path::single) {
                    *mould = name.clone();
                }
                self.expr(at);
            }
            StatementKind::Send { who, spot, scene } => {
                self.objects(who);
                match spot {
                    Where::Named(path) => {
                        let given = path.single().and_then(|name| self.away.get(&name.text)).cloned();
                        if let Some((path, away)) = given {
                            (*spot, *scene) = (Where::Named(path), Some(away));
                        }
                    }
                    Where::Held(value) => self.expr(value),
                }
            }
            StatementKind::Tag { who, tag, .. } => {
                self.objects(who);
                self.tag(tag);
            }
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
            StatementKind::Stop => {}
        }
    }

    fn expr(&self, expr: &mut Expr) {
        match &mut expr.kind {
            ExprKind::Literal(_) | ExprKind::Name(_) | ExprKind::Last(_) | ExprKind::Bad => {}
            ExprKind::Of(_, one) | ExprKind::About(one, _) | ExprKind::Not(one) | ExprKind::Negate(one) => {
                self.expr(one);
            }
            ExprKind::Is { subject: one, .. } | ExprKind::InScene { object: one, .. } => self.expr(one),
            ExprKind::Tagged { object, tag, .. } | ExprKind::Carries { object, tag, .. } => {
                self.tag(tag);
                self.expr(object);
            }
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
