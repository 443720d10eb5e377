//! What a guard holds for true all at once, as far as that can be told from how it is written.

use stoicheon_core::Comparison;

use crate::{
    model::{During, Expr, ExprKind, Literal},
    print,
    source::Span,
};

/// Something that a guard says of a name.
#[derive(Clone, Debug, PartialEq)]
enum Said {
    State { state: String, not: bool },
    Number(Comparison, f64),
    True(bool),
}

/// What is said of what, and where.
#[derive(Clone, Debug)]
struct Fact {
    of: String,
    said: Said,
    span: Span,
}

/// All that must hold together.
#[derive(Clone, Debug, Default)]
pub(super) struct Facts(Vec<Fact>);

impl Facts {
    /// Those of a guard and of a stage that a wire belongs to.
    pub(super) fn of(guard: Option<&Expr>, during: Option<&During>) -> Self {
        let mut facts = Self::default();
        guard.into_iter().for_each(|guard| facts.guard(guard));
        if let Some(During { stages, stage }) = during {
            let said = Said::State { state: stage.text.to_string(), not: false };
            facts.0.push(Fact { of: stages.text().to_string(), said, span: stages.span().to(stage.span) });
        }
        facts
    }

    pub(super) fn and(mut self, other: Self) -> Self {
        self.0.extend(other.0);
        self
    }

    fn guard(&mut self, guard: &Expr) {
        let span = guard.span;
        let mut add = |of: String, said: Said| self.0.push(Fact { of, said, span });
        match &guard.kind {
            ExprKind::And(one, two) => {
                self.guard(one);
                self.guard(two);
            }
            ExprKind::Is { subject, state, not } => {
                add(print::value(subject), Said::State { state: state.text.to_string(), not: *not });
            }
            ExprKind::Name(path) if path.text() == "false" => add("false".to_owned(), Said::True(true)),
            ExprKind::Name(path) if path.text() == "true" => {}
            ExprKind::Name(path) => add(path.text().to_string(), Said::True(true)),
            ExprKind::Not(inner) => {
                if let ExprKind::Name(path) = &inner.kind {
                    add(path.text().to_string(), Said::True(false));
                }
            }
            ExprKind::Compare(how, one, two) => match (number(one), number(two)) {
                (None, Some(number)) if is_name(one) => add(print::value(one), Said::Number(*how, number)),
                (Some(number), None) if is_name(two) => {
                    add(print::value(two), Said::Number(turned(*how), number));
                }
                _ => {}
            },
            _ => {}
        }
    }

    /// Two that contradict each other; `exclude` says whether an object cannot be in two states at once.
    pub(super) fn contradiction(&self, exclude: impl Fn(&str, &str, &str) -> bool) -> Option<(Span, Span)> {
        for (index, one) in self.0.iter().enumerate() {
            if one.of == "false" {
                return Some((one.span, one.span));
            }
            for two in self.0[index + 1..].iter().filter(|two| two.of == one.of) {
                let against = match (&one.said, &two.said) {
                    (Said::True(one), Said::True(two)) => one != two,
                    (Said::State { state: one, not: false }, Said::State { state: two, not: false }) => {
                        one != two && exclude(subject(&self.0[index].of), one, two)
                    }
                    (Said::State { state: one, not }, Said::State { state: two, not: other }) => {
                        one == two && not != other
                    }
                    (Said::Number(how, one), Said::Number(other, two)) => apart(*how, *one, *other, *two),
                    _ => false,
                };
                if against {
                    return Some((one.span, two.span));
                }
            }
        }
        None
    }
}

/// `errand of who` is a state of errand.
fn subject(of: &str) -> &str {
    of.split_once(" of ").map_or(of, |(of, _)| of)
}

fn is_name(expr: &Expr) -> bool {
    matches!(expr.kind, ExprKind::Name(_) | ExprKind::Of(..))
}

fn number(expr: &Expr) -> Option<f64> {
    match &expr.kind {
        ExprKind::Literal(Literal::Number(number)) => Some(*number),
        #[expect(clippy::cast_precision_loss, reason = "compared with others of its kind")]
        ExprKind::Literal(Literal::Whole(number)) => Some(*number as f64),
        ExprKind::Negate(inner) => number(inner).map(|number| -number),
        _ => None,
    }
}

/// `3 < level` says of level that it is more than 3.
fn turned(how: Comparison) -> Comparison {
    match how {
        Comparison::Less => Comparison::Greater,
        Comparison::AtMost => Comparison::AtLeast,
        Comparison::Greater => Comparison::Less,
        Comparison::AtLeast => Comparison::AtMost,
        same => same,
    }
}

/// Whether no number is both.
fn apart(how: Comparison, one: f64, other: Comparison, two: f64) -> bool {
    use Comparison::{AtLeast, AtMost, Equal, Greater, Less, NotEqual};
    let holds = |how: Comparison, number: f64, of: f64| match how {
        Equal => (number - of).abs() == 0.0,
        NotEqual => (number - of).abs() != 0.0,
        Less => number < of,
        AtMost => number <= of,
        Greater => number > of,
        AtLeast => number >= of,
    };
    match (how, other) {
        (Equal, other) => !holds(other, one, two),
        (how, Equal) => !holds(how, two, one),
        (Less, Greater | AtLeast) | (AtMost, Greater) => one <= two,
        (AtMost, AtLeast) => one < two,
        (Greater | AtLeast, Less) | (Greater, AtMost) => one >= two,
        (AtLeast, AtMost) => one > two,
        _ => false,
    }
}
