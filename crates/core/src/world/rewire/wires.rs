//! Wires that are written otherwise: what is the same goes on, with all that waits in it.

use std::{
    cell::Cell,
    collections::{BTreeMap, BTreeSet},
};

use smol_str::SmolStr;

use crate::{
    act::scope::{Own, Scope},
    base::{
        error::Error,
        ids::{ObjectId, SceneId, Tags, WireId},
        names::path,
        place::Place,
        value::Value,
    },
    plan::{
        patterns::{Hears, NewWire, Pattern},
        wires::{Guard, Source, Wire},
    },
    state::State,
    world::rewire::{Rewiring, report::Became},
};

/// A wire as it is written, compiled, and whose it is.
struct Written {
    pattern: Pattern,
    owner: Option<ObjectId>,
    /// The one in the world that was made of it.
    wire: Option<WireId>,
    /// It speaks of nothing that play has ended.
    whole: bool,
    /// It is written still, or was before.
    matched: bool,
}

/// Where wires are written, and whose they are.
type Standing = (Option<ObjectId>, (SmolStr, u32));

/// What wires have in common that may be the same: whose they are and what they hear.
type Likeness = (Option<ObjectId>, String);

impl Written {
    fn likeness(&self) -> Likeness {
        (self.owner, format!("{:?}", self.pattern.hears))
    }
}

impl<G: 'static> Rewiring<'_, G> {
    /// Wires were written like that, in that order, and are written like this: each with its owner. What is the same goes on
    /// with all that waits in it, what is not begins again, and the order of all of them is that of the text. Those that play has
    /// cut stay cut. What a statement has wired stays as it was made.
    ///
    /// # Errors
    /// What [`World::wire`](crate::World::wire) says, but for wires on what play has ended: those are left out.
    pub fn change_wires(
        &mut self,
        scene: Option<SceneId>,
        before: &[(NewWire, Option<ObjectId>)],
        after: &[(NewWire, Option<ObjectId>)],
    ) -> Result<(), Error> {
        let mut was = self.written(before)?;
        let mut is = self.written(after)?;
        self.world.state.find_written(&mut was);
        let mut alike: BTreeMap<Likeness, Vec<usize>> = BTreeMap::new();
        for (index, written) in was.iter().enumerate().rev() {
            alike.entry(written.likeness()).or_default().push(index);
        }
        let first = was
            .iter()
            .filter_map(|written| written.wire)
            .map(|wire| self.world.state.moment.wires.rank(wire).1)
            .min();
        for (new, (written, _)) in is.iter_mut().zip(after) {
            let Some(old) = alike.get_mut(&new.likeness()) else { continue };
            let same = |old: &usize| before[*old].0 == *written;
            let Some(at) = old.iter().rposition(same) else { continue };
            let old = &mut was[old.remove(at)];
            (old.matched, new.matched, new.wire) = (true, true, old.wire);
            if let Some(wire) = new.wire {
                self.world.state.rewrite(wire, &new.pattern, old.whole);
                self.rewired.kept.wires += 1;
            }
        }
        let comes_again: BTreeSet<_> = is.iter().filter(|new| !new.matched).map(Written::likeness).collect();
        let mut replaced: BTreeMap<Likeness, (usize, usize)> = BTreeMap::new();
        for old in was.iter().filter(|old| !old.matched) {
            let Some(wire) = old.wire else { continue };
            let waits = self.world.state.moment.wires.now(wire).map_or(0, |now| now.runs.len());
            if comes_again.contains(&old.likeness()) {
                let (wires, all) = replaced.entry(old.likeness()).or_default();
                (*wires, *all) = (*wires + 1, *all + waits);
            } else {
                let name = self.world.state.name_of_source(wire);
                self.doing();
                self.tell("wire", name, Became::Gone { waits }, Some(old.pattern.place.clone()));
            }
            let doing = self.doing();
            self.world.state.cut_now(wire, doing);
        }
        let current = std::mem::replace(&mut self.world.state.moment.scenes.current, scene);
        let mut made = Ok(());
        for (new, (written, owner)) in is.iter_mut().zip(after).filter(|(new, _)| !new.matched) {
            self.doing();
            match self.world.state.wire(written, *owner) {
                Ok(wire) => {
                    new.wire = Some(wire);
                    let became = match replaced.get_mut(&new.likeness()) {
                        Some((wires, waits)) if *wires > 0 => {
                            *wires -= 1;
                            Became::Again { waits: std::mem::take(waits) }
                        }
                        _ => Became::New,
                    };
                    let name = self.world.state.name_of_source(wire);
                    self.tell("wire", name, became, Some(written.place.clone()));
                }
                // The text is good; what it speaks of has been ended by play.
                Err(
                    error @ (Error::NoSuchObject
                    | Error::NoSuchSignal(_)
                    | Error::NoSignalOfName { .. }
                    | Error::NoSuchPart
                    | Error::NobodyThere),
                ) => {
                    let reason = error.to_string().into();
                    self.tell("wire", "", Became::LeftOut { reason }, Some(written.place.clone()));
                }
                Err(error) => {
                    made = Err(error);
                    break;
                }
            }
        }
        self.world.state.moment.scenes.current = current;
        made?;
        let order: Vec<_> = is.iter().filter_map(|written| written.wire).collect();
        let made = is.iter().any(|new| !new.matched && new.wire.is_some());
        if let Some(first) = first {
            self.world.state.reorder(&order, first, made);
        }
        Ok(())
    }

