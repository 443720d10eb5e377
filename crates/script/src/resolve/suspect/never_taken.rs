//! Wires whose guards can never hold.

use super::facts::Facts;
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Name, Path},
    resolve::{Cx, NoIds, Resolver},
    source::Span,
};

impl Resolver<'_, '_> {
    pub(super) fn check_never_taken(&mut self) {
        for index in 0..self.names.wires.len() {
            let placed = self.names.wires[index];
            if !self.names.is_own(placed.scope) {
                continue;
            }
            let facts = Facts::of(placed.written.when.as_ref(), placed.written.during.as_ref());
            let Some((one, two)) =
                facts.contradiction(|of, one, two| self.excludes(placed.scope, of, one, two))
            else {
                continue;
            };
            let message = "this wire can never be taken: what it asks for never holds at once";
            let found = Diagnostic::warning(Code::NeverTaken, message);
            let found = if one == two {
                found.at(one, "never holds")
            } else {
                found.at(two, "never holds together with").at(one, "this")
            };
            self.within(placed.scope, |r| {
                r.wrong(found.help("remove the wire, or one of the conditions; or is `or` meant?"));
            });
        }
    }

    /// Whether an object cannot be in two states at once: both are of one of its parts.
    pub(super) fn excludes(&self, scope: usize, of: &str, one: &str, two: &str) -> bool {
        let names = of.split('.').map(|name| Name::new(name, Span::default())).collect();
        let Some(object) = self.object_named(&Path(names), &Cx::new(scope, &NoIds)) else { return false };
        let parts = self.names.objects[object].parts.iter().enumerate();
        let mut sets = parts.map(|(index, (_, info))| {
            let states = info.states.iter().map(ToString::to_string);
            states.chain(self.words_of(object, index).iter().map(ToString::to_string)).collect::<Vec<_>>()
        });
        sets.any(|states| states.iter().any(|state| state == one) && states.iter().any(|state| state == two))
    }
}
