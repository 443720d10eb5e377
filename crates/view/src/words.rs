//! What an event is in words.

use stoicheon_core::{Event, Moved, PartState, Value, VarId};

use crate::{
    phrase::{clock_time, expr_text, part_text, typed_text, value_text, vector_text},
    trace_text::{Printer, short_place},
};

impl Printer<'_> {
    fn change(&self, var: VarId, from: &Value, to: &Value) -> String {
        let (state, ty) = (self.state, self.state.var_type(var));
        let name = state.var_name(var).unwrap_or("?");
        format!("{name} {} → {}", typed_text(state, ty, from), typed_text(state, ty, to))
    }

    fn moved(&self, moved: Moved, to: &Value) -> (String, String) {
        let text = value_text(self.state, to);
        match moved {
            Moved::Var(var, of) => {
                let name = self.state.var_name(var).unwrap_or("?");
                let of = of.map_or_else(String::new, |of| format!(" of {}", self.name(of)));
                (format!("{name}{of}"), typed_text(self.state, self.state.var_type(var), to))
            }
            Moved::Place(object) => (self.name(object).to_owned(), text),
            Moved::Facing(object) => (format!("{}.facing", self.name(object)), text),
            _ => ("something".to_owned(), text),
        }
    }

    pub(crate) fn words(&self, event: &Event) -> String {
        let state = self.state;
        let state_word = |part, number: PartState| {
            let kind = state.kind_of(part);
            kind.and_then(|kind| kind.states.get(usize::from(number)).copied()).unwrap_or("?")
        };
        match event {
            Event::Key { who, key, down } => {
                format!("{} {} {key}", self.name(*who), if *down { "presses" } else { "releases" })
            }
            Event::HandedIn { signal, who } => {
                format!("the host emits {}{}", state.signal_name(*signal).unwrap_or("?"), self.who_note(*who))
            }
            Event::Dropped { wire, restarted } => {
                let why = if *restarted {
                    "a new one begins"
                } else {
                    "its owner is disabled or gone, or its stage is left"
                };
                let place = if self.places { format!("  {}", self.place(*wire)) } else { String::new() };
                format!("a waiting reaction is given up: {why}{place}")
            }
            Event::Held { .. } => "held back until the earlier reaction has ended".to_owned(),
            Event::Spawned { object } => format!("{} is spawned", self.name(*object)),
            Event::Shifted { part, from, to } => {
                let name = part_text(state, *part);
                format!("{name} {} → {}", state_word(*part, *from), state_word(*part, *to))
            }
            Event::Unmoved { part, state: now } => {
                format!("{} is {} already", part_text(state, *part), state_word(*part, *now))
            }
            Event::Set { var, of, from, to } => {
                let change = self.change(*var, from, to);
                match of {
                    Some(of) => format!("{change} for {}", self.name(*of)),
                    None => change,
                }
            }
            Event::Changed { part, setting, from, to } => {
                let kind = state.kind_of(*part).map_or("?", |kind| kind.name);
                let (from, to) = (value_text(state, from), value_text(state, to));
                format!("{}.{kind}.{setting} {from} → {to}", part_text(state, *part))
            }
            Event::Kept { bind, var, from, to } => {
                let change = self.change(*var, from, to);
                match state.bound(*bind) {
                    Some((.., place)) if self.places => format!("bind {change}  {}", short_place(place)),
                    _ => format!("bind {change}"),
                }
            }
            Event::Tweens { moved, to, until } => {
                let (name, to) = self.moved(*moved, to);
                format!("{name} goes to {to} until {}", clock_time(state.rate(), *until))
            }
            Event::Sent { body, spot } => {
                let spot = state.spot_name(*spot).unwrap_or("a spot that is gone");
                format!("{} is sent to {spot}", self.name(*body))
            }
            Event::SentAway { body, scene, spot } => {
                format!("{} is sent to {spot} in {scene}", self.name(*body))
            }
            Event::Miscalculated { eval_fault } => format!("miscalculated: {}", eval_fault.words()),
            Event::WaitsUntil { condition, limit } => {
                let limit = limit.map_or_else(String::new, |limit| {
                    format!(", at the latest {}", clock_time(state.rate(), limit))
                });
                format!("waits until {}{limit}", expr_text(state, condition, &[]))
            }
            Event::Performed { effect, values } => {
                let fields = state.effect_fields(*effect);
                let types = fields.iter().map(|field| Some(&field.ty)).chain(std::iter::repeat(None));
                let words = values.iter().zip(types).map(|(value, ty)| typed_text(state, ty, value));
                let values: Vec<_> = words.collect();
                let name = state.effect_name(*effect).unwrap_or("?");
                format!("perform {name}({})", values.join(", "))
            }
            Event::Waits { until } => format!("waits until {}", clock_time(state.rate(), *until)),
            Event::Enabled { object } => format!("{} is enabled", self.name(*object)),
            Event::Disabled { object } => format!("{} is disabled", self.name(*object)),
            Event::Destroyed { name, .. } => format!("{name} is destroyed"),
            Event::Broken { rule } => match state.rule(*rule) {
                Some((never, place)) => {
                    let text = expr_text(state, never, &[]);
                    if self.places {
                        format!("rule broken: never {text}  {}", short_place(place))
                    } else {
                        format!("rule broken: never {text}")
                    }
                }
                None => "rule broken".to_owned(),
            },
            Event::Fault { message, object, .. } => match object {
                Some(object) => format!("fault at {}: {message}", self.name(*object)),
                None => format!("fault: {message}"),
            },
            other => self.whereabouts(other),
        }
    }

    /// What happened in space.
    fn whereabouts(&self, event: &Event) -> String {
        let (name, part) = (|object| self.name(object), |part| part_text(self.state, part));
        match event {
            Event::Placed { body, at } => format!("{} is put at {}", name(*body), vector_text(*at)),
            Event::SetOut { body, to } => format!("{} sets out for {}", name(*body), vector_text(*to)),
            Event::Arrived { body, at } => format!("{} arrives at {}", name(*body), vector_text(*at)),
            Event::Entered { zone, body, reason } => {
                format!("{} enters {} ({})", name(*body), part(*zone), reason.word())
            }
            Event::Left { zone, body, reason } => {
                format!("{} leaves {} ({})", name(*body), part(*zone), reason.word())
            }
            Event::TurnedAway { zone, body } => format!("{} is turned away at {}", name(*body), part(*zone)),
            Event::Pointed { who, at: None, .. } => format!("{} points at nothing", name(*who)),
            Event::Pointed { who, at: Some(at), taken } => {
                let note = if *taken { "" } else { ", which is not to be picked from there" };
                format!("{} points at {}{note}", name(*who), part(*at))
            }
            Event::PlayerLeft { player } => format!("{} leaves the game", name(*player)),
            Event::Joined { player, number } => format!("{} joins as player {number}", name(*player)),
            Event::SetDown { object, player } => {
                format!("{} is set down, which {} carried", name(*object), name(*player))
            }
            Event::Travelled { body, from, to, spot } => {
                let spot = self.state.spot_name(*spot).unwrap_or("a spot that is gone");
                let from = from.map_or_else(String::new, |from| format!(" from {}", self.scene(from)));
                format!("{} goes{from} to {}, at {spot}", name(*body), self.scene(*to))
            }
            Event::Crossed { signal, who, here } => {
                let to = if *here { "crosses to the players, too" } else { "crosses to the authority" };
                format!("{}{}  {to}", self.state.signal_name(*signal).unwrap_or("?"), self.who_note(*who))
            }
            Event::StaysHere { body } => {
                format!("{} has just come, and is not sent on", name(*body))
            }
            Event::Rewired => "the wiring is changed".to_owned(),
            Event::Loaded { scene } => format!("{} is loaded", self.scene(*scene)),
            Event::Unloaded { scene } => format!("{} is unloaded", self.scene(*scene)),
            Event::Frozen { scene } => format!("{} stands still, with nobody in it", self.scene(*scene)),
            Event::Thawed { scene } => format!("{} goes on", self.scene(*scene)),
            Event::Driven { body, velocity } => {
                format!("{} is driven by {} a second", name(*body), vector_text(*velocity))
            }
            _ => String::new(),
        }
    }
}
