//! What can be wrong with a file.

use std::path::PathBuf;

use thiserror::Error;

/// A file that could not be read or written. What it was to be read into is not touched.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum StoreError {
    /// There is no such file, or it cannot be opened.
    #[error("\"{}\" could not be read: {reason}", path.display())]
    Unreadable {
        /// The file.
        path: PathBuf,
        /// What the system says.
        reason: std::io::Error,
    },
    /// It could not be written. What was there before is there still.
    #[error("\"{}\" could not be written: {reason}; the old file is unchanged", path.display())]
    Unwritable {
        /// The file.
        path: PathBuf,
        /// What the system says.
        reason: std::io::Error,
    },
    /// The bytes are neither.
    #[error("expected JSON or CBOR, found {found}: this is not a stoicheon file, or it is damaged")]
    Foreign {
        /// What was found.
        found: String,
    },
    /// The file holds something else.
    #[error("expected {expected}, found {found}: give the file that was written as the former")]
    OtherContent {
        /// What was to be read.
        expected: &'static str,
        /// What the file says of itself.
        found: String,
    },
    /// What the file holds cannot be made out.
    #[error("the file is damaged, or of another version: {reason}")]
    Damaged {
        /// What is wrong, and where.
        reason: String,
    },
    /// It cannot be written in that form.
    #[error("this cannot be written: {reason}")]
    Unfit {
        /// What is wrong.
        reason: String,
    },
}
