//! Spots: named places to arrive at, with a facing.

use smol_str::SmolStr;

use crate::{
    base::{ids::SpotId, value::Value},
    moment::spots::Spot,
    plan::{calc, operators::Comparison},
    state::State,
};

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

    /// The spot that a value means, if it is loaded.
    pub(crate) fn spot_of(&self, value: &Value) -> Option<&Spot> {
        let id = match value {
            Value::Spot(spot) => *spot,
            Value::SpotElsewhere(path) => self.plan.spots.find_in(&path.scene, &path.spot)?,
            _ => return None,
        };
        self.plan.spots.get(id)
    }

    /// What a comparison gives. A spot by name and the same spot itself are equal.
    #[inline]
    pub(crate) fn compared(&self, how: Comparison, one: &Value, two: &Value) -> Value {
        match (one, two) {
            (Value::SpotElsewhere(_), Value::Spot(_)) | (Value::Spot(_), Value::SpotElsewhere(_)) => {
                self.spots_compared(how, one, two)
            }
            _ => calc::compare(how, one, two),
        }
    }

    #[cold]
    fn spots_compared(&self, how: Comparison, one: &Value, two: &Value) -> Value {
        let by_name = |path: &Value| self.spot_of(path).and_then(|spot| self.plan.spots.find(&spot.name));
        let same = by_name(one).is_some_and(|spot| by_name(two) == Some(spot));
        match how {
            Comparison::Equal => same.into(),
            Comparison::NotEqual => (!same).into(),
            _ => Value::Nothing,
        }
    }

    /// The name of a spot, also of one that is gone while the trace may speak of it.
    pub fn spot_name(&self, spot: SpotId) -> Option<&str> {
        let here = self.plan.spots.get(spot).map(|spot| spot.name.as_str());
        here.or_else(|| self.gone.spots.get(spot).map(SmolStr::as_str))
    }
}
