//! Expressions: what guards, rules and the values of statements are made of.
//!
//! They are plain data over ids: no string is looked at while the world runs. Nothing panics: operands that do
//! not fit give [`Value::Nothing`], which no guard takes for true, and a number that is not finite becomes 0.

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    object::ObjectId,
    part::PartId,
    state::State,
    value::{Value, Values},
    var::VarId,
};

/// How two values are compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Comparison {
    /// `==`
    Equal,
    /// `!=`
    NotEqual,
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    Greater,
    /// `>=`
    AtLeast,
}

/// What is done with two numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Arithmetic {
    /// `+`
    Add,
    /// `-`
    Subtract,
    /// `*`
    Multiply,
    /// `/`; by 0 it gives 0
    Divide,
}

/// An expression.
///
/// ```
/// use stoicheon_core::{Expr, World};
/// let mut world = World::<()>::new();
/// let level = world.var("level", 0.4)?;
/// let full = Expr::var(level).more_than(0.95);
/// assert_eq!(world.evaluate(&full), false.into());
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Expr {
    /// A value as written.
    Value(Value),
    /// A variable.
    Var(VarId),
    /// A field of the payload, by number.
    Field(u8),
    /// Whom the signal goes back to.
    Who,
    /// Whether a part is in a state.
    State {
        /// The part.
        part: PartId,
        /// The state, as a number of its kind's list.
        state: u8,
    },
    /// Whether somebody is inside a zone.
    Inside {
        /// Who.
        body: Box<Expr>,
        /// The zone's part.
        zone: PartId,
    },
    /// Not.
    Not(Box<Expr>),
    /// Both; the second is looked at only if the first holds.
    And(Box<Expr>, Box<Expr>),
    /// One or the other; the second is looked at only if the first does not hold.
    Or(Box<Expr>, Box<Expr>),
    /// A comparison.
    Compare(Comparison, Box<Expr>, Box<Expr>),
    /// Arithmetic with numbers.
    Arithmetic(Arithmetic, Box<Expr>, Box<Expr>),
}

impl<T: Into<Value>> From<T> for Expr {
    fn from(value: T) -> Self {
        Self::Value(value.into())
    }
}

#[expect(clippy::should_implement_trait, reason = "`not` reads as the wiring language does")]
impl Expr {
    /// What a variable holds.
    pub fn var(var: VarId) -> Self {
        Self::Var(var)
    }

    /// A field of the payload, by its number.
    pub fn field(number: u8) -> Self {
        Self::Field(number)
    }

    /// A comparison with something.
    pub fn compare(self, how: Comparison, other: impl Into<Self>) -> Self {
        Self::Compare(how, Box::new(self), Box::new(other.into()))
    }

    /// `self > other`
    pub fn more_than(self, other: impl Into<Self>) -> Self {
        self.compare(Comparison::Greater, other)
    }

    /// `self < other`
    pub fn less_than(self, other: impl Into<Self>) -> Self {
        self.compare(Comparison::Less, other)
    }

    /// `self == other`
    pub fn equals(self, other: impl Into<Self>) -> Self {
        self.compare(Comparison::Equal, other)
    }

    /// `self + other`
    pub fn plus(self, other: impl Into<Self>) -> Self {
        Self::Arithmetic(Arithmetic::Add, Box::new(self), Box::new(other.into()))
    }

    /// Both hold.
    pub fn and(self, other: Self) -> Self {
        Self::And(Box::new(self), Box::new(other))
    }

    /// One of them holds.
    pub fn or(self, other: Self) -> Self {
        Self::Or(Box::new(self), Box::new(other))
    }

    /// It does not hold.
    pub fn not(self) -> Self {
        Self::Not(Box::new(self))
    }

    /// The expressions directly inside this one.
    pub fn operands(&self) -> SmallVec<[&Self; 2]> {
        match self {
            Self::Value(_) | Self::Var(_) | Self::Field(_) | Self::Who | Self::State { .. } => {
                SmallVec::new()
            }
            Self::Inside { body: one, .. } | Self::Not(one) => SmallVec::from_iter([&**one]),
            Self::And(one, two)
            | Self::Or(one, two)
            | Self::Compare(_, one, two)
            | Self::Arithmetic(_, one, two) => SmallVec::from_iter([&**one, &**two]),
        }
    }

