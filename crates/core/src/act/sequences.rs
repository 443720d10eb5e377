//! Running a sequence: until it waits or ends.

use std::{cell::Cell, sync::Arc};

use smol_str::SmolStr;

use crate::{
    act::scope::{Own, Scope},
    base::{
        clock::{Ticks, ticks},
        ease::Moved,
        error::Error,
        ids::ObjectId,
        value::{Text, Value, Values},
    },
    moment::run::{Frame, Loop, Run},
    part::cx::Args,
    plan::{
        binds::Kept,
        calc::EvalFault,
        expr::{Expr, PartOf},
        ops::Op,
        steps::Target,
    },
    state::State,
    trace::record::Event,
};

/// What comes after a statement.
enum Next {
    Go,
    /// It waits from here on.
    Wait(Ticks),
    Until(Option<Ticks>),
    End,
}

impl State {
    /// Runs a sequence until it waits or ends.
    pub(crate) fn run(&mut self, mut run: Run) {
        let Some(mut ops) = self.ops_of(&run) else { return };
        loop {
            let calls = run.calls.len();
            if let Some(op) = ops.get(run.frame.at as usize) {
                if !self.bus.runaway.count_statement() {
                    self.scratch.endless = Some(run.wire);
                    return;
                }
                run.frame.at += 1;
                match self.statement(op, &mut run) {
                    Ok(Next::Go) => {}
                    Ok(Next::Wait(span)) => match self.wait(run, span) {
                        // The time is over before this tick is.
                        Some(goes_on) => run = goes_on,
                        None => return,
                    },
                    Ok(Next::Until(within)) => return self.until(run, within),
                    Ok(Next::End) => return,
                    Err(error) => self.fault(&error, run.doing),
                }
            } else {
                // The routine has ended; what it kept goes.
                let Some(frame) = run.calls.pop() else { return };
                run.locals.truncate(run.frame.base as usize);
                run.frame = frame;
            }
            if run.calls.len() != calls {
                let Some(others) = self.ops_of(&run) else { return };
                ops = others;
            }
        }
    }

    fn ops_of(&self, run: &Run) -> Option<Arc<[Op]>> {
        match run.frame.routine {
            Some(routine) => self.plan.routines.get(routine as usize).map(|routine| routine.ops.clone()),
            None => self.moment.wires.get(run.wire)?.ops.clone(),
        }
    }

    /// What an expression gives in a statement.
    pub(crate) fn work_out(&mut self, expr: &Expr, run: &Run) -> Value {
        let eval_fault = Cell::new(None);
        let value = self.scope(run, &eval_fault).value(expr);
        self.note_eval_fault(eval_fault.get(), run.doing.cause);
        value
    }

    pub(crate) fn work_out_all(&mut self, exprs: &[Expr], run: &Run) -> Values {
        let eval_fault = Cell::new(None);
        let values = self.scope(run, &eval_fault).values(exprs);
        self.note_eval_fault(eval_fault.get(), run.doing.cause);
        values
    }

    pub(crate) fn work_out_args(&mut self, args: &[(Text, Expr)], run: &Run) -> Args {
        args.iter().map(|(name, expr)| (name.clone(), self.work_out(expr, run))).collect()
    }

