//! Moulds: objects that are described now and made while the world runs.

use std::sync::Arc;

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{payload::Field, place::Place},
    part::{kind::PartKind, setting::Settings},
    plan::{new_var::NewVar, patterns::Pattern},
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
    pub(crate) name: SmolStr,
    pub(crate) tags: Vec<SmolStr>,
    pub(crate) body: bool,
    /// Its parts, by the names of their kinds.
    pub(crate) parts: Vec<(SmolStr, Settings)>,
    /// The kinds themselves, until the world knows them.
    #[serde(skip)]
    pub(crate) kinds: Vec<&'static PartKind>,
    pub(crate) vars: Vec<NewVar>,
    pub(crate) signals: Vec<(SmolStr, Vec<Field>)>,
    pub(crate) place: Option<Place>,
    /// Wires of each.
    pub(crate) wires: Vec<Pattern>,
}

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
            wires: Vec::new(),
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

    /// How many variables what is made has.
    pub fn vars(&self) -> usize {
        self.vars.len()
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
