//! What a world did, as people read it.
//!
//! [`TraceText`] prints a trace tick by tick, [`Seen`] says what everything is at a moment, [`Map`] draws where everything is. For running a world see
//! `stoicheon-core`; for the wiring language, `stoicheon-script`.

mod failure;
mod fold;
mod ground;
mod lead;
mod look;
mod map;
mod paint;
mod phrase;
mod picture;
#[cfg(feature = "png")]
mod png;
mod report;
mod timeline;
mod trace_delivery;
mod trace_filter;
mod trace_record;
mod trace_text;
mod why;
mod wiring;
mod words;

pub use failure::failure_text;
pub use ground::{Ground, GroundChange, GroundMark, GroundScene, GroundThing};
pub use lead::SeenLead;
pub use look::{
    Seen, SeenInside, SeenObject, SeenPart, SeenReading, SeenRefusal, SeenSignal, SeenTween, SeenVar,
    SeenWait, SeenWire, Shown,
};
pub use map::Map;
pub use paint::Paint;
pub use phrase::{clock_time, expr_text, readings_text, thousands, typed_text, value_text};
#[cfg(feature = "png")]
pub use png::{PngError, png};
pub use report::{Report, ReportedFinding, ReportedPlaytest};
pub use timeline::Timeline;
pub use trace_filter::TraceFilter;
pub use trace_record::SeenRecord;
pub use trace_text::{TraceText, short_place};
pub use why::{NothingNamed, Question, Why, nearest_miss};
pub use wiring::{NothingWired, WiringGraph};
