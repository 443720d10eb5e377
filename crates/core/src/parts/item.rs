//! The item: something that is taken, carried, dropped, thrown, used and used up.

use glam::Vec3;

use crate::{
    base::{
        clock::{TickRate, ticks},
        error::{BuildError, Error},
        geometry::check_place,
        ids::{ObjectId, PartId, SignalId},
        numbers::{Command, PartState},
        signal::Signal,
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::PartCx,
        kind::{CommandKind, Param, ParamType, PartKind, SignalKind},
        refusals::Denial,
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    parts::{carrier::Carrier, door::Refused},
};

/// An item. Made in Rust with [`Item::new`].
///
/// Who takes it must have a [`Carrier`]. While it is carried it goes where its carrier goes, is in nobody's way and
/// in no zone, and cannot be seen, unless it [is shown](Item::shown) and in hand.
#[derive(Clone, Debug, Default)]
pub struct Item {
    seat: Vec3,
    shown: bool,
    carrier: Option<ObjectId>,
    /// It is the one in its carrier's hand.
    pub(crate) in_hand: bool,
    flying: bool,
}

/// An item's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct ItemHandle {
    /// The part.
    pub part: PartId,
    /// Somebody has taken it.
    pub taken: Signal<()>,
    /// It was put down, or fell down.
    pub dropped: Signal<()>,
    /// It was thrown.
    pub thrown: Signal<()>,
    /// It was used.
    pub used: Signal<()>,
    /// It was used up.
    pub consumed: Signal<()>,
    /// It was told to do something and did not.
    pub refused: Signal<Refused>,
}

impl Item {
    /// The state of an item that lies somewhere.
    pub const LYING: PartState = PartState::new(0);
    /// The state of an item that somebody carries.
    pub const CARRIED: PartState = PartState::new(1);
    /// The number of the command `take`.
    pub const TAKE: Command = Command::new(0);
    /// The number of the command `drop`.
    pub const DROP: Command = Command::new(1);
    /// The number of the command `throw`.
    pub const THROW: Command = Command::new(2);
    /// The number of the command `use`.
    pub const USE: Command = Command::new(3);
    /// The number of the command `consume`.
    pub const CONSUME: Command = Command::new(4);

