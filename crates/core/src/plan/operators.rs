//! The operators and functions of expressions.

use serde::{Deserialize, Serialize};

/// How two values are compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub enum Comparison {
    /// `==`
    Equal,
    /// `!=`
    NotEqual,
    /// `<`
    Less,
    /// `<=`
    AtMost,
    /// `>`
    Greater,
    /// `>=`
    AtLeast,
}

/// What is done with two values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub enum Arithmetic {
    /// `+`
    Add,
    /// `-`
    Subtract,
    /// `*`
    Multiply,
    /// `/`; by 0 it gives 0
    Divide,
}

/// A function of numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum Function {
    /// The smallest of its operands.
    Min,
    /// The largest of its operands.
    Max,
    /// The first operand, brought between the second and the third.
    Clamp,
    /// The part of the way from the first operand to the second that the third says: 0 is there, 1 is here.
    /// Numbers, vectors, rotations and colours.
    Lerp,
    /// Without its sign.
    Abs,
    /// The nearest whole number; halves go away from 0.
    Round,
    /// The whole number below.
    Floor,
    /// The whole number above.
    Ceil,
    /// What is left of the first operand when the second was taken away as often as it goes. Never below 0 when
    /// the second is above it.
    Remainder,
    /// A whole number as a number.
    Number,
    /// How long a vector is.
    Length,
}

/// One of the three numbers of a vector.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Axis {
    /// The first.
    X,
    /// The second: up.
    Y,
    /// The third.
    Z,
}

impl Axis {
    /// All of them, in order.
    pub const ALL: [Self; 3] = [Self::X, Self::Y, Self::Z];

    /// The word a wiring file uses for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::X => "x",
            Self::Y => "y",
            Self::Z => "z",
        }
    }

    pub(crate) fn of(self, vector: glam::Vec3) -> f32 {
        match self {
            Self::X => vector.x,
            Self::Y => vector.y,
            Self::Z => vector.z,
        }
    }
}

impl Function {
    /// Every function, in the order a page lists them.
    pub const ALL: [Self; 11] = [
        Self::Min,
        Self::Max,
        Self::Clamp,
        Self::Lerp,
        Self::Abs,
        Self::Round,
        Self::Floor,
        Self::Ceil,
        Self::Remainder,
        Self::Number,
        Self::Length,
    ];

    /// The word a wiring file uses for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Min => "min",
            Self::Max => "max",
            Self::Clamp => "clamp",
            Self::Lerp => "lerp",
            Self::Abs => "abs",
            Self::Round => "round",
            Self::Floor => "floor",
            Self::Ceil => "ceil",
            Self::Remainder => "remainder",
            Self::Number => "number",
            Self::Length => "length",
        }
    }
}
