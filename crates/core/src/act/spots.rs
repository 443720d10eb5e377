//! Spots: named places to arrive at, with a facing.

use smol_str::SmolStr;

use crate::{base::ids::SpotId, moment::spots::Spot, state::State};

impl State {
    /// Ends the spots that are meant. Their names stay known for as long as the trace may speak of them.
    pub(crate) fn end_spots(&mut self, meant: impl Fn(&Spot) -> bool) {
        let all = self.plan.spots.all.iter().filter(|(_, spot)| meant(spot));
        let ids: Vec<_> = all.map(|(id, _)| id).collect();
        for id in ids {
            if let Some(spot) = self.plan.edit().spots.remove(id) {
                self.gone.spot(id, spot.name, self.bus.trace.len());
            }
        }
    }

    /// The name of a spot, also of one that is gone while the trace may speak of it.
    pub fn spot_name(&self, spot: SpotId) -> Option<&str> {
        let here = self.plan.spots.get(spot).map(|spot| spot.name.as_str());
        here.or_else(|| self.gone.spots.get(spot).map(SmolStr::as_str))
    }
}
