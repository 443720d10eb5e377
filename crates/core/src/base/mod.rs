//! What everything else is made of: ids, time, names, values, geometry, errors.

pub(crate) mod chunks;
pub(crate) mod clock;
pub(crate) mod doing;
pub(crate) mod ease;
pub(crate) mod error;
pub(crate) mod geometry;
pub(crate) mod ids;
pub(crate) mod name_index;
pub(crate) mod names;
pub(crate) mod numbers;
pub(crate) mod pairs;
pub(crate) mod payload;
pub(crate) mod place;
pub(crate) mod shared;
pub(crate) mod signal;
pub(crate) mod slots;
pub(crate) mod spot_path;
pub(crate) mod value;
