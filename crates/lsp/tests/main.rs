//! The language server, asked as an editor asks it: bytes in, bytes out.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]
#![allow(clippy::needless_pass_by_value, reason = "what is sent is made where it is sent")]

mod behaves;
mod changes;
mod conversations;
mod same;
mod support;
