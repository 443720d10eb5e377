//! Values and expressions, worded as a wiring file words them.

use stoicheon_core::{
    Arithmetic, Comparison, Expr, Field, Function, PartId, PartOf, PartState, State, Tick, TickRate, Type,
    Value,
};

/// `1.500s`
pub fn clock_time(rate: TickRate, tick: Tick) -> String {
    format!("{:.3}s", rate.seconds(stoicheon_core::ticks(tick.0)).0)
}

/// How much of a long text is shown.
const LONGEST: usize = 200;

/// A value, as a wiring file would write it.
pub fn value_text(state: &State, value: &Value) -> String {
    match value {
        Value::Bool(yes) => yes.to_string(),
        Value::Number(number) => number.to_string(),
        Value::Whole(number) => number.to_string(),
        Value::Text(text) if text.len() > LONGEST => {
            let begins: String = text.chars().take(LONGEST).collect();
            format!("{begins:?}… ({} bytes)", text.len())
        }
        Value::Text(text) => format!("{text:?}"),
        Value::Duration(span) => format!("{}s", state.rate().seconds(*span).0),
        Value::Vector(vector) => vector_text(*vector),
        Value::Rotation(rotation) => {
            let (axis, degrees) = rotation.axis_and_degrees();
            // Most turn about one of the axes, and a file would name that.
            let named = [
                (stoicheon_core::Vec3::X, "x"),
                (stoicheon_core::Vec3::Y, "y"),
                (stoicheon_core::Vec3::Z, "z"),
            ];
            let along = named.iter().find(|(known, _)| known.dot(axis).abs() > 0.999_999);
            match along {
                Some((known, name)) if known.dot(axis) < 0.0 => {
                    format!("{}deg about {name}", rounded(-degrees))
                }
                Some((_, name)) => format!("{}deg about {name}", rounded(degrees)),
                None => format!("{}deg about {}", rounded(degrees), vector_text(axis)),
            }
        }
        Value::Colour(colour) => colour.to_string(),
        Value::Object(object) => state.name(*object).unwrap_or("somebody gone").to_owned(),
        Value::SpotElsewhere(path) => path.to_string(),
        Value::Spot(spot) => state.spot(*spot).map_or("a spot that is gone", |spot| &spot.name).to_owned(),
        _ => "nothing".to_owned(),
    }
}

/// A value of a type that is known: words of a list stand without quotes.
pub fn typed_text(state: &State, ty: Option<&Type>, value: &Value) -> String {
    match (ty, value) {
        (Some(Type::OneOf(_)), Value::Text(word)) => word.to_string(),
        _ => value_text(state, value),
    }
}

/// Two decimals are plenty to tell places apart; a negative zero would only puzzle.
fn rounded(number: f64) -> f64 {
    let rounded = (number * 100.0).round() / 100.0;
    if rounded == 0.0 { 0.0 } else { rounded }
}

