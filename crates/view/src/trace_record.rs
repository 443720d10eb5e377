//! A record of the trace as data with names, for programs.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::Serialize;
use stoicheon_core::{Event, Moved, ObjectId, PartId, Record, RecordId, State, Value};

use crate::{look::Shown, phrase::part_text, trace_text::with_printer};

/// One thing that happened: what `stoicheon play --json` prints, a line each.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenRecord {
    /// Its number, from 1.
    pub number: u64,
    /// The number of the record it came from; nothing for an input.
    pub cause: Option<u64>,
    /// The tick.
    pub tick: u64,
    /// The time in the world, in seconds.
    pub time: f64,
    /// The phase of the tick: `start`, `intake`, `clocks`, `motion`, `touch`, `settle` or `upkeep`.
    pub phase: String,
    /// What happened, in a word: `delivered`, `took`, `refused`, `set`, `shifted`, `performed`, `entered`, `left`, `key` and the like.
    pub event: String,
    /// The signal, effect, variable, object or scene it is about.
    pub about: Option<String>,
    /// The player or body who caused it, or whose it is.
    pub who: Option<String>,
    /// The wire, by where it was written.
    pub wire: Option<String>,
    /// What a variable, a setting or a state was.
    pub from: Option<Shown>,
    /// What it is.
    pub to: Option<Shown>,
    /// What a signal or an effect carries, by the names of its fields.
    pub values: BTreeMap<String, Shown>,
    /// As the trace shows it to people.
    pub text: String,
}

impl SeenRecord {
    /// A record of a world's trace.
    pub fn of(state: &State, id: RecordId, record: &Record) -> Self {
        let name = |object: ObjectId| state.name(object).unwrap_or("somebody gone").to_owned();
        let place = |wire| Some(with_printer(state, |printer| printer.place(wire)));
        let shown = |value: &Value| Some(Shown::of(state, None, value));
        let text = match &record.event {
            event @ Event::Delivered { .. } => with_printer(state, |printer| printer.signal(event)),
            Event::Refused { wire, why } => {
                let fields =
                    state.wire_signals(*wire).first().map_or(&[][..], |signal| state.signal_fields(*signal));
                with_printer(state, |printer| {
                    format!("{} {}", printer.place(*wire), printer.refusal(*wire, why, fields))
                })
            }
            event => with_printer(state, |printer| printer.link(event)),
        };
        let mut seen = Self {
            number: id.number(),
            cause: record.cause.map(RecordId::number),
            tick: record.tick.0,
            time: state.rate().seconds(stoicheon_core::ticks(record.tick.0)).0,
            phase: record.phase.word().to_owned(),
            event: word(&record.event).to_owned(),
            about: None,
            who: None,
            wire: None,
            from: None,
            to: None,
            values: BTreeMap::new(),
            text,
        };
        match &record.event {
            Event::Delivered { signal, who, values, .. } => {
                seen.about = state.signal_name(*signal).map(str::to_owned);
                seen.who = who.map(name);
                seen.carries(state, state.signal_fields(*signal), values);
            }
            Event::HandedIn { signal, who } | Event::Crossed { signal, who, .. } => {
                seen.about = state.signal_name(*signal).map(str::to_owned);
                seen.who = who.map(name);
            }
            Event::Took { wire }
            | Event::Refused { wire, .. }
            | Event::Held { wire }
            | Event::Dropped { wire, .. } => {
                seen.wire = place(*wire);
            }
            Event::Resumed { wire, who, .. } => {
                seen.wire = place(*wire);
                seen.who = who.map(name);
            }
            Event::Performed { effect, values } => {
                seen.about = state.effect_name(*effect).map(str::to_owned);
                seen.carries(state, state.effect_fields(*effect), values);
            }
            Event::Set { var, of, from, to } => {
                seen.about = state.var_name(*var).map(str::to_owned);
                seen.who = of.map(name);
                (seen.from, seen.to) = (shown(from), shown(to));
            }
            Event::Kept { var, from, to, .. } => {
                seen.about = state.var_name(*var).map(str::to_owned);
                (seen.from, seen.to) = (shown(from), shown(to));
            }
            Event::Changed { part, setting, from, to } => {
                seen.about = Some(format!("{}.{setting}", part_text(state, *part)));
                (seen.from, seen.to) = (shown(from), shown(to));
            }
            Event::Shifted { part, from, to } => {
                let state_word = |number: stoicheon_core::PartState| {
                    let kind = state.kind_of(*part).and_then(|kind| kind.states.get(usize::from(number)));
                    kind.and_then(|word| shown(&Value::from(*word)))
                };
                seen.about = Some(part_text(state, *part).to_owned());
                (seen.from, seen.to) = (state_word(*from), state_word(*to));
            }
            Event::Unmoved { part, .. } => seen.about = Some(part_text(state, *part).to_owned()),
            Event::Tweens { moved, to, .. } => {
                seen.about = match moved {
                    Moved::Var(var, _) => state.var_name(*var).map(str::to_owned),
                    Moved::Place(object) | Moved::Facing(object) => Some(name(*object)),
                    _ => None,
                };
                seen.to = shown(to);
            }
            other => seen.whereabouts(state, other),
        }
        seen
    }

