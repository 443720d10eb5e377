//! Since when what an expression reads is as it is, and what made it so.

use stoicheon_core::{
    Among, BindId, Event, Expr, Kept, ObjectId, PartId, PartOf, PartState, PropertyName, RecordId, Tick,
    Value, VarId,
};

use crate::{phrase::clock_time, trace_text::short_place, why::history::History};

/// Since when something is as it is.
#[derive(Default)]
pub(crate) struct Origin {
    /// The record that made it so; `None` if it has been so for as long as the trace reaches.
    pub(crate) record: Option<RecordId>,
    /// What it was then, if the trace says so.
    pub(crate) value: Option<Value>,
    /// The bind that keeps it.
    pub(crate) kept_by: Option<BindId>,
}

impl Origin {
    fn made(record: Option<RecordId>) -> Self {
        Self { record, ..Self::default() }
    }
}

/// What the object is that an expression names, where `who` caused it.
fn object(expr: &Expr, who: Option<ObjectId>) -> Option<ObjectId> {
    match expr {
        Expr::Value(Value::Object(object)) => Some(*object),
        Expr::Who => who,
        _ => None,
    }
}

fn changes(event: &Event, part: PartId) -> bool {
    matches!(event, Event::Shifted { part: other, .. } | Event::Changed { part: other, .. } if *other == part)
}

