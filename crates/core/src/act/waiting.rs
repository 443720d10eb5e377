//! Reactions that wait: for a time, or until something is so.

use std::sync::Arc;

use crate::{
    base::{
        clock::{Tick, Ticks, ticks},
        doing::Doing,
        ids::{SignalId, WaitKey, WireId},
        value::Values,
    },
    moment::{run::Run, waiting::NEVER, watches::Watcher},
    plan::wires::{ASLEEP, CUT},
    state::State,
    trace::record::Event,
};

impl State {
    /// How many reactions wait: for a time, for a condition, or for their delay to end.
    pub fn waiting(&self) -> usize {
        self.moment.waiting.len()
    }

    /// Begins the reaction of a wire: now, or after its delay. A closure that begins now is the caller's.
    pub(crate) fn begin(&mut self, wire: WireId, signal: SignalId, values: Values, doing: Doing) {
        let Some(info) = self.moment.wires.get(wire) else { return };
        let (delay, is_sequence) = (info.delay, info.ops.is_some());
        let mut run = Run::new(wire, signal, values, doing, self.moment.clock.now);
        if let Some(kept) = &info.kept {
            run.locals.extend(kept.iter().cloned());
        }
        match delay {
            // From now on every delay takes a tick or more.
            Some(delay) => _ = self.wait(run, delay),
            None if is_sequence => self.run(run),
            None => {}
        }
    }

    /// Lets a reaction wait; gives it back if the time is over before this tick is. One whose wire was put to sleep or cut,
    /// perhaps by itself, is given up.
    pub(crate) fn wait(&mut self, mut run: Run, span: Ticks) -> Option<Run> {
        if self.moment.wires.flags(run.wire) & (ASLEEP | CUT) != 0 {
            self.bus.trace.note(run.doing.cause, 0, Event::Dropped { wire: run.wire, restarted: false });
            return None;
        }
        let (due, late) = span.after(self.moment.clock.now, run.late);
        run.late = late;
        if due <= self.moment.clock.now {
            return Some(run);
        }
        let waits = self.bus.trace.note(run.doing.cause, 0, Event::Waits { until: due });
        run.doing.cause = waits.or(run.doing.cause);
        run.doing = run.doing.later();
        self.put_away(run, due);
        None
    }

    /// Lets a reaction wait until the condition before its next statement holds.
    pub(crate) fn until(&mut self, mut run: Run, within: Option<Ticks>) {
        if self.moment.wires.flags(run.wire) & (ASLEEP | CUT) != 0 {
            self.bus.trace.note(run.doing.cause, 0, Event::Dropped { wire: run.wire, restarted: false });
            return;
        }
        let due = within.map(|span| {
            let (due, late) = span.after(self.moment.clock.now, run.late);
            run.late = late;
            due.max(self.moment.clock.now + ticks(1))
        });
        if self.bus.trace.is_on()
            && let Some(condition) = self.waits_for(&run)
        {
            let condition = Arc::new(run.fill(&condition));
            let event = Event::WaitsUntil { condition, limit: due };
            run.doing.cause = self.bus.trace.note(run.doing.cause, 0, event).or(run.doing.cause);
        }
        run.doing = run.doing.later();
        let reads = self.wait_depends_on(&run);
        let key = self.put_away(run, due.unwrap_or(NEVER));
        self.bus.watches.watch(Watcher::Wait(key), reads);
    }

    fn put_away(&mut self, mut run: Run, due: Tick) -> WaitKey {
        run.since = self.moment.clock.now;
        let (wire, who) = (run.wire, run.doing.who);
        let key = self.moment.waiting.insert(due, run);
        let running = self.moment.wires.get(wire).map(|wire| wire.running).unwrap_or_default();
        if let Some(now) = self.moment.wires.now_mut(wire) {
            now.begin(running, who, key);
        }
        key
    }

    fn take_out(&mut self, key: WaitKey) -> Option<Run> {
        let run = Arc::unwrap_or_clone(self.moment.waiting.by_due.edit().remove(&key)?);
        if let Some(now) = self.moment.wires.now_mut(run.wire) {
            now.end(run.doing.who, key);
        }
        let reads = self.wait_depends_on(&run);
        if !reads.is_empty() {
            self.bus.watches.forget(Watcher::Wait(key), reads);
        }
        Some(run)
    }

