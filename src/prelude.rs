//! What nearly every game that uses the library names: `use stoicheon::prelude::*;`
//!
//! ```
//! use stoicheon::prelude::*;
//!
//! let mut world = World::<u32>::new();
//! let pad = world.object("towpath_pad").add()?;
//! let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0)))?;
//! world.on(pad.entered).run(|entered: &mut u32, _, _| *entered += 1)?;
//! world.player("ada").add()?;
//! let mut entered = 0;
//! world.step(&mut entered)?;
//! assert_eq!(entered, 1);
//! # Ok::<(), Error>(())
//! ```

pub use crate::{
    Advance, Config, Cx, Error, Mould, Move, ObjectId, PartId, Pose, Rotation, Seconds, Signal, Value, Vec3,
    World,
    parts::{Door, Prompt, Zone},
    payload,
    plan::{Expr, Group, Steps},
    secs, ticks,
    trace::TraceLevel,
};
