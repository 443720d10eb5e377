//! Signals that are emitted and heard by nobody, and wires that wait for what nobody emits.

use std::collections::BTreeSet;

use smol_str::SmolStr;

use super::names::Names;
use crate::{
    diagnostic::{Code, Diagnostic, Severity},
    model::{Scene, Statement, Step},
};

pub(super) fn check(scene: &Scene, names: &Names, diagnostics: &mut Vec<Diagnostic>) {
    let wires = scene.all_wires();
    let mut emitted = BTreeSet::new();
    for (wire, _) in &wires {
        emissions(&wire.body, &mut emitted);
    }
    let mut heard: BTreeSet<SmolStr> = wires.iter().map(|(wire, _)| wire.signal.text()).collect();
    for (step, _) in scene.playtests.iter().flat_map(|playtest| &playtest.steps) {
        if let Step::Expect { what, .. } = step
            && let Some(path) = super::playtest::bare(what)
        {
            heard.insert(path.text());
        }
    }
    for signal in &scene.signals {
        let name = &signal.name;
        if !names.signals.contains_key(&name.text) {
            continue;
        }
        let warning = match (emitted.contains(&name.text), heard.contains(&name.text)) {
            (true, false) => Diagnostic::new(
                Severity::Warning,
                Code::Unheard,
                format!("`{}` is emitted, and nobody listens", name.text),
            )
            .at(name.span, "no wire is on this signal")
            .help(format!("wire it: on {} {{ … }}; or is the name spelled differently there?", name.text)),
            (false, true) => Diagnostic::new(
                Severity::Warning,
                Code::Unsent,
                format!("somebody listens to `{}`, and nothing in this file emits it", name.text),
            )
            .at(name.span, "never emitted here")
            .help("that is right if the game itself emits it"),
            _ => continue,
        };
        diagnostics.push(warning);
    }
}

fn emissions(statements: &[Statement], emitted: &mut BTreeSet<SmolStr>) {
    for statement in statements {
        match statement {
            Statement::Emit { signal, .. } => {
                emitted.insert(signal.text());
            }
            Statement::If { then, otherwise, .. } => {
                emissions(then, emitted);
                emissions(otherwise, emitted);
            }
            _ => {}
        }
    }
}
