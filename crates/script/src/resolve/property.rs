//! What objects and spots have: `gate.place`, `each lamp.lit`.

use smol_str::SmolStr;
use stoicheon_core::{Axis, Expr, Type};

use super::{Cx, Rank, Resolver, Ty, Typed, Which, typed};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Name, Path},
};

const REST: &str = "leave out what comes after the dot";

impl Resolver<'_, '_> {
    pub(super) fn part_of_spot(
        &mut self,
        found: Typed,
        path: &Path,
        rest: usize,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        let name = &path.0[rest];
        if cx.constant.is_none() {
            let object = Box::new(found.expr);
            let found = match name.text.as_str() {
                "place" => typed(Ty::VECTOR, Expr::Place(object)),
                "forward" => typed(Ty::VECTOR, Expr::Forward(object)),
                "facing" => typed(Ty::Plain(Type::Rotation), Expr::Facing(object)),
                _ => None,
            };
            if let Some(found) = found {
                return self.component(found, path, rest + 1);
            }
        }
        let message = format!("a spot has no `{}`", name.text);
        self.wrong(
            Diagnostic::error(Code::UnknownName, message)
                .at(name.span, "expected place or facing")
                .help("a spot has `place`, `facing` and `forward`"),
        );
        None
    }

    /// What may come after the dot of a vector; nothing comes after other values.
    pub(super) fn component(&mut self, found: Typed, path: &Path, rest: usize) -> Option<Typed> {
        let Some(name) = path.0.get(rest) else { return Some(found) };
        let axis = Axis::ALL.into_iter().find(|axis| axis.word() == name.text);
        if let (Some(axis), Ty::Plain(Type::Vector), None) = (axis, &found.ty, path.0.get(rest + 1)) {
            return typed(Ty::NUMBER, Expr::Component(Box::new(found.expr), axis));
        }
        let before = Path(path.0[..rest].to_vec()).text();
        let (message, help) = match &found.ty {
            Ty::Plain(Type::Vector) if axis.is_none() => {
                (format!("`{before}` is a vector and has no `{}`", name.text), "a vector has x, y and z")
            }
            Ty::Plain(Type::Vector) => {
                let whole = format!("{before}.{}", name.text);
                (format!("`{whole}` is {} and has nothing after it", Ty::NUMBER.a()), REST)
            }
            other => (format!("`{before}` is {} and has nothing after it", other.a()), REST),
        };
        let extra = path.0.last().unwrap_or(name);
        self.wrong(Diagnostic::error(Code::UnknownName, message).at(extra.span, "not this").help(help));
        None
    }

