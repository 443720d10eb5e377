//! Saves and snapshots that do not fit.

use smol_str::SmolStr;
use thiserror::Error as ThisError;

/// What cannot be recalled or restored. The world is as it was.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum SaveError {
    /// A save of a form this version does not know.
    #[error(
        "expected a save of form {known} or before, found one of form {found}: read it with a newer version"
    )]
    Version {
        /// Its form.
        found: u32,
        /// The newest form that is known here.
        known: u32,
    },
    /// Players have numbers already that are others in the save.
    #[error(
        "expected \"{there}\" to be the next player, as in the save, found \"{here}\": recall a save before anybody joins"
    )]
    TooLate {
        /// Who has the number here.
        here: SmolStr,
        /// Who has it in the save.
        there: SmolStr,
    },
    /// A snapshot of a world that was built otherwise.
    #[error("the snapshot does not fit this world: {what}")]
    Mismatch {
        /// What differs.
        what: String,
    },
    /// A reaction panicked earlier, in the middle of a tick: what there is now is worth no save.
    #[error(
        "a reaction panicked in the middle of a tick; this world cannot be saved: restore a snapshot or build a new one"
    )]
    BrokenOff,
}
