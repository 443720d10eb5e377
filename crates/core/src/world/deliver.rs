//! Delivering one signal to all its wires, in their order.

use std::any::Any;

use smallvec::SmallVec;

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
    wire::{ASLEEP, CHECKED, CUT, GUARD_IN_RUST, Guard, SEQUENCE, WireId},
};

/// A reaction in Rust.
pub(crate) type Reaction<G, T> = Box<dyn FnMut(&mut G, &T, &mut Cx<'_, G>)>;
/// A guard in Rust.
pub(crate) type GuardFn<G, T> = Box<dyn FnMut(&G, &T, &State) -> bool>;
/// A closure on its way to its store, wired in the course of a delivery.
pub(crate) type Fresh<G> = Box<dyn FnOnce(&mut Stores<G>)>;

/// What a wire has in Rust.
pub(crate) struct Body<G, T> {
    pub(crate) run: Option<Reaction<G, T>>,
    pub(crate) guard: Option<GuardFn<G, T>>,
}

/// The closures on one payload type.
trait AnyStore<G> {
    fn as_any_mut(&mut self) -> &mut dyn Any;
    fn deliver(&mut self, state: &mut State, game: &mut G, fresh: &mut Vec<Fresh<G>>, emission: &Emission);
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
        let place = &mut self.0[store];
        let typed = place.get_or_insert_with(|| Box::new(Store::<G, T>(Vec::new())));
        if let Some(Store(bodies)) = typed.as_any_mut().downcast_mut::<Store<G, T>>() {
            if bodies.len() <= closure {
                bodies.resize_with(closure + 1, || None);
            }
            bodies[closure] = Some(body);
        }
    }

    /// Lets a closure go, with all it holds.
    pub(crate) fn forget(&mut self, store: u32, closure: u32) {
        if let Some(Some(store)) = self.0.get_mut(store as usize) {
            store.forget(closure);
        }
    }

    /// Delivers one emission to every wire of its signal.
    pub(crate) fn deliver(
        &mut self,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        emission: &Emission,
    ) {
        let Some(lane) = state.bus.signals.lane_mut(emission.signal) else { return };
        let store = lane.store;
        match self.0.get_mut(store as usize) {
            Some(Some(typed)) => typed.deliver(state, game, fresh, emission),
            _ => {
                // No closure was ever wired to this payload type: sequences are all there can be.
                if let Some(values) = state.bus.payloads.pop_values(store) {
                    Store::<G, Values>(Vec::new()).call(state, game, fresh, emission, &values);
                }
            }
        }
    }
}

impl<G: 'static, T: Payload> AnyStore<G> for Store<G, T> {
    fn as_any_mut(&mut self) -> &mut dyn Any {
        self
    }

    fn deliver(&mut self, state: &mut State, game: &mut G, fresh: &mut Vec<Fresh<G>>, emission: &Emission) {
        let store = state.bus.signals.lane(emission.signal).map_or(u32::MAX, |lane| lane.store);
        if let Some(payload) = state.bus.payloads.pop::<T>(store) {
            self.call(state, game, fresh, emission, &payload);
        }
    }

    fn forget(&mut self, closure: u32) {
        if let Some(body) = self.0.get_mut(closure as usize) {
            *body = None;
        }
    }
}

impl<G, T: Payload> Store<G, T> {
    fn call(
        &mut self,
        state: &mut State,
        game: &mut G,
        fresh: &mut Vec<Fresh<G>>,
        emission: &Emission,
        payload: &T,
    ) {
        let signal = emission.signal;
        let wires = state.begin_delivery(signal);
        let record = if state.bus.trace.is_on() {
            let salt = state.bus.signals.lane(signal).map_or(0, |lane| lane.hash);
            let event = Event::Delivered { signal, who: emission.who, values: payload.to_values() };
            state.bus.trace.note(emission.cause, salt, event)
        } else {
            None
        };
        // Made once, when the first wire asks for values.
        let mut values: Option<Values> = None;
        let mut cx = Cx { state, fresh, doing: Doing { who: emission.who, cause: None, by: None }, signal };
        for &wire in &wires {
            let Some(hot) = cx.state.wires.hot_mut(wire) else { continue };
            let (flags, closure) = (hot.flags, hot.closure as usize);
            if flags != 0 {
                if flags & CUT != 0 {
                    continue;
                }
                let refusal = if flags & ASLEEP != 0 {
                    Some(Refusal::Asleep)
                } else if flags & CHECKED != 0 {
                    let values = values.get_or_insert_with(|| payload.to_values());
                    let guard = if flags & GUARD_IN_RUST != 0 {
                        let guard = self.0.get_mut(closure).and_then(|body| body.as_mut()?.guard.as_mut());
                        guard.map(|guard| guard(game, payload, cx.state))
                    } else {
                        None
                    };
                    cx.state.refusal(wire, emission, values, guard)
                } else {
                    None
                };
                if let Some(why) = refusal {
                    cx.state.refuse(wire, why, record);
                    continue;
                }
            }
            if let Some(hot) = cx.state.wires.hot_mut(wire) {
                hot.taken += 1;
            }
            cx.doing.by = Some(wire);
            cx.doing.cause = cx.state.bus.trace.note(record, 0, Event::Took { wire });
            if flags & CHECKED != 0 {
                cx.state.spend(wire, emission);
            }
            if flags & SEQUENCE != 0 {
                let values = values.get_or_insert_with(|| payload.to_values()).clone();
                cx.state.start(wire, values, cx.doing);
            } else if let Some(Some(Body { run: Some(run), .. })) = self.0.get_mut(closure) {
                run(game, payload, &mut cx);
            }
        }
        cx.state.end_delivery(signal, wires, record);
    }
}

