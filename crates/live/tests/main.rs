//! The page as a program sees it: its address, its files and its socket.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

mod asks;
mod guard;
mod making;
mod past;
mod served;
mod taking_over;
