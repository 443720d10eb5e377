//! Why something did not happen: the wire that came nearest, and what led up to that.

use stoicheon_core::{About, Event, ObjectId, RecordId, State, Tick};

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
/// let (bell, rung) = (world.declare_signal::<()>("bell")?, world.declare_signal::<()>("rung")?);
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
    nearest_miss_for(state, about, None)
}

/// The same about one player: what refused a signal that goes back to them comes before what refused others.
pub fn nearest_miss_for(state: &State, about: impl Into<About>, who: Option<ObjectId>) -> Vec<String> {
    let found = state.why_not_for(about, who, Tick(0)..=state.now());
    let paint = Paint::plain();
    let mut ignored = String::new();
    let printer =
        Printer { state, paint: &paint, places: true, many: usize::MAX, records: &[], out: &mut ignored };
    let Some(miss) = found.misses.first() else { return Vec::new() };
    let place = printer.place(miss.wire);
    let signals: Vec<_> =
        state.wire_signals(miss.wire).iter().filter_map(|signal| state.signal_name(*signal)).collect();
    let signals = signals.join(", ");
    let (Some((record, _)), Some(why)) = (miss.refused, &miss.why) else {
        if let Some((record, tick)) = miss.took {
            let at = clock_time(state.rate(), tick);
            let mut lines = vec![format!("{place} took {signals} at {at}, and did not come to it")];
            let cause = state.trace().get(record).and_then(|record| record.cause);
            lines.extend(links(&printer, cause).into_iter().skip(1).map(|link| format!("after {link}")));
            return lines;
        }
        let came = state.wire_signals(miss.wire).iter().any(|signal| state.delivered(*signal) > 0);
        let how = if came { "came, but not to this wire" } else { "never came" };
        return vec![format!("{place} would have: {signals} {how}")];
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
    let printer =
        Printer { state, paint: &paint, places: true, many: usize::MAX, records: &[], out: &mut ignored };
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
