//! Many things that are alike have one name together.

use std::collections::BTreeMap;

use stoicheon_core::InspectedObject;

use crate::map::{
    paper::{Flat, Side},
    thing::Name,
};

/// From how many on.
const MANY: usize = 10;

/// What makes things alike: the parts they have, and what they are tagged with.
type Likeness = (Vec<&'static str>, Vec<String>);

fn likeness(object: &InspectedObject) -> Likeness {
    let kinds = object.parts.iter().map(|part| part.kind).collect();
    let tags = object.tags.iter().map(ToString::to_string).filter(|tag| !tag.contains(" in "));
    (kinds, tags.collect())
}

/// The names of a panel, where each group of many has one in their middle, with their number.
pub(crate) fn one_name_for_many(objects: &[&InspectedObject], names: Vec<Name>, side: Side) -> Vec<Name> {
    let mut groups: BTreeMap<Likeness, Vec<Flat>> = BTreeMap::new();
    for object in objects.iter().filter(|object| object.player.is_none()) {
        groups.entry(likeness(object)).or_default().push(side.of(object.at));
    }
    groups.retain(|_, places| places.len() >= MANY);
    if groups.is_empty() {
        return names;
    }
    let mut kept = names;
    for ((kinds, tags), places) in groups {
        kept.retain(|name| !places.contains(&name.at));
        let what =
            tags.first().map_or_else(|| (*kinds.first().unwrap_or(&"object")).to_owned(), Clone::clone);
        #[expect(clippy::cast_precision_loss, reason = "far fewer than that")]
        let count = places.len() as f64;
        let sum = places.iter().fold((0.0, 0.0), |sum, next| (sum.0 + next.0, sum.1 + next.1));
        let text = format!("{what} × {}", places.len());
        kept.push(Name { text, of: String::new(), at: (sum.0 / count, sum.1 / count), away: 0.0, rank: 8 });
    }
    kept
}
