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
//! Before the first tick comes start-up: all objects, then all wires, then `started`, object by object. Nothing is
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
mod base;
mod inspect;
mod moment;
mod part;
mod parts;
mod plan;
pub mod playtest;
pub mod space;
mod state;
mod trace;
mod world;

pub use act::pointing::Pointing;
pub use act::prompting::OfferNow;
pub use act::travel::Arrival;
pub use act::why_not::{About, Miss, WhyNot};
pub use base::clock::{Advance, Seconds, Tick, TickRate, Ticks, secs, ticks};
pub use base::ease::{Ease, Moved};
pub use base::error::{BuildError, CommandError, Error, Near, NoSuchSignal, SaveError, TickError};
pub use base::geometry::{BadColour, Colour, Pose, Rotation};
pub use base::ids::{
    BindId, EffectId, MouldId, ObjectId, PartId, PropertyName, RecordId, RoutineId, RuleId, SceneId,
    SignalId, SpotId, Tag, VarId, WireId,
};
pub use base::names::PLAYER;
pub use base::numbers::{Command, PartState};
pub use base::payload::{Field, Payload};
pub use base::place::Place;
pub use base::signal::{Signal, SignalName};
pub use base::spot_path::{SpotPath, SpotRef};
pub use base::value::{FieldValue, Text, Type, Value, Values};
pub use glam::{self, Vec3};
pub use inspect::Inspection;
pub use inspect::leads::Lead;
pub use inspect::objects::{InspectedObject, InspectedPart, InspectedVar};
pub use inspect::waits::{InspectedTween, InspectedWait};
pub use inspect::wires::InspectedWire;
pub use moment::effects::Effect;
pub use moment::faults::Fault;
pub use moment::leaving::Leaving;
pub use moment::memory::{ByName, ObjectMemory, PlayerMemory, Save, SaveMismatch, SceneMemory};
pub use moment::messages::Message;
pub use moment::moves::{Move, MoveKind};
pub use moment::remembered::Remembered;
pub use moment::scenes::WhenEmpty;
pub use moment::spots::Spot;
pub use moment::wires::{RefusalCounts, WireCounts};
pub use part::contract::{Activity, Part, PartSpec};
pub use part::cx::{Args, PartCx, ReadCx};
pub use part::info::{CommandInfo, MessageInfo, ParamInfo, PartInfo, ReadingInfo, SettingInfo, VariableInfo};
pub use part::kind::{
    BuildPart, CommandKind, Join, Param, ParamType, PartKind, ReadingKind, SignalKind, VariableKind, Word,
};
pub use part::mould::Mould;
pub use part::offers::{Aim, Current, Footing, Offer, Picked, Progress};
pub use part::refusals::{Denial, NoAnswer};
pub use part::region::{Pulse, Region, SHAPE_SETTINGS, Touched, shape_from};
pub use part::setting::{Setting, SettingValue, Settings, Span, chain_settings};
pub use part::setting_type::{SettingInfoType, SettingType};
pub use parts::blend::{Blend, BlendHandle, Blended};
pub use parts::body::BodyShape;
pub use parts::carrier::{Carrier, CarrierHandle, Held};
pub use parts::catalogue::{Catalogue, RoleInfo};
pub use parts::choice::{Asked, Choice, ChoiceHandle, Chosen, Declined};
pub use parts::cycle::{Changed, Cycle, CycleHandle};
pub use parts::door::{Door, DoorHandle, OpensOn, Refused, Swing};
pub use parts::gait::{Gait, GaitHandle, Rested, Stepped};
pub use parts::item::{Item, ItemHandle};
pub use parts::pick::{Pick, PickHandle, Solid};
pub use parts::prompt::{Prompt, PromptHandle};
pub use parts::push::Push;
pub use parts::shake::{Shake, ShakeHandle, Shaken};
pub use parts::stages::{Stages, StagesHandle};
pub use parts::switch::{Switch, SwitchHandle};
pub use parts::tally::{Counted, Tally, TallyHandle};
pub use parts::teleporter::{Teleporter, TeleporterHandle};
pub use parts::timer::{Struck, Timer, TimerHandle};
pub use parts::zone::{Zone, ZoneHandle};
pub use plan::among::{Among, StateTest};
pub use plan::binds::Kept;
pub use plan::calc::EvalFault;
pub use plan::crossings::{Crosses, Side};
pub use plan::expr::{Expr, PartOf};
pub use plan::new_var::NewVar;
pub use plan::operators::{Arithmetic, Axis, Comparison, Function};
pub use plan::patterns::NewWire;
pub use plan::refusals::Refusal;
pub use plan::steps::{Step, Steps, Target};
pub use plan::wires::{Busy, Group};
pub use smol_str::SmolStr;
pub use space::reason::Reason;
pub use state::State;
pub use trace::digest::Digest;
pub use trace::record::{Event, Phase, Record};
pub use trace::{Totals, Trace, TraceLevel};
pub use world::cx::Cx;
pub use world::handed_in::HandedIn;
pub use world::mailbox::{Letter, Mailbox};
pub use world::new_object::NewObject;
pub use world::on::{On, ReactionResult};
pub use world::rewire::{Became, Change, KeptCounts, Rewired, Rewiring};
pub use world::snapshot::Snapshot;
pub use world::{Config, Key, World};
