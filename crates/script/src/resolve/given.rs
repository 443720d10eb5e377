//! Named constants.

use stoicheon_core::{Type, Value};

use super::{Cx, Ids, Rank, Resolver, Ty, Typed, names::Known};
use crate::{
    diagnostic::{Code, Diagnostic},
    model,
    suggest::a,
};

impl Resolver<'_, '_> {
    /// What a constant gives. It is looked at once, and what is wrong with it told of once.
    pub(crate) fn given(&mut self, index: usize, ids: &dyn Ids) -> Option<Typed> {
        if let Some(first) = self.names.asked.iter().position(|asked| *asked == index) {
            self.given_circle(first);
            return None;
        }
        let constant = &self.names.givens[index];
        let (written, scope) = (constant.written, constant.scope);
        if matches!(constant.known, Known::NotYet) {
            self.names.asked.push(index);
            let found = self.looked_at(index, scope, ids);
            self.names.asked.pop();
            self.names.givens[index].known = found.map_or(Known::Wrong, Known::Value);
        }
        let Known::Value(value) = &self.names.givens[index].known else { return None };
        Some(Typed { ty: Ty::of(&written.ty.ty), expr: value.clone().into() })
    }

    fn given_circle(&mut self, first: usize) {
        let circle: Vec<_> =
            self.names.asked[first..].iter().map(|index| self.names.givens[*index].written).collect();
        let names: Vec<_> = circle.iter().map(|constant| constant.name.text.as_str()).collect();
        let message = format!("these given values depend on each other in a circle: {}", names.join(", "));
        let mut diagnostic = Diagnostic::error(Code::Circle, message);
        for constant in circle {
            diagnostic = diagnostic.at(constant.name.span, "needs the next");
        }
        self.wrong(diagnostic.help("one of them must be written out"));
    }

    /// Whether the values that a playtest gives can be given.
    pub(super) fn given_in_playtest(&mut self, given: &[model::Given], ids: &dyn Ids) {
        for model::Given { name, value } in given {
            let found = self.names.givens.iter().position(|known| known.written.name.text == name.text);
            let Some(index) = found else {
                let known = self.names.givens.iter().map(|known| known.written.name.text.as_str());
                let help = self.report.suggest(&name.text, "name", known);
                let message = format!("there is no given value `{}`", name.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message)
                        .at(name.span, "expected a name that is given")
                        .help(help),
                );
                continue;
            };
            let written = self.names.givens[index].written;
            self.report.means(name.span, Rank::Kind, written.name.span);
            let ty = &written.ty.ty;
            let cx = Cx::constant(self.names.givens[index].scope, "what is given", ids);
            let wrong = |found: &str| {
                let message = format!("`{}` is {}, found {found}", name.text, a(ty.word()));
                Diagnostic::error(Code::WrongType, message)
                    .at(value.span, found)
                    .at(written.ty.span, format!("declared as {ty} here"))
            };
            self.value_for(value, ty, &cx, wrong);
        }
    }

    fn looked_at(&mut self, index: usize, scope: usize, ids: &dyn Ids) -> Option<Value> {
        let written = self.names.givens[index].written;
        let (name, ty) = (&written.name.text, &written.ty.ty);
        if matches!(ty, Type::Object | Type::Player | Type::Spot) {
            let message = format!("`{name}` is {}, which is known only at run time", a(ty.word()));
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(written.ty.span, "no value")
                    .help("a number, a text, a span of time, a place or a word of a list can be given"),
            );
            return None;
        }
        let cx = Cx::constant(scope, "what is given", ids);
        let wrong = |found: &str| {
            let message = format!("`{name}` is {}, found {found}", a(ty.word()));
            Diagnostic::error(Code::WrongType, message)
                .at(written.value.span, found)
                .at(written.ty.span, format!("declared as {ty} here"))
        };
        let expr = self.value_for(&written.value, ty, &cx, wrong)?;
        expr.known()
    }
}
