//! Pictures from worlds, without a terminal: what is on them, where it stands, and that nothing covers a name.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

mod ground;
mod map;
mod pictures;
mod report;
mod timeline;
mod wiring;
