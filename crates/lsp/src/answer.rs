//! What comes back to a question.

use lsp_server::ErrorCode;

/// Why something is not answered as it was asked.
#[derive(Debug)]
pub(crate) struct Refusal {
    pub(crate) code: ErrorCode,
    pub(crate) why: String,
}

impl Refusal {
    /// What was asked cannot be had, for a reason that people read.
    pub(crate) fn failed(why: impl Into<String>) -> Self {
        Self { code: ErrorCode::RequestFailed, why: why.into() }
    }
}

/// What comes back to a question.
pub(crate) type Answer<T> = Result<T, Refusal>;
