//! The bus: signals, what is queued on them, and the trace. Parts, sequences and reactions all emit through it.

use crate::{
    base::{
        doing::Doing,
        error::{Error, Near, NoSuchSignal},
        ids::SignalId,
        payload::{Field, Payload, fit, list_fields, list_types},
        signal::Signal,
        value::{Value, Values},
    },
    moment::{
        queue::{Emission, Payloads, Queue},
        runaway::Runaway,
        signals::Signals,
        watches::Watches,
    },
    plan::signals::Lane,
    trace::Trace,
};

#[derive(Debug)]
pub(crate) struct Bus {
    pub(crate) signals: Signals,
    pub(crate) payloads: Payloads,
    pub(crate) queue: Queue,
    pub(crate) trace: Trace,
    pub(crate) runaway: Runaway,
    pub(crate) watches: Watches,
    /// The signal that is being delivered.
    pub(crate) delivering: Option<SignalId>,
    /// How many deliveries of it have begun since its list was lent out.
    pub(crate) burst: u64,
    /// The last of them was not the short way to its end: its wires are counted one by one.
    pub(crate) counted: bool,
}

impl Bus {
    pub(crate) fn new(trace: Trace, runaway: Runaway) -> Self {
        Self {
            signals: Signals::default(),
            payloads: Payloads::default(),
            queue: Queue::default(),
            trace,
            runaway,
            watches: Watches::default(),
            delivering: None,
            burst: 0,
            counted: false,
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

    /// The signal of that name, if it carries what a `T` has.
    pub(crate) fn find<T: Payload>(&mut self, name: &str) -> Result<Signal<T>, Error> {
        let found = self.signals.find(name).ok_or_else(|| Error::NoSignalOfName {
            found: name.into(),
            near: Near::of(name, &mut self.signals.names()),
        })?;
        if let Some(fields) = T::fields() {
            self.signals.check_carries(found, &fields)?;
        }
        self.payloads.store_of::<T>();
        Ok(Signal::new(found))
    }

    /// Declares a signal whose fields are known only now, or finds it.
    pub(crate) fn declare_fields(&mut self, name: &str, fields: Vec<Field>) -> Result<SignalId, Error> {
        let store = self.payloads.store_of::<Values>();
        self.signals.declare(name, fields, store)
    }

    /// The lane of a signal that can still be emitted.
    #[inline]
    pub(crate) fn open_lane(&self, signal: SignalId) -> Result<&Lane, NoSuchSignal> {
        self.signals.lane(signal).filter(|lane| !lane.closed).ok_or(NoSuchSignal)
    }

    /// Puts one emission at the end of the queue.
    #[inline]
    pub(crate) fn emit<T: Payload>(
        &mut self,
        signal: Signal<T>,
        payload: T,
        doing: Doing,
    ) -> Result<(), NoSuchSignal> {
        let store = self.open_lane(signal.id())?.store;
        self.payloads.push(store, payload).map_err(|_| NoSuchSignal)?;
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
            return Err(self.wrong_values(signal, values));
        }
        self.enqueue(signal, doing);
        Ok(())
    }

    /// The error for values that the declared fields of a signal cannot hold.
    pub(crate) fn wrong_values(&self, signal: SignalId, values: &[Value]) -> Error {
        let Ok(lane) = self.open_lane(signal) else { return NoSuchSignal.into() };
        Error::WrongValues {
            name: lane.name.clone(),
            expected: list_fields(&lane.fields),
            found: list_types(values),
        }
    }

    #[inline]
    fn enqueue(&mut self, signal: SignalId, doing: Doing) {
        let Doing { who, cause, by, arrived } = doing;
        let (after, parent) = (self.trace.len(), self.runaway.delivery());
        self.queue.push(Emission { signal, who, cause, by, arrived, after, parent });
    }

    /// The next emission to deliver, if the tick is within its limits.
    #[inline]
    pub(crate) fn next(&mut self) -> Option<Emission> {
        let emission = self.queue.pop()?;
        self.runaway.check_rounds(self.queue.rounds);
        self.runaway.count(&emission);
        Some(emission)
    }

    /// The next emission, if it is of that signal and nothing has to be looked at before.
    #[inline]
    pub(crate) fn next_if(&mut self, signal: SignalId) -> Option<Emission> {
        if self.runaway.is_over() || !self.watches.stale_binds.is_empty() {
            return None;
        }
        let emission = *self.queue.pop_if(signal)?;
        self.runaway.count(&emission);
        self.burst += 1;
        Some(emission)
    }
}
