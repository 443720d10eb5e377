//! Turns in space and colours, as values.

use std::{fmt, str::FromStr};

use glam::{DQuat, DVec3, Quat, Vec3};
use serde::{Deserialize, Serialize};

use crate::base::error::BuildError;

/// A turn in space.
///
/// It is kept and blended with plain arithmetic, so that it comes out the same on every machine.
///
/// ```
/// use stoicheon_core::{Rotation, Vec3};
/// let quarter = Rotation::about(Vec3::Y, 90.0);
/// assert!((quarter.turn(Vec3::X) - Vec3::NEG_Z).length() < 1e-6);
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Rotation([f32; 4]);

impl Default for Rotation {
    fn default() -> Self {
        Self::NONE
    }
}

impl Rotation {
    /// No turn at all.
    pub const NONE: Self = Self([0.0, 0.0, 0.0, 1.0]);

    /// A turn by so many degrees about an axis; no turn about an axis without a length.
    pub fn about(axis: Vec3, degrees: f64) -> Self {
        match axis.as_dvec3().try_normalize() {
            Some(axis) if degrees.is_finite() => {
                Self::from_precise(DQuat::from_axis_angle(axis, degrees.to_radians()))
            }
            _ => Self::NONE,
        }
    }

    /// As a quaternion of `glam`.
    pub fn quat(self) -> Quat {
        Quat::from_array(self.0)
    }

    /// From a quaternion of `glam`.
    ///
    /// # Errors
    /// [`BuildError::BadRotation`] for one whose length is not 1, to a thousandth.
    pub fn from_quat(quat: Quat) -> Result<Self, BuildError> {
        let unit = (quat.length() - 1.0).abs() <= 1e-3;
        if unit {
            Ok(Self::from_precise(quat.as_dquat()))
        } else {
            Err(BuildError::BadRotation { found: quat })
        }
    }

    /// One turn, and then another.
    pub fn then(self, next: Self) -> Self {
        Self::from_precise(next.precise() * self.precise())
    }

    /// The turn back.
    pub fn back(self) -> Self {
        Self::from_precise(self.precise().inverse())
    }

    /// A vector, turned.
    pub fn turn(self, vector: Vec3) -> Vec3 {
        (self.precise() * vector.as_dvec3()).as_vec3()
    }

    /// The part of the way to another turn; 0 is here and 1 is there. The short way round.
    pub fn toward(self, other: Self, part: f64) -> Self {
        Self::from_precise(self.precise().slerp(other.precise(), part))
    }

    /// The axis and the angle in degrees, from 0 to 180.
    pub fn axis_and_degrees(self) -> (Vec3, f64) {
        let (axis, angle) = self.precise().to_axis_angle();
        let (axis, angle) =
            if angle > std::f64::consts::PI { (-axis, std::f64::consts::TAU - angle) } else { (axis, angle) };
        (if angle < 1e-6 { DVec3::Y } else { axis }.as_vec3(), angle.to_degrees())
    }

    /// Whether it is a turn. Data from outside may be damaged.
    pub(crate) fn is_sound(self) -> bool {
        (self.quat().length() - 1.0).abs() <= 1e-3
    }

    pub(crate) fn to_array(self) -> [f32; 4] {
        self.0
    }

    pub(crate) fn precise(self) -> DQuat {
        DQuat::from_array(self.0.map(f64::from)).normalize()
    }

    fn from_precise(quat: DQuat) -> Self {
        if quat.length_squared() > 0.0 && quat.is_finite() {
            Self(quat.normalize().as_quat().to_array())
        } else {
            Self::NONE
        }
    }
}

/// Where something is and which way it faces.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Pose {
    /// Its place, in scene units.
    pub at: Vec3,
    /// Which way it faces.
    pub facing: Rotation,
}

/// A part of a way, from 0 to 1: one that is no number is its beginning.
pub(crate) fn part_of_way(fraction: f64) -> f64 {
    if fraction.is_nan() { 0.0 } else { fraction.clamp(0.0, 1.0) }
}

impl Pose {
    /// At a place, not turned.
    pub fn at(at: Vec3) -> Self {
        Self { at, facing: Rotation::NONE }
    }

