//! The making of a wire, as far as it is data.

use std::{cell::Cell, sync::Arc};

use smol_str::SmolStr;

use crate::{
    act::{
        compile::compile,
        scope::{Own, Scope},
    },
    base::{
        clock::{Seconds, Ticks},
        error::{Error, Near},
        ids::{ObjectId, PartId, SignalId, Tags, WireId},
        names::path,
        place::Place,
        signal::Signal,
        value::{Text, Value, Values},
    },
    moment::run::Run,
    plan::{
        members::Members,
        ops::Op,
        patterns::{Hears, NewWire, Origin, Pattern},
        wires::{ASLEEP, Busy, CHECKED, Cooldown, DELAYED, Guard, SEQUENCE, Source, WhileRunning, Wire},
    },
    state::State,
};

/// What was said of a new wire.
pub(crate) struct Said {
    pub(crate) owner: Option<ObjectId>,
    pub(crate) order: i32,
    pub(crate) filter: Vec<SmolStr>,
    pub(crate) guard: Guard,
    pub(crate) during: Option<(PartId, Text)>,
    pub(crate) times: Option<u64>,
    pub(crate) cooldown: Option<Cooldown>,
    pub(crate) delay: Option<Ticks>,
    pub(crate) running: WhileRunning,
    pub(crate) place: Place,
    pub(crate) ops: Option<Arc<[Op]>>,
    pub(crate) kept: Option<Arc<[Value]>>,
    /// The flags that follow from what it does.
    pub(crate) kind: u32,
}

/// Those of the flags that are set.
pub(crate) fn flags(all: [(u32, bool); 3]) -> u32 {
    all.into_iter().filter(|(_, set)| *set).fold(0, |flags, (flag, _)| flags | flag)
}

impl State {
    /// A cooldown in ticks.
    pub(crate) fn cooldown(&self, said: Option<(Seconds, bool)>) -> Result<Option<Cooldown>, Error> {
        let ticks = |(span, per_who)| Ok(Cooldown { span: self.rate().ticks(span)?, per_who });
        said.map(ticks).transpose()
    }

    /// All of the making that is not generic: a game compiles the rest for each payload. Gives the number of its closure too, if
    /// it has one.
    pub(crate) fn add_wire(
        &mut self,
        (source, store): (Source, u32),
        said: Said,
        has_closure: bool,
    ) -> Result<(WireId, u32), Error> {
        let Said {
            owner,
            order,
            filter,
            guard,
            during,
            times,
            cooldown,
            delay,
            running,
            place,
            ops,
            kept,
            kind,
        } = said;
        let asleep = match owner {
            Some(owner) => !self.moment.objects.get(owner).ok_or(Error::NoSuchObject)?.enabled,
            None => false,
        };
        let during = match during {
            Some((stages, stage)) => Some((self.stage_of(stages, &stage)?, stage)),
            None => None,
        };
        let guard = match &during {
            Some((var, stage)) => self.guard_of_stage(*var, stage, guard)?,
            None => guard,
        };
        let filter: Tags = filter.iter().map(|tag| self.moment.objects.tag(tag)).collect();
        let limited = times.is_some() || cooldown.is_some() || running.busy != Busy::Overlap;
        let checked = limited || !filter.is_empty() || !matches!(guard, Guard::None);
        let flags = kind | flags([(ASLEEP, asleep), (CHECKED, checked), (DELAYED, delay.is_some())]);
        let closure = if has_closure { self.bus.payloads.number_closure(store) } else { u32::MAX };
        let since = self.now();
        let scene = if owner.is_none() { self.moment.scenes.current } else { None };
        let stage = during.as_ref().map(|(var, _)| *var);
        let id = self.moment.wires.insert(flags, |number, row| Wire {
            owner,
            scene,
            order,
            filter,
            guard,
            during,
            times,
            cooldown,
            delay,
            running,
            ops,
            kept,
            closure,
            ..Wire::plain(source, store, (number, row), place, since)
        });
        if let Some(owner) = owner.and_then(|owner| self.moment.objects.get_mut(owner)) {
            owner.wires.push(id);
        }
        if let Some(stage) = stage {
            self.plan.edit().staged.edit().entry(stage).or_default().push(id);
        }
        self.connect(id);
        Ok((id, closure))
    }