    fn written(&mut self, wires: &[(NewWire, Option<ObjectId>)]) -> Result<Vec<Written>, Error> {
        let compiled = wires.iter().map(|(wire, owner)| {
            let pattern = match self.world.state.pattern(wire) {
                // It says something to what play has ended.
                Err(Error::NoSuchPart | Error::NoSuchObject | Error::NoSuchSignal(_)) => {
                    self.world.state.pattern(&wire.clone().run([]))?
                }
                pattern => pattern?,
            };
            Ok(Written { pattern, owner: *owner, wire: None, whole: false, matched: false })
        });
        compiled.collect()
    }
}

impl State {
    /// Finds the wires that were made of what is written, each once, in the order they were made.
    fn find_written(&self, all: &mut [Written]) {
        let key = |place: &Place| (place.file.clone(), place.line);
        let mut here: BTreeMap<Standing, Vec<WireId>> = BTreeMap::new();
        let mut note = |id: WireId, wire: &Wire| {
            here.entry((wire.owner, key(&wire.place))).or_default().push(id);
        };
        if all.iter().any(|written| written.owner.is_none()) {
            self.moment
                .wires
                .iter()
                .filter(|(_, wire)| wire.owner.is_none())
                .for_each(|(id, wire)| note(id, wire));
        }
        let mut owners: Vec<_> = all.iter().filter_map(|written| written.owner).collect();
        owners.sort_unstable();
        owners.dedup();
        for owner in owners.into_iter().filter_map(|owner| self.moment.objects.get(owner)) {
            for id in &owner.wires {
                self.moment.wires.get(*id).into_iter().for_each(|wire| note(*id, wire));
            }
        }
        here.values_mut().for_each(|wires| wires.sort_by_key(|wire| self.moment.wires.rank(*wire).1));
        // What speaks of things that play has ended is known by what it hears.
        for whole in [true, false] {
            for written in all.iter_mut().filter(|written| written.wire.is_none()) {
                let Some(wires) = here.get_mut(&(written.owner, key(&written.pattern.place))) else {
                    continue;
                };
                let is_made_of = |wire: &WireId| {
                    self.hears_as(*wire, &written.pattern, written.owner)
                        && (!whole || self.is_made_of_pattern(*wire, &written.pattern))
                };
                if let Some(at) = wires.iter().position(is_made_of) {
                    (written.wire, written.whole) = (Some(wires.remove(at)), whole);
                }
            }
        }
    }

