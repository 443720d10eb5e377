//! Wires from the signals of an object to commands of its own parts.

use std::sync::Arc;

use crate::{
    base::{
        error::Error,
        ids::{ObjectId, SignalId, WireId},
        place::Place,
    },
    plan::{
        ops::Op,
        wires::{ASLEEP, SEQUENCE, Source, Wire},
    },
    state::State,
};

impl State {
    /// Wires a signal of an object to a command of one of its parts.
    pub(crate) fn join_part(
        &mut self,
        signal: SignalId,
        owner: ObjectId,
        order: i32,
        place: Place,
        ops: Arc<[Op]>,
    ) -> Result<WireId, Error> {
        let store = self.bus.open_lane(signal)?.store;
        let asleep = !self.moment.objects.get(owner).ok_or(Error::NoSuchObject)?.enabled;
        let since = self.now();
        let flags = SEQUENCE | if asleep { ASLEEP } else { 0 };
        let id = self.moment.wires.insert(flags, |number, row| Wire {
            owner: Some(owner),
            order,
            ops: Some(ops),
            ..Wire::plain(Source::One(signal), store, (number, row), place, since)
        });
        if let Some(owner) = self.moment.objects.get_mut(owner) {
            owner.wires.push(id);
        }
        self.connect(id);
        Ok(id)
    }
}
