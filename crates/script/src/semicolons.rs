//! Parts that begin among the settings of another one, for want of a semicolon.

use std::sync::Arc;

use stoicheon_core::{Catalogue, SettingInfoType};

use crate::{
    diagnostic::{Code, Diagnostic},
    files::Files,
    model::{Atom, File, Items, Object, Part},
};

impl Files<'_> {
    /// Makes two parts of each of them, so that it is told of once and what speaks of the second one is no fault.
    pub(crate) fn part_parts(&mut self, catalogue: &Catalogue) {
        let is_there = |object: &Object| object.parts.iter().any(|part| next_part(part, catalogue).is_some());
        let is_in =
            |items: &Items| items.objects.iter().chain(&items.managers).chain(&items.moulds).any(is_there);
        let says =
            |file: &&mut Arc<File>| is_in(&file.items) || file.kits.iter().any(|kit| is_in(&kit.items));
        for file in self.models.iter_mut().filter(says).map(Arc::make_mut) {
            let File { items, kits, .. } = file;
            for items in std::iter::once(items).chain(kits.iter_mut().map(|kit| &mut kit.items)) {
                let objects = items.objects.iter_mut().chain(&mut items.managers).chain(&mut items.moulds);
                objects.for_each(|object| part_parts(object, catalogue, &mut self.diagnostics));
            }
        }
    }
}

fn part_parts(object: &mut Object, catalogue: &Catalogue, told: &mut Vec<Diagnostic>) {
    let mut number = 0;
    while let Some(part) = object.parts.get_mut(number) {
        if let Some(at) = next_part(part, catalogue) {
            let mut rest = part.settings.split_off(at);
            let Atom::Word(kind) = rest.remove(0) else { return };
            let message = format!("expected a setting of the {}, found another part", part.kind.text);
            told.push(
                Diagnostic::error(Code::Syntax, message)
                    .at(kind.span, "begins here")
                    .help(format!("put a `;` before `{}`, or begin a line with it", kind.text)),
            );
            object.parts.insert(number + 1, Part { kind, settings: rest });
        }
        number += 1;
    }
}

/// Where the next part begins. Right after a word its kind may be what that word is about, as in `opens on prompt`.
fn next_part(part: &Part, catalogue: &Catalogue) -> Option<usize> {
    let info = catalogue.part(&part.kind.text)?;
    let begins = |two: &[Atom]| match two {
        [Atom::Value(_) | Atom::Group(_), Atom::Word(word)] => {
            catalogue.part(&word.text).is_some()
                && !info
                    .settings
                    .iter()
                    .any(|setting| setting.name == word.text || setting.ty == SettingInfoType::Table)
        }
        _ => false,
    };
    part.settings.windows(2).position(begins).map(|at| at + 1)
}