    /// What is known of items.
    pub const KIND: PartKind = PartKind {
        name: "item",
        about: "An item that bodies with a carrier take, carry, drop, throw, use and consume.",
        states: &["lying", "carried"],
        signals: &[
            SignalKind::of::<()>("taken", "A player has taken it: `who`."),
            SignalKind::of::<()>("dropped", "It was put down, or its carrier left the game."),
            SignalKind::of::<()>("thrown", "It was thrown; `dropped` follows when it lands."),
            SignalKind::of::<()>("used", "It was used."),
            SignalKind::of::<()>("consumed", "It was consumed and is destroyed."),
            SignalKind::of::<Refused>(
                "refused",
                "A command was refused: `why` is nobody, carried, lying, full, carrier or away.",
            ),
        ],
        commands: &[
            CommandKind::new("take", "The player who caused the signal takes it."),
            CommandKind::new("drop", "Its carrier puts it down at their place."),
            CommandKind::with(
                "throw",
                "Its carrier throws it in the direction they face; an item with a body enters the zones on its way.",
                &[
                    Param::optional(
                        "along",
                        ParamType::Vector,
                        "The direction, relative to the carrier. Default (0, 0, -1).",
                    ),
                    Param::optional("by", ParamType::Number, "The distance, in scene units. Default 3."),
                    Param::optional("over", ParamType::Span, "The time it flies. Default 0.5s."),
                ],
            ),
            CommandKind::new("use", "Its carrier uses it."),
            CommandKind::new("consume", "Consumes it, wherever it is."),
        ],
        variables: &[],
        readings: &[],
        words: None,
        settings: &[
            Setting::optional(
                "held",
                SettingType::Vector,
                "Where it is held, relative to its carrier. Default (0, 0, 0).",
            ),
            Setting::optional("shown", SettingType::Flag, "Visible while it is in its carrier's hand."),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// An item that cannot be seen while it is carried.
    pub fn new() -> Self {
        Self::default()
    }

    /// Held there, as seen from its carrier.
    pub fn held_at(mut self, seat: Vec3) -> Self {
        self.seat = seat;
        self
    }

    /// Visible while it is in its carrier's hand.
    pub fn shown(mut self) -> Self {
        self.shown = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let seat = settings.vector("held").unwrap_or_default();
        Self { seat, shown: settings.has("shown"), ..Self::default() }
    }

    /// Who carries it.
    pub fn carrier(&self) -> Option<ObjectId> {
        self.carrier
    }

    fn refuse(why: Denial, cx: &mut PartCx<'_>) {
        cx.emit(5, Refused { why });
    }

    fn take(&mut self, cx: &mut PartCx<'_>) -> Result<(), Error> {
        let Some(who) = cx.who() else {
            Self::refuse(Denial::Nobody, cx);
            return Ok(());
        };
        if self.carrier.is_some() {
            Self::refuse(Denial::Carried, cx);
            return Ok(());
        }
        let carrier = cx.parts_of(who).iter().copied().find(|part| cx.part::<Carrier>(*part).is_ok());
        let Some(carrier) = carrier else {
            Self::refuse(Denial::Carrier, cx);
            return Ok(());
        };
        if cx.part::<Carrier>(carrier)?.is_full() {
            Self::refuse(Denial::Full, cx);
            return Ok(());
        }
        let item = cx.object();
        if cx.scene_of(who) != cx.scene_of(item) {
            Self::refuse(Denial::Away, cx);
            return Ok(());
        }
        self.come_to_rest(cx);
        let (at, facing) = (cx.place(who)?, cx.facing(who)?);
        cx.hang(item, Some(who))?;
        cx.put(item, at + facing.turn(self.seat))?;
        self.carrier = Some(who);
        cx.touch(false);
        cx.shift(Self::LYING, Self::CARRIED);
        cx.emit(0, ());
        self.in_hand = cx.command_carrier(who, Carrier::ACCEPT);
        Ok(())
    }

    /// It is nobody's any more; where it lies is where it was.
    fn leave_hands(&mut self, cx: &mut PartCx<'_>) {
        let Some(carrier) = self.carrier.take() else { return };
        self.in_hand = false;
        cx.touch(true);
        cx.shift(Self::CARRIED, Self::LYING);
        cx.command_carrier(carrier, Carrier::RELEASE);
    }

    fn come_to_rest(&mut self, cx: &mut PartCx<'_>) {
        if self.flying {
            self.flying = false;
            cx.ring_never();
            let told = cx.drive(cx.object(), Vec3::ZERO);
            cx.check(told);
        }
    }

    fn let_fall(&mut self, cx: &mut PartCx<'_>) -> Result<(), Error> {
        let told = cx.hang(cx.object(), None);
        self.leave_hands(cx);
        told
    }

    fn throw(&mut self, cx: &mut PartCx<'_>) -> Result<(), Error> {
        let Some(carrier) = self.carrier else { return Ok(()) };
        let along = cx.arg("along").and_then(Value::as_vector).unwrap_or(Vec3::NEG_Z);
        let by = cx.number("by").unwrap_or(3.0);
        let over = cx.span("over").unwrap_or_else(|| ticks((cx.rate().per_second() / 2).max(1).into()));
        let facing = cx.facing(carrier)?;
        #[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
        let way = facing.turn(along.normalize_or_zero()) * by as f32;
        let item = cx.object();
        self.let_fall(cx)?;
        cx.emit(2, ());
        if cx.velocity(item).is_err() {
            // What is no body does not fly: it lies there.
            cx.put(item, cx.place(item)? + way)?;
            cx.emit(1, ());
            return Ok(());
        }
        #[expect(clippy::cast_precision_loss, reason = "nothing flies for 2^24 ticks")]
        let velocity = way * (cx.rate().per_second() as f32 / over.whole().max(1) as f32);
        cx.drive(item, velocity)?;
        self.flying = true;
        cx.ring_in(over);
        Ok(())
    }
}

impl Part for Item {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        self.carrier.is_some().into()
    }

    fn save(&self, to: &mut Vec<Value>) {
        let carrier = self.carrier.map_or(Value::Nothing, Value::Object);
        to.extend([self.seat.into(), self.shown.into(), carrier, self.in_hand.into(), self.flying.into()]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Vector(seat), Value::Bool(shown), carrier, Value::Bool(in_hand), Value::Bool(flying)] =
            saved
        else {
            return false;
        };
        let carrier = carrier.as_object();
        *self = Self { seat: *seat, shown: *shown, carrier, in_hand: *in_hand, flying: *flying };
        true
    }

    fn hides(&self) -> bool {
        self.carrier.is_some() && !(self.shown && self.in_hand)
    }

    fn lets_through(&self) -> bool {
        self.carrier.is_some()
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        let told = match command {
            Self::TAKE => self.take(cx),
            Self::CONSUME => {
                cx.emit(4, ());
                let told = self.let_fall(cx);
                told.and_then(|()| cx.destroy(cx.object()))
            }
            _ if self.carrier.is_none() => {
                Self::refuse(Denial::Lying, cx);
                Ok(())
            }
            Self::DROP => {
                let told = self.let_fall(cx);
                cx.emit(1, ());
                told
            }
            Self::THROW => self.throw(cx),
            _ => {
                cx.emit(3, ());
                Ok(())
            }
        };
        cx.check(told);
    }

    fn due(&mut self, cx: &mut PartCx<'_>) {
        self.come_to_rest(cx);
        cx.emit(1, ());
    }

    /// Somebody else hung it on something, or its carrier is gone.
    fn hung(&mut self, on: Option<ObjectId>, cx: &mut PartCx<'_>) {
        if self.carrier.is_some() && on != self.carrier {
            self.leave_hands(cx);
            cx.emit(1, ());
        }
    }
}

impl PartSpec for Item {
    type Handle = ItemHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        check_place(self.seat)?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> ItemHandle {
        ItemHandle {
            part,
            taken: Signal::nth(signals, 0),
            dropped: Signal::nth(signals, 1),
            thrown: Signal::nth(signals, 2),
            used: Signal::nth(signals, 3),
            consumed: Signal::nth(signals, 4),
            refused: Signal::nth(signals, 5),
        }
    }
}
