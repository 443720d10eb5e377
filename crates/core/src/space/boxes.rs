//! Boxes along the axes: the simple shape of the hot path, with exact predicates.

use glam::Vec3;
use serde::{Deserialize, Serialize};

/// A closed box: its borders belong to it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Aabb {
    pub(crate) min: Vec3,
    pub(crate) max: Vec3,
}

impl Aabb {
    /// A box of that whole size around its middle.
    pub(crate) fn around(middle: Vec3, size: Vec3) -> Self {
        let half = size * 0.5;
        Self { min: middle - half, max: middle + half }
    }

    /// Whether the point lies inside or on the border.
    pub(crate) fn contains(&self, point: Vec3) -> bool {
        point.cmpge(self.min).all() && point.cmple(self.max).all()
    }

    /// Whether the straight way between two points meets the box anywhere.
    pub(crate) fn meets(&self, from: Vec3, to: Vec3) -> bool {
        let (mut first, mut last) = (0.0_f64, 1.0_f64);
        for axis in 0..3 {
            let (start, end) = (f64::from(from[axis]), f64::from(to[axis]));
            let (low, high) = (f64::from(self.min[axis]), f64::from(self.max[axis]));
            let way = end - start;
            if way == 0.0 {
                if start < low || start > high {
                    return false;
                }
                continue;
            }
            let (near, far) = ((low - start) / way, (high - start) / way);
            first = first.max(near.min(far));
            last = last.min(near.max(far));
        }
        first <= last
    }
}
