//! Moulds: objects that are described now and made while the world runs.

use std::sync::Arc;

use glam::Vec3;
use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::{SmolStr, format_smolstr};

use crate::{
    bus::Doing,
    error::Error,
    object::{ObjectId, PLAYER},
    part::{PartKind, Settings},
    payload::Field,
    signal::check_name,
    state::State,
    var::NewVar,
    wire::Place,
    world::NewObject,
};

/// An object to be made while the world runs, as often as need be. Players who come after a mould called `player` was
/// declared are made after that one: they have its tags, parts, variables and signals. Each one made has the mould's name and its own
/// number for a name, and the mould's name for a tag: a wire on every object of that tag hears them all.
///
/// ```
/// use stoicheon_core::{Mould, World};
/// let mut world = World::<()>::new();
/// let float = world.mould(Mould::new("float").tag("drifting"))?;
/// # let _ = float;
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Mould {
    name: SmolStr,
    tags: Vec<SmolStr>,
    body: bool,
    /// Its parts, by the names of their kinds.
    parts: Vec<(SmolStr, Settings)>,
    /// The kinds themselves, until the world knows them.
    #[serde(skip)]
    kinds: Vec<&'static PartKind>,
    vars: Vec<NewVar>,
    signals: Vec<(SmolStr, Vec<Field>)>,
    place: Option<Place>,
}

/// A mould of a world.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize)]
pub struct MouldId(u32);

impl Mould {
    /// A mould of that name, for objects with nothing to them yet.
    pub fn new(name: &str) -> Self {
        Self {
            name: name.into(),
            tags: Vec::new(),
            body: false,
            parts: Vec::new(),
            kinds: Vec::new(),
            vars: Vec::new(),
            signals: Vec::new(),
            place: None,
        }
    }

    /// What is made has a tag.
    pub fn tag(mut self, tag: &str) -> Self {
        self.tags.push(tag.into());
        self
    }

    /// What is made is a body.
    pub fn body(mut self) -> Self {
        self.body = true;
        self
    }

    /// What is made has a part.
    pub fn part(mut self, kind: &'static PartKind, settings: Settings) -> Self {
        self.parts.push((SmolStr::new_static(kind.name), settings));
        self.kinds.push(kind);
        self
    }

    /// What is made has a variable.
    pub fn var(mut self, var: NewVar) -> Self {
        self.vars.push(var);
        self
    }

    /// What is made gives a signal of its own.
    pub fn signal(mut self, name: &str, fields: Vec<Field>) -> Self {
        self.signals.push((name.into(), fields));
        self
    }

    /// Says where it was written.
    pub fn written_at(mut self, place: Place) -> Self {
        self.place = Some(place);
        self
    }
}

impl Mould {
    /// The first of its kinds of part that is not among those.
    pub(crate) fn lacks(&self, known: impl Fn(&str) -> bool) -> Option<&SmolStr> {
        self.parts.iter().map(|(kind, _)| kind).find(|kind| !known(kind))
    }
}

pub(crate) type Moulds = IndexMap<SmolStr, Arc<Mould>>;

impl State {
    /// Declares a mould; its parts are tried out, so that making one does not fail for their settings.
    pub(crate) fn declare_mould(&mut self, mould: Mould) -> Result<MouldId, Error> {
        check_name(&mould.name)?;
        mould.tags.iter().try_for_each(|tag| check_name(tag))?;
        if self.moulds.contains_key(&mould.name) {
            return Err(Error::NameTaken { kind: "a mould", name: mould.name });
        }
        for (kind, (_, settings)) in mould.kinds.iter().zip(&mould.parts) {
            (kind.build)(settings, self.rate())?;
        }
        for kind in &mould.kinds {
            self.parts.number_kind(kind);
        }
        let (index, _) = self.moulds.edit().insert_full(mould.name.clone(), Arc::new(mould));
        Ok(MouldId(u32::try_from(index).unwrap_or(u32::MAX)))
    }

    /// Makes an object after a mould.
    pub(crate) fn spawn(&mut self, id: MouldId, at: Vec3, doing: Doing) -> Result<ObjectId, Error> {
        let found = self.moulds.get_index(id.0 as usize);
        let (_, mould) = found.ok_or(Error::NoSuchMould)?;
        let mould = mould.clone();
        self.check_room(doing.by)?;
        let name = format_smolstr!("{}_{}", mould.name, self.objects.next_number());
        let mut new = NewObject::new(self, &name).at(at).tag(&mould.name);
        for tag in &mould.tags {
            new = new.tag(tag);
        }
        if mould.body {
            new = new.body();
        }
        if let Some(place) = &mould.place {
            new = new.written_at(place.clone());
        }
        let object = new.add_caused(doing.cause)?;
        self.furnish(object, &mould)?;
        Ok(object)
    }

    /// Whoever plays is made after the mould called `player`, if there is one.
    pub(crate) fn furnish_player(&mut self, object: ObjectId) -> Result<(), Error> {
        let Some(mould) = self.moulds.get(PLAYER).cloned() else { return Ok(()) };
        for tag in &mould.tags {
            self.set_tag(object, tag, true)?;
        }
        self.furnish(object, &mould)
    }

    fn furnish(&mut self, object: ObjectId, mould: &Mould) -> Result<(), Error> {
        for (name, settings) in &mould.parts {
            let kind = self
                .parts
                .kind_named(name)
                .ok_or_else(|| Error::UnknownName { kind: "a kind of part", found: name.clone() })?;
            self.attach_kind(object, kind, settings)?;
        }
        for (name, fields) in &mould.signals {
            self.own_signal_with(object, name, fields.clone())?;
        }
        if self.wires.hear_every("ready") {
            self.own_signal::<()>(object, "ready")?;
        }
        for var in &mould.vars {
            self.declare_var(var.clone().of(object))?;
        }
        Ok(())
    }

    pub(crate) fn find_mould(&self, name: &str) -> Option<MouldId> {
        self.moulds.get_index_of(name).and_then(|index| u32::try_from(index).ok()).map(MouldId)
    }

    /// The name of a mould.
    pub fn mould_name(&self, id: MouldId) -> Option<&str> {
        self.moulds.get_index(id.0 as usize).map(|(name, _)| name.as_str())
    }
}
