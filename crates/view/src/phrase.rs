//! Values and expressions, worded as a wiring file words them.

use stoicheon_core::{Arithmetic, Comparison, Expr, Field, PartId, State, Tick, TickRate, Value};

/// `1.500s`
pub fn clock_time(rate: TickRate, tick: Tick) -> String {
    format!("{:.3}s", rate.seconds(stoicheon_core::Ticks(tick.0)).0)
}

/// A value, as a wiring file would write it.
pub fn value_text(state: &State, value: &Value) -> String {
    match value {
        Value::Bool(yes) => yes.to_string(),
        Value::Number(number) => number.to_string(),
        Value::Text(text) => format!("{text:?}"),
        Value::Duration(span) => format!("{}s", state.rate().seconds(*span).0),
        Value::Vector(vector) => vector_text(*vector),
        Value::Object(object) => state.name(*object).unwrap_or("somebody gone").to_owned(),
        _ => "nothing".to_owned(),
    }
}

pub(crate) fn vector_text(vector: stoicheon_core::Vec3) -> String {
    // Two decimals are plenty to tell places apart; a negative zero would only puzzle.
    let part = |part: f32| {
        let rounded = (f64::from(part) * 100.0).round() / 100.0;
        if rounded == 0.0 { 0.0 } else { rounded }
    };
    format!("({}, {}, {})", part(vector.x), part(vector.y), part(vector.z))
}

/// The object a part belongs to; with the kind, where the object has several parts.
pub(crate) fn part_text(state: &State, part: PartId) -> &str {
    state.object_of(part).and_then(|object| state.name(object)).unwrap_or("something gone")
}

/// An expression, as a wiring file would write it. `fields` are those of the signal it is about.
pub fn expr_text(state: &State, expr: &Expr, fields: &[Field]) -> String {
    Words { state, fields }.expr(expr, 0)
}

struct Words<'a> {
    state: &'a State,
    fields: &'a [Field],
}

impl Words<'_> {
    /// `tightness` is that of the operator around; a looser one inside it needs parentheses.
    fn expr(&self, expr: &Expr, tightness: u8) -> String {
        let (own, text) = match expr {
            Expr::Value(value) => (9, value_text(self.state, value)),
            Expr::Var(var) => (9, self.state.var_name(*var).unwrap_or("?").to_owned()),
            Expr::Field(number) => {
                let field = self.fields.get(usize::from(*number));
                (9, field.map_or("?", |field| field.name.as_str()).to_owned())
            }
            Expr::Who => (9, "who".to_owned()),
            Expr::State { part, state } => (4, self.state_test(*part, *state, "is")),
            Expr::Inside { body, zone } => {
                (4, format!("{} inside {}", self.expr(body, 5), part_text(self.state, *zone)))
            }
            Expr::Not(one) => match &**one {
                Expr::State { part, state } => (4, self.state_test(*part, *state, "is not")),
                one => (3, format!("not {}", self.expr(one, 4))),
            },
            Expr::And(one, two) => (2, format!("{} and {}", self.expr(one, 2), self.expr(two, 3))),
            Expr::Or(one, two) => (1, format!("{} or {}", self.expr(one, 1), self.expr(two, 2))),
            Expr::Compare(how, one, two) => {
                let sign = match how {
                    Comparison::Equal => "==",
                    Comparison::NotEqual => "!=",
                    Comparison::Less => "<",
                    Comparison::AtMost => "<=",
                    Comparison::Greater => ">",
                    Comparison::AtLeast => ">=",
                };
                (4, format!("{} {sign} {}", self.expr(one, 5), self.expr(two, 5)))
            }
            Expr::Arithmetic(how, one, two) => {
                let (own, sign) = match how {
                    Arithmetic::Add => (5, "+"),
                    Arithmetic::Subtract => (5, "-"),
                    Arithmetic::Multiply => (6, "*"),
                    Arithmetic::Divide => (6, "/"),
                };
                (own, format!("{} {sign} {}", self.expr(one, own), self.expr(two, own + 1)))
            }
            _ => (9, "?".to_owned()),
        };
        if own < tightness { format!("({text})") } else { text }
    }

    fn state_test(&self, part: PartId, state: u8, is: &str) -> String {
        let kind = self.state.kind_of(part);
        let word = kind.and_then(|kind| kind.states.get(usize::from(state))).unwrap_or(&"?");
        format!("{} {is} {word}", part_text(self.state, part))
    }
}

/// What a guard read: `level is 0.4, upper_gate is opening`.
pub fn readings_text(state: &State, guard: &Expr, readings: &[Value], fields: &[Field]) -> String {
    let one = |(read, value): (&Expr, &Value)| match (read, value) {
        (Expr::State { part, .. }, Value::Text(word)) => format!("{} is {word}", part_text(state, *part)),
        (read, value) => format!("{} is {}", expr_text(state, read, fields), value_text(state, value)),
    };
    guard.reads().into_iter().zip(readings).map(one).collect::<Vec<_>>().join(", ")
}
