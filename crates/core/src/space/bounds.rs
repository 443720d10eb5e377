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

    /// How far a point outside is from it; 0 inside.
    #[inline]
    pub(crate) fn distance_squared(&self, point: DVec3) -> f64 {
        let over = (self.min.as_dvec3() - point).max(point - self.max.as_dvec3());
        over.max(DVec3::ZERO).length_squared()
    }
}

/// A straight way that is held against many bounds.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Sweep {
    from: DVec3,
    /// One by the length along each axis; without bounds where there is none.
    by: DVec3,
    reach: f64,
}

impl Sweep {
    pub(crate) fn new(from: DVec3, to: DVec3, reach: f64) -> Self {
        Self { from, by: DVec3::ONE / (to - from), reach }
    }

    /// Whether the way may come so near to what lies there. Never says no where it does.
    #[inline]
    pub(crate) fn may_meet(&self, bounds: &Bounds) -> bool {
        let low = (bounds.min.as_dvec3() - self.reach - self.from) * self.by;
        let high = (bounds.max.as_dvec3() + self.reach - self.from) * self.by;
        // Along an axis it does not move, 0 times what has no bounds is not a number: it lies on the border all the way.
        let part = |low: f64, high: f64| {
            let border = low.is_nan() || high.is_nan();
            if border { (f64::NEG_INFINITY, f64::INFINITY) } else { (low.min(high), low.max(high)) }
        };
        let ((x, x_end), (y, y_end), (z, z_end)) =
            (part(low.x, high.x), part(low.y, high.y), part(low.z, high.z));
        let first = 0.0_f64.max(x).max(y).max(z);
        let last = 1.0_f64.min(x_end).min(y_end).min(z_end);
        first <= last + 1e-9
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
