//! Why a wire did not take a signal.

use smallvec::SmallVec;

use crate::base::{clock::Tick, value::Value};

/// Why a wire did not take a signal.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Refusal {
    /// Its owner is disabled.
    Asleep,
    /// Who caused the signal is nobody, or has none of the tags the wire asks for.
    Who,
    /// Its guard said no.
    Guard {
        /// Which of the conditions joined by `and` was the first that did not hold, as a number of
        /// [`Expr::conditions`](crate::Expr::conditions).
        condition: u8,
        /// What that condition read, in the order of [`Expr::reads`](crate::Expr::reads); empty for a guard in
        /// Rust.
        readings: SmallVec<[Value; 2]>,
    },
    /// It has been taken as often as it may.
    Spent,
    /// It was taken too short a while ago.
    Cooling {
        /// When it may be taken again.
        until: Tick,
    },
    /// Its reaction to an earlier signal still waits.
    Running,
    /// Its closure takes a type that what the signal carries cannot be, such as −1 for a `u32`. That is a fault, too.
    Payload,
}
