//! What can be asked of parts, and of who is inside their zones.

use super::State;
use std::any::Any;

use crate::{
    base::{
        clock::{Ticks, ticks},
        error::Error,
        ids::{ObjectId, PartId},
    },
    part::{contract::Part, kind::PartKind},
};

/// The name of a type without where it is.
fn short_name<P>() -> &'static str {
    std::any::type_name::<P>().rsplit("::").next().unwrap_or_default()
}

impl State {
    /// The parts of an object, in the order they were attached.
    pub fn parts_of(&self, object: ObjectId) -> &[PartId] {
        self.moment.objects.get(object).map_or(&[], |object| &object.parts)
    }

    /// A part, to be read.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] when it is gone; [`Error::OtherPart`] when it is of another kind.
    pub fn part<P: Part>(&self, part: PartId) -> Result<&P, Error> {
        let found = self.parts.part(part).ok_or(Error::NoSuchPart)?;
        let any: &dyn Any = found;
        any.downcast_ref().ok_or_else(|| Error::OtherPart {
            kind: found.kind().name,
            object: self.object_of(part).and_then(|object| self.name(object)).unwrap_or_default().into(),
            wanted: short_name::<P>(),
        })
    }

    /// The first part of a kind that an object has, to be read.
    ///
    /// ```
    /// use stoicheon_core::{Door, World, Zone};
    /// let mut world = World::<()>::new();
    /// let gate = world.object("upper_gate").add()?;
    /// world.attach(gate, Door::swing(85.0))?;
    /// assert_eq!(world.part_of::<Door>(gate)?.openness(), 0.0);
    /// let missing = world.part_of::<Zone>(gate).unwrap_err();
    /// assert_eq!(missing.to_string(), "\"upper_gate\" has no Zone: its parts are door");
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`Error::NoPartOfKind`], which says what the object has.
    pub fn part_of<P: Part>(&self, object: ObjectId) -> Result<&P, Error> {
        self.part(self.find_part::<P>(object)?)
    }

    /// The first part of a kind that an object has, to be told something.
    ///
    /// # Errors
    /// As for [`part_of`](Self::part_of).
    pub fn find_part<P: Part>(&self, object: ObjectId) -> Result<PartId, Error> {
        let parts = &self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.parts;
        let of_kind =
            |part: &&PartId| self.parts.part(**part).is_some_and(|part| (part as &dyn Any).is::<P>());
        parts.iter().find(of_kind).copied().ok_or_else(|| {
            let kinds: Vec<_> =
                parts.iter().filter_map(|part| self.kind_of(*part)).map(|kind| kind.name).collect();
            Error::NoPartOfKind {
                object: self.name(object).unwrap_or_default().into(),
                wanted: short_name::<P>(),
                parts: if kinds.is_empty() { "none".to_owned() } else { kinds.join(", ") },
            }
        })
    }

    /// What kind of part it is.
    pub fn kind_of(&self, part: PartId) -> Option<&'static PartKind> {
        let here = self.parts.part(part).map(Part::kind);
        here.or_else(|| self.parts.kind_of_number(self.gone.parts.get(part)?.1))
    }

    /// The object a part belongs to.
    pub fn object_of(&self, part: PartId) -> Option<ObjectId> {
        let here = self.parts.get(part).map(|slot| slot.object);
        here.or_else(|| self.gone.parts.get(part).map(|(object, _)| *object))
    }

    /// The word for the state a part is in, for kinds that have states.
    pub fn state_word(&self, part: PartId) -> Option<&'static str> {
        let part = self.parts.part(part)?;
        part.kind().states.get(usize::from(part.state())).copied()
    }

    /// Who is inside a zone, by object number.
    pub fn inside(&self, zone: PartId) -> impl Iterator<Item = ObjectId> {
        let key = self.parts.get(zone).and_then(|slot| slot.zone);
        let inside = key.into_iter().flat_map(|key| self.moment.tracker.inside(key));
        inside.filter_map(|(body, _)| self.moment.tracker.body(body).copied())
    }

    /// How many are inside a zone.
    pub fn count_inside(&self, zone: PartId) -> usize {
        self.inside(zone).count()
    }

    /// Who has been inside a zone for the longest; of several, the one made first.
    pub fn first_inside(&self, zone: PartId) -> Option<ObjectId> {
        let key = self.parts.get(zone)?.zone?;
        let (body, _) = self.moment.tracker.inside(key).min_by_key(|(_, since)| *since)?;
        self.moment.tracker.body(body).copied()
    }

    /// For how long a body has been inside a zone; `None` if it is not.
    pub fn inside_for(&self, body: ObjectId, zone: PartId) -> Option<Ticks> {
        let key = self.parts.get(zone)?.zone?;
        let body = self.moment.objects.get(body)?.body.as_ref()?.key;
        let since = self.moment.tracker.inside_since(key, body)?;
        Some(ticks(self.now().0.saturating_sub(since)))
    }

    /// Whether a body is inside a zone.
    pub fn is_inside(&self, body: ObjectId, zone: PartId) -> bool {
        self.inside_for(body, zone).is_some()
    }

    /// Whether an object cannot be seen, since one of its parts says so. The host asks before it shows it.
    pub fn is_hidden(&self, object: ObjectId) -> bool {
        self.parts_of(object).iter().any(|part| self.parts.part(*part).is_some_and(Part::hides))
    }

    /// Whether an object is in nobody's way, since one of its parts says so: rays go through it, and so the host lets
    /// bodies do.
    pub fn is_passable(&self, object: ObjectId) -> bool {
        self.parts_of(object).iter().any(|part| self.parts.part(*part).is_some_and(Part::lets_through))
    }
}
