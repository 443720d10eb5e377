//! Delivering one signal to all its wires, in their order.

use std::{any::Any, collections::VecDeque};

use crate::{
    base::{doing::Doing, ids::RecordId, payload::Payload, value::Values},
    moment::{queue::Emission, run::Run},
    plan::{
        refusals::Refusal,
        wires::{ASLEEP, CHECKED, CUT, DELAYED, DOZED, Entry, GUARD_IN_RUST, MADE, MAILBOX, SEQUENCE},
    },
    state::State,
    world::{
        closures::{Body, Fresh, More, Reaction, nothing},
        cx::Cx,
        listing::Lent,
        mailbox::Letter,
        refusal::Offer,
    },
};

/// The closures on one payload type.
pub(crate) trait AnyStore<G>: Send {
    fn as_any_mut(&mut self) -> &mut dyn Any;
    fn deliver(
        &mut self,
        store: u32,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        first: &Emission,
        lent: &Lent,
    );
    fn run_late(
        &mut self,
        closure: u32,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        run: &Run,
    );
    fn has(&self, closure: u32) -> bool;
    fn forget(&mut self, closure: u32);
}

struct Store<G, T> {
    /// The closures, close together: what a delivery walks through.
    runs: Vec<Reaction<G, T>>,
    /// The rest of each; `None` for one that was let go.
    more: Vec<Option<More<G, T>>>,
}

impl<G, T> Default for Store<G, T> {
    fn default() -> Self {
        Self { runs: Vec::new(), more: Vec::new() }
    }
}

/// All closures, by payload type.
pub(crate) struct Stores<G>(Vec<Option<Box<dyn AnyStore<G>>>>);

impl<G> Default for Stores<G> {
    fn default() -> Self {
        Self(Vec::new())
    }
}

impl<G: 'static> Stores<G> {
    pub(crate) fn put<T: Payload>(&mut self, store: u32, closure: u32, body: Body<G, T>) {
        let (store, closure) = (store as usize, closure as usize);
        if self.0.len() <= store {
            self.0.resize_with(store + 1, || None);
        }
        let typed = self.0[store].get_or_insert_with(|| Box::new(Store::<G, T>::default()));
        if let Some(Store { runs, more }) = typed.as_any_mut().downcast_mut::<Store<G, T>>() {
            if runs.len() <= closure {
                runs.resize_with(closure + 1, nothing);
                more.resize_with(closure + 1, || None);
            }
            runs[closure] = body.run;
            more[closure] = Some(body.more);
        }
    }

    /// The letters of a mailbox.
    pub(crate) fn letters<T: Payload>(
        &mut self,
        store: u32,
        closure: u32,
    ) -> Option<&mut VecDeque<Letter<T>>> {
        let typed = self.0.get_mut(store as usize)?.as_mut()?;
        let store = typed.as_any_mut().downcast_mut::<Store<G, T>>()?;
        let more = store.more.get_mut(closure as usize)?.as_mut()?;
        more.mailbox.as_mut().map(|mail| &mut mail.letters)
    }

    /// Lets a closure go, with all it holds.
    pub(crate) fn forget(&mut self, store: u32, closure: u32) {
        if let Some(Some(store)) = self.0.get_mut(store as usize) {
            store.forget(closure);
        }
    }

    pub(crate) fn has(&self, store: u32, closure: u32) -> bool {
        self.0.get(store as usize).is_some_and(|store| store.as_ref().is_some_and(|store| store.has(closure)))
    }

    /// Delivers an emission to every wire of its signal, and those that follow it on the same signal.
    #[inline]
    pub(crate) fn deliver(
        &mut self,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        emission: Emission,
    ) {
        let Some((lent, store)) = state.lend(emission.signal) else { return };
        if let Some(Some(typed)) = self.0.get_mut(store as usize) {
            typed.deliver(store, state, game, fresh, &emission, &lent);
        } else if let Some(values) = state.bus.payloads.pop_values(store) {
            // No closure was ever wired to this payload type: sequences are all there can be.
            Store::<G, Values>::default().call_each(state, game, fresh, &emission, &values, &lent);
        }
        state.take_back(&lent);
    }

    /// Runs the closure of a wire whose delay is over.
    pub(crate) fn run_late(&mut self, state: &mut State, game: &mut G, fresh: &mut Vec<Fresh<G>>, run: &Run) {
        let Some((store, closure)) = state.moment.wires.get(run.wire).map(|wire| (wire.store, wire.closure))
        else {
            return;
        };
        if let Some(Some(store)) = self.0.get_mut(store as usize) {
            store.run_late(closure, state, game, fresh, run);
        }
    }
}

