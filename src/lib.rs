//! Stoicheon wires scene objects together: touch zones, doors, prompts and managers react to each other through
//! signals, without holding references to each other, in an order that can be predicted, read back and explained.
//!
//! There are two doors into the same house. From Rust, a game defines typed signals and wires closures to them,
//! with its own state at hand in each; [`World`] has the first example. From files, a scene is written in the
//! wiring language, checked before anything runs, and built into a world by [`script`].
//!
//! ```
//! use stoicheon::{Vec3, World, script, view};
//!
//! let text = r#"
//!     effect say(words: text)
//!     object pad at (4, 0, 10)  { zone box (2, 1, 2) }
//!     object gate at (0, 0, 12) { door { swing 85deg, over 1s } }
//!     on pad.entered when gate is closed { open gate }
//! "#;
//! let loaded = script::load("lock.stoi", text, &stoicheon::catalogue::Catalogue::built_in());
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

pub mod catalogue;
pub mod parts;
pub mod plan;
pub mod prelude;
pub mod save;
pub mod trace;

#[cfg(feature = "files")]
pub use stoicheon_files as files;
#[cfg(feature = "link")]
pub use stoicheon_link as link;
#[cfg(feature = "live")]
pub use stoicheon_live as live;
#[cfg(feature = "lsp")]
pub use stoicheon_lsp as lsp;
#[cfg(feature = "script")]
pub use stoicheon_script as script;
#[cfg(feature = "store")]
pub use stoicheon_store as store;
#[cfg(feature = "view")]
pub use stoicheon_view as view;

pub use stoicheon_core::{
    Advance, Arrival, BadColour, BindId, BuildError, Colour, CommandError, Config, Cx, Effect, EffectId,
    Error, Field, FieldValue, Key, Leaving, Letter, Mailbox, Message, Mould, MouldId, Move, MoveKind,
    NewObject, NoSuchSignal, ObjectId, OfferNow, On, PLAYER, PartId, Payload, Place, Pointing, Pose,
    PropertyName, ReactionResult, Rotation, RoutineId, RuleId, SceneId, Seconds, Signal, SignalId,
    SignalName, SmolStr, Spot, SpotId, SpotPath, SpotRef, State, Tag, Text, Tick, TickError, TickRate, Ticks,
    Type, Value, Values, VarId, Vec3, WhenEmpty, WireId, World, glam, payload, playtest, secs, space, ticks,
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

    #[doc = include_str!("../docs/live.md")]
    struct LivePage;

    #[doc = include_str!("../docs/looking.md")]
    struct Looking;

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

    #[doc = include_str!("../docs/parts/gait.md")]
    struct Gait;

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
