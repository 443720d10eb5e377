//! Boxes along the axes that hold something, in single precision and never too small.

use glam::{DVec3, Vec3};

#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Bounds {
    pub(crate) min: Vec3,
    pub(crate) max: Vec3,
}

impl Bounds {
    pub(crate) const EVERYWHERE: Self = Self { min: Vec3::NEG_INFINITY, max: Vec3::INFINITY };
    /// Holds nothing.
    pub(crate) const NOWHERE: Self = Self { min: Vec3::INFINITY, max: Vec3::NEG_INFINITY };

    pub(crate) fn around(middle: DVec3, half: DVec3) -> Self {
        Self { min: below(middle - half), max: above(middle + half) }
    }

    /// What lies on the straight way between two points, and no farther from it than that.
    #[inline]
    pub(crate) fn of_way(from: Vec3, to: Vec3, reach: f64) -> Self {
        let (min, max) = (from.min(to), from.max(to));
        if reach == 0.0 {
            return Self { min, max };
        }
        Self { min: below(min.as_dvec3() - reach), max: above(max.as_dvec3() + reach) }
    }

    pub(crate) fn with(self, other: Self) -> Self {
        Self { min: self.min.min(other.min), max: self.max.max(other.max) }
    }

    /// The same with so much more on every side.
    pub(crate) fn wider(self, by: f64) -> Self {
        Self { min: below(self.min.as_dvec3() - by), max: above(self.max.as_dvec3() + by) }
    }

    /// How far the corner is that is farthest from a place.
    pub(crate) fn farthest_from(&self, at: Vec3) -> f64 {
        let at = at.as_dvec3();
        (self.min.as_dvec3() - at).abs().max((self.max.as_dvec3() - at).abs()).length()
    }

    #[inline]
    pub(crate) fn meets(&self, other: &Self) -> bool {
        self.min.cmple(other.max).all() && other.min.cmple(self.max).all()
    }

    pub(crate) fn is_finite(&self) -> bool {
        self.min.is_finite() && self.max.is_finite()
    }

    pub(crate) fn size(&self) -> Vec3 {
        self.max - self.min
    }

    /// Whether it may come so near to the straight way between two points. Never says no where it does.
    #[inline]
    pub(crate) fn may_meet_way(&self, from: DVec3, to: DVec3, reach: f64) -> bool {
        let way = to - from;
        let (mut first, mut last) = (0.0_f64, 1.0_f64);
        for axis in 0..3 {
            let start = from[axis];
            let (low, high) =
                (f64::from(self.min[axis]) - reach - start, f64::from(self.max[axis]) + reach - start);
            if way[axis] == 0.0 {
                if low > 0.0 || high < 0.0 {
                    return false;
                }
                continue;
            }
            let by = 1.0 / way[axis];
            let (near, far) = (low * by, high * by);
            first = first.max(near.min(far));
            last = last.min(near.max(far));
        }
        first <= last + 1e-9
    }

    /// How far a point outside is from it; 0 inside.
    #[inline]
    pub(crate) fn distance_squared(&self, point: DVec3) -> f64 {
        let over = (self.min.as_dvec3() - point).max(point - self.max.as_dvec3());
        over.max(DVec3::ZERO).length_squared()
    }
}

fn below(of: DVec3) -> Vec3 {
    let near = of.as_vec3();
    let lower = |near: f32, of: f64| if f64::from(near) > of { near.next_down() } else { near };
    Vec3::new(lower(near.x, of.x), lower(near.y, of.y), lower(near.z, of.z))
}

fn above(of: DVec3) -> Vec3 {
    -below(-of)
}
