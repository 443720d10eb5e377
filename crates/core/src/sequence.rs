//! Sequences: reactions as plain data, which can wait over many ticks.
//!
//! A sequence is written as a tree of [`Step`]s and compiled to a flat list with jumps, so that where it stands
//! is one number.

use std::{collections::BTreeMap, sync::Arc};

use serde::{Deserialize, Serialize};

use crate::{
    bus::Doing,
    clock::{Seconds, Tick, TickRate, Ticks},
    effect::EffectId,
    error::Error,
    expr::Expr,
    object::ObjectId,
    part::{Door, DoorHandle, PartId},
    signal::SignalId,
    state::State,
    trace::Event,
    value::Values,
    var::VarId,
    wire::{ASLEEP, CUT, WireId},
};

/// One statement.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Step {
    /// Tells a part what to do; `command` is a number of its kind's list.
    Command {
        /// The part.
        part: PartId,
        /// The command.
        command: u8,
    },
    /// Goes on after that time.
    Wait(Seconds),
    /// Emits a signal.
    Emit {
        /// The signal.
        signal: SignalId,
        /// Its payload, field for field.
        values: Vec<Expr>,
    },
    /// Asks the host to perform an effect.
    Perform {
        /// The effect.
        effect: EffectId,
        /// Its values, field for field.
        values: Vec<Expr>,
    },
    /// Sets a variable.
    Set {
        /// The variable.
        var: VarId,
        /// What it holds from now on.
        to: Expr,
    },
    /// Enables an object.
    Enable(ObjectId),
    /// Disables an object.
    Disable(ObjectId),
    /// One branch or the other.
    If {
        /// The condition.
        when: Expr,
        /// If it holds.
        then: Vec<Step>,
        /// If it does not.
        otherwise: Vec<Step>,
    },
}

/// A sequence, written in Rust.
///
/// ```
/// use stoicheon_core::{Door, Steps, World, secs};
/// let mut world = World::<()>::new();
/// let gate = world.object("upper_gate").add()?;
/// let door = world.attach(gate, Door::swing(85.0))?;
/// let rung = world.signal::<()>("rung")?;
/// world.on(rung).run_steps(Steps::new().open(door).wait(secs(5.0)).close(door))?;
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Steps(pub Vec<Step>);

impl Steps {
    /// A sequence that does nothing yet.
    pub fn new() -> Self {
        Self::default()
    }

    /// And then that step.
    pub fn step(mut self, step: Step) -> Self {
        self.0.push(step);
        self
    }

    /// And then opens a door.
    pub fn open(self, door: DoorHandle) -> Self {
        self.step(Step::Command { part: door.part, command: Door::TO_OPEN })
    }

    /// And then closes a door.
    pub fn close(self, door: DoorHandle) -> Self {
        self.step(Step::Command { part: door.part, command: Door::TO_CLOSE })
    }

    /// And then waits.
    pub fn wait(self, span: Seconds) -> Self {
        self.step(Step::Wait(span))
    }

    /// And then sets a variable.
    pub fn set(self, var: VarId, to: impl Into<Expr>) -> Self {
        self.step(Step::Set { var, to: to.into() })
    }
}

impl AsRef<[Step]> for Steps {
    fn as_ref(&self) -> &[Step] {
        &self.0
    }
}

/// A step as it runs.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Op {
    Command { part: PartId, command: u8 },
    Wait(Ticks),
    Emit { signal: SignalId, values: Vec<Expr> },
    Perform { effect: EffectId, values: Vec<Expr> },
    Set { var: VarId, to: Expr },
    Switch { object: ObjectId, on: bool },
    Unless { when: Expr, goto: usize },
    Goto(usize),
}

/// Compiles steps; durations become ticks here, once.
pub(crate) fn compile(steps: &[Step], rate: TickRate) -> Result<Arc<[Op]>, Error> {
    let mut ops = Vec::new();
    compile_into(steps, rate, &mut ops)?;
    Ok(ops.into())
}

fn compile_into(steps: &[Step], rate: TickRate, ops: &mut Vec<Op>) -> Result<(), Error> {
    for step in steps {
        match step {
            Step::Command { part, command } => ops.push(Op::Command { part: *part, command: *command }),
            Step::Wait(span) => ops.push(Op::Wait(rate.ticks(*span)?)),
            Step::Emit { signal, values } => ops.push(Op::Emit { signal: *signal, values: values.clone() }),
            Step::Perform { effect, values } => {
                ops.push(Op::Perform { effect: *effect, values: values.clone() });
            }
            Step::Set { var, to } => ops.push(Op::Set { var: *var, to: to.clone() }),
            Step::Enable(object) => ops.push(Op::Switch { object: *object, on: true }),
            Step::Disable(object) => ops.push(Op::Switch { object: *object, on: false }),
            Step::If { when, then, otherwise } => {
                let branch = ops.len();
                ops.push(Op::Unless { when: when.clone(), goto: 0 });
                compile_into(then, rate, ops)?;
                let mut goto = ops.len();
                if !otherwise.is_empty() {
                    let skip = ops.len();
                    ops.push(Op::Goto(0));
                    goto = ops.len();
                    compile_into(otherwise, rate, ops)?;
                    ops[skip] = Op::Goto(ops.len());
                }
                ops[branch] = Op::Unless { when: when.clone(), goto };
            }
        }
    }
    Ok(())
}

/// When a reaction goes on, and the order of waiting among those that go on in one tick.
pub(crate) type WaitKey = (Tick, u64);

