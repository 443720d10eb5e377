//! What happened, as spans and instants in lanes.

use std::collections::BTreeMap;

use stoicheon_core::{Event, Moved, ObjectId, PLAYER, RecordId, State, Tick, WireId};

use crate::{
    phrase::{part_text, typed_text, value_text},
    trace_text::with_printer,
    why::history::History,
};

/// What a lane is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum LaneKind {
    Player,
    Object,
    Signal,
    Variables,
    Effects,
    Faults,
}

/// What a span or an instant is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Sort {
    Taken,
    Refused,
    Unheard,
    Input,
    State,
    Inside,
    Wait,
    Change,
    Effect,
    Fault,
}

/// Something that lasted, or that happened at once.
#[derive(Clone, Debug)]
pub(crate) struct Piece {
    pub(crate) lane: usize,
    pub(crate) sort: Sort,
    pub(crate) from: f64,
    /// For an instant, the same.
    pub(crate) to: f64,
    pub(crate) label: String,
    pub(crate) about: String,
    /// The records it is of, numbered over all worlds: those it began and ended with.
    pub(crate) records: Vec<u64>,
}

/// A line of the picture.
#[derive(Clone, Debug)]
pub(crate) struct Lane {
    pub(crate) kind: LaneKind,
    pub(crate) name: String,
}

/// All of it.
#[derive(Clone, Debug, Default)]
pub(crate) struct Story {
    pub(crate) lanes: Vec<Lane>,
    pub(crate) pieces: Vec<Piece>,
    /// From a piece to one that it led to.
    pub(crate) links: Vec<(usize, usize)>,
    pub(crate) ends: f64,
    /// How many records there are, of all worlds.
    pub(crate) told: u64,
}

/// What one world adds.
struct Teller<'s, 't> {
    story: &'t mut Story,
    history: &'s History<'s>,
    /// When the world before it ended: one that goes on from a save is made before its time is known.
    begins: f64,
    /// How many records the worlds before it have.
    before: u64,
    /// Which piece a record is.
    pieces: BTreeMap<RecordId, usize>,
    /// Pieces that last: what began them, by what ends them.
    walking: BTreeMap<ObjectId, usize>,
    held: BTreeMap<(ObjectId, String), usize>,
    inside: BTreeMap<(ObjectId, String), usize>,
    states: BTreeMap<String, usize>,
    waits: BTreeMap<RecordId, usize>,
}

impl Story {
    pub(crate) fn add(&mut self, state: &State) {
        let history = History::of(state);
        let ends = state.rate().seconds(stoicheon_core::ticks(state.now().0)).0;
        let first = self.pieces.len();
        let (begins, before) = (self.ends, self.told);
        let mut teller = Teller {
            story: self,
            history: &history,
            begins,
            before,
            pieces: BTreeMap::new(),
            walking: BTreeMap::new(),
            held: BTreeMap::new(),
            inside: BTreeMap::new(),
            states: BTreeMap::new(),
            waits: BTreeMap::new(),
        };
        for (id, record) in history.iter() {
            teller.record(id, record.tick, &record.event);
        }
        // What has not ended goes on to the end.
        let lasting: Vec<usize> = (teller.walking.values())
            .chain(teller.inside.values())
            .chain(teller.held.values())
            .chain(teller.states.values())
            .chain(teller.waits.values())
            .copied()
            .collect();
        for piece in lasting {
            teller.story.pieces[piece].to = ends;
        }
        self.ends = self.ends.max(ends);
        self.told += state.trace().len();
        for piece in &mut self.pieces[first..] {
            piece.to = piece.to.max(piece.from);
        }
    }

    /// What is to be seen of it in each of some windows of time, which come one after the other.
    pub(crate) fn cut(&self, windows: &[(f64, f64)]) -> Vec<Self> {
        let first = |from: f64| windows.partition_point(|(_, ends)| *ends < from);
        let last = |to: f64| windows.partition_point(|(begins, _)| *begins <= to);
        let range = |piece: &Piece| first(piece.from)..last(piece.to);
        let mut parts: Vec<Self> = windows.iter().map(|_| Self::default()).collect();
        // Where each piece is in each window.
        let mut places: Vec<BTreeMap<usize, usize>> = vec![BTreeMap::new(); windows.len()];
        for (index, piece) in self.pieces.iter().enumerate() {
            for window in range(piece) {
                places[window].insert(index, parts[window].pieces.len());
                parts[window].pieces.push(piece.clone());
            }
        }
        for (from, to) in &self.links {
            for window in range(&self.pieces[*to]) {
                if let (Some(from), Some(to)) = (places[window].get(from), places[window].get(to)) {
                    parts[window].links.push((*from, *to));
                }
            }
        }
        for part in &mut parts {
            part.lanes.clone_from(&self.lanes);
            (part.ends, part.told) = (self.ends, self.told);
        }
        parts
    }

