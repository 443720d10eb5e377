//! What a part may be to players: what it offers, what it is to a ray, what it does to their velocity.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::Ticks,
        error::BuildError,
        geometry::check_velocity,
        value::{Text, Value},
    },
    payload,
    space::{
        grid::Grid,
        shape::{Shape, direction},
    },
};

payload! {
    /// A player pointed at something. Who it was goes with the signal.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Picked {
        /// Where it was hit.
        pub point: Vec3,
        /// Which way its surface looks there, of length 1.
        pub normal: Vec3,
        /// How far the point is from the player, in scene units.
        pub distance: f64,
        /// The button, or whatever the host calls it.
        pub button: Text,
        /// The cell of its grid, if it has one: the column, or the first of two axial numbers.
        pub column: i64,
        /// The row, or the second of two axial numbers.
        pub row: i64,
    }
}

/// What a part is to a ray.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Aim {
    /// What it looks like.
    pub shape: Shape,
    /// It can be picked; otherwise it only hides what is behind it.
    pub picked: bool,
    /// How far from the player the point may be, in scene units.
    pub reach: Option<f64>,
    /// The cells on it.
    pub grid: Option<Grid>,
}

impl Aim {
    /// What looks like that, hides what is behind it, and is not picked.
    pub fn new(shape: Shape) -> Self {
        Self { shape, picked: false, reach: None, grid: None }
    }

    /// Everything it is but whether it is picked, as plain values: what a part saves of it.
    pub fn save(&self, to: &mut Vec<Value>) {
        to.push(self.reach.unwrap_or(-1.0).into());
        to.extend(self.grid.map_or([Value::Nothing, Value::Nothing], |grid| grid.save()));
        self.shape.save(to);
    }

    /// Becomes what was saved. False if that cannot be read, and then it stays as it is.
    pub fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Number(reach), grid @ ..] = saved else { return false };
        let Some(([first, second], shape)) = grid.split_first_chunk::<2>() else { return false };
        let Some((shape, [])) = Shape::load(shape) else { return false };
        let grid = match first {
            Value::Nothing => None,
            _ => match Grid::load(first, second) {
                Some(grid) => Some(grid),
                None => return false,
            },
        };
        *self = Self { shape, picked: self.picked, reach: (*reach >= 0.0).then_some(*reach), grid };
        true
    }

    /// Whether its shape can be, and its reach.
    ///
    /// # Errors
    /// What is wrong with the shape; [`BuildError::BadNumber`] for a reach that is not above 0.
    pub fn check(&self) -> Result<(), BuildError> {
        self.shape.check()?;
        above_zero("reach", self.reach)
    }
}

/// Whether a number that may be left out is finite and above 0.
fn above_zero(setting: &'static str, number: Option<f64>) -> Result<(), BuildError> {
    match number.filter(|number| !(*number > 0.0 && number.is_finite())) {
        Some(found) => Err(BuildError::BadNumber { setting, expected: "a number above 0", found }),
        None => Ok(()),
    }
}

payload! {
    /// A key has been held for a part of the time it takes. Who holds it goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Progress {
        /// How much of the time, from 0 to 1.
        pub part: f64,
    }
}

/// What a part offers to players.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Offer {
    /// What the player is told.
    pub label: SmolStr,
    /// The key, or the name of the action, that answers it.
    pub key: SmolStr,
    /// How long the key must be held; 0 for a mere press.
    pub hold: Ticks,
    /// How near the player must be, in scene units.
    pub reach: f64,
    /// Nothing solid may be between the player and the prompt.
    pub sight: bool,
    /// How far to the side of where the player faces it may be, in degrees.
    pub facing: Option<f64>,
}

impl Offer {
    /// An offer with that label, answered by a press of that key within 2 scene units.
    pub fn new(label: &str, key: &str) -> Self {
        let (label, key) = (label.into(), key.into());
        Self { label, key, hold: Ticks::ZERO, reach: 2.0, sight: false, facing: None }
    }

    /// Whether its numbers can be.
    ///
    /// # Errors
    /// [`BuildError::BadNumber`] for a reach that is not above 0, or an angle that is not from 0 to 180 degrees.
    pub fn check(&self) -> Result<(), BuildError> {
        above_zero("reach", Some(self.reach))?;
        let found = self.facing.unwrap_or(180.0);
        if (0.0..=180.0).contains(&found) {
            return Ok(());
        }
        Err(BuildError::BadNumber { setting: "facing", expected: "an angle from 0 to 180 degrees", found })
    }
}

/// The first signals of a part that offers something, by number.
impl Offer {
    /// The number of the signal `offered`.
    pub(crate) const OFFERED: usize = 0;
    /// The number of the signal `withdrawn`.
    pub(crate) const WITHDRAWN: usize = 1;
    /// The number of the signal `progress`.
    pub(crate) const PROGRESS: usize = 2;
    /// The number of the signal `cancelled`.
    pub(crate) const CANCELLED: usize = 3;
    /// The number of the signal `answered`.
    pub(crate) const ANSWERED: usize = 4;
}

/// Whose way a part is told: see [`Part::strode`](crate::Part::strode).
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Footing {
    /// Bodies with one of these tags, in the scene of its object. Without any, those inside the zones of its object; and its
    /// object itself, if that has no zone.
    pub of: Vec<Text>,
}

/// What a part does to the velocity of those inside the zones of its object.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Current {
    /// Which way, of length 1, as seen from the object.
    pub along: Vec3,
    /// It is added to their velocity every second; otherwise it is their velocity.
    pub adds: bool,
    /// How fast it makes a body that way at most, in scene units per second.
    pub top: Option<f64>,
    /// How far from the object's place it has fallen to nothing, in scene units; the same everywhere without.
    pub falloff: Option<f64>,
    /// A body that leaves has no velocity.
    pub stills: bool,
}

impl Current {
    /// It sets the velocity of those inside, that way as seen from the object, the same everywhere.
    ///
    /// # Errors
    /// [`BuildError::BadDirection`] for one without a length, or not of finite numbers.
    pub fn new(along: Vec3) -> Result<Self, BuildError> {
        direction(along)?;
        let along = along.as_dvec3().normalize().as_vec3();
        check_velocity(along)?;
        Ok(Self { along, adds: false, top: None, falloff: None, stills: false })
    }

    /// Whether its numbers can be.
    ///
    /// # Errors
    /// [`BuildError::BadNumber`] for a falloff or a top speed that is not above 0.
    pub fn check(&self) -> Result<(), BuildError> {
        above_zero("top", self.top)?;
        above_zero("falloff", self.falloff)
    }
}
