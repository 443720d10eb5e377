//! Delivering one signal to all its wires, in their order.

use std::{any::Any, collections::VecDeque};

use smallvec::SmallVec;

use super::mailbox::Letter;
use crate::{
    bus::Doing,
    cx::Cx,
    expr::Scope,
    payload::Payload,
    queue::Emission,
    sequence::Run,
    signal::SignalId,
    state::State,
    trace::{Event, RecordId, Refusal},
    value::Values,
    wire::{
        ASLEEP, Busy, CHECKED, CUT, DELAYED, Entry, GUARD_IN_RUST, Guard, MAILBOX, SEQUENCE, Source, WireId,
    },
};

/// A reaction in Rust.
pub(crate) type Reaction<G, T> = Box<dyn FnMut(&mut G, &T, &mut Cx<'_, G>)>;
/// A guard in Rust.
pub(crate) type GuardFn<G, T> = Box<dyn FnMut(&G, &T, &State) -> bool>;
/// A closure on its way to its store, wired in the course of a delivery.
pub(crate) type Fresh<G> = Box<dyn FnOnce(&mut Stores<G>)>;

/// What a wire has in Rust.
pub(crate) struct Body<G, T> {
    pub(crate) run: Reaction<G, T>,
    pub(crate) guard: Option<GuardFn<G, T>>,
    pub(crate) mailbox: Option<Mail<T>>,
}

/// The letters of a mailbox, and how to copy a payload into one.
pub(crate) struct Mail<T> {
    pub(crate) letters: VecDeque<Letter<T>>,
    pub(crate) copy: fn(&T) -> T,
}

/// The closures on one payload type.
trait AnyStore<G> {
    fn as_any_mut(&mut self) -> &mut dyn Any;
    fn deliver(&mut self, state: &mut State, game: &mut G, fresh: &mut Vec<Fresh<G>>, first: Emission);
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

struct Store<G, T>(Vec<Option<Body<G, T>>>);

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
        let typed = self.0[store].get_or_insert_with(|| Box::new(Store::<G, T>(Vec::new())));
        if let Some(Store(bodies)) = typed.as_any_mut().downcast_mut::<Store<G, T>>() {
            if bodies.len() <= closure {
                bodies.resize_with(closure + 1, || None);
            }
            bodies[closure] = Some(body);
        }
    }

    /// The letters of a mailbox.
    pub(crate) fn letters<T: Payload>(
        &mut self,
        store: u32,
        closure: u32,
    ) -> Option<&mut VecDeque<Letter<T>>> {
        let typed = self.0.get_mut(store as usize)?.as_mut()?;
        let Store(bodies) = typed.as_any_mut().downcast_mut::<Store<G, T>>()?;
        let body = bodies.get_mut(closure as usize)?.as_mut()?;
        body.mailbox.as_mut().map(|mail| &mut mail.letters)
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
        let Some(lane) = state.bus.signals.lane(emission.signal) else { return };
        let store = lane.store;
        if let Some(Some(typed)) = self.0.get_mut(store as usize) {
            typed.deliver(state, game, fresh, emission);
        } else if let Some(values) = state.bus.payloads.pop_values(store) {
            // No closure was ever wired to this payload type: sequences are all there can be.
            let (wires, hash) = state.begin_delivery(emission.signal);
            Store::<G, Values>(Vec::new()).call(state, game, fresh, &emission, &values, &wires, hash);
            state.end_delivery(emission.signal, wires);
        }
    }

    /// Runs the closure of a wire whose delay is over.
    pub(crate) fn run_late(&mut self, state: &mut State, game: &mut G, fresh: &mut Vec<Fresh<G>>, run: &Run) {
        let Some((store, closure)) = state.wires.get(run.wire).map(|wire| (wire.store, wire.closure)) else {
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

    fn deliver(&mut self, state: &mut State, game: &mut G, fresh: &mut Vec<Fresh<G>>, first: Emission) {
        let signal = first.signal;
        let store = state.bus.signals.lane(signal).map_or(u32::MAX, |lane| lane.store);
        let (wires, hash) = state.begin_delivery(signal);
        let mut next = Some(first);
        while let Some(emission) = next {
            let Some(payload) = state.bus.payloads.pop::<T>(store) else { break };
            self.call(state, game, fresh, &emission, &payload, &wires, hash);
            // The list need not be looked at anew for what comes next on the same signal.
            next = state.deliver_next(signal);
        }
        state.end_delivery(signal, wires);
    }

    fn run_late(
        &mut self,
        closure: u32,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        run: &Run,
    ) {
        let Some(Some(body)) = self.0.get_mut(closure as usize) else { return };
        let Some(payload) = T::from_values(&run.values) else { return };
        let signal = SignalId::default();
        let mut cx = Cx { state, fresh, doing: Doing { by: Some(run.wire), ..run.doing }, signal };
        if let Some(mail) = &mut body.mailbox {
            mail.receive(&payload, &cx);
        } else {
            (body.run)(game, &payload, &mut cx);
        }
    }

    fn has(&self, closure: u32) -> bool {
        self.0.get(closure as usize).is_some_and(Option::is_some)
    }

    fn forget(&mut self, closure: u32) {
        if let Some(body) = self.0.get_mut(closure as usize) {
            *body = None;
        }
    }
}

impl<T> Mail<T> {
    fn receive<G>(&mut self, payload: &T, cx: &Cx<'_, G>) {
        let payload = (self.copy)(payload);
        self.letters.push_back(Letter { payload, who: cx.doing.who, tick: cx.state.clock.now });
    }
}

impl<G, T: Payload> Store<G, T> {
    #[expect(
        clippy::too_many_arguments,
        reason = "the one place where everything of a delivery comes together"
    )]
    #[inline]
    fn call(
        &mut self,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        emission: &Emission,
        payload: &T,
        wires: &[Entry],
        hash: u64,
    ) {
        let signal = emission.signal;
        let traced = state.bus.trace.is_on();
        let record = if traced {
            let event = Event::Delivered { signal, who: emission.who, values: payload.to_values() };
            state.bus.trace.note(emission.cause, hash, event)
        } else {
            None
        };
        let mut counts = Counts::default();
        // Made once, when the first wire asks for values.
        let mut values: Option<Values> = None;
        let mut cx = Cx { state, fresh, doing: Doing { who: emission.who, cause: None, by: None }, signal };
        for entry in wires {
            let hot = cx.state.wires.hot_at(entry.hot);
            if hot.flags == 0 {
                hot.taken += 1;
                cx.doing.by = Some(entry.wire);
                if traced {
                    cx.doing.cause = cx.state.bus.trace.took(record, entry.wire);
                }
                if let Some(Some(body)) = self.0.get_mut(entry.closure as usize) {
                    (body.run)(game, payload, &mut cx);
                }
                counts.taken += 1;
            } else {
                let flags = hot.flags;
                self.call_checked(&mut cx, game, payload, &mut values, *entry, flags, record, &mut counts);
            }
        }
        cx.state.count_delivery(signal, record, counts.taken, counts.refused);
    }

    /// A wire that has more to it than a closure to be called.
    #[expect(clippy::too_many_arguments, reason = "the slow half of `call`, with all that it has at hand")]
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
        let mut body = self.0.get_mut(closure as usize).and_then(Option::as_mut);
        if flags & CUT != 0 {
            return;
        }
        let refusal = if flags & ASLEEP != 0 {
            Some(Refusal::Asleep)
        } else if flags & CHECKED != 0 {
            let values = values.get_or_insert_with(|| payload.to_values());
            let guard = match &mut body {
                Some(Body { guard: Some(guard), .. }) if flags & GUARD_IN_RUST != 0 => {
                    Some(guard(game, payload, cx.state))
                }
                _ => None,
            };
            cx.state.refusal(wire, cx.doing.who, values, guard)
        } else {
            None
        };
        if let Some(why) = refusal {
            counts.refused += u64::from(why != Refusal::Asleep);
            cx.state.refuse(wire, why, record);
            return;
        }
        counts.taken += 1;
        cx.state.wires.hot_at(entry.hot).taken += 1;
        cx.doing.by = Some(wire);
        cx.doing.cause = cx.state.bus.trace.took(record, wire);
        if flags & CHECKED != 0 && !cx.state.spend(wire, cx.doing) {
            let values = values.get_or_insert_with(|| payload.to_values()).clone();
            cx.state.hold(wire, values, cx.doing);
        } else if flags & (SEQUENCE | DELAYED) != 0 {
            let values = values.get_or_insert_with(|| payload.to_values()).clone();
            cx.state.begin(wire, values, cx.doing);
        } else if let Some(body) = body {
            match &mut body.mailbox {
                Some(mail) if flags & MAILBOX != 0 => mail.receive(payload, cx),
                _ => (body.run)(game, payload, cx),
            }
        }
    }
}

