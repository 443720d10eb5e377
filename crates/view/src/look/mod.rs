//! What everything is at a moment: as text for people, and as data with names for programs.

mod seen;
mod seen_wire;
mod shown;
mod text;

pub use seen::{Seen, SeenInside, SeenObject, SeenPart, SeenReading, SeenSignal, SeenTween, SeenVar};
pub use seen_wire::{SeenRefusal, SeenWait, SeenWire};
pub use shown::Shown;
