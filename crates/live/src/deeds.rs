//! What was done in the page, as lines of a playtest, each with the ticks it took.

use std::collections::BTreeMap;

use stoicheon_core::{ObjectId, State, Vec3};
use stoicheon_view::value_text;

use crate::{ask::Ask, bench::find_object};

/// Farther than a walk goes in one tick, somebody was put or sent, in scene units.
const LEAP: f32 = 1.0;

/// One thing that was done.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Deed {
    /// The tick in which it takes effect.
    pub(crate) from: u64,
    /// The tick in which it is over.
    pub(crate) to: u64,
    /// The player who did it.
    pub(crate) who: Option<String>,
    pub(crate) text: String,
}

/// Who was where when they came into the world.
#[derive(Clone, Debug)]
pub(crate) struct Came {
    pub(crate) name: String,
    pub(crate) at: String,
    pub(crate) scene: Option<String>,
    tags: Vec<String>,
}

impl Came {
    pub(crate) fn line(&self) -> String {
        let scene = self.scene.as_ref().map(|scene| format!(" in {scene}")).unwrap_or_default();
        let tags =
            if self.tags.is_empty() { String::new() } else { format!(" tags {}", self.tags.join(", ")) };
        format!("player {} at {}{scene}{tags}", self.name, self.at)
    }
}

/// A walk that is not over.
#[derive(Clone, Debug)]
struct Walk {
    from: u64,
    start: Vec3,
    /// Where they were after the last tick.
    last: Vec3,
    /// How far they went in it.
    step: Vec3,
}

/// A key that is down.
#[derive(Clone, Debug)]
struct Pressed {
    from: u64,
    /// The prompt that was offered, and how often it had been answered.
    offer: Option<(String, u64)>,
}

/// All that was done since the world began, as long as everything that was done is known.
#[derive(Clone, Debug, Default)]
pub(crate) struct Deeds {
    pub(crate) all: Vec<Deed>,
    pub(crate) came: Vec<Came>,
    walks: BTreeMap<ObjectId, Walk>,
    keys: BTreeMap<(ObjectId, String), Pressed>,
    /// The tick the world was first seen in: 0 for one that had not begun.
    pub(crate) began: Option<u64>,
}

impl Deeds {
    /// Who is there when the world is first seen.
    pub(crate) fn begin(&mut self, state: &State) {
        self.began = Some(state.now().0);
        self.came = state.players().filter_map(|player| came(state, player)).collect();
    }

    pub(crate) fn push(&mut self, state: &State, who: Option<&str>, text: String) {
        let from = state.now().0 + 1;
        self.all.push(Deed { from, to: from, who: who.map(str::to_owned), text });
    }

    /// Before something that was asked is done. What is done to things has one line, and is over at once.
    pub(crate) fn before(&mut self, state: &State, ask: &Ask) {
        let now = state.now().0;
        match ask {
            Ask::Walk { who, .. } | Ask::Go { who, .. } => self.stops(state, who),
            Ask::Key { who, key, down } => {
                let Some(player) = find_object(state, who) else { return };
                if *down {
                    // A walk is cut where a key is pressed, so that both have their order.
                    self.stops(state, who);
                    let offer = state.offer_to(player).filter(|offer| offer.key == *key);
                    let offer = offer.and_then(|offer| state.name(offer.object)).map(str::to_owned);
                    let offer = offer.map(|of| (answered(state, &of), of)).map(|(count, of)| (of, count));
                    self.keys.insert((player, key.clone()), Pressed { from: now + 1, offer });
                    self.sets_out(state, player);
                } else if let Some(pressed) = self.keys.remove(&(player, key.clone())) {
                    self.all.push(let_go(state, who, key, &pressed));
                }
            }
            Ask::Point { who, at, to, button } => {
                let Some(aim) = find_object(state, at).and_then(|aim| state.place(aim).ok()) else { return };
                let with = if button == "primary" { String::new() } else { format!(" with {button}") };
                let away = Vec3::new(to[0], aim.y, to[1]);
                self.push(state, Some(who), format!("points at {}{with}", place(away)));
            }
            Ask::Answer { who, answer } => {
                let text =
                    answer.as_ref().map_or("declines".to_owned(), |answer| format!("chooses {answer}"));
                self.push(state, Some(who), text);
            }
            Ask::Leave { who } => {
                self.stops(state, who);
                self.push(state, Some(who), "leaves".to_owned());
            }
            Ask::Emit { signal, who } => {
                let who = who.as_ref().map(|who| format!(" for {who}")).unwrap_or_default();
                self.push(state, None, format!("emit {signal}{who}"));
            }
            Ask::Switch { object, on } => {
                self.push(state, None, format!("{} {object}", if *on { "enable" } else { "disable" }));
            }
            Ask::Command { object, command, .. } => {
                self.push(state, None, format!("{{ {command} {object} }}"))
            }
            _ => {}
        }
    }

    /// After something that was asked is done.
    pub(crate) fn after(&mut self, state: &State, ask: &Ask) {
        match ask {
            Ask::Walk { who, along } if along.iter().any(|part| *part != 0.0) => {
                if let Some(who) = find_object(state, who) {
                    self.sets_out(state, who);
                }
            }
            Ask::Go { who, .. } => {
                if let Some(who) = find_object(state, who) {
                    self.sets_out(state, who);
                }
            }
            Ask::Join { name, .. } => {
                let came = find_object(state, name).and_then(|player| came(state, player));
                if let Some(Came { at, scene, .. }) = came {
                    let scene = scene.map(|scene| format!(" in {scene}")).unwrap_or_default();
                    self.push(state, Some(name), format!("joins at {at}{scene}"));
                }
            }
            _ => {}
        }
    }

