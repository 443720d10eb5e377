//! Moulds that are written otherwise, with what was made of them.

use std::sync::Arc;

use crate::{
    base::{
        error::Error,
        ids::{MouldId, ObjectId},
        names::PLAYER,
        place::Place,
    },
    part::mould::Mould,
    plan::patterns::NewWire,
    state::State,
    world::rewire::{
        Rewiring,
        report::{Became, Change},
    },
};

impl<G: 'static> Rewiring<'_, G> {
    /// A mould is written otherwise: what was made of it changes as if it were written so itself, and what is made from now on is
    /// made of the new one.
    ///
    /// # Errors
    /// [`Error::NoSuchMould`]; as for [`change_object`](Self::change_object).
    pub fn change_mould(&mut self, id: MouldId, before: &Mould, after: &Mould) -> Result<(), Error> {
        if before.is_as(after) {
            return self.world.state.put_mould(id, after);
        }
        self.doing();
        self.world.state.put_mould(id, after)?;
        let told = self.rewired.changes.len();
        for object in self.world.state.made_of_mould(&after.name) {
            self.change_object(object, before, after)?;
        }
        self.tell_mould(&after.name, after.place.clone(), told);
        Ok(())
    }

    /// The wires of a mould are written otherwise, for what was made of it, too.
    ///
    /// # Errors
    /// [`Error::NoSuchMould`]; as for [`change_wires`](Self::change_wires).
    pub fn change_mould_wires(
        &mut self,
        id: MouldId,
        before: &[NewWire],
        after: &[NewWire],
    ) -> Result<(), Error> {
        let known = self.world.state.plan.moulds.get_index(id.0 as usize);
        let (name, mould) = known.ok_or(Error::NoSuchMould)?;
        let (name, place) = (name.clone(), mould.place.clone());
        self.world.wire_mould(id, after)?;
        let told = self.rewired.changes.len();
        for object in self.world.state.made_of_mould(&name) {
            let own = |wires: &[NewWire]| -> Vec<_> {
                wires.iter().map(|wire| (wire.clone(), Some(object))).collect()
            };
            self.change_wires(self.world.state.scene_of(object), &own(before), &own(after))?;
        }
        if before != after {
            self.doing();
            self.tell_mould(&name, place, told);
        }
        Ok(())
    }

    /// One line for a mould stands for all that were made of it.
    fn tell_mould(&mut self, name: &str, place: Option<Place>, since: usize) {
        let became = self.untell(since);
        let waits = |change: &Change| match change.became {
            Became::Again { waits } | Became::Gone { waits } => waits,
            _ => 0,
        };
        let waits = became.iter().map(waits).sum();
        let became = if waits == 0 { Became::Changed } else { Became::Again { waits } };
        self.tell("mould", name, became, place);
    }

    /// Ends a mould, and what was made of it; players stay without it.
    ///
    /// # Errors
    /// [`Error::NoSuchMould`].
    pub fn end_mould(&mut self, id: MouldId) -> Result<(), Error> {
        let known = self.world.state.plan.moulds.get_index(id.0 as usize);
        let (name, mould) = known.ok_or(Error::NoSuchMould)?;
        let (name, mould) = (name.clone(), mould.clone());
        let doing = self.doing();
        let empty = Mould::new(&name);
        self.world.state.put_mould(id, &empty)?;
        self.world.wire_mould(id, [])?;
        let told = self.rewired.changes.len();
        for object in self.world.state.made_of_mould(&name) {
            if name == PLAYER {
                let known = self.world.state.kinds_of(&mould);
                self.change_object(object, &known, &empty)?;
            } else {
                self.world.state.destroy(object, doing)?;
            }
        }
        self.untell(told);
        self.tell("mould", name, Became::Gone { waits: 0 }, mould.place.clone());
        Ok(())
    }
}

impl Mould {
    /// Whether it is described alike, wherever it is written.
    pub fn is_as(&self, other: &Self) -> bool {
        let of = |mould: &Self| (mould.tags.clone(), mould.body, mould.vars.clone());
        of(self) == of(other) && self.parts == other.parts && self.signals == other.signals
    }
}

impl State {
    /// Puts a mould in the place of another of its name. Its wires are given to it next.
    fn put_mould(&mut self, id: MouldId, mould: &Mould) -> Result<(), Error> {
        let (name, _) = self.plan.moulds.get_index(id.0 as usize).ok_or(Error::NoSuchMould)?;
        let name = name.clone();
        for (kind, (_, settings)) in mould.kinds.iter().zip(&mould.parts) {
            (kind.build)(settings, self.rate())?;
            self.parts.number_kind(kind);
        }
        let wires = self.plan.moulds.get(&name).map(|mould| mould.wires.clone()).unwrap_or_default();
        self.plan.edit().moulds.edit().insert(name, Arc::new(Mould { wires, ..mould.clone() }));
        Ok(())
    }

    /// The same mould with its kinds, which are not in data.
    fn kinds_of(&self, mould: &Mould) -> Mould {
        let kinds = mould.parts.iter().filter_map(|(name, _)| self.parts.kind_named(name)).collect();
        Mould { kinds, ..mould.clone() }
    }

    /// What was made after a mould and is here, by number.
    fn made_of_mould(&self, name: &str) -> Vec<ObjectId> {
        if name == PLAYER {
            return self.players().collect();
        }
        let Some(tag) = self.moment.objects.find_tag(name) else { return Vec::new() };
        let numbered = |object: &ObjectId| {
            let rest = self.name(*object).and_then(|whole| whole.strip_prefix(name)?.strip_prefix('_'));
            rest.is_some_and(|rest| !rest.is_empty() && rest.bytes().all(|byte| byte.is_ascii_digit()))
        };
        self.moment.objects.tagged(tag).filter(numbered).collect()
    }
}
