//! Playtests.

use std::cell::RefCell;

use smol_str::SmolStr;
use stoicheon_core::{Type, playtest::Watched};

use super::{Cx, Ids, Resolver, words::words_in};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{
        Expr, ExprKind, Limit, Name, Path, Playtest, PlaytestStep, Statement, StatementKind, Step, Where,
    },
    source::Span,
};

impl Resolver<'_, '_> {
    pub(crate) fn playtest(&mut self, playtest: &Playtest, ids: &dyn Ids) {
        let joining = joining(&playtest.steps);
        let names = playtest.players.iter().map(|player| &player.name).chain(joining.iter().copied());
        let players = names.map(|name| (name.text.clone(), stoicheon_core::ObjectId::default()));
        let cases = playtest.cases.as_ref().map(|cases| self.cases(cases, ids)).unwrap_or_default();
        let last = RefCell::default();
        let cast = self.cast(playtest, &joining);
        let cx = Cx {
            players: players.collect(),
            cast,
            cases,
            last: Some(&last),
            ..Cx::new(self.names.home, ids)
        };
        self.probe(playtest.span, &cx, None);
        for (index, player) in playtest.players.iter().enumerate() {
            match &player.at {
                Where::Named(at) => self.starting_place(at, player.scene.as_ref(), &cx),
                Where::Held(_) => {
                    player.scene.as_ref().map(|scene| self.scene(scene));
                    self.place_to_go(&player.at, &cx);
                }
            }
            let same = |other: &&crate::model::Player| other.name.text == player.name.text;
            let earlier = playtest.players[..index].iter().find(same).map(|other| other.name.span);
            let object = self.names.object_by_whole_name(&player.name.text);
            if let Some(taken) = earlier.or(object.map(|object| self.names.objects[object].span)) {
                let message = format!("there is already an object or player `{}`", player.name.text);
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
        if playtest.linked {
            self.linked(&playtest.steps);
        }
        self.vacuous(&playtest.steps, &cx);
    }

    /// Where each player and each column of cases is named first, if that is asked for.
    fn cast(&self, playtest: &Playtest, joining: &[&Name]) -> std::sync::Arc<[(SmolStr, Span)]> {
        if !self.report.notes.are_wanted() {
            return std::sync::Arc::default();
        }
        let players = playtest.players.iter().map(|player| &player.name).chain(joining.iter().copied());
        let columns = playtest.cases.iter().flat_map(|cases| &cases.names).filter(|name| !self.gives(name));
        players.chain(columns).map(|name| (name.text.clone(), name.span)).collect()
    }

    /// What must never happen from here on, where nothing happens any more.
    fn vacuous(&mut self, steps: &[PlaytestStep], cx: &Cx<'_>) {
        let passes = |step: &PlaytestStep| match &step.step {
            Step::Never(_) | Step::Always(_) | Step::Save | Step::Suspend | Step::AllowFaults => false,
            Step::Sees { .. } => true,
            Step::Expect { limit, .. } | Step::ExpectWith { limit, .. } => matches!(limit, Limit::Within(_)),
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
                        .help("write it before the lines during which it must not happen"),
                );
            }
        }
    }

    /// What cannot be done with several worlds.
    fn linked(&mut self, steps: &[PlaytestStep]) {
        for step in steps {
            let word = match step.step {
                Step::Save => "save",
                Step::Reload => "reload",
                Step::Suspend => "suspend",
                _ => continue,
            };
            let message = format!("`{word}` stores one world, but in a linked playtest each player has one");
            self.wrong(
                Diagnostic::error(Code::Misplaced, message)
                    .at(step.span, "which of them?")
                    .help("use a playtest that is not linked"),
            );
        }
    }

    fn playtest_steps(&mut self, steps: &[PlaytestStep], players: &[&Name], cx: &Cx<'_>) {
        for step in steps {
            self.playtest_step(&step.step, step.span, players, cx);
        }
    }

    fn playtest_step(&mut self, step: &Step, span: Span, players: &[&Name], cx: &Cx<'_>) {
        {
            match step {
                Step::Sees { player, what } => {
                    self.player(players, player);
                    self.playtest_step(what, span, players, cx);
                }
                Step::Pause { player, .. } => self.player(players, player),
                Step::Wait(_) | Step::Save | Step::Reload | Step::Suspend | Step::AllowFaults => {}
                Step::Until { what, .. } => {
                    self.condition(what, &Cx { last: None, ..cx.clone() });
                }
                Step::InOrder { what, .. } => what.iter().for_each(|path| self.watched(path, cx)),
                Step::Together(steps) => self.together(steps, players, cx),
                Step::GoThrough { player, at } => {
                    self.player(players, player);
                    self.place_to_go(at, cx);
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
                    self.place_to_go(to, cx);
                }
                Step::Point { player, at, from_there, .. } => {
                    self.player(players, player);
                    self.place_to_go(at, cx);
                    if let Some(from_there) = from_there {
                        self.offset(from_there, cx);
                    }
                }
                Step::Press { player, .. }
                | Step::KeyDown { player, .. }
                | Step::KeyUp { player, .. }
                | Step::Hold { player, .. }
                | Step::Leave { player } => {
                    self.player(players, player);
                }
                Step::Choose { player, answer } => {
                    self.player(players, player);
                    answer.iter().for_each(|answer| self.answer(answer));
                }
                Step::Expect { what, limit } => self.expectation(what, *limit, span, cx),
                Step::ExpectWith { what, values, .. } => {
                    self.carries(what, values, cx);
                }
                Step::Does(statement) => {
                    if at_once(&statement.kind) {
                        self.played(std::slice::from_ref(statement), cx);
                    } else {
                        let message = "a playtest does what is done at once: it emits, sets, enables, disables, \
                                       destroys, spawns, sends or tags";
                        self.wrong(
                            Diagnostic::error(Code::Misplaced, message)
                                .at(statement.span, "allowed only in wiring"),
                        );
                    }
                }
                Step::Block(statements) => self.played(statements, cx),
                Step::Never(expr) => self.expectation(expr, Limit::Now, span, cx),
                Step::Always(expr) => {
                    self.condition(expr, &Cx { last: None, ..cx.clone() });
                }
            }
        }
    }

