//! What a playtest expected and what happened instead, in words.

use crate::{
    phrase::{clock_time, expr_text, facts_text, value_text},
    why::{history::History, how_it_came, last_time, misses::nearest_in},
};
use stoicheon_core::{
    About, Event, Expr, Field, ObjectId, State, Value, Values,
    playtest::{Expectation, Failure, Found, Last, Watched},
};

/// How often it is told what something carried.
const MOST_SHOWN: usize = 5;

/// What a playtest expected and what happened instead, as `stoicheon test` prints it: lines without an indent that say what
/// was expected, what happened, where, and what came nearest.
///
/// ```
/// use stoicheon_core::{Expr, World, playtest::Playtest};
/// use stoicheon_view::failure_text;
/// let mut world = World::<()>::new();
/// let level = world.var("level", 0.4)?;
/// let verdict = Playtest::new("the lock fills").expect(Expr::var(level).more_than(0.9)).run(&mut world, &mut ())?;
/// let text = failure_text(&world, &verdict.failure.expect("nobody fills it"));
/// assert_eq!(text[..2], ["expected  level > 0.9", "found     level is 0.4"]);
/// # Ok::<(), stoicheon_core::playtest::PlaytestError>(())
/// ```
pub fn failure_text(state: &State, failure: &Failure) -> Vec<String> {
    let time = clock_time(state.rate(), failure.tick);
    let mut lines = Vec::new();
    if let Some(expected) = &failure.expected {
        let within = failure.within.map_or(String::new(), |span| format!(", within {}s", span.0));
        lines.push(format!("expected  {}{within}", expectation(state, expected)));
    }
    lines.push(format!("found     {}", found(state, failure)));
    lines.push(format!("at        {time}, {}", failure.place));
    let history = History::of(state);
    let misses = about(state, failure)
        .map(|about| nearest_in(&history, about, whose(failure), state.now()))
        .unwrap_or_default();
    // Where nothing came near, what did happen says how it came to be as it is; of a condition, both say something.
    let both = !matches!(failure.expected, Some(Expectation::Happens(_) | Expectation::InOrder(_)));
    let last = if misses.is_empty() || both { changed_last(&history, failure) } else { Vec::new() };
    for (head, told) in [("nearest ", misses), ("last    ", last)] {
        for (index, line) in told.iter().enumerate() {
            lines.push(format!("{}  {line}", if index == 0 { head } else { "        " }));
        }
    }
    lines
}

/// How what a condition reads came to be as it is, or the last time of what came too often or with other values, with what led up
/// to that.
fn changed_last(history: &History<'_>, failure: &Failure) -> Vec<String> {
    let state = history.state;
    let last = |watched: &Watched| {
        last_time(history, |event| match (watched, event) {
            (Watched::Signal(name), Event::Delivered { signal, .. }) => {
                state.signal_name(*signal) == Some(name)
            }
            (Watched::Effect(name), Event::Performed { effect, .. }) => {
                state.effect_name(*effect) == Some(name)
            }
            _ => false,
        })
    };
    match &failure.expected {
        Some(Expectation::Holds(expr)) => how_it_came(history, expr),
        Some(Expectation::Exactly(watched, _) | Expectation::With { what: watched, .. }) => last(watched),
        Some(Expectation::OfLast { of, .. }) => of.first().map(|of| last(&of.what)).unwrap_or_default(),
        _ => Vec::new(),
    }
}

/// The player it is about: the one a condition asks for, or else the one who did something last.
fn whose(failure: &Failure) -> Option<ObjectId> {
    let asked = match &failure.expected {
        Some(Expectation::Holds(expr)) => expr.reads().iter().find_map(|read| match read {
            Expr::VarOf(_, of) => match &**of {
                Expr::Value(Value::Object(who)) => Some(*who),
                _ => None,
            },
            _ => None,
        }),
        _ => None,
    };
    asked.or(failure.who)
}

/// What did not happen that should have.
fn about(state: &State, failure: &Failure) -> Option<About> {
    let of = |watched: &Watched| match watched {
        Watched::Signal(name) => state.find_signal(name).map(About::Signal),
        Watched::Effect(name) => state.find_effect(name).map(About::Effect),
        _ => None,
    };
    match (failure.expected.as_ref()?, &failure.found) {
        (Expectation::Happens(watched), _) => of(watched),
        // Once too often is no miss.
        (Expectation::Exactly(watched, wanted), Found::Count(count)) if count < wanted => of(watched),
        (Expectation::InOrder(all), Found::Order(came)) => {
            all.iter().find(|watched| !came.contains(watched.name())).and_then(of)
        }
        (Expectation::Holds(expr), _) => expr.reads().iter().find_map(|read| match read {
            Expr::State { part, .. } => Some(About::Part(*part)),
            Expr::Var(var) | Expr::VarOf(var, _) => Some(About::Var(*var)),
            _ => None,
        }),
        _ => None,
    }
}

