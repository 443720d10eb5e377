//! Objects, their parts and variables, as they are now.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Tick, Ticks},
        geometry::Rotation,
        ids::{ObjectId, PartId, SceneId, SignalId, VarId, WireId},
        value::{Type, Value},
    },
    moment::vars::Var,
    part::{
        contract::Part,
        offers::{Aim, Current, Offer},
    },
    plan::expr::Expr,
    space::shape::Shape,
    state::State,
};

/// An object as it is now.
#[expect(clippy::struct_excessive_bools, reason = "each says a thing of its own")]
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct InspectedObject {
    /// The object.
    pub object: ObjectId,
    /// Its name.
    pub name: SmolStr,
    /// Its tags, in the order it got them.
    pub tags: Vec<SmolStr>,
    /// Where it is, in scene units.
    pub at: Vec3,
    /// Which way it faces.
    pub facing: Rotation,
    /// Its velocity, in scene units per second, if it is a body.
    pub velocity: Option<Vec3>,
    /// What it hangs on.
    pub parent: Option<ObjectId>,
    /// The scene it is in.
    pub scene: Option<SceneId>,
    /// Its number among the players, from 1, if it is one.
    pub player: Option<u32>,
    /// It fills a role.
    pub is_manager: bool,
    /// Whether it is enabled, and what it hangs on too.
    pub enabled: bool,
    /// One of its parts hides it.
    pub hidden: bool,
    /// One of its parts lets bodies through.
    pub passable: bool,
    /// Its parts, in the order they were attached.
    pub parts: Vec<InspectedPart>,
    /// Its own variables; those of its parts are with these.
    pub variables: Vec<InspectedVar>,
    /// Its own signals; those of its parts are with these.
    pub signals: Vec<SignalId>,
    /// The wires that sleep and end with it.
    pub wires: Vec<WireId>,
}

/// A part as it is now.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct InspectedPart {
    /// The part.
    pub part: PartId,
    /// The word for its kind.
    pub kind: &'static str,
    /// The word for the state it is in, for kinds that have states.
    pub state: Option<&'static str>,
    /// What it says of itself; for a kind that has a reading for each player, with the player.
    pub readings: Vec<(&'static str, Option<ObjectId>, Value)>,
    /// Its settings that may change while the world runs.
    pub settings: Vec<(&'static str, Value)>,
    /// What it has worked out while the world runs, by the names of its settings.
    pub asks: Vec<(SmolStr, Expr)>,
    /// The shape of its region, of the body it makes or of what it is to a ray.
    pub shape: Option<Shape>,
    /// What it offers to players who are near, for a prompt.
    pub offer: Option<Offer>,
    /// What it does to the velocity of those inside, for a push.
    pub current: Option<Current>,
    /// What it is to a ray.
    pub aim: Option<Aim>,
    /// Who is inside its region and since when, by object number.
    pub inside: Vec<(ObjectId, Tick)>,
    /// How long it is until it is called, if it asked for that: a timer, a door that will close.
    pub rings_in: Option<Ticks>,
    /// The variables it keeps.
    pub variables: Vec<InspectedVar>,
    /// The signals it gives.
    pub signals: Vec<SignalId>,
}

/// A variable as it is now.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct InspectedVar {
    /// The variable.
    pub var: VarId,
    /// Its whole name.
    pub name: SmolStr,
    /// The type of what it holds; `None` for one that holds whatever comes.
    pub ty: Option<Type>,
    /// What it holds; of one that each player has, what a player begins with.
    pub value: Value,
    /// What it holds for each player who has their own, by number; `None` for one that all share.
    pub each: Option<Vec<(ObjectId, Value)>>,
    /// It is remembered.
    pub remembered: bool,
    /// A bind keeps it.
    pub bound: bool,
}

