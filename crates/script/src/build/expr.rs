//! Expressions: names become ids.

use stoicheon_core::{Error, Expr, Field, ObjectId, PartId, Value, World};

use super::{object, unknown};
use crate::model::{Expr as Written, ExprKind, Literal, Path};

/// What names in an expression can stand for.
pub(super) struct Exprs<'a, G> {
    pub(super) world: &'a World<G>,
    pub(super) fields: &'a [Field],
}

impl<G: 'static> Exprs<'_, G> {
    pub(super) fn expr(&self, expr: &Written) -> Result<Expr, Error> {
        let boxed = |expr: &Written| self.expr(expr).map(Box::new);
        Ok(match &expr.kind {
            ExprKind::Literal(literal) => Expr::Value(self.literal(literal)?),
            ExprKind::Path(path) => self.name(path)?,
            ExprKind::Not(one) => self.expr(one)?.not(),
            ExprKind::Negate(one) => {
                Expr::Arithmetic(stoicheon_core::Arithmetic::Subtract, Box::new(0.0.into()), boxed(one)?)
            }
            ExprKind::And(one, two) => Expr::And(boxed(one)?, boxed(two)?),
            ExprKind::Or(one, two) => Expr::Or(boxed(one)?, boxed(two)?),
            ExprKind::Compare(how, one, two) => Expr::Compare(*how, boxed(one)?, boxed(two)?),
            ExprKind::Arithmetic(how, one, two) => Expr::Arithmetic(*how, boxed(one)?, boxed(two)?),
            ExprKind::Is { object: path, state, not } => {
                let object = object(self.world, &path.first)?;
                let found = self.world.parts_of(object).iter().find_map(|part| {
                    let state = self.world.kind_of(*part)?.state(&state.text)?;
                    Some(Expr::State { part: *part, state })
                });
                negated(found.ok_or_else(|| unknown("a state", state))?, *not)
            }
            ExprKind::Inside { body, zone, not } => {
                let zone = self.zone(object(self.world, &zone.first)?, zone)?;
                negated(Expr::Inside { body: boxed(body)?, zone }, *not)
            }
            ExprKind::Bad => Expr::Value(Value::Nothing),
        })
    }

    fn zone(&self, object: ObjectId, path: &Path) -> Result<PartId, Error> {
        let is_zone = |part: &&PartId| self.world.kind_of(**part).is_some_and(|kind| kind.name == "zone");
        let zone = self.world.parts_of(object).iter().find(is_zone);
        zone.copied().ok_or_else(|| unknown("an object with a zone", &path.first))
    }

    fn name(&self, path: &Path) -> Result<Expr, Error> {
        let name = &path.first;
        match name.text.as_str() {
            "who" => return Ok(Expr::Who),
            "true" => return Ok(true.into()),
            "false" => return Ok(false.into()),
            _ => {}
        }
        let field = self.fields.iter().position(|field| field.name == name.text);
        if let Some(number) = field.and_then(|index| u8::try_from(index).ok()) {
            return Ok(Expr::Field(number));
        }
        if let Some(var) = self.world.find_var(&name.text) {
            return Ok(Expr::Var(var));
        }
        object(self.world, name).map(Expr::from)
    }

    fn literal(&self, literal: &Literal) -> Result<Value, Error> {
        Ok(match literal {
            Literal::Number(number) | Literal::Angle(number) => (*number).into(),
            Literal::Duration(span) => self.world.rate().ticks(*span)?.into(),
            Literal::Text(text) => Value::Text(text.clone()),
            Literal::Vector(vector) => (*vector).into(),
        })
    }
}

fn negated(expr: Expr, not: bool) -> Expr {
    if not { expr.not() } else { expr }
}
