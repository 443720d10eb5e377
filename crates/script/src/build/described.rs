//! What a text says, with the ids of a world that has it: for two texts to be compared.

use std::collections::BTreeMap;

use stoicheon_core::{
    Error, Expr, Kept, Mould, NewVar, NewWire, ObjectId, PartId, Place, Pose, Rotation, SmolStr, Step, Vec3,
};

use super::{Builder, objects::object_is_made, unknown};
use crate::resolve::{InScene, Keeps, Made, Object, Role, WirePlan};

/// An object that a text makes.
pub(super) struct DescribedObject {
    pub(super) name: SmolStr,
    pub(super) id: ObjectId,
    /// Its tags, parts, signals and variables.
    pub(super) mould: Mould,
    pub(super) pose: Pose,
    pub(super) hangs_on: Option<ObjectId>,
    pub(super) disabled: bool,
    pub(super) remembered: bool,
}

/// The things that a text makes, and what it declares.
#[derive(Default)]
pub(super) struct Things {
    pub(super) objects: Vec<DescribedObject>,
    pub(super) moulds: BTreeMap<SmolStr, Mould>,
    pub(super) spots: Vec<(SmolStr, Vec3, Rotation)>,
    /// Those of no object.
    pub(super) vars: Vec<(SmolStr, NewVar)>,
}

/// A routine: its name, how many values it is given, and what it does.
pub(super) type DescribedRoutine = (SmolStr, u8, Vec<Step>);

/// What a text wires.
#[derive(Default)]
pub(super) struct Wiring {
    pub(super) routines: Vec<DescribedRoutine>,
    pub(super) wires: Vec<(NewWire, Option<ObjectId>)>,
    pub(super) of_moulds: BTreeMap<SmolStr, Vec<NewWire>>,
    pub(super) binds: Vec<(Kept, Expr, Place)>,
    pub(super) rules: Vec<(Expr, Place)>,
    /// What parts work out while the world runs.
    pub(super) asked: Vec<(PartId, SmolStr, Expr)>,
}

impl<G: 'static> Builder<'_, '_, '_, G> {
    /// Finds everything that is here already, and makes nothing.
    pub(super) fn find_all(&mut self) {
        for object in &mut self.resolver.names.objects {
            match object.role {
                Role::Mould => object.mould = self.world.find_mould(&object.name).unwrap_or_default(),
                Role::Foreign => object.id = self.world.manager(&object.name).unwrap_or_default(),
                Role::Object | Role::Manager => {
                    object.id = self.world.find(&object.name).unwrap_or_default();
                    object.part_ids = parts_here(self.world, object);
                }
            }
        }
        for spot in &mut self.resolver.names.spots {
            spot.id = self.world.find_spot(&spot.name).unwrap_or_default();
        }
        for var in &mut self.resolver.names.vars {
            var.id = self.world.find_var(&var.name).unwrap_or_default();
        }
        for routine in &mut self.resolver.names.routines {
            routine.id = self.world.find_routine(&routine.name).unwrap_or_default();
        }
        for effect in &mut self.resolver.names.effects {
            effect.effect = self.world.find_effect(&effect.name).unwrap_or_default();
        }
    }

    /// The things a text makes.
    pub(super) fn things(&mut self) -> Result<Things, Error> {
        let mut things = Things::default();
        for index in 0..self.resolver.names.objects.len() {
            let object = &self.resolver.names.objects[index];
            if !self.is_own(object.scope) {
                continue;
            }
            match object.role {
                Role::Mould => {
                    let name = object.name.clone();
                    things.moulds.insert(name, self.mould_of(index)?);
                }
                Role::Object | Role::Manager => {
                    let described = self.described(index)?;
                    things.objects.extend(described);
                }
                Role::Foreign => {}
            }
        }
        for index in 0..self.resolver.names.spots.len() {
            let spot = &self.resolver.names.spots[index];
            if self.is_own(spot.scope) {
                let name = spot.name.clone();
                let (at, facing) = self.resolver.spot(index, &ids!(self));
                things.spots.push((name, self.vector(at), self.rotation(facing)));
            }
        }
        for index in 0..self.resolver.names.vars.len() {
            let var = &self.resolver.names.vars[index];
            if self.is_own(var.scope) && var.kept_by.is_none() && var.object.is_none() {
                let name = var.name.clone();
                things.vars.push((name, self.new_var(index)));
            }
        }
        Ok(things)
    }

    fn described(&mut self, index: usize) -> Result<Option<DescribedObject>, Error> {
        let Made { at, facing, .. } = self.resolver.object_parts(index, &ids!(self));
        let pose = Pose { at: self.vector(at), facing: self.rotation(facing) };
        let mould = self.mould_of(index)?;
        let object = &self.resolver.names.objects[index];
        let Some(written) = object.written else { return Ok(None) };
        let (name, id, scope) = (object.name.clone(), object.id, object.scope);
        let parent = written.of.as_ref().and_then(|of| self.resolver.parent(Some(of), scope, &ids!(self)));
        let hangs_on = parent.map(|parent| self.resolver.names.objects[parent].id);
        let (disabled, remembered) = (written.disabled, written.remember);
        Ok(Some(DescribedObject { name, id, mould, pose, hangs_on, disabled, remembered }))
    }