impl State {
    /// An object as it is now, with its parts and variables; `None` if it is gone.
    pub fn inspect_object(&self, id: ObjectId) -> Option<InspectedObject> {
        let object = self.moment.objects.get(id)?;
        let own = |var: &VarId| self.moment.vars.var(*var).is_some_and(|var| var.part.is_none());
        let vars = object.properties.iter().map(|(_, var)| *var).filter(own);
        let parts: Vec<_> = object.parts.iter().filter_map(|part| self.inspect_part(*part)).collect();
        let of_parts = |signal: &SignalId| parts.iter().any(|part| part.signals.contains(signal));
        Some(InspectedObject {
            object: id,
            name: object.name.clone(),
            tags: object.tags.iter().map(|tag| self.tag_word(*tag).into()).collect(),
            at: object.at,
            facing: object.facing,
            velocity: object.body.as_ref().map(|body| body.facts.velocity),
            parent: object.parent,
            scene: object.scene,
            player: self.player_number(id),
            is_manager: object.manages,
            enabled: object.enabled,
            hidden: self.is_hidden(id),
            passable: self.is_passable(id),
            variables: vars.filter_map(|var| self.inspect_variable(var)).collect(),
            signals: object.signals.iter().copied().filter(|signal| !of_parts(signal)).collect(),
            wires: object
                .wires
                .iter()
                .copied()
                .filter(|wire| self.moment.wires.alive(*wire).is_some())
                .collect(),
            parts,
        })
    }

    /// A part as it is now; `None` if it is gone.
    pub fn inspect_part(&self, id: PartId) -> Option<InspectedPart> {
        let (entry, part) = (self.parts.get(id)?, self.parts.part(id)?);
        let kind = part.kind();
        let mut readings = Vec::new();
        for reading in kind.readings {
            if reading.per_player {
                let of_each =
                    |who| Some((reading.name, Some(who), self.reading(id, reading.name, Some(who))?));
                readings.extend(self.players().filter_map(of_each));
            } else if let Some(value) = self.reading(id, reading.name, None) {
                readings.push((reading.name, None, value));
            }
        }
        let live = kind.settings.iter().filter(|setting| setting.live);
        let settings = live.filter_map(|set| Some((set.name, self.reading(id, set.name, None)?)));
        Some(InspectedPart {
            part: id,
            kind: kind.name,
            state: self.state_word(id),
            readings,
            settings: settings.collect(),
            asks: self.plan.asked.get(&id).cloned().unwrap_or_default(),
            shape: shape_of(part).cloned(),
            offer: part.offer().cloned(),
            current: part.current().copied(),
            aim: part.aim().cloned(),
            inside: self.inside_since(id).collect(),
            rings_in: self.rings_in(id),
            variables: entry.vars.iter().filter_map(|var| self.inspect_variable(*var)).collect(),
            signals: entry.signals.to_vec(),
        })
    }

    /// Who is inside a zone and since which tick, by object number.
    fn inside_since(&self, zone: PartId) -> impl Iterator<Item = (ObjectId, Tick)> {
        let key = self.parts.get(zone).and_then(|entry| entry.zone);
        let inside = key.into_iter().flat_map(|key| self.moment.tracker.inside(key));
        inside.filter_map(|(body, since)| Some((*self.moment.tracker.body(body)?, Tick(since))))
    }

    /// A variable as it is now; `None` if it is gone.
    pub fn inspect_variable(&self, id: VarId) -> Option<InspectedVar> {
        self.moment.vars.var(id).map(|var| inspected(id, var))
    }

    /// The variables that belong to no object.
    pub(crate) fn inspect_variables(&self) -> Vec<InspectedVar> {
        let free = self.moment.vars.iter().filter(|(_, var)| var.property.is_none() && var.part.is_none());
        free.map(|(id, var)| inspected(id, var)).collect()
    }
}

fn inspected(id: VarId, var: &Var) -> InspectedVar {
    let each = |each: &std::collections::BTreeMap<ObjectId, Value>| {
        each.iter().map(|(who, value)| (*who, value.clone())).collect()
    };
    InspectedVar {
        var: id,
        name: var.name.clone(),
        ty: var.ty.clone(),
        value: var.value.clone(),
        each: var.each.as_ref().map(each),
        remembered: var.remembered,
        bound: var.bound.is_some(),
    }
}

fn shape_of(part: &dyn Part) -> Option<&Shape> {
    let region = part.region().and_then(|region| region.shape.as_ref());
    region.or_else(|| part.body()).or_else(|| part.aim().map(|aim| &aim.shape))
}
