//! What one record says.

use std::sync::Arc;

use glam::Vec3;

use crate::{
    base::{
        clock::Tick,
        ease::Moved,
        ids::{
            BindId, EffectId, ObjectId, PartId, RecordId, RuleId, SceneId, SignalId, SpotId, VarId, WireId,
        },
        numbers::PartState,
        value::{Text, Value, Values},
    },
    plan::{calc::EvalFault, expr::Expr, refusals::Refusal},
    space::reason::Reason,
};

/// The phases of a tick, in their order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Phase {
    /// Before the first tick: `started` is delivered.
    Start,
    /// What the host handed in.
    Intake,
    /// Waits that fall due.
    Clocks,
    /// Doors and walks move one tick.
    Motion,
    /// Zones compare where bodies were with where they are.
    Touch,
    /// Signals are delivered in rounds.
    Settle,
    /// What was destroyed is freed; rules are checked.
    Upkeep,
}

impl Phase {
    /// The word a trace shows.
    pub fn word(self) -> &'static str {
        match self {
            Self::Start => "start",
            Self::Intake => "intake",
            Self::Clocks => "clocks",
            Self::Motion => "motion",
            Self::Touch => "touch",
            Self::Settle => "settle",
            Self::Upkeep => "upkeep",
        }
    }
}

/// One thing that happened.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub struct Record {
    /// In which tick.
    pub tick: Tick,
    /// In which phase of it.
    pub phase: Phase,
    /// What it came from; `None` for an input.
    pub cause: Option<RecordId>,
    /// What happened.
    pub event: Event,
}

