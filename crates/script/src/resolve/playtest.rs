//! Playtests.

use smol_str::SmolStr;

use super::{Cx, Ids, Resolver};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, Limit, Name, Path, Playtest, PlaytestStep, Step},
    source::Span,
};

impl Resolver<'_, '_> {
    pub(super) fn playtest(&mut self, playtest: &Playtest, ids: &dyn Ids) {
        let joining = joining(&playtest.steps);
        let names = playtest.players.iter().map(|player| &player.name).chain(joining.iter().copied());
        let players = names.map(|name| (name.text.clone(), stoicheon_core::ObjectId::default()));
        let cx = Cx { players: players.collect(), ..Cx::new(self.names.home, ids) };
        for (index, player) in playtest.players.iter().enumerate() {
            self.starting_place(&player.at, player.scene.as_ref(), &cx);
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
        let known: Vec<_> = playtest.players.iter().map(|player| &player.name).chain(joining).collect();
        self.given_in_playtest(&playtest.given, ids);
        self.playtest_steps(&playtest.steps, &known, &cx);
        self.vacuous(&playtest.steps, &cx);
    }

    /// What must never happen from here on, where nothing happens any more.
    fn vacuous(&mut self, steps: &[PlaytestStep], cx: &Cx<'_>) {
        let passes = |step: &PlaytestStep| match &step.step {
            Step::Never(_) | Step::Always(_) | Step::Save | Step::Suspend | Step::AllowFaults => false,
            Step::Expect { limit, .. } => matches!(limit, Limit::Within(_)),
            Step::InOrder { within, .. } => within.is_some(),
            _ => true,
        };
        let last = steps.iter().rposition(passes).map_or(0, |last| last + 1);
        for step in &steps[last..] {
            if let Step::Never(expr) = &step.step
                && let Some(path) = bare(expr)
                && (self.is_effect(path) || self.signal_named(path, cx).is_some())
            {
                self.wrong(
                    Diagnostic::warning(Code::Vacuous, "nothing happens after this, so it can never fail")
                        .at(step.span, "holds from here on")
                        .help("write it before the lines in which it must not happen"),
                );
            }
        }
    }

    fn playtest_steps(&mut self, steps: &[PlaytestStep], players: &[&Name], cx: &Cx<'_>) {
        for step in steps {
            match &step.step {
                Step::Pause { player, .. } => self.player(players, player),
                Step::Wait(_) | Step::Save | Step::Reload | Step::Suspend | Step::AllowFaults => {}
                Step::Until { what, .. } => {
                    self.condition(what, cx);
                }
                Step::InOrder { what, .. } => what.iter().for_each(|path| self.watched(path, cx)),
                Step::Together(steps) => self.together(steps, players, cx),
                Step::GoThrough { player, at } => {
                    self.player(players, player);
                    self.start(at, cx);
                }
                Step::Answer { player, prompt } => {
                    self.player(players, player);
                    self.prompt(prompt, cx);
                }
                Step::Join { player, at, scene, .. } => {
                    self.player(players, player);
                    if let Some(at) = at {
                        self.starting_place(at, scene.as_ref(), cx);
                    }
                }
                Step::Walk { player, to } => {
                    self.player(players, player);
                    self.start(to, cx);
                }
                Step::Point { player, at } => {
                    self.player(players, player);
                    self.start(at, cx);
                }
                Step::Press { player, .. } | Step::Hold { player, .. } | Step::Leave { player } => {
                    self.player(players, player);
                }
                Step::Choose { player, answer } => {
                    self.player(players, player);
                    answer.iter().for_each(|answer| self.answer(answer));
                }
                Step::Expect { what, limit } => self.expectation(what, *limit, step.span, cx),
                Step::Never(expr) => self.expectation(expr, Limit::Now, step.span, cx),
                Step::Always(expr) => {
                    self.condition(expr, cx);
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

    /// An object or a spot, of this scene or of the one that is named.
    fn starting_place(&mut self, at: &Path, scene: Option<&Name>, cx: &Cx<'_>) {
        let Some(scene) = scene else { return self.start(at, cx) };
        if self.scene(scene).is_some() {
            self.start(&in_scene(at, scene), cx);
        }
    }

    fn prompt(&mut self, path: &Path, cx: &Cx<'_>) {
        let Some(object) = self.object(path, cx) else { return };
        if self.prompt_of(object).is_none() {
            let message = format!("`{}` has no prompt", path.text());
            let diagnostic = Diagnostic::error(Code::UnknownPart, message)
                .at(path.span(), "nothing to answer")
                .at(self.names.objects[object].span, "declared here");
            self.wrong(diagnostic);
        }
    }

    /// Some choice must have the answer.
    fn answer(&mut self, answer: &Name) {
        let of_choices = |index: usize| {
            let parts = self.names.objects[index].parts.iter().enumerate();
            parts
                .filter(|(_, (_, info))| info.name == "choice")
                .map(move |(part, _)| (index, part))
                .collect::<Vec<_>>()
        };
        let choices = (0..self.names.objects.len()).flat_map(of_choices);
        let known: Vec<_> = choices.flat_map(|(object, part)| self.words_of(object, part)).collect();
        if !known.contains(&answer.text) {
            let help = self.report.suggest(&answer.text, "answer", known.iter().map(SmolStr::as_str));
            let message = format!("no choice has the answer `{}`", answer.text);
            self.wrong(
                Diagnostic::error(Code::UnknownWord, message)
                    .at(answer.span, "expected an answer")
                    .help(help),
            );
        }
    }

    /// Which of an object's parts is a prompt.
    pub(crate) fn prompt_of(&self, object: usize) -> Option<usize> {
        let signals = |info: &stoicheon_core::PartInfo| {
            ["offered", "answered"].iter().all(|name| info.signals.iter().any(|known| known.name == *name))
        };
        self.names.objects[object].parts.iter().position(|(_, info)| signals(info))
    }

    /// What different players do. What is expected comes after it.
    fn together(&mut self, steps: &[PlaytestStep], players: &[&Name], cx: &Cx<'_>) {
        self.playtest_steps(steps, players, cx);
    }

    /// A signal or an effect.
    fn watched(&mut self, path: &Path, cx: &Cx<'_>) {
        if self.is_effect(path) || self.signal_named(path, cx).is_some() {
            return;
        }
        if path.single().is_some() {
            self.unknown_watched(path);
        } else {
            self.signal(path, cx);
        }
    }

    fn is_effect(&self, path: &Path) -> bool {
        self.whole_effect(path).is_some()
    }

    fn player(&mut self, players: &[&Name], name: &Name) {
        if players.iter().any(|player| player.text == name.text) {
            return;
        }
        let names = players.iter().map(|player| player.text.as_str());
        let words =
            ["expect", "always", "never", "allow", "wait", "player", "save", "reload", "suspend", "together"];
        let help = self.report.suggest(&name.text, "player", names.chain(words));
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
        if self.signal_named(path, cx).is_some() || self.is_effect(path) {
            return;
        }
        if self.begin(path, self.names.home).is_some_and(|(_, used)| used == path.0.len() || path.0.len() > 1)
        {
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
        self.unknown_watched(path);
    }

    fn unknown_watched(&mut self, path: &Path) {
        let signals = self.names.signals.iter().chain(&self.names.effects);
        let mut names: Vec<_> = signals.map(|message| message.name.to_string()).collect();
        for (index, object) in self.names.objects.iter().enumerate().take(20) {
            names.extend(self.signals_of(index).iter().map(|signal| format!("{}.{signal}", object.name)));
        }
        let help = self.report.suggest(&path.text(), "signal or effect", names.iter().map(String::as_str));
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

/// Those who join, and so need not be there from the start.
fn joining(steps: &[PlaytestStep]) -> Vec<&Name> {
    let mut names: Vec<&Name> = Vec::new();
    for step in steps {
        match &step.step {
            Step::Join { player, .. } if !names.iter().any(|name| name.text == player.text) => {
                names.push(player);
            }
            Step::Together(steps) => names.extend(joining(steps)),
            _ => {}
        }
    }
    names
}

/// A path as seen from outside its scene.
pub(crate) fn in_scene(path: &Path, scene: &Name) -> Path {
    Path(std::iter::once(scene.clone()).chain(path.0.iter().cloned()).collect())
}

/// The path, for an expression that is nothing but one.
pub(crate) fn bare(expr: &Expr) -> Option<&Path> {
    match &expr.kind {
        ExprKind::Name(path) if !matches!(path.first().text.as_str(), "true" | "false") => Some(path),
        _ => None,
    }
}
