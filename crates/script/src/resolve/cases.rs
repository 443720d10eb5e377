//! The table of a playtest's cases.

use smol_str::SmolStr;

use super::{Cx, Ids, Resolver, Typed, names::Thing};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Case, Cases, Given, Name, Path},
};

impl Resolver<'_, '_> {
    /// Whether a column gives a named constant its value; otherwise it is a name for the playtest alone.
    pub(super) fn gives(&self, name: &Name) -> bool {
        self.names.givens.iter().any(|known| known.written.name.text == name.text)
    }

    /// The columns that are names for the playtest alone, with the values of a case.
    pub(crate) fn values_of_case(
        &mut self,
        cases: &Cases,
        case: &Case,
        ids: &dyn Ids,
    ) -> Vec<(SmolStr, Typed)> {
        let cx = Cx::constant(self.names.home, "a value of a case", ids);
        let mut values = Vec::new();
        for (name, value) in cases.names.iter().zip(&case.values) {
            if !self.gives(name) {
                values.extend(self.expr(value, None, &cx).map(|value| (name.text.clone(), value)));
            }
        }
        values
    }

    /// Checks the table. What its own columns hold, by the first row, is what the lines are checked with.
    pub(super) fn cases(&mut self, cases: &Cases, ids: &dyn Ids) -> Vec<(SmolStr, Typed)> {
        self.columns(cases);
        let Some(first) = cases.rows.first() else {
            let message = "a table without a case: the playtest never runs";
            self.wrong(
                Diagnostic::error(Code::Vacuous, message)
                    .at(cases.span, "no row")
                    .help("write a row for each: \"too little\" (2, false)"),
            );
            return Vec::new();
        };
        let mut values = Vec::new();
        for case in &cases.rows {
            if case.values.len() != cases.names.len() {
                let found = super::statement::values(case.values.len());
                let expected = super::statement::values(cases.names.len());
                let message = format!("each case has {expected}, found {found}");
                self.wrong(Diagnostic::error(Code::WrongCount, message).at(case.span, "another count"));
                continue;
            }
            let given = cases.names.iter().zip(&case.values).filter(|(name, _)| self.gives(name));
            let given: Vec<_> =
                given.map(|(name, value)| Given { name: name.clone(), value: value.clone() }).collect();
            self.given_in_playtest(&given, ids);
            let found = self.values_of_case(cases, case, ids);
            if case.span == first.span {
                values = found;
                continue;
            }
            for (name, value) in found {
                let known = values.iter().find(|(known, _)| *known == name);
                if let Some((_, known)) = known.filter(|(_, known)| !alike(known, &value)) {
                    let column = cases.names.iter().position(|column| column.text == name).unwrap_or(0);
                    let message =
                        format!("`{name}` is {} in the first case, found {}", known.ty.a(), value.ty.a());
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(case.values[column].span, value.ty.a())
                            .at(first.values[column].span, known.ty.a()),
                    );
                }
            }
        }
        values
    }

    /// Each column has a name of its own.
    fn columns(&mut self, cases: &Cases) {
        for (index, name) in cases.names.iter().enumerate() {
            if let Some(taken) = super::names::reserved(name) {
                self.wrong(taken);
            }
            let thing = self.begin(&Path(vec![name.clone()]), self.names.home);
            let taken = cases.names[..index].iter().any(|other| other.text == name.text);
            if taken || !matches!(thing, None | Some((Thing::Constant(_), _))) {
                let message = format!("the name `{}` is already used", name.text);
                self.wrong(
                    Diagnostic::error(Code::NameTaken, message)
                        .at(name.span, "the name of a column")
                        .help("a column needs a new name, or the name of a `given`"),
                );
            }
        }
    }
}

fn alike(one: &Typed, two: &Typed) -> bool {
    one.ty == two.ty || one.ty.is_number() && two.ty.is_number()
}
