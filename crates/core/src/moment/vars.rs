//! Variables: named values of a scene or of one object, for everybody together or for each player.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        error::{BuildError, Error},
        ids::{BindId, ObjectId, PartId, PropertyName, SceneId, VarId},
        name_index::NameIndex,
        names::{check_path, name_hash},
        payload::type_word,
        shared::Shared,
        slots::Slots,
        value::{Type, Value},
    },
    plan::new_var::NewVar,
};

#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Var {
    pub(crate) name: SmolStr,
    /// Stands for the name in the digest.
    pub(crate) hash: u64,
    /// `None` for one that was declared with [`Value::Nothing`]: it holds whatever comes.
    pub(crate) ty: Option<Type>,
    /// What it holds; for each player, what one has who never had another.
    pub(crate) value: Value,
    /// What players have of it, if each has one.
    #[serde(with = "pairs")]
    pub(crate) each: Option<BTreeMap<ObjectId, Value>>,
    /// Its name among those of its object.
    pub(crate) property: Option<PropertyName>,
    /// The part that keeps it.
    pub(crate) part: Option<PartId>,
    /// The bind that keeps it.
    pub(crate) bound: Option<BindId>,
    pub(crate) scene: Option<SceneId>,
    /// The object it is of.
    pub(crate) of: Option<ObjectId>,
    pub(crate) remembered: bool,
}

mod pairs {
    use std::collections::BTreeMap;

    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    use super::{ObjectId, Value};

    #[expect(clippy::ref_option, reason = "the shape `serde` asks for")]
    pub(crate) fn serialize<S: Serializer>(
        map: &Option<BTreeMap<ObjectId, Value>>,
        to: S,
    ) -> Result<S::Ok, S::Error> {
        map.as_ref().map(|map| map.iter().collect::<Vec<_>>()).serialize(to)
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(
        from: D,
    ) -> Result<Option<BTreeMap<ObjectId, Value>>, D::Error> {
        Ok(Option::<Vec<(ObjectId, Value)>>::deserialize(from)?.map(|pairs| pairs.into_iter().collect()))
    }
}

/// All variables, those of objects among them.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Vars {
    all: Slots<VarId, Var>,
    #[serde(skip)]
    by_name: NameIndex<VarId>,
    /// Those that each player has one of.
    #[serde(skip)]
    each: Shared<BTreeSet<VarId>>,
}

impl Vars {
    /// Declares a variable under its whole name.
    pub(crate) fn declare(
        &mut self,
        name: SmolStr,
        new: NewVar,
        scene: Option<SceneId>,
    ) -> Result<VarId, Error> {
        check_path(&name)?;
        if self.find(&name).is_some() {
            return Err(Error::Build(BuildError::NameTaken { kind: "a variable", name }));
        }
        let ty = new.ty.or_else(|| new.first.type_of());
        let value = hold(&name, ty.as_ref(), new.first)?;
        let each = new.per_player.then(BTreeMap::new);
        let (of, remembered) = (new.object, new.remembered);
        let property = None;
        let hash = name_hash(&name);
        let var = Var {
            hash,
            name: name.clone(),
            ty,
            value,
            each,
            property,
            part: None,
            bound: None,
            scene,
            of,
            remembered,
        };
        let per_player = var.each.is_some();
        let id = self.all.insert(var);
        if per_player {
            self.each.edit().insert(id);
        }
        let Self { by_name, all, .. } = self;
        by_name.insert(&name, id, |id| all.get(id).map(|var| var.name.as_str()));
        Ok(id)
    }

    /// Finds the names again, and what each player has, if the variables were read from data without them.
    pub(crate) fn index_if_missing(&mut self) {
        if self.by_name.is_empty() {
            let Self { by_name, all, each } = self;
            let name_of = |id| all.get(id).map(|var| var.name.as_str());
            all.iter().for_each(|(id, var)| by_name.insert(&var.name, id, name_of));
            let per_player = all.iter().filter(|(_, var)| var.each.is_some()).map(|(id, _)| id);
            *each = Shared::from(per_player.collect::<BTreeSet<_>>());
        }
    }

