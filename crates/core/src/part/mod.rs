//! What a part is to the world: the trait, what a kind says of itself, its settings, and where parts are kept.
//!
//! A part is a small machine: it takes commands, moves tick by tick while it has to, and says what happened
//! through its signals. It never knows another part; a wire joins them. A game's own parts are written against
//! the same [`Part`](crate::Part) trait as ours.

pub(crate) mod behaviours;
pub(crate) mod contract;
pub(crate) mod cx;
pub(crate) mod info;
pub(crate) mod interval;
pub(crate) mod kind;
pub(crate) mod mould;
pub(crate) mod offers;
pub(crate) mod refusals;
pub(crate) mod region;
pub(crate) mod setting;
pub(crate) mod setting_type;
pub(crate) mod store;
