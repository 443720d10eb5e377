//! The parts of the catalogue, one kind in a file. They know of a world what a part of a game's own does.

pub(crate) mod blend;
pub(crate) mod body;
pub(crate) mod carrier;
pub(crate) mod catalogue;
pub(crate) mod choice;
pub(crate) mod cycle;
pub(crate) mod door;
pub(crate) mod gait;
pub(crate) mod item;
pub(crate) mod pick;
pub(crate) mod prompt;
pub(crate) mod push;
pub(crate) mod shake;
pub(crate) mod stages;
pub(crate) mod switch;
pub(crate) mod tally;
pub(crate) mod teleporter;
pub(crate) mod timer;
pub(crate) mod zone;
