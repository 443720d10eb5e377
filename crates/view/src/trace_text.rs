//! The trace as text: per tick, what happened in which phase; under each signal the wires that took it, in
//! order, with what they changed, then those that did not, and why.

use std::fmt::Write;

use stoicheon_core::{
    Event, Field, Moved, Phase, Place, Record, RecordId, Refusal, State, Tick, Value, VarId, WireId,
};

use crate::{
    paint::Paint,
    phrase::{clock_time, expr_text, part_text, readings_text, typed_text, value_text, vector_text},
};

/// Where the right-hand note of a line begins, if the line is not longer.
const NOTE_COLUMN: usize = 64;

/// Prints a trace piece by piece: each call prints what came since the last one.
///
/// ```
/// use stoicheon_core::World;
/// use stoicheon_view::TraceText;
/// let mut world = World::<()>::new();
/// let bell = world.signal::<()>("bell")?;
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
    /// The last record that was printed.
    printed: u64,
}

impl TraceText {
    /// In the styles given.
    pub fn new(paint: Paint) -> Self {
        Self { paint, places: true, printed: 0 }
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
        for tick in records.chunk_by(|(_, one), (_, two)| one.tick == two.tick) {
            Printer { state, paint: &self.paint, places: self.places, records: tick, out: &mut out }.tick();
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

/// The file's own name is enough to find the line; the whole path would push everything aside.
fn short(place: &Place) -> String {
    let file = place.file.rsplit(['/', '\\']).next().unwrap_or(&place.file);
    format!("{file}:{}", place.line)
}

pub(crate) struct Printer<'a> {
    pub(crate) state: &'a State,
    pub(crate) paint: &'a Paint,
    pub(crate) places: bool,
    pub(crate) records: &'a [Entry],
    pub(crate) out: &'a mut String,
}

impl Printer<'_> {
    fn line(&mut self, line: &str) {
        self.out.push_str(line.trim_end());
        self.out.push('\n');
    }

    fn tick(&mut self) {
        let Some((_, first)) = self.records.first() else { return };
        let time = format!("{:>8}", clock_time(self.state.rate(), first.tick));
        let style = self.paint.time;
        let name =
            if first.tick == Tick(0) { "start-up".to_owned() } else { format!("tick {}", first.tick.0) };
        self.line(&format!("{style}{time}  {name}{style:#}"));
        let mut at = 0;
        while let Some((id, record)) = self.records.get(at) {
            at += 1;
            let rest = self.records[at..].iter();
            match record.event {
                Event::Delivered { .. } => {
                    let mine = rest.take_while(|(_, other)| !ends_block(other)).count();
                    self.delivery(*id, record, &self.records[at..at + mine]);
                    at += mine;
                }
                Event::Resumed { .. } => {
                    let mine = rest.take_while(|(_, other)| !ends_resumed(other)).count();
                    self.resumed(*id, record, &self.records[at..at + mine]);
                    at += mine;
                }
                _ => self.plain(record),
            }
        }
    }

    fn phase(&self, phase: Phase) -> String {
        let style = self.paint.phase;
        format!("    {style}{:<9}{style:#}", phase.word())
    }

    fn plain(&mut self, record: &Record) {
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
        let Event::Delivered { signal, who, ref values } = record.event else { return };
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
            for ((took, wire, why), place) in wires.iter().zip(&places) {
                if why.is_none() != pass {
                    continue;
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

    /// What a reaction did, and what it emitted that is delivered later in this tick.
    fn changes(&self, cause: RecordId, block: &[Entry]) -> Vec<String> {
        let start = block.iter().position(|(id, _)| *id > cause).unwrap_or(block.len());
        let mut changes = Vec::new();
        for (_, record) in &block[start..] {
            if matches!(record.event, Event::Took { .. } | Event::Refused { .. }) {
                break;
            }
            changes.push(self.words(&record.event));
        }
        for (_, record) in self.records {
            if let Event::Delivered { signal, .. } = record.event
                && record.cause == Some(cause)
            {
                changes.push(format!("emits {}", self.state.signal_name(signal).unwrap_or("?")));
            }
        }
        changes
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
                let owner = self.state.wire_owner(wire).filter(|owner| !self.state.is_enabled(*owner));
                owner.map_or_else(
                    || "asleep: its scene stands still".to_owned(),
                    |owner| format!("asleep: {} is disabled", self.name(owner)),
                )
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
                let spot = state.spot(*spot).map_or("a spot that is gone", |spot| &spot.name);
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
            Event::Fault { message } => format!("fault: {message}"),
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
                let spot = self.state.spot(*spot).map_or("a spot that is gone", |spot| &spot.name);
                let from = from.map_or_else(String::new, |from| format!(" from {}", self.scene(from)));
                format!("{} goes{from} to {}, at {spot}", name(*body), self.scene(*to))
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
