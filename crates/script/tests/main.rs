//! The tests of the language, in one binary: linking it is what takes time.
#![allow(clippy::unwrap_used, clippy::float_cmp, reason = "a test fails by panicking, and rest is exact")]
#![allow(unreachable_pub, reason = "what the tests share")]

mod editing;
mod faults;
mod givens;
mod instances;
mod kits;
mod meaning;
mod memory;
mod places;
mod projects;
mod rewire;
mod rewire_laws;
mod support;
mod text;
mod truth;
mod values_in_texts;
mod workbench;
