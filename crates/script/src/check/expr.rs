//! Expressions: names and types.

use smol_str::SmolStr;
use stoicheon_core::{Comparison, Field, Type};

use super::{
    Checker,
    names::{Found, a, suggest},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, Literal, Name, Path},
    source::Span,
};

const NUMBER: Found = Found::Type(Type::Number);
const BOOL: Found = Found::Type(Type::Bool);
const OBJECT: Found = Found::Type(Type::Object);

pub(super) fn literal_type(literal: &Literal) -> Found {
    match literal {
        Literal::Number(_) => NUMBER,
        Literal::Angle(_) => Found::Angle,
        Literal::Duration(_) => Found::Type(Type::Duration),
        Literal::Text(_) => Found::Type(Type::Text),
        Literal::Vector(_) => Found::Type(Type::Vector),
    }
}

impl Checker<'_> {
    /// Checks an expression that must be true or false.
    pub(super) fn condition(&mut self, expr: &Expr, fields: &[Field]) {
        let found = self.expr(expr, fields);
        self.expect(found, BOOL, expr.span, "a condition, such as `level > 0.5`");
    }

    /// Checks an expression that must be of a type.
    pub(super) fn expect(&mut self, found: Option<Found>, needed: Found, span: Span, what: &str) {
        let Some(found) = found.filter(|found| *found != needed) else { return };
        let message = format!("expected {what}, found {}", a(found.word()));
        self.diagnostics.push(
            Diagnostic::error(Code::WrongType, message)
                .at(span, format!("{}, not {}", a(found.word()), a(needed.word()))),
        );
    }

    /// The type of an expression; `None` when something in it is wrong, which is reported then.
    pub(super) fn expr(&mut self, expr: &Expr, fields: &[Field]) -> Option<Found> {
        match &expr.kind {
            ExprKind::Bad => None,
            ExprKind::Literal(literal) => Some(literal_type(literal)),
            ExprKind::Path(path) => self.name(path, fields),
            ExprKind::Not(one) => {
                self.condition(one, fields);
                Some(BOOL)
            }
            ExprKind::Negate(one) => {
                let found = self.expr(one, fields);
                self.expect(found, NUMBER, one.span, "a number");
                Some(NUMBER)
            }
            ExprKind::And(one, two) | ExprKind::Or(one, two) => {
                self.condition(one, fields);
                self.condition(two, fields);
                Some(BOOL)
            }
            ExprKind::Compare(how, one, two) => {
                self.compare(*how, one, two, fields);
                Some(BOOL)
            }
            ExprKind::Arithmetic(_, one, two) => {
                for side in [one, two] {
                    let found = self.expr(side, fields);
                    self.expect(found, NUMBER, side.span, "a number");
                }
                Some(NUMBER)
            }
            ExprKind::Is { object, state, .. } => {
                self.state_test(object, state);
                Some(BOOL)
            }
            ExprKind::Inside { body, zone, .. } => {
                let found = self.expr(body, fields);
                self.expect(found, OBJECT, body.span, "an object, such as `who`");
                self.zone(zone);
                Some(BOOL)
            }
        }
    }

    fn compare(&mut self, how: Comparison, one: &Expr, two: &Expr, fields: &[Field]) {
        let (Some(left), Some(right)) = (self.expr(one, fields), self.expr(two, fields)) else { return };
        if left != right {
            let message = format!("{} cannot be compared with {}", a(left.word()), a(right.word()));
            self.diagnostics.push(
                Diagnostic::error(Code::WrongType, message)
                    .at(two.span, a(right.word()))
                    .at(one.span, a(left.word())),
            );
            return;
        }
        let ordered = matches!(left, Found::Type(Type::Number | Type::Duration | Type::Text));
        if !ordered && !matches!(how, Comparison::Equal | Comparison::NotEqual) {
            let message = format!("{} is neither more nor less than another", a(left.word()));
            let span = Span { start: one.span.start, end: two.span.end };
            self.diagnostics.push(
                Diagnostic::error(Code::WrongType, message).at(span, "not in any order").help("use == or !="),
            );
        }
    }

    /// A bare name: a field of the payload, a variable, or an object.
    fn name(&mut self, path: &Path, fields: &[Field]) -> Option<Found> {
        if path.second.is_some() {
            let message = format!("expected a value, found `{}`, which is none", path.text());
            self.diagnostics.push(Diagnostic::error(Code::WrongType, message).at(path.span(), "no value"));
            return None;
        }
        let name = &path.first.text;
        match name.as_str() {
            "who" => return Some(OBJECT),
            "true" | "false" => return Some(BOOL),
            _ => {}
        }
        if let Some(field) = fields.iter().find(|field| field.name == *name) {
            return Some(Found::Type(field.ty));
        }
        if let Some((ty, _)) = self.names.vars.get(name) {
            return ty.map(Found::Type);
        }
        if self.names.objects.contains_key(name) {
            return Some(OBJECT);
        }
        let known = fields.iter().map(|field| field.name.as_str());
        let known = known.chain(self.names.vars.keys().map(SmolStr::as_str));
        let known = known.chain(self.names.objects.keys().map(SmolStr::as_str));
        let help = suggest(name, "value", known);
        self.diagnostics.push(
            Diagnostic::error(Code::UnknownName, format!("there is no `{name}`"))
                .at(path.span(), "expected a variable, a field of the signal or an object")
                .help(help),
        );
        None
    }

    fn state_test(&mut self, object: &Path, state: &Name) {
        let Some(known) = self.object(object) else { return };
        let states = || known.kinds.iter().flat_map(|kind| kind.states.iter().copied());
        if states().any(|word| word == state.text) {
            return;
        }
        let span = known.span;
        let diagnostic = if states().next().is_none() {
            Diagnostic::error(
                Code::UnknownState,
                format!("`{}` has no part with states, such as a door", object.text()),
            )
            .at(object.span(), "has no states")
            .at(span, "made here")
        } else {
            Diagnostic::error(Code::UnknownState, format!("`{}` is never `{}`", object.text(), state.text))
                .at(state.span, "expected a state")
                .help(suggest(&state.text, "state", states()))
        };
        self.diagnostics.push(diagnostic);
    }

    fn zone(&mut self, path: &Path) {
        let Some(known) = self.object(path) else { return };
        if known.kinds.iter().any(|kind| kind.name == "zone") {
            return;
        }
        let span = known.span;
        let message = format!("`{}` has no zone that somebody could be inside", path.text());
        self.diagnostics.push(
            Diagnostic::error(Code::UnknownPart, message)
                .at(path.span(), "has no zone")
                .at(span, "made here"),
        );
    }

    /// The object a path names; reported if there is none.
    pub(super) fn object(&mut self, path: &Path) -> Option<&'_ super::names::Known> {
        if self.names.object_at(path).is_none() {
            let help = suggest(&path.text(), "object", self.names.objects.keys().map(SmolStr::as_str));
            self.diagnostics.push(
                Diagnostic::error(Code::UnknownObject, format!("there is no object `{}`", path.text()))
                    .at(path.span(), "expected an object")
                    .help(help),
            );
        }
        self.names.object_at(path)
    }

    pub(super) fn unknown_signal(&mut self, path: &Path) {
        let text = path.text();
        // For `object.signal`, a misspelled half is looked for among the halves.
        let (what, help) = match (&path.second, self.names.objects.get(&path.first.text)) {
            (Some(second), Some(known)) => {
                let signals = known.kinds.iter().flat_map(|kind| kind.signals.iter().map(|s| s.name));
                let signals = signals.chain(["ready"]);
                let help = suggest(&second.text, "signal", signals);
                (format!("`{}` gives no signal `{}`", path.first.text, second.text), help)
            }
            (Some(_), None) => {
                let help =
                    suggest(&path.first.text, "object", self.names.objects.keys().map(SmolStr::as_str));
                (format!("there is no object `{}`", path.first.text), help)
            }
            (None, Some(known)) => {
                let signals: Vec<_> = known
                    .kinds
                    .iter()
                    .flat_map(|kind| kind.signals.iter().map(|signal| format!("{text}.{}", signal.name)))
                    .collect();
                let help = if signals.is_empty() {
                    format!("`{text}` is an object that gives no signal but {text}.ready")
                } else {
                    format!("`{text}` is an object; its signals are {}", signals.join(", "))
                };
                (format!("there is no signal `{text}`"), help)
            }
            (None, None) => {
                let scene_wide = self.names.signals.keys().map(SmolStr::as_str);
                let scene_wide = scene_wide.filter(|name| !name.contains('.'));
                (format!("there is no signal `{text}`"), suggest(&text, "signal", scene_wide))
            }
        };
        let span = match (&path.second, self.names.objects.get(&path.first.text)) {
            (Some(second), Some(_)) => second.span,
            (Some(_), None) => path.first.span,
            _ => path.span(),
        };
        self.diagnostics
            .push(Diagnostic::error(Code::UnknownSignal, what).at(span, "expected a signal").help(help));
    }

    pub(super) fn tag(&mut self, tag: &Name) {
        if self.names.tags.contains(&tag.text) {
            return;
        }
        let help = suggest(&tag.text, "tag", self.names.tags.iter().map(SmolStr::as_str));
        self.diagnostics.push(
            Diagnostic::new(
                crate::diagnostic::Severity::Warning,
                Code::UnknownTag,
                format!("nothing in this file has the tag `{}`", tag.text),
            )
            .at(tag.span, "nobody will be let through")
            .help(help),
        );
    }
}
