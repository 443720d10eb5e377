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

pub mod prelude;

pub use stoicheon_files as files;
pub use stoicheon_link as link;
pub use stoicheon_script as script;
pub use stoicheon_store as store;
pub use stoicheon_view as view;

pub use stoicheon_core::{
    About, Activity, Advance, Aim, Among, Args, Arithmetic, Arrival, Asked, BadColour, BindId, Blend,
    BlendHandle, Blended, BodyShape, BuildPart, Busy, ByName, Carrier, CarrierHandle, Catalogue, Changed,
    Choice, ChoiceHandle, Chosen, Colour, Command, CommandInfo, Comparison, Config, Counted, Crosses,
    Current, Cx, Cycle, CycleHandle, Declined, Denial, Digest, Door, DoorHandle, Ease, Effect, EffectId,
    Error, EvalFault, Event, Expr, Field, FieldValue, Function, Group, Held, Item, ItemHandle, Join, Kept,
    Key, Leaving, Letter, Mailbox, Message, MessageInfo, Miss, Mould, MouldId, Move, MoveKind, Moved,
    NewObject, NewVar, NoAnswer, NoSuchSignal, ObjectId, ObjectMemory, Offer, OfferNow, On, OpensBy, PLAYER,
    Param, ParamInfo, ParamType, Part, PartCx, PartId, PartInfo, PartKind, PartSpec, Payload, Phase, Pick,
    PickHandle, Picked, Place, PlayerMemory, Pointing, Pose, Progress, Prompt, PromptHandle, PropertyName,
    Pulse, Push, ReactionResult, Reason, Record, RecordId, Refusal, RefusalCounts, Refused, Region,
    Remembered, RoleInfo, Rotation, RuleId, Save, SaveMismatch, SceneId, SceneMemory, Seconds, Setting,
    SettingInfo, SettingInfoType, SettingType, SettingValue, Settings, Shake, ShakeHandle, Shaken, Side,
    Signal, SignalId, SignalKind, SignalName, SmolStr, Snapshot, Solid, Span, Spot, SpotId, Stages,
    StagesHandle, State, StateTest, Step, Steps, Struck, Swing, Switch, SwitchHandle, Tag, Tally,
    TallyHandle, Target, TaskId, Teleporter, TeleporterHandle, Text, Tick, TickRate, Ticks, Timer,
    TimerHandle, Totals, Touched, Trace, TraceLevel, Type, Value, Values, VarId, VariableInfo, VariableKind,
    Vec3, WhenEmpty, WhyNot, WireCounts, WireId, Word, World, Zone, ZoneHandle, glam, payload, playtest,
    secs, shape_from, space,
};

/// The README's Rust, compiled and run.
#[doc = include_str!("../README.md")]
#[cfg(doctest)]
struct Readme;

/// The Rust of the pages about parts, compiled and run.
#[cfg(doctest)]
mod pages {
    #[doc = include_str!("../docs/host.md")]
    struct Host;

    #[doc = include_str!("../docs/parts/blend.md")]
    struct Blend;

    #[doc = include_str!("../docs/parts/body.md")]
    struct Body;

    #[doc = include_str!("../docs/parts/carrier.md")]
    struct Carrier;

    #[doc = include_str!("../docs/parts/choice.md")]
    struct Choice;

    #[doc = include_str!("../docs/parts/cycle.md")]
    struct Cycle;

    #[doc = include_str!("../docs/parts/door.md")]
    struct Door;

    #[doc = include_str!("../docs/parts/item.md")]
    struct Item;

    #[doc = include_str!("../docs/parts/pick.md")]
    struct Pick;

    #[doc = include_str!("../docs/parts/prompt.md")]
    struct Prompt;

    #[doc = include_str!("../docs/parts/push.md")]
    struct Push;

    #[doc = include_str!("../docs/parts/shake.md")]
    struct Shake;

    #[doc = include_str!("../docs/parts/solid.md")]
    struct Solid;

    #[doc = include_str!("../docs/parts/stages.md")]
    struct Stages;

    #[doc = include_str!("../docs/parts/switch.md")]
    struct Switch;

    #[doc = include_str!("../docs/parts/tally.md")]
    struct Tally;

    #[doc = include_str!("../docs/parts/teleporter.md")]
    struct Teleporter;

    #[doc = include_str!("../docs/parts/timer.md")]
    struct Timer;

    #[doc = include_str!("../docs/parts/zone.md")]
    struct Zone;
}
