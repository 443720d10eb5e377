//! A value: as wiring writes it, and as JSON has it.

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde::{Serialize, Serializer};
use serde_json::{Value as Json, json};
use stoicheon_core::{Rotation, State, Type, Value};

use crate::phrase::{typed_text, value_text};

/// A value for people and for programs. As JSON it is a number, a truth value, a text (also for names of objects, spots and
/// colours), three numbers, seconds for a duration, `{"axis": [x, y, z], "degrees": d}` for a rotation, or null for nothing.
#[derive(Clone, Debug, PartialEq)]
pub struct Shown {
    /// As wiring writes it.
    pub text: String,
    json: Json,
}

impl Shown {
    pub(crate) fn of(state: &State, ty: Option<&Type>, value: &Value) -> Self {
        let text = match value {
            // More digits only make a line longer.
            Value::Number(number) => format!("{}", (number * 1e4).round() / 1e4),
            other => typed_text(state, ty, other),
        };
        Self { text, json: as_json(state, value) }
    }

    pub(crate) fn rotation(state: &State, facing: Rotation) -> Self {
        Self::of(state, None, &Value::Rotation(facing))
    }

    pub(crate) fn vector(state: &State, at: stoicheon_core::Vec3) -> Self {
        Self::of(state, None, &Value::Vector(at))
    }
}

impl Serialize for Shown {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.json.serialize(to)
    }
}

impl JsonSchema for Shown {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Value".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        json_schema!({
            "description": "A number, a truth value, a text, three numbers, seconds, a rotation as axis and degrees, or null.",
            "type": ["number", "boolean", "string", "array", "object", "null"]
        })
    }
}

/// A number of single precision with the digits that a person would write for it.
fn single(number: f32) -> Json {
    number.to_string().parse::<f64>().map_or(Json::Null, Json::from)
}

fn as_json(state: &State, value: &Value) -> Json {
    let vector = |vector: stoicheon_core::Vec3| json!([single(vector.x), single(vector.y), single(vector.z)]);
    match value {
        Value::Bool(yes) => json!(yes),
        Value::Number(number) => json!(number),
        Value::Whole(number) => json!(number),
        Value::Text(text) => json!(text.as_str()),
        Value::Duration(span) => json!(state.rate().seconds(*span).0),
        Value::Vector(at) => vector(*at),
        Value::Rotation(rotation) => {
            let (axis, degrees) = rotation.axis_and_degrees();
            json!({ "axis": vector(axis), "degrees": (degrees * 1e4).round() / 1e4 })
        }
        Value::Nothing => Json::Null,
        Value::Colour(_) | Value::Object(_) | Value::Spot(_) | Value::SpotElsewhere(_) => {
            json!(value_text(state, value))
        }
        _ => Json::Null,
    }
}
