//! A shape where it stands: exact answers about points and balls.
//!
//! Everything is worked out in double precision from places of single precision, so that the border of a box that
//! is not turned is exact, and every other border is so to about one part in 10^15 of the numbers involved.

use glam::{DQuat, DVec3};
use smallvec::SmallVec;

use crate::{
    base::geometry::Pose,
    space::{
        approach::comes_within,
        bounds::Bounds,
        shape::{Form, Member, Shape},
    },
};

/// One simple form in the world.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Placed {
    /// Along the axes of the world.
    Box {
        middle: DVec3,
        half: DVec3,
    },
    /// `back` turns from the world to the box.
    Turned {
        middle: DVec3,
        half: DVec3,
        back: DQuat,
    },
    Ball {
        middle: DVec3,
        radius: f64,
    },
    Capsule {
        from: DVec3,
        to: DVec3,
        radius: f64,
    },
    Cylinder {
        middle: DVec3,
        axis: DVec3,
        half: f64,
        radius: f64,
    },
    /// Inside is where `point · normal <= offset`.
    HalfSpace {
        normal: DVec3,
        offset: f64,
    },
}

/// A whole shape in the world.
pub(crate) type PlacedShape = SmallVec<[Placed; 1]>;

impl Shape {
    /// The shape of something with that pose.
    pub(crate) fn placed(&self, pose: Pose) -> PlacedShape {
        self.members.iter().map(|member| Placed::new(member, pose)).collect()
    }
}

impl Placed {
    fn new(member: &Member, pose: Pose) -> Self {
        let turn = pose.facing.precise();
        let whole = turn * member.pose.facing.precise();
        // Exact where nothing is turned.
        let unturned = |turn: DQuat| turn == DQuat::IDENTITY || turn == -DQuat::IDENTITY;
        let inner = member.pose.at.as_dvec3();
        let inner = if unturned(turn) { inner } else { turn * inner };
        let middle = pose.at.as_dvec3() + inner;
        match member.form {
            Form::Box { width, height, depth } => {
                let depth = depth.map_or(f64::INFINITY, f64::from);
                let half = DVec3::new(f64::from(width), f64::from(height), depth) * 0.5;
                if unturned(whole) {
                    Self::Box { middle, half }
                } else {
                    Self::Turned { middle, half, back: whole.inverse() }
                }
            }
            Form::Ball { radius } => Self::Ball { middle, radius },
            Form::Capsule { along, radius } => {
                let half = whole * along.as_dvec3() * 0.5;
                Self::Capsule { from: middle - half, to: middle + half, radius }
            }
            Form::Cylinder { radius, height } => {
                Self::Cylinder { middle, axis: whole * DVec3::Y, half: height * 0.5, radius }
            }
            Form::HalfSpace { normal } => {
                let normal = normal.as_dvec3().normalize();
                let normal = if unturned(whole) { normal } else { whole * normal };
                Self::HalfSpace { normal, offset: middle.dot(normal) }
            }
        }
    }

    /// How far a point is from the border: below 0 inside, above 0 outside.
    pub(crate) fn signed(&self, point: DVec3) -> f64 {
        match *self {
            Self::Box { middle, half } => box_distance((point - middle).abs() - half),
            Self::Turned { middle, half, back } => box_distance((back * (point - middle)).abs() - half),
            Self::Ball { middle, radius } => (point - middle).length() - radius,
            Self::Capsule { from, to, radius } => (point - nearest_on(from, to, point)).length() - radius,
            Self::Cylinder { middle, axis, half, radius } => {
                let away = point - middle;
                let along = away.dot(axis);
                let aside = (away - axis * along).length();
                box_distance(DVec3::new(aside - radius, along.abs() - half, f64::NEG_INFINITY))
            }
            Self::HalfSpace { normal, offset } => point.dot(normal) - offset,
        }
    }

    /// Whether a point is inside, or no farther from it than that.
    #[inline]
    pub(crate) fn within(&self, point: DVec3, reach: f64) -> bool {
        match *self {
            Self::Box { middle, half } => {
                let over = (point - middle).abs() - half;
                if reach == 0.0 { over.max_element() <= 0.0 } else { box_distance(over) <= reach }
            }
            Self::Ball { middle, radius } => {
                let reach = radius + reach;
                (point - middle).length_squared() <= reach * reach
            }
            _ => self.signed(point) <= reach,
        }
    }

    /// Whether the straight way between two points comes inside, or no farther from it than that.
    pub(crate) fn meets(&self, from: DVec3, to: DVec3, reach: f64) -> bool {
        match *self {
            Self::Box { middle, half } if reach == 0.0 => slabs(from - middle, to - middle, half),
            Self::Turned { middle, half, back } if reach == 0.0 => {
                slabs(back * (from - middle), back * (to - middle), half)
            }
            // What goes through a side and not only past an edge is found at once.
            Self::Box { middle, half } if meets_a_side(from - middle, to - middle, half, reach) => true,
            Self::Ball { middle, radius } => {
                let reach = radius + reach;
                (middle - nearest_on(from, to, middle)).length_squared() <= reach * reach
            }
            Self::HalfSpace { .. } => self.signed(from).min(self.signed(to)) <= reach,
            _ => {
                // What double precision leaves of numbers of that size, and some more.
                let noise = 1e-13 * (1.0 + from.abs().max(to.abs()).max_element());
                comes_within(from, to, reach, noise, |point| self.signed(point))
            }
        }
    }

