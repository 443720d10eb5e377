//! Statements.

use smol_str::SmolStr;
use stoicheon_core::{Expr, PLAYER, Seconds, Step, Target, Type};

use super::{
    Cx, Local, Rank, Resolver, Ty, Which,
    by_value::Named,
    names::{Role, Thing},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Literal, Name, Objects, Path, Statement, StatementKind},
};

/// The words statements begin with, for suggestions.
pub(super) const STATEMENTS: [&str; 18] = [
    "wait", "emit", "perform", "do", "set", "tween", "enable", "disable", "destroy", "spawn", "send", "tag",
    "untag", "if", "repeat", "for", "var", "stop",
];

/// How many values a sequence may keep at one time.
const MOST_KEPT: usize = 200;

pub(super) fn values(count: usize) -> String {
    match count {
        0 => "no value".to_owned(),
        1 => "1 value".to_owned(),
        many => format!("{many} values"),
    }
}

/// A step, on somebody else's behalf if one is meant.
pub(super) fn for_whom(behalf: Option<Expr>, step: Step) -> Step {
    match behalf {
        Some(who) => Step::For { who, step: Box::new(step) },
        None => step,
    }
}

/// The tag of those a group is of.
pub(super) fn tag_of(among: &model::Among) -> SmolStr {
    if among.of.text == "everyone" { PLAYER.into() } else { among.of.text.clone() }
}

impl Resolver<'_, '_> {
    /// Statements as steps; those that are wrong are left out.
    pub(crate) fn statements(&mut self, statements: &[Statement], cx: &mut Cx<'_>) -> Vec<Step> {
        let kept = cx.locals.len();
        let mut steps = Vec::new();
        for statement in statements {
            steps.extend(self.statement(statement, cx));
            self.probe_after(statement.span, cx);
        }
        cx.locals.truncate(kept);
        steps
    }

    pub(super) fn keep(&mut self, name: &Name, ty: Ty, cx: &mut Cx<'_>) -> Option<u8> {
        if let Some(taken) = super::names::reserved(name) {
            self.wrong(taken);
            return None;
        }
        let number = cx.locals.len();
        if number >= MOST_KEPT {
            let message = format!("expected at most {MOST_KEPT} values that a sequence keeps, found more");
            self.wrong(Diagnostic::error(Code::WrongCount, message).at(name.span, "one too many"));
            return None;
        }
        let number = u8::try_from(number).unwrap_or(u8::MAX);
        cx.locals.push(Local { name: name.text.clone(), ty, number, declared: name.span });
        cx.kept = cx.kept.max(number + 1);
        Some(number)
    }