impl<G: 'static, T: Payload> AnyStore<G> for Store<G, T> {
    fn as_any_mut(&mut self) -> &mut dyn Any {
        self
    }

    fn deliver(
        &mut self,
        store: u32,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        first: &Emission,
        lent: &Lent,
    ) {
        let Some(payload) = state.bus.payloads.pop::<T>(store) else { return };
        match (lent.plain, state.bus.trace.is_on()) {
            (true, false) => self.call_all::<false>(store, state, game, fresh, first, &payload, lent),
            (true, true) => self.call_all::<true>(store, state, game, fresh, first, &payload, lent),
            (false, _) => self.call_each(state, game, fresh, first, &payload, lent),
        }
    }

    fn run_late(
        &mut self,
        closure: u32,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        run: &Run,
    ) {
        let Some(payload) = T::from_values(&run.values) else { return };
        let doing = Doing { by: Some(run.wire), ..run.doing };
        let mut cx = Cx { state, fresh, doing, signal: run.signal };
        let mailbox = self.more.get_mut(closure as usize).and_then(|more| more.as_mut()?.mailbox.as_mut());
        if let Some(mail) = mailbox {
            mail.receive(&payload, &cx);
        } else if let Some(reaction) = self.runs.get_mut(closure as usize) {
            reaction(game, &payload, &mut cx);
        }
    }

    fn has(&self, closure: u32) -> bool {
        self.more.get(closure as usize).is_some_and(Option::is_some)
    }

    fn forget(&mut self, closure: u32) {
        if let (Some(run), Some(more)) =
            (self.runs.get_mut(closure as usize), self.more.get_mut(closure as usize))
        {
            *run = nothing();
            *more = None;
        }
    }
}

#[derive(Default)]
struct Counts {
    taken: u64,
    refused: u64,
}

