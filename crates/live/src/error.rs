//! What can keep a page from being served.

use thiserror::Error;

/// Why a page cannot be served, or a world not be shown.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum LiveError {
    /// The address is none of this machine's, or is taken.
    #[error("expected an address to listen on, such as 127.0.0.1:0, found \"{address}\": {reason}")]
    NoAddress {
        /// What was asked for.
        address: String,
        /// What the system says.
        reason: String,
    },
    /// The address is not the loopback, and nobody said that it may be another.
    #[error(
        "expected an address of this machine alone, such as 127.0.0.1:0, found \"{address}\", which others can reach: \
         `Live::listen_to_others` allows that"
    )]
    NotLoopback {
        /// What was asked for.
        address: String,
    },
    /// The system gives no random numbers for the key.
    #[error("the system gives no random numbers, and without a key nothing is served: {reason}")]
    NoKey {
        /// What the system says.
        reason: String,
    },
    /// What the world says.
    #[error(transparent)]
    World(#[from] stoicheon_core::Error),
}
