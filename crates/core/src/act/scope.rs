//! What an expression gives.

use std::cell::Cell;

use glam::Vec3;
use smallvec::SmallVec;

use crate::{
    act::nearby::Nearby,
    base::{
        doing::Doing,
        geometry::Rotation,
        ids::{ObjectId, PartId, SignalId, WireId},
        value::{Value, Values},
    },
    plan::{
        calc,
        calc::EvalFault,
        expr::{Expr, PartOf},
    },
    state::State,
};

/// The object that what is worked out belongs to.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Own {
    Nobody,
    Is(ObjectId),
    /// The owner of a wire.
    Of(WireId),
}

/// What an expression can see.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Scope<'a> {
    pub(crate) state: &'a State,
    pub(crate) values: &'a [Value],
    pub(crate) locals: &'a [Value],
    pub(crate) who: Option<ObjectId>,
    pub(crate) signal: Option<SignalId>,
    pub(crate) own: Own,
    pub(crate) it: Option<ObjectId>,
    /// A statement may draw random numbers; a condition may not, since it is looked at as often as need be.
    pub(crate) may_draw: bool,
    /// What is looked up for all members of a bind at once, and what this one looks at.
    pub(crate) nearby: Option<&'a Nearby>,
    /// The first thing that went wrong.
    pub(crate) eval_fault: &'a Cell<Option<EvalFault>>,
}

impl<'a> Scope<'a> {
    /// A scope that sees the world and nothing else.
    pub(crate) fn of(state: &'a State, eval_fault: &'a Cell<Option<EvalFault>>) -> Self {
        Self {
            state,
            values: &[],
            locals: &[],
            who: None,
            signal: None,
            own: Own::Nobody,
            it: None,
            may_draw: false,
            nearby: None,
            eval_fault,
        }
    }

    /// A scope for what a part asks.
    pub(crate) fn of_part(state: &'a State, part: PartId, eval_fault: &'a Cell<Option<EvalFault>>) -> Self {
        let own = state.object_of(part).map_or(Own::Nobody, Own::Is);
        Self { own, ..Self::of(state, eval_fault) }
    }

    /// The same, where somebody has caused it.
    pub(crate) fn by(self, who: ObjectId) -> Self {
        Self { who: Some(who), ..self }
    }

    pub(crate) fn holds(&self, expr: &Expr) -> bool {
        match expr {
            Expr::State { part, state } => self.state.parts.state(*part) == Some(*state),
            Expr::And(one, two) => self.holds(one) && self.holds(two),
            Expr::Or(one, two) => self.holds(one) || self.holds(two),
            other => self.value(other).as_bool() == Some(true),
        }
    }

    pub(crate) fn values(&self, exprs: &[Expr]) -> Values {
        exprs.iter().map(|expr| self.value(expr)).collect()
    }

    /// The first condition that does not hold, and what it read.
    pub(crate) fn failing(&self, guard: &Expr) -> (u8, SmallVec<[Value; 2]>) {
        let conditions = guard.conditions();
        let failing = conditions.iter().position(|condition| !self.holds(condition)).unwrap_or(0);
        let readings = conditions.get(failing).map(|condition| self.readings(condition));
        (u8::try_from(failing).unwrap_or(u8::MAX), readings.unwrap_or_default())
    }

    /// What the expression's reads are now; a part's state as its word, of a body that is inside or not, where
    /// it is; of a group, the first of it; of what is in a scene or not, the scene it is in.
    pub(crate) fn readings(&self, expr: &Expr) -> SmallVec<[Value; 2]> {
        let word = |part| self.state.state_word(part).map_or(Value::Nothing, Value::from);
        let read = |read: &Expr| match read {
            Expr::State { part, .. } => word(*part),
            Expr::Inside { body, .. } => self.place(&self.value(body)).map_or(Value::Nothing, Value::Vector),
            Expr::Any(among) => self.first_of(among).map_or(Value::Nothing, Value::Object),
            Expr::InScene { object, .. } => {
                let scene = self.value(object).as_object().and_then(|object| self.state.scene_of(object));
                scene.and_then(|scene| self.state.scene_name(scene)).map_or(Value::Nothing, Value::from)
            }
            other => self.value(other),
        };
        expr.reads().into_iter().map(read).collect()
    }

    fn finish(&self, (value, eval_fault): (Value, Option<EvalFault>)) -> Value {
        eval_fault.into_iter().for_each(|fault| self.note(fault));
        value
    }

    /// The first fault counts.
    pub(super) fn note(&self, fault: EvalFault) {
        if self.eval_fault.get().is_none() {
            self.eval_fault.set(Some(fault));
        }
    }

    fn object(&self, expr: &Expr) -> Option<ObjectId> {
        let object = self.value(expr).as_object()?;
        self.looks_at(object);
        Some(object)
    }

    fn part(&self, part: &PartOf) -> Option<PartId> {
        match part {
            PartOf::Part(part) => {
                self.looks_at(self.state.object_of(*part)?);
                Some(*part)
            }
            PartOf::Of { object, kind } => self.state.part_of_kind(self.object(object)?, kind),
        }
    }

