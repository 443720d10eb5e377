//! Why something did not happen: the wires that came nearest, what refused each, with which values and since when.

use std::ops::RangeInclusive;

use stoicheon_core::{About, Event, Expr, Miss, ObjectId, RecordId, Refusal, SignalId, State, Tick};

use crate::{
    lead::SeenLead,
    phrase::{clock_time, part_text, readings_text},
    trace_text::with_printer,
    why::{
        happened::{links, subject},
        history::{History, part_name},
        question::Question,
    },
};

/// How many things a reaction did instead are told.
const MOST_TOLD: usize = 6;

impl History<'_> {
    /// Lines without an indent about one wire that could have done it: what kept it from doing so, then what led up to that.
    pub(crate) fn miss(&self, miss: &Miss, about: About) -> Vec<String> {
        let place = self.place(miss);
        if let (Some((record, _)), Some(why)) = (miss.refused, &miss.why) {
            let took_later = miss.took.is_some_and(|(took, _)| took > record);
            if !took_later {
                return self.refused(miss, &place, record, why);
            }
        }
        match miss.took {
            Some((record, tick)) => self.took_in_vain(miss, &place, record, tick),
            None => vec![self.never_came(miss, &place, about)],
        }
    }

    fn place(&self, miss: &Miss) -> String {
        with_printer(self.state, |printer| printer.place(miss.wire))
    }

    /// The name of what is asked about.
    fn name_of(&self, about: About) -> Option<&str> {
        let state = self.state;
        match about {
            About::Signal(signal) => state.signal_name(signal),
            About::Effect(effect) => state.effect_name(effect),
            About::Var(var) => state.var_name(var),
            About::Part(part) => Some(part_text(state, part)),
            _ => None,
        }
    }

    fn signals(&self, miss: &Miss) -> String {
        let names =
            self.state.wire_signals(miss.wire).iter().filter_map(|signal| self.state.signal_name(*signal));
        names.collect::<Vec<_>>().join(", ")
    }

    fn refused(&self, miss: &Miss, place: &str, record: RecordId, why: &Refusal) -> Vec<String> {
        let state = self.state;
        let signals = state.wire_signals(miss.wire);
        let fields = signals.first().map_or(&[][..], |signal| state.signal_fields(*signal));
        let refusal = with_printer(state, |printer| printer.refusal(miss.wire, why, fields));
        let mut lines = vec![format!("{place} {refusal}")];
        lines.extend(self.since_when(miss, record, why));
        let cause = self.get(record).and_then(|record| record.cause);
        lines.extend(links(self, cause).into_iter().map(|link| format!("after {link}")));
        lines
    }

    /// What the guard read, with since when it was so.
    fn since_when(&self, miss: &Miss, record: RecordId, why: &Refusal) -> Vec<String> {
        let state = self.state;
        let (Refusal::Guard { condition, .. }, Some(whole)) = (why, state.wire_guard(miss.wire)) else {
            return Vec::new();
        };
        let guard = whole.conditions().get(usize::from(*condition)).copied().unwrap_or(whole);
        let who = self.who(record);
        let one = |read: &&Expr| {
            let origin = self.origin(read, who, Some(record))?;
            Some(format!("{} has been so {}", subject(state, read), self.since(&origin)))
        };
        guard.reads().iter().filter_map(one).collect()
    }

    fn took_in_vain(&self, miss: &Miss, place: &str, record: RecordId, tick: Tick) -> Vec<String> {
        let at = clock_time(self.state.rate(), tick);
        let mut lines = vec![format!("{place} took {} at {at}, and did not come to it", self.signals(miss))];
        let did = self.did(record);
        if !did.is_empty() {
            lines.push(format!("it came to {}", did.join("; ")));
        }
        let cause = self.get(record).and_then(|record| record.cause);
        lines.extend(links(self, cause).into_iter().map(|link| format!("after {link}")));
        lines
    }

    /// What a reaction did and emitted.
    fn did(&self, took: RecordId) -> Vec<String> {
        let mut causes = vec![took];
        let mut told = Vec::new();
        for (id, record) in self.iter().filter(|(id, _)| *id > took) {
            if told.len() == MOST_TOLD {
                break;
            }
            let Some(cause) = record.cause.filter(|cause| causes.contains(cause)) else { continue };
            match &record.event {
                // What others made of it is theirs.
                Event::Took { .. } | Event::Refused { .. } => {}
                event @ Event::Delivered { .. } => {
                    told.push(with_printer(self.state, |printer| printer.signal(event)));
                }
                event => {
                    // A wait goes on, and what comes after it is the reaction's too.
                    if matches!(event, Event::Waits { .. } | Event::WaitsUntil { .. } | Event::Resumed { .. })
                    {
                        causes.push(id);
                    }
                    let text = with_printer(self.state, |printer| printer.words(event));
                    if !text.is_empty() && causes.contains(&cause) {
                        told.push(text);
                    }
                    if let Event::WaitsUntil { condition, .. } = event {
                        let values = self.state.readings(condition);
                        let read = readings_text(self.state, condition, &values, &[]);
                        if !read.is_empty() {
                            told.push(format!("now {read}"));
                        }
                    }
                }
            }
        }
        told
    }

    fn never_came(&self, miss: &Miss, place: &str, about: About) -> String {
        let wanted = self.name_of(about);
        let state = self.state;
        let signals = self.signals(miss);
        let fields = state.wire_signals(miss.wire).first().map_or(&[][..], |one| state.signal_fields(*one));
        let leads = state.wire_leads(miss.wire);
        let mut leads = leads.iter().map(|lead| SeenLead::of(state, lead, fields).text);
        let ends_so = |lead: &String| wanted.is_some_and(|wanted| lead.ends_with(wanted));
        let first = leads.clone().next();
        let would = leads.find(ends_so).or(first);
        let would = would.map_or_else(String::new, |lead| format!(" ({lead})"));
        let count: usize = state.wire_signals(miss.wire).iter().map(|signal| self.delivered(*signal)).sum();
        match (signals.is_empty(), count) {
            (true, _) => format!("{place} would have{would}: nothing gives its signal"),
            (false, 0) => format!("{place} would have{would}: {signals} never came"),
            (false, _) => format!("{place} would have{would}: {signals} came, but not to this wire"),
        }
    }

    /// What would have given a signal that never came.
    pub(crate) fn would_give(
        &self,
        signal: SignalId,
        who: Option<ObjectId>,
        ticks: &RangeInclusive<Tick>,
    ) -> Vec<Miss> {
        self.state.why_not_for(About::Signal(signal), who, ticks.clone()).misses
    }
}

