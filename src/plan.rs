//! What is built before it runs: conditions, steps that take time, who may cause something, how wires go together; and what of it is
//! [changed](Rewiring) while it runs.
//!
//! ```
//! use stoicheon::{
//!     World,
//!     parts::Door,
//!     plan::{Expr, NewVar, NewWire, Steps},
//!     secs,
//! };
//!
//! let mut world = World::<u32>::new();
//! let gate = world.object("gate").add()?;
//! let gate = world.attach(gate, Door::swing(85.0).over(secs(0.5)))?;
//! let boats = world.declare(NewVar::new("boats", 0))?;
//! // Two seconds after the gate has opened a boat is counted, unless there was one already.
//! let count = Steps::new().wait(secs(2.0)).set(boats, Expr::var(boats).plus(1));
//! world.on(gate.opened).when(Expr::var(boats).less_than(1)).run_steps(count)?;
//!
//! world.open(gate)?;
//! for _ in 0..180 {
//!     world.step(&mut 0)?;
//! }
//! assert_eq!(*world.value(boats)?, 1.into());
//! # Ok::<(), stoicheon::Error>(())
//! ```

pub use stoicheon_core::{
    Among, Arithmetic, Axis, Became, Busy, Change, Comparison, Crosses, EvalFault, Expr, Function, Group,
    Kept, KeptCounts, NewVar, NewWire, PartOf, Refusal, Rewired, Rewiring, Side, StateTest, Step, Steps,
    Target,
};
