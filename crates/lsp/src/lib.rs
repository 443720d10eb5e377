//! Stoicheon's wiring in an editor: a language server that speaks the Language Server Protocol 3.17.
//!
//! [`serve`] is all of it: it reads messages from one side and writes to the other until the editor says that it ends. What an editor shows is
//! worked out in `stoicheon-script`, in its room `editing`, and knows nothing of the protocol; which files belong together is the matter
//! of [`Draft`](stoicheon_files::Draft). Here the two are asked, and what they say is turned into messages.

mod abilities;
mod actions;
mod answer;
mod complete;
mod desk;
mod findings;
mod format;
mod known;
mod lenses;
mod look;
mod names;
mod outcome;
mod place;
mod requests;
mod serve;
mod server;
mod sync;
mod transport;

pub use serve::{ServeError, serve};