    /// Takes the reactions of a wire out that wait, with when they would have gone on and in which order.
    pub(crate) fn put_to_sleep(&mut self, wire: WireId) -> Vec<(WaitKey, Run)> {
        let keys = self.moment.wires.now(wire).map(|wire| wire.runs.to_vec()).unwrap_or_default();
        keys.into_iter().filter_map(|key| Some((key, self.take_out(key)?))).collect()
    }

    /// Lets a reaction wait on that was put to sleep so many ticks ago.
    pub(crate) fn wake_up(&mut self, run: Run, due: Tick, passed: u64) {
        let due = if due == NEVER { NEVER } else { due + ticks(passed) };
        let since = run.since;
        let reads = self.wait_depends_on(&run);
        let key = self.put_away(run, due);
        if let Some(run) = self.moment.waiting.by_due.edit().get_mut(&key) {
            Arc::make_mut(run).since = since;
        }
        if !reads.is_empty() {
            self.bus.watches.watch(Watcher::Wait(key), reads);
            self.bus.watches.stale_waits.insert((key.1, key));
        }
    }

    /// The next reaction that goes on because its time has come.
    pub(crate) fn next_due(&mut self) -> Option<Run> {
        let key = self.moment.waiting.first_due(self.moment.clock.now)?;
        let run = Arc::clone(self.moment.waiting.by_due.get(&key)?);
        let (holds, late) = self.wait_is_over(&run);
        let mut run = self.take_out(key)?;
        let timed_out = self.waits_for(&run).is_some();
        if !holds {
            run.frame.at = late;
        } else if timed_out {
            // What came to hold came to hold now.
            run.late = Ticks::ZERO;
        }
        Some(self.resume(run))
    }

    /// The waits that must be looked at in this clocks phase, in the order in which they began.
    pub(crate) fn take_stale_waits(&mut self) -> Vec<WaitKey> {
        std::mem::take(&mut self.bus.watches.stale_waits).into_iter().map(|(_, key)| key).collect()
    }

    /// The reaction that waits under that key, if what it waits for has come to hold.
    pub(crate) fn next_fulfilled(&mut self, key: WaitKey) -> Option<Run> {
        let run = Arc::clone(self.moment.waiting.by_due.get(&key)?);
        if !self.wait_is_over(&run).0 {
            return None;
        }
        let run = self.take_out(key)?;
        Some(self.resume(Run { late: Ticks::ZERO, ..run }))
    }

    fn resume(&mut self, mut run: Run) -> Run {
        let event = Event::Resumed { wire: run.wire, since: run.since, who: run.doing.who };
        run.doing.cause = self.bus.trace.note(run.doing.cause, 0, event);
        run
    }

    /// Gives up the reactions of a wire that wait: for a new one, or because nobody hears the wire any more.
    pub(crate) fn drop_runs(&mut self, wire: WireId, restarted: bool, doing: Doing) {
        if self.moment.wires.now(wire).is_none_or(|wire| wire.runs.is_empty()) {
            return;
        }
        let runs = self.moment.wires.now(wire).map(|now| now.runs.clone()).unwrap_or_default();
        self.drop_some_runs(wire, &runs, restarted, doing);
    }

    /// Those reactions of a wire that wait and go back to whom is meant.
    pub(crate) fn runs_where(&self, wire: WireId, is_meant: impl Fn(&Doing) -> bool) -> Vec<WaitKey> {
        let runs = self.moment.wires.now(wire).map_or(&[][..], |wire| &wire.runs);
        let meant =
            |key: &&WaitKey| self.moment.waiting.by_due.get(key).is_some_and(|run| is_meant(&run.doing));
        runs.iter().filter(meant).copied().collect()
    }

    /// Gives up some reactions of a wire.
    pub(crate) fn drop_some_runs(&mut self, wire: WireId, runs: &[WaitKey], restarted: bool, doing: Doing) {
        for key in runs {
            if self.take_out(*key).is_some() {
                self.bus.trace.note(doing.cause, 0, Event::Dropped { wire, restarted });
            }
        }
    }

    /// Begins what a wire has held back, as far as it is no longer busy.
    pub(crate) fn begin_held(&mut self, wire: WireId) {
        let running = self.moment.wires.get(wire).map(|wire| wire.running).unwrap_or_default();
        while let Some(now) = self.moment.wires.now_mut(wire)
            && let Some(next) = now.next_held(running)
            && let Some((signal, values, doing)) = now.held.remove(next)
        {
            self.begin(wire, signal, values, doing.later());
        }
    }
}
