//! Playtests.

use super::{Cx, Ids, Resolver};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, Limit, Name, Path, Playtest, Step},
    source::Span,
    suggest::suggest,
};

impl Resolver<'_, '_> {
    pub(super) fn playtest(&mut self, playtest: &Playtest, ids: &dyn Ids) {
        let players = playtest.players.iter();
        let players = players.map(|player| (player.name.text.clone(), stoicheon_core::ObjectId::default()));
        let cx = Cx { players: players.collect(), ..Cx::new(0, ids) };
        for (index, player) in playtest.players.iter().enumerate() {
            self.start(&player.at, &cx);
            let same = |other: &&crate::model::Player| other.name.text == player.name.text;
            let earlier = playtest.players[..index].iter().find(same).map(|other| other.name.span);
            let object = self.names.objects.iter().find(|object| object.name == player.name.text);
            if let Some(taken) = earlier.or(object.map(|object| object.span)) {
                let message = format!("there is an object or player called `{}` already", player.name.text);
                self.wrong(
                    Diagnostic::error(Code::NameTaken, message)
                        .at(player.name.span, "the second one")
                        .at(taken, "the first one"),
                );
            }
        }
        for step in &playtest.steps {
            match &step.step {
                Step::Wait(_) => {}
                Step::Walk { player, to } => {
                    self.player(playtest, player);
                    self.start(to, &cx);
                }
                Step::Point { player, at } => {
                    self.player(playtest, player);
                    self.start(at, &cx);
                }
                Step::Press { player, .. } | Step::Hold { player, .. } | Step::Leave { player } => {
                    self.player(playtest, player);
                }
                Step::Expect { what, limit } => self.expectation(what, *limit, step.span, &cx),
                Step::Always(expr) | Step::Never(expr) => {
                    self.condition(expr, &cx);
                }
            }
        }
    }

    /// An object or a spot, to start at or to walk to.
    fn start(&mut self, path: &Path, cx: &Cx<'_>) {
        let as_value = Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
        if self.begin(path, cx.scope).is_none() {
            self.object(path, cx);
        } else if let Some(found) = self.expr(&as_value, None, cx) {
            self.somewhere(found, path.span());
        }
    }

    fn player(&mut self, playtest: &Playtest, name: &Name) {
        if playtest.players.iter().any(|player| player.name.text == name.text) {
            return;
        }
        let names = playtest.players.iter().map(|player| player.name.text.as_str());
        let words = ["expect", "always", "never", "wait", "player"];
        let help = suggest(&name.text, "player", names.chain(words));
        let message = format!("there is no player `{}` in this playtest", name.text);
        self.wrong(
            Diagnostic::error(Code::UnknownName, message).at(name.span, "expected a player").help(help),
        );
    }

    /// A bare name is a signal or an effect; anything else is a condition.
    fn expectation(&mut self, what: &Expr, limit: Limit, span: Span, cx: &Cx<'_>) {
        let Some(path) = bare(what) else {
            if let Limit::Exactly(_) = limit {
                let message = "`exactly` counts a signal or an effect, and this is neither";
                self.wrong(Diagnostic::error(Code::Syntax, message).at(span, "cannot be counted"));
            }
            self.condition(what, cx);
            return;
        };
        let effect = path.single().is_some_and(|name| self.names.scopes[0].effects.contains_key(&name.text));
        if self.signal_named(path, cx).is_some() || effect {
            return;
        }
        if self.begin(path, 0).is_some_and(|(_, used)| used == path.0.len() || path.0.len() > 1) {
            let is_object = self.object_named(path, cx).is_some();
            let is_signal_of_object = path.0.len() > 1
                && self.object_named(&Path(path.split_last().1.to_vec()), cx).is_some()
                && self.expr_quietly(what, cx).is_none();
            if !is_object && !is_signal_of_object {
                self.condition(what, cx);
                return;
            }
        }
        if path.0.len() > 1 {
            self.signal(path, cx);
            return;
        }
        let signals = self.names.signals.iter().chain(&self.names.effects);
        let mut names: Vec<_> = signals.map(|message| message.name.to_string()).collect();
        for (index, object) in self.names.objects.iter().enumerate().take(20) {
            names.extend(self.signals_of(index).iter().map(|signal| format!("{}.{signal}", object.name)));
        }
        let help = suggest(&path.text(), "signal or effect", names.iter().map(String::as_str));
        self.wrong(
            Diagnostic::error(Code::UnknownSignal, format!("there is no signal or effect `{}`", path.text()))
                .at(path.span(), "expected a signal, an effect or a condition")
                .help(help),
        );
    }

    fn expr_quietly(&mut self, expr: &Expr, cx: &Cx<'_>) -> Option<super::Typed> {
        self.quietly(|r| r.expr(expr, None, cx))
    }
}

/// The path, for an expression that is nothing but one.
pub(crate) fn bare(expr: &Expr) -> Option<&Path> {
    match &expr.kind {
        ExprKind::Name(path) if !matches!(path.first().text.as_str(), "true" | "false") => Some(path),
        _ => None,
    }
}
