//! What state things are in.

use smol_str::SmolStr;
use stoicheon_core::{Expr, PartId, StateTest, Type};

use super::{Cx, Resolver, Ty, Which, names::Role};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Name, Path},
    source::Span,
};

impl Resolver<'_, '_> {
    /// `upper_gate is open`, `errand is hunting`, `heron is gone`
    pub(super) fn is(&mut self, subject: &model::Expr, state: &Name, cx: &Cx<'_>) -> Option<Expr> {
        // What is only a name and unknown is most likely a misspelled object.
        if let ExprKind::Name(path) = &subject.kind
            && path.single().is_some_and(|name| {
                self.thing(&name.text, cx.scope).is_none()
                    && !matches!(name.text.as_str(), "who" | "it")
                    && !cx.locals.iter().any(|local| local.name == name.text)
                    && !cx.fields.iter().any(|field| field.name == name.text)
                    && !cx.players.iter().any(|(player, _)| *player == name.text)
            })
        {
            self.object(path, cx);
            return None;
        }
        // `errand of who is hunting`
        if let ExprKind::Of(path, whose) = &subject.kind
            && let Some(object) = self.object_named(path, cx)
            && let Some(var) = self.names.objects[object].vars.get("state").copied()
            && let Type::OneOf(words) = self.names.vars[var].ty.clone()
            && self.names.vars[var].per_player
        {
            if !words.contains(&state.text) {
                self.not_a_word(&state.text, &words, state.span);
                return None;
            }
            let (_, whose) = self.one_object(whose, cx)?;
            return Some(Expr::VarOf(self.names.vars[var].id, Box::new(whose)).equals(state.text.as_str()));
        }
        let found = self.expr(subject, None, cx)?;
        match &found.ty {
            Ty::Plain(Type::OneOf(words)) => {
                if !words.contains(&state.text) {
                    let words = words.clone();
                    self.not_a_word(&state.text, &words, state.span);
                    return None;
                }
                Some(found.expr.equals(state.text.as_str()))
            }
            Ty::Object(which) => self.is_in_state(&which.clone(), found.expr, subject.span, state, cx),
            other => {
                let message = format!("{} has no states that could be asked for", other.a());
                let other = other.a();
                self.wrong(
                    Diagnostic::error(Code::WrongType, message)
                        .at(subject.span, other)
                        .help("compare it with == instead"),
                );
                None
            }
        }
    }

    pub(super) fn is_in_state(
        &mut self,
        which: &Which,
        object: Expr,
        span: Span,
        state: &Name,
        cx: &Cx<'_>,
    ) -> Option<Expr> {
        match state.text.as_str() {
            "hidden" => return Some(Expr::Hidden(Box::new(object))),
            "passable" => return Some(Expr::Passable(Box::new(object))),
            "gone" => return Some(Expr::Gone(Box::new(object))),
            "enabled" => return Some(Expr::Enabled(Box::new(object))),
            "disabled" => {
                let here = Expr::Gone(Box::new(object.clone())).not();
                return Some(here.and(Expr::Enabled(Box::new(object)).not()));
            }
            _ => {}
        }
        if let Which::One(one) = which
            && self.names.objects[*one].role != Role::Mould
        {
            return self.known_state(*one, span, state, cx);
        }
        let candidates = self.candidates(which);
        let kinds = candidates.iter().flat_map(|object| &self.names.objects[*object].parts);
        let states = kinds.flat_map(|(_, info)| &info.states).map(SmolStr::as_str);
        // Of somebody who is known only then, any state of any kind may be asked for.
        let game = self.catalogue.parts().iter().flat_map(|info| &info.states).map(SmolStr::as_str);
        let states: Vec<_> = if *which == Which::Unknown { game.collect() } else { states.collect() };
        if !states.contains(&state.text.as_str()) {
            let path = Path(vec![state.clone()]);
            let help = if self.object_named(&path, cx).is_some() {
                format!(
                    "`{0}` is an object: whether two are one is asked with `==`, as in `who == {0}`",
                    state.text
                )
            } else {
                let words = ["gone", "enabled", "disabled", "hidden", "passable"];
                self.report.suggest(&state.text, "state", states.into_iter().chain(words))
            };
            let message = match which {
                Which::Tagged(tag) => format!("nothing tagged `{tag}` is ever `{}`", state.text),
                _ => format!("no object is ever `{}`", state.text),
            };
            self.wrong(
                Diagnostic::error(Code::UnknownState, message).at(state.span, "expected a state").help(help),
            );
            return None;
        }
        let test: StateTest = cx.ids.state_test(&state.text);
        Some(Expr::StateOf { object: Box::new(object), test })
    }

    /// The variable `state` of an object, whose part deals in that word.
    fn word_var(&self, object: usize, word: &str) -> Option<usize> {
        let known = &self.names.objects[object];
        let var = known.vars.get("state").copied()?;
        let of = &self.names.vars[var];
        of.kept_by?;
        matches!(&of.ty, Type::OneOf(words) if words.iter().any(|known| known == word)).then_some(var)
    }

    fn known_state(&mut self, object: usize, span: Span, state: &Name, cx: &Cx<'_>) -> Option<Expr> {
        if let Some(var) = self.word_var(object, &state.text) {
            let known = &self.names.vars[var];
            let now = match known.per_player {
                true if cx.has_who => Expr::VarOf(known.id, Box::new(Expr::Who)),
                true => {
                    self.whose(&self.names.objects[object].name.clone(), span, known.span);
                    return None;
                }
                false => Expr::Var(known.id),
            };
            return Some(now.equals(state.text.as_str()));
        }
        let known = &self.names.objects[object];
        for (index, (_, info)) in known.parts.iter().enumerate() {
            if let Some(number) = info.state(&state.text) {
                let part = known.part_ids.get(index).copied().unwrap_or_default();
                return Some(Expr::State { part, state: number });
            }
        }
        let own = (0..known.parts.len()).flat_map(|part| self.words_of(object, part));
        let states = known.parts.iter().flat_map(|(_, info)| &info.states).cloned();
        let states: Vec<_> = states.chain(own).collect();
        let (name, made) = (known.name.clone(), known.span);
        let diagnostic = if states.is_empty() {
            Diagnostic::error(Code::UnknownState, format!("`{name}` has no part with states, such as a door"))
                .at(span, "has no states")
                .at(made, "made here")
        } else {
            let words = states
                .iter()
                .map(SmolStr::as_str)
                .chain(["gone", "enabled", "disabled", "hidden", "passable"]);
            Diagnostic::error(Code::UnknownState, format!("`{name}` is never `{}`", state.text))
                .at(state.span, "expected a state")
                .help(self.report.suggest(&state.text, "state", words))
        };
        self.wrong(diagnostic);
        None
    }

    /// The zone of an object.
    pub(super) fn zone(&mut self, path: &Path, cx: &Cx<'_>) -> Option<PartId> {
        let object = self.object(path, cx)?;
        let known = &self.names.objects[object];
        if let Some(index) = known.parts.iter().position(|(_, info)| info.name == "zone") {
            return Some(known.part_ids.get(index).copied().unwrap_or_default());
        }
        let made = known.span;
        let message = format!("`{}` has no zone", path.text());
        self.wrong(
            Diagnostic::error(Code::UnknownPart, message)
                .at(path.span(), "has no zone")
                .at(made, "made here"),
        );
        None
    }
}
