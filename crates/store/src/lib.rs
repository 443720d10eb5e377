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
pub use file::{read, write, write_bytes, write_text, write_together};

/// The JSON Schema of a save's file.
pub fn save_schema() -> String {
    let schema = schemars::schema_for!(encoding::Envelope<Save>);
    serde_json::to_string_pretty(&schema).unwrap_or_default()
}

/// Said of each of them, so that it is compiled here and not in every game.
macro_rules! content {
    ($of:ty, $word:literal, $about:literal) => {
        impl Content for $of {
            const WORD: &'static str = $word;
            const ABOUT: &'static str = $about;

            fn encode(&self, form: Form) -> Result<Vec<u8>, StoreError> {
                encoding::encode(self, form)
            }

            fn decode(bytes: &[u8]) -> Result<Self, StoreError> {
                encoding::decode(bytes)
            }
        }
    };
}

content!(Save, "stoicheon save", "what a world was told to remember");
content!(Snapshot, "stoicheon world", "a whole world that was put aside");