    /// A box along the axes that holds all of it.
    pub(crate) fn bounds(&self) -> Bounds {
        match *self {
            Self::Box { middle, half } => Bounds::around(middle, half),
            Self::Turned { middle, half, back } => {
                let forth = glam::DMat3::from_quat(back.inverse());
                let part = |axis: DVec3, half: f64| {
                    if half.is_finite() { axis.abs() * half } else { DVec3::INFINITY }
                };
                let reach =
                    part(forth.x_axis, half.x) + part(forth.y_axis, half.y) + part(forth.z_axis, half.z);
                Bounds::around(middle, reach)
            }
            Self::Ball { middle, radius } => Bounds::around(middle, DVec3::splat(radius)),
            Self::Capsule { from, to, radius } => {
                Bounds::around((from + to) * 0.5, (to - from).abs() * 0.5 + radius)
            }
            Self::Cylinder { middle, half, radius, .. } => {
                // A ball around it, and a little more for what the root rounds away.
                let reach = (half * half + radius * radius).sqrt() * 1.000_001;
                Bounds::around(middle, DVec3::splat(reach))
            }
            Self::HalfSpace { .. } => Bounds::EVERYWHERE,
        }
    }

    /// The point of it that lies farthest that way; `None` if it has no end there.
    pub(crate) fn farthest(&self, toward: DVec3) -> Option<DVec3> {
        let corner = |half: DVec3, toward: DVec3| {
            let part = |half: f64, toward: f64| {
                if toward.abs() < 1e-12 { 0.0 } else { half * toward.signum() }
            };
            DVec3::new(part(half.x, toward.x), part(half.y, toward.y), part(half.z, toward.z))
        };
        let found = match *self {
            Self::Box { middle, half } => middle + corner(half, toward),
            Self::Turned { middle, half, back } => middle + back.inverse() * corner(half, back * toward),
            Self::Ball { middle, radius } => middle + toward * radius,
            Self::Capsule { from, to, radius } => {
                let end = if from.dot(toward) > to.dot(toward) { from } else { to };
                end + toward * radius
            }
            Self::Cylinder { middle, axis, half, radius } => {
                let along = axis.dot(toward);
                let aside = (toward - axis * along).try_normalize().unwrap_or(DVec3::ZERO);
                let end = if along.abs() < 1e-12 { 0.0 } else { half * along.signum() };
                middle + axis * end + aside * radius
            }
            Self::HalfSpace { .. } => return None,
        };
        found.is_finite().then_some(found)
    }
}

/// The signed distance to a box of which a point is so far over the border along each axis.
#[inline]
fn box_distance(over: DVec3) -> f64 {
    let most = over.max_element();
    if most <= 0.0 { most } else { over.max(DVec3::ZERO).length() }
}

fn nearest_on(from: DVec3, to: DVec3, point: DVec3) -> DVec3 {
    let way = to - from;
    let length = way.length_squared();
    if length == 0.0 {
        return from;
    }
    from + way * ((point - from).dot(way) / length).clamp(0.0, 1.0)
}

/// Whether the way between two points comes so near to a side of a box around the origin, seen straight on.
#[inline]
fn meets_a_side(from: DVec3, to: DVec3, half: DVec3, reach: f64) -> bool {
    let by = DVec3::ONE / (to - from);
    // When it is between the two sides of one axis, as far out as that.
    let between = |axis: usize, half: f64| {
        let (low, high) = ((-half - from[axis]) * by[axis], (half - from[axis]) * by[axis]);
        // Where it does not move along the axis, it may lie on the border all the way.
        let border = low.is_nan() || high.is_nan();
        if border { (f64::NEG_INFINITY, f64::INFINITY) } else { (low.min(high), low.max(high)) }
    };
    let near = [0, 1, 2].map(|axis| between(axis, half[axis]));
    (0..3).any(|side| {
        let mut spans = near;
        spans[side] = between(side, half[side] + reach);
        let first = spans.iter().fold(0.0_f64, |first, span| first.max(span.0));
        first <= spans.iter().fold(1.0_f64, |last, span| last.min(span.1))
    })
}

/// Whether the way between two points meets a box around the origin.
#[inline]
fn slabs(from: DVec3, to: DVec3, half: DVec3) -> bool {
    let (mut first, mut last) = (0.0_f64, 1.0_f64);
    for axis in 0..3 {
        let (start, half) = (from[axis], half[axis]);
        let way = to[axis] - start;
        if way == 0.0 {
            if start.abs() > half {
                return false;
            }
            continue;
        }
        let (low, high) = ((-half - start) / way, (half - start) / way);
        first = first.max(low.min(high));
        last = last.min(low.max(high));
    }
    first <= last
}
