//! The bench: what has been chosen, with all that can be said of it and done to it.

use serde_json::{Value, json};
use stoicheon_core::{ObjectId, State};
use stoicheon_view::Seen;

/// An object by its name, or by its name within a scene.
pub(crate) fn find_object(state: &State, name: &str) -> Option<ObjectId> {
    state.find(name).or_else(|| {
        let mut in_scenes =
            state.scenes().filter_map(|scene| state.find(&format!("{}.{name}", state.scene_name(scene)?)));
        let found = in_scenes.next();
        found.filter(|_| in_scenes.next().is_none())
    })
}

/// What is chosen, as the page shows it.
pub(crate) fn of(state: &State, what: &str) -> Value {
    let Some(seen) = Seen::of(state).about(what) else {
        return json!({ "what": what, "missing": true });
    };
    let told: Vec<Value> = find_object(state, what).map_or_else(Vec::new, |object| {
        let parts = state.parts_of(object).iter();
        let kinds = parts.map(|part| state.kind_of(*part).map_or(&[][..], |kind| kind.commands));
        kinds
            .map(|commands| {
                commands
                    .iter()
                    .map(|command| json!({ "name": command.name, "about": command.about, "plain": command.params.iter().all(|param| !param.required) }))
                    .collect()
            })
            .collect()
    });
    json!({ "what": what, "seen": seen, "told": told })
}
