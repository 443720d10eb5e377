//! Binds that keep a variable of each object of a group: of a change only those members are worked out that looked at what
//! changed when they were worked out last.

use std::collections::BTreeSet;

use crate::{
    act::{kept::Thing, nearby::Nearby, scope::Scope},
    base::ids::{BindId, ObjectId, Tag},
    moment::{members::Members, watches::Stale},
    plan::{binds::Kept, expr::Expr, reads::Read},
    state::State,
};

impl State {
    /// Works out the members of a bind for which something may have changed, by object number.
    pub(crate) fn keep_each(&mut self, id: BindId, stale: &Stale) {
        let Some(bind) = self.plan.binds.get(id.0 as usize) else { return };
        let kept = bind.kept;
        let Some(tag) = kept.tag() else { return };
        let to = bind.to.clone();
        let members: Vec<ObjectId> = match self.members_to_look_at(id, tag, &to, stale) {
            Some(some) => some.into_iter().map(|(_, member)| member).collect(),
            None => self.moment.objects.tagged(tag).collect(),
        };
        let nearby = Nearby::of(members.len());
        for member in members {
            let var = |name| self.moment.objects.get(member).and_then(|object| object.property(name));
            let thing = match kept {
                Kept::Each(_, name) => {
                    let Some(var) = var(name) else { continue };
                    self.keep(id, var, Some(member), &to, stale.cause, Some(&nearby));
                    None
                }
                Kept::EachFacing(_) => Some(Thing::Facing(member)),
                _ => Some(Thing::Place(member)),
            };
            if let Some(thing) = thing {
                self.keep_thing(id, thing, Some(member), (&to, stale.cause), Some(&nearby));
            }
            self.scratch.members.entry(id).or_default().set(member, nearby.take());
        }
    }

    /// Those that looked at what has changed, by object number; `None` for all.
    fn members_to_look_at(
        &mut self,
        id: BindId,
        tag: Tag,
        to: &Expr,
        stale: &Stale,
    ) -> Option<BTreeSet<(u32, ObjectId)>> {
        let what = stale.what.as_ref()?;
        // Those that count a group look at all of it.
        let nearest_of = to.nearest_of()?;
        let whole = to.depends_on();
        let mut changed: Vec<ObjectId> = Vec::new();
        for read in what {
            if whole.contains(read) {
                return None;
            }
            let object = match *read {
                Read::Var(var) => match self.moment.vars.var(var)?.of {
                    Some(object) => object,
                    // Only those of objects are found by a name.
                    None => continue,
                },
                Read::Part(part) | Read::Reading(part) => self.object_of(part)?,
                Read::Place(object) | Read::Object(object) => {
                    let tags = &self.moment.objects.get_even_doomed(object)?.tags;
                    if nearest_of.iter().any(|tag| tags.contains(tag)) {
                        return None;
                    }
                    object
                }
                _ => return None,
            };
            changed.push(object);
        }
        if !self.scratch.members.contains_key(&id) {
            self.find_members(id, tag, to);
        }
        let (known, objects) = (self.scratch.members.get_mut(&id)?, &self.moment.objects);
        changed.iter().for_each(|object| known.forget_gone(*object, |member| objects.get(member).is_some()));
        let by = |object: &ObjectId| known.looking_at(*object).chain([*object]);
        let numbered = |member: ObjectId| {
            let object = self.moment.objects.get(member).filter(|object| object.tags.contains(&tag))?;
            Some((object.number, member))
        };
        Some(changed.iter().flat_map(by).filter_map(numbered).collect())
    }

    /// Finds what each member looks at, when that is not known: after going back, say. Only members that look at what has
    /// changed since they were worked out may look at something else by now, and they look at that now as they did then.
    fn find_members(&mut self, id: BindId, tag: Tag, to: &Expr) {
        let all: Vec<ObjectId> = self.moment.objects.tagged(tag).collect();
        let nearby = Nearby::of(all.len());
        let mut members = Members::default();
        for member in all {
            let eval_fault = std::cell::Cell::new(None);
            let scope = Scope { it: Some(member), nearby: Some(&nearby), ..Scope::of(self, &eval_fault) };
            scope.value(to);
            members.set(member, nearby.take());
        }
        self.scratch.members.insert(id, members);
    }
}
