//! Ticks that would not come to rest.

use thiserror::Error as ThisError;

use crate::base::place::Place;

/// Why a tick was ended early: it would not have come to rest. What was still queued was let go, and the world stands between
/// ticks as after any other.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum TickError {
    /// A tick that would not come to rest.
    #[error("tick {tick} did not settle after {deliveries} deliveries in {rounds} rounds: {}", chain.join(" → "))]
    Runaway {
        /// The tick.
        tick: u64,
        /// How many signals were delivered.
        deliveries: u32,
        /// How many rounds they took.
        rounds: u32,
        /// The loop, link by link: a signal, the wire that took it, the signal that wire gave, and so on
        /// round to the first.
        chain: Vec<String>,
    },
    /// More would be spawned than there may be: see [`Config::objects`](crate::Config::objects).
    #[error("tick {tick}: expected at most {most} objects, and {wire} spawns one more")]
    TooManyObjects {
        /// The tick.
        tick: u64,
        /// How many there may be.
        most: u32,
        /// The wire that would spawn one more.
        wire: String,
    },
    /// A sequence that would not come to rest.
    #[error(
        "tick {tick} did not settle after {statements} statements: the sequence at {place} goes round without a wait"
    )]
    EndlessSequence {
        /// The tick.
        tick: u64,
        /// How many statements were run.
        statements: u32,
        /// Where the wire was written whose sequence it is.
        place: Place,
    },
}
