//! What a zone, a body or something to point at looks like.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smallvec::{SmallVec, smallvec};

use crate::base::{
    error::BuildError,
    geometry::{Pose, Rotation},
    value::Value,
};

/// A shape around the place of its object, turned as that faces: one simple form, or several together.
///
/// Sizes are in scene units. Borders belong to the shape. A flat scene is one in which every place has 0 for its
/// third number; a [`flat_box`](Self::flat_box) reaches through it without end, and the other forms serve as they are.
///
/// ```
/// use stoicheon_core::{Pose, Vec3, space::Shape};
/// let pool = Shape::boxed(Vec3::new(4.0, 2.0, 10.0)).and(Shape::ball(3.0).offset(Vec3::new(0.0, 0.0, 6.0)));
/// assert!(pool.contains(Pose::at(Vec3::ZERO), Vec3::new(0.0, 0.0, 8.0)));
/// assert!(!pool.contains(Pose::at(Vec3::ZERO), Vec3::new(0.0, 0.0, 9.5)));
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Shape {
    pub(crate) members: SmallVec<[Member; 1]>,
}

/// One of the simple forms a shape is made of.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Member {
    pub(crate) form: Form,
    /// Where its middle is, from the object.
    pub(crate) pose: Pose,
}

/// One of the simple forms a [shape](Shape) is made of, in scene units.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Form {
    /// A box around its middle.
    Box {
        /// Its whole size along x.
        width: f32,
        /// Along y.
        height: f32,
        /// Along z; without it, it reaches without end there.
        depth: Option<f32>,
    },
    /// A ball.
    Ball {
        /// Its radius.
        radius: f64,
    },
    /// All that is so near to a line, which is `along` from end to end.
    Capsule {
        /// The line, from end to end, around the middle.
        along: Vec3,
        /// How near.
        radius: f64,
    },
    /// Around the upright axis.
    Cylinder {
        /// Its radius.
        radius: f64,
        /// Its whole height.
        height: f64,
    },
    /// Everything on the far side of the plane through its middle from where `normal` points.
    HalfSpace {
        /// Away from what is inside.
        normal: Vec3,
    },
}

impl Shape {
    fn one(form: Form) -> Self {
        Self { members: smallvec![Member { form, pose: Pose::default() }] }
    }

    /// A box of that whole size.
    pub fn boxed(size: Vec3) -> Self {
        Self::one(Form::Box { width: size.x, height: size.y, depth: Some(size.z) })
    }

    /// A box for flat scenes: so wide along x, so high along y, and without an end along z.
    pub fn flat_box(width: f32, height: f32) -> Self {
        Self::one(Form::Box { width, height, depth: None })
    }

    /// A ball; in a flat scene, a disc.
    pub fn ball(radius: f64) -> Self {
        Self::one(Form::Ball { radius })
    }

    /// All that is no farther than `radius` from a line, which goes `along` from end to end with its middle at the
    /// object's place.
    pub fn capsule(along: Vec3, radius: f64) -> Self {
        Self::one(Form::Capsule { along, radius })
    }

    /// An upright cylinder, with its middle at the object's place.
    pub fn cylinder(radius: f64, height: f64) -> Self {
        Self::one(Form::Cylinder { radius, height })
    }

    /// Everything on the other side of the plane through the object's place from where `normal` points.
    pub fn half_space(normal: Vec3) -> Self {
        Self::one(Form::HalfSpace { normal })
    }

    /// Everything below the object's place.
    pub fn below() -> Self {
        Self::half_space(Vec3::Y)
    }

    /// The whole of it moved, as seen from the object.
    pub fn offset(mut self, by: Vec3) -> Self {
        for member in &mut self.members {
            member.pose.at += by;
        }
        self
    }

    /// The whole of it turned about the object's place.
    pub fn turned(mut self, by: Rotation) -> Self {
        let turn = Pose::default().facing(by);
        for member in &mut self.members {
            member.pose = turn.carry(member.pose);
        }
        self
    }

    /// This one and another together.
    pub fn and(mut self, other: Self) -> Self {
        self.members.extend(other.members);
        self
    }

    /// The forms it is made of, each with the pose of its middle as seen from the object: for a view.
    ///
    /// ```
    /// use stoicheon_core::{Vec3, space::{Form, Shape}};
    /// let basin = Shape::ball(2.0).and(Shape::boxed(Vec3::new(1.0, 1.0, 4.0)).offset(Vec3::X * 3.0));
    /// let forms: Vec<_> = basin.forms().collect();
    /// assert_eq!(forms[0].0, Form::Ball { radius: 2.0 });
    /// assert_eq!(forms[1].1.at, Vec3::new(3.0, 0.0, 0.0));
    /// ```
    pub fn forms(&self) -> impl Iterator<Item = (Form, Pose)> {
        self.members.iter().map(|member| (member.form, member.pose))
    }