    fn carries(&mut self, state: &State, fields: &[stoicheon_core::Field], values: &stoicheon_core::Values) {
        let named = fields.iter().zip(values);
        self.values = named
            .map(|(field, value)| (field.name.to_string(), Shown::of(state, Some(&field.ty), value)))
            .collect();
    }

    fn whereabouts(&mut self, state: &State, event: &Event) {
        let name = |object: ObjectId| Some(state.name(object).unwrap_or("somebody gone").to_owned());
        let part = |part: PartId| Some(part_text(state, part).to_owned());
        match event {
            Event::Key { who, key, .. } => (self.who, self.about) = (name(*who), Some(key.to_string())),
            Event::Entered { zone, body, .. }
            | Event::Left { zone, body, .. }
            | Event::TurnedAway { zone, body } => {
                (self.about, self.who) = (part(*zone), name(*body));
            }
            Event::Pointed { who, at, .. } => (self.who, self.about) = (name(*who), at.and_then(part)),
            Event::Placed { body, at } | Event::SetOut { body, to: at } | Event::Arrived { body, at } => {
                (self.who, self.to) = (name(*body), Some(Shown::vector(state, *at)));
            }
            Event::Driven { body, velocity } => {
                (self.who, self.to) = (name(*body), Some(Shown::vector(state, *velocity)));
            }
            Event::Sent { body, spot } | Event::Travelled { body, spot, .. } => {
                (self.who, self.about) = (name(*body), state.spot_name(*spot).map(str::to_owned));
            }
            Event::SentAway { body, scene, spot } => {
                (self.who, self.about) = (name(*body), Some(format!("{spot} in {scene}")));
            }
            Event::StaysHere { body } => self.who = name(*body),
            Event::PlayerLeft { player } | Event::Joined { player, .. } => self.who = name(*player),
            Event::SetDown { object, player } => (self.about, self.who) = (name(*object), name(*player)),
            Event::Enabled { object } | Event::Disabled { object } | Event::Spawned { object } => {
                self.about = name(*object);
            }
            Event::Destroyed { name, .. } => self.about = Some(name.to_string()),
            Event::Loaded { scene }
            | Event::Unloaded { scene }
            | Event::Frozen { scene }
            | Event::Thawed { scene } => {
                self.about = state.scene_name(*scene).map(str::to_owned);
            }
            Event::Fault { object, wire, .. } => {
                self.about = object.and_then(name);
                self.wire = wire.map(|wire| with_printer(state, |printer| printer.place(wire)));
            }
            _ => {}
        }
    }

    /// Whether it is about something of that name: it, the wire, or what belongs to it.
    pub(crate) fn names(&self, asked: &str) -> bool {
        let all = [&self.about, &self.who, &self.wire];
        all.into_iter().flatten().any(|name| is_of(name, asked))
    }
}

/// Whether a name is asked for: the whole of it, what comes after the scene, or what it begins with.
pub(crate) fn is_of(name: &str, asked: &str) -> bool {
    let starts =
        |name: &str| name.strip_prefix(asked).is_some_and(|rest| rest.is_empty() || rest.starts_with('.'));
    starts(name) || name.split_once('.').is_some_and(|(_, rest)| starts(rest))
}

/// The word for what happened. It stays the same from version to version.
fn word(event: &Event) -> &'static str {
    match event {
        Event::Placed { .. } => "placed",
        Event::SetOut { .. } => "set_out",
        Event::Arrived { .. } => "arrived",
        Event::Key { down: true, .. } => "key_down",
        Event::Key { .. } => "key_up",
        Event::HandedIn { .. } => "handed_in",
        Event::Entered { .. } => "entered",
        Event::Left { .. } => "left",
        Event::TurnedAway { .. } => "turned_away",
        Event::Pointed { .. } => "pointed",
        Event::PlayerLeft { .. } => "player_left",
        Event::Driven { .. } => "driven",
        Event::Resumed { .. } => "resumed",
        Event::Dropped { .. } => "dropped",
        Event::Held { .. } => "held",
        Event::Spawned { .. } => "spawned",
        Event::Unloaded { .. } => "unloaded",
        Event::Delivered { .. } => "delivered",
        Event::Took { .. } => "took",
        Event::Refused { .. } => "refused",
        Event::Shifted { .. } => "shifted",
        Event::Unmoved { .. } => "unmoved",
        Event::Set { .. } => "set",
        Event::Changed { .. } => "changed",
        Event::Kept { .. } => "kept",
        Event::Tweens { .. } => "tweens",
        Event::Sent { .. } => "sent",
        Event::SentAway { .. } => "sent_away",
        Event::Travelled { .. } => "travelled",
        Event::Crossed { .. } => "crossed",
        Event::StaysHere { .. } => "stays_here",
        Event::Loaded { .. } => "loaded",
        Event::Rewired => "rewired",
        Event::Frozen { .. } => "frozen",
        Event::Thawed { .. } => "thawed",
        Event::Joined { .. } => "joined",
        Event::SetDown { .. } => "set_down",
        Event::Miscalculated { .. } => "miscalculated",
        Event::Performed { .. } => "performed",
        Event::Waits { .. } => "waits",
        Event::WaitsUntil { .. } => "waits_until",
        Event::Enabled { .. } => "enabled",
        Event::Disabled { .. } => "disabled",
        Event::Destroyed { .. } => "destroyed",
        Event::Broken { .. } => "broken",
        Event::Fault { .. } => "fault",
        _ => "other",
    }
}
