//! The trace as text: per tick, what happened in which phase; under each signal the wires that took it, in
//! order, with what they changed, then those that did not, and why.

use std::fmt::Write;

use stoicheon_core::{
    Event, Field, Moved, Phase, Place, Record, RecordId, Refusal, SignalId, State, Tick, Value, VarId, WireId,
};

use crate::{
    paint::Paint,
    phrase::{clock_time, expr_text, part_text, readings_text, typed_text, value_text, vector_text},
};

/// Where the right-hand note of a line begins, if the line is not longer.
const NOTE_COLUMN: usize = 64;

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
    /// The last record that was printed.
    printed: u64,
}

impl TraceText {
    /// In the styles given.
    pub fn new(paint: Paint) -> Self {
        Self { paint, places: true, folded: true, printed: 0 }
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

    /// Everything recorded since the last call. A tick in which nothing happened prints nothing.
    pub fn new_ticks(&mut self, state: &State) -> String {
        let mut out = String::new();
        if state.trace().len() < self.printed {
            let _ = writeln!(out, "\n  another world begins");
            self.printed = 0;
        }
        let records: Vec<_> = state.trace().records().filter(|(id, _)| id.number() > self.printed).collect();
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
            Printer { state, paint, places, many, records: tick, out: &mut out }.tick();
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

type Entry = (RecordId, Record);

/// What happened on its own account belongs to nobody's reaction.
fn ends_block(record: &Record) -> bool {
    matches!(record.event, Event::Delivered { .. })
        || record.cause.is_none()
        || !matches!(record.phase, Phase::Settle | Phase::Start)
}

fn ends_resumed(record: &Record) -> bool {
    matches!(record.event, Event::Resumed { .. } | Event::Dropped { .. }) || record.phase != Phase::Clocks
}

/// A value that was set to what it is already.
fn changes_nothing(event: &Event) -> bool {
    matches!(event, Event::Set { from, to, .. } | Event::Kept { from, to, .. } if from == to)
}

/// What lines have in common that are counted together.
#[derive(Clone, Copy, PartialEq)]
enum Kind {
    /// Deliveries of a signal.
    Of(SignalId),
    /// Whatever else is of one kind, in one phase.
    Other(Phase, std::mem::Discriminant<Event>),
}

/// How many lines of a kind a tick had, and how many of them were left out.
#[derive(Default)]
struct Folds {
    shown: Vec<(Kind, usize)>,
    left_out: Vec<(Kind, u64)>,
}

impl Folds {
    /// Whether one more of its kind is printed. A fault always is.
    fn shows(&mut self, record: &Record, many: usize) -> bool {
        let kind = match record.event {
            Event::Delivered { signal, .. } => Kind::Of(signal),
            Event::Fault { .. } | Event::Broken { .. } => return true,
            ref event => Kind::Other(record.phase, std::mem::discriminant(event)),
        };
        let Some((_, shown)) = self.shown.iter_mut().find(|(of, _)| *of == kind) else {
            self.shown.push((kind, 0));
            return many > 0;
        };
        *shown += 1;
        if *shown < many {
            return true;
        }
        match self.left_out.iter_mut().find(|(of, _)| *of == kind) {
            Some((_, left_out)) => *left_out += 1,
            None => self.left_out.push((kind, 1)),
        }
        false
    }
}

/// `16,000`
fn count_text(count: u64) -> String {
    let digits = count.to_string();
    let mut text = String::new();
    for (at, digit) in digits.chars().enumerate() {
        if at > 0 && (digits.len() - at).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    text
}

/// The file's own name is enough to find the line; the whole path would push everything aside.
fn short(place: &Place) -> String {
    let file = place.file.rsplit(['/', '\\']).next().unwrap_or(&place.file);
    format!("{file}:{}", place.line)
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
    fn line(&mut self, line: &str) {
        self.out.push_str(line.trim_end());
        self.out.push('\n');
    }

    fn tick(&mut self) {
        let Some(((_, first), (_, last))) = self.records.first().zip(self.records.last()) else { return };
        let time = format!("{:>8}", clock_time(self.state.rate(), last.tick));
        let style = self.paint.time;
        let is_start = first.phase == Phase::Start;
        let name = if is_start { "start-up".to_owned() } else { format!("tick {}", first.tick.0) };
        self.line(&format!("{style}{time}  {name}{style:#}"));
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
            if !folds.shows(record, self.many) {
                continue;
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
            let line = format!("{:13}{style}… and {} more{and} {what}{style:#}", "", count_text(count));
            self.line(&line);
        }
    }

    fn phase(&self, phase: Phase) -> String {
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

    fn delivery(&mut self, id: RecordId, record: &Record, block: &[Entry]) {
        let Event::Delivered { signal, who, ref values, .. } = record.event else { return };
        let fields = self.state.signal_fields(signal);
        let name = self.state.signal_name(signal).unwrap_or("a signal that is gone");
        let payload: Vec<_> = fields
            .iter()
            .zip(values)
            .map(|(field, value)| {
                format!("{} {}", field.name, typed_text(self.state, Some(&field.ty), value))
            })
            .collect();
        let payload = if payload.is_empty() { String::new() } else { format!("({})", payload.join(", ")) };

        let wires: Vec<_> = block
            .iter()
            .filter_map(|(took, record)| match &record.event {
                Event::Took { wire } if record.cause == Some(id) => Some((*took, *wire, None)),
                Event::Refused { wire, why } if record.cause == Some(id) => Some((*took, *wire, Some(why))),
                _ => None,
            })
            .collect();
        let taken = wires.iter().filter(|(_, _, why)| why.is_none()).count();
        let note = match (taken, wires.len()) {
            (_, 0) => "nobody listens".to_owned(),
            (0, all) => format!("taken by none of {all}"),
            (taken, all) => format!("taken by {taken} of {all}"),
        };

        let who = self.who_note(who);
        let width = 13 + name.chars().count() + payload.chars().count() + who.chars().count();
        let gap = NOTE_COLUMN.saturating_sub(width).max(2);
        let style = if wires.is_empty() { self.paint.unheard } else { self.paint.signal };
        let noted = match (taken, wires.len()) {
            (_, 0) => self.paint.phase,
            (0, _) => self.paint.refused,
            _ => anstyle::Style::new(),
        };
        let head = self.phase(record.phase);
        self.line(&format!("{head}{style}{name}{style:#}{payload}{who}{:gap$}{noted}{note}{noted:#}", ""));

        let places: Vec<_> = wires.iter().map(|(_, wire, _)| self.place(*wire)).collect();
        let widest = places.iter().map(|place| place.chars().count()).max().unwrap_or(0);
        let any_order = wires.iter().any(|(_, wire, _)| self.state.wire_order(*wire) != Some(0));
        let mut number = 0;
        for pass in [true, false] {
            let of_pass = wires.iter().filter(|(_, _, why)| why.is_none() == pass).count();
            let mut printed = 0;
            for ((took, wire, why), place) in wires.iter().zip(&places) {
                if why.is_none() != pass {
                    continue;
                }
                printed += 1;
                if printed > self.many {
                    let more = count_text((of_pass - self.many) as u64);
                    let word = if pass { "that took it" } else { "that did not" };
                    self.line(&format!("{:15}… and {more} more {word}", ""));
                    break;
                }
                let mut left = String::new();
                if self.places {
                    let style = self.paint.place;
                    let _ = write!(left, "{style}{place:<widest$}{style:#}  ");
                }
                if any_order {
                    let _ = write!(
                        left,
                        "{:<10}",
                        format!("order {}", self.state.wire_order(*wire).unwrap_or(0))
                    );
                }
                if let Some(why) = why {
                    let style = self.paint.refused;
                    let why = self.refusal(*wire, why, fields);
                    self.line(&format!("{:15}{style}–{style:#}  {left}{style}{why}{style:#}", ""));
                    continue;
                }
                number += 1;
                let style = self.paint.took;
                let indent = 18 + if self.places { widest + 2 } else { 0 } + if any_order { 10 } else { 0 };
                let mut changes = self.changes(*took, block).into_iter();
                let first = changes.next().unwrap_or_default();
                self.line(&format!("{:13}{style}{number:>3}{style:#}  {left}{first}", ""));
                for change in changes {
                    self.line(&format!("{:indent$}{change}", ""));
                }
            }
        }
    }

    /// What a reaction did, and what it emitted that is delivered later in this tick, in the order of its statements.
    fn changes(&self, cause: RecordId, block: &[Entry]) -> Vec<String> {
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
            changes.push(format!("… and {} more", count_text(more as u64)));
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

    fn who_note(&self, who: Option<stoicheon_core::ObjectId>) -> String {
        who.map_or(String::new(), |who| format!("  who {}", self.name(who)))
    }

    pub(crate) fn place(&self, wire: WireId) -> String {
        self.state.wire_place(wire).map_or_else(String::new, short)
    }

    fn scene(&self, scene: stoicheon_core::SceneId) -> String {
        format!("the scene {}", self.state.scene_name(scene).unwrap_or("that is gone"))
    }

    fn name(&self, object: stoicheon_core::ObjectId) -> &str {
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

    fn change(&self, var: VarId, from: &Value, to: &Value) -> String {
        let (state, ty) = (self.state, self.state.var_type(var));
        let name = state.var_name(var).unwrap_or("?");
        format!("{name} {} → {}", typed_text(state, ty, from), typed_text(state, ty, to))
    }

    fn moved(&self, moved: Moved, to: &Value) -> (String, String) {
        let text = value_text(self.state, to);
        match moved {
            Moved::Var(var, of) => {
                let name = self.state.var_name(var).unwrap_or("?");
                let of = of.map_or_else(String::new, |of| format!(" of {}", self.name(of)));
                (format!("{name}{of}"), typed_text(self.state, self.state.var_type(var), to))
            }
            Moved::Place(object) => (self.name(object).to_owned(), text),
            Moved::Facing(object) => (format!("{}.facing", self.name(object)), text),
            _ => ("something".to_owned(), text),
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

    fn words(&self, event: &Event) -> String {
        let state = self.state;
        let state_word = |part, number: u8| {
            let kind = state.kind_of(part);
            kind.and_then(|kind| kind.states.get(usize::from(number)).copied()).unwrap_or("?")
        };
        match event {
            Event::Key { who, key, down } => {
                format!("{} {} {key}", self.name(*who), if *down { "presses" } else { "releases" })
            }
            Event::HandedIn { signal, who } => {
                format!("the host emits {}{}", state.signal_name(*signal).unwrap_or("?"), self.who_note(*who))
            }
            Event::Dropped { wire, restarted } => {
                let why = if *restarted {
                    "a new one begins"
                } else {
                    "its owner is disabled or gone, or its stage is left"
                };
                let place = if self.places { format!("  {}", self.place(*wire)) } else { String::new() };
                format!("a waiting reaction is given up: {why}{place}")
            }
            Event::Held { .. } => "held back until the earlier reaction has ended".to_owned(),
            Event::Spawned { object } => format!("{} is spawned", self.name(*object)),
            Event::Shifted { part, from, to } => {
                let name = part_text(state, *part);
                format!("{name} {} → {}", state_word(*part, *from), state_word(*part, *to))
            }
            Event::Unmoved { part, state: now } => {
                format!("{} is {} already", part_text(state, *part), state_word(*part, *now))
            }
            Event::Set { var, of, from, to } => {
                let change = self.change(*var, from, to);
                match of {
                    Some(of) => format!("{change} for {}", self.name(*of)),
                    None => change,
                }
            }
            Event::Kept { bind, var, from, to } => {
                let change = self.change(*var, from, to);
                match state.bound(*bind) {
                    Some((.., place)) if self.places => format!("bind {change}  {}", short(place)),
                    _ => format!("bind {change}"),
                }
            }
            Event::Tweens { moved, to, until } => {
                let (name, to) = self.moved(*moved, to);
                format!("{name} goes to {to} until {}", clock_time(state.rate(), *until))
            }
            Event::Sent { body, spot } => {
                let spot = state.spot_name(*spot).unwrap_or("a spot that is gone");
                format!("{} is sent to {spot}", self.name(*body))
            }
            Event::SentAway { body, scene, spot } => {
                format!("{} is sent to {spot} in {scene}", self.name(*body))
            }
            Event::Miscalculated { mishap } => format!("miscalculated: {}", mishap.words()),
            Event::WaitsUntil { condition, limit } => {
                let limit = limit.map_or_else(String::new, |limit| {
                    format!(", at the latest {}", clock_time(state.rate(), limit))
                });
                format!("waits until {}{limit}", expr_text(state, condition, &[]))
            }
            Event::Performed { effect, values } => {
                let fields = state.effect_fields(*effect);
                let types = fields.iter().map(|field| Some(&field.ty)).chain(std::iter::repeat(None));
                let words = values.iter().zip(types).map(|(value, ty)| typed_text(state, ty, value));
                let values: Vec<_> = words.collect();
                let name = state.effect_name(*effect).unwrap_or("?");
                format!("perform {name}({})", values.join(", "))
            }
            Event::Waits { until } => format!("waits until {}", clock_time(state.rate(), *until)),
            Event::Enabled { object } => format!("{} is enabled", self.name(*object)),
            Event::Disabled { object } => format!("{} is disabled", self.name(*object)),
            Event::Destroyed { name, .. } => format!("{name} is destroyed"),
            Event::Broken { rule } => match state.rule(*rule) {
                Some((never, place)) => {
                    let text = expr_text(state, never, &[]);
                    if self.places {
                        format!("rule broken: never {text}  {}", short(place))
                    } else {
                        format!("rule broken: never {text}")
                    }
                }
                None => "rule broken".to_owned(),
            },
            Event::Fault { message, object, .. } => match object {
                Some(object) => format!("fault at {}: {message}", self.name(*object)),
                None => format!("fault: {message}"),
            },
            other => self.whereabouts(other),
        }
    }

    /// What happened in space.
    fn whereabouts(&self, event: &Event) -> String {
        let (name, part) = (|object| self.name(object), |part| part_text(self.state, part));
        match event {
            Event::Placed { body, at } => format!("{} is put at {}", name(*body), vector_text(*at)),
            Event::SetOut { body, to } => format!("{} sets out for {}", name(*body), vector_text(*to)),
            Event::Arrived { body, at } => format!("{} arrives at {}", name(*body), vector_text(*at)),
            Event::Entered { zone, body, reason } => {
                format!("{} enters {} ({})", name(*body), part(*zone), reason.word())
            }
            Event::Left { zone, body, reason } => {
                format!("{} leaves {} ({})", name(*body), part(*zone), reason.word())
            }
            Event::TurnedAway { zone, body } => format!("{} is turned away at {}", name(*body), part(*zone)),
            Event::Pointed { who, at: None, .. } => format!("{} points at nothing", name(*who)),
            Event::Pointed { who, at: Some(at), taken } => {
                let note = if *taken { "" } else { ", which is not to be picked from there" };
                format!("{} points at {}{note}", name(*who), part(*at))
            }
            Event::PlayerLeft { player } => format!("{} leaves the game", name(*player)),
            Event::Joined { player, number } => format!("{} joins as player {number}", name(*player)),
            Event::SetDown { object, player } => {
                format!("{} is set down, which {} carried", name(*object), name(*player))
            }
            Event::Travelled { body, from, to, spot } => {
                let spot = self.state.spot_name(*spot).unwrap_or("a spot that is gone");
                let from = from.map_or_else(String::new, |from| format!(" from {}", self.scene(from)));
                format!("{} goes{from} to {}, at {spot}", name(*body), self.scene(*to))
            }
            Event::Crossed { signal, who, here } => {
                let to = if *here { "crosses to the players, too" } else { "crosses to the authority" };
                format!("{}{}  {to}", self.state.signal_name(*signal).unwrap_or("?"), self.who_note(*who))
            }
            Event::StaysHere { body } => {
                format!("{} has just come, and is not sent on", name(*body))
            }
            Event::Loaded { scene } => format!("{} is loaded", self.scene(*scene)),
            Event::Unloaded { scene } => format!("{} is unloaded", self.scene(*scene)),
            Event::Frozen { scene } => format!("{} stands still, with nobody in it", self.scene(*scene)),
            Event::Thawed { scene } => format!("{} goes on", self.scene(*scene)),
            Event::Driven { body, velocity } => {
                format!("{} is driven by {} a second", name(*body), vector_text(*velocity))
            }
            _ => String::new(),
        }
    }
}
