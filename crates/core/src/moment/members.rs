//! Which objects the members of a bind looked at when they were worked out.

use slotmap::SecondaryMap;
use smallvec::SmallVec;

use crate::base::ids::ObjectId;

/// Objects that a member looked at.
pub(crate) type Looked = SmallVec<[ObjectId; 4]>;

/// Which objects each member of a bind looks at, and the other way round.
#[derive(Debug, Default)]
pub(crate) struct Members {
    looks_at: SecondaryMap<ObjectId, Looked>,
    looked_at_by: SecondaryMap<ObjectId, Looked>,
}

impl Members {
    /// A member was worked out.
    pub(crate) fn set(&mut self, member: ObjectId, looks_at: Looked) {
        if self.looks_at.get(member) == Some(&looks_at) {
            return;
        }
        let before = self.looks_at.remove(member).unwrap_or_default();
        for object in looks_at.iter().filter(|object| !before.contains(object)) {
            if let Some(entry) = self.looked_at_by.entry(*object) {
                entry.or_default().push(member);
            }
        }
        for object in before.iter().filter(|object| !looks_at.contains(object)) {
            if let Some(by) = self.looked_at_by.get_mut(*object) {
                by.retain(|other| *other != member);
            }
        }
        self.looks_at.insert(member, looks_at);
    }

    /// The members that looked at an object.
    pub(crate) fn looking_at(&self, object: ObjectId) -> impl Iterator<Item = ObjectId> {
        self.looked_at_by.get(object).into_iter().flatten().copied()
    }

    /// Leaves members out that are gone.
    pub(crate) fn forget_gone(&mut self, object: ObjectId, here: impl Fn(ObjectId) -> bool) {
        if let Some(by) = self.looked_at_by.get_mut(object) {
            by.retain(|member| here(*member));
        }
    }
}
