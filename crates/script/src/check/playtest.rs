//! Playtests.

use smol_str::SmolStr;

use super::{Checker, names::suggest};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, Limit, Name, Path, Playtest, Step},
};

impl Checker<'_> {
    pub(super) fn playtest(&mut self, playtest: &Playtest) {
        for (index, player) in playtest.players.iter().enumerate() {
            self.object(&player.at);
            let same = |other: &&crate::model::Player| other.name.text == player.name.text;
            let earlier = playtest.players[..index].iter().find(same).map(|other| other.name.span);
            let object = self.names.objects.get(&player.name.text).map(|known| known.span);
            if let Some(taken) = earlier.or(object) {
                let message = format!("there is an object or player called `{}` already", player.name.text);
                self.diagnostics.push(
                    Diagnostic::error(Code::NameTaken, message)
                        .at(player.name.span, "the second one")
                        .at(taken, "the first one"),
                );
            }
        }
        for (step, _) in &playtest.steps {
            match step {
                Step::Wait(_) => {}
                Step::Walk { player, to } => {
                    self.player(playtest, player);
                    self.object(to);
                }
                Step::Press { player, .. } => self.player(playtest, player),
                Step::Expect { what, limit } => self.expectation(what, *limit),
                Step::Always(expr, _) => self.condition(expr, &[]),
            }
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
        self.diagnostics.push(
            Diagnostic::error(Code::UnknownName, message).at(name.span, "expected a player").help(help),
        );
    }

    /// A bare name is a signal or an effect; anything else is a condition.
    fn expectation(&mut self, what: &Expr, limit: Limit) {
        let Some(path) = bare(what) else {
            if let Limit::Exactly(_, span) = limit {
                let message = "`exactly` counts a signal or an effect, and this is neither";
                self.diagnostics.push(Diagnostic::error(Code::Syntax, message).at(span, "cannot be counted"));
            }
            return self.condition(what, &[]);
        };
        let known = self.names.signal(path).is_some() || self.names.effects.contains_key(&path.text());
        if known || path.second.is_none() && self.names.vars.contains_key(&path.first.text) {
            return;
        }
        if path.second.is_some() {
            return self.unknown_signal(path);
        }
        let signals = self.names.signals.keys().map(SmolStr::as_str);
        let names = signals.chain(self.names.effects.keys().map(SmolStr::as_str));
        let help = suggest(&path.text(), "signal or effect", names);
        self.diagnostics.push(
            Diagnostic::error(Code::UnknownSignal, format!("there is no signal or effect `{}`", path.text()))
                .at(path.span(), "expected a signal, an effect or a condition")
                .help(help),
        );
    }
}

/// The path, for an expression that is nothing but one.
pub(crate) fn bare(expr: &Expr) -> Option<&Path> {
    match &expr.kind {
        ExprKind::Path(path) if !matches!(path.first.text.as_str(), "true" | "false") => Some(path),
        _ => None,
    }
}
