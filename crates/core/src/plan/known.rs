//! What an expression gives that reads nothing.

use crate::{
    base::{geometry::Rotation, value::Value},
    plan::{calc, expr::Expr},
};

impl Expr {
    /// What it gives, if it reads nothing of the world.
    ///
    /// ```
    /// use stoicheon_core::{Expr, VarId};
    /// assert_eq!(Expr::from(2_i64).plus(3_i64).known(), Some(5_i64.into()));
    /// assert_eq!(Expr::var(VarId::default()).plus(3_i64).known(), None);
    /// ```
    pub fn known(&self) -> Option<Value> {
        let all = |parts: &[Self]| parts.iter().map(Self::known).collect::<Option<Vec<_>>>();
        Some(match self {
            Self::Value(value) => value.clone(),
            Self::Arithmetic(how, one, two) => calc::arithmetic(*how, &one.known()?, &two.known()?).0,
            Self::Compare(how, one, two) => calc::compare(*how, &one.known()?, &two.known()?),
            Self::Call(function, parts) => calc::call(*function, &all(parts)?).0,
            Self::Not(one) => one.known()?.as_bool().map_or(Value::Nothing, |yes| Value::Bool(!yes)),
            Self::And(one, two) => {
                Value::Bool(one.known()?.as_bool() == Some(true) && two.known()?.as_bool() == Some(true))
            }
            Self::Or(one, two) => {
                Value::Bool(one.known()?.as_bool() == Some(true) || two.known()?.as_bool() == Some(true))
            }
            Self::Vector(parts) => {
                let number = |index: usize| parts[index].known()?.as_number();
                calc::vector(number(0)?, number(1)?, number(2)?).0
            }
            Self::Turn { degrees, about } => {
                Value::Rotation(Rotation::about(*about, degrees.known()?.as_number()?))
            }
            Self::Text(parts) => {
                let mut text = String::new();
                for part in all(parts)? {
                    text.push_str(&part.shown()?);
                }
                Value::Text(text.into())
            }
            _ => return None,
        })
    }
}
