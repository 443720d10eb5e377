//! What a part may be to players: what it offers, what it is to a ray, what it does to their velocity.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{clock::Ticks, value::Text},
    payload,
    space::{grid::Grid, shape::Shape},
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
pub struct Offer {
    /// What the player is told.
    pub label: SmolStr,
    /// The key, or the name of the action, that answers it.
    pub key: SmolStr,
    /// How long the key must be held; 0 for a mere press.
    pub hold: Ticks,
    /// How near the player must be, in scene units.
    pub reach: f64,
    /// Nothing solid may stand between.
    pub sight: bool,
    /// How far to the side of where the player faces it may be, in degrees.
    pub facing: Option<f64>,
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

/// What a part does to the velocity of those inside the zones of its object.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Current {
    /// Which way, of length 1, as seen from the object.
    pub along: Vec3,
    /// It is added to their velocity every second; otherwise it is their velocity.
    pub adds: bool,
    /// How far from the object's place it has fallen to nothing, in scene units; the same everywhere without.
    pub falloff: Option<f64>,
    /// A body that leaves is still again.
    pub stills: bool,
}