/// Lines without an indent: the wire that came nearest to what did not happen and what refused it, then the chain of causes that
/// led up to that, the last one first. Empty when nothing in the wiring would have done it.
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
/// assert_eq!(lines[1..3], ["level has been so since the start", "after bell, at 0.033s"]);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
pub fn nearest_miss(state: &State, about: impl Into<About>) -> Vec<String> {
    let history = History::of(state);
    nearest_in(&history, about.into(), None, state.now())
}

/// The same about one player: what refused a signal that goes back to them comes before what refused others.
pub(crate) fn nearest_in(
    history: &History<'_>,
    about: About,
    who: Option<ObjectId>,
    until: Tick,
) -> Vec<String> {
    let state = history.state;
    let ticks = Tick(0)..=until;
    let found = state.why_not_for(about, who, ticks.clone());
    let Some(miss) = found.misses.first() else {
        return if found.happened == 0 { nobody_commands(state, about) } else { Vec::new() };
    };
    let mut lines = history.miss(miss, about);
    // A signal that never came has its own reasons.
    let mut asked = vec![miss.wire];
    let mut at = miss.clone();
    while at.refused.is_none() && at.took.is_none() {
        let Some(signal) = state.wire_signals(at.wire).first().copied() else { break };
        let Some(next) =
            history.would_give(signal, who, &ticks).into_iter().find(|miss| !asked.contains(&miss.wire))
        else {
            lines.extend(nobody_commands(state, About::Signal(signal)));
            break;
        };
        asked.push(next.wire);
        lines.extend(history.miss(&next, About::Signal(signal)));
        at = next;
    }
    lines
}

/// What gives a signal that no wire leads to.
pub(crate) fn nobody_commands(state: &State, about: About) -> Vec<String> {
    let About::Signal(signal) = about else { return Vec::new() };
    let Some((part, kind)) = Question::about_signal(state, signal).giver(state) else { return Vec::new() };
    let now = state.state_word(part).map_or_else(String::new, |word| format!(" It is {word}."));
    let line =
        format!("no wire leads to it: {} gives {}: {}{now}", part_name(state, part), kind.name, kind.about);
    vec![line]
}