    /// A variable or a setting was set.
    pub(crate) fn set(&mut self, state: &State, name: &str, of: Option<&str>, to: &stoicheon_core::Value) {
        let of = of.map(|of| format!(" of {of}")).unwrap_or_default();
        self.push(state, None, format!("set {name}{of} = {}", value_text(state, to)));
    }

    fn sets_out(&mut self, state: &State, who: ObjectId) {
        if let Ok(start) = state.place(who) {
            let from = state.now().0 + 1;
            self.walks.entry(who).or_insert(Walk { from, start, last: start, step: Vec3::ZERO });
        }
    }

    /// After ticks: walks go on, and end where somebody arrives or is sent elsewhere.
    pub(crate) fn tick(&mut self, state: &State, is_walking: impl Fn(ObjectId) -> bool) {
        let now = state.now().0;
        let mut over = Vec::new();
        for (who, walk) in &mut self.walks {
            let Ok(here) = state.place(*who) else {
                over.push((*who, None));
                continue;
            };
            if here.distance(walk.last) > LEAP {
                // They went one step more, and then were sent.
                over.push((*who, Some(walk.last + walk.step)));
                continue;
            }
            if here != walk.last {
                (walk.step, walk.last) = (here - walk.last, here);
            }
            if !is_walking(*who) {
                over.push((*who, Some(here)));
            }
        }
        for (who, there) in over {
            let Some(walk) = self.walks.remove(&who) else { continue };
            if let (Some(there), Some(name)) = (there, state.name(who)) {
                self.walked(name, &walk, there, now);
            }
        }
    }

    fn walked(&mut self, name: &str, walk: &Walk, there: Vec3, now: u64) {
        if there.distance(walk.start) > 1e-4 {
            let text = format!("walks to {}", place(there));
            self.all.push(Deed { from: walk.from, to: now.max(walk.from), who: Some(name.to_owned()), text });
        }
    }

    /// A walk is over where its player stands.
    fn stops(&mut self, state: &State, who: &str) {
        let Some(player) = find_object(state, who) else { return };
        if let (Some(walk), Ok(here)) = (self.walks.remove(&player), state.place(player)) {
            self.walked(who, &walk, here, state.now().0);
        }
    }

    /// Everything that is not over yet, as if it ended now.
    pub(crate) fn ended(&self, state: &State) -> Vec<Deed> {
        let mut so_far = self.clone();
        so_far.tick(state, |_| false);
        for ((who, key), pressed) in std::mem::take(&mut so_far.keys) {
            if let Some(name) = state.name(who) {
                so_far.all.push(let_go(state, name, &key, &pressed));
            }
        }
        so_far.all.sort_by_key(|deed| deed.from);
        so_far.all
    }

    /// What was done after a tick did not happen.
    pub(crate) fn cut(&mut self, now: u64) {
        self.all.retain(|deed| deed.from <= now);
        self.walks.clear();
        self.keys.clear();
    }
}

fn answered(state: &State, prompt: &str) -> u64 {
    state.find_signal(&format!("{prompt}.answered")).map_or(0, |signal| state.delivered(signal))
}

/// A key that was pressed and is up again: an answer, if it was one.
fn let_go(state: &State, who: &str, key: &str, pressed: &Pressed) -> Deed {
    let now = state.now().0.max(pressed.from);
    let ticks = now + 1 - pressed.from;
    let text = match &pressed.offer {
        Some((of, count)) if answered(state, of) > *count => format!("answers {of}"),
        _ if ticks <= 2 => format!("presses {key}"),
        _ => format!("holds {key} {ticks}ticks"),
    };
    Deed { from: pressed.from, to: now, who: Some(who.to_owned()), text }
}

fn came(state: &State, player: ObjectId) -> Option<Came> {
    let at = state.place(player).ok()?;
    let scene = state.scene_of(player);
    let scene_name = scene.and_then(|scene| state.scene_name(scene)).map(str::to_owned);
    // A spot says more than numbers do.
    let spot = state.spots().filter_map(|spot| state.spot(spot).ok()).find(|spot| {
        let is_there = spot.at.distance(at) < 1e-4;
        is_there && scene_name.as_ref().is_none_or(|scene| spot.name.starts_with(&format!("{scene}.")))
    });
    let short = |name: &str| {
        let rest = scene_name.as_ref().and_then(|scene| name.strip_prefix(scene.as_str())?.strip_prefix('.'));
        rest.unwrap_or(name).to_owned()
    };
    let at = spot.map_or_else(|| place(at), |spot| short(&spot.name));
    let tags = state.inspect_object(player)?.tags;
    let tags = tags.iter().filter(|tag| *tag != stoicheon_core::PLAYER && !tag.contains(' '));
    Some(Came {
        name: state.name(player)?.to_owned(),
        at,
        scene: scene_name,
        tags: tags.map(ToString::to_string).collect(),
    })
}

/// A place, as people write it: to the hundredth of a scene unit.
pub(crate) fn place(at: Vec3) -> String {
    let number = |part: f32| {
        let rounded = (part * 100.0).round() / 100.0;
        if rounded == 0.0 { "0".to_owned() } else { rounded.to_string() }
    };
    format!("({}, {}, {})", number(at.x), number(at.y), number(at.z))
}
