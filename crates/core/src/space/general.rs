//! Bodies that are capsules or boxes, as `parry3d` has them.

use glam::{DQuat, DVec3};
use parry3d_f64::{
    math, query,
    shape::{Ball, Capsule, Cuboid, Cylinder, HalfSpace, Shape as ParryShape},
};

use crate::space::placed::Placed;

impl Placed {
    /// The same as `parry3d` has it, for capsules and boxes that move.
    pub(crate) fn general(&self) -> General {
        let mut endless = false;
        let upright = |middle: DVec3, axis: DVec3| (middle, DQuat::from_rotation_arc(DVec3::Y, axis));
        let (shape, (middle, turn)) = match *self {
            Self::Box { middle, half } | Self::Turned { middle, half, .. } => {
                let turn =
                    if let Self::Turned { back, .. } = *self { back.inverse() } else { DQuat::IDENTITY };
                endless = half.z.is_infinite();
                let half = math::Vector::new(half.x, half.y, if endless { ENDLESS } else { half.z });
                (Solid::Cuboid(Cuboid::new(half)), (middle, turn))
            }
            Self::Ball { middle, radius } => (Solid::Ball(Ball::new(radius)), (middle, DQuat::IDENTITY)),
            Self::Capsule { from, to, radius } => {
                let half = (to - from).length() * 0.5;
                let axis = (to - from).try_normalize().unwrap_or(DVec3::Y);
                (Solid::Capsule(Capsule::new_y(half, radius)), upright((from + to) * 0.5, axis))
            }
            Self::Cylinder { middle, axis, half, radius } => {
                (Solid::Cylinder(Cylinder::new(half, radius)), upright(middle, axis))
            }
            Self::HalfSpace { normal, offset } => {
                (Solid::HalfSpace(HalfSpace::new(vector(normal))), (normal * offset, DQuat::IDENTITY))
            }
        };
        General { shape, pose: math_pose(middle, turn), endless }
    }
}

/// A form as `parry3d` has it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct General {
    shape: Solid,
    pose: math::Pose,
    /// A flat box, which reaches along its third axis as far as whatever is compared with it.
    endless: bool,
}

/// Half of what a flat box reaches around whatever is compared with it.
const ENDLESS: f64 = 1e3;

#[derive(Clone, Copy, Debug)]
enum Solid {
    Ball(Ball),
    Capsule(Capsule),
    Cuboid(Cuboid),
    Cylinder(Cylinder),
    HalfSpace(HalfSpace),
}

impl Solid {
    fn known(&self) -> &dyn ParryShape {
        match self {
            Self::Ball(shape) => shape,
            Self::Capsule(shape) => shape,
            Self::Cuboid(shape) => shape,
            Self::Cylinder(shape) => shape,
            Self::HalfSpace(shape) => shape,
        }
    }
}

impl General {
    /// How far apart this one, moved by so much, and another are; 0 if they touch.
    pub(crate) fn distance(&self, moved: DVec3, other: &Self) -> f64 {
        let mut pose = self.pose;
        pose.translation += vector(moved);
        // Every pair of the forms there are is known to `parry3d`.
        let found =
            query::distance(&pose, self.shape.known(), &other.beside(pose.translation), other.shape.known());
        found.map_or(f64::INFINITY, |distance| distance.distance)
    }

    /// Its pose, brought along its endless axis to where something else is.
    fn beside(&self, other: math::Vector) -> math::Pose {
        if !self.endless {
            return self.pose;
        }
        let axis = self.pose.rotation * math::Vector::Z;
        let along = (other - self.pose.translation).dot(axis);
        math::Pose::from_parts(self.pose.translation + axis * along, self.pose.rotation)
    }
}

fn vector(of: DVec3) -> math::Vector {
    math::Vector::from_array(of.to_array())
}

fn math_pose(at: DVec3, turn: DQuat) -> math::Pose {
    math::Pose::from_parts(vector(at), math::Rotation::from_array(turn.to_array()))
}
