//! Arithmetic, and what comes out where mathematics has no answer.

use glam::Vec3;
use serde::{Deserialize, Serialize};

use crate::{
    base::{clock::Ticks, value::Value},
    plan::operators::{Arithmetic, Comparison, Function},
};

/// Something that could not be calculated. The result is laid down, and the trace says what happened.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[non_exhaustive]
pub enum EvalFault {
    /// Something was divided by 0; the result is 0.
    DividedByZero = 1,
    /// A number grew past all bounds, or was none; the result is 0.
    NotFinite = 2,
    /// A whole number or a span of time grew past its range; the result is the end of the range.
    PastRange = 3,
    /// A text that is put together grew too long; the result is cut.
    TooLong = 4,
    /// A range of cells goes too far; the result is cut.
    TooFar = 5,
}

impl EvalFault {
    /// What happened, in words.
    pub fn words(self) -> &'static str {
        match self {
            Self::DividedByZero => "a division by 0 gives 0",
            Self::NotFinite => "an infinite number gives 0",
            Self::TooLong => "a text longer than 10,000 bytes is cut",
            Self::TooFar => "a range of cells goes no farther than 100 steps",
            Self::PastRange => "a value beyond its range stays at the limit",
        }
    }
}

/// A result, and what went wrong on the way to it.
pub(crate) type Calculated = (Value, Option<EvalFault>);

fn fine(value: impl Into<Value>) -> Calculated {
    (value.into(), None)
}

const NOTHING: Calculated = (Value::Nothing, None);

fn finite(number: f64) -> Calculated {
    if number.is_finite() { fine(number) } else { (Value::Number(0.0), Some(EvalFault::NotFinite)) }
}

fn finite_vector(vector: Vec3) -> Calculated {
    if vector.is_finite() { fine(vector) } else { (Vec3::ZERO.into(), Some(EvalFault::NotFinite)) }
}

/// Three numbers as a vector.
#[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
pub(crate) fn vector(x: f64, y: f64, z: f64) -> Calculated {
    finite_vector(Vec3::new(x as f32, y as f32, z as f32))
}

fn within_range(exact: Option<i64>, end: i64) -> Calculated {
    exact.map_or((Value::Whole(end), Some(EvalFault::PastRange)), fine)
}

fn divide(one: f64, two: f64) -> Calculated {
    if two == 0.0 { (Value::Number(0.0), Some(EvalFault::DividedByZero)) } else { finite(one / two) }
}

fn scale(vector: Vec3, by: f64) -> Calculated {
    finite_vector((vector.as_dvec3() * by).as_vec3())
}

/// The longest span arithmetic gives, in ticks.
const LONGEST: f64 = 9e12;

/// A span times a number; spans are never below nothing.
fn stretch(span: Ticks, by: f64) -> Calculated {
    let count = span.count() * by;
    match Ticks::of_count(count).filter(|_| count < LONGEST) {
        Some(span) => fine(span),
        None => {
            let end = if count > 0.0 { Ticks::of_count(LONGEST).unwrap_or_default() } else { Ticks::ZERO };
            (end.into(), Some(EvalFault::PastRange))
        }
    }
}

pub(crate) fn arithmetic(how: Arithmetic, one: &Value, two: &Value) -> Calculated {
    use Arithmetic::{Add, Divide, Multiply, Subtract};
    match (how, one, two) {
        (Add, Value::Whole(one), Value::Whole(two)) => {
            within_range(one.checked_add(*two), one.saturating_add(*two))
        }
        (Subtract, Value::Whole(one), Value::Whole(two)) => {
            within_range(one.checked_sub(*two), one.saturating_sub(*two))
        }
        (Multiply, Value::Whole(one), Value::Whole(two)) => {
            within_range(one.checked_mul(*two), one.saturating_mul(*two))
        }
        (Add, Value::Duration(one), Value::Duration(two)) => match one.checked_add(*two) {
            Some(sum) => fine(sum),
            None => (Ticks::FOREVER.into(), Some(EvalFault::PastRange)),
        },
        (Subtract, Value::Duration(one), Value::Duration(two)) => match one.checked_sub(*two) {
            Some(rest) => fine(rest),
            None => (Ticks::ZERO.into(), Some(EvalFault::PastRange)),
        },
        (Divide, Value::Duration(one), Value::Duration(two)) => divide(one.count(), two.count()),
        (Add, Value::Vector(one), Value::Vector(two)) => finite_vector(*one + *two),
        (Subtract, Value::Vector(one), Value::Vector(two)) => finite_vector(*one - *two),
        (Multiply, Value::Rotation(one), Value::Rotation(two)) => fine(two.then(*one)),
        (Multiply, Value::Duration(span), by) | (Multiply, by, Value::Duration(span)) => {
            by.as_number().map_or(NOTHING, |by| stretch(*span, by))
        }
        (Divide, Value::Duration(span), by) => match by.as_number() {
            Some(0.0) => (Ticks::ZERO.into(), Some(EvalFault::DividedByZero)),
            Some(by) => stretch(*span, 1.0 / by),
            None => NOTHING,
        },
        (Multiply, Value::Vector(vector), by) | (Multiply, by, Value::Vector(vector)) => {
            by.as_number().map_or(NOTHING, |by| scale(*vector, by))
        }
        (Divide, Value::Vector(vector), by) => match by.as_number() {
            Some(0.0) => (Vec3::ZERO.into(), Some(EvalFault::DividedByZero)),
            Some(by) => scale(*vector, 1.0 / by),
            None => NOTHING,
        },
        _ => match (one.as_number(), two.as_number()) {
            (Some(one), Some(two)) => match how {
                Add => finite(one + two),
                Subtract => finite(one - two),
                Multiply => finite(one * two),
                Divide => divide(one, two),
            },
            _ => NOTHING,
        },
    }
}

