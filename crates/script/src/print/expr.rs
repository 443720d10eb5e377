//! Expressions as texts.

use super::quoted;
use crate::model::{ARITHMETIC, Among, Axis, COMPARISONS, Expr, ExprKind, Literal, Quantity, sign};
use stoicheon_core::Arithmetic;

/// The tightness of a value that stands by itself.
const ATOM: u8 = 9;

pub(super) fn text(expr: &Expr) -> String {
    within(expr, 0)
}

/// With parentheses, unless it stands by itself.
pub(super) fn atom(expr: &Expr) -> String {
    within(expr, ATOM)
}

/// As it stands after the word of a statement: what begins with a word needs no parentheses there.
pub(super) fn value(expr: &Expr) -> String {
    match &expr.kind {
        ExprKind::Of(..) | ExprKind::Nearest(..) | ExprKind::Quantity(..) => text(expr),
        _ => atom(expr),
    }
}

pub(super) fn list(exprs: &[Expr]) -> String {
    exprs.iter().map(text).collect::<Vec<_>>().join(", ")
}

/// `tightness` is that of the operator around; a looser one inside it needs parentheses.
fn within(expr: &Expr, tightness: u8) -> String {
    let (own, text) = words(expr);
    if own < tightness { format!("({text})") } else { text }
}

/// A number with all its digits and a dot, and whether it stands by itself.
fn number(number: f64) -> String {
    let text = number.to_string();
    if text.contains('.') { text } else { format!("{text}.0") }
}

fn literal(literal: &Literal) -> (u8, String) {
    let signed = |negative: bool, text: String| (if negative { 8 } else { ATOM }, text);
    match literal {
        Literal::Number(value) => signed(value.is_sign_negative(), number(*value)),
        Literal::Whole(value) => signed(*value < 0, value.to_string()),
        Literal::Degrees(value) => signed(value.is_sign_negative(), format!("{value}deg")),
        Literal::Seconds(value) => (ATOM, format!("{value}s")),
        Literal::Ticks(value) => (ATOM, format!("{value}ticks")),
        Literal::Text(text) => (ATOM, quoted(text)),
        Literal::Colour(text) => (ATOM, text.to_string()),
    }
}

pub(super) fn among(among: &Among) -> String {
    let mut text = among.of.text.to_string();
    if let Some(zone) = &among.inside {
        text = format!("{text} inside {}", zone.text());
    }
    if let Some(state) = &among.state {
        let not = if among.is_not { "not " } else { "" };
        text = format!("{text} is {not}{}", state.text);
    }
    if let Some(such_that) = &among.such_that {
        text = format!("{text} where {}", within(such_that, 4));
    }
    text
}

/// A text with values in it. Where a value has signs that cannot stand within quotes, the pieces are added.
fn joined(parts: &[Expr]) -> (u8, String) {
    let mut line = String::from("\"");
    for part in parts {
        if let ExprKind::Literal(Literal::Text(piece)) = &part.kind {
            let piece = quoted(piece);
            line.push_str(&piece[1..piece.len() - 1]);
            continue;
        }
        let value = text(part);
        if value.contains(['"', '\\', '{', '}', '\n']) {
            let all = parts.iter().map(|part| within(part, 6)).collect::<Vec<_>>().join(" + ");
            return (5, format!("\"\" + {all}"));
        }
        line = format!("{line}{{{value}}}");
    }
    (ATOM, line + "\"")
}

fn words(expr: &Expr) -> (u8, String) {
    match &expr.kind {
        ExprKind::Literal(value) => literal(value),
        ExprKind::Name(path) => (ATOM, path.text().to_string()),
        ExprKind::Last(path) => (ATOM, format!("last {}", path.text())),
        ExprKind::Text(parts) => joined(parts),
        ExprKind::Of(path, whose) => (8, format!("{} of {}", path.text(), within(whose, ATOM))),
        ExprKind::Call(name, args) => (ATOM, format!("{}({})", name.text, list(args))),
        ExprKind::Count(group) => (ATOM, format!("count({})", among(group))),
        ExprKind::Quantity(quantity, group) => {
            let word = match quantity {
                Quantity::Any => "any",
                Quantity::No => "no",
                Quantity::Every => "every",
            };
            (3, format!("{word} {}", among(group)))
        }
        ExprKind::Nearest(group, to) => {
            let to = to.as_ref().map_or_else(String::new, |to| format!(" to {}", within(to, ATOM)));
            (3, format!("nearest {}{to}", among(group)))
        }
        ExprKind::Vector(parts) => (ATOM, format!("({})", list(&parts[..]))),
        ExprKind::About(angle, axis) => {
            let axis = match &**axis {
                Axis::Named(name) => name.text.to_string(),
                Axis::Vector(axis) => within(axis, ATOM),
            };
            (8, format!("{} about {axis}", within(angle, ATOM)))
        }
        ExprKind::Not(one) => (3, format!("not {}", within(one, 4))),
        // One sign after the other stands without parentheses, which count as levels of nesting.
        ExprKind::Negate(one) if matches!(one.kind, ExprKind::Negate(_) | ExprKind::Literal(_)) => {
            (8, format!("-{}", text(one)))
        }
        ExprKind::Negate(one) => (8, format!("-{}", within(one, ATOM))),
        ExprKind::And(one, two) => (2, format!("{} and {}", within(one, 2), within(two, 3))),
        ExprKind::Or(one, two) => (1, format!("{} or {}", within(one, 1), within(two, 2))),
        ExprKind::Compare(how, one, two) => {
            (4, format!("{} {} {}", within(one, 5), sign(&COMPARISONS, how), within(two, 5)))
        }
        ExprKind::Arithmetic(how, one, two) => {
            let own = if matches!(how, Arithmetic::Add | Arithmetic::Subtract) { 5 } else { 6 };
            (own, format!("{} {} {}", within(one, own), sign(&ARITHMETIC, how), within(two, own + 1)))
        }
        ExprKind::Is { subject, state, not } => {
            let not = if *not { "not " } else { "" };
            (4, format!("{} is {not}{}", within(subject, 5), state.text))
        }
        ExprKind::Inside { body, zone, span, not } => {
            let not = if *not { "not " } else { "" };
            let span = span.as_ref().map_or_else(String::new, |span| format!(" for {}", within(span, 5)));
            (4, format!("{} {not}inside {}{span}", within(body, 5), zone.text()))
        }
        ExprKind::Tagged { object, tag, not } => {
            let not = if *not { "not " } else { "" };
            (4, format!("{} {not}tagged {}", within(object, 5), tag.text))
        }
        ExprKind::Carries { object, tag, not } => {
            let not = if *not { "not " } else { "" };
            (4, format!("{} {not}carries {}", within(object, 5), tag.text))
        }
        ExprKind::InScene { object, scene, not } => {
            let not = if *not { "not " } else { "" };
            (4, format!("{} {not}in {}", within(object, 5), scene.text))
        }
        ExprKind::Bad => (ATOM, "?".to_owned()),
    }
}
