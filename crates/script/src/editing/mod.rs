//! What an editor shows of a text while somebody writes it: colours, folds, an outline, what may come next, what stands at a place. It knows nothing of any
//! editor, and of no protocol; `stoicheon-lsp` turns it into messages.
//!
//! Everything here is worked out from the same tree, names and findings as a check, and a text with faults is as good as any: what is not
//! half-written yet is known all the same.

mod call;
mod classes;
mod complete;
mod cursor;
mod describe;
mod extract;
mod fixes;
mod folds;
mod hints;
mod outline;
mod rewrite;
mod slot;
mod tokens;
mod words;

pub use call::Call;
pub use classes::{Class, Classed, classes};
pub use complete::Completion;
pub use describe::Description;
pub use fixes::Change;
pub use folds::{Fold, folds};
pub use hints::Hint;
pub use outline::{Entry, EntryKind, outline};

pub use crate::offer::{Offer, OfferKind};