    fn scope<'a>(&'a self, run: &'a Run, eval_fault: &'a Cell<Option<EvalFault>>) -> Scope<'a> {
        Scope {
            values: &run.values,
            locals: run.locals(),
            who: run.doing.who,
            signal: Some(run.signal),
            own: Own::Of(run.wire),
            may_draw: true,
            ..Scope::of(self, eval_fault)
        }
    }

    pub(crate) fn the_object(&mut self, expr: &Expr, run: &Run) -> Result<ObjectId, Error> {
        match self.work_out(expr, run) {
            Value::Object(object) if self.moment.objects.get(object).is_some() => Ok(object),
            // The error names the object, which the reader needs to find it.
            Value::Object(object) => Err(self.ended(object).unwrap_or(Error::NoSuchObject)),
            _ => Err(Error::NobodyThere),
        }
    }

    fn span(&mut self, expr: &Expr, run: &Run) -> Ticks {
        match self.work_out(expr, run) {
            Value::Duration(span) if span > Ticks::ZERO => span,
            _ => ticks(1),
        }
    }

    fn statement(&mut self, op: &Op, run: &mut Run) -> Result<Next, Error> {
        match op {
            Op::Command { .. }
            | Op::Tell { .. }
            | Op::Emit { .. }
            | Op::EmitOf { .. }
            | Op::Perform { .. } => {
                self.say(op, run)?;
            }
            Op::Wait(span) => return Ok(Next::Wait(*span)),
            Op::WaitFor(span) => return Ok(Next::Wait(self.span(span, run))),
            Op::Until { condition, within, .. } => {
                if !self.condition(condition, run) {
                    let within = within.as_ref().map(|within| self.span(within, run));
                    return Ok(Next::Until(within));
                }
            }
            Op::For(who) => match self.the_object(who, run) {
                Ok(who) => run.behalf = Some(who),
                Err(error) => {
                    // What was meant for somebody who is gone is not done for somebody else.
                    run.frame.at += 1;
                    return Err(error);
                }
            },
            Op::Wire(pattern) => self.wire_of_run(pattern, run)?,
            Op::Set { target, to } => {
                let to = self.work_out(to, run);
                self.set_target(target, to, run)?;
            }
            Op::Tween { target, to, over, ease } => {
                let moved = self.moved(target, run)?;
                let (to, over) = (self.work_out(to, run), self.span(over, run));
                self.tween(moved, to, over, *ease, run.doing)?;
            }
            Op::Switch { object, on } => {
                let object = self.the_object(object, run)?;
                self.switch(object, *on, run.doing)?;
            }
            Op::Destroy(object) => {
                let object = self.the_object(object, run)?;
                self.destroy(object, run.doing)?;
            }
            Op::Spawn { mould, at, local } => {
                let at = Expr::Place(Box::new(at.clone()));
                let at = self.work_out(&at, run).as_vector().ok_or(Error::NobodyThere)?;
                let object = self.spawn_for(run, *mould, at)?;
                if let Some(local) = local {
                    run.keep(*local, object.into());
                }
            }
            Op::Send { who, spot } => {
                let (who, spot) = (self.the_object(who, run)?, self.work_out(spot, run));
                self.send_to(who, &spot, run.doing)?;
            }
            Op::SendAway { who, scene, spot } => {
                let who = self.the_object(who, run)?;
                self.send_away(who, scene, spot, run.doing);
            }
            Op::Tag { object, tag, on } => {
                let object = self.the_object(object, run)?;
                let word = SmolStr::new(self.moment.objects.tag_word(*tag));
                self.set_tag(object, &word, *on)?;
            }
            Op::Unless { when, goto } => {
                // Looked at once each time it is reached, so that it may draw.
                if self.work_out(when, run).as_bool() != Some(true) {
                    run.frame.at = *goto;
                }
            }
            Op::Goto(goto) => run.frame.at = *goto,
            Op::Times(times) => {
                let times = match self.work_out(times, run) {
                    Value::Whole(times) => times,
                    _ => 0,
                };
                run.loops.push(Loop::Times(times));
            }
            Op::Each { among, local } => {
                let eval_fault = Cell::new(None);
                let mut left = self.scope(run, &eval_fault).members(among);
                self.note_eval_fault(eval_fault.get(), run.doing.cause);
                left.reverse();
                run.loops.push(Loop::Each { left, local: *local });
            }
            Op::Cells { around, within, locals } => {
                let eval_fault = Cell::new(None);
                let mut left = self.scope(run, &eval_fault).cells_around(around, within.as_ref());
                self.note_eval_fault(eval_fault.get(), run.doing.cause);
                left.reverse();
                run.loops.push(Loop::Cells { left, locals: *locals });
            }
            Op::Round { end } => self.next_round(run, *end),
            Op::Run { routine, values } => {
                let values = self.work_out_all(values, run);
                run.calls.push(run.frame);
                let base = u32::try_from(run.locals.len()).unwrap_or(u32::MAX);
                run.frame = Frame { routine: Some(routine.0), at: 0, base };
                run.locals.extend(values);
            }
            Op::Stop => return Ok(Next::End),
        }
        Ok(Next::Go)
    }

    /// What a wire of a scene makes is in that scene.
    fn spawn_for(
        &mut self,
        run: &Run,
        mould: crate::base::ids::MouldId,
        at: glam::Vec3,
    ) -> Result<ObjectId, Error> {
        let before = self.moment.scenes.current;
        self.moment.scenes.current = self.scene_of_wire(run.wire).or(before);
        let made = self.spawn(mould, at, run.doing);
        self.moment.scenes.current = before;
        made
    }

    fn next_round(&self, run: &mut Run, end: u32) {
        let turn = match run.loops.last_mut() {
            Some(Loop::Times(left)) if *left > 0 => {
                *left -= 1;
                return;
            }
            Some(Loop::Cells { left, locals: [column, row] }) if !left.is_empty() => {
                let (column, row, next) = (*column, *row, left.pop().unwrap_or_default());
                run.keep(column, i64::from(next.column).into());
                run.keep(row, i64::from(next.row).into());
                return;
            }
            Some(Loop::Each { left, local }) => {
                let mut next = left.pop();
                while next.is_some_and(|object| self.moment.objects.get(object).is_none()) {
                    next = left.pop();
                }
                next.map(|object| (*local, object))
            }
            _ => None,
        };
        match turn {
            Some((local, object)) => run.keep(local, object.into()),
            None => {
                run.loops.pop();
                run.frame.at = end;
            }
        }
    }

    fn condition(&mut self, expr: &Expr, run: &Run) -> bool {
        let eval_fault = Cell::new(None);
        let holds = Scope { may_draw: false, ..self.scope(run, &eval_fault) }.holds(expr);
        self.note_eval_fault(eval_fault.get(), run.doing.cause);
        holds
    }

    /// What a sequence waits for that is about to wait until something is so.
    pub(crate) fn waits_for(&self, run: &Run) -> Option<Arc<Expr>> {
        let ops = self.ops_of(run)?;
        match ops.get((run.frame.at as usize).checked_sub(1)?)? {
            Op::Until { condition, .. } => Some(condition.clone()),
            _ => None,
        }
    }

    /// Whether the condition a sequence waits for holds, and where it goes on when it took too long.
    pub(crate) fn wait_is_over(&mut self, run: &Run) -> (bool, u32) {
        let Some(ops) = self.ops_of(run) else { return (true, u32::MAX) };
        let before = (run.frame.at as usize).checked_sub(1).and_then(|at| ops.get(at));
        let Some(Op::Until { condition, late, .. }) = before else { return (true, run.frame.at) };
        (self.condition(condition, run), *late)
    }

    /// What the condition a sequence waits for depends on.
    pub(crate) fn wait_depends_on(&self, run: &Run) -> Vec<crate::plan::reads::Read> {
        self.waits_for(run).map(|condition| condition.depends_on().into_iter().collect()).unwrap_or_default()
    }

    fn set_target(&mut self, target: &Target, to: Value, run: &mut Run) -> Result<(), Error> {
        if let Target::Local(local) = target {
            run.keep(*local, to);
            return Ok(());
        }
        if let (Target::Velocity(body), Value::Vector(velocity)) = (target, &to) {
            let body = self.the_object(body, run)?;
            return self.drive(body, *velocity, run.doing);
        }
        if let Target::Setting(part, name) = target {
            let part = match part {
                PartOf::Part(part) => *part,
                PartOf::Of { object, kind } => {
                    let object = self.the_object(object, run)?;
                    self.part_of_kind(object, kind).ok_or(Error::NoSuchPart)?
                }
            };
            return self.set_setting(part, name, to, run.doing);
        }
        match (self.moved(target, run)?, to) {
            (Moved::Var(var, who), to) => self.set_var(var, who, to, run.doing),
            (Moved::Place(object), Value::Vector(at)) => {
                self.check_thing_free(Kept::Place(object))?;
                if self.stays_here(object, run.doing) {
                    return Ok(());
                }
                self.moment.tweens.stop(Moved::Place(object));
                let event = Event::Placed { body: object, at };
                let cause = self.bus.trace.note(run.doing.cause, 0, event);
                self.put(object, at, cause)
            }
            (Moved::Facing(object), Value::Rotation(facing)) => {
                self.check_thing_free(Kept::Facing(object))?;
                self.moment.tweens.stop(Moved::Facing(object));
                self.face(object, facing, run.doing.cause)
            }
            _ => Err(Error::NobodyThere),
        }
    }

    fn moved(&mut self, target: &Target, run: &Run) -> Result<Moved, Error> {
        Ok(match target {
            Target::Var(var) => Moved::Var(*var, None),
            Target::VarOf(var, who) => Moved::Var(*var, Some(self.the_object(who, run)?)),
            Target::Property(object, name) => {
                let object = self.the_object(object, run)?;
                let found = self.moment.objects.get(object).and_then(|object| object.property(*name));
                Moved::Var(found.ok_or(Error::NoSuchVar)?, None)
            }
            Target::Place(object) => Moved::Place(self.the_object(object, run)?),
            Target::Facing(object) => Moved::Facing(self.the_object(object, run)?),
            Target::Local(_) | Target::Velocity(_) | Target::Setting(..) => return Err(Error::NoSuchVar),
        })
    }
}