impl State {
    /// Takes the list of wires for the time of a delivery, sorted anew if somebody fell asleep, woke or went.
    fn begin_delivery(&mut self, signal: SignalId) -> Vec<WireId> {
        let Some(lane) = self.bus.signals.lane_mut(signal) else { return Vec::new() };
        lane.delivered += 1;
        if lane.stale {
            lane.stale = false;
            let mut all = std::mem::take(&mut lane.awake);
            all.append(&mut lane.asleep);
            all.sort_unstable_by_key(|wire| self.wires.rank(*wire));
            for wire in all {
                match self.wires.hot(wire).map(|hot| hot.flags) {
                    Some(flags) if flags & CUT != 0 => {}
                    Some(flags) if flags & ASLEEP != 0 => lane.asleep.push(wire),
                    Some(_) => lane.awake.push(wire),
                    None => {}
                }
            }
        }
        std::mem::take(&mut lane.awake)
    }

    fn end_delivery(&mut self, signal: SignalId, wires: Vec<WireId>, record: Option<RecordId>) {
        if let Some(lane) = self.bus.signals.lane_mut(signal) {
            // Nothing else puts a wire on the list while it is lent out.
            lane.awake = wires;
            if record.is_some() {
                for wire in &lane.asleep {
                    if self.wires.hot(*wire).is_none_or(|hot| hot.flags & CUT != 0) {
                        continue;
                    }
                    let event = Event::Refused { wire: *wire, why: Refusal::Asleep };
                    self.bus.trace.note(record, 0, event);
                }
            }
        }
        self.flush_joining();
    }

    /// Puts a new wire on its signal's list: now, or when the delivery under way has ended.
    pub(crate) fn join(&mut self, wire: WireId) {
        self.wires.joining.push(wire);
        if self.bus.delivery == 0 {
            self.flush_joining();
        }
    }

    fn flush_joining(&mut self) {
        for wire in std::mem::take(&mut self.wires.joining) {
            let Some(info) = self.wires.get(wire) else { continue };
            let rank = (info.order, info.number);
            let asleep = self.wires.hot(wire).is_some_and(|hot| hot.flags & ASLEEP != 0);
            if let Some(lane) = self.bus.signals.lane_mut(info.signal) {
                let list = if asleep { &mut lane.asleep } else { &mut lane.awake };
                let at = list.partition_point(|other| self.wires.rank(*other) < rank);
                list.insert(at, wire);
            }
        }
    }

    /// Why a wire with conditions does not take an emission, if it does not.
    fn refusal(
        &self,
        id: WireId,
        emission: &Emission,
        values: &Values,
        guard: Option<bool>,
    ) -> Option<Refusal> {
        let wire = self.wires.get(id)?;
        if wire.left == Some(0) {
            return Some(Refusal::Spent);
        }
        if !wire.filter.is_empty() {
            let who = emission.who.and_then(|who| self.objects.get_even_doomed(who));
            if !who.is_some_and(|who| who.has_any(&wire.filter)) {
                return Some(Refusal::Who);
            }
        }
        let scope = Scope { state: self, values, who: emission.who };
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
        let until = wire.cooldown.as_ref()?.cooling(emission.who, self.clock.now)?;
        Some(Refusal::Cooling { until })
    }

    fn refuse(&mut self, wire: WireId, why: Refusal, record: Option<RecordId>) {
        if let Some(info) = self.wires.get_mut(wire).filter(|_| why != Refusal::Asleep) {
            info.refused += 1;
        }
        self.bus.trace.note(record, 0, Event::Refused { wire, why });
    }

    /// Counts a wire's limits down and starts its cooldown.
    fn spend(&mut self, id: WireId, emission: &Emission) {
        let now = self.clock.now;
        let Some(wire) = self.wires.get_mut(id) else { return };
        if let Some(left) = &mut wire.left {
            *left = left.saturating_sub(1);
        }
        if let Some(cooldown) = &mut wire.cooldown {
            cooldown.start(emission.who, now);
        }
    }

    /// Starts the sequence of a wire.
    fn start(&mut self, wire: WireId, values: Values, doing: Doing) {
        if let Some(ops) = self.wires.get(wire).and_then(|wire| wire.ops.clone()) {
            self.run(Run { wire, ops, at: 0, values, doing, since: self.clock.now });
        }
    }
}
