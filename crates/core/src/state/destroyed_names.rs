//! What is gone, by name: a trace still speaks of it for as long as it keeps the records.

use std::{collections::VecDeque, sync::Arc};

use slotmap::SecondaryMap;
use smol_str::SmolStr;

use crate::{
    base::{
        ids::{ObjectId, PartId, SignalId, SpotId, VarId, WireId},
        payload::Field,
    },
    plan::wires::Wire,
};

#[derive(Clone, Copy, Debug)]
enum Id {
    Object(ObjectId),
    Part(PartId),
    Signal(SignalId),
    Wire(WireId),
    Var(VarId),
    Spot(SpotId),
}

/// The names of what is gone.
#[derive(Clone, Debug, Default)]
pub(crate) struct Gone {
    pub(crate) objects: SecondaryMap<ObjectId, SmolStr>,
    /// The object of each, and the number of its kind.
    pub(crate) parts: SecondaryMap<PartId, (ObjectId, u32)>,
    pub(crate) signals: SecondaryMap<SignalId, (SmolStr, Arc<[Field]>)>,
    pub(crate) wires: SecondaryMap<WireId, Wire>,
    pub(crate) vars: SecondaryMap<VarId, SmolStr>,
    pub(crate) spots: SecondaryMap<SpotId, SmolStr>,
    /// How many records there were when each went.
    order: VecDeque<(u64, Id)>,
}

impl Gone {
    pub(crate) fn object(&mut self, id: ObjectId, name: SmolStr, records: u64) {
        self.objects.insert(id, name);
        self.order.push_back((records, Id::Object(id)));
    }

    pub(crate) fn part(&mut self, id: PartId, object: ObjectId, kind: u32, records: u64) {
        self.parts.insert(id, (object, kind));
        self.order.push_back((records, Id::Part(id)));
    }

    pub(crate) fn signal(&mut self, id: SignalId, name: SmolStr, fields: Arc<[Field]>, records: u64) {
        self.signals.insert(id, (name, fields));
        self.order.push_back((records, Id::Signal(id)));
    }

    pub(crate) fn var(&mut self, id: VarId, name: SmolStr, records: u64) {
        self.vars.insert(id, name);
        self.order.push_back((records, Id::Var(id)));
    }

    pub(crate) fn spot(&mut self, id: SpotId, name: SmolStr, records: u64) {
        self.spots.insert(id, name);
        self.order.push_back((records, Id::Spot(id)));
    }

    pub(crate) fn wire(&mut self, id: WireId, wire: Wire, records: u64) {
        self.wires.insert(id, wire);
        self.order.push_back((records, Id::Wire(id)));
    }

    /// Forgets what no kept record can speak of.
    pub(crate) fn forget(&mut self, first_kept: u64) {
        while self.order.front().is_some_and(|(records, _)| *records < first_kept) {
            let Some((_, id)) = self.order.pop_front() else { break };
            match id {
                Id::Object(id) => drop(self.objects.remove(id)),
                Id::Part(id) => drop(self.parts.remove(id)),
                Id::Signal(id) => drop(self.signals.remove(id)),
                Id::Wire(id) => drop(self.wires.remove(id)),
                Id::Var(id) => drop(self.vars.remove(id)),
                Id::Spot(id) => drop(self.spots.remove(id)),
            }
        }
    }
}
