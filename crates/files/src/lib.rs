//! Stoicheon's wiring files on disk: found in folders, read with the files they share and the project they belong to, made
//! into worlds, and their playtests run.
//!
//! The language itself is in `stoicheon-script`, which reads no files; saves are in `stoicheon-store`.
//!
//! ```
//! use stoicheon_core::Catalogue;
//! # let folder = tempfile::tempdir()?;
//! # let path = folder.path().join("lock.stoi");
//! # std::fs::write(&path, "object upper_gate { door { swing 85deg } }\n")?;
//! let wiring = stoicheon_files::read(&path, &Catalogue::built_in())?;
//! assert!(wiring.broken().is_empty());
//! let world = wiring.world::<()>(None)?;
//! assert!(world.find("upper_gate").is_some());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod draft;
mod find;
mod read_error;
mod rename;
mod run;
mod scene;
mod texts;
mod wiring;

pub use draft::Draft;
pub use find::{
    Projects, bytes, catalogue, find, head_of, read, read_all, read_edited, read_in_project, text,
};
pub use read_error::ReadError;
pub use rename::{RenameError, Renaming, indexes, is_json, rename};
pub use run::{Fresh, Ran, run, run_keeping};
pub use scene::{gltf_wiring, is_gltf};
pub use wiring::Wiring;
