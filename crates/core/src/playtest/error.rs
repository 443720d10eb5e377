//! Playtests that could not be run.

use thiserror::Error as ThisError;

use crate::base::error::Error;

/// Why a playtest could not be run to its end. What is not as expected is none of it: that is in the
/// [`Verdict`](crate::playtest::Verdict).
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum PlaytestError {
    /// It would go on in another world, and nobody can make one.
    #[error(
        "this playtest reloads or suspends its world, or gives each player one: run it with a host that can make others"
    )]
    NoHost,
    /// It asks what happened in which order, or what it carried, and the world keeps no trace.
    #[error(
        "this playtest asks for the order or the values of what happened: run it in a world with the full trace"
    )]
    NoTrace,
    /// The world does not take a step.
    #[error(transparent)]
    World(#[from] Error),
}
