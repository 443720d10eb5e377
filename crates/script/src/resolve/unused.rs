//! Signals that are emitted and heard by nobody, and wires that wait for what nobody emits.

use std::collections::BTreeSet;

use smol_str::SmolStr;

use super::{Cx, NoIds, Resolver, bare, endless::walk};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{File, Path, StatementKind, Step},
};

impl Resolver<'_, '_> {
    pub(super) fn check_unused(&mut self, files: &[File]) {
        let ids = NoIds;
        let (mut heard, mut emitted): (BTreeSet<SmolStr>, BTreeSet<SmolStr>) = Default::default();
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
        bodies.extend(self.names.tasks.iter().map(|task| (&task.written.body, task.scope, None)));
        for (body, scope, owner) in bodies {
            walk(body, &mut |statement| {
                if let StatementKind::Emit { signal, .. } = &statement.kind {
                    emitted.extend(name_of(signal, scope, owner));
                }
            });
        }
        for step in files.iter().flat_map(|file| &file.playtests).flat_map(|playtest| &playtest.steps) {
            if let Step::Expect { what, .. } = &step.step
                && let Some(path) = bare(what)
            {
                heard.extend(name_of(path, 0, None));
            }
        }
        let mut declared = Vec::new();
        for message in &self.names.signals {
            declared.extend(message.span.map(|span| (message.name.clone(), span)));
        }
        for object in &self.names.objects {
            for (name, (_, span)) in object.signals.iter().filter(|_| object.written.is_some()) {
                declared.push((SmolStr::from(format!("{}.{name}", object.name)), *span));
            }
        }
        for (name, span) in declared {
            let warning = match (emitted.contains(&name), heard.contains(&name)) {
                (true, false) => {
                    Diagnostic::warning(Code::Unheard, format!("`{name}` is emitted, and nobody listens"))
                        .at(span, "no wire is on this signal")
                        .help(format!(
                            "wire it: on {name} {{ … }}; or is the name spelled differently there?"
                        ))
                }
                (false, true) => Diagnostic::warning(
                    Code::Unsent,
                    format!("somebody listens to `{name}`, and nothing in this file emits it"),
                )
                .at(span, "never emitted here")
                .help("that is right if the game itself emits it"),
                _ => continue,
            };
            self.wrong(warning);
        }
    }
}
