//! Expressions.

use stoicheon_core::{Arithmetic, Comparison, Expr, Type, Value};

use super::{Cx, Resolver, Ty, Typed, Which, typed};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind},
    source::Span,
    suggest::a,
};

impl Resolver<'_, '_> {
    /// An expression that must be true or false, and that may be looked at any number of times.
    pub(super) fn condition(&mut self, expr: &model::Expr, cx: &Cx<'_>) -> Option<Expr> {
        self.truth(expr, &cx.condition())
    }

    /// An expression that must be true or false.
    pub(super) fn truth(&mut self, expr: &model::Expr, cx: &Cx<'_>) -> Option<Expr> {
        let found = self.expr(expr, Some(&Type::Bool), cx)?;
        self.must_be(found, &Ty::BOOL, expr.span, "a condition, such as `level > 0.5`")
    }

    /// An expression of a type, for a message that says what it is for.
    pub(super) fn must_be(&mut self, found: Typed, needed: &Ty, span: Span, what: &str) -> Option<Expr> {
        if found.ty == *needed {
            return Some(found.expr);
        }
        let message = format!("expected {what}, found {}", found.ty.a());
        let label = format!("{}, not {}", found.ty.a(), needed.a());
        self.wrong(Diagnostic::error(Code::WrongType, message).at(span, label));
        None
    }

    /// The expression as something of that type holds it, if it fits.
    pub(super) fn fit(found: Typed, ty: &Type) -> Result<Expr, Typed> {
        match (&found.ty, ty) {
            (Ty::Plain(Type::Whole), Type::Number) => Ok(as_number(found.expr)),
            (Ty::Plain(Type::OneOf(_)), Type::Text) => Ok(found.expr),
            (Ty::Plain(plain), wanted) if plain == wanted => Ok(found.expr),
            (Ty::Object(_), Type::Object | Type::Player) => Ok(found.expr),
            _ => Err(found),
        }
    }

    /// A span of time.
    pub(super) fn span_of_time(&mut self, expr: &model::Expr, cx: &Cx<'_>) -> Option<Expr> {
        let found = self.expr(expr, Some(&Type::Duration), cx)?;
        self.must_be(found, &Ty::DURATION, expr.span, "a span of time, such as 2s")
    }

    /// The expression and its type; `None` when something in it is wrong, which is reported then. `want` says what
    /// type is looked for: a word of a list is known by it.
    pub(crate) fn expr(&mut self, expr: &model::Expr, want: Option<&Type>, cx: &Cx<'_>) -> Option<Typed> {
        self.probe(expr.span, cx, want);
        let elsewhere = match &expr.kind {
            ExprKind::InScene { object, scene, not: false } => {
                want == Some(&Type::Spot) || self.is_spot_elsewhere(object, scene, cx)
            }
            _ => false,
        };
        if let Some(what) = cx.constant
            && !elsewhere
            && !matches!(
                expr.kind,
                ExprKind::Literal(_)
                    | ExprKind::Name(_)
                    | ExprKind::Vector(_)
                    | ExprKind::Text(_)
                    | ExprKind::About(..)
                    | ExprKind::Negate(_)
                    | ExprKind::Arithmetic(..)
                    | ExprKind::Bad
            )
        {
            self.not_constant(expr.span, what);
            return None;
        }
        match &expr.kind {
            ExprKind::Bad => None,
            ExprKind::Literal(literal) => self.literal(literal, expr.span, cx),
            ExprKind::Name(path) => self.value_named(path, want, cx),
            ExprKind::Of(path, whose) => self.var_of(path, whose, cx),
            ExprKind::Last(path) => self.last(path, cx),
            ExprKind::Call(name, args) => self.call(name, args, expr.span, want, cx),
            ExprKind::Count(among) => {
                let (among, _) = self.among(among, cx)?;
                typed(Ty::WHOLE, Expr::Count(Box::new(among)))
            }
            ExprKind::Quantity(quantity, among) => self.quantity(*quantity, among, cx),
            ExprKind::Nearest(among, to) => self.nearest(among, to.as_deref(), expr.span, cx),
            ExprKind::Vector(parts) => self.vector(parts, cx),
            ExprKind::Text(parts) => self.text(parts, cx),
            ExprKind::About(angle, axis) => self.turn(angle, axis, cx),
            ExprKind::Not(one) => {
                let one = self.truth(one, cx)?;
                typed(Ty::BOOL, one.not())
            }
            ExprKind::Negate(one) => self.negate(one, cx),
            ExprKind::And(one, two) => {
                let (one, two) = (self.truth(one, cx), self.truth(two, cx));
                typed(Ty::BOOL, one?.and(two?))
            }
            ExprKind::Or(one, two) => {
                let (one, two) = (self.truth(one, cx), self.truth(two, cx));
                typed(Ty::BOOL, one?.or(two?))
            }
            ExprKind::Compare(how, one, two) => self.compare(*how, one, two, cx),
            ExprKind::Arithmetic(how, one, two) => self.arithmetic(*how, one, two, cx),
            ExprKind::Is { subject, state, not } => {
                let test = self.is(subject, state, cx)?;
                typed(Ty::BOOL, if *not { test.not() } else { test })
            }
            ExprKind::Inside { body, zone, span, not } => {
                let found = self.expr(body, None, cx);
                let zone = self.zone(zone, cx);
                let body = self.an_object(found?, body.span, "an object, such as `who`")?.1;
                let body = Box::new(body);
                let test = match span {
                    Some(span) => {
                        let found = self.expr(span, Some(&Type::Duration), cx)?;
                        let least =
                            self.must_be(found, &Ty::Plain(Type::Duration), span.span, "a span, such as 2s")?;
                        Expr::InsideFor { body, zone: zone? }.compare(Comparison::AtLeast, least)
                    }
                    None => Expr::Inside { body, zone: zone? },
                };
                typed(Ty::BOOL, if *not { test.not() } else { test })
            }
            ExprKind::InScene { object, scene, not: false } if elsewhere => {
                self.spot_elsewhere(object, scene)
            }
            ExprKind::InScene { object, scene, not } => {
                self.scene(scene)?;
                let found = self.expr(object, None, cx)?;
                let (_, found) = self.an_object(found, object.span, "an object, such as `who`")?;
                let test = Expr::InScene { object: Box::new(found), scene: cx.ids.scene(&scene.text) };
                typed(Ty::BOOL, if *not { test.not() } else { test })
            }
            ExprKind::Carries { object, tag, not } => {
                self.tag(tag);
                let found = self.expr(object, None, cx)?;
                let (_, found) = self.an_object(found, object.span, "an object, such as `who`")?;
                let test = Expr::Carries { object: Box::new(found), tag: cx.ids.tag_anywhere(&tag.text) };
                typed(Ty::BOOL, if *not { test.not() } else { test })
            }
            ExprKind::Tagged { object, tag, not } => {
                self.tag(tag);
                let found = self.expr(object, None, cx)?;
                let (_, found) = self.an_object(found, object.span, "an object, such as `who`")?;
                let test = Expr::Tagged { object: Box::new(found), tag: cx.ids.tag_anywhere(&tag.text) };
                typed(Ty::BOOL, if *not { test.not() } else { test })
            }
        }
    }

