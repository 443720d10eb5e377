//! The tests of the language, in one binary: linking it is what takes time.
#![allow(clippy::unwrap_used, clippy::float_cmp, reason = "a test fails by panicking, and rest is exact")]

mod faults;
mod meaning;
mod places;
mod projects;
mod text;
mod truth;
