//! What a world keeps: moments to go back to within a run, and what outlives it.
//!
//! A [`Snapshot`] is a moment of this world, whole, to go back to. A [`Save`] is what is remembered of its objects and players,
//! by name, and finds its way into a world whose scene has changed since.
//!
//! ```
//! use stoicheon::World;
//!
//! let mut world = World::<u32>::new();
//! let before = world.snapshot()?;
//! world.step(&mut 0)?;
//! world.restore(&before)?;
//! assert_eq!(world.now(), before.tick());
//! # Ok::<(), stoicheon::Error>(())
//! ```

pub use stoicheon_core::{
    ByName, ObjectMemory, PlayerMemory, Remembered, Save, SaveError, SaveMismatch, SceneMemory, Snapshot,
};
