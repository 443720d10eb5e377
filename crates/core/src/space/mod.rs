//! Space: shapes, and who is inside which zone.

mod boxes;
mod touch;

pub(crate) use boxes::Aabb;
pub(crate) use touch::{Mover, Touch, Touches, Tracker, Zone};