    fn lane(&mut self, kind: LaneKind, name: &str) -> usize {
        if let Some(known) = self.lanes.iter().position(|lane| lane.kind == kind && lane.name == name) {
            return known;
        }
        self.lanes.push(Lane { kind, name: name.to_owned() });
        self.lanes.len() - 1
    }
}

impl<'s> Teller<'s, '_> {
    fn state(&self) -> &'s State {
        self.history.state
    }

    fn seconds(&self, tick: Tick) -> f64 {
        self.state().rate().seconds(stoicheon_core::ticks(tick.0)).0.max(self.begins)
    }

    fn object_lane(&mut self, object: ObjectId) -> usize {
        let name = self.state().name(object).unwrap_or("somebody gone").to_owned();
        let is_player = self.state().find_player(&name).is_some() || self.state().has_tag(object, PLAYER);
        self.story.lane(if is_player { LaneKind::Player } else { LaneKind::Object }, &name)
    }

    /// The lane of what gives a signal, and the word for it there.
    fn signal_lane(&mut self, name: &str) -> (usize, String) {
        if let Some((object, word)) = name.rsplit_once('.') {
            let is_object = self.state().find(object).is_some()
                || self.story.lanes.iter().any(|lane| lane.kind == LaneKind::Object && lane.name == object);
            if is_object {
                return (self.story.lane(LaneKind::Object, object), word.to_owned());
            }
        }
        (self.story.lane(LaneKind::Signal, "signals"), name.to_owned())
    }

    fn put(&mut self, id: RecordId, tick: Tick, lane: usize, sort: Sort, label: String) -> usize {
        let at = self.seconds(tick);
        let about = self.history.line(id).trim().to_owned();
        let records = vec![self.before + id.number()];
        self.story.pieces.push(Piece { lane, sort, from: at, to: at, label, about, records });
        let piece = self.story.pieces.len() - 1;
        self.pieces.insert(id, piece);
        // The nearest cause that is drawn.
        let cause = self.history.chain(id).skip(1).find_map(|cause| self.pieces.get(&cause).copied());
        if let Some(cause) = cause {
            self.story.links.push((cause, piece));
        }
        piece
    }

    fn end(&mut self, piece: Option<usize>, tick: Tick) {
        let at = self.seconds(tick);
        if let Some(piece) = piece {
            self.story.pieces[piece].to = at;
        }
    }

    /// The record is where a piece ends.
    fn ended(&mut self, id: RecordId, piece: Option<usize>) {
        if let Some(piece) = piece {
            self.pieces.insert(id, piece);
            self.story.pieces[piece].records.push(self.before + id.number());
        }
    }

    fn record(&mut self, id: RecordId, tick: Tick, event: &Event) {
        match event {
            Event::Key { who, key, down } => {
                let open = (*who, key.to_string());
                if *down {
                    let lane = self.object_lane(*who);
                    let piece = self.put(id, tick, lane, Sort::Input, format!("holds {key}"));
                    self.held.insert(open, piece);
                } else {
                    let piece = self.held.remove(&open);
                    self.end(piece, tick);
                    if let Some(piece) = piece.map(|piece| &mut self.story.pieces[piece])
                        && piece.to - piece.from < 0.1
                    {
                        piece.to = piece.from;
                        piece.label = format!("presses {key}");
                    }
                }
            }
            Event::SetOut { body, .. } => {
                let before = self.walking.remove(body);
                self.end(before, tick);
                let lane = self.object_lane(*body);
                let piece = self.put(id, tick, lane, Sort::Input, "walks".to_owned());
                self.walking.insert(*body, piece);
            }
            Event::Arrived { body, .. } | Event::Placed { body, .. } => {
                let piece = self.walking.remove(body);
                self.end(piece, tick);
            }
            Event::Entered { zone, body, .. } => {
                let name = part_text(self.state(), *zone).to_owned();
                let lane = self.object_lane(*body);
                let piece = self.put(id, tick, lane, Sort::Inside, format!("in {name}"));
                self.inside.insert((*body, name), piece);
            }
            Event::Left { zone, body, .. } => {
                let name = part_text(self.state(), *zone).to_owned();
                let piece = self.inside.remove(&(*body, name));
                self.end(piece, tick);
                self.ended(id, piece);
            }
            Event::Shifted { part, to, .. } => {
                let state = self.state();
                let (Some(kind), Some(object)) = (state.kind_of(*part), state.object_of(*part)) else {
                    return;
                };
                let key = format!("{}.{}", part_text(state, *part), kind.name);
                let word = kind.states.get(usize::from(*to)).copied().unwrap_or("?");
                let rests = kind.states.first() == Some(&word);
                let before = self.states.remove(&key);
                self.end(before, tick);
                let lane = self.object_lane(object);
                let piece = self.put(id, tick, lane, Sort::State, word.to_owned());
                if !rests {
                    self.states.insert(key, piece);
                }
            }
            Event::Delivered { signal, .. } => self.delivered(id, tick, *signal),
            Event::Waits { .. } | Event::WaitsUntil { .. } => {
                let Some(wire) = self.wire_of(id) else { return };
                let place = with_printer(self.state(), |printer| printer.place(wire));
                let name = self
                    .state()
                    .wire_signals(wire)
                    .first()
                    .and_then(|signal| self.state().signal_name(*signal));
                let (lane, _) = self.signal_lane(name.unwrap_or_default());
                let piece = self.put(id, tick, lane, Sort::Wait, format!("{place} waits"));
                self.waits.insert(id, piece);
            }
            Event::Resumed { .. } | Event::Dropped { .. } => {
                let cause = self.history.get(id).and_then(|record| record.cause);
                let piece = cause.and_then(|cause| self.waits.remove(&cause));
                self.end(piece, tick);
                self.ended(id, piece);
            }
            other => self.change(id, tick, other),
        }
    }

    fn change(&mut self, id: RecordId, tick: Tick, event: &Event) {
        match event {
            Event::Set { var, of, from, to } if from != to => {
                let state = self.state();
                let to = typed_text(state, state.var_type(*var), to);
                let name = state.var_name(*var).unwrap_or("?").to_owned();
                let of = of.and_then(|of| state.name(of)).map_or_else(String::new, |of| format!(" of {of}"));
                let lane = self.story.lane(LaneKind::Variables, "variables");
                self.put(id, tick, lane, Sort::Change, format!("{name}{of} = {to}"));
            }
            Event::Performed { effect, .. } => {
                let name = self.state().effect_name(*effect).unwrap_or("?").to_owned();
                let lane = self.story.lane(LaneKind::Effects, "effects");
                self.put(id, tick, lane, Sort::Effect, name);
            }
            Event::Sent { body, .. } | Event::SentAway { body, .. } => {
                // Who is sent no longer walks where they were going.
                let walk = self.walking.remove(body);
                self.end(walk, tick);
                let lane = self.object_lane(*body);
                self.put(id, tick, lane, Sort::Change, "is sent".to_owned());
            }
            Event::Enabled { object } | Event::Disabled { object } => {
                let word = if matches!(event, Event::Enabled { .. }) { "enabled" } else { "disabled" };
                let lane = self.object_lane(*object);
                self.put(id, tick, lane, Sort::Change, word.to_owned());
            }
            Event::Tweens { moved: Moved::Place(object) | Moved::Facing(object), to, .. } => {
                let label = format!("goes to {}", value_text(self.state(), to));
                let lane = self.object_lane(*object);
                self.put(id, tick, lane, Sort::Change, label);
            }
            Event::Broken { .. } | Event::Fault { .. } | Event::Miscalculated { .. } => {
                let lane = self.story.lane(LaneKind::Faults, "faults");
                let label = with_printer(self.state(), |printer| printer.words(event));
                self.put(id, tick, lane, Sort::Fault, label);
            }
            Event::PlayerLeft { player } => {
                let walk = self.walking.remove(player);
                self.end(walk, tick);
                let lane = self.object_lane(*player);
                self.put(id, tick, lane, Sort::Input, "leaves".to_owned());
            }
            _ => {}
        }
    }

    fn delivered(&mut self, id: RecordId, tick: Tick, signal: stoicheon_core::SignalId) {
        let name = self.state().signal_name(signal).unwrap_or("a signal that is gone").to_owned();
        let heard = self.history.heard(id);
        let sort = match heard {
            (0, 0) => Sort::Unheard,
            (0, _) => Sort::Refused,
            _ => Sort::Taken,
        };
        let (lane, word) = self.signal_lane(&name);
        self.put(id, tick, lane, sort, word);
    }

    /// The wire whose reaction a record is of.
    fn wire_of(&self, id: RecordId) -> Option<WireId> {
        self.history.chain(id).find_map(|id| match self.history.get(id)?.event {
            Event::Took { wire } | Event::Resumed { wire, .. } => Some(wire),
            _ => None,
        })
    }
}
