//! Binds: variables kept equal to an expression, for as long as the world runs.
//!
//! A bind is looked at only when something it reads has changed. Binds that read what others keep come after those:
//! each has a rank, and a circle of binds cannot be made.

use std::collections::{BTreeMap, BTreeSet};

use crate::{
    act::{nearby::Nearby, scope::Scope},
    base::{
        doing::Doing,
        error::{BuildError, Error},
        ids::{BindId, ObjectId, PropertyName, RecordId, SceneId, Tag, VarId},
        payload::type_word,
        place::Place,
    },
    moment::{
        scenes::ListPlaces,
        vars::Vars,
        watches::{Stale, Watcher},
    },
    plan::{
        binds::{Bind, Kept},
        expr::Expr,
        reads::Read,
    },
    state::State,
    trace::record::Event,
};

impl State {
    /// Makes a bind. Nothing is changed when it cannot be.
    pub(crate) fn bind(&mut self, kept: Kept, to: Expr, place: Place) -> Result<BindId, Error> {
        if to.is_random() {
            return Err(Error::Build(BuildError::RandomBind { place }));
        }
        for var in self.kept_vars(kept) {
            let var = self.moment.vars.var(var).ok_or(Error::NoSuchVar)?;
            if let Some(part) = var.part {
                let kind = self.kind_of(part).map_or("part", |kind| kind.name);
                return Err(Error::KeptByPart { name: var.name.clone(), kind });
            }
            // One that has ended keeps nothing: what was taken along outlives the binds of its scene.
            if let Some(other) =
                var.bound.and_then(|other| self.plan.binds.get(other.0 as usize)).filter(|b| !b.ended)
            {
                let other = other.place.clone();
                return Err(Error::Build(BuildError::BoundTwice {
                    name: var.name.clone(),
                    first: other,
                    second: place,
                }));
            }
        }
        self.check_kept(kept)?;
        if let Some(other) = self.plan.kept_things.get(&kept) {
            let other = self.plan.binds.get(other.0 as usize).filter(|bind| !bind.ended);
            if let Some(first) = other.map(|bind| bind.place.clone()) {
                let name = self.kept_name(kept).into();
                return Err(Error::Build(BuildError::BoundTwice { name, first, second: place }));
            }
        }
        let scene = self.moment.scenes.current;
        let bind = Bind { kept, to, place, scene, rank: 0, ended: false };
        let places = self.moment.scenes.current_mut().map(|scene| &mut scene.binds);
        let id = BindId(ListPlaces::put(places, self.plan.edit().binds.edit(), bind));
        self.set_keeper(id, kept, Some(id));
        if let Some(way) = self.find_circle(id) {
            let circle = self.circle(&way);
            self.set_keeper(id, kept, None);
            self.plan.edit().binds.edit()[id.0 as usize].ended = true;
            return Err(circle);
        }
        self.plan.edit().binds_unranked = true;
        let reads: Vec<_> = self.plan.binds[id.0 as usize].reads().collect();
        self.bus.watches.watch(Watcher::Bind(id), reads);
        self.bus.watches.stale_binds.insert(id, Stale::default());
        Ok(id)
    }

    fn set_keeper(&mut self, id: BindId, kept: Kept, keeper: Option<BindId>) {
        if !matches!(kept, Kept::Var(_) | Kept::Each(..)) {
            let things = self.plan.edit().kept_things.edit();
            match keeper {
                Some(_) => _ = things.insert(kept, id),
                None => _ = things.remove(&kept),
            }
            return;
        }
        let mut names = BTreeSet::new();
        if let Kept::Each(_, name) = kept {
            names.insert(name);
        }
        for var in self.kept_vars(kept) {
            if let Some(var) = self.moment.vars.var_mut(var) {
                var.bound = keeper;
                names.extend(var.property);
            }
        }
        for name in names {
            let binds = self.plan.edit().bind_names.edit().entry(name).or_default();
            binds.retain(|other| *other != id);
            binds.extend(keeper);
        }
    }

