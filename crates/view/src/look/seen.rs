//! What everything is at a moment, with names instead of ids.

use schemars::JsonSchema;
use serde::Serialize;
use stoicheon_core::{
    InspectedObject, InspectedPart, InspectedTween, InspectedVar, Inspection, Moved, ObjectId, SignalId,
    SmolStr, State, Tick,
};

use crate::{
    look::{
        seen_wire::{SeenWait, SeenWire},
        shown::Shown,
    },
    phrase::expr_text,
};

/// What everything is at a moment: what `stoicheon look` prints, as text with [`text`](Self::text) and as JSON.
///
/// ```
/// use stoicheon_core::World;
/// use stoicheon_view::Seen;
/// let mut world = World::<()>::new();
/// world.object("gauge_post").tag("post").add()?;
/// world.var("level", 0.4)?;
/// let seen = Seen::of(&world);
/// assert!(seen.text().contains("gauge_post"));
/// assert_eq!(serde_json::to_value(&seen)?["variables"][0]["value"], 0.4);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[schemars(description = "What everything is at a moment.")]
#[non_exhaustive]
pub struct Seen {
    /// The time in the world, in seconds.
    pub time: f64,
    /// The tick.
    pub tick: u64,
    /// The scenes that are loaded.
    pub scenes: Vec<String>,
    /// The objects, by number.
    pub objects: Vec<SeenObject>,
    /// The variables that belong to no object.
    pub variables: Vec<SeenVar>,
    /// What waits, the one that is due first in front.
    pub waits: Vec<SeenWait>,
    /// The tweens under way.
    pub tweens: Vec<SeenTween>,
    /// The wires, in the order of their making.
    pub wires: Vec<SeenWire>,
}

/// An object.
#[expect(clippy::struct_excessive_bools, reason = "each says a thing of its own")]
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenObject {
    /// Its name.
    pub name: String,
    /// The scene it is in.
    pub scene: Option<String>,
    /// Its number among the players, from 1, if it is one.
    pub player: Option<u32>,
    /// It fills a role.
    pub manager: bool,
    /// Its tags.
    pub tags: Vec<String>,
    /// Where it is, in scene units.
    pub at: Shown,
    /// Which way it faces.
    pub facing: Shown,
    /// Its velocity, in scene units per second, if it is a body.
    pub velocity: Option<Shown>,
    /// What it hangs on.
    pub parent: Option<String>,
    /// Whether it is enabled, and what it hangs on too.
    pub enabled: bool,
    /// One of its parts hides it.
    pub hidden: bool,
    /// One of its parts lets bodies through.
    pub passable: bool,
    /// Its parts.
    pub parts: Vec<SeenPart>,
    /// Its own variables.
    pub variables: Vec<SeenVar>,
    /// Its own signals; those of its parts are with these.
    pub signals: Vec<SeenSignal>,
    /// The wires that sleep and end with it, by where they were written.
    pub wires: Vec<String>,
}

/// A part of an object.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenPart {
    /// The word for its kind.
    pub kind: String,
    /// The word for the state it is in.
    pub state: Option<String>,
    /// What it says of itself.
    pub readings: Vec<SeenReading>,
    /// Its settings that may change.
    pub settings: Vec<SeenReading>,
    /// What it has worked out while the world runs: the name of the setting, and what is worked out.
    pub asks: Vec<(String, String)>,
    /// Who is inside, by object number.
    pub inside: Vec<SeenInside>,
    /// How many seconds it is until it acts by itself.
    pub acts_in: Option<f64>,
    /// The variables it keeps.
    pub variables: Vec<SeenVar>,
    /// The signals it gives.
    pub signals: Vec<SeenSignal>,
}

/// A signal, and how often it was delivered.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenSignal {
    /// Its name.
    pub name: String,
    /// How often it was delivered.
    pub delivered: u64,
}

/// What a part says of itself, or one of its settings.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenReading {
    /// Its name.
    pub name: String,
    /// The player it is about, for what each player has.
    pub of: Option<String>,
    /// What it is.
    pub value: Shown,
}

/// Somebody inside a zone.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenInside {
    /// The body.
    pub name: String,
    /// Since when, in seconds.
    pub since: f64,
}

/// A variable.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenVar {
    /// Its whole name.
    pub name: String,
    /// The type of what it holds.
    pub r#type: Option<String>,
    /// What it holds; of one that each player has, what a player begins with.
    pub value: Shown,
    /// What it holds for each player who has their own; nothing for one that all share.
    pub each: Option<Vec<SeenReading>>,
    /// It is remembered.
    pub remembered: bool,
    /// A bind keeps it.
    pub bound: bool,
}