    pub(crate) fn find(&self, name: &str) -> Option<VarId> {
        self.by_name.find(name, |id| self.all.get(id).map(|var| var.name.as_str()))
    }

    #[inline]
    pub(crate) fn var(&self, id: VarId) -> Option<&Var> {
        self.all.get(id)
    }

    pub(crate) fn var_mut(&mut self, id: VarId) -> Option<&mut Var> {
        self.all.get_mut(id)
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = (VarId, &Var)> {
        self.all.iter()
    }

    /// What it holds: for that player, if each has one of it.
    #[inline]
    pub(crate) fn get(&self, id: VarId, who: Option<ObjectId>) -> Option<&Value> {
        let var = self.all.get(id)?;
        let own = var.each.as_ref().and_then(|each| each.get(&who?));
        Some(own.unwrap_or(&var.value))
    }

    pub(crate) fn hash(&self, id: VarId) -> u64 {
        self.var(id).map_or(0, |var| var.hash)
    }

    /// The value as the variable would hold it.
    pub(crate) fn check(&self, id: VarId, value: Value) -> Result<Value, Error> {
        let var = self.var(id).ok_or(Error::NoSuchVar)?;
        hold(&var.name, var.ty.as_ref(), value)
    }

    /// Sets the variable and gives back what it held. Without a player, one that each player has is set for all, and what they
    /// held is given back, too.
    pub(crate) fn set(
        &mut self,
        id: VarId,
        who: Option<ObjectId>,
        value: Value,
    ) -> Result<(Value, BTreeMap<ObjectId, Value>), Error> {
        let var = self.all.get_mut(id).ok_or(Error::NoSuchVar)?;
        match (&mut var.each, who) {
            (Some(each), Some(who)) => {
                let from = each.insert(who, value).unwrap_or_else(|| var.value.clone());
                Ok((from, BTreeMap::new()))
            }
            (each, _) => {
                let own = each.as_mut().map(std::mem::take).unwrap_or_default();
                Ok((std::mem::replace(&mut var.value, value), own))
            }
        }
    }

    /// Changes what a variable is.
    pub(crate) fn revise(&mut self, id: VarId, change: impl FnOnce(&mut Var)) {
        let Some(var) = self.all.get_mut(id) else { return };
        change(var);
        if var.each.is_some() {
            self.each.edit().insert(id);
        } else {
            self.each.edit().remove(&id);
        }
    }

    /// A player is gone, and what they had with them, unless it is to be remembered.
    pub(crate) fn forget_player(&mut self, who: ObjectId) {
        let has =
            |var: &Var| !var.remembered && var.each.as_ref().is_some_and(|each| each.contains_key(&who));
        let all = self.each.iter().copied();
        let forgotten: Vec<_> = all.filter(|id| self.all.get(*id).is_some_and(has)).collect();
        for each in forgotten {
            if let Some(each) = self.all.get_mut(each).and_then(|var| var.each.as_mut()) {
                each.remove(&who);
            }
        }
    }

    pub(crate) fn remove(&mut self, id: VarId) -> Option<Var> {
        let var = self.all.remove(id)?;
        self.by_name.remove(&var.name, id);
        if var.each.is_some() {
            self.each.edit().remove(&id);
        }
        Some(var)
    }
}

fn hold(name: &SmolStr, ty: Option<&Type>, value: Value) -> Result<Value, Error> {
    let Some(ty) = ty else { return Ok(value) };
    // An object may be nobody, as it may be one that is gone.
    if matches!((ty, &value), (Type::Object | Type::Player, Value::Nothing)) {
        return Ok(value);
    }
    let found = type_word(&value);
    ty.hold(value).ok_or_else(|| Error::WrongType { name: name.clone(), expected: ty.clone(), found })
}