pub(crate) fn vector_text(vector: stoicheon_core::Vec3) -> String {
    let part = |part: f32| rounded(f64::from(part));
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
        let (own, text) = self.words(expr);
        if own < tightness { format!("({text})") } else { text }
    }

    /// A text with values in it, as wiring writes it.
    fn joined(&self, parts: &[Expr]) -> String {
        let piece = |part: &Expr| match part {
            Expr::Value(Value::Text(text)) => {
                let text = format!("{text:?}");
                text[1..text.len() - 1].to_owned()
            }
            other => format!("{{{}}}", self.expr(other, 0)),
        };
        format!("\"{}\"", parts.iter().map(piece).collect::<String>())
    }

    fn list(&self, exprs: &[Expr]) -> String {
        exprs.iter().map(|expr| self.expr(expr, 0)).collect::<Vec<_>>().join(", ")
    }

    fn reading(&self, part: &PartOf, name: &str, who: Option<&Expr>) -> (u8, String) {
        let of = match part {
            PartOf::Part(part) => {
                let kind = self.state.kind_of(*part).map_or("?", |kind| kind.name);
                format!("{}.{kind}", part_text(self.state, *part))
            }
            PartOf::Of { object, kind } => format!("{}.{kind}", self.expr(object, 9)),
            _ => "?".to_owned(),
        };
        match who {
            Some(who) => (8, format!("{of}.{name} of {}", self.expr(who, 9))),
            None => (9, format!("{of}.{name}")),
        }
    }

    fn words(&self, expr: &Expr) -> (u8, String) {
        let state = self.state;
        match expr {
            Expr::Value(value) => (9, value_text(state, value)),
            Expr::Var(var) => (9, state.var_name(*var).unwrap_or("?").to_owned()),
            Expr::VarOf(var, who) => {
                (8, format!("{} of {}", state.var_name(*var).unwrap_or("?"), self.expr(who, 9)))
            }
            Expr::Property { object, name } => {
                (9, format!("{}.{}", self.expr(object, 9), state.property_word(*name)))
            }
            Expr::Field(number) => {
                let field = self.fields.get(usize::from(*number));
                (9, field.map_or("?", |field| field.name.as_str()).to_owned())
            }
            Expr::Local(number) => (9, format!("kept value {}", number + 1)),
            Expr::Who => (9, "who".to_owned()),
            Expr::It | Expr::Giver => (9, "it".to_owned()),
            Expr::Own => (9, "own".to_owned()),
            Expr::Reading { part, name, who, .. } => self.reading(part, name, who.as_deref()),
            Expr::State { .. }
            | Expr::StateOf { .. }
            | Expr::Inside { .. }
            | Expr::Tagged { .. }
            | Expr::InScene { .. }
            | Expr::Gone(_)
            | Expr::Hidden(_)
            | Expr::Passable(_)
            | Expr::Carries { .. }
            | Expr::Enabled(_) => (4, self.test(expr, "is", "")),
            Expr::Not(one) => match &**one {
                Expr::State { .. }
                | Expr::StateOf { .. }
                | Expr::Gone(_)
                | Expr::Hidden(_)
                | Expr::Passable(_)
                | Expr::Enabled(_) => (4, self.test(one, "is not", "")),
                Expr::Inside { .. } | Expr::Tagged { .. } | Expr::Carries { .. } | Expr::InScene { .. } => {
                    (4, self.test(one, "is", "not "))
                }
                // Every one of them is: none of them is not.
                Expr::Any(among) => match among.condition() {
                    Some(Expr::Not(condition)) => {
                        (4, format!("every {}", self.among_that(among, Some(condition))))
                    }
                    _ => (4, format!("no {}", self.among(among))),
                },
                one => (3, format!("not {}", self.expr(one, 4))),
            },
            Expr::Any(among) => (4, format!("any {}", self.among(among))),
            Expr::Count(among) => (9, format!("count({})", self.among(among))),
            Expr::Nearest { among, to } => {
                (8, format!("nearest {} to {}", self.among(among), self.expr(to, 9)))
            }
            Expr::Place(of) => (9, format!("{}.place", self.expr(of, 9))),
            Expr::Velocity(of) => (9, format!("{}.velocity", self.expr(of, 9))),
            Expr::InsideFor { body, zone } => {
                (9, format!("how long {} inside {}", self.expr(body, 9), part_text(self.state, *zone)))
            }
            Expr::Facing(of) => (9, format!("{}.facing", self.expr(of, 9))),
            Expr::Distance(one, two) => {
                (9, format!("distance({}, {})", self.expr(one, 0), self.expr(two, 0)))
            }
            Expr::Vector(parts) => (9, format!("({})", self.list(&parts[..]))),
            Expr::Turn { degrees, about } => {
                (8, format!("{} about {}", self.expr(degrees, 9), vector_text(*about)))
            }
            Expr::Call(Function::Number, operands) => (9, self.list(operands)),
            Expr::Call(function, operands) => (9, format!("{}({})", function.word(), self.list(operands))),
            Expr::Forward(of) => (9, format!("{}.forward", self.expr(of, 9))),
            Expr::Direction(one, two) => {
                (9, format!("direction({}, {})", self.expr(one, 0), self.expr(two, 0)))
            }
            Expr::Component(of, axis) => (9, format!("{}.{}", self.expr(of, 9), axis.word())),
            Expr::Middle(parts) => (9, format!("middle({})", self.list(&parts[..]))),
            Expr::CellSteps(parts) => (9, format!("steps_between({})", self.list(&parts[..]))),
            Expr::Name(of) => (9, format!("{}.name", self.expr(of, 9))),
            Expr::Text(parts) => (9, self.joined(parts)),
            Expr::Random(low, high) => (9, format!("random({}, {})", self.expr(low, 0), self.expr(high, 0))),
            Expr::RandomOf(among) => (9, format!("random({})", self.among(among))),
            Expr::And(one, two) => (2, format!("{} and {}", self.expr(one, 2), self.expr(two, 3))),
            Expr::Or(one, two) => (1, format!("{} or {}", self.expr(one, 1), self.expr(two, 2))),
            Expr::Compare(how, one, two) => (4, self.comparison(*how, one, two)),
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
        }
    }

    fn comparison(&self, how: Comparison, one: &Expr, two: &Expr) -> String {
        // A word of a list is asked for as a state is.
        if let (Some(Type::OneOf(_)), Expr::Value(Value::Text(word))) = (self.type_of(one), two) {
            match how {
                Comparison::Equal => return format!("{} is {word}", self.expr(one, 5)),
                Comparison::NotEqual => return format!("{} is not {word}", self.expr(one, 5)),
                _ => {}
            }
        }
        let sign = match how {
            Comparison::Equal => "==",
            Comparison::NotEqual => "!=",
            Comparison::Less => "<",
            Comparison::AtMost => "<=",
            Comparison::Greater => ">",
            Comparison::AtLeast => ">=",
        };
        format!("{} {sign} {}", self.expr(one, 5), self.expr(two, 5))
    }

    fn type_of(&self, expr: &Expr) -> Option<Type> {
        match expr {
            Expr::Var(var) | Expr::VarOf(var, _) => self.state.var_type(*var).cloned(),
            Expr::Field(number) => self.fields.get(usize::from(*number)).map(|field| field.ty.clone()),
            _ => None,
        }
    }

    fn test(&self, expr: &Expr, is: &str, not: &str) -> String {
        match expr {
            Expr::State { part, state } => self.state_test(*part, *state, is),
            Expr::StateOf { object, test } => format!("{} {is} {}", self.expr(object, 5), test.word()),
            Expr::Gone(object) => format!("{} {is} gone", self.expr(object, 5)),
            Expr::Enabled(object) => format!("{} {is} enabled", self.expr(object, 5)),
            Expr::Inside { body, zone } => {
                format!("{} {not}inside {}", self.expr(body, 5), part_text(self.state, *zone))
            }
            Expr::InScene { object, scene } => {
                let scene = self.state.scene_name(*scene).unwrap_or("a scene that is gone");
                format!("{} {not}in {scene}", self.expr(object, 5))
            }
            Expr::Hidden(object) => format!("{} {is} hidden", self.expr(object, 5)),
            Expr::Passable(object) => format!("{} {is} passable", self.expr(object, 5)),
            Expr::Carries { object, tag } => {
                format!("{} {not}carries {}", self.expr(object, 5), self.state.tag_word(*tag))
            }
            Expr::Tagged { object, tag } => {
                format!("{} {not}tagged {}", self.expr(object, 5), self.state.tag_word(*tag))
            }
            _ => "?".to_owned(),
        }
    }

    fn among(&self, among: &stoicheon_core::Among) -> String {
        self.among_that(among, among.condition())
    }

    fn among_that(&self, among: &stoicheon_core::Among, condition: Option<&Expr>) -> String {
        let mut text = self.state.tag_word(among.tag()).to_owned();
        if let Some(zone) = among.zone() {
            text = format!("{text} inside {}", part_text(self.state, zone));
        }
        match condition {
            Some(Expr::StateOf { object, test }) if **object == Expr::It => {
                format!("{text} is {}", test.word())
            }
            Some(condition) => format!("{text} where {}", self.expr(condition, 2)),
            None => text,
        }
    }

    fn state_test(&self, part: PartId, state: PartState, is: &str) -> String {
        let kind = self.state.kind_of(part);
        let word = kind.and_then(|kind| kind.states.get(usize::from(state))).unwrap_or(&"?");
        format!("{} {is} {word}", part_text(self.state, part))
    }
}