/// What happened.
#[derive(Clone, Debug)]
#[non_exhaustive]
pub enum Event {
    /// The host put a body somewhere.
    Placed {
        /// The body.
        body: ObjectId,
        /// Where.
        at: Vec3,
    },
    /// A body sets out on a straight walk.
    SetOut {
        /// The body.
        body: ObjectId,
        /// Where it goes.
        to: Vec3,
    },
    /// A body has walked to where it was going.
    Arrived {
        /// The body.
        body: ObjectId,
        /// Where it is.
        at: Vec3,
    },
    /// A key was pressed or released.
    Key {
        /// Whose key.
        who: ObjectId,
        /// Its name.
        key: Text,
        /// Pressed, or released.
        down: bool,
    },
    /// The host emitted a signal.
    HandedIn {
        /// The signal.
        signal: SignalId,
        /// Whom it goes back to.
        who: Option<ObjectId>,
    },
    /// A body came into a zone.
    Entered {
        /// The zone's part.
        zone: PartId,
        /// The body.
        body: ObjectId,
        /// How it came in.
        reason: Reason,
    },
    /// A body went out of a zone.
    Left {
        /// The zone's part.
        zone: PartId,
        /// The body.
        body: ObjectId,
        /// How it went out.
        reason: Reason,
    },
    /// A body came to a zone whose guard said no.
    TurnedAway {
        /// The zone's part.
        zone: PartId,
        /// The body.
        body: ObjectId,
    },
    /// A player pointed.
    Pointed {
        /// Who.
        who: ObjectId,
        /// What the ray met first, if anything.
        at: Option<PartId>,
        /// It was picked: it can be, and is within reach.
        taken: bool,
    },
    /// A player left.
    PlayerLeft {
        /// Who was the player's.
        player: ObjectId,
    },
    /// The velocity of a body was set.
    Driven {
        /// The body.
        body: ObjectId,
        /// Its velocity, in scene units per second.
        velocity: Vec3,
    },
    /// A sequence goes on after a wait.
    Resumed {
        /// The wire whose reaction it is.
        wire: WireId,
        /// Since when it has waited.
        since: Tick,
        /// Whom it goes back to.
        who: Option<ObjectId>,
    },
    /// A reaction that waited was given up.
    Dropped {
        /// The wire whose reaction it was.
        wire: WireId,
        /// A new one takes its place; otherwise the owner of the wire is disabled or gone.
        restarted: bool,
    },
    /// A wire that is still busy holds the signal back until it has ended.
    Held {
        /// The wire.
        wire: WireId,
    },
    /// An object came into being while the world was running.
    Spawned {
        /// The object.
        object: ObjectId,
    },
    /// A scene is unloaded.
    Unloaded {
        /// The scene.
        scene: SceneId,
    },
    /// A signal is delivered; the records of its wires follow, with this one as their cause.
    Delivered {
        /// The signal.
        signal: SignalId,
        /// Whom it goes back to.
        who: Option<ObjectId>,
        /// What it carries.
        values: Values,
        /// How many records there were when it was emitted: what a reaction did after it, comes after that one.
        after: u64,
    },
    /// A wire took the signal; what its reaction did follows, with this record as its cause.
    Took {
        /// The wire.
        wire: WireId,
    },
    /// A wire did not take the signal.
    Refused {
        /// The wire.
        wire: WireId,
        /// Why not.
        why: Refusal,
    },
    /// A part went from one of its states to another.
    Shifted {
        /// The part.
        part: PartId,
        /// The state it was in, as a number of its kind's list.
        from: PartState,
        /// The state it is in.
        to: PartState,
    },
    /// A part was told to do what it does or has done already.
    Unmoved {
        /// The part.
        part: PartId,
        /// The state it is in.
        state: PartState,
    },
    /// A variable was set.
    Set {
        /// The variable.
        var: VarId,
        /// The player whose variable it is, if each has one and it was set for that player alone.
        of: Option<ObjectId>,
        /// What it held.
        from: Value,
        /// What it holds.
        to: Value,
    },
    /// A setting of a part was changed.
    Changed {
        /// The part.
        part: PartId,
        /// The setting.
        setting: Text,
        /// What it was.
        from: Value,
        /// What it is.
        to: Value,
    },
    /// A bind set the variable it keeps.
    Kept {
        /// The bind.
        bind: BindId,
        /// The variable.
        var: VarId,
        /// What it held.
        from: Value,
        /// What it holds.
        to: Value,
    },
    /// A tween begins.
    Tweens {
        /// What it moves.
        moved: Moved,
        /// Where to.
        to: Value,
        /// The tick in which it is there.
        until: Tick,
    },
    /// A body was sent to a spot.
    Sent {
        /// The body.
        body: ObjectId,
        /// The spot.
        spot: SpotId,
    },
    /// A body goes to a spot of another scene: in upkeep, if this world knows that; otherwise the host is told.
    SentAway {
        /// The body.
        body: ObjectId,
        /// The scene.
        scene: Text,
        /// The spot there.
        spot: Text,
    },
    /// A body has gone from one scene to another.
    Travelled {
        /// The body.
        body: ObjectId,
        /// The scene it was in.
        from: Option<SceneId>,
        /// The scene it is in.
        to: SceneId,
        /// The spot it arrived at.
        spot: SpotId,
    },
    /// A signal goes to another world.
    Crossed {
        /// The signal.
        signal: SignalId,
        /// Whom it goes back to.
        who: Option<ObjectId>,
        /// It is delivered here as well.
        here: bool,
    },
    /// A body is not sent on by what its arrival brought about.
    StaysHere {
        /// The body.
        body: ObjectId,
    },
    /// A scene was loaded; what is remembered of it is as it was.
    Loaded {
        /// The scene.
        scene: SceneId,
    },
    /// Nobody is in a scene any more: it stands still.
    Frozen {
        /// The scene.
        scene: SceneId,
    },
    /// Somebody has come to a frozen scene: it goes on.
    Thawed {
        /// The scene.
        scene: SceneId,
    },
    /// A player came.
    Joined {
        /// The player.
        player: ObjectId,
        /// The player's number.
        number: u32,
    },
    /// A player who left or was ended has set down what they carried.
    SetDown {
        /// What the player carried.
        object: ObjectId,
        /// The player.
        player: ObjectId,
    },
    /// Something could not be calculated.
    Miscalculated {
        /// What went wrong.
        eval_fault: EvalFault,
    },
    /// The host was asked to perform an effect.
    Performed {
        /// The effect.
        effect: EffectId,
        /// Its values.
        values: Values,
    },
    /// A sequence waits.
    Waits {
        /// The tick in which it goes on.
        until: Tick,
    },
    /// A sequence waits until something is so.
    WaitsUntil {
        /// What.
        condition: Arc<Expr>,
        /// The tick in which it goes on at the latest.
        limit: Option<Tick>,
    },
    /// An object was enabled.
    Enabled {
        /// The object.
        object: ObjectId,
    },
    /// An object was disabled.
    Disabled {
        /// The object.
        object: ObjectId,
    },
    /// An object was destroyed.
    Destroyed {
        /// The object.
        object: ObjectId,
        /// Its name, which the world no longer knows.
        name: Text,
    },
    /// What the world is made of is changed while it runs; what that brings about comes from it.
    Rewired,
    /// A rule that must never hold began to hold.
    Broken {
        /// The rule.
        rule: RuleId,
    },
    /// Something could not be done and was left out.
    Fault {
        /// What was wrong.
        message: Text,
        /// The object it is about.
        object: Option<ObjectId>,
        /// The wire whose reaction it was.
        wire: Option<WireId>,
    },
}
