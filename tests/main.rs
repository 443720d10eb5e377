//! The tests of the whole, in one binary: linking it is what takes time.
#![allow(clippy::unwrap_used, clippy::float_cmp, reason = "a test fails by panicking, and rest is exact")]

mod arrows;
mod back_in_time;
mod host;
mod items;
mod language;
mod public_api;
mod two_doors;