    fn looks_at(&self, object: ObjectId) {
        if let Some(nearby) = self.nearby {
            nearby.note(object);
        }
    }

    /// Where an object, a spot or a place is.
    pub(crate) fn place(&self, value: &Value) -> Option<Vec3> {
        match value {
            Value::Vector(at) => Some(*at),
            Value::Object(object) => {
                self.looks_at(*object);
                self.state.moment.objects.get(*object).map(|object| object.at)
            }
            other => self.state.spot_of(other).map(|spot| spot.at),
        }
    }

    fn facing(&self, value: &Value) -> Option<Rotation> {
        match value {
            Value::Object(object) => {
                self.looks_at(*object);
                self.state.moment.objects.get(*object).map(|object| object.facing)
            }
            other => self.state.spot_of(other).map(|spot| spot.facing),
        }
    }

    fn draw(&self, low: &Expr, high: &Expr) -> Value {
        let (Some(low), Some(high)) = (self.value(low).as_number(), self.value(high).as_number()) else {
            return Value::Nothing;
        };
        if !self.may_draw {
            return Value::Nothing;
        }
        let part = self.state.draw();
        self.finish(calc::between(&Value::Number(low), &Value::Number(high), part))
    }

    #[expect(clippy::too_many_lines, reason = "a table with an arm for each kind of expression")]
    pub(crate) fn value(&self, expr: &Expr) -> Value {
        match expr {
            Expr::Value(value) => value.clone(),
            Expr::Var(var) => self.state.moment.vars.get(*var, None).cloned().unwrap_or_default(),
            Expr::VarOf(var, who) => match self.object(who) {
                Some(who) => self.state.moment.vars.get(*var, Some(who)).cloned().unwrap_or_default(),
                None => Value::Nothing,
            },
            Expr::Property { object, name } => {
                let object = self.object(object).and_then(|object| self.state.moment.objects.get(object));
                let var = object.and_then(|object| object.property(*name));
                var.and_then(|var| self.state.moment.vars.get(var, None)).cloned().unwrap_or_default()
            }
            Expr::Field(number) => self.values.get(usize::from(*number)).cloned().unwrap_or_default(),
            Expr::Local(number) => self.locals.get(usize::from(*number)).cloned().unwrap_or_default(),
            Expr::Who => self.who.map_or(Value::Nothing, Value::Object),
            Expr::Own => match self.own {
                Own::Nobody => Value::Nothing,
                Own::Is(object) => Value::Object(object),
                Own::Of(wire) => {
                    let owner = self.state.moment.wires.get(wire).and_then(|wire| wire.owner);
                    owner.map_or(Value::Nothing, Value::Object)
                }
            },
            Expr::It => self.it.map_or(Value::Nothing, Value::Object),
            Expr::Giver => {
                let lane = self.signal.and_then(|signal| self.state.bus.signals.lane(signal));
                lane.and_then(|lane| lane.of).map_or(Value::Nothing, Value::Object)
            }
            Expr::State { part, state } => Value::Bool(self.state.parts.state(*part) == Some(*state)),
            Expr::Reading { part, name, who, .. } => {
                let who = match who {
                    Some(who) => self.object(who),
                    None => self.who,
                };
                let part = self.part(part);
                part.and_then(|part| self.state.reading(part, name, who)).unwrap_or_default()
            }
            Expr::StateOf { object, test } => {
                Value::Bool(self.object(object).is_some_and(|object| self.is_in_state(object, test)))
            }
            Expr::Inside { body, zone } => {
                Value::Bool(self.object(body).is_some_and(|body| self.state.is_inside(body, *zone)))
            }
            Expr::InsideFor { body, zone } => {
                let span = self.object(body).and_then(|body| self.state.inside_for(body, *zone));
                span.map_or(Value::Nothing, Value::Duration)
            }
            Expr::Tagged { object, tag } => {
                let object = self.object(object).and_then(|object| self.state.moment.objects.get(object));
                Value::Bool(object.is_some_and(|object| object.tags.contains(tag)))
            }
            Expr::InScene { object, scene } => {
                let object = self.object(object).and_then(|object| self.state.moment.objects.get(object));
                Value::Bool(object.is_some_and(|object| object.scene == Some(*scene)))
            }
            Expr::Gone(object) => {
                let here = self.object(object).and_then(|object| self.state.moment.objects.get(object));
                Value::Bool(here.is_none())
            }
            Expr::Enabled(object) => {
                Value::Bool(self.object(object).is_some_and(|object| self.state.is_enabled(object)))
            }
            Expr::Hidden(object) => {
                Value::Bool(self.object(object).is_some_and(|object| self.state.is_hidden(object)))
            }
            Expr::Passable(object) => {
                Value::Bool(self.object(object).is_some_and(|object| self.state.is_passable(object)))
            }
            Expr::Carries { object, tag } => {
                let tagged = |item: &ObjectId| {
                    self.state.moment.objects.get(*item).is_some_and(|item| item.tags.contains(tag))
                };
                let items = self.object(object).map(|object| self.state.carried_by(object));
                Value::Bool(items.is_some_and(|items| items.iter().any(tagged)))
            }
            Expr::Place(of) => self.place(&self.value(of)).map_or(Value::Nothing, Value::Vector),
            Expr::Facing(of) => self.facing(&self.value(of)).map_or(Value::Nothing, Value::Rotation),
            Expr::Velocity(of) => {
                let velocity = self.object(of).and_then(|of| self.state.velocity(of).ok());
                velocity.map_or(Value::Nothing, Value::Vector)
            }
            Expr::Forward(of) => match self.facing(&self.value(of)) {
                Some(facing) => Value::Vector(facing.turn(Vec3::NEG_Z)),
                None => Value::Nothing,
            },
            Expr::Direction(one, two) => match (self.place(&self.value(one)), self.place(&self.value(two))) {
                (Some(one), Some(two)) => {
                    let way = (two.as_dvec3() - one.as_dvec3()).normalize_or_zero();
                    Value::Vector(way.as_vec3())
                }
                _ => Value::Nothing,
            },
            Expr::Component(of, axis) => match self.value(of) {
                Value::Vector(vector) => Value::Number(f64::from(axis.of(vector))),
                _ => Value::Nothing,
            },
            Expr::Middle(parts) => self.middle(parts).map_or(Value::Nothing, Value::Vector),
            Expr::CellSteps(parts) => self.cell_steps(parts).map_or(Value::Nothing, Value::from),
            Expr::Distance(one, two) => match (self.place(&self.value(one)), self.place(&self.value(two))) {
                (Some(one), Some(two)) => Value::Number(one.as_dvec3().distance(two.as_dvec3())),
                _ => Value::Nothing,
            },
            Expr::Count(among) => self.count(among),
            Expr::Any(among) => self.any(among),
            Expr::Nearest { among, to } => self.nearest(among, to),
            Expr::Vector(parts) => {
                let part = |index: usize| self.value(&parts[index]).as_number();
                match (part(0), part(1), part(2)) {
                    (Some(x), Some(y), Some(z)) => self.finish(calc::vector(x, y, z)),
                    _ => Value::Nothing,
                }
            }
            Expr::Turn { degrees, about } => match self.value(degrees).as_number() {
                Some(degrees) => Value::Rotation(Rotation::about(*about, degrees)),
                None => Value::Nothing,
            },
            Expr::Name(of) => {
                let name = self.object(of).and_then(|of| self.state.name(of));
                name.map_or(Value::Nothing, Value::from)
            }
            Expr::Text(parts) => self.finish(self.state.joined(&self.values(parts))),
            Expr::Call(function, operands) => self.finish(calc::call(*function, &self.values(operands))),
            Expr::Random(low, high) => self.draw(low, high),
            Expr::RandomOf(among) if self.may_draw => self.draw_one(among),
            Expr::RandomOf(_) => Value::Nothing,
            Expr::Not(one) => self.value(one).as_bool().map_or(Value::Nothing, |yes| Value::Bool(!yes)),
            Expr::And(one, two) => Value::Bool(self.holds(one) && self.holds(two)),
            Expr::Or(one, two) => Value::Bool(self.holds(one) || self.holds(two)),
            Expr::Compare(how, one, two) => self.state.compared(*how, &self.value(one), &self.value(two)),
            Expr::Arithmetic(how, one, two) => {
                self.finish(calc::arithmetic(*how, &self.value(one), &self.value(two)))
            }
        }
    }
}

