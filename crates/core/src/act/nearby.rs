//! What the members of a bind look at. Where the objects of a tag are is looked up once for all members: what is nearest to
//! each of many lamps does not cost lamps times gates. And each member's objects are noted, so that it is looked at again
//! only when one of those changes.

use std::{cell::RefCell, collections::BTreeMap, rc::Rc};

use glam::Vec3;
use rstar::{RTree, primitives::GeomWithData};

use crate::{
    act::scope::Scope,
    base::ids::{ObjectId, Tag},
    moment::members::Looked,
};

type Tree = RTree<GeomWithData<[f32; 3], (usize, ObjectId)>>;

/// For fewer members than that it is cheaper to look at every object of a tag.
const MANY: usize = 16;

/// Good for as long as nothing moves, comes or goes: while the binds of one round are worked out.
#[derive(Debug)]
pub(crate) struct Nearby {
    trees: Option<RefCell<BTreeMap<Tag, Rc<Tree>>>>,
    looked: RefCell<Looked>,
}

impl Nearby {
    /// For so many members.
    pub(crate) fn of(members: usize) -> Self {
        Self { trees: (members >= MANY).then(RefCell::default), looked: RefCell::default() }
    }

    /// A member looks at an object.
    pub(crate) fn note(&self, object: ObjectId) {
        let mut looked = self.looked.borrow_mut();
        if !looked.contains(&object) {
            looked.push(object);
        }
    }

    /// What was looked at since this was asked last.
    pub(crate) fn take(&self) -> Looked {
        std::mem::take(&mut self.looked.borrow_mut())
    }

    /// Whether the objects of a tag are looked up, and not looked through.
    pub(crate) fn looks_up(&self) -> bool {
        self.trees.is_some()
    }

    /// The object of a tag nearest to a place; of several as near, the one that comes first by number.
    pub(crate) fn find(&self, tag: Tag, to: Vec3, scope: &Scope<'_>) -> Option<ObjectId> {
        let trees = self.trees.as_ref()?;
        let tree = trees.borrow().get(&tag).cloned();
        let tree = tree.unwrap_or_else(|| {
            let objects = &scope.state.moment.objects;
            let places = objects.tagged(tag).enumerate().filter_map(|(rank, object)| {
                Some(GeomWithData::new(objects.get(object)?.at.to_array(), (rank, object)))
            });
            let tree = Rc::new(RTree::bulk_load(places.collect()));
            trees.borrow_mut().insert(tag, tree.clone());
            tree
        });
        Self::nearest_in(&tree, to)
    }

    fn nearest_in(tree: &Tree, to: Vec3) -> Option<ObjectId> {
        let mut nearest = tree.nearest_neighbor_iter_with_distance_2(to.to_array()).peekable();
        let least = nearest.peek()?.1;
        // The distances are worked out once more, just as without the tree, so that ties are the same.
        let close = nearest.take_while(|(_, distance)| *distance <= least * 1.000_01);
        let exact = close.map(|(found, _)| (Vec3::from(*found.geom()).distance_squared(to), found.data));
        exact.min_by(|(one, a), (two, b)| one.total_cmp(two).then(a.0.cmp(&b.0))).map(|(_, found)| found.1)
    }
}
