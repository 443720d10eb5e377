//! The wiring language: `.stoi` files, read, checked, formatted and built into a world; and the same as JSON.
//!
//! [`load`] reads and checks a text; [`Loaded::build`] makes its scene in a world. Nothing stops at the first
//! fault: a text with five of them reports five, in order. For running a world see `stoicheon-core`; for traces as
//! people read them, `stoicheon-view`.
//!
//! ```
//! use stoicheon_core::{Catalogue, World};
//!
//! let text = "
//!     signal rung(strokes: whole)
//!     effect bell(strokes: whole)
//!     on rung { perform bell(strokes) }
//! ";
//! let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
//! assert!(!loaded.has_errors());
//!
//! let mut world = World::<()>::new();
//! loaded.build(&mut world)?;
//! assert!(world.find_signal("rung").is_some());
//! # Ok::<(), stoicheon_core::Error>(())
//! ```

mod across;
mod build;
mod diagnostic;
pub mod editing;
mod files;
mod fingerprint;
mod format;
mod given;
mod ground;
mod index;
mod json;
mod kits;
mod line;
mod load;
mod lower;
mod memory;
mod model;
mod offer;
mod on_purpose;
mod places;
mod print;
mod project;
mod render;
mod reparse;
mod resolve;
mod semicolons;
mod source;
mod spots;
mod suggest;
mod syntax;

pub use diagnostic::{Code, Diagnostic, Label, Severity};
pub use format::format;
pub use given::{Givens, NotGiven};
pub use index::{Edit, Index, NameKind, NamePlace, NameRole, NamedThing, NotRenamed};
pub use json::{JsonError, from_json, schema, to_json};
pub use line::Line;
pub use load::{GivenInfo, Loaded, load, load_again, load_noting, load_with};
pub use memory::Memory;
pub use project::{Project, is_project};
pub use render::render;
pub use source::{Source, Sources, Span};
