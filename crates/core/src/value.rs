//! Values that guards, payloads, variables and the trace can hold, and their types.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{clock::Ticks, object::ObjectId};

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
    /// Text.
    Text(Text),
    /// A span of time, in ticks of the world.
    Duration(Ticks),
    /// A place or a direction, in scene units.
    Vector(Vec3),
    /// An object, perhaps one that is gone by now.
    Object(ObjectId),
}

impl Value {
    /// The type, or `None` for [`Value::Nothing`].
    pub fn type_of(&self) -> Option<Type> {
        Some(match self {
            Self::Nothing => return None,
            Self::Bool(_) => Type::Bool,
            Self::Number(_) => Type::Number,
            Self::Text(_) => Type::Text,
            Self::Duration(_) => Type::Duration,
            Self::Vector(_) => Type::Vector,
            Self::Object(_) => Type::Object,
        })
    }

    /// The number, if this is one.
    pub fn as_number(&self) -> Option<f64> {
        if let Self::Number(number) = self { Some(*number) } else { None }
    }

    /// The truth value, if this is one.
    pub fn as_bool(&self) -> Option<bool> {
        if let Self::Bool(yes) = self { Some(*yes) } else { None }
    }

    /// The text, if this is text.
    pub fn as_text(&self) -> Option<&str> {
        if let Self::Text(text) = self { Some(text) } else { None }
    }

    /// The object, if this is one.
    pub fn as_object(&self) -> Option<ObjectId> {
        if let Self::Object(object) = self { Some(*object) } else { None }
    }
}

/// The type of a [`Value`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Type {
    /// True or false.
    Bool,
    /// A number.
    Number,
    /// Text.
    Text,
    /// A span of time.
    Duration,
    /// Three numbers: a place or a direction.
    Vector,
    /// An object.
    Object,
}

impl Type {
    /// Every type, in the order a page lists them.
    pub const ALL: [Self; 6] =
        [Self::Bool, Self::Number, Self::Text, Self::Duration, Self::Vector, Self::Object];

    /// The word a wiring file uses for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Bool => "boolean",
            Self::Number => "number",
            Self::Text => "text",
            Self::Duration => "duration",
            Self::Vector => "vector",
            Self::Object => "object",
        }
    }
}

/// A plain Rust type that can stand in a payload.
///
/// It is implemented for `bool`, `f64`, `f32`, `u32`, [`Text`], [`Ticks`], [`Vec3`] and [`ObjectId`].
pub trait FieldValue: Sized + 'static {
    /// The type the field has in guards and in the trace.
    const TYPE: Type;
    /// The field as a value.
    fn to_value(&self) -> Value;
    /// The field from a value, or `None` when the value is of another type.
    fn from_value(value: &Value) -> Option<Self>;
}

macro_rules! field_value {
    ($($rust:ty, $kind:ident, $from:expr, $to:expr;)*) => {$(
        impl FieldValue for $rust {
            const TYPE: Type = Type::$kind;
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

/// A number that is a whole one within the range of `u32`, as one.
#[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "checked just before")]
fn whole(number: f64) -> Option<u32> {
    let fits = number.fract() == 0.0 && (0.0..=f64::from(u32::MAX)).contains(&number);
    fits.then_some(number as u32)
}

field_value! {
    bool, Bool, |v: &bool| *v, |v: &bool| Some(*v);
    f64, Number, |v: &f64| *v, |v: &f64| Some(*v);
    f32, Number, |v: &f32| f64::from(*v), |v: &f64| {
        #[expect(clippy::cast_possible_truncation, reason = "an f32 field asks for just that")]
        let narrow = *v as f32;
        Some(narrow)
    };
    u32, Number, |v: &u32| f64::from(*v), |v: &f64| whole(*v);
    Text, Text, Text::clone, |v: &Text| Some(v.clone());
    Ticks, Duration, |v: &Ticks| *v, |v: &Ticks| Some(*v);
    Vec3, Vector, |v: &Vec3| *v, |v: &Vec3| Some(*v);
    ObjectId, Object, |v: &ObjectId| *v, |v: &ObjectId| Some(*v);
}

impl From<&str> for Value {
    fn from(text: &str) -> Self {
        Self::Text(text.into())
    }
}
