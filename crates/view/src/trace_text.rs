//! The trace as text: per tick, what happened in which phase; under each signal the wires that took it, in
//! order, with what they changed, then those that did not, and why.

use std::fmt::Write;

use stoicheon_core::{Event, Field, Phase, Place, Record, RecordId, Refusal, State, Tick, WireId};

use crate::{
    fold::{Folds, Kind, changes_nothing},
    paint::Paint,
    phrase::{clock_time, expr_text, readings_text, thousands},
    trace_filter::TraceFilter,
};

/// How many lines of one kind are printed in a tick, or of one reaction, before the rest is only counted.
const MANY: usize = 40;

/// Prints a trace piece by piece: each call prints what came since the last one.
///
/// ```
/// use stoicheon_core::World;
/// use stoicheon_view::TraceText;
/// let mut world = World::<()>::new();
/// let bell = world.declare_signal::<()>("bell")?;
/// world.emit(bell, ())?;
/// world.step(&mut ())?;
/// let text = TraceText::plain().new_ticks(&world);
/// assert!(text.contains("tick 1\n    intake   the host emits bell\n"));
/// assert!(text.contains("    settle   bell"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct TraceText {
    paint: Paint,
    places: bool,
    folded: bool,
    filter: TraceFilter,
    /// The last record that was printed.
    printed: u64,
}

impl TraceText {
    /// In the styles given.
    pub fn new(paint: Paint) -> Self {
        Self { paint, places: true, folded: true, filter: TraceFilter::new(), printed: 0 }
    }

    /// Without styles.
    pub fn plain() -> Self {
        Self::new(Paint::plain())
    }

    /// Leaves out where wires were written, and so tells nothing about the door they came through.
    pub fn without_places(mut self) -> Self {
        self.places = false;
        self
    }

    /// Prints every line, however many there are of one kind in a tick. Otherwise the first 40 are printed, and how many
    /// more there are.
    pub fn unfolded(mut self) -> Self {
        self.folded = false;
        self
    }

    /// Prints only that part of it.
    pub fn only(mut self, filter: TraceFilter) -> Self {
        self.filter = filter;
        self
    }

    /// Everything recorded since the last call. A tick in which nothing happened prints nothing.
    pub fn new_ticks(&mut self, state: &State) -> String {
        let mut out = String::new();
        if state.trace().len() < self.printed {
            let _ = writeln!(out, "\n  another world begins");
            self.printed = 0;
        }
        let records: Vec<_> = state.trace().records_after(self.printed).collect();
        if let Some((first, _)) = records.first()
            && first.number() > self.printed + 1
        {
            let lost = first.number() - self.printed - 1;
            let _ = writeln!(out, "  … {lost} earlier records made room for these");
        }
        // A world that goes on from a save is made before its time is known.
        let is_start = |record: &Record| record.phase == Phase::Start;
        let together = |one: &Record, two: &Record| one.tick == two.tick || is_start(one) && is_start(two);
        for tick in records.chunk_by(|(_, one), (_, two)| together(one, two)) {
            let many = if self.folded { MANY } else { usize::MAX };
            let (paint, places) = (&self.paint, self.places);
            Printer { state, paint, places, many, records: tick, out: &mut out }.tick(&self.filter);
        }
        if let Some((last, _)) = records.last() {
            self.printed = last.number();
        }
        out
    }

    /// The line a trace ends with.
    pub fn digest(state: &State) -> String {
        format!("digest {:016x}", state.trace().digest())
    }
}

pub(crate) type Entry = (RecordId, Record);

/// What happened on its own account belongs to nobody's reaction.
fn ends_block(record: &Record) -> bool {
    matches!(record.event, Event::Delivered { .. })
        || record.cause.is_none()
        || !matches!(record.phase, Phase::Settle | Phase::Start)
}

fn ends_resumed(record: &Record) -> bool {
    matches!(record.event, Event::Resumed { .. } | Event::Dropped { .. }) || record.phase != Phase::Clocks
}

/// A place as pictures and pages show it: the file's own name is enough to find the line; the whole path would push everything aside.
pub fn short_place(place: &Place) -> String {
    let file = place.file.rsplit(['/', '\\']).next().unwrap_or(&place.file);
    // The wire of a part stands nowhere.
    if place.line == 0 { file.to_owned() } else { format!("{file}:{}", place.line) }
}