impl History<'_> {
    fn property(&self, of: &Expr, name: PropertyName, who: Option<ObjectId>) -> Option<VarId> {
        let name_of = self.state.name(object(of, who)?)?;
        self.state.find_var(&format!("{name_of}.{}", self.state.property_word(name)))
    }

    /// Where what an expression reads came from, before a record; `None` for what no record speaks of.
    pub(crate) fn origin(
        &self,
        read: &Expr,
        who: Option<ObjectId>,
        before: Option<RecordId>,
    ) -> Option<Origin> {
        let last = |is_it: &dyn Fn(&Event) -> bool| Some(Origin::made(self.last(before, is_it)));
        match read {
            Expr::Var(var) => Some(self.of_var(*var, None, before)),
            Expr::VarOf(var, of) => Some(self.of_var(*var, object(of, who), before)),
            Expr::Property { object, name } => {
                Some(self.of_var(self.property(object, *name, who)?, None, before))
            }
            Expr::State { part, .. } => Some(self.of_part(*part, before)),
            Expr::Reading { part: PartOf::Part(part), .. } => last(&|event| changes(event, *part)),
            Expr::Reading { part: PartOf::Of { object: of, kind }, .. } => {
                let of = object(of, who)?;
                let is_one =
                    |part: &PartId| self.state.kind_of(*part).is_some_and(|known| known.name == *kind);
                let part = self.state.parts_of(of).iter().copied().find(is_one)?;
                last(&|event| changes(event, part))
            }
            Expr::Inside { body, zone } | Expr::InsideFor { body, zone } => {
                let body = object(body, who)?;
                last(&|event| match event {
                    Event::Entered { zone: one, body: other, .. }
                    | Event::Left { zone: one, body: other, .. } => one == zone && *other == body,
                    _ => false,
                })
            }
            Expr::Enabled(of) => {
                let of = object(of, who)?;
                last(
                    &|event| matches!(event, Event::Enabled { object } | Event::Disabled { object } if *object == of),
                )
            }
            Expr::Gone(of) => {
                let of = object(of, who)?;
                last(&|event| matches!(event, Event::Destroyed { object, .. } if *object == of))
            }
            Expr::StateOf { object: of, .. } | Expr::Hidden(of) | Expr::Passable(of) => {
                let of = object(of, who)?;
                last(&|event| self.shifts_of(event, of))
            }
            Expr::Carries { .. } => last(&|event| match event {
                Event::Shifted { part, .. } => {
                    self.state.kind_of(*part).is_some_and(|kind| kind.name == "item")
                }
                _ => false,
            }),
            Expr::Place(of) | Expr::Facing(of) | Expr::Velocity(of) | Expr::InScene { object: of, .. } => {
                Some(self.of_body(object(of, who)?, before))
            }
            Expr::Distance(one, two) => {
                let both = [object(one, who), object(two, who)].into_iter().flatten();
                let origins = both.map(|of| self.of_body(of, before));
                origins.max_by_key(|origin| origin.record)
            }
            Expr::Count(among) | Expr::Any(among) | Expr::Nearest { among, .. } => {
                last(&|event| self.is_of_group(event, among))
            }
            _ => None,
        }
    }

    fn last(&self, before: Option<RecordId>, is_it: impl Fn(&Event) -> bool) -> Option<RecordId> {
        self.before(before).iter().rev().find(|(_, record)| is_it(&record.event)).map(|(id, _)| *id)
    }

    fn shifts_of(&self, event: &Event, of: ObjectId) -> bool {
        match event {
            Event::Shifted { part, .. } => self.state.object_of(*part) == Some(of),
            Event::Destroyed { object, .. } => *object == of,
            _ => false,
        }
    }

    /// Whether an event may change who is in a group, or how many.
    fn is_of_group(&self, event: &Event, among: &Among) -> bool {
        let tag = self.state.tag_word(among.tag());
        match event {
            Event::Shifted { part, .. } => {
                among.condition().is_some()
                    && self.state.object_of(*part).is_some_and(|object| self.state.has_tag(object, tag))
            }
            Event::Set { var, .. } | Event::Kept { var, .. } => {
                let of = self.state.var_name(*var).and_then(|name| self.state.find(name.rsplit_once('.')?.0));
                among.condition().is_some() && of.is_some_and(|object| self.state.has_tag(object, tag))
            }
            Event::Entered { zone, .. } | Event::Left { zone, .. } => among.zone() == Some(*zone),
            Event::Spawned { object } | Event::Enabled { object } | Event::Disabled { object } => {
                self.state.has_tag(*object, tag)
            }
            Event::Destroyed { .. } => true,
            _ => false,
        }
    }

    fn of_body(&self, body: ObjectId, before: Option<RecordId>) -> Origin {
        let kept_by =
            self.state.bind_of(Kept::Place(body)).or_else(|| self.state.bind_of(Kept::Facing(body)));
        let is_it = |event: &Event| match event {
            Event::Placed { body: other, .. }
            | Event::SetOut { body: other, .. }
            | Event::Arrived { body: other, .. }
            | Event::Driven { body: other, .. }
            | Event::Entered { body: other, .. }
            | Event::Left { body: other, .. }
            | Event::Travelled { body: other, .. }
            | Event::Sent { body: other, .. } => *other == body,
            Event::SetDown { object, .. } | Event::Spawned { object } => *object == body,
            Event::Shifted { part, .. } => {
                self.state.object_of(*part) == Some(body)
                    && self.state.kind_of(*part).is_some_and(|kind| kind.name == "item")
            }
            _ => false,
        };
        Origin { record: self.last(before, is_it), value: None, kept_by }
    }

    fn of_var(&self, var: VarId, of: Option<ObjectId>, before: Option<RecordId>) -> Origin {
        let is_it = |event: &Event| match event {
            Event::Set { var: other, of: whose, from, to } => {
                *other == var && (whose.is_none() || of.is_none() || *whose == of) && from != to
            }
            Event::Kept { var: other, from, to, .. } => *other == var && from != to,
            _ => false,
        };
        if let Some(id) = self.last(before, is_it) {
            let value = match self.get(id).map(|record| &record.event) {
                Some(Event::Set { to, .. } | Event::Kept { to, .. }) => Some(to.clone()),
                _ => None,
            };
            return Origin { record: Some(id), value, kept_by: None };
        }
        // It was never set before: the first time it was set says what it had been.
        let first = self.after(before).iter().find(|(_, record)| is_it(&record.event));
        let value = match first.map(|(_, record)| &record.event) {
            Some(Event::Set { from, .. } | Event::Kept { from, .. }) => Some(from.clone()),
            _ => {
                let now = of.map_or_else(|| self.state.value(var), |of| self.state.value_of(var, of));
                now.ok().cloned()
            }
        };
        Origin { record: None, value, kept_by: self.state.bind_of(Kept::Var(var)) }
    }

    fn of_part(&self, part: PartId, before: Option<RecordId>) -> Origin {
        let is_it = |event: &Event| matches!(event, Event::Shifted { part: other, .. } if *other == part);
        let word = |number: PartState| {
            let kind = self.state.kind_of(part)?;
            kind.states.get(usize::from(number)).map(|word| Value::from(*word))
        };
        if let Some(id) = self.last(before, is_it) {
            let value = match self.get(id).map(|record| &record.event) {
                Some(Event::Shifted { to, .. }) => word(*to),
                _ => None,
            };
            return Origin { record: Some(id), value, kept_by: None };
        }
        let first = self.after(before).iter().find(|(_, record)| is_it(&record.event));
        let value = match first.map(|(_, record)| &record.event) {
            Some(Event::Shifted { from, .. }) => word(*from),
            _ => self.state.state_word(part).map(Value::from),
        };
        Origin { record: None, value, kept_by: None }
    }

    /// `since 1.200s, by lock.stoi:8`, or `since the start`.
    pub(crate) fn since(&self, origin: &Origin) -> String {
        if let Some((.., place)) = origin.kept_by.and_then(|bind| self.state.bound(bind)) {
            return format!("by the bind at {}", short_place(place));
        }
        let Some(id) = origin.record else {
            let began = if self.is_whole() { "the start" } else { "before the trace begins" };
            return format!("since {began}");
        };
        let at = self.get(id).map_or(Tick(0), |record| record.tick);
        let time = clock_time(self.state.rate(), at);
        match self.maker(id) {
            Some(by) => format!("since {time}, by {by}"),
            None => format!("since {time}"),
        }
    }
}
