//! Files: what a world was told to remember, and whole worlds that were put aside.
//!
//! The core gives and takes data; here it becomes bytes and files. A save is small, is read by people, and outlives
//! changes of the wiring. A whole world goes on exactly where it was, in the same wiring alone.
//!
//! ```
//! use stoicheon_core::{NewVar, World};
//! use stoicheon_store::{Form, from_bytes, to_bytes};
//!
//! let mut world = World::<()>::new();
//! world.declare(NewVar::new("level", 0.4).remembered())?;
//! let save = world.save()?;
//! let bytes = to_bytes(&save, Form::Json)?;
//! assert!(String::from_utf8_lossy(&bytes).contains("\"level\": 0.4"));
//! assert_eq!(from_bytes::<stoicheon_core::Save>(&bytes)?, save);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod encoding;
mod error;
mod file;
mod pretty_json;
mod replace;

use stoicheon_core::{Save, Snapshot};

pub use encoding::{Content, Form, from_bytes, to_bytes};
pub use error::StoreError;
pub use file::{read, write, write_text};

/// The JSON Schema of a save's file.
pub fn save_schema() -> String {
    let schema = schemars::schema_for!(encoding::Envelope<Save>);
    serde_json::to_string_pretty(&schema).unwrap_or_default()
}

impl Content for Save {
    const WORD: &'static str = "stoicheon save";
    const ABOUT: &'static str = "what a world was told to remember";
}

impl Content for Snapshot {
    const WORD: &'static str = "stoicheon world";
    const ABOUT: &'static str = "a whole world that was put aside";
}