impl<G, T: Payload> Store<G, T> {
    /// The short way: every wire takes whatever comes. What follows on the same signal goes to the same list.
    #[expect(
        clippy::too_many_arguments,
        reason = "the quick half of `deliver`, with all that it has at hand"
    )]
    fn call_all<const TRACED: bool>(
        &mut self,
        store: u32,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        first: &Emission,
        payload: &T,
        lent: &Lent,
    ) {
        let doing = Doing::default();
        let mut cx = Cx { state, fresh, doing, signal: lent.signal };
        if !self.call_all_once::<TRACED>(&mut cx, game, first, payload, lent) {
            return;
        }
        let Some(mut emission) = cx.state.bus.next_if(lent.signal) else { return };
        // Payloads that are emitted meanwhile queue behind those that are lent out here.
        let mut payloads = cx.state.bus.payloads.lend::<T>(store);
        while let Some(payload) = payloads.pop_front() {
            let go_on = self.call_all_once::<TRACED>(&mut cx, game, &emission, &payload, lent);
            if !go_on || payloads.is_empty() {
                break;
            }
            let Some(next) = cx.state.bus.next_if(lent.signal) else { break };
            emission = next;
        }
        cx.state.bus.payloads.give_back(store, payloads);
    }

    /// Calls every closure with one payload; false once the list does not hold any more.
    #[expect(clippy::inline_always, reason = "the innermost loop of a delivery; measured")]
    #[inline(always)]
    fn call_all_once<const TRACED: bool>(
        &mut self,
        cx: &mut Cx<'_, G>,
        game: &mut G,
        emission: &Emission,
        payload: &T,
        lent: &Lent,
    ) -> bool {
        let record = if TRACED { cx.state.note_delivery(emission, payload, lent) } else { None };
        (cx.doing.who, cx.doing.arrived) = (emission.who, emission.arrived);
        for (at, entry) in lent.list.awake.iter().enumerate() {
            if cx.state.moment.wires.disturbed != lent.disturbed {
                // A reaction put a wire to sleep, cut one or made one: from here on each is looked at.
                cx.state.moment.wires.count_taken(&lent.list.awake[..at], 1);
                self.call_from(cx, game, payload, lent, at, record);
                return false;
            }
            cx.doing.by = Some(entry.wire);
            if TRACED {
                cx.doing.cause = cx.state.bus.trace.took_on(record, entry.wire);
            }
            if let Some(run) = self.runs.get_mut(entry.closure as usize) {
                run(game, payload, cx);
            }
        }
        if TRACED {
            cx.state.note_asleep(lent.signal, record);
        }
        cx.state.moment.wires.disturbed == lent.disturbed
    }

    /// The long way: each wire is looked at.
    fn call_each(
        &mut self,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        emission: &Emission,
        payload: &T,
        lent: &Lent,
    ) {
        let Emission { who, arrived, .. } = *emission;
        let traced = state.bus.trace.is_on();
        let record = if traced { state.note_delivery(emission, payload, lent) } else { None };
        let doing = Doing { who, arrived, ..Doing::default() };
        let mut cx = Cx { state, fresh, doing, signal: lent.signal };
        self.call_from(&mut cx, game, payload, lent, 0, record);
    }

    /// The long way from one wire of the list on.
    fn call_from(
        &mut self,
        cx: &mut Cx<'_, G>,
        game: &mut G,
        payload: &T,
        lent: &Lent,
        from: usize,
        record: Option<RecordId>,
    ) {
        cx.state.bus.counted = true;
        let mut counts = Counts { taken: from as u64, refused: 0 };
        // Made once, when the first wire asks for values.
        let mut values: Option<Values> = None;
        for entry in &lent.list.awake[from..] {
            let flags = cx.state.moment.wires.flags_at(entry.row);
            if flags == 0 {
                cx.state.moment.wires.count_taken(std::slice::from_ref(entry), 1);
                counts.taken += 1;
                cx.doing.by = Some(entry.wire);
                cx.doing.cause = cx.state.bus.trace.took(record, entry.wire);
                if let Some(run) = self.runs.get_mut(entry.closure as usize) {
                    run(game, payload, cx);
                }
            } else {
                self.call_checked(cx, game, payload, &mut values, *entry, flags, record, &mut counts);
            }
        }
        cx.state.bus.trace.count(counts.taken, counts.refused);
        if record.is_some() {
            cx.state.note_asleep(cx.signal, record);
        }
    }

    /// A wire that has more to it than a closure to be called.
    #[expect(
        clippy::too_many_arguments,
        reason = "the slow half of `call_from`, with all that it has at hand"
    )]
    fn call_checked(
        &mut self,
        cx: &mut Cx<'_, G>,
        game: &mut G,
        payload: &T,
        values: &mut Option<Values>,
        entry: Entry,
        flags: u32,
        record: Option<RecordId>,
        counts: &mut Counts,
    ) {
        let Entry { wire, closure, .. } = entry;
        if flags & CUT != 0 {
            return;
        }
        let mut more = self.more.get_mut(closure as usize).and_then(Option::as_mut);
        let refusal = if flags & (ASLEEP | DOZED) != 0 {
            Some(Refusal::Asleep)
        } else if flags & (CHECKED | MADE) != 0 {
            let values = values.get_or_insert_with(|| payload.to_values());
            let guard = match &mut more {
                Some(More { guard: Some(guard), .. }) if flags & GUARD_IN_RUST != 0 => {
                    Some(guard(game, payload, cx.state))
                }
                _ => None,
            };
            let made_of = match &more {
                Some(More { fits: Some((fits, fields)), .. }) if !fits(payload) => Some(fields),
                _ => None,
            };
            let offer =
                Offer { who: cx.doing.who, signal: cx.signal, values, guard, fits: made_of.is_none() };
            let (refusal, eval_fault) = cx.state.refusal(wire, &offer);
            cx.state.note_eval_fault(eval_fault, record);
            if let (Some(Refusal::Payload), Some(fields)) = (&refusal, made_of) {
                let error = cx.state.payload_unfit(cx.signal, values, &fields().unwrap_or_default());
                cx.state.fault(&error, Doing { by: Some(wire), cause: record, ..cx.doing });
            }
            refusal
        } else {
            None
        };
        if let Some(why) = refusal {
            counts.refused += u64::from(why != Refusal::Asleep);
            cx.state.refuse(wire, why, record);
            return;
        }
        counts.taken += 1;
        cx.state.moment.wires.count_taken(&[entry], 1);
        cx.doing.by = Some(wire);
        cx.doing.cause = cx.state.bus.trace.took(record, wire);
        if flags & CHECKED != 0 && !cx.state.spend(wire, cx.doing) {
            let values = values.get_or_insert_with(|| payload.to_values()).clone();
            cx.state.hold(wire, cx.signal, values, cx.doing);
        } else if flags & (SEQUENCE | DELAYED) != 0 {
            let values = values.get_or_insert_with(|| payload.to_values()).clone();
            cx.state.begin(wire, cx.signal, values, cx.doing);
        } else if flags & MAILBOX != 0 {
            if let Some(More { mailbox: Some(mail), .. }) = more {
                mail.receive(payload, cx);
            }
        } else if let Some(run) = self.runs.get_mut(closure as usize) {
            run(game, payload, cx);
        }
    }
}
