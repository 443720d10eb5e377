//! Space: shapes, who is inside which zone, rays, and cells.
//!
//! A [`World`](crate::World) does all of this for its own objects. [`Shape`] and [`Grid`] are what a game uses of it directly; [`Tracker`] is for code that wants to know who touches what and nothing else.

pub(crate) mod approach;
pub(crate) mod asked;
pub(crate) mod bodies;
pub(crate) mod bounds;
pub(crate) mod entry;
#[cfg_attr(not(feature = "shaped-bodies"), path = "no_general.rs")]
pub(crate) mod general;
pub(crate) mod grid;
pub(crate) mod index;
pub(crate) mod levels;
pub(crate) mod placed;
pub(crate) mod presence;
pub(crate) mod probe;
pub(crate) mod ray;
pub(crate) mod reaches;
pub(crate) mod reason;
pub(crate) mod shape;
pub(crate) mod sound;
pub(crate) mod step;
pub(crate) mod touch;
pub(crate) mod tracker;

pub use crate::space::asked::RayHit;
pub use crate::space::grid::Cell;
pub use crate::space::grid::Cells;
pub use crate::space::grid::Grid;
pub use crate::space::grid::Numbering;
pub use crate::space::reason::Reason;
pub use crate::space::shape::{Form, Shape};
pub use crate::space::touch::Touch;
pub use crate::space::touch::Touches;
pub use crate::space::tracker::BodyKey;
pub use crate::space::tracker::Tracker;
pub use crate::space::tracker::ZoneKey;
