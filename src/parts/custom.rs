//! What a kind of part of a game's own is made of.
//!
//! A kind implements [`Part`]; its [`PartKind`] names its settings, commands, states and signals, so that wiring files can use
//! it as they use a door. `examples/lift` has one from end to end.

pub use stoicheon_core::{
    Activity, Aim, Args, BuildPart, CommandKind, Current, Denial, Footing, Join, Moved, NoAnswer, Offer,
    Param, ParamType, Part, PartCx, PartKind, PartSpec, Picked, Progress, Pulse, ReadCx, ReadingKind, Region,
    SHAPE_SETTINGS, Setting, SettingType, SettingValue, Settings, SignalKind, Span, Touched, VariableKind,
    Word, chain_settings, shape_from,
};
