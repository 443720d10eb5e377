//! Why something did not happen: the wire that came nearest, and what led up to that.

use stoicheon_core::{About, Event, RecordId, State, Tick};

use crate::{paint::Paint, phrase::clock_time, trace_text::Printer};

/// How many links of a chain are shown at most.
const LONGEST_CHAIN: usize = 8;

/// Lines without an indent: the wire that came nearest and what refused it, then the chain of causes that led up to it,
/// the last one first. Empty when nothing in the wiring would have done it.
///
/// ```
/// use stoicheon_core::{Expr, Step, World};
/// use stoicheon_view::nearest_miss;
/// let mut world = World::<()>::new();
/// let (bell, rung) = (world.signal::<()>("bell")?, world.signal::<()>("rung")?);
/// let level = world.var("level", 0.4)?;
/// let steps = [Step::Emit { signal: rung.id(), values: Vec::new() }];
/// world.on(bell).when(Expr::var(level).more_than(0.95)).run_steps(steps)?;
/// world.emit(bell, ())?;
/// world.step(&mut ())?;
/// let lines = nearest_miss(&world, rung);
/// assert!(lines[0].ends_with("refused: level > 0.95; level is 0.4"));
/// assert_eq!(lines[1], "after bell, at 0.033s");
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
pub fn nearest_miss(state: &State, about: impl Into<About>) -> Vec<String> {
    let found = state.why_not(about, Tick(0)..=state.now());
    let paint = Paint::plain();
    let mut ignored = String::new();
    let printer = Printer { state, paint: &paint, places: true, records: &[], out: &mut ignored };
    let Some(miss) = found.misses.first() else { return Vec::new() };
    let place = printer.place(miss.wire);
    let signals: Vec<_> =
        state.wire_signals(miss.wire).iter().filter_map(|signal| state.signal_name(*signal)).collect();
    let (Some((record, _)), Some(why)) = (miss.refused, &miss.why) else {
        return vec![format!("{place} would have: {} never came", signals.join(", "))];
    };
    let fields = state.wire_signals(miss.wire).first().map_or(&[][..], |signal| state.signal_fields(*signal));
    let mut lines = vec![format!("{place} {}", printer.refusal(miss.wire, why, fields))];
    let cause = state.trace().get(record).and_then(|record| record.cause);
    lines.extend(links(&printer, cause).into_iter().map(|link| format!("after {link}")));
    lines
}

/// Lines without an indent: the last time that something happened, and the chain of causes that led up to it, the last
/// one first. Empty when it did not happen, as far as the trace reaches.
pub fn last_time(state: &State, is_it: impl Fn(&Event) -> bool) -> Vec<String> {
    let paint = Paint::plain();
    let mut ignored = String::new();
    let printer = Printer { state, paint: &paint, places: true, records: &[], out: &mut ignored };
    let found = state.trace().records().filter(|(_, record)| is_it(&record.event)).last();
    let links = links(&printer, found.map(|(id, _)| id)).into_iter().enumerate();
    links.map(|(index, link)| if index == 0 { link } else { format!("after {link}") }).collect()
}

/// What led up to a record, itself first.
fn links(printer: &Printer<'_>, from: Option<RecordId>) -> Vec<String> {
    let state = printer.state;
    let mut lines = Vec::new();
    let chain = from.map(|from| state.trace().why(from)).unwrap_or_default();
    for id in chain.into_iter().take(LONGEST_CHAIN) {
        let Some(record) = state.trace().get(id) else { break };
        let text = printer.link(&record.event);
        if !text.is_empty() {
            lines.push(format!("{text}, at {}", clock_time(state.rate(), record.tick)));
        }
    }
    lines
}
