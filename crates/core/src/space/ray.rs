//! Where a ray meets a shape first.

use glam::{DQuat, DVec3};

use crate::space::placed::Placed;

/// How far along the ray, and which way the surface looks there; 0 and no way for a ray that begins inside.
type Met = Option<(f64, DVec3)>;

const INSIDE: Met = Some((0.0, DVec3::ZERO));

impl Placed {
    /// Where a ray, whose direction has length 1, meets it first.
    ///
    /// A flat box is met where the ray goes through its plane, or at its rim by a ray within the plane.
    pub(crate) fn ray(&self, from: DVec3, along: DVec3, reach: f64) -> Met {
        let met = match *self {
            Self::Box { middle, half } => boxed(from - middle, along, half),
            Self::Turned { middle, half, back } => turned(back, from - middle, along, half),
            Self::Ball { middle, radius } => ball(from - middle, along, radius),
            Self::Capsule { from: one, to: two, radius } => capsule([one, two], from, along, radius),
            Self::Cylinder { middle, axis, half, radius } => {
                cylinder(DQuat::from_rotation_arc(axis, DVec3::Y), from - middle, along, half, radius)
            }
            Self::HalfSpace { normal, offset } => half_space(normal, offset, from, along),
        };
        met.filter(|(far, _)| *far <= reach)
    }
}

fn turned(back: DQuat, from: DVec3, along: DVec3, half: DVec3) -> Met {
    let (far, normal) = boxed(back * from, back * along, half)?;
    Some((far, back.inverse() * normal))
}

/// A box around the origin.
fn boxed(from: DVec3, along: DVec3, half: DVec3) -> Met {
    // A flat one has no thickness, so that only what lies within its plane begins inside.
    if half.z.is_infinite() && along.z != 0.0 {
        let far = -from.z / along.z;
        let at = (from + along * far).abs();
        let fits = far >= 0.0 && at.x <= half.x && at.y <= half.y;
        return fits.then_some((far, DVec3::Z * -along.z.signum()));
    }
    let (mut first, mut last, mut side) = (f64::NEG_INFINITY, f64::INFINITY, DVec3::ZERO);
    for (axis, normal) in DVec3::AXES.into_iter().enumerate() {
        let (start, way, half) = (from[axis], along[axis], half[axis]);
        if way == 0.0 {
            if start.abs() > half {
                return None;
            }
            continue;
        }
        let (near, far) = ((-half * way.signum() - start) / way, (half * way.signum() - start) / way);
        if near > first {
            (first, side) = (near, normal * -way.signum());
        }
        last = last.min(far);
    }
    match first {
        first if first > last || last < 0.0 => None,
        first if first < 0.0 => INSIDE,
        first => Some((first, side)),
    }
}

/// A ball around the origin.
fn ball(from: DVec3, along: DVec3, radius: f64) -> Met {
    if from.length_squared() <= radius * radius {
        return INSIDE;
    }
    let far = round(from, along, radius)?;
    Some((far, (from + along * far) / radius))
}

/// The first of the two places where something round of that radius about the origin is met; only the parts of both vectors
/// that are given count, so that a ball and the mantle of a cylinder are one.
fn round(from: DVec3, along: DVec3, radius: f64) -> Option<f64> {
    let pace = along.length_squared();
    let toward = from.dot(along);
    if pace == 0.0 || toward >= 0.0 {
        return None;
    }
    // From where the ray is nearest, half the way through: numbers stay small when it comes from far.
    let nearest = from - along * (toward / pace);
    let through = (radius * radius - nearest.length_squared()) / pace;
    let far = -toward / pace - through.max(0.0).sqrt();
    (through >= 0.0 && far >= 0.0).then_some(far)
}

fn capsule([one, two]: [DVec3; 2], from: DVec3, along: DVec3, radius: f64) -> Met {
    let middle = (one + two) * 0.5;
    let axis = (two - one).try_normalize().unwrap_or(DVec3::Y);
    let half = (two - one).length() * 0.5;
    let start = from - middle;
    let nearest = axis * start.dot(axis).clamp(-half, half);
    if (start - nearest).length_squared() <= radius * radius {
        return INSIDE;
    }
    let aside = |of: DVec3| of - axis * of.dot(axis);
    let mantle = round(aside(start), aside(along), radius).filter(|far| {
        let height = (start + along * *far).dot(axis);
        height.abs() <= half
    });
    let mantle = mantle.map(|far| (far, aside(start + along * far) / radius));
    let ends = [-half, half].map(|end| ball(start - axis * end, along, radius));
    let all = std::iter::once(mantle).chain(ends).flatten();
    all.min_by(|one, two| one.0.total_cmp(&two.0))
}

/// A cylinder that stands upright once it is turned.
fn cylinder(back: DQuat, from: DVec3, along: DVec3, half: f64, radius: f64) -> Met {
    let (from, along) = (back * from, back * along);
    let aside = |of: DVec3| DVec3::new(of.x, 0.0, of.z);
    if aside(from).length_squared() <= radius * radius && from.y.abs() <= half {
        return INSIDE;
    }
    let at = |far: f64| from + along * far;
    let mantle = round(aside(from), aside(along), radius).filter(|far| at(*far).y.abs() <= half);
    let mantle = mantle.map(|far| (far, aside(at(far)) / radius));
    let end = -half * along.y.signum();
    let far = (end - from.y) / along.y;
    let lid = (far >= 0.0 && aside(at(far)).length_squared() <= radius * radius)
        .then_some((far, DVec3::Y * -along.y.signum()));
    let (far, normal) = mantle.into_iter().chain(lid).min_by(|one, two| one.0.total_cmp(&two.0))?;
    Some((far, back.inverse() * normal))
}

fn half_space(normal: DVec3, offset: f64, from: DVec3, along: DVec3) -> Met {
    let above = from.dot(normal) - offset;
    if above <= 0.0 {
        return INSIDE;
    }
    let toward = along.dot(normal);
    (toward < 0.0).then(|| (above / -toward, normal))
}
