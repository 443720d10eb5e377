//! The door: swings on a hinge, slides or fades, over a time, and can be turned back half-way.

pub(crate) mod behaviour;
pub(crate) mod kind;

use std::sync::Arc;

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Seconds, TickRate, Ticks, secs, ticks},
        error::BuildError,
        geometry::{Pose, Rotation, part_of_way},
        ids::{PartId, SignalId},
        names::check_name,
        numbers::{Command, PartState},
        signal::{Signal, SignalName},
    },
    part::{
        contract::{Part, PartSpec},
        refusals::Denial,
    },
    payload,
    plan::{
        expr::Expr,
        steps::{Step, Steps},
    },
};

payload! {
    /// It was told to do something and did not. Who wanted it goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq, Eq)]
    pub struct Refused {
        /// Why.
        pub why: Denial,
    }
}

/// How a door swings.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Swing {
    /// The angle it is turned by when open, in degrees.
    pub degrees: f64,
    /// The axis it turns about, of length 1.
    pub about: Vec3,
    /// Where the hinge is, from the object's place, in scene units.
    pub hinge: Vec3,
}

/// A door. Made in Rust with [`Door::swing`] or [`Door::slide`].
///
/// It starts closed. `open` and `close` turn it back at any moment without a jump: it goes on from where it is.
///
/// ```
/// use stoicheon_core::{Door, Vec3, World, secs};
/// let mut world = World::<()>::new();
/// let gate = world.object("upper_gate").at(Vec3::new(0.0, 0.0, 12.0)).add()?;
/// let door = world.attach(gate, Door::swing(85.0).hinge(Vec3::new(-2.0, 0.0, 0.0)).over(secs(2.5)))?;
/// assert_eq!(world.part::<Door>(door.part)?.openness(), 0.0);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Door {
    built: Arc<Built>,
    /// How many ticks of motion it stands away from closed.
    progress: u64,
    state: PartState,
    /// While it is blocked: it was closing.
    was_closing: bool,
    locked: bool,
}

/// How a door was built. It is shared by all copies of a door, of which a snapshot has one.
#[derive(Clone, Debug)]
struct Built {
    swing: Option<Swing>,
    slide: Vec3,
    over: Seconds,
    length: Ticks,
    asks: Asks,
    /// How long it stays open by itself.
    stays: Option<(Seconds, Ticks)>,
    fades: bool,
    careful: bool,
    remember: bool,
}

/// What a door asks for before it opens, and what opens and closes it.
#[derive(Clone, Debug, Default)]
struct Asks {
    /// An item with one of these tags.
    items: Vec<SmolStr>,
    /// The item is used up by it.
    consumed: bool,
    when: Option<Expr>,
    by: OpensOn,
    closes_when_left: bool,
}

/// What opens a door beside the command.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub enum OpensOn {
    /// Nothing.
    #[default]
    Command,
    /// Somebody enters the zone of its object.
    Touch,
    /// Somebody answers the prompt of its object.
    Prompt,
}

/// A door's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct DoorHandle {
    /// The part.
    pub part: PartId,
    /// The door starts to open.
    pub opening: Signal<()>,
    /// The door is fully open.
    pub opened: Signal<()>,
    /// The door starts to close.
    pub closing: Signal<()>,
    /// The door is fully closed.
    pub closed: Signal<()>,
    /// Something is in its way.
    pub blocked: Signal<()>,
    /// It was told to open and did not.
    pub refused: Signal<Refused>,
}

impl DoorHandle {
    /// True while the door is in that state: one of `Door::CLOSED`, `OPENING`, `OPEN`, `CLOSING` and `BLOCKED`.
    pub fn is(self, state: PartState) -> Expr {
        Expr::State { part: self.part, state }
    }
}

