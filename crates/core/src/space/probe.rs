//! What a body touches zones with.

use glam::{DVec3, Vec3};

use crate::{
    base::geometry::{Pose, Rotation},
    space::{
        approach::comes_within,
        general::General,
        placed::Placed,
        shape::{Form, Shape},
    },
};

/// Capsules and boxes that move touch whatever they come so near to, in scene units: `parry3d` works such distances
/// out step by step, and this is finer than places of single precision can tell.
const TOUCHING: f64 = 1e-7;

/// A capsule or a box that moves.
#[derive(Clone, Debug)]
pub(crate) struct Extended {
    shape: General,
    /// How far it extends from its place.
    reach: f64,
}

/// The shape of a body, seen from its place and turned as the body faces.
#[derive(Clone, Debug)]
pub(crate) enum Probe {
    Ball { offset: DVec3, radius: f64 },
    General(Box<Extended>),
}

impl Probe {
    pub(crate) fn new(shape: &Shape, facing: Rotation) -> Option<Self> {
        let member = shape.members.first()?;
        let placed = *shape.placed(Pose::default().facing(facing)).first()?;
        if let Placed::Ball { middle, radius } = placed {
            return Some(Self::Ball { offset: middle, radius });
        }
        if !cfg!(feature = "shaped-bodies") {
            return None;
        }
        let size = match member.form {
            Form::Box { width, height, depth } => {
                Vec3::new(width, height, depth.unwrap_or(0.0)).as_dvec3().length() * 0.5
            }
            Form::Capsule { along, radius } => along.as_dvec3().length() * 0.5 + radius,
            _ => return None,
        };
        let reach = member.pose.at.as_dvec3().length() + size;
        Some(Self::General(Box::new(Extended { shape: placed.general(), reach })))
    }

    /// How far it extends from its place.
    pub(crate) fn reach(&self) -> f64 {
        match self {
            Self::Ball { offset, radius } => offset.length() + radius,
            Self::General(of) => of.reach,
        }
    }
}

/// A zone's form with what a probe needs of it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Seen<'a> {
    pub(crate) placed: &'a Placed,
    pub(crate) general: Option<&'a General>,
}

impl Seen<'_> {
    /// How far apart the two are; below 0 inside, where that is known.
    #[inline]
    pub(crate) fn apart(&self, probe: Option<&Probe>, at: DVec3) -> f64 {
        match probe {
            None => self.placed.signed(at),
            Some(Probe::Ball { offset, radius }) => self.placed.signed(at + *offset) - radius,
            Some(Probe::General(of)) => {
                self.general.map_or(f64::INFINITY, |zone| of.shape.distance(at, zone))
            }
        }
    }

    /// Whether a body touches it, or comes so near.
    #[inline]
    pub(crate) fn within(&self, probe: Option<&Probe>, at: DVec3, margin: f64) -> bool {
        match probe {
            None => self.placed.within(at, margin),
            Some(Probe::Ball { offset, radius }) => self.placed.within(at + *offset, radius + margin),
            Some(Probe::General(_)) => self.apart(probe, at) <= margin + TOUCHING,
        }
    }

    /// Whether a body touches it anywhere on the straight way between two places.
    pub(crate) fn meets(&self, probe: Option<&Probe>, from: DVec3, to: DVec3) -> bool {
        match probe {
            None => self.placed.meets(from, to, 0.0),
            Some(Probe::Ball { offset, radius }) => self.placed.meets(from + *offset, to + *offset, *radius),
            Some(Probe::General(_)) => comes_within(from, to, 0.0, TOUCHING, |at| self.apart(probe, at)),
        }
    }
}
