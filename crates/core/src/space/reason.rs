//! How a body came into a zone or went out of it.

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::base::value::{FieldValue, Type, Value};

/// How a body came into a zone or went out of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Reason {
    /// It moved across the border, or crossed the zone whole.
    Walked = 1,
    /// It was put where it is.
    Placed = 2,
    /// It was there when the zone or the body became able to touch, or was given the tag it is admitted by.
    Appeared = 3,
    /// The zone's object was disabled.
    ZoneDisabled = 4,
    /// The zone's object was destroyed.
    ZoneGone = 5,
    /// The zone was moved, turned or given another shape, and the body stood still.
    ZoneMoved = 6,
    /// The body was disabled.
    BodyDisabled = 7,
    /// The body was destroyed.
    BodyGone = 8,
    /// The body lost the tag it was admitted by.
    NotAdmitted = 9,
    /// The body's player left.
    PlayerLeft = 10,
    /// It was sent to a spot in there.
    Sent = 11,
    /// It went to another scene.
    SceneLeft = 12,
}

impl Reason {
    const ALL: [Self; 12] = [
        Self::Walked,
        Self::Placed,
        Self::Appeared,
        Self::ZoneDisabled,
        Self::ZoneGone,
        Self::ZoneMoved,
        Self::BodyDisabled,
        Self::BodyGone,
        Self::NotAdmitted,
        Self::PlayerLeft,
        Self::Sent,
        Self::SceneLeft,
    ];

    /// The word a trace and a guard use for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Walked => "walked",
            Self::Placed => "placed",
            Self::Appeared => "appeared",
            Self::ZoneDisabled => "zone_disabled",
            Self::ZoneGone => "zone_gone",
            Self::ZoneMoved => "zone_moved",
            Self::BodyDisabled => "body_disabled",
            Self::BodyGone => "body_gone",
            Self::NotAdmitted => "not_admitted",
            Self::PlayerLeft => "player_left",
            Self::Sent => "sent",
            Self::SceneLeft => "scene_left",
        }
    }
}

impl FieldValue for Reason {
    fn field_type() -> Type {
        Type::one_of(Self::ALL.map(Self::word))
    }
    fn to_value(&self) -> Value {
        Value::Text(SmolStr::new_static(self.word()))
    }
    fn from_value(value: &Value) -> Option<Self> {
        Self::ALL.into_iter().find(|reason| value.as_text() == Some(reason.word()))
    }
}