    pub(super) fn not_constant(&mut self, span: Span, what: &str) {
        let message = format!("{what} must be known before the world runs");
        self.wrong(
            Diagnostic::error(Code::NotConstant, message)
                .at(span, "known only at run time")
                .help("write a number, a text or a place; in a kit, a parameter also works"),
        );
    }

    /// An object; reported if it is something else.
    pub(super) fn an_object(&mut self, found: Typed, span: Span, what: &str) -> Option<(Which, Expr)> {
        match found.ty {
            Ty::Object(which) => Some((which, found.expr)),
            other => {
                let message = format!("expected {what}, found {}", other.a());
                let label = format!("{}, not an object", other.a());
                self.wrong(Diagnostic::error(Code::WrongType, message).at(span, label));
                None
            }
        }
    }

    fn arithmetic(
        &mut self,
        how: Arithmetic,
        one: &model::Expr,
        two: &model::Expr,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        let (left, right) = (self.expr(one, None, cx), self.expr(two, None, cx));
        let (left, right) = (left?, right?);
        let is_text = |ty: &Ty| matches!(ty, Ty::Plain(Type::Text | Type::OneOf(_)));
        if how == Arithmetic::Add && (is_text(&left.ty) || is_text(&right.ty)) {
            return Some(join([left, right].into_iter()));
        }
        let Some(ty) = sum(how, &left.ty, &right.ty) else {
            let number = |ty: &Ty| ty.is_number();
            // The side that is no number at all is the one to point at.
            let (span, wrong) = match (number(&left.ty), number(&right.ty)) {
                (false, true) => (one.span, &left.ty),
                _ => (two.span, &right.ty),
            };
            let message = match (number(&left.ty), number(&right.ty)) {
                (true, false) | (false, true) => format!("expected a number, found {}", wrong.a()),
                _ => format!("{} and {} cannot be combined here", left.ty.a(), right.ty.a()),
            };
            self.wrong(
                Diagnostic::error(Code::WrongType, message).at(span, format!("{}, not a number", wrong.a())),
            );
            return None;
        };
        typed(ty, Expr::Arithmetic(how, Box::new(left.expr), Box::new(right.expr)))
    }