    fn kept_vars(&self, kept: Kept) -> Vec<VarId> {
        match kept {
            Kept::Var(var) => vec![var],
            Kept::Each(tag, name) => {
                let objects =
                    self.moment.objects.tagged(tag).filter_map(|object| self.moment.objects.get(object));
                objects.filter_map(|object| object.property(name)).collect()
            }
            _ => Vec::new(),
        }
    }

    /// The binds that keep something a bind reads.
    fn binds_before(&self, bind: BindId) -> Vec<BindId> {
        let Some(bind) = self.plan.binds.get(bind.0 as usize) else { return Vec::new() };
        let (mut vars, mut names) = (Vec::new(), Vec::new());
        bind.to.variables(&mut vars, &mut names);
        let keepers = vars.iter().filter_map(|var| self.moment.vars.var(*var)?.bound);
        let by_name = names.iter().filter_map(|name| self.plan.bind_names.get(name)).flatten().copied();
        let mut things = Vec::new();
        self.things_read(&bind.to, &mut things);
        let of_things = things.iter().filter_map(|thing| self.plan.kept_things.get(thing)).copied();
        keepers.chain(by_name).chain(of_things).collect()
    }

    /// The way from a bind back to itself, if there is one.
    fn find_circle(&self, start: BindId) -> Option<Vec<BindId>> {
        let mut seen = BTreeSet::new();
        let mut way = vec![(start, self.binds_before(start))];
        while let Some((_, before)) = way.last_mut() {
            match before.pop() {
                Some(next) if next == start => {
                    return Some(way.iter().map(|(bind, _)| *bind).chain([start]).collect());
                }
                Some(next) => {
                    if seen.insert(next) {
                        way.push((next, self.binds_before(next)));
                    }
                }
                None => {
                    way.pop();
                }
            }
        }
        None
    }

    /// Whether all binds that are spoken of are there. Data from outside may be damaged.
    pub(crate) fn are_sound(
        binds: &[Bind],
        names: &BTreeMap<PropertyName, Vec<BindId>>,
        vars: &Vars,
    ) -> bool {
        let known = |id: &BindId| (id.0 as usize) < binds.len();
        names.values().flatten().all(known) && vars.iter().all(|(_, var)| var.bound.iter().all(known))
    }

    fn circle(&self, way: &[BindId]) -> Error {
        let name = |id: &BindId| {
            let bind = &self.plan.binds[id.0 as usize];
            format!("{} ({})", self.kept_name(bind.kept), bind.place)
        };
        Error::Build(BuildError::BindCircle { circle: way.iter().rev().map(name).collect() })
    }

    /// What a bind keeps, as wiring names it.
    pub(crate) fn kept_name(&self, kept: Kept) -> String {
        let object = |object| self.name(object).unwrap_or("?");
        match kept {
            Kept::Var(var) => self.moment.vars.var(var).map_or("?", |var| var.name.as_str()).to_owned(),
            Kept::Each(tag, name) => {
                format!(
                    "each {}.{}",
                    self.moment.objects.tag_word(tag),
                    self.moment.objects.property_word(name)
                )
            }
            Kept::Place(of) => format!("{}.place", object(of)),
            Kept::Facing(of) => format!("{}.facing", object(of)),
            Kept::EachPlace(tag) => format!("each {}.place", self.moment.objects.tag_word(tag)),
            Kept::EachFacing(tag) => format!("each {}.facing", self.moment.objects.tag_word(tag)),
            Kept::Setting(part, setting) => {
                let of = self.object_of(part).map_or("?", object);
                let kind = self.kind_of(part).map_or("?", |kind| kind.name);
                format!("{of}.{kind}.{}", self.setting_name(part, setting).unwrap_or("?"))
            }
        }
    }

