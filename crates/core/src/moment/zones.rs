//! The zones and bodies of a world, as its tracker knows them.

use serde::{Deserialize, Serialize};

use crate::{
    base::{
        clock::Ticks,
        ids::{ObjectId, PartId, Tags},
    },
    space::tracker::Tracker,
};

/// What a world knows of a zone beside its place and shape.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct ZoneFacts {
    pub(crate) part: PartId,
    pub(crate) object: ObjectId,
    /// Nobody in particular means everybody.
    pub(crate) admits: Tags,
    /// How often it tells of each body inside.
    pub(crate) pulse: Option<Ticks>,
    /// How many are inside, of those that were told of.
    pub(crate) count: u32,
}

/// The tracker of a world.
pub(crate) type Zones = Tracker<ZoneFacts, ObjectId>;
