//! Where something was written.

use std::{fmt, panic::Location};

use serde::{Deserialize, Serialize};
use smol_str::{SmolStr, format_smolstr};

/// Where something was written: a wiring file, or Rust.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Place {
    /// The file.
    pub file: SmolStr,
    /// The line, from 1; 0 for the wire of a part, which stands nowhere.
    pub line: u32,
}

impl Place {
    /// The place in Rust the call came from.
    #[track_caller]
    pub fn here() -> Self {
        let caller = Location::caller();
        Self { file: SmolStr::new_static(caller.file()), line: caller.line() }
    }

    /// Whether it is the wire of a part.
    pub(crate) fn is_of_part(&self) -> bool {
        self.line == 0
    }

    /// A part of an object, whose wire it is.
    pub(crate) fn of_part(kind: &str, object: &str) -> Self {
        Self { file: format_smolstr!("the {kind} of {object}"), line: 0 }
    }
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.line == 0 { f.write_str(&self.file) } else { write!(f, "{}:{}", self.file, self.line) }
    }
}
