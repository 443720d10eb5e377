//! What tweens move, and how they set out and arrive.

use serde::{Deserialize, Serialize};

use crate::base::ids::{ObjectId, VarId};

/// How a tween sets out and arrives.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum Ease {
    /// At one pace all the way.
    #[default]
    Steady,
    /// Gently off and gently in.
    Smooth,
    /// Gently off.
    SoftStart,
    /// Gently in.
    SoftEnd,
}

impl Ease {
    /// Every way, in the order a page lists them.
    pub const ALL: [Self; 4] = [Self::Steady, Self::Smooth, Self::SoftStart, Self::SoftEnd];

    /// The word a wiring file uses for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Steady => "steady",
            Self::Smooth => "smooth",
            Self::SoftStart => "soft_start",
            Self::SoftEnd => "soft_end",
        }
    }

    /// How much of the way is done when that part of the time is over, both from 0 to 1.
    pub fn part(self, time: f64) -> f64 {
        match self {
            Self::Steady => time,
            Self::Smooth => time * time * (3.0 - 2.0 * time),
            Self::SoftStart => time * time,
            Self::SoftEnd => time * (2.0 - time),
        }
    }
}

/// What a tween moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Moved {
    /// A variable; of that player, if each has one of it.
    Var(VarId, Option<ObjectId>),
    /// The place of an object.
    Place(ObjectId),
    /// Which way an object faces.
    Facing(ObjectId),
}
