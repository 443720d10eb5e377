//! From places in a scene to places on paper.

use stoicheon_core::Vec3;

use crate::picture::round;

/// From where a scene is seen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Side {
    /// From above: north, where -z is, is up.
    Above,
    /// From the front: y is up.
    Front,
}

/// A place on the plane that is drawn, in scene units; the second number grows downwards.
pub(crate) type Flat = (f64, f64);

impl Side {
    pub(crate) fn of(self, place: Vec3) -> Flat {
        match self {
            Self::Above => (f64::from(place.x), f64::from(place.z)),
            Self::Front => (f64::from(place.x), -f64::from(place.y)),
        }
    }

    pub(crate) fn is_flat(self) -> bool {
        self == Self::Front
    }

    pub(crate) fn words(self) -> &'static str {
        match self {
            Self::Above => "up is north (-z)",
            Self::Front => "up is y",
        }
    }
}

/// A rectangle of the paper, in pixels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Rect {
    pub(crate) left: f64,
    pub(crate) top: f64,
    pub(crate) width: f64,
    pub(crate) height: f64,
}

impl Rect {
    pub(crate) fn overlaps(self, other: Self) -> bool {
        self.left < other.left + other.width
            && other.left < self.left + self.width
            && self.top < other.top + other.height
            && other.top < self.top + self.height
    }

    pub(crate) fn holds(self, other: Self) -> bool {
        other.left >= self.left
            && other.top >= self.top
            && other.left + other.width <= self.left + self.width
            && other.top + other.height <= self.top + self.height
    }

    pub(crate) fn shrunk(self, by: f64) -> Self {
        let (width, height) = ((self.width - 2.0 * by).max(1.0), (self.height - 2.0 * by).max(1.0));
        Self { left: self.left + by, top: self.top + by, width, height }
    }
}

/// Where a scene is on paper, and how large.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Paper {
    pub(crate) scale: f64,
    left: f64,
    top: f64,
    at: Rect,
}

/// How many scene units a panel shows at least, so that a lone object is not drawn as large as a house.
const LEAST: f64 = 8.0;

impl Paper {
    /// As large as the rectangle allows.
    pub(crate) fn of(points: &[Flat], at: Rect) -> Self {
        let range = |of: fn(Flat) -> f64| {
            let all = points.iter().copied().map(of).filter(|number| number.is_finite());
            let (least, most) = all.fold((f64::INFINITY, f64::NEG_INFINITY), |(least, most), next| {
                (least.min(next), most.max(next))
            });
            if least <= most { (least, most) } else { (0.0, 0.0) }
        };
        let ((left, right), (top, bottom)) = (range(|point| point.0), range(|point| point.1));
        let scale = (at.width / (right - left).max(LEAST)).min(at.height / (bottom - top).max(LEAST));
        Self {
            scale,
            left: f64::midpoint(left, right) - at.width / scale / 2.0,
            top: f64::midpoint(top, bottom) - at.height / scale / 2.0,
            at,
        }
    }

    pub(crate) fn put(&self, (x, y): Flat) -> Flat {
        let at = self.at;
        (round((x - self.left) * self.scale + at.left), round((y - self.top) * self.scale + at.top))
    }
}
