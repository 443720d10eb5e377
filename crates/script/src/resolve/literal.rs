//! What is written out: numbers, texts, colours, vectors, turns.

use stoicheon_core::{Arithmetic, Colour, Expr, Rotation, Seconds, Type, Value, Vec3};

use super::{
    Cx, Resolver, Ty, Typed,
    expr::{as_number, join},
    typed,
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Axis, Literal},
    source::Span,
};

impl Resolver<'_, '_> {
    pub(super) fn literal(&mut self, literal: &Literal, span: Span, cx: &Cx<'_>) -> Option<Typed> {
        match literal {
            Literal::Number(number) => typed(Ty::NUMBER, *number),
            Literal::Whole(number) => typed(Ty::WHOLE, *number),
            Literal::Degrees(angle) => typed(Ty::Angle, *angle),
            Literal::Text(text) => typed(Ty::Plain(Type::Text), text.clone()),
            Literal::Ticks(ticks) => typed(Ty::DURATION, stoicheon_core::ticks(*ticks)),
            Literal::Seconds(seconds) if *seconds == 0.0 => typed(Ty::DURATION, stoicheon_core::Ticks::ZERO),
            Literal::Seconds(seconds) => match cx.ids.rate().ticks(Seconds(*seconds)) {
                Ok(ticks) => typed(Ty::DURATION, ticks),
                Err(error) => {
                    self.wrong(Diagnostic::error(Code::BadLiteral, error.to_string()).at(span, "not this"));
                    None
                }
            },
            Literal::Colour(text) => match text.parse::<Colour>() {
                Ok(colour) => typed(Ty::Plain(Type::Colour), colour),
                Err(error) => {
                    self.wrong(Diagnostic::error(Code::BadLiteral, error.to_string()).at(span, "not this"));
                    None
                }
            },
        }
    }

    /// A number; reported if it is something else.
    pub(super) fn number(&mut self, expr: &model::Expr, cx: &Cx<'_>) -> Option<Expr> {
        let found = self.expr(expr, Some(&Type::Number), cx)?;
        match found.ty {
            Ty::Plain(Type::Number) => return Some(found.expr),
            Ty::Plain(Type::Whole) => return Some(as_number(found.expr)),
            _ => {}
        }
        self.must_be(found, &Ty::NUMBER, expr.span, "a number")
    }

    /// A text with values in it.
    pub(super) fn text(&mut self, parts: &[model::Expr], cx: &Cx<'_>) -> Option<Typed> {
        let found: Vec<_> = parts.iter().map(|part| self.expr(part, None, cx)).collect();
        Some(join(found.into_iter().collect::<Option<Vec<_>>>()?.into_iter()))
    }

    pub(super) fn vector(&mut self, parts: &[model::Expr], cx: &Cx<'_>) -> Option<Typed> {
        // The third number of a place in a flat scene is 0.
        let [x, y, z] = [0, 1, 2].map(|index| match parts.get(index) {
            Some(part) => self.number(part, cx),
            None => Some(Expr::from(0.0)),
        });
        let parts = [x?, y?, z?];
        let known = |expr: &Expr| if let Expr::Value(value) = expr { value.as_number() } else { None };
        #[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
        if let [Some(x), Some(y), Some(z)] = [known(&parts[0]), known(&parts[1]), known(&parts[2])] {
            return typed(Ty::VECTOR, Vec3::new(x as f32, y as f32, z as f32));
        }
        typed(Ty::VECTOR, Expr::Vector(Box::new(parts)))
    }

    pub(super) fn turn(&mut self, angle: &model::Expr, axis: &Axis, cx: &Cx<'_>) -> Option<Typed> {
        let found = self.expr(angle, None, cx);
        let about = match axis {
            Axis::Named(name) => match name.text.as_str() {
                "x" => Some(Vec3::X),
                "y" => Some(Vec3::Y),
                _ => Some(Vec3::Z),
            },
            Axis::Vector(expr) => {
                match self.expr(expr, None, &Cx { constant: Some("an axis"), ..cx.clone() }) {
                    Some(Typed { expr: Expr::Value(Value::Vector(about)), .. }) if about.length() > 0.0 => {
                        Some(about)
                    }
                    Some(_) => {
                        let message = "expected an axis: x, y, z, or a vector such as (0, 1, 0)";
                        self.wrong(Diagnostic::error(Code::WrongType, message).at(expr.span, "no axis"));
                        None
                    }
                    None => None,
                }
            }
        };
        let found = found?;
        if found.ty != Ty::Angle && !found.ty.is_number() {
            let message = format!("expected an angle, such as 90deg, found {}", found.ty.a());
            self.wrong(Diagnostic::error(Code::WrongType, message).at(angle.span, found.ty.a()));
            return None;
        }
        let (degrees, about) = (as_number(found.expr), about?);
        let ty = Ty::Plain(Type::Rotation);
        match &degrees {
            Expr::Value(Value::Number(known)) => typed(ty, Rotation::about(about, *known)),
            _ => typed(ty, Expr::Turn { degrees: Box::new(degrees), about }),
        }
    }

    pub(super) fn negate(&mut self, one: &model::Expr, cx: &Cx<'_>) -> Option<Typed> {
        let found = self.expr(one, None, cx)?;
        let nothing: Value = match &found.ty {
            Ty::Plain(Type::Number) => 0.0.into(),
            Ty::Plain(Type::Whole) => 0_i64.into(),
            Ty::Angle => 0.0.into(),
            Ty::Plain(Type::Vector) => Vec3::ZERO.into(),
            _ => {
                self.must_be(found, &Ty::NUMBER, one.span, "a number");
                return None;
            }
        };
        typed(
            found.ty,
            Expr::Arithmetic(Arithmetic::Subtract, Box::new(nothing.into()), Box::new(found.expr)),
        )
    }
}