    /// What an object or a mould has: tags, parts, signals and variables.
    pub(super) fn mould_of(&mut self, index: usize) -> Result<Mould, Error> {
        let Made { settings, .. } = self.resolver.object_parts(index, &ids!(self));
        let vars = self.resolver.names.objects[index].vars.values().copied();
        let vars: Vec<usize> = vars.filter(|var| self.resolver.names.vars[*var].kept_by.is_none()).collect();
        let vars: Vec<_> = vars.into_iter().map(|var| self.new_var(var)).collect();
        let object = &self.resolver.names.objects[index];
        let mut mould = Mould::new(&object.name).written_at(self.sources.place(object.span));
        let is_mould = object.role == Role::Mould;
        for tag in object.tags.iter().filter(|tag| !(is_mould && **tag == object.name)) {
            mould = mould.tag(tag);
        }
        if object.written.is_some_and(|written| written.body) {
            mould = mould.body();
        }
        for ((_, info), settings) in object.parts.iter().zip(settings) {
            let kind =
                info.kind.ok_or_else(|| unknown("a kind of part that can be made here", &info.name))?;
            mould = mould.part(kind, settings);
        }
        for (name, (fields, _)) in &object.signals {
            mould = mould.signal(name, fields.to_vec());
        }
        Ok(vars.into_iter().fold(mould, Mould::var))
    }

    /// What a text wires, in the order in which it is made.
    pub(super) fn wiring(&mut self) -> Result<Wiring, Error> {
        let mut wiring = Wiring::default();
        for index in self.resolver.routine_order() {
            if self.is_own(self.resolver.names.routines[index].scope) {
                let steps = self.resolver.routine(index, &ids!(self));
                let routine = &self.resolver.names.routines[index];
                let values = u8::try_from(routine.written.fields.len()).unwrap_or(u8::MAX);
                wiring.routines.push((routine.name.clone(), values, steps));
            }
        }
        for index in 0..self.resolver.names.wires.len() {
            let placed = self.resolver.names.wires[index];
            if !self.is_own(placed.scope) {
                continue;
            }
            let Some(plan) = self.resolver.wire(index, &ids!(self)) else { continue };
            let mould = placed.owner.map(|owner| &self.resolver.names.objects[owner]);
            match mould.filter(|owner| owner.role == Role::Mould).map(|mould| mould.name.clone()) {
                Some(mould) => {
                    wiring.of_moulds.entry(mould).or_default().push(plan.new_wire(&ids!(self)));
                }
                None => wiring.wires.push(self.described_wire(plan)?),
            }
        }
        for index in 0..self.resolver.names.objects.len() {
            let object = &self.resolver.names.objects[index];
            if object_is_made(object.role) && self.is_own(object.scope) {
                for plan in self.resolver.part_wires(index, &ids!(self)) {
                    wiring.wires.push(self.described_wire(plan)?);
                }
            }
        }
        for index in 0..self.resolver.names.binds.len() {
            if self.is_own(self.resolver.names.binds[index].scope)
                && let Some(plan) = self.resolver.bind(index, &ids!(self))
            {
                // What cannot be kept since play has ended it is left out.
                if let Ok(kept) = self.kept(&plan.kept) {
                    wiring.binds.push((kept, plan.to, self.sources.place(plan.span)));
                }
            }
        }
        for index in 0..self.resolver.names.rules.len() {
            if self.is_own(self.resolver.names.rules[index].scope)
                && let Some((never, span)) = self.resolver.rule(index, &ids!(self))
            {
                wiring.rules.push((never, self.sources.place(span)));
            }
        }
        self.each_worked_out(|_, part, name, expr| {
            wiring.asked.push((part, name.into(), expr.clone()));
            Ok(())
        })?;
        Ok(wiring)
    }

    fn described_wire(&mut self, plan: WirePlan) -> Result<(NewWire, Option<ObjectId>), Error> {
        self.started_signals(&plan.hears)?;
        let owner = plan.owner.map(|owner| self.resolver.names.objects[owner].id);
        Ok((plan.new_wire(&ids!(self)), owner))
    }

    /// What a bind keeps, by the ids of this world.
    pub(super) fn kept(&mut self, keeps: &Keeps) -> Result<Kept, Error> {
        use crate::resolve::Pose;
        Ok(match keeps {
            Keeps::Var(var) => Kept::Var(self.resolver.names.vars[*var].id),
            Keeps::Each(tag, name) => Kept::Each(self.tag(tag)?, self.world.property_named(name)?),
            Keeps::Pose(Ok(object), pose) => {
                let object = self.resolver.names.objects[*object].id;
                if *pose == Pose::Place { Kept::Place(object) } else { Kept::Facing(object) }
            }
            Keeps::Pose(Err(tag), pose) => {
                let tag = self.tag(tag)?;
                if *pose == Pose::Place { Kept::EachPlace(tag) } else { Kept::EachFacing(tag) }
            }
            Keeps::Setting { object, part, name } => {
                let ids = &self.resolver.names.objects[*object].part_ids;
                let part = ids.get(*part).copied().unwrap_or_default();
                Kept::Setting(part, self.world.setting_of(part, name)?)
            }
        })
    }
}

/// The parts that an object has of those that are written, in the order of the text: of each kind, the first is the first.
pub(super) fn parts_here(world: &stoicheon_core::State, object: &Object<'_>) -> Vec<PartId> {
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    let here = world.parts_of(object.id);
    let nth = |kind: &str, number: usize| {
        let of_kind = |part: &&PartId| world.kind_of(**part).is_some_and(|known| known.name == kind);
        here.iter().filter(of_kind).nth(number).copied().unwrap_or_default()
    };
    let each = object.parts.iter().map(|(_, info)| {
        let count = counts.entry(info.name.as_str()).or_default();
        *count += 1;
        nth(&info.name, *count - 1)
    });
    each.collect()
}
