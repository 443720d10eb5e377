//! What a world did, as people read it.
//!
//! [`TraceText`] prints a trace tick by tick, [`Map`] draws where everything is. For running a world see
//! `stoicheon-core`; for the wiring language, `stoicheon-script`.

mod failure;
mod fold;
mod map;
mod miss;
mod paint;
mod phrase;
mod trace_delivery;
mod trace_text;
mod words;

pub use failure::failure_text;
pub use map::Map;
pub use miss::{last_time, nearest_miss, nearest_miss_for};
pub use paint::Paint;
pub use phrase::{clock_time, expr_text, readings_text, thousands, typed_text, value_text};
pub use trace_text::TraceText;
