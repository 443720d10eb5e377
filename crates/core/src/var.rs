//! Variables: named values of the scene.

use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{error::Error, payload::type_word, signal::check_name, trace::name_hash, value::Value};

/// A variable.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct VarId(u32);

#[derive(Clone, Debug, Serialize, Deserialize)]
struct Var {
    value: Value,
    hash: u64,
}

/// All variables, in the order they were declared.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Vars(IndexMap<SmolStr, Var>);

impl Vars {
    pub(crate) fn declare(&mut self, name: &str, value: Value) -> Result<VarId, Error> {
        check_name(name)?;
        if self.0.contains_key(name) {
            return Err(Error::NameTaken { kind: "a variable", name: name.into() });
        }
        let (index, _) = self.0.insert_full(name.into(), Var { value, hash: name_hash(name) });
        Ok(VarId(u32::try_from(index).unwrap_or(u32::MAX)))
    }

    pub(crate) fn find(&self, name: &str) -> Option<VarId> {
        self.0.get_index_of(name).and_then(|index| u32::try_from(index).ok()).map(VarId)
    }

    pub(crate) fn get(&self, id: VarId) -> Option<&Value> {
        self.0.get_index(id.0 as usize).map(|(_, var)| &var.value)
    }

    pub(crate) fn name(&self, id: VarId) -> Option<&SmolStr> {
        self.0.get_index(id.0 as usize).map(|(name, _)| name)
    }

    pub(crate) fn hash(&self, id: VarId) -> u64 {
        self.0.get_index(id.0 as usize).map_or(0, |(_, var)| var.hash)
    }

    /// Whether the variable could be set to that value.
    pub(crate) fn check(&self, id: VarId, value: &Value) -> Result<(), Error> {
        let (name, var) = self.0.get_index(id.0 as usize).ok_or(Error::NoSuchVar)?;
        match var.value.type_of() {
            Some(expected) if value.type_of() != Some(expected) => {
                Err(Error::WrongType { name: name.clone(), expected, found: type_word(value) })
            }
            _ => Ok(()),
        }
    }

    /// Sets the variable and gives back what it held.
    pub(crate) fn set(&mut self, id: VarId, value: Value) -> Result<Value, Error> {
        self.check(id, &value)?;
        let (_, var) = self.0.get_index_mut(id.0 as usize).ok_or(Error::NoSuchVar)?;
        Ok(std::mem::replace(&mut var.value, value))
    }
}
