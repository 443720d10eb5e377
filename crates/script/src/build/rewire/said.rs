//! What a text says by names: for what it says no more, and for where it is written.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use stoicheon_core::{Field, Place, SmolStr};

use crate::{
    build::Builder,
    resolve::{Message, OWN_SIGNALS, Role},
};

/// What an object can be.
const OBJECTS: [&str; 4] = ["object", "body", "manager", "manager and body"];

/// What a text says by names.
pub(super) struct Said {
    /// The things that it makes, by what they are. What something is does not change while it is there.
    pub(super) things: BTreeSet<(&'static str, SmolStr)>,
    pub(super) signals: BTreeMap<SmolStr, Arc<[Field]>>,
    pub(super) effects: BTreeMap<SmolStr, Arc<[Field]>>,
    /// Where what has a name is written, with what it is.
    places: BTreeMap<SmolStr, Vec<(&'static str, Place)>>,
}

impl Said {
    pub(super) fn place(&self, what: &str, name: &str) -> Option<Place> {
        let all = self.places.get(name).map_or(&[][..], Vec::as_slice);
        all.iter().find(|(other, _)| *other == what).map(|(_, place)| place.clone())
    }

    /// Whether it makes or declares something that another text does not.
    pub(super) fn has_more_than(&self, other: &Self) -> bool {
        !self.things.is_subset(&other.things)
            || self.effects.keys().any(|effect| !other.effects.contains_key(effect))
    }

    /// Whether an object of that name is made.
    pub(super) fn makes(&self, name: &SmolStr) -> bool {
        OBJECTS.iter().any(|what| self.things.contains(&(what, name.clone())))
    }
}

fn is_declared(signal: &Message) -> bool {
    let own = signal.name.rsplit('.').next().is_some_and(|last| OWN_SIGNALS.contains(&last));
    !(own && signal.span.is_none())
}

impl<G: 'static> Builder<'_, '_, '_, G> {
    pub(super) fn said(&self) -> Said {
        let names = &self.resolver.names;
        let (mut things, mut places) = (BTreeSet::new(), BTreeMap::new());
        let mut note = |what: &'static str, name: &SmolStr, span| {
            places.entry(name.clone()).or_insert_with(Vec::new).push((what, self.sources.place(span)));
        };
        for object in names.objects.iter().filter(|object| self.is_own(object.scope)) {
            let is_body = object.written.is_some_and(|written| written.body)
                || object.parts.iter().any(|(_, info)| info.name == "body");
            let what = match (object.role, is_body) {
                (Role::Object, false) => "object",
                (Role::Object, true) => "body",
                (Role::Manager, false) => "manager",
                (Role::Manager, true) => "manager and body",
                (Role::Mould, _) => "mould",
                (Role::Foreign, _) => continue,
            };
            things.insert((what, object.name.clone()));
            note("object", &object.name, object.span);
        }
        for spot in names.spots.iter().filter(|spot| self.is_own(spot.scope)) {
            things.insert(("spot", spot.name.clone()));
            note("spot", &spot.name, spot.written.name.span);
        }
        for routine in names.routines.iter().filter(|routine| self.is_own(routine.scope)) {
            things.insert(("routine", routine.name.clone()));
            note("routine", &routine.name, routine.written.name.span);
        }
        for var in names.vars.iter().filter(|var| self.is_own(var.scope)) {
            if var.object.is_none() {
                things.insert(("variable", var.name.clone()));
            }
            note("variable", &var.name, var.span);
        }
        for signal in names.signals.iter().filter(|signal| is_declared(signal)) {
            things.insert(("signal", signal.name.clone()));
        }
        let messages = [("signal", &names.signals), ("effect", &names.effects)];
        for (what, message) in
            messages.into_iter().flat_map(|(what, all)| all.iter().map(move |it| (what, it)))
        {
            if let Some(span) = message.span {
                note(what, &message.name, span);
            }
        }
        let fields = |all: &[Message]| all.iter().map(|it| (it.name.clone(), it.fields.clone())).collect();
        Said { things, signals: fields(&names.signals), effects: fields(&names.effects), places }
    }
}