    /// Gives every bind a rank above those of the binds it reads from.
    fn rank_binds(&mut self) {
        self.plan.edit().binds_unranked = false;
        let mut ranks: Vec<Option<u32>> = vec![None; self.plan.binds.len()];
        let mut next = 0;
        for index in 0..self.plan.binds.len() {
            let mut open = vec![BindId(u32::try_from(index).unwrap_or(u32::MAX))];
            while let Some(id) = open.last().copied() {
                if ranks[id.0 as usize].is_some() {
                    open.pop();
                    continue;
                }
                let waits = |id: &BindId| ranks.get(id.0 as usize).is_some_and(Option::is_none);
                // The length keeps this from going on for ever on damaged data.
                match self.binds_before(id).into_iter().find(waits).filter(|_| open.len() <= ranks.len()) {
                    Some(before) => open.push(before),
                    None => {
                        ranks[id.0 as usize] = Some(next);
                        next += 1;
                        open.pop();
                    }
                }
            }
        }
        for (bind, rank) in self.plan.edit().binds.edit().iter_mut().zip(ranks) {
            bind.rank = rank.unwrap_or_default();
        }
    }

    /// Brings every bind up to date that reads something that has changed.
    #[inline]
    pub(crate) fn update_binds(&mut self) {
        if self.plan.binds_unranked {
            self.rank_binds();
        }
        if !self.bus.watches.stale_binds.is_empty() {
            self.update_stale_binds();
        }
    }

    #[cold]
    fn update_stale_binds(&mut self) {
        // By rank; what a bind changes makes only binds of a higher rank stale.
        let mut open: BTreeMap<(u32, BindId), Stale> = BTreeMap::new();
        // What is no variable is kept once in a round: two that chase each other go one step with each.
        let mut kept_now: BTreeSet<BindId> = BTreeSet::new();
        let mut later: BTreeMap<BindId, Stale> = BTreeMap::new();
        loop {
            for (id, stale) in std::mem::take(&mut self.bus.watches.stale_binds) {
                let rank = self.plan.binds.get(id.0 as usize).map_or(u32::MAX, |bind| bind.rank);
                open.entry((rank, id)).or_insert_with(Stale::nothing).and(stale);
            }
            let Some(((_, id), stale)) = open.pop_first() else {
                self.bus.watches.stale_binds = later;
                return;
            };
            let Some(bind) = self.plan.binds.get(id.0 as usize).filter(|bind| !bind.ended) else { continue };
            let (kept, to) = (bind.kept, bind.to.clone());
            if !matches!(kept, Kept::Var(_) | Kept::Each(..)) && !kept_now.insert(id) {
                later.entry(id).or_insert_with(Stale::nothing).and(stale);
                continue;
            }
            match kept {
                Kept::Var(var) => self.keep(id, var, None, &to, stale.cause, None),
                _ => match kept.thing() {
                    Some(thing) => self.keep_thing(id, thing, None, (&to, stale.cause), None),
                    None => self.keep_each(id, &stale),
                },
            }
        }
    }

    /// Lets a variable hold what a bind gives.
    pub(crate) fn keep(
        &mut self,
        id: BindId,
        var: VarId,
        it: Option<ObjectId>,
        to: &Expr,
        cause: Option<RecordId>,
        nearby: Option<&Nearby>,
    ) {
        let eval_fault = std::cell::Cell::new(None);
        let value = Scope { it, nearby, ..Scope::of(self, &eval_fault) }.value(to);
        self.note_eval_fault(eval_fault.get(), cause);
        let Some(known) = self.moment.vars.var(var) else { return };
        let found = type_word(&value);
        let Ok(value) = self.moment.vars.check(var, value) else {
            let (name, object) = (known.name.clone(), known.of);
            let place = &self.plan.binds[id.0 as usize].place;
            let message = format!("{name} is not kept: the bind at {place} gives {found}");
            let doing = Doing { cause, ..Doing::default() };
            return self.note_fault(message.into(), crate::base::names::name_hash(&name), object, doing);
        };
        if known.value == value {
            return;
        }
        let hash = known.hash;
        if let Ok((from, _)) = self.moment.vars.set(var, None, value.clone()) {
            let event = Event::Kept { bind: id, var, from, to: value };
            let record = self.bus.trace.note(cause, hash, event);
            self.bus.watches.changed(Read::Var(var), record);
        }
    }

