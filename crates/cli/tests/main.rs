//! The tests of the command, in one binary: linking it is what takes time.
#![allow(clippy::unwrap_used, clippy::float_cmp, reason = "a test fails by panicking, and rest is exact")]

mod command;
mod cookbook;
mod editor;
mod keeping;
mod names;
mod stories;
mod support;
// It looks at links, permissions and limits of the system.
#[cfg(unix)]
mod trust;