impl Door {
    /// The state of a door that is shut.
    pub const CLOSED: PartState = PartState::new(0);
    /// The state of a door on its way to open.
    pub const OPENING: PartState = PartState::new(1);
    /// The state of a door that stands open.
    pub const OPEN: PartState = PartState::new(2);
    /// The state of a door on its way to shut.
    pub const CLOSING: PartState = PartState::new(3);
    /// The state of a door that something is in the way of.
    pub const BLOCKED: PartState = PartState::new(4);
    /// The number of the command `open`.
    pub const TO_OPEN: Command = Command::new(0);
    /// The number of the command `close`.
    pub const TO_CLOSE: Command = Command::new(1);
    /// The number of the command `toggle`.
    pub const TO_TOGGLE: Command = Command::new(2);
    /// The number of the command `force`.
    pub const TO_FORCE: Command = Command::new(3);
    /// The number of the command `lock`.
    pub const TO_LOCK: Command = Command::new(4);
    /// The number of the command `unlock`.
    pub const TO_UNLOCK: Command = Command::new(5);
    /// The number of the command `block`.
    pub const TO_BLOCK: Command = Command::new(6);
    /// The number of the command `clear`.
    pub const TO_CLEAR: Command = Command::new(7);
    /// Its variable `locked`.
    const LOCKED: usize = 0;

    /// The signal `opening` of any object with a door.
    pub const ON_OPENING: SignalName<()> = SignalName::new("opening");
    /// The signal `opened` of any object with a door.
    pub const ON_OPENED: SignalName<()> = SignalName::new("opened");
    /// The signal `closing` of any object with a door.
    pub const ON_CLOSING: SignalName<()> = SignalName::new("closing");
    /// The signal `closed` of any object with a door.
    pub const ON_CLOSED: SignalName<()> = SignalName::new("closed");

    /// A door that swings by so many degrees about the upright axis, over one second.
    pub fn swing(degrees: f64) -> Self {
        Self::with(Some(Swing { degrees, about: Vec3::Y, hinge: Vec3::ZERO }), Vec3::ZERO)
    }

    /// A door that slides by that much, over one second.
    pub fn slide(by: Vec3) -> Self {
        Self::with(None, by)
    }

    fn with(swing: Option<Swing>, slide: Vec3) -> Self {
        let built = Built {
            swing,
            slide,
            over: secs(1.0),
            length: ticks(1),
            asks: Asks::default(),
            stays: None,
            fades: false,
            careful: false,
            remember: false,
        };
        Self::of(built)
    }

    /// One that is shut.
    fn of(built: Built) -> Self {
        Self { built: Arc::new(built), progress: 0, state: Self::CLOSED, was_closing: false, locked: false }
    }

    fn building(&mut self) -> &mut Built {
        Arc::make_mut(&mut self.built)
    }

    /// A door that fades, over one second: while it is not shut, nothing of it is in anybody's way.
    pub fn fade() -> Self {
        let mut door = Self::with(None, Vec3::ZERO);
        door.building().fades = true;
        door
    }

    /// Closes by itself after standing open for so long.
    pub fn stays(mut self, span: Seconds) -> Self {
        self.building().stays = Some((span, ticks(1)));
        self
    }

    /// Begins locked: it opens only when it is unlocked or forced.
    pub fn locked(mut self) -> Self {
        self.locked = true;
        self
    }

    /// Opens only for somebody who carries an item with that tag; called again, another tag does as well.
    pub fn asks(mut self, tag: &str) -> Self {
        self.building().asks.items.push(tag.into());
        self
    }

    /// Consumes the item that it asks for.
    pub fn spends(mut self) -> Self {
        self.building().asks.consumed = true;
        self
    }

    /// Opens only while that holds; `who` is the player who wants it open.
    pub fn when(mut self, condition: Expr) -> Self {
        self.building().asks.when = Some(condition);
        self
    }

    /// What opens it beside the command.
    pub fn opens_on(mut self, by: OpensOn) -> Self {
        self.building().asks.by = by;
        self
    }

    /// Closes when the last one has left the zone of its object.
    pub fn closes_when_left(mut self) -> Self {
        self.building().asks.closes_when_left = true;
        self
    }

    /// Does not close on anybody inside the zone of its object.
    pub fn careful(mut self) -> Self {
        self.building().careful = true;
        self
    }

    fn remember_if(mut self, remember: bool) -> Self {
        self.building().remember = remember;
        self
    }

    /// How far it stands open is remembered when its scene is unloaded, and in a [`Save`](crate::Save).
    pub fn remembered(self) -> Self {
        self.remember_if(true)
    }

