//! What objects and spots have: `gate.place`, `each lamp.lit`.

use smol_str::SmolStr;
use stoicheon_core::{Expr, Type};

use super::{Cx, Resolver, Ty, Typed, Which, typed};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Name, Path},
};

impl Resolver<'_, '_> {
    pub(super) fn part_of_spot(
        &mut self,
        found: Typed,
        path: &Path,
        rest: usize,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        let name = &path.0[rest];
        if cx.constant.is_none() && rest + 1 == path.0.len() {
            match name.text.as_str() {
                "place" => return typed(Ty::VECTOR, Expr::Place(Box::new(found.expr))),
                "facing" => {
                    return typed(Ty::Plain(Type::Rotation), Expr::Facing(Box::new(found.expr)));
                }
                _ => {}
            }
        }
        let message = format!("a spot has no `{}`", name.text);
        self.wrong(
            Diagnostic::error(Code::UnknownName, message)
                .at(name.span, "expected place or facing")
                .help("a spot has `place` and `facing`"),
        );
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
            "name" if !self.has_var(which, "name") => {
                typed(Ty::Plain(Type::Text), Expr::Name(Box::new(object)))
            }
            _ => {
                if let Which::One(one) = which
                    && let Some(spot) = self.names.objects[*one].spots.get(&name.text)
                {
                    let found = typed(Ty::Plain(Type::Spot), self.names.spots[*spot].id)?;
                    return match path.0.get(rest + 1) {
                        Some(_) => self.part_of_spot(found, path, rest + 1, cx),
                        None => Some(found),
                    };
                }
                if let Which::One(one) = which
                    && !self.names.objects[*one].vars.contains_key(&name.text)
                    && self.signal_of(*one, &name.text).is_some()
                {
                    let message = format!("expected a value, found `{}`, which is a signal", path.text());
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(path.span(), "no value")
                            .help("a wire listens to it: on … { … }"),
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
        found.as_ref()?;
        if let Some(extra) = path.0.get(rest + 1) {
            let message = format!("`{}` has nothing after it", name.text);
            self.wrong(Diagnostic::error(Code::UnknownName, message).at(extra.span, "not this"));
            return None;
        }
        found
    }

    /// Whether an object, or one of those it may be, has a variable of that name.
    fn has_var(&self, which: &Which, name: &str) -> bool {
        self.candidates(which).into_iter().any(|object| self.names.objects[object].vars.contains_key(name))
    }

    /// The type of a variable of an object, and which variable it is if that is known.
    pub(super) fn property_var(&mut self, which: &Which, name: &Name) -> Option<(Type, Option<usize>)> {
        if let Which::One(one) = which
            && let Some(var) = self.names.objects[*one].vars.get(&name.text)
        {
            return Some((self.names.vars[*var].ty.clone(), Some(*var)));
        }
        self.wanted_properties.insert(name.text.clone());
        let candidates = self.candidates(which);
        let mut found: Option<usize> = None;
        for object in &candidates {
            let Some(var) = self.names.objects[*object].vars.get(&name.text).copied() else { continue };
            let var_of = |var: usize| &self.names.vars[var];
            match found {
                Some(first) if var_of(first).ty != var_of(var).ty => {
                    let (one, two) = (var_of(first), var_of(var));
                    let message = format!("`{}` and `{}` are of different types", one.name, two.name);
                    let (at_one, at_two) = (one.span, two.span);
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(name.span, "which of them is not known here")
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