impl State {
    /// What an expression gives now, caused by nobody and with no payload.
    pub fn evaluate(&self, expr: &Expr) -> Value {
        Scope::of(self, &Cell::new(None)).value(expr)
    }

    /// What the [reads](Expr::reads) of an expression are now, in their order; a part's state as its word, of a body that is inside
    /// or not, where it is; of a group, the first of it; of what is in a scene or not, the scene it is in.
    pub fn readings(&self, expr: &Expr) -> Vec<Value> {
        Scope::of(self, &Cell::new(None)).readings(expr).into_vec()
    }

    /// The same where [`Expr::Field`] of a number is the value that stands there in the list.
    pub fn evaluate_with(&self, expr: &Expr, values: &[Value]) -> Value {
        Scope { values, ..Scope::of(self, &Cell::new(None)) }.value(expr)
    }

    /// What an expression that a part asks for gives now, with `who` of `doing` for whom it goes back to.
    pub(crate) fn work_out_asked(&mut self, part: PartId, name: &str, doing: Doing) -> Option<Value> {
        let asked = self.asked_of(part, name)?;
        let eval_fault = Cell::new(None);
        let scope = Scope::of_part(self, part, &eval_fault);
        let scope = match doing.who {
            Some(who) => scope.by(who),
            None => scope,
        };
        let value = scope.value(asked);
        self.note_eval_fault(eval_fault.get(), doing.cause);
        Some(value)
    }
}
