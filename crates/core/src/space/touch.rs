//! What the touch phase finds.

use crate::space::{
    reason::Reason,
    tracker::{BodyKey, ZoneKey},
};

/// A body came into a zone or went out of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Touch {
    /// The zone.
    pub zone: ZoneKey,
    /// The body.
    pub body: BodyKey,
    /// How.
    pub reason: Reason,
    pub(crate) order: (u32, u32),
}

/// The touches of one tick, each list by zone number, then body number.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct Touches {
    /// Who went out, of those who were inside before.
    pub left: Vec<Touch>,
    /// Who came in.
    pub entered: Vec<Touch>,
    /// Who went out again of the zones that were crossed whole within the tick; they are among `entered` too.
    pub crossed: Vec<Touch>,
}

impl Touches {
    pub(crate) fn clear(&mut self) {
        self.left.clear();
        self.entered.clear();
        self.crossed.clear();
    }

    pub(crate) fn sort(&mut self) {
        for list in [&mut self.left, &mut self.entered, &mut self.crossed] {
            list.sort_unstable_by_key(|touch| touch.order);
        }
    }
}
