//! What a reaction leads to, as wiring writes it.

use schemars::JsonSchema;
use serde::Serialize;
use stoicheon_core::{Expr, Field, Lead, PartId, PartOf, State, Value};

use crate::phrase::expr_text;

/// What a wire leads to.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenLead {
    /// As wiring writes it: `open upper_gate`, `emit bell`.
    pub text: String,
    /// The object, signal or variable it is about, if that is known before it happens.
    pub about: Option<String>,
}

fn object_of(state: &State, expr: &Expr) -> Option<String> {
    match expr {
        Expr::Value(Value::Object(object)) => state.name(*object).map(str::to_owned),
        _ => None,
    }
}

fn owner(state: &State, part: PartId) -> Option<String> {
    state.object_of(part).and_then(|object| state.name(object)).map(str::to_owned)
}

impl SeenLead {
    pub(crate) fn of(state: &State, lead: &Lead, fields: &[Field]) -> Self {
        let text = |expr: &Expr| expr_text(state, expr, fields);
        let seen = |text: String, about: Option<String>| Self { text, about };
        match lead {
            Lead::Emits(signal) => {
                let name = state.signal_name(*signal).unwrap_or("a signal that is gone").to_owned();
                seen(format!("emit {name}"), Some(name))
            }
            Lead::EmitsOf(object, signal) => {
                seen(format!("emit {}.{signal}", text(object)), object_of(state, object))
            }
            Lead::Commands(part, command) => {
                let kind = state.kind_of(*part);
                let word = kind
                    .and_then(|kind| kind.commands.get(usize::from(*command)))
                    .map_or("tell", |of| of.name);
                let of = owner(state, *part);
                seen(format!("{word} {}", of.as_deref().unwrap_or("something gone")), of)
            }
            Lead::Tells(object, word) => seen(format!("{word} {}", text(object)), object_of(state, object)),
            Lead::TellsEvery(tag, word) => {
                let tag = tag.split_once(" in ").map_or(tag.as_str(), |(tag, _)| tag);
                seen(format!("{word} every {tag}"), Some(format!("every {tag}")))
            }
            Lead::Sets(var) => {
                let name = state.var_name(*var).unwrap_or("a variable that is gone").to_owned();
                seen(format!("set {name}"), Some(name))
            }
            Lead::SetsOf(object, name) => {
                seen(format!("set {}.{}", text(object), state.property_word(*name)), object_of(state, object))
            }
            Lead::Moves(object) => seen(format!("move {}", text(object)), object_of(state, object)),
            Lead::Changes(part, setting) => {
                let of = match part {
                    PartOf::Part(part) => owner(state, *part),
                    PartOf::Of { object, .. } => object_of(state, object),
                    _ => None,
                };
                seen(format!("change {setting} of {}", of.as_deref().unwrap_or("something")), of)
            }
            Lead::Performs(effect) => seen(
                format!("perform {}", state.effect_name(*effect).unwrap_or("an effect that is gone")),
                None,
            ),
            Lead::Sends(spot) => {
                let about = match spot {
                    Expr::Value(Value::Spot(spot)) => {
                        state.spot(*spot).ok().map(|spot| spot.name.to_string())
                    }
                    _ => None,
                };
                seen(format!("send to {}", text(spot)), about)
            }
            Lead::SendsAway(scene, spot) => seen(format!("send to {spot} in {scene}"), None),
            Lead::Switches(object, on) => {
                let word = if *on { "enable" } else { "disable" };
                seen(format!("{word} {}", text(object)), object_of(state, object))
            }
            Lead::Destroys(object) => seen(format!("destroy {}", text(object)), object_of(state, object)),
            Lead::Spawns(mould) => {
                seen(format!("spawn {}", state.mould_name(*mould).unwrap_or("a mould")), None)
            }
            Lead::Tags(object, tag, on) => {
                let word = if *on { "tag" } else { "untag" };
                seen(format!("{word} {} {tag}", text(object)), object_of(state, object))
            }
            _ => seen("something else".to_owned(), None),
        }
    }
}
