//! Whether what is expected is so, and what is found instead.

use std::cell::Cell;

use crate::{
    act::scope::Scope,
    base::value::{Value, Values},
    plan::{calc, expr::Expr, operators::Comparison},
    playtest::{Expectation, Found, Last, Watched, tally::Tally},
    state::State,
};

/// What an expression reads now.
pub(crate) fn readings(state: &State, expr: &Expr) -> Found {
    let eval_fault = Cell::new(None);
    Found::Readings(Scope::of(state, &eval_fault).readings(expr).into_vec())
}

/// The same where [`Expr::Field`] of a number is the value that stands there in the list.
fn readings_with(state: &State, expr: &Expr, values: &[Value]) -> Found {
    let eval_fault = Cell::new(None);
    let scope = Scope { values, ..Scope::of(state, &eval_fault) };
    Found::Readings(scope.readings(expr).into_vec())
}

pub(crate) fn holds(state: &State, tally: &Tally, what: &Expectation) -> bool {
    match what {
        Expectation::Happens(watched) => tally.happened(watched),
        Expectation::Exactly(watched, times) => tally.count(watched) == *times,
        Expectation::InOrder(all) => tally.came_in_order(all),
        Expectation::With { what, values, times } => {
            let alike = carried_like(state, tally, (what, values), times.is_some()).1;
            times.map_or(alike > 0, |times| alike == times)
        }
        Expectation::OfLast { holds, of } => {
            let last = |last: &Last| tally.last(last);
            let values: Option<Vec<Value>> = of.iter().map(last).collect();
            values.is_some_and(|values| state.evaluate_with(holds, &values).as_bool() == Some(true))
        }
        Expectation::Holds(expr) => state.evaluate(expr).as_bool() == Some(true),
    }
}

/// What it carried each time, and how often that was these values.
fn carried_like(
    state: &State,
    tally: &Tally,
    (what, values): (&Watched, &[Option<Expr>]),
    from_start: bool,
) -> (Vec<Values>, u64) {
    let wanted: Vec<_> =
        values.iter().map(|value| value.as_ref().map(|value| state.evaluate(value))).collect();
    let alike = |carried: &Values| {
        let value = |number: usize| carried.get(number).unwrap_or(&Value::Nothing);
        let is = |(number, wanted): (usize, &Option<Value>)| {
            wanted.as_ref().is_none_or(|wanted| {
                calc::compare(Comparison::Equal, value(number), wanted).as_bool() == Some(true)
            })
        };
        wanted.iter().enumerate().all(is)
    };
    let all: Vec<Values> = tally.carried(what, from_start).cloned().collect();
    let count = all.iter().filter(|carried| alike(carried)).count();
    (all, u64::try_from(count).unwrap_or(u64::MAX))
}

pub(crate) fn found(state: &State, tally: &Tally, what: &Expectation) -> Found {
    match what {
        Expectation::Happens(watched) | Expectation::Exactly(watched, _) => {
            Found::Count(tally.count(watched))
        }
        Expectation::With { what, values, times } => {
            let (all, alike) = carried_like(state, tally, (what, values), times.is_some());
            if alike > 0 { Found::Count(alike) } else { Found::Carried(all) }
        }
        Expectation::OfLast { holds, of } => {
            let last = |last: &Last| tally.last(last).ok_or_else(|| Found::NoLast(last.what.clone()));
            match of.iter().map(last).collect::<Result<Vec<_>, _>>() {
                Ok(values) => readings_with(state, holds, &values),
                Err(none) => none,
            }
        }
        Expectation::InOrder(all) => Found::Order(tally.order_of(all)),
        Expectation::Holds(expr) => readings(state, expr),
    }
}
