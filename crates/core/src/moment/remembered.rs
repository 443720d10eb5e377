//! Values as people read them in a save.

use std::fmt;

use glam::{Quat, Vec3};
use serde::{
    Deserialize, Deserializer, Serialize, Serializer,
    de::{Error as _, MapAccess, SeqAccess, Visitor},
    ser::SerializeMap,
};
use smol_str::SmolStr;

use crate::base::{
    clock::{TickRate, secs},
    geometry::{Colour, Rotation},
    ids::{ObjectId, SpotId},
    spot_path::SpotPath,
    value::{Text, Type, Value},
};

/// A value in a save: `true`, `3`, `0.4`, `"done"`, `[4.0, 0.0, 10.0]`, `{"seconds": 2.5}`.
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub enum Remembered {
    /// No value.
    #[default]
    Nothing,
    /// True or false.
    Bool(bool),
    /// A whole number.
    Whole(i64),
    /// A number.
    Number(f64),
    /// Text, or one word of a list.
    Text(Text),
    /// A place or a direction, in scene units.
    Vector([f32; 3]),
    /// A turn in space: a quaternion x, y, z, w.
    Turn([f32; 4]),
    /// A colour: `#rrggbbaa`.
    Colour(Text),
    /// A span of time, in seconds.
    Seconds(f64),
    /// An object, by name.
    Object(Text),
    /// A spot, by name.
    Spot(Text),
    /// A spot of a scene, by both names.
    SpotIn(SpotPath),
}

impl Remembered {
    /// A value as it is written; objects and spots that are gone have no name.
    pub(crate) fn of(
        value: &Value,
        rate: TickRate,
        object: impl Fn(ObjectId) -> Option<Text>,
        spot: impl Fn(SpotId) -> Option<Text>,
    ) -> Self {
        match value {
            Value::Nothing => Self::Nothing,
            Value::Bool(yes) => Self::Bool(*yes),
            Value::Whole(number) => Self::Whole(*number),
            Value::Number(number) => Self::Number(*number),
            Value::Text(text) => Self::Text(text.clone()),
            Value::Vector(vector) => Self::Vector(vector.to_array()),
            Value::Rotation(turn) => Self::Turn(turn.quat().to_array()),
            Value::Colour(colour) => Self::Colour(colour.to_string().into()),
            Value::Duration(span) => Self::Seconds(rate.seconds(*span).0),
            Value::Object(id) => object(*id).map_or(Self::Nothing, Self::Object),
            Value::Spot(id) => spot(*id).map_or(Self::Nothing, Self::Spot),
            Value::SpotElsewhere(path) => Self::SpotIn(SpotPath::clone(path)),
        }
    }

    /// The value, as something of that type holds it; `None` if it does not fit.
    pub(crate) fn value(
        &self,
        ty: Option<&Type>,
        rate: TickRate,
        object: impl Fn(&str) -> Option<ObjectId>,
        spot: impl Fn(&str) -> Option<SpotId>,
    ) -> Option<Value> {
        let value = match self {
            Self::Nothing => Value::Nothing,
            Self::Bool(yes) => Value::Bool(*yes),
            Self::Whole(number) => Value::Whole(*number),
            Self::Number(number) => Value::Number(*number),
            Self::Text(text) => Value::Text(text.clone()),
            Self::Vector(vector) => Value::Vector(Vec3::from_array(*vector)),
            Self::Turn(turn) => Value::Rotation(Rotation::from_quat(Quat::from_array(*turn)).ok()?),
            Self::Colour(text) => Value::Colour(text.parse::<Colour>().ok()?),
            Self::Seconds(span) => Value::Duration(rate.ticks(secs(*span)).ok()?),
            Self::Object(name) => Value::Object(object(name)?),
            Self::Spot(name) => Value::Spot(spot(name)?),
            Self::SpotIn(path) => path.clone().into(),
        };
        match ty {
            // What referred to something that was gone already may be of any type.
            Some(_) if value == Value::Nothing => None,
            Some(ty) => ty.hold(value),
            None => Some(value),
        }
    }

    /// The value itself, for a message.
    pub(crate) fn text(&self) -> Text {
        match self {
            Self::Whole(number) => smol_str::format_smolstr!("{number}"),
            Self::Number(number) => smol_str::format_smolstr!("{number}"),
            Self::Text(text) => smol_str::format_smolstr!("{text:?}"),
            other => other.word().into(),
        }
    }

    /// What it is, with its article.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Nothing => "nothing",
            Self::Bool(_) => "a boolean",
            Self::Whole(_) => "a whole number",
            Self::Number(_) => "a number",
            Self::Text(_) => "text",
            Self::Vector(_) => "a vector",
            Self::Turn(_) => "a rotation",
            Self::Colour(_) => "a colour",
            Self::Seconds(_) => "a duration",
            Self::Object(_) => "an object",
            Self::Spot(_) | Self::SpotIn(_) => "a spot",
        }
    }
}

