//! Values that guards, payloads, variables and the trace can hold, and their types.

use std::{fmt, sync::Arc};

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;
use smol_str::{SmolStr, format_smolstr};

use crate::base::{
    clock::Ticks,
    geometry::{Colour, Rotation},
    ids::{ObjectId, SpotId},
    spot_path::SpotPath,
};

/// Text of any length; up to 23 bytes are kept without an allocation.
pub type Text = SmolStr;

/// The values of a payload or of an effect, in the order of its fields.
pub type Values = SmallVec<[Value; 2]>;

/// One value.
///
/// ```
/// use stoicheon_core::{Type, Value};
/// let level = Value::from(0.4);
/// assert_eq!(level.type_of(), Some(Type::Number));
/// assert_eq!(level.as_number(), Some(0.4));
/// assert_eq!(level.as_bool(), None);
/// ```
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Value {
    /// No value: what an expression gives whose operands do not fit it.
    #[default]
    Nothing,
    /// True or false.
    Bool(bool),
    /// A number.
    Number(f64),
    /// A whole number.
    Whole(i64),
    /// Text, or one word of a list.
    Text(Text),
    /// A span of time, in ticks of the world.
    Duration(Ticks),
    /// A place or a direction, in scene units.
    Vector(Vec3),
    /// A turn in space.
    Rotation(Rotation),
    /// A colour.
    Colour(Colour),
    /// An object, perhaps one that is gone by now.
    Object(ObjectId),
    /// A place to arrive at.
    Spot(SpotId),
    /// A place to arrive at in a scene, by name: it leads there from any scene, and also while that scene is not loaded.
    SpotElsewhere(Arc<SpotPath>),
}

impl Value {
    /// The type, or `None` for [`Value::Nothing`]. A word of a list says [`Type::Text`]: the value does not know
    /// the list.
    pub fn type_of(&self) -> Option<Type> {
        Some(match self {
            Self::Nothing => return None,
            Self::Bool(_) => Type::Bool,
            Self::Number(_) => Type::Number,
            Self::Whole(_) => Type::Whole,
            Self::Text(_) => Type::Text,
            Self::Duration(_) => Type::Duration,
            Self::Vector(_) => Type::Vector,
            Self::Rotation(_) => Type::Rotation,
            Self::Colour(_) => Type::Colour,
            Self::Object(_) => Type::Object,
            Self::Spot(_) | Self::SpotElsewhere(_) => Type::Spot,
        })
    }

    /// The value as players read it, if that needs nothing of the world: a number has three decimals at most.
    ///
    /// ```
    /// use stoicheon_core::Value;
    /// assert_eq!(Value::from(0.1 + 0.2).shown().as_deref(), Some("0.3"));
    /// assert_eq!(Value::Nothing.shown().as_deref(), Some(""));
    /// ```
    pub fn shown(&self) -> Option<Text> {
        Some(match self {
            Self::Nothing => Text::default(),
            Self::Bool(yes) => format_smolstr!("{yes}"),
            Self::Number(number) => shown_number(*number),
            Self::Whole(number) => format_smolstr!("{number}"),
            Self::Text(text) => text.clone(),
            Self::Vector(at) => {
                let [x, y, z] = at.to_array().map(|part| shown_number(f64::from(part)));
                format_smolstr!("({x}, {y}, {z})")
            }
            Self::Rotation(rotation) => {
                let (axis, degrees) = rotation.axis_and_degrees();
                let [x, y, z] = axis.to_array().map(|part| shown_number(f64::from(part)));
                format_smolstr!("{}° about ({x}, {y}, {z})", shown_number(degrees))
            }
            Self::Colour(colour) => format_smolstr!("{colour}"),
            Self::SpotElsewhere(path) => format_smolstr!("{path}"),
            Self::Duration(_) | Self::Object(_) | Self::Spot(_) => return None,
        })
    }

    /// The number, if this is one. A whole number is one too.
    #[expect(clippy::cast_precision_loss, reason = "past 2^53 the nearest number is meant")]
    pub fn as_number(&self) -> Option<f64> {
        match self {
            Self::Number(number) => Some(*number),
            Self::Whole(number) => Some(*number as f64),
            _ => None,
        }
    }

    /// The whole number, if this is one.
    pub fn as_whole(&self) -> Option<i64> {
        if let Self::Whole(number) = self { Some(*number) } else { None }
    }

    /// The truth value, if this is one.
    pub fn as_bool(&self) -> Option<bool> {
        if let Self::Bool(yes) = self { Some(*yes) } else { None }
    }

    /// The text, if this is text.
    pub fn as_text(&self) -> Option<&str> {
        if let Self::Text(text) = self { Some(text) } else { None }
    }

    /// The place or direction, if this is one.
    pub fn as_vector(&self) -> Option<Vec3> {
        if let Self::Vector(vector) = self { Some(*vector) } else { None }
    }

    /// The object, if this is one.
    pub fn as_object(&self) -> Option<ObjectId> {
        if let Self::Object(object) = self { Some(*object) } else { None }
    }
}

