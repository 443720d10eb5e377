//! Space: shapes, who is inside which zone, rays, and cells.
//!
//! A [`World`](crate::World) does all of this for its own objects. [`Shape`] and [`Grid`] are what a game uses of it directly; [`Tracker`] is for whoever wants to know who touches what and nothing else.

mod approach;
mod asked;
mod bounds;
mod entry;
mod grid;
mod index;
mod levels;
mod placed;
mod probe;
mod reaches;
mod reason;
mod shape;
mod step;
mod touch;
mod tracker;

pub use grid::{Cell, Cells, Grid, Numbering};
pub(crate) use reaches::Reaches;
pub use reason::Reason;
pub use shape::Shape;
pub(crate) use shape::direction;
pub use touch::{Touch, Touches};
pub use tracker::{BodyKey, Tracker, ZoneKey};
