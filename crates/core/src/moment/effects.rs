//! Effects: what the host shows or plays. The world names, times and orders them; the host performs them.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::base::{
    error::{BuildError, Error, Near},
    ids::{EffectId, ObjectId},
    names::{check_name, name_hash},
    payload::{Field, Payload, fit, list_fields, list_types},
    shared::Shared,
    value::{Value, Values},
};

/// One effect for the host to perform.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub struct Effect {
    /// Which effect.
    pub kind: EffectId,
    /// Its name.
    pub name: SmolStr,
    /// Its values, in the order of its fields.
    pub values: Values,
    /// Whom it goes back to.
    pub who: Option<ObjectId>,
}

impl Effect {
    /// What it is performed with, as a type of the host's own; `None` where the values are of other types.
    ///
    /// ```
    /// use stoicheon_core::{World, payload};
    /// payload! {
    ///     /// Words for somebody to read.
    ///     struct Say { words: stoicheon_core::Text }
    /// }
    /// let mut world = World::<()>::new();
    /// let say = world.declare_effect::<Say>("say")?;
    /// let bell = world.declare_signal::<()>("bell")?;
    /// world.on(bell).run(move |(), (), cx| cx.perform(say, ["Mind the gate".into()]))?;
    /// world.emit(bell, ())?;
    /// world.step(&mut ())?;
    /// for effect in world.take_effects() {
    ///     let said = effect.payload::<Say>().expect("it is declared with words");
    ///     assert_eq!(said.words, "Mind the gate");
    /// }
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn payload<T: Payload>(&self) -> Option<T> {
        T::from_values(&self.values)
    }
}

#[derive(Clone, Debug, Serialize, Deserialize)]
struct Kind {
    fields: Vec<Field>,
    hash: u64,
}

/// The kinds of effect this world knows, and how often each was performed.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Effects {
    kinds: Shared<IndexMap<SmolStr, Kind>>,
    /// How often each was performed.
    performed: Vec<u64>,
}

impl Effects {
    pub(crate) fn declare(&mut self, name: &str, fields: Vec<Field>) -> Result<EffectId, Error> {
        check_name(name)?;
        match self.kinds.get(name) {
            Some(known) if known.fields != fields => Err(Error::Build(BuildError::PayloadMismatch {
                name: name.into(),
                declared: list_fields(&known.fields),
                found: list_fields(&fields),
            })),
            _ => {
                let entry = self.kinds.edit().entry(name.into());
                let index = entry.index();
                entry.or_insert(Kind { fields, hash: name_hash(name) });
                self.performed.resize(self.kinds.len(), 0);
                Ok(EffectId(u32::try_from(index).unwrap_or(u32::MAX)))
            }
        }
    }

    /// An effect has other fields from now on.
    pub(crate) fn change_fields(&mut self, id: EffectId, fields: Vec<Field>) {
        if let Some((_, kind)) = self.kinds.edit().get_index_mut(id.0 as usize) {
            kind.fields = fields;
        }
    }

    /// The effect of that name, if it has these fields; any, if they are not known.
    pub(crate) fn find_as(&self, name: &str, fields: Option<Vec<Field>>) -> Result<EffectId, Error> {
        let names = || self.kinds.keys().map(SmolStr::as_str);
        let found = self.find(name).ok_or_else(|| Error::NoEffectOfName {
            found: name.into(),
            near: Near::of(name, &mut names()),
        })?;
        match fields {
            Some(fields) if fields != self.fields(found) => Err(Error::Build(BuildError::PayloadMismatch {
                name: name.into(),
                declared: list_fields(self.fields(found)),
                found: list_fields(&fields),
            })),
            _ => Ok(found),
        }
    }

    pub(crate) fn find(&self, name: &str) -> Option<EffectId> {
        self.kinds.get_index_of(name).and_then(|index| u32::try_from(index).ok()).map(EffectId)
    }

    /// All of them, in the order they were declared.
    pub(crate) fn ids(&self) -> impl Iterator<Item = EffectId> + use<> {
        (0..u32::try_from(self.kinds.len()).unwrap_or(u32::MAX)).map(EffectId)
    }

    pub(crate) fn name(&self, id: EffectId) -> Option<&SmolStr> {
        self.kinds.get_index(id.0 as usize).map(|(name, _)| name)
    }

    pub(crate) fn fields(&self, id: EffectId) -> &[Field] {
        self.kinds.get_index(id.0 as usize).map_or(&[], |(_, kind)| &kind.fields)
    }

    pub(crate) fn hash(&self, id: EffectId) -> u64 {
        self.kinds.get_index(id.0 as usize).map_or(0, |(_, kind)| kind.hash)
    }

    pub(crate) fn performed(&self, id: EffectId) -> u64 {
        self.performed.get(id.0 as usize).copied().unwrap_or_default()
    }

    /// Checks the values; nothing waits for the host yet.
    pub(crate) fn check(&self, id: EffectId, values: &[Value]) -> Result<(), Error> {
        let (name, kind) = self.kinds.get_index(id.0 as usize).ok_or(Error::NoSuchEffect)?;
        if fit(&kind.fields, values) {
            return Ok(());
        }
        Err(Error::WrongValues {
            name: name.clone(),
            expected: list_fields(&kind.fields),
            found: list_types(values),
        })
    }

    /// Counts it; what comes back is for the host.
    pub(crate) fn perform(&mut self, id: EffectId, values: Values, who: Option<ObjectId>) -> Option<Effect> {
        let (name, _) = self.kinds.get_index(id.0 as usize)?;
        *self.performed.get_mut(id.0 as usize)? += 1;
        Some(Effect { kind: id, name: name.clone(), values, who })
    }
}