/// A number as a person writes it: three decimals at most, and none that are 0.
pub(crate) fn shown_number(number: f64) -> Text {
    let text = format!("{number:.3}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { Text::new_static("0") } else { text.into() }
}

/// The type of a [`Value`].
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum Type {
    /// True or false.
    #[serde(rename = "boolean")]
    Bool,
    /// A number.
    Number,
    /// A whole number.
    Whole,
    /// Text.
    Text,
    /// A span of time.
    Duration,
    /// Three numbers: a place or a direction.
    Vector,
    /// A turn in space.
    Rotation,
    /// A colour.
    Colour,
    /// An object.
    Object,
    /// An object that is a player.
    Player,
    /// A place to arrive at.
    Spot,
    /// One word of a list; text while the world runs.
    OneOf(Arc<[SmolStr]>),
}

impl Type {
    /// Every type that has no list to it, in the order a page lists them.
    pub const PLAIN: [Self; 11] = [
        Self::Bool,
        Self::Number,
        Self::Whole,
        Self::Text,
        Self::Duration,
        Self::Vector,
        Self::Rotation,
        Self::Colour,
        Self::Object,
        Self::Player,
        Self::Spot,
    ];

    /// One of these words.
    pub fn one_of<W: Into<SmolStr>>(words: impl IntoIterator<Item = W>) -> Self {
        Self::OneOf(words.into_iter().map(Into::into).collect())
    }

    /// The word a wiring file uses for it.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Bool => "boolean",
            Self::Number => "number",
            Self::Whole => "whole",
            Self::Text => "text",
            Self::Duration => "duration",
            Self::Vector => "vector",
            Self::Rotation => "rotation",
            Self::Colour => "colour",
            Self::Object => "object",
            Self::Player => "player",
            Self::Spot => "spot",
            Self::OneOf(_) => "one of",
        }
    }

    /// Whether something of this type can hold the value as it is.
    pub fn admits(&self, value: &Value) -> bool {
        match (self, value) {
            (Self::Bool, Value::Bool(_))
            | (Self::Number, Value::Number(_))
            | (Self::Whole, Value::Whole(_))
            | (Self::Text, Value::Text(_))
            | (Self::Duration, Value::Duration(_))
            | (Self::Vector, Value::Vector(_))
            | (Self::Rotation, Value::Rotation(_))
            | (Self::Colour, Value::Colour(_))
            | (Self::Object | Self::Player, Value::Object(_))
            | (Self::Spot, Value::Spot(_) | Value::SpotElsewhere(_)) => true,
            // A list without words is that of a part, which only the part knows.
            (Self::OneOf(words), Value::Text(word)) => words.is_empty() || words.contains(word),
            _ => false,
        }
    }

    /// The value as something of this type holds it: a whole number is a number too. `None` if it does not fit.
    pub fn hold(&self, value: Value) -> Option<Value> {
        match (self, &value) {
            (Self::Number, Value::Whole(_)) => value.as_number().map(Value::Number),
            _ => self.admits(&value).then_some(value),
        }
    }
}

impl fmt::Display for Type {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            // One of a part's own words, which only the part knows.
            Self::OneOf(words) if words.is_empty() => f.write_str("word"),
            Self::OneOf(words) => write!(f, "one of ({})", words.join(", ")),
            plain => f.write_str(plain.word()),
        }
    }
}

/// A plain Rust type that can stand in a payload.
///
/// It is implemented for `bool`, `f64`, `f32`, `u32`, `i32`, `i64`, [`Text`], [`Ticks`], [`Vec3`], [`Rotation`],
/// [`Colour`], [`ObjectId`], [`SpotId`] and [`SpotRef`](crate::SpotRef).
pub trait FieldValue: Sized + Send + 'static {
    /// The type the field has in guards and in the trace.
    fn field_type() -> Type;
    /// The field as a value.
    fn to_value(&self) -> Value;
    /// The field from a value, or `None` when the value does not fit.
    fn from_value(value: &Value) -> Option<Self>;
}

macro_rules! field_value {
    ($($rust:ty, $kind:ident, $from:expr, $to:expr;)*) => {$(
        impl FieldValue for $rust {
            fn field_type() -> Type {
                Type::$kind
            }
            fn to_value(&self) -> Value {
                Value::$kind(($from)(self))
            }
            fn from_value(value: &Value) -> Option<Self> {
                if let Value::$kind(inner) = value { ($to)(inner) } else { None }
            }
        }
        impl From<$rust> for Value {
            fn from(value: $rust) -> Self {
                value.to_value()
            }
        }
    )*};
}

field_value! {
    bool, Bool, |v: &bool| *v, |v: &bool| Some(*v);
    f64, Number, |v: &f64| *v, |v: &f64| Some(*v);
    f32, Number, |v: &f32| f64::from(*v), |v: &f64| {
        #[expect(clippy::cast_possible_truncation, reason = "an f32 field asks for just that")]
        let narrow = *v as f32;
        Some(narrow)
    };
    u32, Whole, |v: &u32| i64::from(*v), |v: &i64| u32::try_from(*v).ok();
    i32, Whole, |v: &i32| i64::from(*v), |v: &i64| i32::try_from(*v).ok();
    i64, Whole, |v: &i64| *v, |v: &i64| Some(*v);
    Text, Text, Text::clone, |v: &Text| Some(v.clone());
    Ticks, Duration, |v: &Ticks| *v, |v: &Ticks| Some(*v);
    Vec3, Vector, |v: &Vec3| *v, |v: &Vec3| Some(*v);
    Rotation, Rotation, |v: &Rotation| *v, |v: &Rotation| Some(*v);
    Colour, Colour, |v: &Colour| *v, |v: &Colour| Some(*v);
    ObjectId, Object, |v: &ObjectId| *v, |v: &ObjectId| Some(*v);
    SpotId, Spot, |v: &SpotId| *v, |v: &SpotId| Some(*v);
}

impl From<&str> for Value {
    fn from(text: &str) -> Self {
        Self::Text(text.into())
    }
}