#[derive(Default)]
struct Counts {
    taken: u64,
    refused: u64,
}

impl State {
    /// Takes the list of wires for the time of a delivery, sorted anew if somebody fell asleep, woke or went.
    #[inline]
    fn begin_delivery(&mut self, signal: SignalId) -> (Vec<Entry>, u64) {
        self.bus.delivering = true;
        let Some(lane) = self.bus.signals.lane_mut(signal) else { return (Vec::new(), 0) };
        lane.delivered += 1;
        if lane.stale {
            self.sort_lane(signal);
        }
        self.bus
            .signals
            .lane_mut(signal)
            .map_or((Vec::new(), 0), |lane| (std::mem::take(&mut lane.awake), lane.hash))
    }

    #[cold]
    fn sort_lane(&mut self, signal: SignalId) {
        let Some(lane) = self.bus.signals.lane_mut(signal) else { return };
        lane.stale = false;
        let mut all = std::mem::take(&mut lane.awake);
        all.append(&mut lane.asleep);
        all.sort_unstable_by_key(|entry| self.wires.rank(entry.wire));
        for entry in all {
            let Some((hot, wire)) = self.wires.alive(entry.wire) else { continue };
            if matches!(&wire.source, Source::Every { members, .. } if !members.contains(&signal)) {
                continue;
            }
            if hot.flags & ASLEEP == 0 {
                lane.awake.push(entry);
            } else {
                lane.asleep.push(entry);
            }
        }
    }

