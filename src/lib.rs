//! Stoicheon wires scene objects together: touch zones, doors, prompts and managers react to each other through
//! signals, without holding references to each other, in an order that can be predicted, read back and explained.
//!
//! There are two doors into the same house. From Rust, a game defines typed signals and wires closures to them,
//! with its own state at hand in each; [`World`] has the first example. From files, a scene is written in the
//! wiring language, checked before anything runs, and built into a world by [`script`].
//!
//! ```
//! use stoicheon::{Door, Vec3, World, script, view};
//!
//! let text = r#"
//!     effect say(words: text)
//!     object pad at (4, 0, 10)  { zone box (2, 1, 2) }
//!     object gate at (0, 0, 12) { door { swing 85deg, over 1s } }
//!     on pad.entered when gate is closed { open gate }
//! "#;
//! let loaded = script::load("lock.stoi", text, &stoicheon::Catalogue::built_in());
//! assert!(!loaded.has_errors());
//!
//! // The game's own state is a counter here; its reaction joins those of the file.
//! let mut world = World::<u32>::new();
//! loaded.build(&mut world)?;
//! let opened = world.signal::<()>("gate.opened")?;
//! world.on(opened).run(|count, (), _| *count += 1)?;
//!
//! let ada = world.player("ada").add()?;
//! world.walk(ada, Vec3::new(4.0, 0.0, 10.0), 5.0)?;
//! let mut count = 0;
//! for _ in 0..120 {
//!     world.step(&mut count)?;
//! }
//! assert_eq!(count, 1);
//! println!("{}", view::TraceText::plain().new_ticks(&world));
//! # Ok::<(), stoicheon::Error>(())
//! ```
//!
//! The order in which everything happens is the subject of `docs/order-law.md`; its short form is on the front
//! page of [`stoicheon_core`].

pub use stoicheon_link as link;
pub use stoicheon_script as script;
pub use stoicheon_store as store;
pub use stoicheon_view as view;

pub use stoicheon_core::{
    About, Activity, Advance, Aim, Among, Arithmetic, Arrival, BadColour, BindId, BodyShape, BuildPart, Busy,
    ByName, Catalogue, Colour, Comparison, Config, Current, Cx, Digest, Door, DoorHandle, Ease, Effect,
    EffectId, Error, Event, Expr, Field, FieldValue, Function, Group, Kept, Key, Leaving, Letter, Mailbox,
    MessageInfo, Misfit, Mishap, Miss, Mould, MouldId, Moved, NewObject, NewVar, NoSuchSignal, ObjectId,
    ObjectMemory, Offer, On, Outcome, PLAYER, Part, PartCx, PartId, PartInfo, PartKind, PartSpec, Payload,
    Phase, Pick, PickHandle, Picked, Place, PlayerMemory, Pointing, Pose, Progress, Prompt, PromptHandle,
    PropertyName, Pulse, Push, Reason, Record, RecordId, Refusal, RefusalCounts, Region, Remembered,
    RoleInfo, Rotation, RuleId, Save, SceneId, SceneMemory, Seconds, Setting, SettingInfo, SettingInfoType,
    SettingType, SettingValue, Settings, Signal, SignalId, SignalKind, SignalName, SmolStr, Snapshot, Solid,
    Spot, SpotId, State, StateTest, Step, Steps, Swing, Tag, Target, TaskId, Text, Tick, TickRate, Ticks,
    Totals, Touched, Trace, TraceLevel, Type, Value, Values, VarId, Vec3, WhenEmpty, WhyNot, WireCounts,
    WireId, World, Zone, ZoneHandle, glam, payload, playtest, secs, shape_from, space,
};

/// The README's Rust, compiled and run.
#[doc = include_str!("../README.md")]
#[cfg(doctest)]
struct Readme;