/// A number as a whole one.
#[expect(clippy::cast_possible_truncation, reason = "checked just before")]
fn whole(number: f64) -> Calculated {
    if number.is_nan() {
        (Value::Whole(0), Some(EvalFault::NotFinite))
    } else if (-9.2e18..=9.2e18).contains(&number) {
        fine(number as i64)
    } else {
        (Value::Whole(if number > 0.0 { i64::MAX } else { i64::MIN }), Some(EvalFault::PastRange))
    }
}

pub(crate) fn call(function: Function, values: &[Value]) -> Calculated {
    let number = |index: usize| values.get(index).and_then(Value::as_number);
    match function {
        Function::Min => extreme(values, Comparison::Less),
        Function::Max => extreme(values, Comparison::Greater),
        Function::Clamp => {
            let [value, low, high] = values else { return NOTHING };
            let (raised, _) = extreme(&[value.clone(), low.clone()], Comparison::Greater);
            extreme(&[raised, high.clone()], Comparison::Less)
        }
        Function::Lerp => match (values, number(2)) {
            ([one, two, _], Some(part)) => between(one, two, part),
            _ => NOTHING,
        },
        Function::Abs => match values {
            [Value::Whole(number)] => within_range(number.checked_abs(), i64::MAX),
            _ => number(0).map_or(NOTHING, |number| fine(number.abs())),
        },
        Function::Round => number(0).map_or(NOTHING, |number| whole(number.round())),
        Function::Floor => number(0).map_or(NOTHING, |number| whole(number.floor())),
        Function::Ceil => number(0).map_or(NOTHING, |number| whole(number.ceil())),
        Function::Remainder => match values {
            [Value::Whole(_), Value::Whole(0)] => (Value::Whole(0), Some(EvalFault::DividedByZero)),
            [Value::Whole(one), Value::Whole(two)] => fine(one.checked_rem_euclid(*two).unwrap_or(0)),
            _ => match (number(0), number(1)) {
                (Some(_), Some(0.0)) => (Value::Number(0.0), Some(EvalFault::DividedByZero)),
                (Some(one), Some(two)) => finite(one.rem_euclid(two)),
                _ => NOTHING,
            },
        },
        Function::Number => number(0).map_or(NOTHING, fine),
        Function::Length => match values {
            [Value::Vector(vector)] => finite(vector.as_dvec3().length()),
            _ => NOTHING,
        },
    }
}

/// The value none of the others is `how` than; the first of equals.
fn extreme(values: &[Value], how: Comparison) -> Calculated {
    let mut best: Option<&Value> = None;
    for value in values {
        match best.map(|best| compare(how, value, best)) {
            None | Some(Value::Bool(true)) => best = Some(value),
            Some(Value::Bool(false)) => {}
            Some(_) => return NOTHING,
        }
    }
    (best.cloned().unwrap_or_default(), None)
}

/// The part of the way from one value to another.
pub(crate) fn between(one: &Value, two: &Value, part: f64) -> Calculated {
    match (one, two) {
        (Value::Vector(one), Value::Vector(two)) => {
            let (one, two) = (one.as_dvec3(), two.as_dvec3());
            finite_vector((one + (two - one) * part).as_vec3())
        }
        (Value::Rotation(one), Value::Rotation(two)) => fine(one.toward(*two, part)),
        (Value::Colour(one), Value::Colour(two)) => fine(one.toward(*two, part)),
        (Value::Whole(_), Value::Whole(_)) => match (one.as_number(), two.as_number()) {
            (Some(one), Some(two)) => whole((one + (two - one) * part).round()),
            _ => NOTHING,
        },
        _ => match (one.as_number(), two.as_number()) {
            (Some(one), Some(two)) => finite(one + (two - one) * part),
            _ => NOTHING,
        },
    }
}

pub(crate) fn compare(how: Comparison, one: &Value, two: &Value) -> Value {
    let ordering = match (one, two) {
        (Value::Number(one), Value::Number(two)) => one.partial_cmp(two),
        (Value::Whole(one), Value::Whole(two)) => Some(one.cmp(two)),
        (Value::Number(_), Value::Whole(_)) | (Value::Whole(_), Value::Number(_)) => {
            one.as_number().partial_cmp(&two.as_number())
        }
        (Value::Duration(one), Value::Duration(two)) => Some(one.cmp(two)),
        (Value::Text(one), Value::Text(two)) => Some(one.cmp(two)),
        _ if std::mem::discriminant(one) != std::mem::discriminant(two) => None,
        _ => {
            return match how {
                Comparison::Equal => Value::Bool(one == two),
                Comparison::NotEqual => Value::Bool(one != two),
                _ => Value::Nothing,
            };
        }
    };
    ordering.map_or(Value::Nothing, |ordering| {
        Value::Bool(match how {
            Comparison::Equal => ordering.is_eq(),
            Comparison::NotEqual => ordering.is_ne(),
            Comparison::Less => ordering.is_lt(),
            Comparison::AtMost => ordering.is_le(),
            Comparison::Greater => ordering.is_gt(),
            Comparison::AtLeast => ordering.is_ge(),
        })
    })
}