/// A tween under way.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[non_exhaustive]
pub struct SeenTween {
    /// What it moves.
    pub what: String,
    /// What it began with.
    pub from: Shown,
    /// Where to.
    pub to: Shown,
    /// How much of its time is over, from 0 to 1.
    pub part: f64,
}

pub(crate) fn seconds(state: &State, tick: Tick) -> f64 {
    state.rate().seconds(stoicheon_core::ticks(tick.0)).0
}

pub(crate) fn name(state: &State, object: ObjectId) -> String {
    state.name(object).unwrap_or("somebody gone").to_owned()
}

fn signals(state: &State, all: &[SignalId]) -> Vec<SeenSignal> {
    let one = |signal: &SignalId| {
        let name = state.signal_name(*signal)?.to_owned();
        Some(SeenSignal { name, delivered: state.delivered(*signal) })
    };
    all.iter().filter_map(one).collect()
}

impl Seen {
    /// Everything a world is now.
    pub fn of(state: &State) -> Self {
        Self::from_inspection(state, &state.inspect())
    }

    pub(crate) fn from_inspection(state: &State, now: &Inspection) -> Self {
        let scenes = state.scenes().filter_map(|scene| state.scene_name(scene));
        Self {
            time: seconds(state, now.tick),
            tick: now.tick.0,
            scenes: scenes.map(str::to_owned).collect(),
            objects: now.objects.iter().map(|object| SeenObject::of(state, object)).collect(),
            variables: now.variables.iter().map(|var| SeenVar::of(state, var)).collect(),
            waits: now.waits.iter().map(|wait| SeenWait::of(state, wait)).collect(),
            tweens: now.tweens.iter().map(|tween| SeenTween::of(state, tween)).collect(),
            wires: now.wires.iter().map(|wire| SeenWire::of(state, wire)).collect(),
        }
    }

    /// What of it is about one thing: an object, a player, a tag, a scene, a signal, a variable or a place of a wire
    /// (`lock.stoi:14`), by name. `None` if there is nothing of that name.
    pub fn about(&self, what: &str) -> Option<Self> {
        let in_scene = self.scenes.iter().any(|scene| scene == what);
        let is_about = |object: &SeenObject| {
            is_named(&object.name, what)
                || object.tags.iter().any(|tag| tag == what)
                || (in_scene && object.scene.as_deref() == Some(what))
                || object.holds(what)
        };
        let objects: Vec<_> = self.objects.iter().filter(|object| is_about(object)).cloned().collect();
        let names: Vec<&str> = objects.iter().map(|object| object.name.as_str()).collect();
        let is_part_of = |name: &str| {
            is_named(name, what)
                || names.iter().any(|of| name.strip_prefix(of).is_some_and(|rest| rest.starts_with('.')))
        };
        let of_wires = |wire: &&SeenWire| {
            wire.place == what
                || wire.signals.iter().any(|signal| is_part_of(signal))
                || wire.owner.as_deref().is_some_and(|owner| names.contains(&owner))
                || wire.leads_to.iter().any(|lead| lead.about.as_deref().is_some_and(is_part_of))
        };
        let wires: Vec<_> = self.wires.iter().filter(of_wires).cloned().collect();
        let places: Vec<&str> = wires.iter().map(|wire| wire.place.as_str()).collect();
        let waits = self.waits.iter().filter(|wait| {
            places.contains(&wait.wire.as_str())
                || wait.who.as_deref().is_some_and(|who| names.contains(&who))
        });
        let found = Self {
            scenes: if in_scene { vec![what.to_owned()] } else { Vec::new() },
            variables: self.variables.iter().filter(|var| is_named(&var.name, what)).cloned().collect(),
            waits: waits.cloned().collect(),
            tweens: self.tweens.iter().filter(|tween| is_part_of(&tween.what)).cloned().collect(),
            objects,
            wires,
            ..*self
        };
        let is_something =
            !(found.objects.is_empty() && found.variables.is_empty() && found.wires.is_empty());
        is_something.then_some(found)
    }

    /// All names that can be asked about, for a hint.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        let objects = self.objects.iter().map(|object| object.name.as_str());
        let tags = self.objects.iter().flat_map(|object| object.tags.iter().map(String::as_str));
        let signals = self.wires.iter().flat_map(|wire| wire.signals.iter().map(String::as_str));
        let variables = self.variables.iter().map(|var| var.name.as_str());
        let in_scene = objects.clone().filter_map(|name| name.split_once('.').map(|(_, rest)| rest));
        objects
            .chain(in_scene)
            .chain(variables)
            .chain(signals)
            .chain(tags)
            .chain(self.scenes.iter().map(String::as_str))
    }
}

/// Whether a name is asked for: the whole of it, or what comes after the scene.
fn is_named(name: &str, asked: &str) -> bool {
    name.strip_suffix(asked).is_some_and(|scene| scene.is_empty() || scene.ends_with('.'))
}

