//! Names that stand for values.

use smol_str::SmolStr;
use stoicheon_core::{Expr, Rotation, Type, Vec3};

use super::{
    Cx, Means, Rank, Resolver, Ty, Typed, Which,
    names::{Role, Thing},
    typed,
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Path},
    source::Span,
    suggest::a,
};

/// For those who write the loop's name where `it` is meant.
pub(super) const IT: &str = "in `where`, the one that is looked at is `it`: where it != who";

/// Which way the words for the points of the compass face.
fn compass(word: &str) -> Option<Rotation> {
    Some(match word {
        "north" => Rotation::NONE,
        "west" => Rotation::about(Vec3::Y, 90.0),
        "south" => Rotation::about(Vec3::Y, 180.0),
        "east" => Rotation::about(Vec3::Y, -90.0),
        _ => return None,
    })
}

impl<'m> Resolver<'m, '_> {
    /// A name, or names joined by dots, as a value.
    pub(super) fn value_named(&mut self, path: &Path, want: Option<&Type>, cx: &Cx<'_>) -> Option<Typed> {
        let mut rest = 1;
        let found = match self.special(path, want, cx) {
            Special::Found(found) => Some(found),
            Special::Wrong => return None,
            Special::No => None,
        };
        let found = match found {
            Some(found) => found,
            None => match self.begin(path, cx.scope) {
                Some((thing, used)) => {
                    rest = used;
                    self.thing_value(thing, path, used, cx)?
                }
                None => {
                    if let (Some(Type::OneOf(words)), Some(name)) = (want, path.single()) {
                        self.not_a_word(&name.text, words, name.span);
                    } else {
                        self.unknown_name(path, cx);
                    }
                    return None;
                }
            },
        };
        self.member(found, path, rest, cx)
    }

    /// What the names after that many of a path ask of a value.
    pub(super) fn member(&mut self, found: Typed, path: &Path, rest: usize, cx: &Cx<'_>) -> Option<Typed> {
        if rest == path.0.len() {
            return Some(found);
        }
        let span = path.first().span.to(path.0[rest - 1].span);
        let (which, object) = match found.ty {
            Ty::Object(which) => (which, found.expr),
            Ty::Plain(Type::Spot) => return self.part_of_spot(found, path, rest, cx),
            Ty::Plain(Type::Vector) => return self.component(found, path, rest),
            other => {
                let message = format!("expected an object before the dot, found {}", other.a());
                self.wrong(Diagnostic::error(Code::WrongType, message).at(span, other.a()));
                return None;
            }
        };
        self.property(&which, object, path, rest, cx)
    }

    /// Names that mean the same everywhere, and those of fields and of what a sequence keeps.
    fn special(&mut self, path: &Path, want: Option<&Type>, cx: &Cx<'_>) -> Special {
        let first = path.first();
        let word = &first.text;
        if path.single().is_some() {
            if let Some(Type::OneOf(words)) = want
                && words.contains(word)
            {
                return Special::Found(Typed {
                    ty: Ty::Plain(Type::OneOf(words.clone())),
                    expr: word.as_str().into(),
                });
            }
            match word.as_str() {
                "true" | "false" => {
                    return Special::Found(Typed { ty: Ty::BOOL, expr: (word == "true").into() });
                }
                "_" => {
                    return self.nobody(first.span, "`_` stands for anything, only in the pattern of a wire");
                }
                _ => {}
            }
            if *want.unwrap_or(&Type::Number) == Type::Rotation
                && let Some(facing) = compass(word)
            {
                return Special::Found(Typed { ty: Ty::Plain(Type::Rotation), expr: facing.into() });
            }
        }
        let found = match word.as_str() {
            "who" if cx.has_who => Some(Typed { ty: Ty::Object(Which::Unknown), expr: Expr::Who }),
            "who" => {
                return self.nobody(first.span, "`who` is known only where a signal is reacted to");
            }
            "it" => match &cx.it {
                Some((which, expr)) => Some(Typed { ty: Ty::Object(which.clone()), expr: expr.clone() }),
                None => {
                    let message = "`it` is known only in a wire on every one of a group, in `where` and in \
                                   `bind each`";
                    return self.nobody(first.span, message);
                }
            },
            "own" => match cx.owner {
                Some(owner) => Some(self.own_value(owner)),
                None => {
                    let message =
                        "`own` means the object whose braces these are; this stands in no object's braces";
                    return self.nobody(first.span, message);
                }
            },
            _ => None,
        };
        let local = || {
            let local = cx.locals.iter().rev().find(|local| local.name == *word)?;
            self.report.means(first.span, Rank::Local, local.declared);
            Some(Typed { ty: local.ty.clone(), expr: Expr::Local(local.number) })
        };
        let field = || {
            let index = cx.fields.iter().position(|field| field.name == *word)?;
            let number = u8::try_from(index).ok()?;
            for declared in cx.fields_of.iter() {
                self.report.notes.add(first.span, Rank::Local, || Means::Field(*declared, index));
            }
            Some(Typed { ty: Ty::of(&cx.fields[index].ty), expr: Expr::Field(number) })
        };
        let in_cast = || {
            if let Some((_, declared)) = cx.cast.iter().find(|(name, _)| name == word) {
                self.report.means(first.span, Rank::Local, *declared);
            }
        };
        let player = || {
            in_cast();
            let (_, id) = cx.players.iter().find(|(name, _)| name == word)?;
            Some(Typed { ty: Ty::Object(Which::Unknown), expr: Expr::from(*id) })
        };
        let case = || cx.cases.iter().find(|(name, _)| name == word).map(|(_, value)| value.clone());
        match found.or_else(local).or_else(field).or_else(player).or_else(case) {
            Some(_) if cx.constant.is_some() => {
                self.not_constant(first.span, cx.constant.unwrap_or_default());
                Special::Wrong
            }
            Some(found) => Special::Found(found),
            None => Special::No,
        }
    }

    /// The object whose braces these are: in a mould, each that is made after it.
    fn own_value(&self, owner: usize) -> Typed {
        let object = &self.names.objects[owner];
        if object.role == Role::Mould {
            return Typed { ty: Ty::Object(Which::Tagged(object.name.clone())), expr: Expr::Own };
        }
        Typed { ty: Ty::Object(Which::One(owner)), expr: Expr::from(object.id) }
    }

    fn nobody(&mut self, span: Span, message: &str) -> Special {
        self.wrong(Diagnostic::error(Code::Nobody, message).at(span, "means nothing here"));
        Special::Wrong
    }

    fn thing_value(&mut self, thing: Thing<'m>, path: &Path, used: usize, cx: &Cx<'_>) -> Option<Typed> {
        match thing {
            Thing::Object(object) => {
                let id = self.names.objects[object].id;
                typed(Ty::Object(Which::One(object)), id)
            }
            Thing::Spot(spot) => typed(Ty::Plain(Type::Spot), self.names.spots[spot].id),
            Thing::Constant(constant) => self.given(constant, cx.ids),
            Thing::Var(var) => {
                if let Some(what) = cx.constant {
                    self.not_constant(path.span(), what);
                    return None;
                }
                let known = &self.names.vars[var];
                if known.per_player {
                    self.whose(&path.text(), path.span(), known.span);
                    return None;
                }
                typed(Ty::of(&known.ty), Expr::Var(known.id))
            }
            Thing::Given { ty, value, scope } => {
                let inner = Cx { scope, owner: None, ..cx.clone() };
                let found = self.expr(value, Some(ty), &inner)?;
                if let (Ty::Object(which), Type::Object | Type::Player) = (&found.ty, ty) {
                    return typed(Ty::Object(which.clone()), found.expr);
                }
                match Self::fit(found, ty) {
                    Ok(expr) => typed(Ty::of(ty), expr),
                    Err(found) => {
                        let name = path.first();
                        let message = format!(
                            "the parameter `{}` is {}, found {}",
                            name.text,
                            a(ty.word()),
                            found.ty.a()
                        );
                        self.wrong(Diagnostic::error(Code::WrongType, message).at(value.span, found.ty.a()));
                        None
                    }
                }
            }
            Thing::Use(inner) => {
                let things = self.names.scopes[inner].things.keys();
                let names: Vec<_> = things.map(SmolStr::as_str).collect();
                let (help, span) = match path.0.get(used) {
                    Some(name) => (self.report.suggest(&name.text, "name", names.into_iter()), name.span),
                    None => (format!("it has: {}", names.join(", ")), path.span()),
                };
                let message = match path.0.get(used) {
                    Some(name) => format!("this use of a kit has no `{}`", name.text),
                    None => format!("`{}` is a use of a kit, not a value", path.text()),
                };
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message).at(span, "expected a value").help(help),
                );
                None
            }
        }
    }

    fn unknown_name(&mut self, path: &Path, cx: &Cx<'_>) {
        if cx.any_field {
            return;
        }
        let name = path.first();
        let mut known: Vec<&str> = cx.locals.iter().map(|local| local.name.as_str()).collect();
        known.extend(cx.fields.iter().map(|field| field.name.as_str()));
        known.extend(cx.players.iter().map(|(name, _)| name.as_str()));
        known.extend(self.visible(cx.scope, |_| true));
        let help = match self.meant_for_a_value(&name.text, cx) {
            Some(meant) => meant,
            None => self.report.suggest(&name.text, "value", known.into_iter()),
        };
        self.wrong(
            Diagnostic::error(Code::UnknownName, format!("there is no `{}`", path.text()))
                .at(path.span(), "expected a variable, a field of the signal or an object")
                .help(help),
        );
    }

    /// What somebody meant who writes a word where a value is wanted, if that is no slip of the pen.
    fn meant_for_a_value(&self, word: &str, cx: &Cx<'_>) -> Option<String> {
        let names = &self.names;
        if cx.loop_name.as_deref() == Some(word) {
            return Some(IT.to_owned());
        }
        if word.eq_ignore_ascii_case("true") || word.eq_ignore_ascii_case("false") {
            return Some(format!("write `{}`", word.to_lowercase()));
        }
        if self.is_a_state(word) {
            return Some(format!("test a state with `is`: upper_gate is {word}"));
        }
        let ends_so = |whole: &str| whole == word || whole.rsplit('.').next() == Some(word);
        let kind = if names.effects.iter().any(|effect| ends_so(&effect.name)) {
            "an effect"
        } else if names.signals.iter().any(|signal| ends_so(&signal.name)) {
            "a signal"
        } else {
            return None;
        };
        Some(format!(
            "`{word}` is {kind} and no value; that it comes is expected so: `expect {word}`, `expect {word} exactly 1`, `never {word}`"
        ))
    }

    /// Whether some kind of part can be in a state of that name.
    pub(super) fn is_a_state(&self, word: &str) -> bool {
        self.catalogue.parts().iter().any(|info| info.states.iter().any(|state| state == word))
    }

    /// `level of who`
    pub(super) fn var_of(&mut self, path: &Path, whose: &model::Expr, cx: &Cx<'_>) -> Option<Typed> {
        if let Some(found) = self.reading_of(path, whose, cx) {
            return found;
        }
        let var = self.player_var(path, cx)?;
        let found = self.expr(whose, Some(&Type::Player), cx)?;
        let (_, whose) = self.an_object(found, whose.span, "a player, such as `who`")?;
        let known = &self.names.vars[var];
        typed(Ty::of(&known.ty), Expr::VarOf(known.id, Box::new(whose)))
    }

    /// Reports that each player has one of something.
    pub(super) fn whose(&mut self, name: &str, span: Span, declared: Span) {
        self.wrong(
            Diagnostic::error(Code::Whose, format!("each player has a `{name}` of their own"))
                .at(span, "whose?")
                .at(declared, "declared here")
                .help(format!("name the player: {name} of who")),
        );
    }

    /// A variable that each player has; reported if it is none.
    pub(super) fn player_var(&mut self, path: &Path, cx: &Cx<'_>) -> Option<usize> {
        // One that a part keeps: `chased.count of who`.
        if let Some((Thing::Object(object), used)) = self.begin(path, cx.scope)
            && used + 1 == path.0.len()
            && let Some(var) = self.names.objects[object].vars.get(&path.split_last().0.text)
            && self.names.vars[*var].per_player
        {
            self.note_var(path.split_last().0.span, *var);
            return Some(*var);
        }
        match self.begin(path, cx.scope) {
            Some((Thing::Var(var), used)) if used == path.0.len() => {
                let written = &self.names.vars[var];
                if written.per_player {
                    return Some(var);
                }
                let message = format!("`{}` has one value for all, not one for each player", path.text());
                self.wrong(
                    Diagnostic::error(Code::Whose, message)
                        .at(path.span(), "no object here")
                        .at(written.span, "declared here")
                        .help("leave out `of …`, or add `per player` to the declaration"),
                );
                None
            }
            _ => {
                let known = self.visible(
                    cx.scope,
                    |thing| matches!(thing, Thing::Var(var) if self.names.vars[*var].per_player),
                );
                let help = self.report.suggest(&path.text(), "variable", known.into_iter());
                let message = format!("there is no variable `{}` per player", path.text());
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message)
                        .at(path.span(), "expected a variable")
                        .help(help),
                );
                None
            }
        }
    }
}

enum Special {
    Found(Typed),
    Wrong,
    No,
}