    #[expect(clippy::too_many_lines, reason = "a table with an arm for each kind of statement")]
    pub(crate) fn statement(&mut self, statement: &Statement, cx: &mut Cx<'_>) -> Option<Step> {
        let span = statement.span;
        self.probe(span, cx, None);
        Some(match &statement.kind {
            StatementKind::Tell { command, who, args } => return self.tell(command, who, args, cx),
            StatementKind::Wait(time) => match &time.kind {
                ExprKind::Literal(Literal::Seconds(seconds)) if *seconds > 0.0 => {
                    Step::Wait(Seconds(*seconds))
                }
                ExprKind::Literal(Literal::Seconds(_) | Literal::Ticks(0)) => {
                    let message = "expected a span above 0 s and up to 1e9 s";
                    self.wrong(Diagnostic::error(Code::BadLiteral, message).at(time.span, "not this"));
                    return None;
                }
                _ => Step::WaitFor(self.span_of_time(time, cx)?),
            },
            StatementKind::Until { condition, within, otherwise } => {
                let condition = self.condition(condition, cx);
                let within = match within {
                    Some(within) => Some(self.span_of_time(within, cx)?),
                    None => None,
                };
                let otherwise = self.statements(otherwise, cx);
                Step::Until { condition: condition?, within, otherwise }
            }
            StatementKind::Emit { signal, values, behalf } => {
                let named = self.any_signal(signal, cx);
                let behalf = self.behalf(behalf.as_ref(), cx);
                let named = named?;
                let whole = self.names_of(&named);
                self.emitted.extend(whole);
                let found = named.signal();
                let values =
                    self.args(&found.name, signal.span(), &found.fields, found.declared, values, cx)?;
                for_whom(
                    behalf?,
                    match named {
                        Named::Declared(found) => Step::Emit { signal: cx.ids.signal(&found.name), values },
                        Named::Of(object, _, signal, _) => Step::EmitOf { object, signal, values },
                    },
                )
            }
            StatementKind::On(wire) => {
                let plan = self.wire_in(wire, cx)?;
                Step::Wire(Box::new(plan.new_wire(cx.ids)))
            }
            StatementKind::Perform { effect, values, behalf } => {
                let behalf = self.behalf(behalf.as_ref(), cx);
                let index = self.effect(effect, cx)?;
                let known = &self.names.effects[index];
                let (name, fields, declared, id) =
                    (known.name.clone(), known.fields.clone(), known.span, known.effect);
                let values = self.args(&name, effect.span(), &fields, declared, values, cx)?;
                for_whom(behalf?, Step::Perform { effect: id, values })
            }
            StatementKind::Do { routine, values } => {
                let index = self.routine_named(routine, cx)?;
                let known = &self.names.routines[index];
                let (name, fields, id) = (known.name.clone(), &known.written.fields, known.id);
                let (fields, declared) = (super::fields_of(fields), known.written.name.span);
                let values = self.args(&name, routine.span(), &fields, Some(declared), values, cx)?;
                Step::Run { routine: id, values }
            }
            StatementKind::Set { target, with, to } => return self.set(target, *with, to, span, cx),
            StatementKind::Tween { target, to, over, ease } => {
                return self.tween(target, to, over, ease.as_ref(), cx);
            }
            StatementKind::Keep { name, value } => {
                let found = self.expr(value, None, cx)?;
                let ty = if found.ty == Ty::Angle { Ty::NUMBER } else { found.ty };
                let local = self.keep(name, ty, cx)?;
                Step::Set { target: Target::Local(local), to: found.expr }
            }
            StatementKind::Enable(who) => return self.each(who, cx, Step::Enable),
            StatementKind::Disable(who) => return self.each(who, cx, Step::Disable),
            StatementKind::Destroy(who) => return self.each(who, cx, Step::Destroy),
            StatementKind::Spawn { mould, at, name } => {
                let index = self.mould(mould, cx)?;
                let found = self.expr(at, Some(&Type::Vector), cx)?;
                let at = self.somewhere(found, at.span)?;
                let known = &self.names.objects[index];
                let (id, tag) = (known.mould, known.name.clone());
                let local = match name {
                    Some(name) => Some(self.keep(name, Ty::Object(Which::Tagged(tag)), cx)?),
                    None => None,
                };
                Step::Spawn { mould: id, at, local }
            }
            StatementKind::Send { who, spot, scene } => return self.send(who, spot, scene.as_ref(), cx),
            StatementKind::Tag { who, tag, away } => {
                self.note_tag(tag);
                self.wanted_tags.insert(tag.text.clone());
                if self.names.tags.insert(tag.text.clone()) {
                    self.said_tags.push(tag.text.clone());
                }
                let (word, away) = (tag.text.clone(), *away);
                return self.each(who, cx, move |object| {
                    if away { Step::Untag(object, word) } else { Step::Tag(object, word) }
                });
            }
            StatementKind::If { when, then, otherwise } => {
                let when = self.truth(when, cx);
                let (then, otherwise) = (self.statements(then, cx), self.statements(otherwise, cx));
                Step::If { when: when?, then, otherwise }
            }
            StatementKind::Repeat { times, body } => {
                let found = self.expr(times, Some(&Type::Whole), cx);
                let steps = self.statements(body, cx);
                let found = found?;
                if found.ty != Ty::WHOLE {
                    let message = format!("expected a whole number of times, found {}", found.ty.a());
                    let label = found.ty.a();
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(times.span, label)
                            .help("for a condition, write `repeat while`"),
                    );
                    return None;
                }
                Step::Repeat { times: found.expr, steps }
            }
            StatementKind::RepeatWhile { condition, body } => {
                let when = self.truth(condition, cx);
                let steps = self.statements(body, cx);
                self.check_endless(condition, body, span);
                Step::RepeatWhile { when: when?, steps }
            }
            StatementKind::ForEach { name, among, body } => {
                let found = self.among(among, &Cx { loop_name: Some(name.text.clone()), ..cx.clone() });
                let kept = cx.locals.len();
                let which = found.as_ref().map_or(Which::Unknown, |(_, which)| which.clone());
                let local = self.keep(name, Ty::Object(which), cx);
                let steps = self.statements(body, cx);
                cx.locals.truncate(kept);
                Step::ForEach { among: found?.0, local: local?, steps }
            }
            StatementKind::ForEachCell { column, row, cells, of, body } => {
                return self.for_each_cell([column, row], cells, of, body, cx);
            }
            StatementKind::Stop => Step::Stop,
        })
    }

    /// On whose behalf a statement is done, if it says so.
    #[expect(clippy::option_option, reason = "nobody else is meant; or somebody, and that is wrong")]
    pub(super) fn behalf(&mut self, behalf: Option<&model::Expr>, cx: &Cx<'_>) -> Option<Option<Expr>> {
        match behalf {
            Some(who) => self.one_object(who, cx).map(|(_, who)| Some(who)),
            None => Some(None),
        }
    }

    /// The same step for one object, or for every one of some.
    pub(crate) fn each(
        &mut self,
        who: &Objects,
        cx: &mut Cx<'_>,
        step: impl FnOnce(Expr) -> Step,
    ) -> Option<Step> {
        match who {
            Objects::One(expr) => {
                let object = self.one_object(expr, cx)?.1;
                Some(step(object))
            }
            Objects::Every(among) => {
                let (found, which) = self.among(among, cx)?;
                let kept = cx.locals.len();
                // Nobody speaks of it by a name.
                let unnamed = Name { text: SmolStr::default(), ..among.of.clone() };
                let local = self.keep(&unnamed, Ty::Object(which), cx);
                cx.locals.truncate(kept);
                let steps = vec![step(Expr::Local(local?))];
                Some(Step::ForEach { among: found, local: local?, steps })
            }
        }
    }

    /// One object; a name that is none is told of as such.
    pub(super) fn one_object(&mut self, expr: &model::Expr, cx: &Cx<'_>) -> Option<(Which, Expr)> {
        if let ExprKind::Name(path) = &expr.kind
            && self.begin(path, cx.scope).is_none()
            && path.single().is_some_and(|name| {
                !matches!(name.text.as_str(), "who" | "it" | "own")
                    && !cx.locals.iter().any(|local| local.name == name.text)
                    && !cx.fields.iter().any(|field| field.name == name.text)
                    && !cx.players.iter().any(|(player, _)| *player == name.text)
                    && !cx.cases.iter().any(|(column, _)| *column == name.text)
            })
        {
            self.object(path, cx);
            return None;
        }
        let found = self.expr(expr, Some(&Type::Object), cx)?;
        self.an_object(found, expr.span, "an object, such as `upper_gate` or `who`")
    }

    pub(super) fn effect(&mut self, path: &Path, cx: &Cx<'_>) -> Option<usize> {
        let found = path.single().and_then(|name| {
            self.found(self.scope_of(name, cx.scope), |scope| scope.effects.get(&name.text).copied())
        });
        if found.is_none() {
            let known = self.names.effects.iter().map(|effect| effect.name.as_str());
            let help = self.report.suggest(&path.text(), "effect", known);
            self.wrong(
                Diagnostic::error(Code::UnknownEffect, format!("there is no effect `{}`", path.text()))
                    .at(path.span(), "expected an effect")
                    .help(help),
            );
        }
        if let (Some(index), Some(name)) = (found, path.single()) {
            self.report.means(name.span, Rank::Kind, self.names.effects[index].span.unwrap_or_default());
        }
        found
    }

    pub(super) fn routine_named(&mut self, path: &Path, cx: &Cx<'_>) -> Option<usize> {
        let found = self.find_routine(path, cx.scope);
        if found.is_none() {
            let known = self.names.routines.iter().map(|routine| routine.name.as_str());
            let help = self.report.suggest(&path.text(), "routine", known);
            self.wrong(
                Diagnostic::error(Code::UnknownRoutine, format!("there is no routine `{}`", path.text()))
                    .at(path.span(), "expected a routine")
                    .help(help),
            );
        }
        found
    }

    pub(super) fn find_routine(&self, path: &Path, scope: usize) -> Option<usize> {
        let (last, before) = path.split_last();
        let before = Path(before.to_vec());
        let found = if before.0.is_empty() {
            self.found(scope, |scope| scope.routines.get(&last.text).copied())
        } else {
            match self.begin(&before, scope)? {
                (Thing::Use(inner), used) if used == before.0.len() => {
                    self.names.scopes[inner].routines.get(&last.text).copied()
                }
                _ => None,
            }
        };
        if let Some(index) = found {
            self.report.means(last.span, Rank::Kind, self.names.routines[index].written.name.span);
        }
        found
    }

    pub(super) fn mould(&mut self, name: &Name, cx: &Cx<'_>) -> Option<usize> {
        let scope = self.scope_of(name, cx.scope);
        let found = self.found(scope, |scope| scope.moulds.get(&name.text).copied());
        if found.is_none() {
            let known = self.names.objects.iter().filter(|object| object.role == Role::Mould);
            let known = known.map(|object| object.name.as_str());
            let help = self.report.suggest(&name.text, "mould", known);
            self.wrong(
                Diagnostic::error(Code::UnknownMould, format!("there is no mould `{}`", name.text))
                    .at(name.span, "expected a mould")
                    .help(help),
            );
        }
        if let Some(mould) = found {
            self.report.means(name.span, Rank::Kind, self.names.objects[mould].span);
        }
        found
    }
}
