//! The runtime of Stoicheon: objects, the signals they give, the wires between them, and the clock that runs them
//! in an order that can be predicted.
//!
//! Games use the root crate `stoicheon`, which re-exports this one. Look into `stoicheon-script` for the wiring
//! language, and into `stoicheon-view` for traces as people read them.
//!
//! # The order law in short
//!
//! A [`World`] advances in ticks of fixed length. Each tick has six phases:
//!
//! 1. **intake**: what the host handed in since the last tick, in that order.
//! 2. **clocks**: waits that fall due, by due tick, then in the order they began.
//! 3. **motion**: parts and walks move one tick, by object number.
//! 4. **touch**: all `left`, then all `entered`, then the `left` of zones crossed whole within the tick.
//! 5. **settle**: signals are delivered first in, first out. One signal reaches all its wires, by `order`, then as
//!    wired, before the next one starts. What a reaction changes is true at once; what it emits joins the end.
//! 6. **upkeep**: what was destroyed is freed; rules are looked at.
//!
//! Before the first tick comes start-up: all objects, then all wires, then `ready`, object by object. Nothing is
//! delivered to a wire whose owner is disabled or destroyed. Same scene, same inputs: same [`Trace`], byte for
//! byte, on every machine.
//!
//! # Where to begin
//!
//! ```
//! use stoicheon_core::{Door, World, Zone, Vec3, secs};
//!
//! let mut world = World::<u32>::new();
//! let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 0.0)).add()?;
//! let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0)))?;
//! let gate = world.object("upper_gate").add()?;
//! let gate = world.attach(gate, Door::swing(85.0).over(secs(1.0)))?;
//! let ada = world.player("ada").add()?;
//!
//! world.on(pad.entered).run(move |_, _, cx| cx.open(gate))?;
//! world.on(gate.opened).run(|passages, (), _| *passages += 1)?;
//!
//! world.walk(ada, Vec3::new(4.0, 0.0, 0.0), 4.0)?;
//! let mut passages = 0; // the game's own state, whatever it is
//! for _ in 0..180 {
//!     world.advance(secs(1.0 / 60.0), &mut passages)?;
//! }
//! assert_eq!(passages, 1);
//! # Ok::<(), stoicheon_core::Error>(())
//! ```
//!
//! [`World`] has more of it. [`payload!`] makes a signal's payload, [`World::on`] begins a wire, and
//! [`World::advance`] runs it all.

mod act;
mod alarm;
mod bind;
mod bus;
mod catalogue;
mod chunks;
mod clock;
mod cross;
mod cx;
mod effect;
mod error;
mod expr;
mod fault;
mod geometry;
mod gone;
mod group;
mod members;
mod memory;
mod motion;
mod mould;
mod object;
mod pairs;
mod part;
mod payload;
pub mod playtest;
mod pointing;
mod prompting;
mod pushing;
mod queue;
mod rule;
mod runaway;
mod scene;
mod send;
mod sequence;
mod shared;
mod signal;
mod slots;
pub mod space;
mod spot;
mod stage;
mod state;
mod touching;
mod trace;
mod travel;
mod tween;
mod value;
mod var;
mod watch;
mod whereabouts;
mod wire;
mod world;

pub use bind::{BindId, Kept};
pub use catalogue::{
    Catalogue, CommandInfo, MessageInfo, ParamInfo, PartInfo, RoleInfo, SettingInfo, SettingInfoType,
    VariableInfo,
};
pub use clock::{Advance, Seconds, Tick, TickRate, Ticks, secs};
pub use cross::{Crosses, Message, Side};
pub use cx::Cx;
pub use effect::{Effect, EffectId};
pub use error::{Error, Near, NoSuchSignal};
pub use expr::{Among, Arithmetic, Comparison, Expr, Function, Mishap, StateTest};
pub use fault::Fault;
pub use geometry::{BadColour, Colour, Pose, Rotation};
pub use glam::{self, Vec3};
pub use memory::{ByName, Misfit, ObjectMemory, PlayerMemory, Remembered, Save, SceneMemory};
pub use mould::{Mould, MouldId};
pub use object::{ObjectId, PLAYER, PropertyName, Tag};
pub use part::{
    Activity, Aim, Args, Asked, Blend, BlendHandle, Blended, BodyShape, BuildPart, Carrier, CarrierHandle,
    Changed, Choice, ChoiceHandle, Chosen, Command, Counted, Current, Cycle, CycleHandle, Declined, Denial,
    Door, DoorHandle, Held, Item, ItemHandle, Join, NoAnswer, Offer, OpensBy, Param, ParamType, Part, PartCx,
    PartId, PartKind, PartSpec, Pick, PickHandle, Picked, Progress, Prompt, PromptHandle, Pulse, Push,
    Refused, Region, Setting, SettingType, SettingValue, Settings, Shake, ShakeHandle, Shaken, SignalKind,
    Solid, Span, Stages, StagesHandle, Struck, Swing, Switch, SwitchHandle, Tally, TallyHandle, Teleporter,
    TeleporterHandle, Timer, TimerHandle, Touched, VariableKind, Word, Zone, ZoneHandle, shape_from,
};
pub use payload::{Field, Payload};
pub use pointing::Pointing;
pub use rule::RuleId;
pub use scene::{SceneId, WhenEmpty};
pub use send::Leaving;
pub use sequence::{Step, Steps, Target, TaskId};
pub use signal::{Signal, SignalId, SignalName};
pub use smol_str::SmolStr;
pub use space::Reason;
pub use spot::{Spot, SpotId};
pub use state::State;
pub use trace::{
    About, Digest, Event, Miss, Phase, Record, RecordId, Refusal, Totals, Trace, TraceLevel, WhyNot,
};
pub use travel::Arrival;
pub use tween::{Ease, Moved};
pub use value::{FieldValue, Text, Type, Value, Values};
pub use var::{NewVar, VarId};
pub use wire::{Busy, Group, Place, RefusalCounts, WireCounts, WireId};
pub use world::{Config, Key, Letter, Mailbox, NewObject, On, Outcome, Snapshot, World};