    /// What comes after the dot of an object.
    pub(super) fn property(
        &mut self,
        which: &Which,
        object: Expr,
        path: &Path,
        rest: usize,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        let name = &path.0[rest];
        if let Some(what) = cx.constant
            && !matches!(which, Which::One(object) if self.names.objects[*object].spots.contains_key(&name.text))
        {
            self.not_constant(path.span(), what);
            return None;
        }
        let found = match name.text.as_str() {
            "place" => typed(Ty::VECTOR, Expr::Place(Box::new(object))),
            "facing" => typed(Ty::Plain(Type::Rotation), Expr::Facing(Box::new(object))),
            "velocity" => typed(Ty::VECTOR, Expr::Velocity(Box::new(object))),
            "forward" if !self.has_var(which, "forward") => {
                typed(Ty::VECTOR, Expr::Forward(Box::new(object)))
            }
            "name" if !self.has_var(which, "name") => {
                typed(Ty::Plain(Type::Text), Expr::Name(Box::new(object)))
            }
            _ => {
                if let Which::One(one) = which
                    && let Some(spot) = self.names.objects[*one].spots.get(&name.text)
                {
                    self.report.means(name.span, Rank::Thing, self.names.spots[*spot].written.name.span);
                    let found = typed(Ty::Plain(Type::Spot), self.names.spots[*spot].id)?;
                    return match path.0.get(rest + 1) {
                        Some(_) => self.part_of_spot(found, path, rest + 1, cx),
                        None => Some(found),
                    };
                }
                if !self.has_var(which, &name.text)
                    && let Some(found) = self.reading(which, &object, (path, rest), None, cx)
                {
                    let (found, used) = found?;
                    return self.component(found, path, rest + used);
                }
                let gives = |object: &usize| self.signal_of(*object, &name.text).is_some();
                if !self.has_var(which, &name.text) && self.candidates(which).iter().any(gives) {
                    let message = format!("expected a value, found `{}`, which is a signal", path.text());
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(path.span(), "no value")
                            .help(format!("a wire listens to it: on {} {{ … }}", path.text())),
                    );
                    return None;
                }
                let (ty, var) = self.property_var(which, name)?;
                let expr = match var {
                    Some(var) if self.names.vars[var].per_player => {
                        let known = &self.names.vars[var];
                        if !cx.has_who {
                            self.whose(&path.text(), path.span(), known.span);
                            return None;
                        }
                        Expr::VarOf(known.id, Box::new(Expr::Who))
                    }
                    Some(var) => Expr::Var(self.names.vars[var].id),
                    None => Expr::Property { object: Box::new(object), name: cx.ids.property(&name.text) },
                };
                typed(Ty::of(&ty), expr)
            }
        };
        self.component(found?, path, rest + 1)
    }

    /// Whether an object, or one of those it may be, has a variable of that name.
    pub(super) fn has_var(&self, which: &Which, name: &str) -> bool {
        self.candidates(which).into_iter().any(|object| self.names.objects[object].vars.contains_key(name))
    }

    /// The type of a variable of an object, and which variable it is if that is known.
    pub(super) fn property_var(&mut self, which: &Which, name: &Name) -> Option<(Type, Option<usize>)> {
        if let Which::One(one) = which
            && let Some(var) = self.names.objects[*one].vars.get(&name.text)
        {
            self.note_var(name.span, *var);
            return Some((self.names.vars[*var].ty.clone(), Some(*var)));
        }
        self.wanted_properties.insert(name.text.clone());
        let candidates = self.candidates(which);
        let mut found: Option<usize> = None;
        for object in &candidates {
            let Some(var) = self.names.objects[*object].vars.get(&name.text).copied() else { continue };
            self.note_var(name.span, var);
            let var_of = |var: usize| &self.names.vars[var];
            match found {
                Some(first) if var_of(first).ty != var_of(var).ty => {
                    let (one, two) = (var_of(first), var_of(var));
                    let message = format!("`{}` and `{}` are of different types", one.name, two.name);
                    let (at_one, at_two) = (one.span, two.span);
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(name.span, "several objects: which one is not known here")
                            .at(at_one, "the one")
                            .at(at_two, "the other"),
                    );
                    return None;
                }
                Some(_) => {}
                None => found = Some(var),
            }
        }
        if let Some(found) = found {
            return Some((self.names.vars[found].ty.clone(), None));
        }
        let help = match which {
            Which::One(one) if self.is_a_state(&name.text) => {
                let object = &self.names.objects[*one].name;
                let state = &name.text;
                format!(
                    "a state is asked for with `{object} is {state}`, and changed by a command, such as `open {object}`"
                )
            }
            _ => {
                let known = candidates.iter().flat_map(|object| self.names.objects[*object].vars.keys());
                let known = known.map(SmolStr::as_str).chain(["place", "facing"]);
                self.report.suggest(&name.text, "variable", known)
            }
        };
        let message = match which {
            Which::One(one) => {
                format!("`{}` has no variable `{}`", self.names.objects[*one].name, name.text)
            }
            Which::Tagged(tag) => format!("nothing tagged `{tag}` has a variable `{}`", name.text),
            Which::Unknown => format!("no object has a variable `{}`", name.text),
        };
        self.wrong(
            Diagnostic::error(Code::UnknownName, message).at(name.span, "expected a variable").help(help),
        );
        None
    }
}