    fn compare(
        &mut self,
        how: Comparison,
        one: &model::Expr,
        two: &model::Expr,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        let left = self.expr(one, None, cx);
        let want =
            left.as_ref().and_then(|left| if let Ty::Plain(ty) = &left.ty { Some(ty.clone()) } else { None });
        let right = self.expr(two, want.as_ref(), cx);
        let (left, right) = (left?, right?);
        let both_numbers = left.ty.is_number() && right.ty.is_number();
        let both_objects = matches!((&left.ty, &right.ty), (Ty::Object(_), Ty::Object(_)));
        let word = matches!(
            (&left.ty, &right.ty),
            (Ty::Plain(Type::OneOf(_)), Ty::Plain(Type::Text))
                | (Ty::Plain(Type::Text), Ty::Plain(Type::OneOf(_)))
        );
        if left.ty != right.ty && !both_numbers && !both_objects && !word {
            let message = format!("{} cannot be compared with {}", left.ty.a(), right.ty.a());
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(two.span, right.ty.a())
                    .at(one.span, left.ty.a()),
            );
            return None;
        }
        if let (Ty::Plain(Type::OneOf(words)), Expr::Value(Value::Text(text))) = (&left.ty, &right.expr)
            && !words.contains(text)
        {
            self.not_a_word(text, words, two.span);
            return None;
        }
        let ordered = matches!(left.ty, Ty::Plain(Type::Number | Type::Whole | Type::Duration | Type::Text));
        if !ordered && !matches!(how, Comparison::Equal | Comparison::NotEqual) {
            let message = format!("{} has no order", left.ty.a());
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(one.span.to(two.span), "has no order")
                    .help("use == or !="),
            );
            return None;
        }
        typed(Ty::BOOL, left.expr.compare(how, right.expr))
    }

    pub(super) fn not_a_word(&mut self, found: &str, words: &[smol_str::SmolStr], span: Span) {
        let help = self.report.suggest(found, "word", words.iter().map(smol_str::SmolStr::as_str));
        let message = format!("`{found}` is not one of the words");
        self.wrong(
            Diagnostic::error(Code::UnknownState, message).at(span, "expected a word of the list").help(help),
        );
    }

    /// A value against the type of what will hold it.
    pub(super) fn value_for(
        &mut self,
        expr: &model::Expr,
        ty: &Type,
        cx: &Cx<'_>,
        wrong: impl FnOnce(&str) -> Diagnostic,
    ) -> Option<Expr> {
        let found = self.expr(expr, Some(ty), cx)?;
        match Self::fit(found, ty) {
            Ok(expr) => Some(expr),
            Err(found) => {
                let found = match (&found.ty, ty) {
                    (Ty::Plain(Type::OneOf(_)), Type::OneOf(_)) => "a word of another list".to_owned(),
                    (ty, _) => ty.a(),
                };
                let mut diagnostic = wrong(&found);
                if *ty == Type::Text {
                    diagnostic = diagnostic.help("write a value in a text between braces: \"{level} m\"");
                } else if *ty == Type::Whole && found == a("number") {
                    diagnostic = diagnostic.help("make it whole with round(…), floor(…) or ceil(…)");
                }
                self.wrong(diagnostic);
                None
            }
        }
    }
}

/// A number that may be a whole one, as a number.
pub(super) fn as_number(expr: Expr) -> Expr {
    match expr {
        Expr::Value(Value::Whole(_)) => {
            let Expr::Value(value) = expr else { return expr };
            value.as_number().unwrap_or_default().into()
        }
        Expr::Value(_) => expr,
        // What is a number already stays as it is.
        other => Expr::Call(stoicheon_core::Function::Number, vec![other]),
    }
}

/// Values one after the other as one text.
pub(super) fn join(parts: impl Iterator<Item = Typed>) -> Typed {
    let mut joined = Vec::new();
    for part in parts {
        match part.expr {
            Expr::Text(parts) => joined.extend(parts),
            other => joined.push(other),
        }
    }
    Typed { ty: Ty::Plain(Type::Text), expr: Expr::Text(joined) }
}

/// The type of what comes out of arithmetic, if the two go together.
fn sum(how: Arithmetic, one: &Ty, two: &Ty) -> Option<Ty> {
    use Arithmetic::{Add, Divide, Multiply, Subtract};
    let plain = |ty: &Ty| if let Ty::Plain(ty) = ty { Some(ty.clone()) } else { None };
    if let (Ty::Angle, Ty::Angle) = (one, two) {
        return match how {
            Add | Subtract => Some(Ty::Angle),
            Divide => Some(Ty::NUMBER),
            Multiply => None,
        };
    }
    if (*one == Ty::Angle && two.is_number()) || (*two == Ty::Angle && one.is_number() && how == Multiply) {
        return matches!(how, Multiply | Divide).then_some(Ty::Angle);
    }
    let (left, right) = (plain(one)?, plain(two)?);
    Some(match (how, left, right) {
        (Divide, Type::Number | Type::Whole, Type::Number | Type::Whole) => Ty::NUMBER,
        (_, Type::Whole, Type::Whole) => Ty::WHOLE,
        (_, Type::Number | Type::Whole, Type::Number | Type::Whole) => Ty::NUMBER,
        (Add | Subtract, Type::Duration, Type::Duration) => Ty::DURATION,
        (Divide, Type::Duration, Type::Duration) => Ty::NUMBER,
        (Multiply | Divide, Type::Duration, Type::Number | Type::Whole)
        | (Multiply, Type::Number | Type::Whole, Type::Duration) => Ty::DURATION,
        (Add | Subtract, Type::Vector, Type::Vector) => Ty::VECTOR,
        (Multiply | Divide, Type::Vector, Type::Number | Type::Whole)
        | (Multiply, Type::Number | Type::Whole, Type::Vector) => Ty::VECTOR,
        (Multiply, Type::Rotation, Type::Rotation) => Ty::Plain(Type::Rotation),
        _ => return None,
    })
}
