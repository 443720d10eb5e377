//! The tests of the core, in one binary: linking it is what takes time.
#![allow(clippy::unwrap_used, clippy::float_cmp, reason = "a test fails by panicking, and rest is exact")]

mod bad_calls;
mod behalf;
mod exact_time;
mod frames;
mod gaits;
mod inspecting;
mod journal;
mod looking;
mod model;
mod order_law;
mod own_parts;
mod parts;
mod reference_model;
mod scenes;
mod scenes_random;
mod sequences;
mod settings;
mod snapshots;
mod space;
mod space_saved;
mod support;
mod touching;
mod trust;
mod values;
mod wires;
