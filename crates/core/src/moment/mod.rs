//! What is true now: where things are, what they hold, what waits, and what is on its way.

pub(crate) mod alarms;
pub(crate) mod effects;
pub(crate) mod faults;
pub(crate) mod hands;
pub(crate) mod leaving;
pub(crate) mod members;
pub(crate) mod memory;
pub(crate) mod messages;
pub(crate) mod moves;
pub(crate) mod object;
pub(crate) mod objects;
pub(crate) mod queue;
pub(crate) mod remembered;
pub(crate) mod run;
pub(crate) mod runaway;
pub(crate) mod scenes;
pub(crate) mod signals;
pub(crate) mod spots;
pub(crate) mod tweens;
pub(crate) mod vars;
pub(crate) mod waiting;
pub(crate) mod watches;
pub(crate) mod wires;
pub(crate) mod zones;