/// Whether it is a test that is told as it stands, or with `not`.
fn is_test(expr: &Expr) -> bool {
    matches!(
        expr,
        Expr::StateOf { .. }
            | Expr::Tagged { .. }
            | Expr::Carries { .. }
            | Expr::Gone(_)
            | Expr::Enabled(_)
            | Expr::Hidden(_)
            | Expr::Passable(_)
    )
}

/// What a guard read: `level is 0.4, upper_gate is opening`. Nothing if that would say no more than the guard itself.
pub fn readings_text(state: &State, guard: &Expr, readings: &[Value], fields: &[Field]) -> String {
    let itself = match guard {
        Expr::Not(test) => test,
        test => test,
    };
    if is_test(itself) { String::new() } else { facts_text(state, guard, readings, fields) }
}

/// What a condition read, also where that says no more than the condition: `lantern is disabled`.
pub(crate) fn facts_text(state: &State, guard: &Expr, readings: &[Value], fields: &[Field]) -> String {
    let words = Words { state, fields };
    let one = |(read, value): (&Expr, &Value)| match (read, value) {
        (Expr::State { part, .. }, Value::Text(word)) => format!("{} is {word}", part_text(state, *part)),
        (Expr::Inside { body, .. }, Value::Vector(at)) => {
            format!("{} is at {}", words.expr(body, 5), vector_text(*at))
        }
        (Expr::InScene { object, .. }, Value::Text(scene)) => {
            format!("{} is in {scene}", words.expr(object, 5))
        }
        (Expr::InScene { object, .. }, _) => format!("{} is in no scene", words.expr(object, 5)),
        (Expr::Any(among), Value::Object(one)) => {
            format!("{} is one: {}", state.name(*one).unwrap_or("somebody gone"), words.among(among))
        }
        (Expr::Any(among), _) => format!("there is no {}", words.among(among)),
        (Expr::Inside { body, .. }, _) => format!("{} is nowhere", words.expr(body, 5)),
        (test, Value::Bool(holds)) if is_test(test) => {
            if *holds {
                words.test(test, "is", "")
            } else {
                words.test(test, "is not", "not ")
            }
        }
        (read, value) => {
            let ty = words.type_of(read);
            format!("{} is {}", words.expr(read, 0), typed_text(state, ty.as_ref(), value))
        }
    };
    guard.reads().into_iter().zip(readings).map(one).collect::<Vec<_>>().join(", ")
}

/// A number with a comma after each thousand: `16,000`.
pub fn thousands(count: u64) -> String {
    let digits = count.to_string();
    let grouped = digits.char_indices().map(|(at, digit)| {
        let comma = at > 0 && (digits.len() - at).is_multiple_of(3);
        if comma { format!(",{digit}") } else { digit.to_string() }
    });
    grouped.collect()
}