    /// The next emission, if it is of the same signal and may go to the same list.
    #[inline]
    fn deliver_next(&mut self, signal: SignalId) -> Option<Emission> {
        if !self.wires.joining.is_empty() {
            return None;
        }
        let lane = self.bus.signals.lane(signal)?;
        if lane.stale {
            return None;
        }
        let next = self.bus.next_if(signal)?;
        self.bus.signals.lane_mut(signal)?.delivered += 1;
        Some(next)
    }

    #[inline]
    fn end_delivery(&mut self, signal: SignalId, wires: Vec<Entry>) {
        self.bus.delivering = false;
        if let Some(lane) = self.bus.signals.lane_mut(signal) {
            // Nothing else puts a wire on the list while it is lent out.
            lane.awake = wires;
        }
        if !self.wires.joining.is_empty() {
            self.flush_joining();
        }
    }

    /// Counts a delivery, and records who slept through it.
    #[inline]
    fn count_delivery(&mut self, signal: SignalId, record: Option<RecordId>, taken: u64, refused: u64) {
        self.bus.trace.count(taken, refused);
        if record.is_some() {
            self.note_asleep(signal, record);
        }
    }

    fn note_asleep(&mut self, signal: SignalId, record: Option<RecordId>) {
        let Some(lane) = self.bus.signals.lane(signal) else { return };
        for entry in &lane.asleep {
            if self.wires.flags(entry.wire) & CUT == 0 {
                let event = Event::Refused { wire: entry.wire, why: Refusal::Asleep };
                self.bus.trace.note(record, 0, event);
            }
        }
    }

