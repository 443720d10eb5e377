//! Wires as they were made, and what became of them so far.

use slotmap::SecondaryMap;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Tick, Ticks},
        ids::{ObjectId, RecordId, SceneId, SignalId, VarId, WireId},
        place::Place,
        value::Text,
    },
    inspect::leads::Lead,
    moment::wires::WireCounts,
    plan::{
        expr::Expr,
        refusals::Refusal,
        wires::{ASLEEP, Busy, Guard, Source},
    },
    state::State,
    trace::record::Event,
};

/// A wire: what it listens to, what it asks for, what it leads to, and what became of it so far.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct InspectedWire {
    /// The wire.
    pub wire: WireId,
    /// Where it was written.
    pub place: Place,
    /// The object it sleeps and ends with.
    pub owner: Option<ObjectId>,
    /// The scene it ends with, if it belongs to no object.
    pub scene: Option<SceneId>,
    /// The signals it listens to.
    pub signals: Vec<SignalId>,
    /// The tag, if it listens to the signal of every object that has it; empty for every object that gives it.
    pub every: Option<SmolStr>,
    /// The tags it asks of the body that causes its signal; empty for anybody.
    pub filter: Vec<SmolStr>,
    /// Its guard, if that is an expression.
    pub guard: Option<Expr>,
    /// What its guard is called, if that is a closure.
    pub guard_name: Option<SmolStr>,
    /// Its order number.
    pub order: i32,
    /// How often it may be taken.
    pub times: Option<u64>,
    /// How long it takes no further signal after one, and whether that is so for each player.
    pub cooldown: Option<(Ticks, bool)>,
    /// How long after its signal its reaction begins.
    pub delay: Option<Ticks>,
    /// What happens while its reaction still waits, and whether that is so for each player.
    pub while_running: (Busy, bool),
    /// The stage it belongs to: the variable, and the word.
    pub during: Option<(VarId, Text)>,
    /// Whether its reaction is a closure, which nobody can look into.
    pub is_closure: bool,
    /// What its reaction leads to, in the order of its statements; each once.
    pub leads: Vec<Lead>,
    /// Its owner is disabled, or its scene is frozen.
    pub is_asleep: bool,
    /// How often it was taken and how often it refused.
    pub counts: WireCounts,
    /// The last refusal that the trace still has.
    pub last_refusal: Option<(RecordId, Tick, Refusal)>,
    /// The last time it was taken that the trace still has.
    pub last_taken: Option<(RecordId, Tick)>,
}

impl State {
    /// A wire, and what became of it; `None` if it is gone.
    pub fn inspect_wire(&self, id: WireId) -> Option<InspectedWire> {
        let (flags, wire) = self.moment.wires.alive(id)?;
        let every = match &wire.source {
            Source::One(_) => None,
            Source::Every { tag, .. } => {
                Some(tag.map_or_else(SmolStr::default, |tag| self.tag_word(tag).into()))
            }
        };
        let (guard, guard_name) = match &wire.guard {
            Guard::None => (None, None),
            Guard::Data(expr) => (Some((**expr).clone()), None),
            Guard::Rust(name) => (None, Some(name.clone())),
        };
        Some(InspectedWire {
            wire: id,
            place: wire.place.clone(),
            owner: wire.owner,
            scene: wire.scene,
            signals: wire.source.signals().to_vec(),
            every,
            filter: wire.filter.iter().map(|tag| self.tag_word(*tag).into()).collect(),
            guard,
            guard_name,
            order: wire.order,
            times: wire.times,
            cooldown: wire.cooldown.map(|cooldown| (cooldown.span, cooldown.per_who)),
            delay: wire.delay,
            while_running: (wire.running.busy, wire.running.per_who),
            during: wire.during.clone(),
            is_closure: wire.ops.is_none(),
            leads: self.wire_leads(id),
            is_asleep: flags & ASLEEP != 0,
            counts: self.wire_counts(id).ok()?,
            last_refusal: None,
            last_taken: None,
        })
    }

    /// All wires, in the order of their making, with the last that the trace knows of each.
    pub(crate) fn inspect_wires(&self) -> Vec<InspectedWire> {
        let mut all: Vec<_> = self
            .moment
            .wires
            .iter()
            .filter_map(|(id, wire)| Some((wire.number, self.inspect_wire(id)?)))
            .collect();
        all.sort_by_key(|(number, _)| *number);
        let mut all: Vec<_> = all.into_iter().map(|(_, wire)| wire).collect();
        let places: SecondaryMap<WireId, usize> =
            all.iter().enumerate().map(|(index, wire)| (wire.wire, index)).collect();
        for (id, record) in self.trace().records() {
            match record.event {
                Event::Took { wire } => {
                    if let Some(wire) = places.get(wire).and_then(|index| all.get_mut(*index)) {
                        wire.last_taken = Some((id, record.tick));
                    }
                }
                Event::Refused { wire, why } => {
                    if let Some(wire) = places.get(wire).and_then(|index| all.get_mut(*index)) {
                        wire.last_refusal = Some((id, record.tick, why));
                    }
                }
                _ => {}
            }
        }
        all
    }
}
