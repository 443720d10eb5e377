//! What a report knows of a run, as data for its page: tables of records, names, texts and values, each text once.

use std::collections::BTreeMap;

use indexmap::IndexSet;
use serde::Serialize;
use stoicheon_core::{Event, Inspection, Phase, State};

use crate::{
    look::{Seen, SeenVar},
    phrase::{part_text, typed_text},
    trace_record::SeenRecord,
    why::history::part_name,
};

/// The trace in columns: the record with number `n` stands at `n - 1` in each.
#[derive(Clone, Debug, Default, Serialize)]
pub(crate) struct Records {
    /// Seconds from one tick to the next.
    tick: f64,
    ticks: Vec<u64>,
    /// The number of the record it came from; 0 for none.
    causes: Vec<u64>,
    phases: Vec<usize>,
    events: Vec<usize>,
    texts: Vec<usize>,
    /// Who caused it: their place among the things, from 1; 0 for nobody.
    who: Vec<usize>,
    /// What it is about, as places among the things.
    about: Vec<Vec<usize>>,
    /// The numbers of the records with which another world begins.
    begins: Vec<u64>,
    /// Words for what happened, and texts.
    words: IndexSet<String>,
    /// Kinds and names of what records are about: `object:lockside.gate`.
    things: IndexSet<String>,
    values: Vec<Valued>,
    /// What values become: the number of the record, the place of the value, and the place of the text.
    changes: Vec<(u64, usize, usize)>,
    #[serde(skip)]
    by_name: BTreeMap<String, usize>,
}

/// A variable, for one player if each has their own, or the state of a part.
#[derive(Clone, Debug, Serialize)]
struct Valued {
    name: String,
    thing: usize,
    /// What it is at first, among the words.
    first: usize,
}

impl Records {
    /// With what the trace of a world has kept.
    pub(crate) fn add(&mut self, state: &State) {
        let before = self.ticks.len() as u64;
        let floor = self.ticks.last().copied().unwrap_or(0);
        if before > 0 {
            self.begins.push(before + 1);
        }
        self.tick = state.rate().seconds(stoicheon_core::ticks(1)).0;
        let now = state.inspect();
        let first = state.trace().records().next().map_or(1, |(id, _)| id.number());
        for (id, record) in state.trace().records() {
            let seen = SeenRecord::of(state, id, &record);
            let cause =
                seen.cause.and_then(|cause| (cause + 1).checked_sub(first)).filter(|cause| *cause > 0);
            let cause = cause.map_or(0, |cause| before + cause);
            // What goes back to nobody of its own goes back to whom its cause does.
            let inherited =
                || usize::try_from(cause).ok().and_then(|cause| self.who.get(cause.wrapping_sub(1)).copied());
            let who = match &seen.who {
                Some(who) => self.things.insert_full(format!("object:{who}")).0 + 1,
                None => inherited().unwrap_or(0),
            };
            let about = self.things_of(state, &seen);
            self.value(state, &record.event, before + id.number() + 1 - first, &about);
            // A world that goes on from a save is made before its time is known.
            self.ticks.push(if record.phase == Phase::Start { floor } else { record.tick.0.max(floor) });
            self.causes.push(cause);
            self.phases.push(self.words.insert_full(seen.phase).0);
            self.events.push(self.words.insert_full(seen.event).0);
            self.texts.push(self.words.insert_full(seen.text).0);
            self.who.push(who);
            self.about.push(about);
        }
        self.unchanged(state, &now);
    }

    /// What a record is about: a signal, a variable or an effect, and the object it belongs to.
    fn things_of(&mut self, state: &State, seen: &SeenRecord) -> Vec<usize> {
        let kind = match seen.event.as_str() {
            "delivered" | "handed_in" | "crossed" => "signal",
            "set" | "kept" => "variable",
            "performed" => "effect",
            "sent" | "sent_away" | "travelled" => "spot",
            _ => "object",
        };
        let mut keys = Vec::new();
        if let Some(about) = &seen.about {
            let owner = about.rsplit_once('.').map(|(owner, _)| owner);
            if kind != "object" || state.find(about).is_some() {
                keys.push(format!("{kind}:{about}"));
            }
            keys.extend(
                owner.filter(|owner| state.find(owner).is_some()).map(|owner| format!("object:{owner}")),
            );
        }
        keys.extend(seen.wire.as_ref().map(|wire| format!("wire:{wire}")));
        if let Some(who) = &seen.who
            && kind == "object"
        {
            keys.push(format!("object:{who}"));
        }
        keys.into_iter().map(|key| self.things.insert_full(key).0).collect()
    }

    /// A value that a record changes.
    fn value(&mut self, state: &State, event: &Event, number: u64, about: &[usize]) {
        let (name, from, to) = match event {
            Event::Set { var, of, from, to } => {
                let ty = state.var_type(*var);
                let name = state.var_name(*var).unwrap_or("something gone");
                let of = of.and_then(|of| state.name(of));
                let name = of.map_or_else(|| name.to_owned(), |of| format!("{name} of {of}"));
                (name, typed_text(state, ty, from), typed_text(state, ty, to))
            }
            Event::Kept { var, from, to, .. } => {
                let ty = state.var_type(*var);
                let name = state.var_name(*var).unwrap_or("something gone").to_owned();
                (name, typed_text(state, ty, from), typed_text(state, ty, to))
            }
            Event::Shifted { part, from, to } => {
                let words = state.kind_of(*part).map_or(&[][..], |kind| kind.states);
                let word = |at: stoicheon_core::PartState| {
                    words.get(usize::from(at)).copied().unwrap_or("?").to_owned()
                };
                (part_name(state, *part), word(*from), word(*to))
            }
            _ => return,
        };
        let at = self.valued(name, about.first().copied(), &from);
        let text = self.words.insert_full(to).0;
        self.changes.push((number, at, text));
    }

    fn valued(&mut self, name: String, thing: Option<usize>, first: &str) -> usize {
        if let Some(known) = self.by_name.get(&name) {
            return *known;
        }
        let thing = thing.unwrap_or_else(|| self.things.insert_full(format!("variable:{name}")).0);
        let first = self.words.insert_full(first.to_owned()).0;
        self.values.push(Valued { name: name.clone(), thing, first });
        self.by_name.insert(name, self.values.len() - 1);
        self.values.len() - 1
    }

    /// Values that nothing has changed.
    fn unchanged(&mut self, state: &State, now: &Inspection) {
        let seen = Seen::from_inspection(state, now);
        let of_objects = seen.objects.iter().flat_map(|object| {
            object.variables.iter().chain(object.parts.iter().flat_map(|part| &part.variables))
        });
        let all: Vec<&SeenVar> = seen.variables.iter().chain(of_objects).collect();
        for var in all {
            let key = format!("variable:{}", var.name);
            let thing = self.things.insert_full(key).0;
            match &var.each {
                None => {
                    self.valued(var.name.clone(), Some(thing), &var.value.text);
                }
                Some(each) => {
                    for one in each {
                        let name =
                            format!("{} of {}", var.name, one.of.as_deref().unwrap_or("somebody gone"));
                        self.valued(name, Some(thing), &one.value.text);
                    }
                }
            }
        }
        for part in now.objects.iter().flat_map(|object| &object.parts) {
            if let Some(word) = part.state {
                let thing = self.things.insert_full(format!("object:{}", part_text(state, part.part))).0;
                self.valued(part_name(state, part.part), Some(thing), word);
            }
        }
    }
}
