//! What statements set: variables, those of objects and players, places.

use stoicheon_core::{Axis, Ease, Step, Target, Type};

use super::{
    Cx, Rank, Resolver, Ty, Which,
    expr::as_number,
    keeps::{Keeps, Pose},
    names::Thing,
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Name, Path},
    source::Span,
    suggest::a,
};

impl Resolver<'_, '_> {
    /// What a statement sets, and the type of it.
    fn target(&mut self, target: &model::Target, cx: &Cx<'_>) -> Option<(Target, Type)> {
        let path = match target {
            model::Target::Of(path, whose) => {
                let var = self.player_var(path, cx)?;
                self.not_bound(var, path.span())?;
                let (id, ty) = (self.names.vars[var].id, self.names.vars[var].ty.clone());
                if let ExprKind::Name(name) = &whose.kind
                    && name.text() == "everyone"
                {
                    return Some((Target::Var(id), ty));
                }
                let found = self.expr(whose, Some(&Type::Player), cx)?;
                let (_, whose) = self.an_object(found, whose.span, "a player, such as `who`")?;
                return Some((Target::VarOf(id, whose), ty));
            }
            model::Target::Name(path) => path,
        };
        if let Some(name) = path.single() {
            if let Some(local) = cx.locals.iter().rev().find(|local| local.name == name.text) {
                let ty = match &local.ty {
                    Ty::Plain(ty) => ty.clone(),
                    Ty::Angle => Type::Number,
                    Ty::Object(_) => Type::Object,
                };
                self.report.means(name.span, Rank::Local, local.declared);
                return Some((Target::Local(local.number), ty));
            }
            match self.begin(path, cx.scope) {
                Some((Thing::Var(var), _)) => {
                    self.not_bound(var, path.span())?;
                    let known = &self.names.vars[var];
                    let (id, ty, each) = (known.id, known.ty.clone(), known.per_player);
                    if each {
                        let text = path.text();
                        let declared = known.span;
                        let message = format!("each player has a `{text}` of their own");
                        self.wrong(
                            Diagnostic::error(Code::Whose, message)
                                .at(path.span(), "whose?")
                                .at(declared, "declared here")
                                .help(format!("name the player: {text} of who, or {text} of everyone")),
                        );
                        return None;
                    }
                    return Some((Target::Var(id), ty));
                }
                _ => {
                    self.no_variable(path, cx);
                    return None;
                }
            }
        }
        self.property_target(path, cx)
    }

    fn no_variable(&mut self, path: &Path, cx: &Cx<'_>) {
        let mut known: Vec<_> = cx.locals.iter().map(|local| local.name.as_str()).collect();
        known.extend(self.visible(cx.scope, |thing| matches!(thing, Thing::Var(_))));
        let text = path.text();
        let help = match &*text {
            "place" | "facing" | "velocity" => format!("name the object: who.{text}, upper_gate.{text}"),
            _ if matches!(self.begin(path, cx.scope), Some((Thing::Constant(_), _))) => {
                format!(
                    "`{text}` is given, and stays as it is while the world runs: keep what changes in a `var`"
                )
            }
            _ if self.object_named(path, cx).is_some() => {
                format!(
                    "`{text}` is an object: give it a command, such as `open {text}`, or set a variable of it, `{text}.lit`"
                )
            }
            _ => self.report.suggest(&text, "variable", known.into_iter()),
        };
        self.wrong(
            Diagnostic::error(Code::UnknownName, format!("there is no variable `{}`", path.text()))
                .at(path.span(), "expected a variable")
                .help(help),
        );
    }

    /// `lamp.lit`, `it.lit`, `ferry.place`, `weir.level`
    fn property_target(&mut self, path: &Path, cx: &Cx<'_>) -> Option<(Target, Type)> {
        if let Some((Thing::Var(var), used)) = self.begin(path, cx.scope)
            && used == path.0.len()
        {
            self.not_bound(var, path.span())?;
            return Some((Target::Var(self.names.vars[var].id), self.names.vars[var].ty.clone()));
        }
        if let Some(found) = self.setting_target(path, cx) {
            let (part, target, ty, name) = found?;
            if let Some((object, part)) = part.at {
                self.thing_not_bound(&Keeps::Setting { object, part, name }, path)?;
            }
            return Some((target, ty));
        }
        let (name, before) = path.split_last();
        let before = Path(before.to_vec());
        let object = model::Expr { span: before.span(), kind: ExprKind::Name(before) };
        if let Some(found) = self.quietly(|r| r.expr(&object, None, cx))
            && let Ty::Plain(_) | Ty::Angle = found.ty
        {
            self.component(found, path, path.0.len() - 1);
            return None;
        }
        let (which, object) = self.one_object(&object, cx)?;
        match name.text.as_str() {
            word @ ("place" | "facing") => {
                let is_place = word == "place";
                let pose = if is_place { Pose::Place } else { Pose::Facing };
                if let Which::One(object) = which {
                    self.thing_not_bound(&Keeps::Pose(Ok(object), pose), path)?;
                }
                return Some(if is_place {
                    (Target::Place(object), Type::Vector)
                } else {
                    (Target::Facing(object), Type::Rotation)
                });
            }
            "velocity" => return Some((Target::Velocity(object), Type::Vector)),
            _ => {}
        }
        let (ty, var) = self.property_var(&which, name)?;
        let candidates: Vec<usize> = match var {
            Some(var) => vec![var],
            None => {
                let members = self.candidates(&which);
                let vars = members.iter().map(|object| self.names.objects[*object].vars.get(&name.text));
                vars.flatten().copied().collect()
            }
        };
        // Of one of several, it is known only then which it is: where some can be set, that is not wrong.
        let is_kept = |var: &usize| {
            let known = &self.names.vars[*var];
            known.kept_by.is_some() || known.bound.is_some()
        };
        if let Some(first) = candidates.first()
            && candidates.iter().all(is_kept)
        {
            self.not_bound(*first, path.span())?;
        }
        let target = match var {
            Some(var) => Target::Var(self.names.vars[var].id),
            None => Target::Property(object, cx.ids.property(&name.text)),
        };
        Some((target, ty))
    }

