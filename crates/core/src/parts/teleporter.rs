//! The teleporter: sends a body that enters the zone of its object to a spot.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::TickRate,
        error::{BuildError, Error},
        geometry::check_place,
        ids::{PartId, SignalId},
        names::check_path,
        numbers::Command,
        signal::Signal,
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::PartCx,
        kind::{CommandKind, Join, Param, ParamType, PartKind, SignalKind},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    parts::zone::Zone,
};

/// A teleporter. Made in Rust with [`Teleporter::to`].
///
/// It works on each body that enters the zone of its own object, after the wires that hear it. A body that was sent into
/// that zone is not sent on until it has walked out once.
///
/// ```
/// use stoicheon_core::{Teleporter, Vec3, World, Zone};
/// let mut world = World::<()>::new();
/// world.spot_at("steps", None, Vec3::new(8.0, 0.0, 2.0), stoicheon_core::Rotation::NONE)?;
/// let drain = world.object("drain").add()?;
/// world.attach(drain, Zone::boxed(Vec3::splat(2.0)).admits("player"))?;
/// world.attach(drain, Teleporter::to("steps"))?;
/// let ada = world.player("ada").at(Vec3::X * 5.0).add()?;
/// world.walk(ada, Vec3::ZERO, 4.0)?;
/// (0..40).try_for_each(|_| world.step(&mut ()))?;
/// assert_eq!(world.place(ada)?, Vec3::new(8.0, 0.0, 2.0));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Teleporter {
    spot: SmolStr,
    scene: Option<SmolStr>,
    offset: Vec3,
    stilled: bool,
    at_once: bool,
}

/// A teleporter's signal, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct TeleporterHandle {
    /// The part.
    pub part: PartId,
    /// A body is sent.
    pub sent: Signal<()>,
}

impl Teleporter {
    /// The number of the command `carry`.
    pub const CARRY: Command = Command::new(0);
    /// After the wires that hear who enters.
    const LAST: i32 = 1_000_000;

    /// What is known of teleporters.
    pub const KIND: PartKind = PartKind {
        name: "teleporter",
        about: "Sends a body that enters its object's zone to a spot, in this scene or another.",
        states: &[],
        signals: &[SignalKind::of::<()>("sent", "A body is sent.")],
        commands: &[CommandKind::with(
            "carry",
            "Sends the player who caused the signal.",
            &[Param::optional(
                "reason",
                ParamType::Text,
                "Why the player is in the zone: a player who was sent there is not sent on.",
            )],
        )],
        variables: &[],
        readings: &[],
        words: None,
        settings: &[
            Setting::required("to", SettingType::Spot, "The destination: a spot, or `spot in scene`."),
            Setting::optional(
                "offset",
                SettingType::Vector,
                "The distance from the spot, relative to its facing; only for a spot of this scene. Default (0, 0, 0).",
            ),
            Setting::optional("stilled", SettingType::Flag, "A body that is sent loses its velocity."),
            Setting::optional(
                "arrivals",
                SettingType::Flag,
                "Also sends on a body that was sent into its zone. With two teleporters that lead to each other, a body never gets out.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::to("nowhere")),
    };

    /// To the spot of that name.
    pub fn to(spot: &str) -> Self {
        let (offset, scene) = (Vec3::ZERO, None);
        Self { spot: spot.into(), scene, offset, stilled: false, at_once: false }
    }

    /// The spot is in that scene.
    pub fn in_scene(mut self, scene: &str) -> Self {
        self.scene = Some(scene.into());
        self
    }

    /// So far from the spot, as seen from there. Not for one of another scene.
    pub fn offset(mut self, offset: Vec3) -> Self {
        self.offset = offset;
        self
    }

    /// A body that is sent loses its velocity.
    pub fn stilled(mut self) -> Self {
        self.stilled = true;
        self
    }

    /// Those are sent on, too, who were sent into its zone.
    pub fn takes_arrivals(mut self) -> Self {
        self.at_once = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let (spot, scene) = settings.spot("to").unwrap_or((const { &SmolStr::new_static("") }, None));
        let mut teleporter = Self::to(spot).offset(settings.vector("offset").unwrap_or_default());
        teleporter.scene = scene.cloned();
        teleporter.stilled = settings.has("stilled");
        teleporter.at_once = settings.has("arrivals");
        teleporter
    }

    /// The spot it sends to, and the scene, if that is another one.
    pub fn target(&self) -> (&str, Option<&str>) {
        (&self.spot, self.scene.as_deref())
    }
}

impl Part for Teleporter {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([Value::Text(self.spot.clone()), Value::Text(self.scene.clone().unwrap_or_default())]);
        to.extend([self.offset.into(), self.stilled.into(), self.at_once.into()]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [
            Value::Text(spot),
            Value::Text(scene),
            Value::Vector(offset),
            Value::Bool(stilled),
            Value::Bool(at_once),
        ] = saved
        else {
            return false;
        };
        let scene = (!scene.is_empty()).then(|| scene.clone());
        *self = Self { spot: spot.clone(), scene, offset: *offset, stilled: *stilled, at_once: *at_once };
        true
    }

    fn joins(&self) -> Vec<Join> {
        vec![Join { signal: Zone::ON_ENTERED.name(), command: Self::CARRY, order: Self::LAST }]
    }

    fn command(&mut self, _: Command, cx: &mut PartCx<'_>) {
        let Some(who) = cx.who() else { return };
        if self.at_once {
            cx.send_arrivals_on();
        }
        if cx.has_just_come(who) {
            return cx.stays_here(who);
        }
        if self.stilled && cx.velocity(who).is_ok_and(|velocity| velocity != Vec3::ZERO) {
            let told = cx.drive(who, Vec3::ZERO);
            cx.check(told);
        }
        cx.emit(0, ());
        if let Some(scene) = &self.scene {
            return cx.send_away(who, scene, &self.spot);
        }
        let spot = cx.find_spot(&self.spot).ok_or(Error::NoSuchSpot);
        let told = spot.and_then(|spot| cx.send(who, spot, self.offset));
        cx.check(told);
    }
}

impl PartSpec for Teleporter {
    type Handle = TeleporterHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        check_path(&self.spot)?;
        check_place(self.offset)?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> TeleporterHandle {
        TeleporterHandle { part, sent: Signal::nth(signals, 0) }
    }
}
