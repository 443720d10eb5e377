//! Everything of a world between two ticks that decides what happens next.

use std::collections::{BTreeMap, BTreeSet, VecDeque};

use rand_pcg::Pcg32;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Clock, Tick},
        ids::{BindId, ObjectId, PartId, PropertyName, RecordId, SignalId},
        shared::Shared,
        value::Values,
    },
    moment::{
        alarms::Alarms, effects::Effects, hands::AllHands, leaving::Leaving, memory::Memory,
        messages::Message, objects::Objects, queue::Emission, scenes::Scenes, signals::Signals, spots::Spots,
        tweens::Tweens, vars::Vars, waiting::Waiting, watches::Watches, wires::Wires, zones::Zones,
    },
    part::{behaviours::SnapshotParts, mould::Moulds, store::Places},
    plan::{
        binds::Bind,
        crossings::{Crossing, Side},
        expr::Expr,
        ops::Task,
        rules::Rule,
    },
    space::{reaches::Reaches, tracker::ZoneKey},
    state::State,
    trace::TraceHead,
    world::input::Input,
};

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct WorldData {
    pub(crate) clock: Clock,
    pub(crate) started: bool,
    pub(crate) objects: Objects,
    pub(crate) places: Places,
    pub(crate) parts: SnapshotParts,
    pub(crate) signals: Signals,
    pub(crate) wires: Wires,
    pub(crate) vars: Vars,
    pub(crate) effects: Effects,
    pub(crate) rules: Shared<Vec<Rule>>,
    pub(crate) tracker: Zones,
    pub(crate) pulsing: Shared<Vec<ZoneKey>>,
    pub(crate) prompts: Shared<Vec<PartId>>,
    pub(crate) pushes: Shared<Vec<PartId>>,
    pub(crate) aimed: Shared<Vec<PartId>>,
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) asked: Shared<BTreeMap<PartId, Vec<(SmolStr, Expr)>>>,
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) hands: Shared<AllHands>,
    /// Found again when they were not in the data, as what moves is.
    #[serde(skip)]
    pub(crate) reaches: Reaches,
    #[serde(skip)]
    pub(crate) movers: Shared<BTreeSet<(u32, ObjectId)>>,
    pub(crate) waiting: Waiting,
    pub(crate) alarms: Alarms,
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) staged: Shared<BTreeMap<crate::base::ids::VarId, Vec<crate::base::ids::WireId>>>,
    pub(crate) scenes: Scenes,
    pub(crate) travelling: Vec<(Leaving, Option<RecordId>)>,
    pub(crate) memory: Memory,
    pub(crate) made_of: Shared<BTreeMap<SmolStr, u64>>,
    pub(crate) most_players: Option<u32>,
    pub(crate) spawned: Vec<(ObjectId, Option<RecordId>)>,
    pub(crate) random: Pcg32,
    pub(crate) spots: Spots,
    pub(crate) tasks: Shared<Vec<Task>>,
    pub(crate) binds: Shared<Vec<Bind>>,
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) bind_names: Shared<BTreeMap<PropertyName, Vec<BindId>>>,
    pub(crate) binds_unranked: bool,
    pub(crate) tweens: Tweens,
    pub(crate) watches: Watches,
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) crossings: Shared<BTreeMap<SignalId, Crossing>>,
    pub(crate) side: Side,
    /// What was to cross to other worlds and was not taken there yet.
    pub(crate) outgoing: Vec<Message>,
    pub(crate) moulds: Shared<Moulds>,
    pub(crate) trace: TraceHead,
    pub(crate) inputs: Vec<Input>,
    /// Emitted in the last upkeep.
    pub(crate) queue: Vec<Emission>,
    /// What they and the host's own emissions carry, by payload type.
    pub(crate) payloads: Vec<Vec<Values>>,
    pub(crate) closures: Vec<u32>,
    pub(crate) forgetting: VecDeque<(Tick, u32, u32)>,
}

impl WorldData {
    /// Whether everything in it that is spoken of is in it. What comes from outside may be damaged.
    pub(crate) fn check(&self) -> Result<(), &'static str> {
        let sound = [
            (self.wires.is_sound() && self.signals.is_sound(&self.wires), "its lists of wires are damaged"),
            (self.objects.is_sound(), "its objects are damaged"),
            (State::are_sound(&self.binds, &self.bind_names, &self.vars), "its list of binds is damaged"),
            (self.tracker.is_sound(), "its list of who is inside which zone is damaged"),
            (self.scenes.is_sound(), "its list of scenes is damaged"),
            (self.waiting.is_sound(), "a reaction that waits is damaged"),
        ];
        sound.into_iter().find(|(sound, _)| !sound).map_or(Ok(()), |(_, what)| Err(what))
    }
}

impl State {
    /// Takes up what was emitted and not yet delivered, with what it carries.
    pub(crate) fn requeue(&mut self, data: &WorldData) {
        self.bus.queue.clear();
        data.queue.iter().for_each(|emission| self.bus.queue.push(*emission));
        self.bus.payloads.clear();
        for (store, values) in (0_u32..).zip(&data.payloads) {
            for values in values {
                self.bus.payloads.push_values(store, values);
            }
        }
        self.bus.payloads.closures.clone_from(&data.closures);
    }
}