    fn thing_not_bound(&mut self, thing: &Keeps, path: &Path) -> Option<()> {
        let Some((_, bound)) = self.names.kept_things.iter().find(|(known, _)| known == thing) else {
            return Some(());
        };
        let message = format!("`{}` is kept by a bind", path.text());
        let diagnostic = Diagnostic::error(Code::Bound, message)
            .at(path.span(), "cannot be set")
            .at(*bound, "kept here")
            .help("set what the bind reads instead");
        self.wrong(diagnostic);
        None
    }

    pub(super) fn not_bound(&mut self, var: usize, span: Span) -> Option<()> {
        let known = &self.names.vars[var];
        if let Some(info) = known.kept_by {
            let message = format!("`{}` is kept by a {}", known.name, info.name);
            let commands: Vec<_> = info.commands.iter().map(|command| command.name.as_str()).collect();
            let help = format!("command it; a {} takes: {}", info.name, commands.join(", "));
            let diagnostic = Diagnostic::error(Code::Bound, message).at(span, "cannot be set");
            self.wrong(diagnostic.at(known.span, "kept here").help(help));
            return None;
        }
        let Some(bound) = known.bound else { return Some(()) };
        let message = format!("`{}` is kept by a bind", known.name);
        self.wrong(
            Diagnostic::error(Code::Bound, message)
                .at(span, "cannot be set")
                .at(bound, "kept here")
                .help("set what the bind reads instead"),
        );
        None
    }

    /// Whether what is set is an object whose part turns to one of its words.
    fn turns(&self, target: &model::Target, cx: &Cx<'_>) -> bool {
        let object = self.object_named(target.path(), cx);
        object.is_some_and(|object| self.part_that_takes(object, "turn").is_some())
    }

    /// `errand = hunting`, `errand of everyone = stranger`: a command to turn to one of its words.
    fn turn_to(&mut self, target: &model::Target, to: &model::Expr, cx: &mut Cx<'_>) -> Option<Step> {
        let path = target.path();
        let name = |text: &str, span| Name::new(text, span);
        let mut args = vec![model::Arg { name: name("to", to.span), value: to.clone() }];
        if let model::Target::Of(_, whose) = target {
            args.push(model::Arg { name: name("for", whose.span), value: whose.clone() });
        }
        let who = model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
        self.tell(&name("turn", path.span()), &model::Objects::One(who), &args, cx)
    }

    pub(super) fn set(
        &mut self,
        target: &model::Target,
        with: Option<model::Sign>,
        to: &model::Expr,
        span: Span,
        cx: &mut Cx<'_>,
    ) -> Option<Step> {
        if let Some((whole, to)) = self.component_set(target, with, to, cx) {
            return self.set(&whole, None, &to, span, cx);
        }
        if with.is_none() && self.turns(target, cx) {
            return self.turn_to(target, to, cx);
        }
        let found = self.target(target, cx);
        // `gate = open` is one slip and not two.
        if found.is_none()
            && self.object_named(target.path(), cx).is_some()
            && matches!(&to.kind, ExprKind::Name(word) if self.is_a_state(&word.text()))
        {
            return None;
        }
        let value = match with {
            // What is added to must be read first, as the same target.
            Some(sign) => {
                let here = match target {
                    model::Target::Name(path) => ExprKind::Name(path.clone()),
                    model::Target::Of(path, whose) => {
                        if matches!(&whose.kind, ExprKind::Name(name) if name.text() == "everyone") {
                            let message = "a variable of everyone can be set, but not changed with `+=`";
                            self.wrong(
                                Diagnostic::error(Code::Whose, message)
                                    .at(whose.span, "not one value")
                                    .help("for each player in everyone { … of player += … }"),
                            );
                            return None;
                        }
                        ExprKind::Of(path.clone(), Box::new(whose.clone()))
                    }
                };
                let here = model::Expr { span: target.path().span(), kind: here };
                let kind = ExprKind::Arithmetic(sign.into(), Box::new(here), Box::new(to.clone()));
                model::Expr { span, kind }
            }
            None => to.clone(),
        };
        let Some((found, ty)) = found else {
            // What is wrong with the value is told too.
            self.expr(to, None, cx);
            return None;
        };
        let name = target.path().text();
        let declared = self.declared(target.path(), cx);
        let wrong = |found: &str| {
            let message = format!("`{name}` holds {}, found {found}", a(ty.word()));
            let diagnostic = Diagnostic::error(Code::WrongType, message).at(to.span, found);
            match declared {
                Some(at) => diagnostic.at(at, "declared here"),
                None => diagnostic,
            }
        };
        let to = self.value_for(&value, &ty, cx, wrong)?;
        Some(Step::Set { target: found, to })
    }