    /// Ends a bind: what it kept stays as it is.
    pub(crate) fn end_bind(&mut self, id: BindId) {
        let Some(bind) = self.plan.binds.get(id.0 as usize).filter(|bind| !bind.ended) else { return };
        let (kept, reads) = (bind.kept, bind.reads().collect::<Vec<_>>());
        self.plan.edit().binds.edit()[id.0 as usize].ended = true;
        self.set_keeper(id, kept, None);
        self.bus.watches.forget(Watcher::Bind(id), reads);
        self.scratch.members.remove(&id);
        self.plan.edit().binds_unranked = true;
    }

    /// The binds of a scene end with it.
    pub(crate) fn end_binds(&mut self, scene: SceneId) {
        for index in 0..self.plan.binds.len() {
            let bind = &self.plan.binds[index];
            if bind.scene == Some(scene) && !bind.ended {
                self.plan.edit().binds.edit()[index].ended = true;
                let id = BindId(u32::try_from(index).unwrap_or(u32::MAX));
                let reads: Vec<_> = self.plan.binds[index].reads().collect();
                self.bus.watches.forget(Watcher::Bind(id), reads);
                self.scratch.members.remove(&id);
            }
        }
    }

    /// What a bind keeps, the expression, and where it was written.
    pub fn bound(&self, bind: BindId) -> Option<(Kept, &Expr, &Place)> {
        self.plan.binds.get(bind.0 as usize).map(|bind| (bind.kept, &bind.to, &bind.place))
    }

    /// The bind that keeps something, also as one of a group.
    pub fn bind_of(&self, kept: Kept) -> Option<BindId> {
        if let Kept::Var(var) = kept {
            return self.moment.vars.var(var).and_then(|var| var.bound);
        }
        let keeps = |bind: &Bind| {
            let of_group = |tag: Tag, object: ObjectId| {
                self.moment.objects.get(object).is_some_and(|object| object.tags.contains(&tag))
            };
            let same = match (bind.kept, kept) {
                (Kept::EachPlace(tag), Kept::Place(object))
                | (Kept::EachFacing(tag), Kept::Facing(object)) => of_group(tag, object),
                (one, other) => one == other,
            };
            same && !bind.ended
        };
        let index = self.plan.binds.iter().position(keeps)?;
        u32::try_from(index).ok().map(BindId)
    }

    /// An object came by a variable, or a group by an object: a bind for each of the group keeps it.
    pub(crate) fn adopt_by_binds(&mut self, var: VarId, object: ObjectId, name: PropertyName) {
        let tags = self.moment.objects.get(object).map(|object| object.tags.clone()).unwrap_or_default();
        let keeps =
            |bind: &Bind| matches!(bind.kept, Kept::Each(tag, kept) if kept == name && tags.contains(&tag));
        let keeper = self.plan.binds.iter().position(|bind| !bind.ended && keeps(bind));
        if let (Some(index), Some(var)) = (keeper, self.moment.vars.var_mut(var)) {
            let bind = BindId(u32::try_from(index).unwrap_or(u32::MAX));
            var.bound = Some(bind);
            self.bus.watches.changed_for(bind, Read::Object(object));
        }
    }

    /// Refuses to set what a bind keeps.
    pub(crate) fn check_free(&self, var: VarId) -> Result<(), Error> {
        let known = self.moment.vars.var(var).ok_or(Error::NoSuchVar)?;
        if let Some(part) = known.part {
            let kind = self.kind_of(part).map_or("part", |kind| kind.name);
            return Err(Error::KeptByPart { name: known.name.clone(), kind });
        }
        match known.bound.and_then(|bind| self.plan.binds.get(bind.0 as usize)).filter(|bind| !bind.ended) {
            Some(bind) => Err(Error::Bound { name: known.name.clone(), place: bind.place.clone() }),
            None => Ok(()),
        }
    }
}