    /// Whether every size is above zero, every number finite, every direction has a length.
    ///
    /// # Errors
    /// [`BuildError::BadSize`], [`BuildError::BadNumber`], [`BuildError::BadDirection`] or [`BuildError::BadPlace`].
    pub fn check(&self) -> Result<(), BuildError> {
        self.members.iter().try_for_each(Member::check)
    }

    /// Whether a body can have it: one ball, one capsule, or one box of three sizes.
    ///
    /// # Errors
    /// [`BuildError::BadBody`], [`BuildError::NoShapedBodies`], and as for [`check`](Self::check).
    pub fn check_body(&self) -> Result<(), BuildError> {
        self.check()?;
        let form = if let [member] = &self.members[..] { Some(member.form) } else { None };
        match form {
            Some(Form::Ball { .. }) => Ok(()),
            Some(Form::Capsule { .. } | Form::Box { depth: Some(_), .. }) => {
                if cfg!(feature = "shaped-bodies") { Ok(()) } else { Err(BuildError::NoShapedBodies) }
            }
            _ => Err(BuildError::BadBody),
        }
    }

    /// Everything it is, as plain values: what a part saves of it.
    pub fn save(&self, to: &mut Vec<Value>) {
        to.push(Value::Whole(i64::try_from(self.members.len()).unwrap_or(i64::MAX)));
        for Member { form, pose } in &self.members {
            let (kind, vector, one, two) = match *form {
                Form::Box { width, height, depth } => {
                    (u32::from(depth.is_none()), Vec3::new(width, height, depth.unwrap_or(0.0)), 0.0, 0.0)
                }
                Form::Ball { radius } => (2, Vec3::ZERO, radius, 0.0),
                Form::Capsule { along, radius } => (3, along, radius, 0.0),
                Form::Cylinder { radius, height } => (4, Vec3::ZERO, radius, height),
                Form::HalfSpace { normal } => (5, normal, 0.0, 0.0),
            };
            let [one, two] = [one, two].map(Value::Number);
            to.extend([kind.into(), vector.into(), one, two, pose.at.into(), Value::Rotation(pose.facing)]);
        }
    }

    /// The shape that was saved, and the values after it; `None` if they are not those of a shape.
    pub fn load(saved: &[Value]) -> Option<(Self, &[Value])> {
        let (Value::Whole(count), mut rest) = saved.split_first()? else { return None };
        let mut members = SmallVec::new();
        for _ in 0..*count {
            let (values, others) = rest.split_at_checked(6)?;
            let [kind, Value::Vector(vector), one, two, Value::Vector(at), Value::Rotation(facing)] = values
            else {
                return None;
            };
            let (one, two) = (one.as_number()?, two.as_number()?);
            let Value::Whole(kind @ 0..=5) = *kind else { return None };
            let form = match kind {
                0 => Form::Box { width: vector.x, height: vector.y, depth: Some(vector.z) },
                1 => Form::Box { width: vector.x, height: vector.y, depth: None },
                2 => Form::Ball { radius: one },
                3 => Form::Capsule { along: *vector, radius: one },
                4 => Form::Cylinder { radius: one, height: two },
                _ => Form::HalfSpace { normal: *vector },
            };
            members.push(Member { form, pose: Pose { at: *at, facing: *facing } });
            rest = others;
        }
        let shape = Self { members };
        shape.check().is_ok().then_some((shape, rest))
    }
}

impl Member {
    fn check(&self) -> Result<(), BuildError> {
        if !self.pose.at.is_finite() {
            return Err(BuildError::BadPlace { found: self.pose.at });
        }
        let length = |setting, found: f64| {
            let fits = found > 0.0 && found.is_finite();
            let expected = "a number above 0";
            if fits { Ok(()) } else { Err(BuildError::BadNumber { setting, expected, found }) }
        };
        match self.form {
            Form::Box { width, height, depth } => {
                // What has no end there is reported as if it were 1.
                let size = Vec3::new(width, height, depth.unwrap_or(1.0));
                let fits = size.is_finite() && size.cmpgt(Vec3::ZERO).all();
                if fits { Ok(()) } else { Err(BuildError::BadSize { found: size }) }
            }
            Form::Ball { radius } => length("the radius of a ball", radius),
            Form::Capsule { along, radius } => {
                length("the radius of a capsule", radius)?;
                direction(along)
            }
            Form::Cylinder { radius, height } => {
                length("the radius of a cylinder", radius)?;
                length("the height of a cylinder", height)
            }
            Form::HalfSpace { normal } => direction(normal),
        }
    }
}

pub(crate) fn direction(found: Vec3) -> Result<(), BuildError> {
    let fits = found.is_finite() && found.as_dvec3().length_squared() > 0.0;
    if fits { Ok(()) } else { Err(BuildError::BadDirection { found }) }
}
