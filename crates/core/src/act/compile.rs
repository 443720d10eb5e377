//! From steps to a flat list with jumps.

use std::sync::Arc;

use crate::{
    base::error::{BuildError, Error},
    plan::{ops::Op, steps::Step},
    state::State,
};

/// Compiles steps; spans of time that are known become ticks here, once.
pub(crate) fn compile(steps: &[Step], state: &mut State) -> Result<Arc<[Op]>, Error> {
    let mut ops = Vec::new();
    Compiler { state, ops: &mut ops, joined: false }.steps(steps)?;
    Ok(ops.into())
}

/// The same for a command that a signal is to a part: everything the signal carries is said with it, of which the part takes
/// what it knows.
pub(crate) fn compile_joined(command: &Step, state: &mut State) -> Result<Arc<[Op]>, Error> {
    let mut ops = Vec::new();
    Compiler { state, ops: &mut ops, joined: true }.steps(std::slice::from_ref(command))?;
    Ok(ops.into())
}

struct Compiler<'a> {
    state: &'a mut State,
    ops: &'a mut Vec<Op>,
    joined: bool,
}

impl Compiler<'_> {
    fn here(&self) -> u32 {
        u32::try_from(self.ops.len()).unwrap_or(u32::MAX)
    }

    /// An op whose jump is filled in later.
    fn gap(&mut self) -> usize {
        self.ops.push(Op::Stop);
        self.ops.len() - 1
    }

    fn steps(&mut self, steps: &[Step]) -> Result<(), Error> {
        steps.iter().try_for_each(|step| self.step(step))
    }

    fn step(&mut self, step: &Step) -> Result<(), Error> {
        let op = match step {
            Step::Command { part, command, args } => {
                let (kind, known) = self.state.command_kind(*part, *command)?;
                if !self.joined {
                    known.check_names(kind, &args.iter().map(|(name, _)| name.as_str()))?;
                }
                Op::Command { part: *part, command: *command, args: args.as_slice().into() }
            }
            Step::Tell { object, command, args } => {
                let commands = self.state.parts.kinds_that_take(command);
                let args = args.as_slice().into();
                Op::Tell { object: object.clone(), word: command.clone(), commands, args }
            }
            Step::Wait(span) => Op::Wait(self.state.rate().ticks(*span)?),
            Step::WaitFor(span) => Op::WaitFor(span.clone()),
            Step::Emit { signal, values } => Op::Emit { signal: *signal, values: values.clone() },
            Step::EmitOf { object, signal, values } => {
                Op::EmitOf { object: object.clone(), signal: signal.clone(), values: values.clone() }
            }
            Step::For { who, step } => {
                let says = matches!(
                    **step,
                    Step::Command { .. }
                        | Step::Tell { .. }
                        | Step::Emit { .. }
                        | Step::EmitOf { .. }
                        | Step::Perform { .. }
                );
                if !says {
                    let expected = "one command, signal or effect to be done on somebody's behalf";
                    return Err(Error::Build(BuildError::BadSettings { expected }));
                }
                self.ops.push(Op::For(who.clone()));
                return self.step(step);
            }
            Step::Wire(new) => Op::Wire(Arc::new(self.state.pattern(new)?)),
            Step::Perform { effect, values } => Op::Perform { effect: *effect, values: values.clone() },
            Step::Set { target, to } => Op::Set { target: target.clone(), to: to.clone() },
            Step::Tween { target, to, over, ease } => {
                Op::Tween { target: target.clone(), to: to.clone(), over: over.clone(), ease: *ease }
            }
            Step::Enable(object) => Op::Switch { object: object.clone(), on: true },
            Step::Disable(object) => Op::Switch { object: object.clone(), on: false },
            Step::Destroy(object) => Op::Destroy(object.clone()),
            Step::Spawn { mould, at, local } => Op::Spawn { mould: *mould, at: at.clone(), local: *local },
            Step::Send { who, spot } => Op::Send { who: who.clone(), spot: spot.clone() },
            Step::SendAway { who, scene, spot } => {
                Op::SendAway { who: who.clone(), scene: scene.clone(), spot: spot.clone() }
            }
            Step::Tag(object, tag) | Step::Untag(object, tag) => {
                crate::base::names::check_name(tag)?;
                let on = matches!(step, Step::Tag(..));
                Op::Tag { object: object.clone(), tag: self.state.moment.objects.tag(tag), on }
            }
            Step::Run { routine, values } => {
                let known = self.state.plan.routines.get(routine.0 as usize).ok_or(Error::NoSuchRoutine)?;
                if usize::from(known.values) != values.len() {
                    return Err(Error::WrongValues {
                        name: known.name.clone(),
                        expected: format!("{} values", known.values),
                        found: format!("{} values", values.len()),
                    });
                }
                Op::Run { routine: *routine, values: values.clone() }
            }
            Step::Stop => Op::Stop,
            Step::Until { .. }
            | Step::If { .. }
            | Step::Repeat { .. }
            | Step::RepeatWhile { .. }
            | Step::ForEach { .. }
            | Step::ForEachCell { .. } => return self.branches(step),
        };
        self.ops.push(op);
        Ok(())
    }

    fn branches(&mut self, step: &Step) -> Result<(), Error> {
        match step {
            Step::Until { condition, within, otherwise } => {
                let wait = self.gap();
                let skip = (!otherwise.is_empty()).then(|| self.gap());
                let late = self.here();
                self.steps(otherwise)?;
                if let Some(skip) = skip {
                    self.ops[skip] = Op::Goto(self.here());
                }
                self.ops[wait] =
                    Op::Until { condition: Arc::new(condition.clone()), within: within.clone(), late };
            }
            Step::If { when, then, otherwise } => {
                let branch = self.gap();
                self.steps(then)?;
                let mut goto = self.here();
                if !otherwise.is_empty() {
                    let skip = self.gap();
                    goto = self.here();
                    self.steps(otherwise)?;
                    self.ops[skip] = Op::Goto(self.here());
                }
                self.ops[branch] = Op::Unless { when: when.clone(), goto };
            }
            Step::Repeat { times, steps } => {
                self.ops.push(Op::Times(times.clone()));
                self.rounds(steps)?;
            }
            Step::ForEach { among, local, steps } => {
                self.ops.push(Op::Each { among: among.clone(), local: *local });
                self.rounds(steps)?;
            }
            Step::ForEachCell { object, column, row, within, locals, steps } => {
                let around = Box::new([object.clone(), column.clone(), row.clone()]);
                self.ops.push(Op::Cells { around, within: within.clone(), locals: *locals });
                self.rounds(steps)?;
            }
            Step::RepeatWhile { when, steps } => {
                let start = self.here();
                let branch = self.gap();
                self.steps(steps)?;
                self.ops.push(Op::Goto(start));
                self.ops[branch] = Op::Unless { when: when.clone(), goto: self.here() };
            }
            _ => {}
        }
        Ok(())
    }

    fn rounds(&mut self, steps: &[Step]) -> Result<(), Error> {
        let start = self.here();
        let round = self.gap();
        self.steps(steps)?;
        self.ops.push(Op::Goto(start));
        self.ops[round] = Op::Round { end: self.here() };
        Ok(())
    }
}
