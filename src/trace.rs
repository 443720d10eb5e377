//! What happened, in order, and what each thing came from; and why something did not happen.
//!
//! ```
//! use stoicheon::{World, trace::Event};
//!
//! let mut world = World::<u32>::new();
//! let bell = world.declare_signal::<()>("bell")?;
//! world.on(bell).run(|rung, (), _| *rung += 1)?;
//! world.emit(bell, ())?;
//! world.step(&mut 0)?;
//! let runs = |event: &Event| matches!(event, Event::Took { .. });
//! assert_eq!(world.trace().records().filter(|(_, record)| runs(&record.event)).count(), 1);
//! # Ok::<(), stoicheon::Error>(())
//! ```

pub use stoicheon_core::{
    About, Digest, Event, Fault, Miss, Phase, Reason, Record, RecordId, RefusalCounts, Totals, Trace,
    TraceLevel, WhyNot, WireCounts,
};
