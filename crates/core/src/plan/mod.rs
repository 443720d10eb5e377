//! What has been built: it changes when something is wired, spawned or unwired, and snapshots share it.

pub(crate) mod among;
pub(crate) mod binds;
pub(crate) mod calc;
pub(crate) mod crossings;
pub(crate) mod expr;
pub(crate) mod known;
pub(crate) mod members;
pub(crate) mod new_var;
pub(crate) mod operators;
pub(crate) mod ops;
pub(crate) mod patterns;
pub(crate) mod reads;
pub(crate) mod refusals;
pub(crate) mod rules;
pub(crate) mod signals;
pub(crate) mod steps;
pub(crate) mod wires;
