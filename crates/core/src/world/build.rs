//! Making a scene: objects, parts, signals, variables, effects, rules.

use glam::Vec3;
use smallvec::SmallVec;
use smol_str::SmolStr;

use super::{World, path};
use crate::{
    act::check_place,
    effect::EffectId,
    error::Error,
    expr::Expr,
    object::{Body, Object, ObjectId, PLAYER},
    part::{Part, PartId, PartKind, PartSpec, Settings},
    payload::{Field, Payload},
    rule::{Rule, RuleId},
    signal::{Signal, SignalId, check_name},
    space::{Aabb, Zone},
    value::Value,
    var::VarId,
    wire::Place,
};

/// An object about to be made. Nothing happens until [`add`](Self::add).
#[derive(Debug)]
pub struct NewObject<'w, G> {
    world: &'w mut World<G>,
    name: SmolStr,
    at: Vec3,
    tags: Vec<SmolStr>,
    body: bool,
}

impl<G: 'static> NewObject<'_, G> {
    /// Puts it there, in scene units. Default (0, 0, 0).
    pub fn at(mut self, at: Vec3) -> Self {
        self.at = at;
        self
    }

    /// Gives it a tag.
    pub fn tag(mut self, tag: &str) -> Self {
        self.tags.push(tag.into());
        self
    }

    /// Makes it a body: a point that can touch zones and walk.
    pub fn body(mut self) -> Self {
        self.body = true;
        self
    }

    /// Makes it.
    ///
    /// # Errors
    /// [`Error::BadName`], [`Error::NameTaken`] or [`Error::BadPlace`].
    pub fn add(self) -> Result<ObjectId, Error> {
        let Self { world, name, at, tags, body } = self;
        check_name(&name)?;
        tags.iter().try_for_each(|tag| check_name(tag))?;
        check_place(at)?;
        let objects = &mut world.state.objects;
        if objects.find(&name).is_some() {
            return Err(Error::NameTaken { kind: "an object", name });
        }
        let tags = tags.iter().map(|tag| objects.tag(tag)).collect();
        let body = body.then(|| Body { before: at, fresh: true, ..Body::default() });
        Ok(objects.insert(|number| Object {
            number,
            name,
            tags,
            at,
            enabled: true,
            doomed: false,
            body,
            parts: SmallVec::new(),
            signals: SmallVec::new(),
            wires: SmallVec::new(),
        }))
    }
}

impl<G: 'static> World<G> {
    /// Begins an object.
    pub fn object(&mut self, name: &str) -> NewObject<'_, G> {
        NewObject { world: self, name: name.into(), at: Vec3::ZERO, tags: Vec::new(), body: false }
    }

    /// Begins a player: an object with a body and the tag `player`.
    pub fn player(&mut self, name: &str) -> NewObject<'_, G> {
        self.object(name).body().tag(PLAYER)
    }

    /// Gives an object a part.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`Error::NameTaken`] when it has a part that gives the same signals; or what is
    /// wrong with a setting.
    pub fn attach<P: PartSpec>(&mut self, object: ObjectId, spec: P) -> Result<P::Handle, Error> {
        let part = spec.into_part(self.rate())?;
        let part = self.attach_part(object, part)?;
        let signals = self.state.parts.get(part).map(|slot| slot.signals.clone()).unwrap_or_default();
        Ok(P::handle(part, &signals))
    }

    /// Gives an object a part of a kind that is known only by its description.
    ///
    /// # Errors
    /// As for [`attach`](Self::attach).
    pub fn attach_kind(
        &mut self,
        object: ObjectId,
        kind: &PartKind,
        settings: &Settings,
    ) -> Result<PartId, Error> {
        let part = (kind.build)(settings, self.rate())?;
        self.attach_part(object, part)
    }

    fn attach_part(&mut self, object: ObjectId, part: Box<dyn Part>) -> Result<PartId, Error> {
        let state = &mut self.state;
        let owner = state.objects.get(object).ok_or(Error::NoSuchObject)?;
        let (name, number, at) = (owner.name.clone(), owner.number, owner.at);
        let kind = part.kind();
        for signal in kind.signals {
            let name = path(&name, signal.name);
            if state.bus.signals.find(&name).is_some() {
                return Err(Error::NameTaken { kind: "a signal", name });
            }
        }
        let region = part.region().map(|zone| (zone.size, zone.admits.clone()));
        let id = state.parts.insert(object, number, part);
        let mut signals = SmallVec::new();
        for signal in kind.signals {
            signals.push(signal.declare(&mut state.bus, &name)?);
        }
        if let Some((size, admits)) = region {
            let admits = admits.iter().map(|tag| state.objects.tag(tag)).collect();
            state.tracker.add(Zone::new(id, object, Aabb::around(at, size), admits));
        }
        if let Some(owner) = state.objects.get_mut(object) {
            owner.parts.push(id);
            owner.signals.extend(signals.iter().copied());
        }
        state.parts.set_signals(id, signals);
        Ok(id)
    }

    /// Declares a scene-wide signal, or finds the one of that name.
    ///
    /// # Errors
    /// [`Error::BadName`]; or [`Error::PayloadMismatch`] when it carries other fields.
    pub fn signal<T: Payload>(&mut self, name: &str) -> Result<Signal<T>, Error> {
        self.state.bus.declare(name)
    }

    /// The same for fields that are known only now.
    ///
    /// # Errors
    /// As for [`signal`](Self::signal).
    pub fn signal_with(&mut self, name: &str, fields: Vec<Field>) -> Result<SignalId, Error> {
        self.state.bus.declare_fields(name, fields)
    }

    /// The signal an object gives at start-up.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn ready_of(&mut self, object: ObjectId) -> Result<Signal<()>, Error> {
        let name = self.state.objects.get(object).ok_or(Error::NoSuchObject)?.name.clone();
        let signal = self.state.bus.declare::<()>(&path(&name, "ready"))?;
        if let Some(owner) = self.state.objects.get_mut(object)
            && !owner.signals.contains(&signal.id())
        {
            owner.signals.push(signal.id());
        }
        Ok(signal)
    }

    /// Declares a variable.
    ///
    /// # Errors
    /// [`Error::BadName`] or [`Error::NameTaken`].
    pub fn var(&mut self, name: &str, first: impl Into<Value>) -> Result<VarId, Error> {
        self.state.vars.declare(name, first.into())
    }

    /// Declares an effect with the fields of `T`, or finds the one of that name.
    ///
    /// # Errors
    /// [`Error::BadName`]; or [`Error::PayloadMismatch`] when it has other fields.
    pub fn effect<T: Payload>(&mut self, name: &str) -> Result<EffectId, Error> {
        self.effect_with(name, T::fields().unwrap_or_default())
    }

    /// The same for fields that are known only now.
    ///
    /// # Errors
    /// As for [`effect`](Self::effect).
    pub fn effect_with(&mut self, name: &str, fields: Vec<Field>) -> Result<EffectId, Error> {
        self.state.effects.declare(name, fields)
    }

    /// Makes a rule: `condition` must never hold when a tick has settled. Each time it begins to, that is
    /// recorded and counted.
    #[track_caller]
    pub fn never(&mut self, condition: Expr) -> RuleId {
        self.never_at(condition, Place::here())
    }

    /// The same for a rule that was written elsewhere.
    pub fn never_at(&mut self, condition: Expr, place: Place) -> RuleId {
        let rules = &mut self.state.rules;
        let id = RuleId(u32::try_from(rules.len()).unwrap_or(u32::MAX));
        rules.push(Rule { never: condition, place, broken: false, times_broken: 0 });
        id
    }
}
