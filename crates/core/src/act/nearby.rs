//! Where the objects of a tag are, looked up once for all members of a bind: what is nearest to each of many lamps does
//! not cost lamps times gates.

use std::{cell::RefCell, collections::BTreeMap, rc::Rc};

use glam::Vec3;
use rstar::{RTree, primitives::GeomWithData};

use crate::{
    act::scope::Scope,
    base::{
        ids::{ObjectId, Tag},
        value::Value,
    },
};

type Tree = RTree<GeomWithData<[f32; 3], (usize, ObjectId)>>;

/// Good for as long as nothing moves, comes or goes: while the binds of one round are worked out.
#[derive(Debug, Default)]
pub(crate) struct Nearby(RefCell<BTreeMap<Tag, Rc<Tree>>>);

impl Nearby {
    /// The object of a tag nearest to a place; of several as near, the one that comes first by number.
    pub(crate) fn find(&self, tag: Tag, to: Vec3, scope: &Scope<'_>) -> Option<ObjectId> {
        let tree = self.0.borrow().get(&tag).cloned();
        let tree = tree.unwrap_or_else(|| {
            let places = scope.state.moment.objects.tagged(tag).enumerate().filter_map(|(rank, object)| {
                let at = scope.place(&Value::Object(object))?;
                Some(GeomWithData::new(at.to_array(), (rank, object)))
            });
            let tree = Rc::new(RTree::bulk_load(places.collect()));
            self.0.borrow_mut().insert(tag, tree.clone());
            tree
        });
        let mut nearest = tree.nearest_neighbor_iter_with_distance_2(to.to_array()).peekable();
        let least = nearest.peek()?.1;
        // The distances are worked out once more, just as without the tree, so that ties are the same.
        let close = nearest.take_while(|(_, distance)| *distance <= least * 1.000_01);
        let exact = close.map(|(found, _)| (Vec3::from(*found.geom()).distance_squared(to), found.data));
        exact.min_by(|(one, a), (two, b)| one.total_cmp(two).then(a.0.cmp(&b.0))).map(|(_, found)| found.1)
    }
}