    /// Whether a wire that was not cut, and that no statement has made, hears what a description says.
    fn hears_as(&self, id: WireId, pattern: &Pattern, owner: Option<ObjectId>) -> bool {
        let Some((_, wire)) = self.moment.wires.alive(id).filter(|(_, wire)| wire.kept.is_none()) else {
            return false;
        };
        match (&wire.source, &pattern.hears) {
            (Source::One(signal), Hears::One(other)) => signal == other,
            (Source::One(signal), Hears::Of(object, name)) => {
                let eval_fault = Cell::new(None);
                let own = owner.map_or(Own::Nobody, Own::Is);
                let object = Scope { own, ..Scope::of(self, &eval_fault) }.value(object);
                let of = if let Value::Object(object) = object { self.name(object) } else { None };
                of.and_then(|of| self.bus.signals.find(&path(of, name))) == Some(*signal)
            }
            (Source::Every { tag, name, .. }, Hears::Every(other, other_name)) => {
                tag == other && name == other_name
            }
            _ => false,
        }
    }

    /// Whether the rest of a wire is what a description makes.
    fn is_made_of_pattern(&self, id: WireId, pattern: &Pattern) -> bool {
        let Some(wire) = self.moment.wires.get(id) else { return false };
        let filter: Option<Tags> =
            pattern.filter.iter().map(|tag| self.moment.objects.find_tag(tag)).collect();
        let guard = pattern.guard.clone().map_or(Guard::None, Guard::Data);
        let (during, guard) = match &pattern.during {
            Some((part, stage)) => match self.stage_of(*part, stage) {
                Ok(var) => (Some((var, stage.clone())), self.guard_of_stage(var, stage, guard).ok()),
                Err(_) => return false,
            },
            None => (None, Some(guard)),
        };
        let guarded = match (&guard, &wire.guard) {
            (Some(Guard::None), Guard::None) => true,
            (Some(Guard::Data(one)), Guard::Data(other)) => one == other,
            _ => false,
        };
        guarded
            && filter.as_ref() == Some(&wire.filter)
            && during == wire.during
            && (wire.order, wire.times, wire.cooldown, wire.delay, wire.running)
                == (pattern.order, pattern.times, pattern.cooldown, pattern.delay, pattern.running)
            && wire.ops.as_deref() == Some(&*pattern.ops)
    }

    /// A wire that is the same as ever is written elsewhere now, or what it wires itself is.
    fn rewrite(&mut self, id: WireId, pattern: &Pattern, whole: bool) {
        if let Some(wire) = self.moment.wires.get_mut(id) {
            wire.place = pattern.place.clone();
            if whole {
                wire.ops = Some(pattern.ops.clone());
            }
        }
    }

    /// The signal a wire hears, by name.
    fn name_of_source(&self, id: WireId) -> SmolStr {
        match self.moment.wires.get(id).map(|wire| &wire.source) {
            Some(Source::One(signal)) => self.signal_name(*signal).unwrap_or_default().into(),
            Some(Source::Every { tag, name, .. }) => {
                let of = tag.map_or("object", |tag| self.moment.objects.tag_word(tag));
                smol_str::format_smolstr!("every {of}.{name}")
            }
            None => SmolStr::default(),
        }
    }

    /// Lets wires come in that order where the first of them was, before all that was made after it.
    fn reorder(&mut self, order: &[WireId], first: u64, made: bool) {
        let numbers = order.iter().map(|wire| self.moment.wires.rank(*wire).1);
        let in_order = numbers.clone().zip(numbers.skip(1)).all(|(one, next)| one < next);
        if in_order && !made {
            return;
        }
        self.moment.wires.reorder(order, first);
        for wire in order {
            let signals = self.moment.wires.get(*wire).map_or(&[][..], |wire| wire.source.signals());
            for signal in signals {
                if let Some(lane) = self.bus.signals.lane_mut(*signal) {
                    lane.stale = true;
                }
            }
        }
    }
}
