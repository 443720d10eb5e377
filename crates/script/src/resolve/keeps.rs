//! What binds keep.

use smol_str::SmolStr;
use stoicheon_core::Type;

/// What a bind keeps.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Keeps {
    Var(usize),
    /// A variable of each that has a tag.
    Each(SmolStr, SmolStr),
    /// The place or the facing of an object, or of each that has a tag.
    Pose(Result<usize, SmolStr>, Pose),
    /// A setting of a part of an object.
    Setting {
        object: usize,
        part: usize,
        name: SmolStr,
    },
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Pose {
    Place,
    Facing,
}

impl Pose {
    pub(super) fn of(word: &str) -> Option<Self> {
        match word {
            "place" => Some(Self::Place),
            "facing" => Some(Self::Facing),
            _ => None,
        }
    }

    pub(super) fn ty(self) -> Type {
        match self {
            Self::Place => Type::Vector,
            Self::Facing => Type::Rotation,
        }
    }
}
