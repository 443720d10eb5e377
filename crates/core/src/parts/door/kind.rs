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
        about: "Swings on a hinge, slides or fades, over a time; turns back half-way without a jump.",
        states: &["closed", "opening", "open", "closing", "blocked"],
        signals: &[
            SignalKind::named(Self::ON_OPENING, "It begins to open."),
            SignalKind::named(Self::ON_OPENED, "It stands open."),
            SignalKind::named(Self::ON_CLOSING, "It begins to close."),
            SignalKind::named(Self::ON_CLOSED, "It is shut."),
            SignalKind::of::<()>("blocked", "Something is in its way; it stands still."),
            SignalKind::of::<Refused>(
                "refused",
                "It was told to open and did not: `why` is locked, condition or item.",
            ),
        ],
        commands: &[
            CommandKind::new("open", "It opens, if it is not locked and has what it asks for."),
            CommandKind::new("close", "It closes."),
            CommandKind::new("toggle", "It closes if it is open or opening, and opens otherwise."),
            CommandKind::new("force", "It opens, whatever it asks for."),
            CommandKind::new(
                "lock",
                "It opens no more until it is unlocked or forced; how it stands does not change.",
            ),
            CommandKind::new("unlock", "It can be opened again; that does not open it."),
            CommandKind::new("block", "Something of the host's is in its way: it stands still."),
            CommandKind::new("clear", "What blocked it is gone: it goes on as before."),
        ],
        variables: &[VariableKind { name: "locked", ty: ParamType::Flag, about: "Whether it is locked." }],
        readings: &[
            ReadingKind::new("openness", ParamType::Number, "How far it stands open, from 0 to 1."),
            ReadingKind::new(
                "leaf",
                ParamType::Vector,
                "Where its leaf is: its object's place while it is shut.",
            ),
            ReadingKind::new("leaf_facing", ParamType::Rotation, "Which way its leaf faces."),
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
                "Where the hinge is, from the object's place. Default (0, 0, 0).",
            ),
            Setting::optional(
                "slide",
                SettingType::Vector,
                "How far it slides when open, instead of swinging.",
            ),
            Setting::optional(
                "over",
                SettingType::Seconds,
                "How long it takes from shut to open. Default 1s.",
            )
            .live(),
            Setting::optional(
                "fade",
                SettingType::Flag,
                "It fades instead of swinging; while it is not shut, nobody and no ray is stopped by it.",
            ),
            Setting::optional(
                "opens on",
                SettingType::OneOf(&["command", "touch", "prompt"]),
                "What opens it: a command alone, entering its object's zone, answering its object's prompt. Default \
                 command.",
            ),
            Setting::optional(
                "closes on",
                SettingType::OneOf(&["command", "leaving"]),
                "What closes it: a command alone, or the last one leaving its object's zone. Default command.",
            ),
            Setting::optional(
                "stays",
                SettingType::Seconds,
                "How long it stands open before it closes by itself. Default until it is told to close.",
            )
            .live(),
            Setting::optional(
                "asks",
                SettingType::Tags,
                "It opens only for somebody who carries an item with one of these tags.",
            ),
            Setting::optional("spends", SettingType::Flag, "The item it asks for is used up."),
            Setting::optional(
                "when",
                SettingType::Condition,
                "It opens only while this holds; `who` is the player who wants it open.",
            ),
            Setting::optional("locked", SettingType::Flag, "It begins locked."),
            Setting::optional(
                "careful",
                SettingType::Flag,
                "It does not close on anybody inside its object's zone: it stands still until they have left.",
            ),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "How far it stands open is remembered when its scene is unloaded, and in a save.",
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