fn expectation(state: &State, expected: &Expectation) -> String {
    let times =
        |count: u64| if count == 1 { "exactly once".to_owned() } else { format!("exactly {count} times") };
    match expected {
        Expectation::Happens(watched) => format!("{} since a player last acted", happens(watched)),
        Expectation::Exactly(watched, count) => format!("{} {}", happens(watched), times(*count)),
        Expectation::InOrder(all) => {
            let names: Vec<_> = all.iter().map(|watched| watched.name().as_str()).collect();
            format!("{}, in this order, since a player last acted", names.join(", "))
        }
        Expectation::With { what, values, times: count } => {
            let values: Vec<_> = values
                .iter()
                .map(|value| {
                    value.as_ref().map_or_else(|| "_".to_owned(), |value| expr_text(state, value, &[]))
                })
                .collect();
            let count = count.map_or_else(|| "since a player last acted".to_owned(), times);
            format!("{}({}) {count}", what.name(), values.join(", "))
        }
        Expectation::OfLast { holds, of } => expr_text(state, holds, &named(of)),
        Expectation::Holds(expr) => expr_text(state, expr, &[]),
        _ => "something else".to_owned(),
    }
}

fn happens(watched: &Watched) -> String {
    match watched {
        Watched::Effect(name) => format!("{name} performed"),
        other => other.name().to_string(),
    }
}

fn found(state: &State, failure: &Failure) -> String {
    match (&failure.found, &failure.expected) {
        (
            Found::Count(0),
            Some(Expectation::Happens(Watched::Signal(_)) | Expectation::Exactly(Watched::Signal(_), _)),
        ) => "it was never delivered".to_owned(),
        (Found::Count(0), _) => "it was never performed".to_owned(),
        (Found::Count(1), _) => "it happened once in the whole playtest".to_owned(),
        (Found::Count(count), _) => format!("it happened {count} times in the whole playtest"),
        (Found::Order(names), _) if names.is_empty() => "none of them came".to_owned(),
        (Found::Order(names), _) => format!("they came as {}", names.join(", ")),
        (Found::Readings(values), Some(Expectation::Holds(expr))) => readings(state, expr, values, &[]),
        (Found::Readings(values), Some(Expectation::OfLast { holds, of })) => {
            readings(state, holds, values, &named(of))
        }
        (Found::Carried(all), Some(Expectation::With { what, .. })) => carried(state, what, all),
        (Found::NoLast(watched), _) => format!("{} has not happened so far", watched.name()),
        (Found::Readings(_), _) => "what was waited for did not come to hold".to_owned(),
        (Found::NotThere, _) => "the player did not get there in ten minutes".to_owned(),
        (Found::Offered(None), _) => "no prompt was offered to the player".to_owned(),
        (Found::Offered(Some(part)), _) => {
            let other = state.object_of(*part).and_then(|object| state.name(object)).unwrap_or("another");
            format!("the prompt of {other} was offered to the player instead")
        }
        (Found::NotAsked, _) => "no such question is put to the player".to_owned(),
        (Found::NotTaken { signal, why }, _) => {
            format!("the world whose word counts does not take {signal}: {why}")
        }
        (Found::Happened(watched), _) => format!("{} happened, which must never", watched.name()),
        (Found::RuleBroken(rule), _) => match state.rule(*rule) {
            Some((never, place)) => {
                format!("the rule was broken: never {} ({place})", expr_text(state, never, &[]))
            }
            None => "a rule of the scene was broken".to_owned(),
        },
        (Found::Fault(fault), _) => {
            let object = fault.object.and_then(|object| state.name(object));
            let object = object.map_or_else(String::new, |name| format!(" at {name}"));
            let wire = fault.wire.and_then(|wire| state.wire_place(wire));
            let place = wire.map_or_else(String::new, |place| format!(" ({place})"));
            format!("a fault{object}: {}{place}", fault.message)
        }
        (Found::Runaway(message) | Found::NotKept(message), _) => message.clone(),
        (Found::SaveMismatches(mismatches), _) => {
            mismatches.iter().map(ToString::to_string).collect::<Vec<_>>().join("; ")
        }
        _ => "something else".to_owned(),
    }
}

/// What it carried each time, for what should have carried something else.
fn carried(state: &State, what: &Watched, all: &[Values]) -> String {
    let one = |values: &Values| {
        let values: Vec<_> = values.iter().map(|value| value_text(state, value)).collect();
        format!("{}({})", what.name(), values.join(", "))
    };
    let shown: Vec<_> = all.iter().take(MOST_SHOWN).map(one).collect();
    match all.len() {
        0 => "it did not come".to_owned(),
        many if many > MOST_SHOWN => format!("{}, and {} more", shown.join(", "), many - MOST_SHOWN),
        _ => shown.join(", "),
    }
}

/// The names of values of what happened last.
fn named(of: &[Last]) -> Vec<Field> {
    of.iter().map(|last| last.named.clone()).collect()
}

fn readings(state: &State, expr: &Expr, values: &[Value], fields: &[Field]) -> String {
    let text = facts_text(state, expr, values, fields);
    if text.is_empty() { "it does not hold".to_owned() } else { text }
}
