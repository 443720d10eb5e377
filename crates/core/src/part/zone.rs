//! The zone: a region that tells who comes and who goes.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use super::{Part, PartId, PartKind, PartSpec, Setting, SettingType, Settings, SignalKind};
use crate::{
    clock::TickRate,
    error::Error,
    expr::Expr,
    payload,
    signal::{Signal, SignalId, SignalName},
    value::{FieldValue, Type, Value},
};

/// How a body came into a zone or went out of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Reason {
    /// It moved across the border.
    Walked = 1,
    /// It was put where it is.
    Placed = 2,
    /// It was there when the zone or the body became able to touch.
    Appeared = 3,
    /// The zone's object was disabled.
    ZoneDisabled = 4,
    /// The zone's object was destroyed.
    ZoneGone = 5,
    /// The zone was moved away from under it.
    ZoneMoved = 6,
    /// The body was disabled.
    BodyDisabled = 7,
    /// The body was destroyed.
    BodyGone = 8,
    /// The body lost the tag it was admitted by.
    NotAdmitted = 9,
}

impl Reason {
    const ALL: [Self; 9] = [
        Self::Walked,
        Self::Placed,
        Self::Appeared,
        Self::ZoneDisabled,
        Self::ZoneGone,
        Self::ZoneMoved,
        Self::BodyDisabled,
        Self::BodyGone,
        Self::NotAdmitted,
    ];

    /// The words a trace and a guard use for it.
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

payload! {
    /// Somebody came into a zone or went out of it. Who it was goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Touched {
        /// How.
        pub reason: Reason,
    }
}

/// A zone. Made in Rust with [`Zone::boxed`].
///
/// Its borders belong to it: a body exactly on one is inside. It goes where its object goes, and its own object is
/// never a visitor.
#[derive(Clone, Debug)]
pub struct Zone {
    pub(crate) size: Vec3,
    pub(crate) admits: Vec<SmolStr>,
}

/// A zone's signals, and the part.
#[derive(Clone, Copy, Debug)]
pub struct ZoneHandle {
    /// The part.
    pub part: PartId,
    /// Somebody came in.
    pub entered: Signal<Touched>,
    /// Somebody went out.
    pub left: Signal<Touched>,
}

impl ZoneHandle {
    /// True while whoever caused the signal is inside.
    pub fn has_who(self) -> Expr {
        Expr::Inside { body: Box::new(Expr::Who), zone: self.part }
    }
}

impl Zone {
    /// The signal `entered` of any object with a zone.
    pub const ON_ENTERED: SignalName<Touched> = SignalName::new("entered");
    /// The signal `left` of any object with a zone.
    pub const ON_LEFT: SignalName<Touched> = SignalName::new("left");

    /// What is known of zones.
    pub const KIND: PartKind = PartKind {
        name: "zone",
        about: "A region that tells who comes and who goes.",
        states: &[],
        signals: &[
            SignalKind::of::<Touched>("entered", "Somebody came in."),
            SignalKind::of::<Touched>("left", "Somebody went out, or the zone went dark."),
        ],
        commands: &[],
        settings: &[
            Setting {
                name: "box",
                ty: SettingType::Vector,
                about: "The whole size of a box around the object's place, in scene units.",
                required: true,
            },
            Setting {
                name: "admits",
                ty: SettingType::Tags,
                about: "Bodies with one of these tags only. Default everybody.",
                required: false,
            },
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::boxed(Vec3::ZERO)),
    };

    /// A box of that whole size, in scene units, around the object's place.
    pub fn boxed(size: Vec3) -> Self {
        Self { size, admits: Vec::new() }
    }

    /// Admits bodies with that tag; called several times, with any of them.
    pub fn admits(mut self, tag: &str) -> Self {
        self.admits.push(tag.into());
        self
    }

    /// The whole size of the box.
    pub fn size(&self) -> Vec3 {
        self.size
    }

    fn from_settings(settings: &Settings) -> Self {
        Self { size: settings.vector("box").unwrap_or_default(), admits: settings.tags("admits").to_vec() }
    }
}

impl Part for Zone {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.push(self.size.into());
        to.extend(self.admits.iter().cloned().map(Value::Text));
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let Some((Value::Vector(size), tags)) = saved.split_first() else { return false };
        let tags = tags.iter().map(|tag| tag.as_text().map(SmolStr::from)).collect::<Option<Vec<_>>>();
        let Some(admits) = tags else { return false };
        *self = Self { size: *size, admits };
        true
    }

    fn region(&self) -> Option<&Zone> {
        Some(self)
    }
}

impl PartSpec for Zone {
    type Handle = ZoneHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, Error> {
        if !self.size.is_finite() || !self.size.cmpgt(Vec3::ZERO).all() {
            return Err(Error::BadSize { found: self.size });
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> ZoneHandle {
        let signal = |index: usize| Signal::new(signals.get(index).copied().unwrap_or_default());
        ZoneHandle { part, entered: signal(0), left: signal(1) }
    }
}
