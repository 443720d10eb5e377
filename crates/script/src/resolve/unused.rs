//! Signals that are emitted and heard by nobody, and wires that wait for what nobody emits.

use std::{collections::BTreeSet, sync::Arc};

use smol_str::SmolStr;

use super::{Cx, Hears, NoIds, Resolver, View, bare, walk::walk};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{File, Path, PlaytestStep, StatementKind, Step},
    source::Span,
};

/// The signals and effects that are expected.
fn expected(steps: &[PlaytestStep]) -> Vec<&Path> {
    fn of(step: &Step) -> Vec<&Path> {
        match step {
            Step::Expect { what, .. } | Step::Never(what) => bare(what).into_iter().collect(),
            Step::Sees { what, .. } => of(what),
            Step::InOrder { what, .. } => what.iter().collect(),
            Step::ExpectWith { what, .. } => vec![what],
            Step::Together(steps) => expected(steps),
            _ => Vec::new(),
        }
    }
    steps.iter().flat_map(|step| of(&step.step)).collect()
}

impl Resolver<'_, '_> {
    /// What all scenes share is heard and emitted in all of them, so only who sees all of them can tell.
    fn tells_unused_of(&self, scope: &super::names::Scope<'_>) -> bool {
        match self.names.view {
            View::Alone => true,
            View::Hall => false,
            View::Scene(_) => !scope.hall,
            View::Playtests(number) => number == 0 && scope.hall,
        }
    }

    pub(super) fn check_unused(&mut self, files: &[Arc<File>]) {
        let mut declared = Vec::new();
        let numbers = self.names.scopes.iter().filter(|scope| self.tells_unused_of(scope));
        for index in numbers.flat_map(|scope| scope.signals.values()) {
            let message = &self.names.signals[*index];
            declared.extend(message.span.map(|span| (message.name.clone(), span)));
        }
        let told = |object: &&super::Object<'_>| self.tells_unused_of(&self.names.scopes[object.scope]);
        for object in self.names.objects.iter().filter(told) {
            for (name, (_, span)) in object.signals.iter().filter(|_| object.written.is_some()) {
                declared.push((SmolStr::from(format!("{}.{name}", object.name)), *span));
            }
        }
        if declared.is_empty() {
            return;
        }
        let ids = NoIds;
        let (mut heard, mut emitted): (BTreeSet<SmolStr>, BTreeSet<SmolStr>) = Default::default();
        let objects = 0..self.names.objects.len();
        let by_parts: Vec<_> =
            objects.flat_map(|object| self.quietly(|r| r.part_wires(object, &ids))).collect();
        for plan in by_parts {
            match plan.hears {
                Hears::One(name) => heard.extend([name]),
                Hears::Of(..) => {}
                Hears::Every(tag, signal) => {
                    for object in self.names.tagged.get(&tag).into_iter().flatten() {
                        heard.extend(self.signal_of(*object, &signal).map(|signal| signal.name));
                    }
                }
            }
        }
        let name_of = |path: &Path, scope: usize, owner: Option<usize>| {
            let cx = Cx { owner, ..Cx::new(scope, &ids) };
            self.signal_named(path, &cx).map(|signal| signal.name)
        };
        let mut bodies = Vec::new();
        for placed in &self.names.wires {
            if placed.written.every {
                let [tag, signal] = &placed.written.on.0[..] else { continue };
                for object in self.names.tagged.get(&tag.text).into_iter().flatten() {
                    heard.extend(self.signal_of(*object, &signal.text).map(|signal| signal.name));
                }
            } else {
                heard.extend(name_of(&placed.written.on, placed.scope, placed.owner));
            }
            bodies.push((&placed.written.body, placed.scope, placed.owner));
        }
        bodies.extend(self.names.routines.iter().map(|routine| (&routine.written.body, routine.scope, None)));
        for (body, scope, owner) in bodies {
            walk(body, &mut |statement| {
                if let StatementKind::Emit { signal, .. } = &statement.kind {
                    emitted.extend(name_of(signal, scope, owner));
                }
            });
        }
        // Playtests of other scenes do not see what this one has.
        let seen = |file: &&Arc<File>| match self.names.view {
            View::Scene(own) => file.scene_number == own || file.scene_number == 0,
            View::Alone | View::Hall | View::Playtests(_) => true,
        };
        for file in files.iter().filter(seen) {
            let scope = self.names.scope_of_scene(file.scene_number);
            for path in file.playtests.iter().flat_map(|playtest| expected(&playtest.steps)) {
                heard.extend(name_of(path, scope.unwrap_or(0), None));
            }
        }
        heard.extend(self.heard.iter().chain(&self.names.heard_by_game).cloned());
        emitted.extend(self.emitted.iter().chain(&self.names.sent_by_game).cloned());
        // What one use of a kit makes no use of, another may; and what a scene shares is for others, too.
        let used: BTreeSet<Span> = declared
            .iter()
            .filter(|(name, _)| emitted.contains(name) || heard.contains(name))
            .map(|(_, span)| *span)
            .collect();
        let alone = self.names.view == View::Alone;
        let is_unused = |span: &Span| !used.contains(span) && (!alone || span.file == 0);
        for (name, span) in declared {
            let warning = match (emitted.contains(&name), heard.contains(&name)) {
                (true, false) => {
                    Diagnostic::warning(Code::Unheard, format!("`{name}` is emitted, but no wire listens to it"))
                        .at(span, "no wire is on this signal")
                        .help(format!(
                            "wire it: on {name} {{ … }}; if the game listens, say `heard by game`; or is the name spelled differently there?"
                        ))
                }
                (false, true) => Diagnostic::warning(
                    Code::Unsent,
                    format!("a wire listens to `{name}`, but nothing in this file emits it"),
                )
                .at(span, "never emitted here")
                .help("if the game's own code emits it, write `sent by game` after the signal"),
                (false, false) if !self.report.has_errors() && is_unused(&span) => {
                    Diagnostic::warning(Code::UnusedSignal, format!("nothing emits `{name}`, and no wire listens to it"))
                        .at(span, "used nowhere")
                        .help("remove it; if the game emits it or listens to it, say `sent by game` or `heard by game`")
                }
                _ => continue,
            };
            self.wrong(warning);
        }
    }
}
