//! Two wires that set one thing at the same signal, with nothing to say which comes last.

use std::collections::BTreeMap;

use smol_str::SmolStr;

use super::facts::Facts;
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Expr, StatementKind, Target, Wire},
    print,
    resolve::{Cx, NoIds, Resolver, names::Thing},
    source::Span,
};

/// With how many of those before it a wire is compared: where a hundred set one thing, one finding is enough.
const NEAR: usize = 16;

/// A wire that sets something.
struct Sets<'m> {
    wire: &'m Wire,
    scope: usize,
    to: &'m Expr,
    span: Span,
}

impl<'m> Resolver<'m, '_> {
    pub(super) fn check_one_order(&mut self) {
        let mut all: BTreeMap<(SmolStr, i32, String), Vec<Sets<'m>>> = BTreeMap::new();
        for placed in self.names.wires.iter().filter(|placed| self.names.is_own(placed.scope)) {
            let wire = placed.written;
            if wire.every {
                continue;
            }
            let cx = Cx { owner: placed.owner, ..Cx::new(placed.scope, &NoIds) };
            let Some(signal) = self.signal_named(&wire.on, &cx) else { continue };
            // What comes after a wait comes later than all of them.
            let at_once = wire.body.iter().take_while(|statement| {
                !matches!(statement.kind, StatementKind::Wait(_) | StatementKind::Until { .. })
            });
            for statement in at_once {
                let StatementKind::Set { target, with: None, to } = &statement.kind else { continue };
                if let Some(what) = self.what_is_set(target, placed.scope) {
                    let sets = Sets { wire, scope: placed.scope, to, span: target.path().span() };
                    all.entry((signal.name.clone(), wire.order, what)).or_default().push(sets);
                }
            }
        }
        for ((signal, order, _), sets) in &all {
            let pairs = sets.iter().enumerate().flat_map(|(number, two)| {
                sets[number.saturating_sub(NEAR)..number].iter().map(move |one| (one, two))
            });
            let Some((one, two)) = pairs.into_iter().find(|(one, two)| self.may_meet(one, two)) else {
                continue;
            };
            let name = print::value(&Expr {
                span: two.span,
                kind: model::ExprKind::Name(path_of(two.wire, two.span).unwrap_or(one.wire.on.clone())),
            });
            let message = format!("two wires on `{signal}` set `{name}`, both with order {order}");
            let found = Diagnostic::warning(Code::SameOrder, message)
                .at(two.span, "this one comes last, since it is written last")
                .at(one.span, "set here before")
                .help("give one of them another `order`, or set it in one wire only");
            self.within(two.scope, |r| r.wrong(found));
        }
    }

    /// What a statement sets, the same word for the same thing; nothing for what is known only in play.
    fn what_is_set(&self, target: &Target, scope: usize) -> Option<String> {
        let path = target.path();
        let of = match target {
            Target::Name(_) => String::new(),
            Target::Of(_, whose) => format!(" of {}", print::value(whose)),
        };
        match self.begin(path, scope)? {
            (Thing::Var(var), used) if used == path.0.len() => Some(format!("{var}{of}")),
            (Thing::Object(object), used) => {
                let rest: Vec<_> = path.0[used..].iter().map(|name| name.text.as_str()).collect();
                Some(format!("{object}.{}{of}", rest.join(".")))
            }
            _ => None,
        }
    }

    /// Whether one signal may be taken by both, to set different values.
    fn may_meet(&self, one: &Sets<'_>, two: &Sets<'_>) -> bool {
        let (first, second) = (one.wire, two.wire);
        let same_value = print::value(one.to) == print::value(two.to);
        let others = !first.by.is_empty()
            && !second.by.is_empty()
            && !first.by.iter().any(|tag| second.by.iter().any(|other| other.text == tag.text));
        let patterns = !first.pattern.is_empty() && !second.pattern.is_empty();
        let facts = |wire: &Wire| Facts::of(wire.when.as_ref(), wire.during.as_ref());
        let both = facts(first).and(facts(second));
        let never = both.contradiction(|of, a, b| self.excludes(one.scope, of, a, b)).is_some();
        !std::ptr::eq(first, second) && !same_value && !others && !patterns && !never
    }
}

/// The path of a wire's statement that stands there.
fn path_of(wire: &Wire, span: Span) -> Option<model::Path> {
    wire.body.iter().find_map(|statement| match &statement.kind {
        StatementKind::Set { target, .. } if target.path().span() == span => Some(target.path().clone()),
        _ => None,
    })
}