    /// `who.velocity.y = 6` sets the whole vector and leaves the rest of it: what is set then, and to what.
    fn component_set(
        &mut self,
        target: &model::Target,
        with: Option<model::Sign>,
        to: &model::Expr,
        cx: &Cx<'_>,
    ) -> Option<(model::Target, model::Expr)> {
        let model::Target::Name(path) = target else { return None };
        let (last, before) = path.split_last();
        let axis = Axis::ALL.into_iter().find(|axis| axis.word() == last.text)?;
        let whole = Path(before.to_vec());
        if before.is_empty() {
            return None;
        }
        // A variable may be called so, too.
        let value = |path: &Path| model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
        let ty = self.quietly(|r| r.expr(&value(&whole), None, cx)).map(|found| found.ty);
        if ty != Some(Ty::VECTOR) {
            return None;
        }
        let part = |of: Axis| {
            let name = Name::new(of.word(), last.span);
            let here = value(&Path([before, &[name]].concat()));
            match with {
                _ if of != axis => here,
                None => to.clone(),
                Some(sign) => {
                    let kind =
                        ExprKind::Arithmetic(sign.into(), Box::new(here.clone()), Box::new(to.clone()));
                    model::Expr { span: to.span, kind }
                }
            }
        };
        let vector = ExprKind::Vector(Axis::ALL.into_iter().map(part).collect());
        Some((model::Target::Name(whole), model::Expr { span: to.span, kind: vector }))
    }

    fn declared(&self, path: &Path, cx: &Cx<'_>) -> Option<Span> {
        match self.begin(path, cx.scope) {
            Some((Thing::Var(var), used)) if used == path.0.len() => Some(self.names.vars[var].span),
            Some((Thing::Object(object), used)) => {
                let var = self.names.objects[object].vars.get(&path.0.get(used)?.text)?;
                Some(self.names.vars[*var].span)
            }
            _ => None,
        }
    }

    pub(super) fn tween(
        &mut self,
        target: &model::Target,
        to: &model::Expr,
        over: &model::Expr,
        ease: Option<&Name>,
        cx: &mut Cx<'_>,
    ) -> Option<Step> {
        if let Some((whole, to)) = self.component_set(target, None, to, cx) {
            return self.tween(&whole, &to, over, ease, cx);
        }
        let found = self.target(target, cx);
        let over = self.span_of_time(over, cx);
        let ease = match ease {
            None => Ease::default(),
            Some(word) => {
                let known = Ease::ALL.into_iter().find(|ease| ease.word() == word.text);
                if known.is_none() {
                    let help =
                        self.report.suggest(&word.text, "way to ease", Ease::ALL.into_iter().map(Ease::word));
                    let message = format!("there is no easing `{}`", word.text);
                    self.wrong(
                        Diagnostic::error(Code::UnknownWord, message)
                            .at(word.span, "expected an easing")
                            .help(help),
                    );
                }
                known?
            }
        };
        let (found, ty) = found?;
        let name = target.path().text();
        let span = target.path().span();
        if matches!(found, Target::Setting(..)) {
            let message = format!("`{name}` is a setting; a setting changes at once");
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(span, "nothing in between")
                    .help(format!("tween a variable, and keep the setting with it: bind {name} = …")),
            );
            return None;
        }
        let blends = matches!(ty, Type::Number | Type::Whole | Type::Vector | Type::Rotation | Type::Colour);
        if !blends || matches!(found, Target::Local(_)) {
            let what = if blends { "a value of the sequence's own".to_owned() } else { a(ty.word()) };
            let message = format!("`{name}` is {what}; it cannot change over time");
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(span, "nothing in between")
                    .help("a tween moves numbers, vectors, rotations and colours"),
            );
            return None;
        }
        let wrong = |found: &str| {
            let message = format!("`{name}` holds {}, found {found}", a(ty.word()));
            Diagnostic::error(Code::WrongType, message).at(to.span, found)
        };
        let to = self.value_for(to, &ty, cx, wrong)?;
        let to = if ty == Type::Number { as_number(to) } else { to };
        Some(Step::Tween { target: found, to, over: over?, ease })
    }
}