/// The tags that were given; not those that a scene's wires know them by.
fn own_tags(state: &State, tags: &[SmolStr]) -> Vec<String> {
    let is_scoped =
        |tag: &SmolStr| tag.split_once(" in ").is_some_and(|(_, scene)| state.find_scene(scene).is_some());
    tags.iter().filter(|tag| !is_scoped(tag)).map(ToString::to_string).collect()
}

impl SeenObject {
    fn of(state: &State, seen: &InspectedObject) -> Self {
        let place = |wire: &stoicheon_core::WireId| state.wire_place(*wire).map(ToString::to_string);
        Self {
            name: seen.name.to_string(),
            scene: seen.scene.and_then(|scene| state.scene_name(scene)).map(str::to_owned),
            player: seen.player,
            manager: seen.is_manager,
            tags: own_tags(state, &seen.tags),
            at: Shown::vector(state, seen.at),
            facing: Shown::rotation(state, seen.facing),
            velocity: seen.velocity.map(|velocity| Shown::vector(state, velocity)),
            parent: seen.parent.map(|parent| name(state, parent)),
            enabled: seen.enabled,
            hidden: seen.hidden,
            passable: seen.passable,
            parts: seen.parts.iter().map(|part| SeenPart::of(state, part)).collect(),
            variables: seen.variables.iter().map(|var| SeenVar::of(state, var)).collect(),
            signals: signals(state, &seen.signals),
            wires: seen.wires.iter().filter_map(place).collect(),
        }
    }

    /// Whether one of its variables or signals has that whole name.
    fn holds(&self, name: &str) -> bool {
        let parts = || self.parts.iter();
        let variables = self.variables.iter().chain(parts().flat_map(|part| &part.variables));
        let signals = self.signals.iter().chain(parts().flat_map(|part| &part.signals));
        variables
            .map(|var| &var.name)
            .chain(signals.map(|signal| &signal.name))
            .any(|other| is_named(other, name))
    }
}

impl SeenPart {
    fn of(state: &State, seen: &InspectedPart) -> Self {
        let readings = seen.readings.iter().map(|(word, of, value)| SeenReading {
            name: (*word).to_owned(),
            of: of.map(|of| name(state, of)),
            value: Shown::of(state, None, value),
        });
        let settings = seen.settings.iter().map(|(word, value)| SeenReading {
            name: (*word).to_owned(),
            of: None,
            value: Shown::of(state, None, value),
        });
        let inside = seen.inside.iter();
        Self {
            kind: seen.kind.to_owned(),
            state: seen.state.map(str::to_owned),
            readings: readings.collect(),
            settings: settings.collect(),
            asks: seen
                .asks
                .iter()
                .map(|(word, asked)| (word.to_string(), expr_text(state, asked, &[])))
                .collect(),
            inside: inside
                .map(|(who, since)| SeenInside { name: name(state, *who), since: seconds(state, *since) })
                .collect(),
            acts_in: seen.rings_in.map(|left| state.rate().seconds(left).0),
            variables: seen.variables.iter().map(|var| SeenVar::of(state, var)).collect(),
            signals: signals(state, &seen.signals),
        }
    }
}

impl SeenVar {
    fn of(state: &State, seen: &InspectedVar) -> Self {
        let shown = |value: &stoicheon_core::Value| Shown::of(state, seen.ty.as_ref(), value);
        let each = |(who, value): &(ObjectId, stoicheon_core::Value)| SeenReading {
            name: seen.name.to_string(),
            of: Some(name(state, *who)),
            value: shown(value),
        };
        Self {
            name: seen.name.to_string(),
            r#type: seen.ty.as_ref().map(ToString::to_string),
            value: shown(&seen.value),
            each: seen.each.as_ref().map(|all| all.iter().map(each).collect()),
            remembered: seen.remembered,
            bound: seen.bound,
        }
    }
}

impl SeenTween {
    fn of(state: &State, seen: &InspectedTween) -> Self {
        let what = match seen.moved {
            Moved::Var(var, None) => state.var_name(var).unwrap_or("a variable that is gone").to_owned(),
            Moved::Var(var, Some(who)) => {
                format!(
                    "{} of {}",
                    state.var_name(var).unwrap_or("a variable that is gone"),
                    name(state, who)
                )
            }
            Moved::Place(object) => format!("{}.place", name(state, object)),
            Moved::Facing(object) => format!("{}.facing", name(state, object)),
            _ => "something".to_owned(),
        };
        Self {
            what,
            from: Shown::of(state, None, &seen.from),
            to: Shown::of(state, None, &seen.to),
            part: seen.part,
        }
    }
}