    /// The same place, turned that way.
    pub fn facing(self, facing: Rotation) -> Self {
        Self { facing, ..self }
    }

    /// Where something is that has the pose `inner` as seen from here.
    pub fn carry(self, inner: Self) -> Self {
        Self { at: self.at + self.facing.turn(inner.at), facing: inner.facing.then(self.facing) }
    }

    /// The pose of something as seen from here: `self.carry(self.seen(outer))` is `outer`, up to rounding.
    pub fn seen(self, outer: Self) -> Self {
        let back = self.facing.back();
        Self { at: back.turn(outer.at - self.at), facing: outer.facing.then(back) }
    }

    /// A pose on the way to another one, at `fraction` from 0 to 1: straight, and turning the shorter way.
    pub fn between(self, to: Self, fraction: f64) -> Self {
        let fraction = part_of_way(fraction);
        let (from, by) = (self.at.as_dvec3(), to.at.as_dvec3() - self.at.as_dvec3());
        Self { at: (from + by * fraction).as_vec3(), facing: self.facing.toward(to.facing, fraction) }
    }

    /// Where something is that is at `inner` as seen from here, in double precision.
    pub(crate) fn carry_far(self, inner: DVec3) -> DVec3 {
        self.at.as_dvec3() + self.facing.precise() * inner
    }

    /// A place as seen from here, in double precision.
    pub(crate) fn seen_far(self, outer: DVec3) -> DVec3 {
        self.facing.precise().inverse() * (outer - self.at.as_dvec3())
    }
}

/// A colour: red, green, blue, and how opaque it is, each from 0 to 255.
///
/// ```
/// use stoicheon_core::Colour;
/// let reeds: Colour = "#6fa8b0".parse()?;
/// assert_eq!(reeds, Colour([0x6f, 0xa8, 0xb0, 0xff]));
/// assert_eq!(reeds.to_string(), "#6fa8b0");
/// # Ok::<(), stoicheon_core::BadColour>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub struct Colour(pub [u8; 4]);

/// What is not a colour.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("expected a colour of six or eight digits, such as #6fa8b0, found \"{0}\"")]
pub struct BadColour(pub String);

impl FromStr for Colour {
    type Err = BadColour;
    fn from_str(text: &str) -> Result<Self, BadColour> {
        let bad = || BadColour(text.chars().take(40).collect());
        let digits = text.strip_prefix('#').filter(|digits| digits.bytes().all(|b| b.is_ascii_hexdigit()));
        let digits = digits.filter(|digits| matches!(digits.len(), 6 | 8)).ok_or_else(bad)?;
        let mut parts = [255; 4];
        for (index, part) in parts.iter_mut().enumerate().take(digits.len() / 2) {
            *part = u8::from_str_radix(&digits[index * 2..index * 2 + 2], 16).map_err(|_| bad())?;
        }
        Ok(Self(parts))
    }
}

impl fmt::Display for Colour {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let [red, green, blue, opaque] = self.0;
        write!(f, "#{red:02x}{green:02x}{blue:02x}")?;
        if opaque == 255 { Ok(()) } else { write!(f, "{opaque:02x}") }
    }
}

impl Colour {
    /// The part of the way to another colour; 0 is here and 1 is there.
    pub fn toward(self, other: Self, part: f64) -> Self {
        let mut mixed = self;
        for (here, there) in mixed.0.iter_mut().zip(other.0) {
            let way = f64::from(*here) + (f64::from(there) - f64::from(*here)) * part;
            #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "clamped")]
            let rounded = way.round().clamp(0.0, 255.0) as u8;
            *here = rounded;
        }
        mixed
    }
}

pub(crate) fn check_place(at: Vec3) -> Result<(), BuildError> {
    if at.is_finite() { Ok(()) } else { Err(BuildError::BadPlace { found: at }) }
}

/// A velocity, or what is added to one.
pub(crate) fn check_velocity(velocity: Vec3) -> Result<(), BuildError> {
    if velocity.is_finite() { Ok(()) } else { Err(BuildError::BadVelocity { found: velocity }) }
}
