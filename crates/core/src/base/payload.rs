//! Payloads: plain structs whose fields guards and the trace can read by name.

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::base::value::{Type, Value, Values};

/// A field of a payload or of an effect.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Field {
    /// Its name.
    pub name: SmolStr,
    /// Its type.
    #[serde(rename = "type")]
    pub ty: Type,
}

/// What a signal carries.
///
/// Write one with [`payload!`](crate::payload!); `()` is the payload of a signal that carries nothing, and
/// [`Values`] that of a signal whose fields are known only from a file.
pub trait Payload: Sized + Send + 'static {
    /// The fields, in order. `None` where they are not known from the Rust type.
    fn fields() -> Option<Vec<Field>>;
    /// The payload as values, in the order of the fields.
    fn to_values(&self) -> Values;
    /// The payload from values, or `None` where they do not fit.
    fn from_values(values: &[Value]) -> Option<Self>;
}

impl Payload for () {
    fn fields() -> Option<Vec<Field>> {
        Some(Vec::new())
    }
    fn to_values(&self) -> Values {
        Values::new()
    }
    fn from_values(values: &[Value]) -> Option<Self> {
        values.is_empty().then_some(())
    }
}

impl Payload for Values {
    fn fields() -> Option<Vec<Field>> {
        None
    }
    fn to_values(&self) -> Values {
        self.clone()
    }
    fn from_values(values: &[Value]) -> Option<Self> {
        Some(values.iter().cloned().collect())
    }
}

/// Makes plain structs payloads: their fields can be read by name in guards and in the trace.
///
/// ```
/// use stoicheon_core::{Payload, payload};
///
/// payload! {
///     /// The lock bell was struck.
///     #[derive(Debug, PartialEq)]
///     pub struct Rung {
///         /// How many strokes.
///         pub strokes: u32,
///     }
/// }
///
/// let rung = Rung { strokes: 2 };
/// assert_eq!(Rung::from_values(&rung.to_values()), Some(rung));
/// ```
#[macro_export]
macro_rules! payload {
    ($($(#[$meta:meta])* $vis:vis struct $name:ident {
        $($(#[$field_meta:meta])* $field_vis:vis $field:ident : $ty:ty),* $(,)?
    })+) => {$(
        $(#[$meta])*
        $vis struct $name { $($(#[$field_meta])* $field_vis $field: $ty),* }

        impl $crate::Payload for $name {
            fn fields() -> Option<Vec<$crate::Field>> {
                Some(vec![$($crate::Field {
                    name: stringify!($field).into(),
                    ty: <$ty as $crate::FieldValue>::field_type(),
                }),*])
            }
            fn to_values(&self) -> $crate::Values {
                #[allow(unused_mut, reason = "a payload may have no fields")]
                let mut values = $crate::Values::new();
                $(values.push($crate::FieldValue::to_value(&self.$field));)*
                values
            }
            fn from_values(values: &[$crate::Value]) -> Option<Self> {
                let mut values = values.iter();
                let made = Self { $($field: $crate::FieldValue::from_value(values.next()?)?),* };
                values.next().is_none().then_some(made)
            }
        }
    )+};
}

/// `strokes: number, by: object`: fields as a message shows them.
pub(crate) fn list_fields(fields: &[Field]) -> String {
    let items: Vec<_> = fields.iter().map(|field| format!("{}: {}", field.name, field.ty)).collect();
    items.join(", ")
}

/// `number, text`: the types of values as a message shows them.
pub(crate) fn list_types(values: &[Value]) -> String {
    let items: Vec<_> = values.iter().map(type_word).collect();
    items.join(", ")
}

/// The word for the type of a value.
pub(crate) fn type_word(value: &Value) -> &'static str {
    value.type_of().map_or("nothing", |ty| ty.word())
}

/// Whether the values fit the fields, one for one.
pub(crate) fn fit(fields: &[Field], values: &[Value]) -> bool {
    fields.len() == values.len() && fields.iter().zip(values).all(|(field, value)| field.ty.admits(value))
}