/// A sequence under way.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Run {
    pub(crate) wire: WireId,
    /// The next statement.
    pub(crate) at: usize,
    pub(crate) values: Values,
    pub(crate) doing: Doing,
    /// Since when it waits.
    pub(crate) since: Tick,
}

/// The reactions that wait: by due tick, then by the order in which they began to wait. A delayed reaction is one
/// that has not begun, so its next statement is the first.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Waiting {
    #[serde(with = "crate::pairs")]
    by_due: BTreeMap<WaitKey, Run>,
    last_number: u64,
}

impl Waiting {
    fn insert(&mut self, due: Tick, run: Run) -> WaitKey {
        self.last_number += 1;
        let key = (due, self.last_number);
        self.by_due.insert(key, run);
        key
    }

    fn remove(&mut self, key: WaitKey) -> Option<Run> {
        self.by_due.remove(&key)
    }

    /// The next one that is due, if any is.
    fn pop_due(&mut self, now: Tick) -> Option<(WaitKey, Run)> {
        let first = self.by_due.first_entry()?;
        (first.key().0 <= now).then(|| first.remove_entry())
    }
}

impl State {
    /// Begins the reaction of a wire: now, or after its delay. A closure that begins now is the caller's.
    pub(crate) fn begin(&mut self, wire: WireId, values: Values, doing: Doing) {
        let Some(info) = self.wires.get(wire) else { return };
        let (delay, is_sequence) = (info.delay, info.ops.is_some());
        let run = Run { wire, at: 0, values, doing, since: self.clock.now };
        match delay {
            Some(delay) => self.wait(run, delay),
            None if is_sequence => self.run(run),
            None => {}
        }
    }

    /// Lets a reaction wait.
    fn wait(&mut self, mut run: Run, span: Ticks) {
        let due = self.clock.now + span;
        let waits = self.bus.trace.note(run.doing.cause, 0, Event::Waits { until: due });
        run.doing.cause = waits.or(run.doing.cause);
        run.since = self.clock.now;
        let wire = run.wire;
        let key = self.waiting.insert(due, run);
        if let Some(wire) = self.wires.get_mut(wire) {
            wire.runs.push(key);
        }
    }

    /// The next reaction whose wait is over. Those whose wire sleeps or is gone are given up on the way.
    pub(crate) fn next_due(&mut self) -> Option<Run> {
        loop {
            let (key, mut run) = self.waiting.pop_due(self.clock.now)?;
            if let Some(wire) = self.wires.get_mut(run.wire) {
                wire.runs.retain(|other| *other != key);
            }
            let cause = run.doing.cause;
            if self.wires.flags(run.wire) & (ASLEEP | CUT) != 0 {
                self.bus.trace.note(cause, 0, Event::Dropped { wire: run.wire, restarted: false });
                if let Some(wire) = self.wires.get_mut(run.wire) {
                    wire.held.clear();
                }
                continue;
            }
            let event = Event::Resumed { wire: run.wire, since: run.since, who: run.doing.who };
            run.doing.cause = self.bus.trace.note(cause, 0, event);
            return Some(run);
        }
    }

    /// Gives up the reactions of a wire that wait.
    pub(crate) fn drop_runs(&mut self, wire: WireId, doing: Doing) {
        let runs = self.wires.get_mut(wire).map(|wire| std::mem::take(&mut wire.runs)).unwrap_or_default();
        for key in runs {
            if self.waiting.remove(key).is_some() {
                self.bus.trace.note(doing.cause, 0, Event::Dropped { wire, restarted: true });
            }
        }
    }

    /// Begins what a wire has held back, as far as it is no longer busy.
    pub(crate) fn begin_held(&mut self, wire: WireId) {
        while let Some(info) = self.wires.get_mut(wire)
            && info.runs.is_empty()
            && let Some((values, doing)) = info.held.pop_front()
        {
            self.begin(wire, values, doing);
        }
    }

    /// Runs a sequence until it waits or ends.
    pub(crate) fn run(&mut self, mut run: Run) {
        let Some(ops) = self.wires.get(run.wire).and_then(|wire| wire.ops.clone()) else { return };
        while let Some(op) = ops.get(run.at) {
            run.at += 1;
            let done = match op {
                Op::Command { part, command } => self.command(*part, *command, run.doing),
                Op::Wait(span) => return self.wait(run, *span),
                Op::Emit { signal, values } => {
                    let values = self.scope(&run).values(values);
                    self.bus.emit_values(*signal, &values, run.doing)
                }
                Op::Perform { effect, values } => {
                    let values = self.scope(&run).values(values);
                    self.perform(*effect, values, run.doing)
                }
                Op::Set { var, to } => {
                    let to = self.scope(&run).value(to);
                    self.set_var(*var, to, run.doing)
                }
                Op::Switch { object, on } => self.switch(*object, *on, run.doing),
                Op::Unless { when, goto } => {
                    if !self.scope(&run).holds(when) {
                        run.at = *goto;
                    }
                    Ok(())
                }
                Op::Goto(goto) => {
                    run.at = *goto;
                    Ok(())
                }
            };
            if let Err(error) = done {
                self.fault(&error, run.doing);
            }
        }
    }

    fn scope<'a>(&'a self, run: &'a Run) -> crate::expr::Scope<'a> {
        crate::expr::Scope { state: self, values: &run.values, who: run.doing.who }
    }
}
