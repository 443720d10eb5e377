//! Some of the objects there are: counting them, asking for any, for the nearest.

use stoicheon_core::{Among, Expr, PLAYER, Type};

use super::{Cx, Resolver, Ty, Typed, Which, typed};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Quantity},
    source::Span,
};

impl Resolver<'_, '_> {
    /// The group, and what is known of its members.
    pub(super) fn among(&mut self, among: &model::Among, cx: &Cx<'_>) -> Option<(Among, Which)> {
        self.group(among, cx, false)
    }

    /// `turned` takes those that are not in the state, or for which the condition does not hold.
    fn group(&mut self, among: &model::Among, cx: &Cx<'_>, turned: bool) -> Option<(Among, Which)> {
        let word = if among.of.text == "everyone" { PLAYER.into() } else { among.of.text.clone() };
        self.tag(&model::Name::new(word.clone(), among.of.span));
        let which = Which::Tagged(word.clone());
        let mut found = Among::tagged(cx.ids.tag(&word));
        if let Some(zone) = &among.inside {
            found = found.inside(self.zone(zone, cx)?);
        }
        let it = Some((which.clone(), Expr::It));
        let inner = Cx { it, may_draw: false, ..cx.clone() };
        let mut conditions = Vec::new();
        if let Some(state) = &among.state {
            // Players are found while the world runs; nothing is known of their parts.
            let of = if word == PLAYER { Which::Unknown } else { which.clone() };
            let test = self.is_in_state(&of, Expr::It, among.of.span, state, &inner)?;
            conditions.push(if among.is_not { test.not() } else { test });
        }
        if let Some(such_that) = &among.such_that {
            conditions.push(self.condition(such_that, &inner)?);
        }
        if let Some(all) = conditions.into_iter().reduce(Expr::and) {
            found = found.such_that(if turned { all.not() } else { all });
        }
        Some((found, which))
    }

    pub(super) fn quantity(
        &mut self,
        quantity: Quantity,
        among: &model::Among,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        if quantity == Quantity::Every && among.state.is_none() && among.such_that.is_none() {
            let message =
                "expected `is` and a state, or `where` and a condition, that every one of them is in";
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(among.span, "every one of them: which signal?"),
            );
            return None;
        }
        let (found, _) = self.group(among, cx, quantity == Quantity::Every)?;
        let any = Expr::Any(Box::new(found));
        typed(Ty::BOOL, if quantity == Quantity::Any { any } else { any.not() })
    }

    pub(super) fn nearest(
        &mut self,
        among: &model::Among,
        to: Option<&model::Expr>,
        span: Span,
        cx: &Cx<'_>,
    ) -> Option<Typed> {
        let to = match to {
            Some(to) => {
                let found = self.expr(to, None, cx)?;
                self.somewhere(found, to.span)?
            }
            None => match &cx.it {
                Some((_, it)) => it.clone(),
                None if cx.has_who => Expr::Who,
                None => {
                    let message = "nothing caused this: nearest to which object?";
                    self.wrong(
                        Diagnostic::error(Code::Nobody, message)
                            .at(span, "near to which object?")
                            .help("name it: nearest gate to towpath_pad"),
                    );
                    return None;
                }
            },
        };
        let (found, which) = self.among(among, cx)?;
        typed(Ty::Object(which), Expr::Nearest { among: Box::new(found), to: Box::new(to) })
    }

    /// An object, a spot or a place.
    pub(super) fn somewhere(&mut self, found: Typed, span: Span) -> Option<Expr> {
        match found.ty {
            Ty::Object(_) | Ty::Plain(Type::Spot | Type::Vector) => Some(found.expr),
            other => {
                let message = format!("expected an object, a spot or a place, found {}", other.a());
                self.wrong(Diagnostic::error(Code::WrongType, message).at(span, other.a()));
                None
            }
        }
    }
}