    /// Compiles the description of a wire.
    pub(crate) fn pattern(&mut self, new: &NewWire) -> Result<Pattern, Error> {
        let hears = match &new.from {
            Origin::One(signal) => Hears::One(*signal),
            Origin::Of(object, name) => Hears::Of(object.clone(), name.clone()),
            Origin::Every(group, name) => Hears::Every(self.group_tag(group), name.clone()),
        };
        Ok(Pattern {
            hears,
            filter: new.filter.clone(),
            guard: new.guard.clone().map(Arc::new),
            order: new.order,
            cooldown: self.cooldown(new.cooldown)?,
            delay: new.delay.map(|span| self.rate().ticks(span)).transpose()?,
            times: new.times,
            running: new.running,
            during: new.during.clone(),
            ops: compile(&new.steps, self)?,
            place: new.place.clone(),
        })
    }

    /// Makes a wire that was described.
    pub(crate) fn wire(&mut self, new: &NewWire, owner: Option<ObjectId>) -> Result<WireId, Error> {
        let pattern = self.pattern(new)?;
        self.wire_for(&pattern, owner)
    }

    /// Makes a wire of a mould for one object that was made after it. One that would listen to what is gone by now is not
    /// made, as it would have been cut.
    pub(crate) fn wire_of_mould(&mut self, pattern: &Pattern, owner: ObjectId) -> Result<(), Error> {
        match pattern.hears {
            Hears::One(signal) if self.bus.open_lane(signal).is_err() => Ok(()),
            _ => self.wire_for(pattern, Some(owner)).map(|_| ()),
        }
    }

    fn wire_for(&mut self, pattern: &Pattern, owner: Option<ObjectId>) -> Result<WireId, Error> {
        let eval_fault = Cell::new(None);
        let scope = Scope { own: owner.map_or(Own::Nobody, Own::Is), ..Scope::of(self, &eval_fault) };
        let of = if let Hears::Of(object, _) = &pattern.hears { Some(scope.value(object)) } else { None };
        self.wire_after(pattern, owner, of, None)
    }

    /// Makes the wire that a statement describes. It keeps what the sequence keeps now.
    pub(crate) fn wire_of_run(&mut self, pattern: &Pattern, run: &Run) -> Result<(), Error> {
        let owner = self.moment.wires.get(run.wire).and_then(|wire| wire.owner);
        let of = if let Hears::Of(object, _) = &pattern.hears {
            Some(Value::Object(self.the_object(object, run)?))
        } else {
            None
        };
        // Even if that is nothing: by this a wire is known that a statement has made.
        let kept = Some(run.locals().into());
        // What a wire of a scene makes is in that scene.
        let before = self.moment.scenes.current;
        self.moment.scenes.current = self.scene_of_wire(run.wire).or(before);
        let made = self.wire_after(pattern, owner, of, kept);
        self.moment.scenes.current = before;
        made.map(|_| ())
    }

    fn wire_after(
        &mut self,
        pattern: &Pattern,
        owner: Option<ObjectId>,
        of: Option<Value>,
        kept: Option<Arc<[Value]>>,
    ) -> Result<WireId, Error> {
        let source = match (&pattern.hears, of) {
            (Hears::Of(_, name), Some(Value::Object(object))) => {
                let signal = self.signal_of_object(object, name)?;
                (Source::One(signal), self.bus.open_lane(signal)?.store)
            }
            (Hears::Of(..), _) => return Err(Error::NobodyThere),
            (Hears::One(signal), _) => (Source::One(*signal), self.bus.open_lane(*signal)?.store),
            (Hears::Every(tag, name), _) => {
                let source = Source::Every { tag: *tag, name: name.clone(), members: Members::default() };
                (source, self.bus.payloads.store_of::<Values>())
            }
        };
        let said = Said {
            owner,
            order: pattern.order,
            filter: pattern.filter.clone(),
            guard: pattern.guard.clone().map_or(Guard::None, Guard::Data),
            during: pattern.during.clone(),
            times: pattern.times,
            cooldown: pattern.cooldown,
            delay: pattern.delay,
            running: pattern.running,
            place: pattern.place.clone(),
            ops: Some(pattern.ops.clone()),
            kept,
            kind: SEQUENCE,
        };
        self.add_wire(source, said, false).map(|(wire, _)| wire)
    }

    /// The signal of that name that an object gives.
    pub(crate) fn signal_of_object(&mut self, object: ObjectId, name: &str) -> Result<SignalId, Error> {
        let whole = path(self.name_of(object)?, name);
        if name == "started" {
            // An object tells that it has started only when somebody listens.
            return self.own_signal::<()>(object, name).map(Signal::id);
        }
        let found = self.bus.signals.find(&whole);
        found.ok_or_else(|| Error::NoSignalOfName { found: whole, near: Near::default() })
    }
}
