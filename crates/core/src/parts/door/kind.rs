//! What is known of doors before there is one.

use glam::Vec3;

use crate::{
    base::clock::secs,
    part::{
        contract::PartSpec,
        kind::{CommandKind, ParamType, PartKind, ReadingKind, SignalKind, VariableKind},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    parts::door::{Door, OpensOn, Refused},
};

impl Door {
    /// What is known of doors.
    pub const KIND: PartKind = PartKind {
        name: "door",
        about: "Swings on a hinge, slides or fades; reverses half-way without a jump.",
        states: &["closed", "opening", "open", "closing", "blocked"],
        signals: &[
            SignalKind::named(Self::ON_OPENING, "The door starts to open."),
            SignalKind::named(Self::ON_OPENED, "The door is fully open."),
            SignalKind::named(Self::ON_CLOSING, "The door starts to close."),
            SignalKind::named(Self::ON_CLOSED, "The door is fully closed."),
            SignalKind::of::<()>("blocked", "Something is in its way, and the door has stopped."),
            SignalKind::of::<Refused>(
                "refused",
                "The door was told to open and did not: `why` is locked, condition or item.",
            ),
        ],
        commands: &[
            CommandKind::new(
                "open",
                "Opens the door, unless it is locked or asks for something that is missing.",
            ),
            CommandKind::new("close", "Closes the door."),
            CommandKind::new("toggle", "Closes the door if it is open or opening; opens it otherwise."),
            CommandKind::new("force", "Opens the door, even if it is locked or asks for something."),
            CommandKind::new(
                "lock",
                "Locks the door: it does not open until it is unlocked or forced. Its position does not change.",
            ),
            CommandKind::new("unlock", "Unlocks the door. Its position does not change."),
            CommandKind::new("block", "Stops the door: something of the host's is in its way."),
            CommandKind::new("clear", "Lets a blocked door go on."),
        ],
        variables: &[VariableKind { name: "locked", ty: ParamType::Flag, about: "Whether it is locked." }],
        readings: &[
            ReadingKind::new("openness", ParamType::Number, "How far the door is open, from 0 to 1."),
            ReadingKind::new(
                "leaf",
                ParamType::Vector,
                "The place of its leaf; the object's place while the door is closed.",
            ),
            ReadingKind::new("leaf_facing", ParamType::Rotation, "The facing of its leaf."),
        ],
        words: None,
        settings: &[
            Setting::optional(
                "swing",
                SettingType::Angle,
                "The angle it opens by. Default 90deg, unless it slides.",
            ),
            Setting::optional(
                "about",
                SettingType::OneOf(&["x", "y", "z"]),
                "The axis it swings about. Default y.",
            ),
            Setting::optional(
                "hinge",
                SettingType::Vector,
                "The hinge, relative to the object's place. Default (0, 0, 0).",
            ),
            Setting::optional("slide", SettingType::Vector, "How far the door slides, instead of swinging."),
            Setting::optional(
                "over",
                SettingType::Seconds,
                "The time from fully closed to fully open. Default 1s.",
            )
            .live(),
            Setting::optional(
                "fade",
                SettingType::Flag,
                "The door fades instead of swinging; unless it is fully closed, bodies and rays pass through.",
            ),
            Setting::optional(
                "opens on",
                SettingType::OneOf(&["command", "touch", "prompt"]),
                "What opens it: only the command, a body that enters its object's zone, or an answer to its \
                 object's prompt. Default command.",
            ),
            Setting::optional(
                "closes on",
                SettingType::OneOf(&["command", "leaving"]),
                "What closes it: only the command, or the last body that leaves its object's zone. Default command.",
            ),
            Setting::optional(
                "stays",
                SettingType::Seconds,
                "How long it stays open before it closes by itself. Default until it is told to close.",
            )
            .live(),
            Setting::optional(
                "asks",
                SettingType::Tags,
                "Opens only for a player who carries an item with one of these tags.",
            ),
            Setting::optional("spends", SettingType::Flag, "Consumes the item that it asks for."),
            Setting::optional(
                "when",
                SettingType::Condition,
                "Opens only while this condition is true; `who` is the player who opens it.",
            ),
            Setting::optional("locked", SettingType::Flag, "The door starts locked."),
            Setting::optional(
                "careful",
                SettingType::Flag,
                "Does not close while a body is inside its object's zone: the door stops until the zone is empty.",
            ),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "Its position is kept when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::slide(Vec3::ZERO)),
    };

    fn from_settings(settings: &Settings) -> Self {
        let mut door = match settings.vector("slide") {
            _ if settings.has("fade") => Self::fade(),
            Some(by) => Self::slide(by),
            None => Self::swing(settings.angle("swing").unwrap_or(90.0)),
        };
        door = door.about(match settings.word("about") {
            Some("x") => Vec3::X,
            Some("z") => Vec3::Z,
            _ => Vec3::Y,
        });
        door = door
            .hinge(settings.vector("hinge").unwrap_or_default())
            .over(settings.seconds("over").unwrap_or(secs(1.0)))
            .remember_if(settings.has("remember"))
            .opens_on(match settings.word("opens on") {
                Some("touch") => OpensOn::Touch,
                Some("prompt") => OpensOn::Prompt,
                _ => OpensOn::Command,
            });
        door.locked = settings.has("locked");
        let built = door.building();
        built.careful = settings.has("careful");
        built.asks.items = settings.tags("asks").to_vec();
        built.asks.consumed = settings.has("spends");
        built.asks.when = settings.expr("when").cloned();
        built.asks.closes_when_left = settings.word("closes on") == Some("leaving");
        match settings.seconds("stays") {
            Some(span) => door.stays(span),
            None => door,
        }
    }
}
