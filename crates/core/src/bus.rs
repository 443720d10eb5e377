//! The bus: signals, what is queued on them, and the trace. Parts, sequences and reactions all emit through it.

use crate::{
    error::Error,
    object::ObjectId,
    payload::{Field, Payload, fit, list_fields, list_types},
    queue::{Emission, Payloads, Queue},
    signal::{Lane, Signal, SignalId, Signals},
    trace::{RecordId, Trace},
    value::{Value, Values},
    wire::WireId,
};

/// Whom a change goes back to, and what it came from.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Doing {
    pub(crate) who: Option<ObjectId>,
    pub(crate) cause: Option<RecordId>,
    pub(crate) by: Option<WireId>,
}

#[derive(Debug)]
pub(crate) struct Bus {
    pub(crate) signals: Signals,
    pub(crate) payloads: Payloads,
    pub(crate) queue: Queue,
    pub(crate) trace: Trace,
    /// The delivery under way, counted within this tick; 0 before the first.
    pub(crate) delivery: u32,
}

impl Bus {
    pub(crate) fn new(trace: Trace) -> Self {
        Self {
            signals: Signals::default(),
            payloads: Payloads::default(),
            queue: Queue::default(),
            trace,
            delivery: 0,
        }
    }

    /// Declares a signal carrying `T`, or finds it.
    pub(crate) fn declare<T: Payload>(&mut self, name: &str) -> Result<Signal<T>, Error> {
        let fields = match (T::fields(), self.signals.find(name)) {
            (Some(fields), _) => fields,
            (None, Some(known)) => return Ok(Signal::new(known)),
            (None, None) => Vec::new(),
        };
        let store = self.payloads.store_of::<T>();
        self.signals.declare(name, fields, store).map(Signal::new)
    }

    /// Declares a signal whose fields are known only now, or finds it.
    pub(crate) fn declare_fields(&mut self, name: &str, fields: Vec<Field>) -> Result<SignalId, Error> {
        let store = self.payloads.store_of::<Values>();
        self.signals.declare(name, fields, store)
    }

    /// The lane of a signal that can still be emitted.
    pub(crate) fn open_lane(&self, signal: SignalId) -> Result<&Lane, Error> {
        self.signals.lane(signal).filter(|lane| !lane.closed).ok_or(Error::NoSuchSignal)
    }

    /// Puts one emission at the end of the queue.
    #[inline]
    pub(crate) fn emit<T: Payload>(
        &mut self,
        signal: Signal<T>,
        payload: T,
        doing: Doing,
    ) -> Result<(), Error> {
        let store = self.open_lane(signal.id())?.store;
        if !self.payloads.push(store, payload) {
            return Err(Error::NoSuchSignal);
        }
        self.enqueue(signal.id(), doing);
        Ok(())
    }

    /// The same for a payload known only as values.
    pub(crate) fn emit_values(
        &mut self,
        signal: SignalId,
        values: &[Value],
        doing: Doing,
    ) -> Result<(), Error> {
        let lane = self.open_lane(signal)?;
        let store = lane.store;
        if !fit(&lane.fields, values) || !self.payloads.push_values(store, values) {
            let lane = self.open_lane(signal)?;
            return Err(Error::WrongValues {
                name: lane.name.clone(),
                expected: list_fields(&lane.fields),
                found: list_types(values),
            });
        }
        self.enqueue(signal, doing);
        Ok(())
    }

    #[inline]
    fn enqueue(&mut self, signal: SignalId, doing: Doing) {
        let Doing { who, cause, by } = doing;
        self.queue.push(Emission { signal, who, cause, by, parent: self.delivery });
    }
}