    /// What a playtest emits, the game has to emit: it does not count as emitted.
    fn played(&mut self, statements: &[Statement], cx: &Cx<'_>) {
        let emitted = std::mem::take(&mut self.emitted);
        self.statements(statements, &mut Cx { last: None, ..cx.clone() });
        self.emitted = emitted;
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

    /// Where a player goes or points: an object, a spot or a place.
    fn place_to_go(&mut self, at: &Where, cx: &Cx<'_>) {
        match at {
            Where::Named(path) => self.start(path, cx),
            Where::Held(at) => {
                if let Some(found) = self.expr(at, Some(&Type::Vector), cx) {
                    self.somewhere(found, at.span);
                }
            }
        }
    }

    /// A place measured from an object.
    pub(crate) fn offset(&mut self, offset: &Expr, cx: &Cx<'_>) -> Option<stoicheon_core::Expr> {
        let found = self.expr(offset, Some(&Type::Vector), cx)?;
        self.must_be(found, &super::Ty::VECTOR, offset.span, "a place, such as (3, 0, 2)")
    }

    /// A signal or an effect, and what its first fields are to be; `None` for one that may be anything.
    pub(crate) fn carries(
        &mut self,
        what: &Path,
        values: &[Expr],
        cx: &Cx<'_>,
    ) -> Option<(Watched, Vec<Option<stoicheon_core::Expr>>)> {
        let Some((watched, fields)) = self.carried(what, cx) else {
            self.watched(what, cx);
            return None;
        };
        if values.len() > fields.len() {
            let message = format!(
                "`{}` carries {}, found {} to compare with",
                watched.name(),
                super::statement::values(fields.len()),
                values.len()
            );
            self.wrong(Diagnostic::error(Code::WrongCount, message).at(what.span(), "carries less"));
            return None;
        }
        let mut wanted = Vec::new();
        for (field, value) in fields.iter().zip(values) {
            if matches!(&value.kind, ExprKind::Name(path) if path.text() == "_") {
                wanted.push(None);
                continue;
            }
            let wrong = |found: &str| {
                let message =
                    format!("`{}` is {}, found {found}", field.name, crate::suggest::a(field.ty.word()));
                Diagnostic::error(Code::WrongType, message).at(value.span, found)
            };
            wanted.push(Some(self.value_for(value, &field.ty, &cx.condition(), wrong)?));
        }
        Some((watched, wanted))
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
        let known = self.answers.get_or_init(|| {
            let parts = self.names.objects.iter().flat_map(|object| &object.parts);
            parts
                .filter(|(_, info)| info.name == "choice")
                .flat_map(|(part, info)| words_in(part, info))
                .collect()
        });
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
        for seen in steps.iter().filter(|step| matches!(step.step, Step::Sees { .. })) {
            let message = "`sees` is not allowed inside `together`";
            self.wrong(
                Diagnostic::error(Code::Misplaced, message)
                    .at(seen.span, "being read here")
                    .help("write it after `together { … }`"),
            );
        }
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
        if let Some(player) = players.iter().find(|player| player.text == name.text) {
            self.report.means(name.span, super::Rank::Local, player.span);
            return;
        }
        let names = players.iter().map(|player| player.text.as_str());
        let words = [
            "expect", "always", "never", "allow", "wait", "player", "save", "reload", "suspend", "together",
            "emit", "set", "cases",
        ];
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

    pub(super) fn unknown_watched(&mut self, path: &Path) {
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

/// Whether a statement is done at once, so that a playtest may say it.
pub(crate) fn at_once(statement: &StatementKind) -> bool {
    use StatementKind::{Destroy, Disable, Emit, Enable, Send, Set, Spawn, Tag};
    matches!(
        statement,
        Emit { .. }
            | Set { .. }
            | Enable(_)
            | Disable(_)
            | Destroy(_)
            | Spawn { .. }
            | Send { .. }
            | Tag { .. }
    )
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
