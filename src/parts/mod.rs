//! The kinds of part that come with the library, and what their handles give.
//!
//! A part gives an object something it can do: be walked into, open, be used, carry. [`World::attach`](crate::World::attach)
//! takes one and gives back a handle, which holds its signals by type. The pages under `docs/parts` show each kind with its
//! settings; [`custom`] holds what a game needs for kinds of its own.
//!
//! ```
//! use stoicheon::{Vec3, World, parts::{Door, Zone}};
//!
//! let mut world = World::<u32>::new();
//! let weir = world.object("weir").add()?;
//! let near = world.attach(weir, Zone::boxed(Vec3::splat(4.0)))?;
//! let gate = world.attach(weir, Door::slide(Vec3::Y))?;
//! world.on(near.entered).run(move |_, _, cx| cx.open(gate))?;
//! # Ok::<(), stoicheon::Error>(())
//! ```

pub mod custom;

pub use stoicheon_core::{
    Asked, Blend, BlendHandle, Blended, BodyShape, Carrier, CarrierHandle, Changed, Choice, ChoiceHandle,
    Chosen, Command, Counted, Cycle, CycleHandle, Declined, Door, DoorHandle, Ease, Gait, GaitHandle, Held,
    Item, ItemHandle, OpensOn, PartState, Pick, PickHandle, Prompt, PromptHandle, Push, Refused, Rested,
    Shake, ShakeHandle, Shaken, Solid, Stages, StagesHandle, Stepped, Struck, Swing, Switch, SwitchHandle,
    Tally, TallyHandle, Teleporter, TeleporterHandle, Timer, TimerHandle, Zone, ZoneHandle,
};
