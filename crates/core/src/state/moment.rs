//! The moment: what is true now, and decides with the plan what happens next.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Clock, TickRate},
        ids::{ObjectId, PartId, RecordId},
        shared::Shared,
    },
    moment::{
        alarms::Alarms,
        effects::Effects,
        hands::{AllHands, Reach},
        leaving::Leaving,
        memory::Memory,
        messages::Message,
        objects::Objects,
        scenes::Scenes,
        tweens::Tweens,
        vars::Vars,
        waiting::Waiting,
        wires::Wires,
        zones::Zones,
    },
    space::{reaches::Reaches, tracker::ZoneKey},
};

/// What is true now. A snapshot has a copy of it, which shares what has not changed since.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Moment {
    pub(crate) clock: Clock,
    /// Start-up is over.
    pub(crate) started: bool,
    pub(crate) objects: Objects,
    pub(crate) wires: Wires,
    pub(crate) vars: Vars,
    pub(crate) effects: Effects,
    pub(crate) scenes: Scenes,
    /// What is remembered of scenes that are not loaded.
    pub(crate) memory: Memory,
    /// Who is inside which zone.
    pub(crate) tracker: Zones,
    /// What each player has at hand and holds.
    #[serde(with = "crate::base::shared::pairs")]
    pub(crate) hands: Shared<AllHands>,
    /// How far from their objects prompts reach. Found again when it was not in the data.
    #[serde(skip)]
    pub(crate) reaches: Reaches<Reach>,
    /// Where what rays meet is. Found again when it was not in the data.
    #[serde(skip)]
    pub(crate) aims: Reaches<(u32, u32)>,
    /// The bodies that the motion phase moves, by number. Found again when it was not in the data.
    #[serde(skip)]
    pub(crate) movers: Shared<BTreeSet<(u32, ObjectId)>>,
    /// Pushes with somebody inside their object's zones, and perhaps some without. Found again likewise.
    #[serde(skip)]
    pub(crate) pushing: Shared<BTreeSet<((u32, u32), PartId)>>,
    /// Parts that are told how bodies go and know of some that are under way, by object number.
    #[serde(default)]
    pub(crate) striding: Shared<BTreeSet<((u32, u32), PartId)>>,
    /// Zones with somebody inside that tell so every so often, by number. Found again likewise.
    #[serde(skip)]
    pub(crate) pulsing: Shared<BTreeSet<(u32, ZoneKey)>>,
    pub(crate) waiting: Waiting,
    pub(crate) alarms: Alarms,
    pub(crate) tweens: Tweens,
    /// Objects made since the last upkeep, with the record of it.
    pub(crate) spawned: Vec<(ObjectId, Option<RecordId>)>,
    /// Bodies that are taken to other scenes in this tick's upkeep, with the records of their sending.
    pub(crate) travelling: Vec<(Leaving, Option<RecordId>)>,
    /// What was to cross to other worlds and was not taken there yet.
    pub(crate) outgoing: Vec<Message>,
    /// How often signals were delivered that ended since, of those somebody counts by name.
    pub(crate) ended_counts: BTreeMap<SmolStr, u64>,
}

impl Moment {
    pub(crate) fn new(rate: TickRate) -> Self {
        Self {
            clock: Clock::new(rate),
            started: false,
            objects: Objects::default(),
            wires: Wires::default(),
            vars: Vars::default(),
            effects: Effects::default(),
            scenes: Scenes::default(),
            memory: Memory::default(),
            tracker: Zones::default(),
            hands: Shared::default(),
            reaches: Reaches::default(),
            aims: Reaches::default(),
            movers: Shared::default(),
            pushing: Shared::default(),
            striding: Shared::default(),
            pulsing: Shared::default(),
            waiting: Waiting::default(),
            alarms: Alarms::default(),
            tweens: Tweens::default(),
            spawned: Vec::new(),
            travelling: Vec::new(),
            outgoing: Vec::new(),
            ended_counts: BTreeMap::new(),
        }
    }
}