    /// Puts a new wire on a signal's list: now, or when the delivery under way has ended.
    pub(crate) fn join(&mut self, wire: WireId, signal: SignalId) {
        self.wires.joining.push((wire, signal));
        if !self.bus.delivering {
            self.flush_joining();
        }
    }

    #[cold]
    fn flush_joining(&mut self) {
        for (wire, signal) in std::mem::take(&mut self.wires.joining) {
            let Some(entry) = self.wires.entry(wire) else { continue };
            let rank = self.wires.rank(wire);
            let asleep = self.wires.flags(wire) & ASLEEP != 0;
            if let Some(lane) = self.bus.signals.lane_mut(signal) {
                let list = if asleep { &mut lane.asleep } else { &mut lane.awake };
                let at = list.partition_point(|other| self.wires.rank(other.wire) < rank);
                list.insert(at, entry);
            }
        }
    }

    /// Why a wire with conditions does not take a signal, if it does not.
    fn refusal(
        &self,
        id: WireId,
        who: Option<crate::ObjectId>,
        values: &Values,
        guard: Option<bool>,
    ) -> Option<Refusal> {
        let wire = self.wires.get(id)?;
        if wire.left == Some(0) {
            return Some(Refusal::Spent);
        }
        if !wire.filter.is_empty() {
            let body = who.and_then(|who| self.objects.get_even_doomed(who));
            if !body.is_some_and(|body| body.has_any(&wire.filter)) {
                return Some(Refusal::Who);
            }
        }
        let scope = Scope { state: self, values, who };
        match &wire.guard {
            Guard::Data(expr) if !scope.holds(expr) => {
                let (condition, readings) =
                    if self.bus.trace.is_on() { scope.failing(expr) } else { (0, SmallVec::new()) };
                return Some(Refusal::Guard { condition, readings });
            }
            Guard::Rust(_) if guard == Some(false) => {
                return Some(Refusal::Guard { condition: 0, readings: SmallVec::new() });
            }
            _ => {}
        }
        if let Some(until) = wire.cooldown.as_ref().and_then(|cooldown| cooldown.cooling(who, self.clock.now))
        {
            return Some(Refusal::Cooling { until });
        }
        let full = match wire.busy {
            Busy::Ignore => !wire.runs.is_empty(),
            Busy::Queue => wire.held.len() >= Busy::LONGEST_QUEUE,
            Busy::Overlap | Busy::Restart => false,
        };
        full.then_some(Refusal::Running)
    }

    fn refuse(&mut self, wire: WireId, why: Refusal, record: Option<RecordId>) {
        if let Some(info) = self.wires.get_mut(wire) {
            info.refused.count(&why);
        }
        self.bus.trace.note(record, 0, Event::Refused { wire, why });
    }

    /// Counts a wire's limits down, starts its cooldown, and says whether its reaction may begin now. An earlier
    /// reaction gives way, if the wire says so.
    fn spend(&mut self, id: WireId, doing: Doing) -> bool {
        let now = self.clock.now;
        let Some(wire) = self.wires.get_mut(id) else { return true };
        if let Some(left) = &mut wire.left {
            *left = left.saturating_sub(1);
        }
        if let Some(cooldown) = &mut wire.cooldown {
            cooldown.start(doing.who, now);
        }
        let running = !wire.runs.is_empty();
        match wire.busy {
            Busy::Queue => !running,
            Busy::Restart if running => {
                self.drop_runs(id, doing);
                true
            }
            _ => true,
        }
    }

    /// Holds a signal back until the wire's earlier reaction has ended.
    fn hold(&mut self, id: WireId, values: Values, mut doing: Doing) {
        let record = self.bus.trace.note(doing.cause, 0, Event::Held { wire: id });
        doing.cause = record.or(doing.cause);
        if let Some(wire) = self.wires.get_mut(id) {
            wire.held.push_back((values, doing));
        }
    }
}
