//! The tape: what was recorded, as the page has it, and which objects it is about.

use serde::Serialize;
use stoicheon_core::{Event, ObjectId, PartId, Record, RecordId, SignalId, State};
use stoicheon_view::SeenRecord;

/// A record, as the page has it.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub(crate) struct Line {
    /// Its number.
    pub(crate) n: u64,
    /// The number of the record it came from; 0 for none.
    pub(crate) cause: u64,
    pub(crate) tick: u64,
    pub(crate) phase: String,
    pub(crate) event: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) about: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) who: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) wire: Option<String>,
    pub(crate) text: String,
    /// The numbers of the things it is about on the ground.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) lit: Vec<u32>,
}

impl Line {
    pub(crate) fn of(state: &State, id: RecordId, record: &Record, lit: Vec<u32>) -> Self {
        let seen = SeenRecord::of(state, id, record);
        Self {
            n: seen.number,
            cause: seen.cause.unwrap_or(0),
            tick: seen.tick,
            phase: seen.phase,
            event: seen.event,
            about: seen.about,
            who: seen.who,
            wire: seen.wire,
            text: seen.text,
            lit,
        }
    }
}

/// The objects that look otherwise after a record, or that it lights up.
pub(crate) fn objects_of(state: &State, record: &Record) -> Vec<ObjectId> {
    let of_part = |part: PartId| state.object_of(part);
    let of_signal = |signal: SignalId| state.signal_name(signal).and_then(|name| owner_of(state, name));
    let found = match &record.event {
        Event::Placed { body, .. }
        | Event::SetOut { body, .. }
        | Event::Arrived { body, .. }
        | Event::Driven { body, .. }
        | Event::Sent { body, .. }
        | Event::SentAway { body, .. }
        | Event::Travelled { body, .. }
        | Event::StaysHere { body } => [Some(*body), None],
        Event::Key { who, .. } => [Some(*who), None],
        Event::Entered { zone, body, .. }
        | Event::Left { zone, body, .. }
        | Event::TurnedAway { zone, body } => [of_part(*zone), Some(*body)],
        Event::Pointed { who, at, .. } => [Some(*who), at.and_then(of_part)],
        Event::PlayerLeft { player } | Event::Joined { player, .. } => [Some(*player), None],
        Event::Spawned { object }
        | Event::Enabled { object }
        | Event::Disabled { object }
        | Event::Destroyed { object, .. } => [Some(*object), None],
        Event::SetDown { object, player } => [Some(*object), Some(*player)],
        Event::Delivered { signal, who, .. } | Event::HandedIn { signal, who } => [of_signal(*signal), *who],
        Event::Shifted { part, .. } | Event::Unmoved { part, .. } | Event::Changed { part, .. } => {
            [of_part(*part), None]
        }
        Event::Set { var, of, .. } => {
            [of.or_else(|| state.var_name(*var).and_then(|name| owner_of(state, name))), None]
        }
        Event::Kept { var, .. } => [state.var_name(*var).and_then(|name| owner_of(state, name)), None],
        Event::Performed { .. } => [performed_at(state, record), None],
        Event::Fault { object, .. } => [*object, None],
        _ => [None, None],
    };
    found.into_iter().flatten().collect()
}

/// Whether everything may look otherwise after a record.
pub(crate) fn changes_scenes(event: &Event) -> bool {
    matches!(event, Event::Loaded { .. } | Event::Unloaded { .. } | Event::Rewired)
}

/// What hangs on any of these objects, and is switched on and off together with them. `switched` is sorted.
pub(crate) fn what_hangs_on(state: &State, switched: &[ObjectId]) -> Vec<ObjectId> {
    let hangs = |object: &ObjectId| {
        let mut above = std::iter::successors(state.parent(*object), |at| state.parent(*at));
        above.any(|above| switched.binary_search(&above).is_ok())
    };
    state.objects().filter(hangs).collect()
}

/// Whether a record may change what players are asked.
pub(crate) fn changes_questions(state: &State, event: &Event) -> bool {
    match event {
        Event::Delivered { signal, .. } => {
            let last = state.signal_name(*signal).and_then(|name| name.rsplit('.').next());
            matches!(last, Some("asked" | "chosen" | "declined"))
        }
        Event::Joined { .. } | Event::PlayerLeft { .. } | Event::Loaded { .. } | Event::Unloaded { .. } => {
            true
        }
        _ => false,
    }
}

/// The object that a signal or a variable is of, by its name.
fn owner_of(state: &State, name: &str) -> Option<ObjectId> {
    state.find(name.rsplit_once('.')?.0)
}

/// Where an effect is: with whom it goes back to, or else with what gave the signal.
fn performed_at(state: &State, record: &Record) -> Option<ObjectId> {
    let mut cause = record.cause;
    let mut place = None;
    // Effects are near their cause; a long chain of a loop is not walked to its end.
    for _ in 0..64 {
        let Some(next) = cause.and_then(|id| state.trace().get(id)) else { break };
        match &next.event {
            Event::Delivered { who: Some(who), .. }
            | Event::HandedIn { who: Some(who), .. }
            | Event::Resumed { who: Some(who), .. }
            | Event::Key { who, .. } => return Some(*who),
            Event::Delivered { signal, .. } => {
                place = place.or_else(|| state.signal_name(*signal).and_then(|name| owner_of(state, name)));
            }
            _ => {}
        }
        cause = next.cause;
    }
    place
}
