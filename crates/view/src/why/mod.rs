//! Why something happened, or why it did not.

mod answer;
mod happened;
pub(crate) mod history;
pub(crate) mod misses;
mod origin;
mod question;

pub use answer::Why;
pub(crate) use happened::{how_it_came, last_time};
pub use misses::nearest_miss;
pub use question::{NothingNamed, Question};