    /// Swings about that axis, of length 1.
    pub fn about(mut self, axis: Vec3) -> Self {
        if let Some(swing) = &mut self.building().swing {
            swing.about = axis;
        }
        self
    }

    /// Puts the hinge there, from the object's place.
    pub fn hinge(mut self, hinge: Vec3) -> Self {
        if let Some(swing) = &mut self.building().swing {
            swing.hinge = hinge;
        }
        self
    }

    /// Takes that long from shut to open.
    pub fn over(mut self, span: Seconds) -> Self {
        self.building().over = span;
        self
    }

    /// How far it stands open, from 0 (shut) to 1 (open).
    #[expect(clippy::cast_precision_loss, reason = "no door takes 2^52 ticks")]
    pub fn openness(&self) -> f64 {
        self.progress as f64 / self.built.length.whole() as f64
    }

    /// How it swings, if it does: the angle when fully open.
    pub fn swings(&self) -> Option<Swing> {
        self.built.swing
    }

    /// How far it has slid from its place.
    #[expect(clippy::cast_possible_truncation, reason = "a fraction from 0 to 1")]
    pub fn offset(&self) -> Vec3 {
        self.built.slide * self.openness() as f32
    }

    /// The pose of its leaf while it stands open so far, from 0 to 1, as seen from its object: that of the object itself while
    /// shut. For a view, with what [`openness_at`](crate::State::openness_at) gives.
    ///
    /// ```
    /// use stoicheon_core::{Door, Vec3};
    /// let gate = Door::swing(90.0).hinge(Vec3::new(-2.0, 0.0, 0.0));
    /// assert_eq!(gate.leaf(0.0).at, Vec3::ZERO);
    /// // The middle of the leaf has swung about the hinge.
    /// assert!(gate.leaf(1.0).at.distance(Vec3::new(-2.0, 0.0, -2.0)) < 1e-6);
    /// ```
    #[expect(clippy::cast_possible_truncation, reason = "a fraction from 0 to 1")]
    pub fn leaf(&self, openness: f64) -> Pose {
        let open = part_of_way(openness);
        let slid = Pose::at(self.built.slide * open as f32);
        let Some(swing) = self.built.swing else { return slid };
        let turn = Rotation::about(swing.about, swing.degrees * open);
        Pose::at(slid.at + swing.hinge - turn.turn(swing.hinge)).facing(turn)
    }

    /// How long it stays open before it closes by itself.
    pub fn stays_for(&self) -> Option<Ticks> {
        self.built.stays.map(|(_, ticks)| ticks)
    }

    /// Whether it is locked.
    pub fn is_locked(&self) -> bool {
        self.locked
    }
}

impl PartSpec for Door {
    type Handle = DoorHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.building().length = rate.ticks(self.built.over)?;
        if let Some((span, ticks)) = &mut self.building().stays {
            *ticks = rate.ticks(*span)?;
        }
        self.built.asks.items.iter().try_for_each(|tag| check_name(tag))?;
        if let Some(swing) = self.built.swing {
            if !swing.degrees.is_finite() || swing.degrees == 0.0 {
                return Err(BuildError::BadNumber {
                    setting: "swing",
                    expected: "an angle other than 0",
                    found: swing.degrees,
                });
            }
            if !swing.about.is_normalized() {
                return Err(BuildError::BadPlace { found: swing.about });
            }
            if !swing.hinge.is_finite() {
                return Err(BuildError::BadPlace { found: swing.hinge });
            }
        }
        if !self.built.slide.is_finite() {
            return Err(BuildError::BadPlace { found: self.built.slide });
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> DoorHandle {
        let signal = |number| Signal::nth(signals, number);
        DoorHandle {
            part,
            opening: signal(0),
            opened: signal(1),
            closing: signal(2),
            closed: signal(3),
            blocked: signal(4),
            refused: Signal::nth(signals, 5),
        }
    }
}

impl Steps {
    /// And then opens a door.
    pub fn open(self, door: DoorHandle) -> Self {
        self.step(Step::Command { part: door.part, command: Door::TO_OPEN, args: Vec::new() })
    }

    /// And then closes a door.
    pub fn close(self, door: DoorHandle) -> Self {
        self.step(Step::Command { part: door.part, command: Door::TO_CLOSE, args: Vec::new() })
    }
}