impl Serialize for Remembered {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        fn one<S: Serializer>(to: S, key: &str, value: &impl Serialize) -> Result<S::Ok, S::Error> {
            let mut map = to.serialize_map(Some(1))?;
            map.serialize_entry(key, value)?;
            map.end()
        }
        match self {
            Self::Nothing => to.serialize_unit(),
            Self::Bool(yes) => to.serialize_bool(*yes),
            Self::Whole(number) => to.serialize_i64(*number),
            Self::Number(number) => to.serialize_f64(*number),
            Self::Text(text) => to.serialize_str(text),
            Self::Vector(vector) => vector.serialize(to),
            Self::Turn(turn) => one(to, "turn", turn),
            Self::Colour(colour) => one(to, "colour", colour),
            Self::Seconds(span) => one(to, "seconds", span),
            Self::Object(name) => one(to, "object", name),
            Self::Spot(name) => one(to, "spot", name),
            Self::SpotIn(SpotPath { scene, spot }) => {
                let mut map = to.serialize_map(Some(2))?;
                map.serialize_entry("spot", spot)?;
                map.serialize_entry("scene", scene)?;
                map.end()
            }
        }
    }
}

impl<'de> Deserialize<'de> for Remembered {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_any(Reader)
    }
}

/// By hand, since finding the form by trial would copy every value first.
struct Reader;

impl<'de> Visitor<'de> for Reader {
    type Value = Remembered;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a boolean, a number, text, three numbers, or one of {\"turn\"}, {\"colour\"}, {\"seconds\"}, {\"object\"}, {\"spot\"}, {\"spot\", \"scene\"}")
    }
    fn visit_unit<E>(self) -> Result<Remembered, E> {
        Ok(Remembered::Nothing)
    }
    fn visit_none<E>(self) -> Result<Remembered, E> {
        Ok(Remembered::Nothing)
    }
    fn visit_bool<E>(self, yes: bool) -> Result<Remembered, E> {
        Ok(Remembered::Bool(yes))
    }
    fn visit_i64<E>(self, number: i64) -> Result<Remembered, E> {
        Ok(Remembered::Whole(number))
    }
    fn visit_u64<E: serde::de::Error>(self, number: u64) -> Result<Remembered, E> {
        i64::try_from(number).map(Remembered::Whole).map_err(E::custom)
    }
    fn visit_f64<E>(self, number: f64) -> Result<Remembered, E> {
        Ok(Remembered::Number(number))
    }
    fn visit_str<E>(self, text: &str) -> Result<Remembered, E> {
        Ok(Remembered::Text(SmolStr::new(text)))
    }
    fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Remembered, A::Error> {
        let mut vector = [0.0; 3];
        for (index, number) in vector.iter_mut().enumerate() {
            *number = seq.next_element()?.ok_or_else(|| A::Error::invalid_length(index, &"three numbers"))?;
        }
        match seq.next_element::<f32>()? {
            None => Ok(Remembered::Vector(vector)),
            Some(_) => Err(A::Error::invalid_length(4, &"three numbers")),
        }
    }
    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<Remembered, A::Error> {
        const KEYS: &[&str] = &["turn", "colour", "seconds", "object", "spot"];
        let key = map.next_key::<Text>()?.ok_or_else(|| A::Error::invalid_length(0, &"one of the forms"))?;
        let found = match key.as_str() {
            "turn" => Remembered::Turn(map.next_value()?),
            "colour" => Remembered::Colour(map.next_value()?),
            "seconds" => Remembered::Seconds(map.next_value()?),
            "object" => Remembered::Object(map.next_value()?),
            "spot" => Remembered::Spot(map.next_value()?),
            other => return Err(A::Error::unknown_field(other, KEYS)),
        };
        match (map.next_key::<Text>()?.as_deref(), found) {
            (None, found) => Ok(found),
            (Some("scene"), Remembered::Spot(spot)) => {
                let scene = map.next_value()?;
                match map.next_key::<Text>()? {
                    None => Ok(Remembered::SpotIn(SpotPath { scene, spot })),
                    Some(_) => Err(A::Error::invalid_length(3, &"a spot and a scene")),
                }
            }
            (Some(_), _) => Err(A::Error::invalid_length(2, &"one of the forms")),
        }
    }
}

#[cfg(feature = "schema")]
impl schemars::JsonSchema for Remembered {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Remembered".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let numbers = |count: u32| {
            schemars::json_schema!({
                "type": "array", "items": {"type": "number"}, "minItems": count, "maxItems": count
            })
        };
        let form = |key: &str, of: &schemars::Schema| {
            schemars::json_schema!({
                "type": "object", "properties": {key: of}, "required": [key], "additionalProperties": false
            })
        };
        let text = schemars::json_schema!({"type": "string"});
        let number = schemars::json_schema!({"type": "number"});
        schemars::json_schema!({
            "description": "A value: a boolean, a number, text, a vector, or a form for the rest.",
            "anyOf": [
                {"type": ["boolean", "number", "string", "null"]},
                numbers(3),
                form("turn", &numbers(4)),
                form("colour", &text),
                form("seconds", &number),
                form("object", &text),
                form("spot", &text),
                {
                    "type": "object", "properties": {"spot": text, "scene": text},
                    "required": ["spot", "scene"], "additionalProperties": false
                },
            ]
        })
    }
}
