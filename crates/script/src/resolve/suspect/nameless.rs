//! What is remembered in a use of a kit that has no name: it is called by a number, which changes with the uses before it.

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Atom, Items, Object},
    resolve::Resolver,
};

/// What of it is remembered, by its name.
fn remembers(items: &Items) -> Option<String> {
    let var = items.vars.iter().find(|var| var.remember).map(|var| var.name.text.to_string());
    let objects = items.objects.iter().chain(&items.moulds);
    var.or_else(|| objects.filter(|object| does(object)).map(|object| object.name.text.to_string()).next())
}

fn does(object: &Object) -> bool {
    let says = |atom: &Atom| matches!(atom, Atom::Word(word) if word.text == "remember");
    object.remember
        || object.vars.iter().any(|var| var.remember)
        || object.parts.iter().any(|part| part.settings.iter().any(says))
}

impl Resolver<'_, '_> {
    pub(super) fn check_nameless(&mut self) {
        for (outer, _, used, kit) in self.names.uses.clone() {
            if used.name.is_some() || !self.names.is_own(outer) {
                continue;
            }
            let Some(what) = remembers(&kit.items) else { continue };
            let name = &kit.name.text;
            let message = format!("this use of `{name}` remembers `{what}`, but has no name of its own");
            let found = Diagnostic::warning(Code::Nameless, message)
                .at(used.kit.span, "called by a number, which changes if a use is added before it")
                .help(format!("saves find it again by its name: add {name} as NAME(…)"));
            self.within(outer, |r| r.wrong(found));
        }
    }
}