/// Words without styles, outside any trace.
pub(crate) fn with_printer<R>(state: &State, say: impl FnOnce(&Printer<'_>) -> R) -> R {
    let (paint, mut ignored) = (Paint::plain(), String::new());
    say(&Printer { state, paint: &paint, places: true, many: usize::MAX, records: &[], out: &mut ignored })
}

pub(crate) struct Printer<'a> {
    pub(crate) state: &'a State,
    pub(crate) paint: &'a Paint,
    pub(crate) places: bool,
    pub(crate) many: usize,
    pub(crate) records: &'a [Entry],
    pub(crate) out: &'a mut String,
}

impl Printer<'_> {
    pub(crate) fn line(&mut self, line: &str) {
        self.out.push_str(line.trim_end());
        self.out.push('\n');
    }

    fn tick(&mut self, filter: &TraceFilter) {
        let Some(((_, first), (_, last))) = self.records.first().zip(self.records.last()) else { return };
        let time = format!("{:>8}", clock_time(self.state.rate(), last.tick));
        let style = self.paint.time;
        let is_start = first.phase == Phase::Start;
        let name = if is_start { "start-up".to_owned() } else { format!("tick {}", first.tick.0) };
        let head = format!("{style}{time}  {name}{style:#}");
        // A tick of which nothing is shown has no line.
        let mut shown = filter.is_all();
        if shown {
            self.line(&head);
        }
        let mut folds = Folds::default();
        let mut at = 0;
        while let Some((id, record)) = self.records.get(at) {
            at += 1;
            let rest = self.records[at..].iter();
            let mine = match record.event {
                Event::Delivered { .. } => rest.take_while(|(_, other)| !ends_block(other)).count(),
                Event::Resumed { .. } => rest.take_while(|(_, other)| !ends_resumed(other)).count(),
                _ => 0,
            };
            let block = &self.records[at..at + mine];
            at += mine;
            if !filter.shows_block(self.state, &(*id, record.clone()), block)
                || !folds.shows(record, self.many)
            {
                continue;
            }
            if !shown {
                self.line(&head);
                shown = true;
            }
            match record.event {
                Event::Delivered { .. } => self.delivery(*id, record, block),
                Event::Resumed { .. } => self.resumed(*id, record, block),
                _ => self.plain(record),
            }
        }
        for (kind, count) in folds.left_out {
            let what = match kind {
                Kind::Of(signal) => self.state.signal_name(signal).unwrap_or("a signal that is gone"),
                Kind::Other(..) => "of this kind in this tick",
            };
            let style = self.paint.unheard;
            let and = if matches!(kind, Kind::Of(_)) { " times" } else { "" };
            let line = format!("{:13}{style}… and {} more{and} {what}{style:#}", "", thousands(count));
            self.line(&line);
        }
    }

    pub(crate) fn phase(&self, phase: Phase) -> String {
        let style = self.paint.phase;
        format!("    {style}{:<9}{style:#}", phase.word())
    }

    fn plain(&mut self, record: &Record) {
        if changes_nothing(&record.event) {
            return;
        }
        let style = match record.event {
            Event::Broken { .. } | Event::Fault { .. } => self.paint.fault,
            _ => anstyle::Style::new(),
        };
        let line = format!("{}{style}{}{style:#}", self.phase(record.phase), self.words(&record.event));
        self.line(&line);
    }

    /// A sequence that goes on after a wait, with what it did.
    fn resumed(&mut self, id: RecordId, record: &Record, did: &[Entry]) {
        let Event::Resumed { wire, since, who } = record.event else { return };
        let waited = record.tick.0.saturating_sub(since.0);
        let waited = clock_time(self.state.rate(), Tick(waited));
        let who = self.who_note(who);
        let place = self.place(wire);
        let head = format!("{}goes on after {waited}{who}", self.phase(record.phase));
        self.line(&if self.places { format!("{head}  {place}") } else { head });
        for change in self.changes(id, did) {
            let line = format!("{:13}  {change}", "");
            self.line(&line);
        }
    }

    /// What a reaction did, and what it emitted that is delivered later in this tick, in the order of its statements.
    pub(crate) fn changes(&self, cause: RecordId, block: &[Entry]) -> Vec<String> {
        let start = block.iter().position(|(id, _)| *id > cause).unwrap_or(block.len());
        let did = block[start..]
            .iter()
            .take_while(|(_, record)| !matches!(record.event, Event::Took { .. } | Event::Refused { .. }))
            .filter(|(_, record)| !changes_nothing(&record.event))
            .map(|(id, record)| (id.number(), &record.event));
        let mut all: Vec<(u64, &Event)> = did.collect();
        let later = self.records.partition_point(|(id, _)| *id <= cause);
        // What is emitted after a change stands after it.
        all.extend(
            self.records[later..].iter().filter(|(_, record)| record.cause == Some(cause)).filter_map(
                |(_, record)| match &record.event {
                    emitted @ Event::Delivered { after, .. } => Some((*after, emitted)),
                    _ => None,
                },
            ),
        );
        all.sort_by_key(|(after, _)| *after);
        let more = all.len().saturating_sub(self.many);
        let mut changes: Vec<_> =
            all.iter().take(self.many).map(|(_, event)| self.change_words(event)).collect();
        if more > 0 {
            changes.push(format!("… and {} more", thousands(more as u64)));
        }
        changes
    }

    fn change_words(&self, event: &Event) -> String {
        match event {
            Event::Delivered { signal, .. } => {
                format!("emits {}", self.state.signal_name(*signal).unwrap_or("?"))
            }
            other => self.words(other),
        }
    }

    pub(crate) fn who_note(&self, who: Option<stoicheon_core::ObjectId>) -> String {
        who.map_or(String::new(), |who| format!("  who {}", self.name(who)))
    }

    pub(crate) fn place(&self, wire: WireId) -> String {
        self.state.wire_place(wire).map_or_else(String::new, short_place)
    }

    pub(crate) fn scene(&self, scene: stoicheon_core::SceneId) -> String {
        format!("the scene {}", self.state.scene_name(scene).unwrap_or("that is gone"))
    }

    pub(crate) fn name(&self, object: stoicheon_core::ObjectId) -> &str {
        self.state.name(object).unwrap_or("somebody gone")
    }

    pub(crate) fn refusal(&self, wire: WireId, why: &Refusal, fields: &[Field]) -> String {
        match why {
            Refusal::Asleep => {
                let Some(owner) = self.state.wire_owner(wire) else {
                    return "asleep: its scene stands still".to_owned();
                };
                let stands_still =
                    || self.state.scene_of(owner).is_some_and(|scene| self.state.is_frozen(scene));
                match self.state.is_enabled(owner) {
                    false => format!("asleep: {} is disabled", self.name(owner)),
                    true if stands_still() => "asleep: its scene stands still".to_owned(),
                    true => format!("asleep: {} was disabled when it came", self.name(owner)),
                }
            }
            Refusal::Who => {
                let tags: Vec<_> = self.state.wire_filter(wire).collect();
                format!("refused: only by {}", tags.join(" or "))
            }
            Refusal::Guard { condition, readings } => match self.state.wire_guard(wire) {
                Some(whole) => {
                    let guard = whole.conditions().get(usize::from(*condition)).copied().unwrap_or(whole);
                    let text = expr_text(self.state, guard, fields);
                    let read = readings_text(self.state, guard, readings, fields);
                    if read.is_empty() {
                        format!("refused: {text}")
                    } else {
                        format!("refused: {text}; {read}")
                    }
                }
                None => format!("refused: {}", self.state.wire_guard_name(wire).unwrap_or("its guard")),
            },
            Refusal::Spent => "refused: it has been taken as often as it may".to_owned(),
            Refusal::Cooling { until } => {
                format!("refused: cooling down until {}", clock_time(self.state.rate(), *until))
            }
            Refusal::Payload => "refused: its closure cannot take what the signal carries".to_owned(),
            Refusal::Running => "refused: its reaction to an earlier signal still waits".to_owned(),
            _ => "refused".to_owned(),
        }
    }

    /// A record as a link of a chain of causes.
    pub(crate) fn link(&self, event: &Event) -> String {
        match event {
            Event::Delivered { signal, who, .. } => {
                format!("{}{}", self.state.signal_name(*signal).unwrap_or("?"), self.who_note(*who))
            }
            Event::Took { wire } => format!("{} took it", self.place(*wire)),
            Event::Resumed { wire, .. } => format!("{} went on after a wait", self.place(*wire)),
            other => self.words(other),
        }
    }
}
