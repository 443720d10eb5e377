//! Whom a change goes back to, and what it came from.

use serde::{Deserialize, Serialize};

use crate::base::ids::{ObjectId, RecordId, WireId};

/// Whom a change goes back to, and what it came from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Doing {
    pub(crate) who: Option<ObjectId>,
    pub(crate) cause: Option<RecordId>,
    pub(crate) by: Option<WireId>,
    /// The body with whose arrival it began: until some time has passed, it does not send that body on.
    #[serde(default)]
    pub(crate) arrived: Option<ObjectId>,
}

impl Doing {
    pub(crate) fn of(who: Option<ObjectId>, cause: Option<RecordId>) -> Self {
        Self { who, cause, ..Self::default() }
    }

    /// The same after some time has passed.
    pub(crate) fn later(self) -> Self {
        Self { arrived: None, ..self }
    }
}

/// How something came to be where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Way {
    /// It passed what lies between.
    Walked,
    /// The host moved it, and it passed what lies between; a walk of its own ends.
    Led,
    /// It did not.
    Placed,
    /// It did not, and whatever it comes into says that it was sent there.
    Sent,
}
