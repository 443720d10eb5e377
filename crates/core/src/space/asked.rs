//! Questions about one shape, for code that has no tracker.

use glam::{DVec3, Vec3};

use crate::{
    base::geometry::Pose,
    space::{
        general::General,
        placed::Placed,
        probe::{Probe, Seen},
        shape::Shape,
    },
};

/// Where a ray meets a shape.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct RayHit {
    /// How far along the ray, in scene units.
    pub distance: f64,
    /// Which way the surface looks there, of length 1; 0 for a ray that begins inside.
    pub normal: Vec3,
}

impl Shape {
    /// Whether a point lies in the shape of something with that pose, or on its border.
    pub fn contains(&self, pose: Pose, point: Vec3) -> bool {
        self.touches(pose, None, Pose::at(point))
    }

    /// Whether the straight way between two points meets the shape anywhere.
    pub fn meets(&self, pose: Pose, from: Vec3, to: Vec3) -> bool {
        self.touches_on_its_way(pose, None, from, Pose::at(to))
    }

    /// Whether a body of some shape, or a point, touches the shape of something with that pose.
    ///
    /// The border is exact for points and balls, and for capsules and boxes a ten-millionth of a unit wide. A body of a
    /// shape that [bodies cannot have](Self::check_body) counts as a point.
    pub fn touches(&self, pose: Pose, body: Option<&Self>, at: Pose) -> bool {
        let probe = body.and_then(|body| Probe::new(body, at.facing));
        self.asked(pose, |member| member.within(probe.as_ref(), at.at.as_dvec3(), 0.0))
    }

    /// Whether it touches it anywhere on the straight way from there to where it is.
    pub fn touches_on_its_way(&self, pose: Pose, body: Option<&Self>, from: Vec3, to: Pose) -> bool {
        let probe = body.and_then(|body| Probe::new(body, to.facing));
        let (from, at) = (from.as_dvec3(), to.at.as_dvec3());
        self.asked(pose, |member| member.meets(probe.as_ref(), from, at))
    }

    /// The outlines of its forms as seen from above, or from the front for a flat scene: a list of corners for each
    /// form that has an end, in order around it. For drawing.
    pub fn outlines(&self, pose: Pose, flat: bool) -> Vec<Vec<Vec3>> {
        const AROUND: u32 = 72;
        let outline = |placed: &Placed| -> Option<Vec<Vec3>> {
            let mut corners: Vec<Vec3> = Vec::new();
            for step in 0..AROUND {
                let angle = f64::from(step) / f64::from(AROUND) * std::f64::consts::TAU;
                let (along, across) = (libm::cos(angle), libm::sin(angle));
                let toward =
                    if flat { DVec3::new(along, across, 0.0) } else { DVec3::new(along, 0.0, across) };
                let corner = placed.farthest(toward)?.as_vec3();
                if corners.last().is_none_or(|last| (*last - corner).length() > 1e-4) {
                    corners.push(corner);
                }
            }
            Some(corners)
        };
        self.placed(pose).iter().filter_map(outline).collect()
    }

    /// Where a ray meets the shape of something with that pose first, no farther along than that, in scene units.
    ///
    /// A flat box that is met from before or behind its plane is met where the ray goes through the plane. Nothing is met by a
    /// ray without a direction.
    ///
    /// ```
    /// use stoicheon_core::{Pose, Vec3, space::Shape};
    /// let post = Shape::ball(0.5);
    /// let met = post.ray(Pose::at(Vec3::new(4.0, 0.0, 0.0)), Vec3::ZERO, Vec3::X, 10.0).expect("it stands there");
    /// assert_eq!((met.distance, met.normal), (3.5, Vec3::NEG_X));
    /// ```
    pub fn ray(&self, pose: Pose, from: Vec3, along: Vec3, reach: f64) -> Option<RayHit> {
        let along = along.as_dvec3().try_normalize()?;
        let (distance, normal) = self.ray_along(pose, from.as_dvec3(), along, reach)?;
        Some(RayHit { distance, normal: normal.as_vec3() })
    }

    /// The same for a direction of length 1.
    pub(crate) fn ray_along(
        &self,
        pose: Pose,
        from: DVec3,
        along: DVec3,
        reach: f64,
    ) -> Option<(f64, DVec3)> {
        let hits = self.placed(pose).into_iter().filter_map(|placed| placed.ray(from, along, reach));
        hits.min_by(|one, two| one.0.total_cmp(&two.0))
    }

    fn asked(&self, pose: Pose, holds: impl Fn(Seen<'_>) -> bool) -> bool {
        self.placed(pose).iter().any(|placed| {
            let general: General = placed.general();
            holds(Seen { placed, general: Some(&general) })
        })
    }
}