    /// The conditions that are joined by `and` at the outside of it; itself, if there is no `and`.
    pub fn conditions(&self) -> Vec<&Self> {
        match self {
            Self::And(one, two) => [one.conditions(), two.conditions()].concat(),
            other => vec![other],
        }
    }

    /// What it reads that can change: variables, fields and part states, each once, in the order they stand.
    pub fn reads(&self) -> Vec<&Self> {
        let mut found = Vec::new();
        let mut open = vec![self];
        while let Some(expr) = open.pop() {
            if matches!(expr, Self::Var(_) | Self::Field(_) | Self::State { .. }) {
                let same = |other: &&Self| match (expr, *other) {
                    (Self::State { part: a, .. }, Self::State { part: b, .. }) => a == b,
                    (a, b) => a == b,
                };
                if !found.iter().any(same) {
                    found.push(expr);
                }
            }
            open.extend(expr.operands().into_iter().rev());
        }
        found
    }
}

/// What an expression can see.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scope<'a> {
    pub(crate) state: &'a State,
    pub(crate) values: &'a [Value],
    pub(crate) who: Option<ObjectId>,
}

impl Scope<'_> {
    pub(crate) fn holds(&self, expr: &Expr) -> bool {
        self.value(expr).as_bool() == Some(true)
    }

    pub(crate) fn values(&self, exprs: &[Expr]) -> Values {
        exprs.iter().map(|expr| self.value(expr)).collect()
    }

    /// The first condition that does not hold, and what it read.
    pub(crate) fn failing(&self, guard: &Expr) -> (u8, SmallVec<[Value; 2]>) {
        let conditions = guard.conditions();
        let failing = conditions.iter().position(|condition| !self.holds(condition)).unwrap_or(0);
        let readings = conditions.get(failing).map(|condition| self.readings(condition));
        (u8::try_from(failing).unwrap_or(u8::MAX), readings.unwrap_or_default())
    }

    /// What the expression's reads are now; a part's state as its word.
    pub(crate) fn readings(&self, expr: &Expr) -> SmallVec<[Value; 2]> {
        let read = |read: &Expr| match read {
            Expr::State { part, .. } => self.state.state_word(*part).map_or(Value::Nothing, Value::from),
            other => self.value(other),
        };
        expr.reads().into_iter().map(read).collect()
    }

    pub(crate) fn value(&self, expr: &Expr) -> Value {
        match expr {
            Expr::Value(value) => value.clone(),
            Expr::Var(var) => self.state.vars.get(*var).cloned().unwrap_or_default(),
            Expr::Field(number) => self.values.get(usize::from(*number)).cloned().unwrap_or_default(),
            Expr::Who => self.who.map_or(Value::Nothing, Value::Object),
            Expr::State { part, state } => {
                Value::Bool(self.state.parts.part(*part).is_some_and(|part| part.state() == *state))
            }
            Expr::Inside { body, zone } => {
                let body = self.value(body).as_object();
                Value::Bool(body.is_some_and(|body| self.state.is_inside(body, *zone)))
            }
            Expr::Not(one) => self.value(one).as_bool().map_or(Value::Nothing, |yes| Value::Bool(!yes)),
            Expr::And(one, two) => Value::Bool(self.holds(one) && self.holds(two)),
            Expr::Or(one, two) => Value::Bool(self.holds(one) || self.holds(two)),
            Expr::Compare(how, one, two) => compare(*how, &self.value(one), &self.value(two)),
            Expr::Arithmetic(how, one, two) => {
                match (self.value(one).as_number(), self.value(two).as_number()) {
                    (Some(one), Some(two)) => Value::Number(calculate(*how, one, two)),
                    _ => Value::Nothing,
                }
            }
        }
    }
}

fn compare(how: Comparison, one: &Value, two: &Value) -> Value {
    let ordering = match (one, two) {
        (Value::Number(one), Value::Number(two)) => one.partial_cmp(two),
        (Value::Duration(one), Value::Duration(two)) => Some(one.cmp(two)),
        (Value::Text(one), Value::Text(two)) => Some(one.cmp(two)),
        _ if one.type_of() != two.type_of() => None,
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

fn calculate(how: Arithmetic, one: f64, two: f64) -> f64 {
    let result = match how {
        Arithmetic::Add => one + two,
        Arithmetic::Subtract => one - two,
        Arithmetic::Multiply => one * two,
        Arithmetic::Divide => one / two,
    };
    if result.is_finite() { result } else { 0.0 }
}
