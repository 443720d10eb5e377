//! What was done in the page, as lines of a playtest, each with the ticks it took.

use std::collections::BTreeMap;

use stoicheon_core::{ObjectId, State, Vec3};
use stoicheon_view::value_text;

use crate::{ask::Ask, bench::find_object, walk::leap};

/// How straight two walks must go on to be one: the cosine between them.
const STRAIGHT: f32 = 0.999;

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
    /// The same with every digit, where that is more.
    pub(crate) exact: Option<String>,
    /// Where a walk began.
    walk: Option<Vec3>,
    /// The key that was held.
    key: Option<(String, Pressed)>,
    /// Its number, which no other has.
    number: u64,
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
#[derive(Clone, Debug, PartialEq)]
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
    numbers: u64,
    /// The tick after which walks were looked at last.
    seen: u64,
}

impl Deeds {
    /// Who is there when the world is first seen.
    pub(crate) fn begin(&mut self, state: &State) {
        self.began = Some(state.now().0);
        self.came = state.players().filter_map(|player| came(state, player)).collect();
    }

    /// Something is done in the next tick; the number by which it can be [ended](Self::ends).
    pub(crate) fn push(&mut self, state: &State, who: Option<&str>, text: String) -> u64 {
        let from = state.now().0 + 1;
        self.add(Deed {
            from,
            to: from,
            who: who.map(str::to_owned),
            text,
            exact: None,
            walk: None,
            key: None,
            number: 0,
        })
    }

    fn add(&mut self, deed: Deed) -> u64 {
        self.numbers += 1;
        self.all.push(Deed { number: self.numbers, ..deed });
        self.numbers
    }

    /// Something that went on is over.
    pub(crate) fn ends(&mut self, number: u64, now: u64) {
        if let Some(deed) = self.all.iter_mut().rev().find(|deed| deed.number == number) {
            deed.to = deed.from.max(now);
        }
    }

    /// Before something that was asked is done: what it will have been, if it can be done.
    /// `flat` says whether the player is in a flat scene.
    pub(crate) fn before(
        &mut self,
        state: &State,
        ask: &Ask,
        flat: bool,
    ) -> Option<(Option<String>, String)> {
        let by = |who: &String, text: String| Some((Some(who.clone()), text));
        match ask {
            Ask::Walk { who, .. } | Ask::Go { who, .. } => self.stops(state, who),
            // A walk is cut where a key is pressed, so that both have their order.
            Ask::Key { who, down: true, .. } => self.stops(state, who),
            Ask::Point { who, at, to, button } => {
                let aim = find_object(state, at).and_then(|aim| state.place(aim).ok())?;
                let with = if button == "primary" { String::new() } else { format!(" with {button}") };
                let [x, y] = *to;
                let away = if flat { Vec3::new(x, -y, aim.z) } else { Vec3::new(x, aim.y, y) };
                return by(who, format!("points at {}{with}", place(away, false)));
            }
            Ask::Answer { who, answer } => {
                let text =
                    answer.as_ref().map_or("declines".to_owned(), |answer| format!("chooses {answer}"));
                return by(who, text);
            }
            Ask::Leave { who } => {
                self.stops(state, who);
                self.lets_go(state, who);
                return by(who, "leaves".to_owned());
            }
            Ask::Emit { signal, who } => {
                let who = who.as_ref().map(|who| format!(" for {who}")).unwrap_or_default();
                return Some((None, format!("emit {signal}{who}")));
            }
            Ask::Switch { object, on } => {
                return Some((None, format!("{} {object}", if *on { "enable" } else { "disable" })));
            }
            Ask::Command { object, command, .. } => return Some((None, format!("{{ {command} {object} }}"))),
            _ => {}
        }
        None
    }

    /// After something that was asked is done.
    pub(crate) fn after(&mut self, state: &State, ask: &Ask, deed: Option<(Option<String>, String)>) {
        if let Some((who, text)) = deed {
            self.push(state, who.as_deref(), text);
        }
        match ask {
            Ask::Walk { who, along } if along.iter().any(|part| *part != 0.0) => self.go(state, who),
            Ask::Go { who, .. } => self.go(state, who),
            Ask::Key { who, key, down } => {
                let Some(player) = find_object(state, who) else { return };
                if *down {
                    let offer = state.offer_to(player).filter(|offer| offer.key == *key);
                    let offer = offer.and_then(|offer| state.name(offer.object)).map(str::to_owned);
                    let offer = offer.map(|of| (answered(state, &of), of)).map(|(count, of)| (of, count));
                    self.keys.insert((player, key.clone()), Pressed { from: state.now().0 + 1, offer });
                    self.sets_out(state, player);
                } else if let Some(pressed) = self.keys.remove(&(player, key.clone())) {
                    self.add(let_go(state, who, key, &pressed));
                }
            }
            Ask::Join { name, spot } => {
                let Some(came) = find_object(state, name).and_then(|player| came(state, player)) else {
                    return;
                };
                let was_here = self.came.iter().any(|before| before.name == *name)
                    || self.all.iter().any(|deed| deed.who.as_ref() == Some(name));
                if spot.is_none() && came.scene.is_none() && !was_here {
                    // Where there are no scenes, a playtest knows of nobody who comes to a mere place: they are there from the start.
                    return self.came.push(came);
                }
                let Came { at, scene, .. } = came;
                let scene = scene.map(|scene| format!(" in {scene}")).unwrap_or_default();
                // Who comes back comes to where they were.
                let text = if spot.is_none() { "joins".to_owned() } else { format!("joins at {at}{scene}") };
                self.push(state, Some(name), text);
            }
            _ => {}
        }
    }

    /// A variable or a setting was set.
    pub(crate) fn set(&mut self, state: &State, name: &str, of: Option<&str>, to: &stoicheon_core::Value) {
        let of = of.map(|of| format!(" of {of}")).unwrap_or_default();
        self.push(state, None, format!("set {name}{of} = {}", value_text(state, to)));
    }

    fn go(&mut self, state: &State, who: &str) {
        if let Some(who) = find_object(state, who) {
            self.sets_out(state, who);
        }
    }

    /// The keys of who leaves are not down any more.
    fn lets_go(&mut self, state: &State, who: &str) {
        let Some(player) = find_object(state, who) else { return };
        let keys: Vec<_> = self.keys.keys().filter(|(of, _)| *of == player).cloned().collect();
        for key in keys {
            if let Some(pressed) = self.keys.remove(&key) {
                self.add(let_go(state, who, &key.1, &pressed));
            }
        }
    }

    /// It could not be done after all.
    pub(crate) fn fails(&mut self, number: u64) {
        self.all.retain(|deed| deed.number != number);
    }

    pub(crate) fn sets_out(&mut self, state: &State, who: ObjectId) {
        if let Ok(start) = state.place(who) {
            let from = state.now().0 + 1;
            self.walks.entry(who).or_insert(Walk { from, start, last: start, step: Vec3::ZERO });
        }
    }

    /// After ticks: walks go on, and end where somebody arrives or is sent elsewhere.
    pub(crate) fn tick(&mut self, state: &State, is_walking: impl Fn(ObjectId) -> bool) {
        let now = state.now().0;
        // A frame may have several ticks.
        let farthest = leap(state, now.saturating_sub(self.seen).max(1));
        self.seen = now;
        let mut over = Vec::new();
        for (who, walk) in &mut self.walks {
            let Ok(here) = state.place(*who) else {
                over.push((*who, None));
                continue;
            };
            if here.distance(walk.last) > farthest {
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
        if there.distance(walk.start) <= 1e-4 {
            return;
        }
        let (mut from, to, mut start) = (walk.from, now.max(walk.from), walk.start);
        // A walk that goes straight on is one.
        let last = self.all.iter().rposition(|deed| deed.who.as_deref() == Some(name));
        if let Some(last) = last
            && let Some(before) = self.all[last].walk
            && self.all[last].to + 1 >= from
            && (start - before).normalize_or_zero().dot((there - start).normalize_or_zero()) > STRAIGHT
        {
            (from, start) = (self.all[last].from, before);
            self.all.remove(last);
        }
        let [text, exact] = [true, false].map(|short| format!("walks to {}", place(there, short)));
        let who = Some(name.to_owned());
        self.add(Deed { from, to, who, text, exact: Some(exact), walk: Some(start), key: None, number: 0 });
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
                so_far.add(let_go(state, name, &key, &pressed));
            }
        }
        so_far.all.sort_by_key(|deed| deed.from);
        so_far.all
    }

    /// What was done after a tick did not happen. What had begun and was not over goes on: a walk; and the keys that were down then are
    /// given, since nobody holds them any more.
    pub(crate) fn cut(
        &mut self,
        state: &State,
        branch: u64,
        is_walking: impl Fn(ObjectId) -> bool,
    ) -> Vec<(ObjectId, String)> {
        self.keys.retain(|_, pressed| pressed.from <= branch);
        self.walks.retain(|who, walk| walk.from <= branch && is_walking(*who));
        for (who, walk) in &mut self.walks {
            walk.last = state.place(*who).unwrap_or(walk.last);
        }
        let (done, under_way): (Vec<_>, Vec<_>) = std::mem::take(&mut self.all)
            .into_iter()
            .filter(|deed| deed.from <= branch)
            .partition(|deed| deed.to <= branch);
        self.all = done;
        for mut deed in under_way {
            let who = deed.who.as_deref().and_then(|who| find_object(state, who));
            let here = who.and_then(|who| state.place(who).ok());
            match (who, here, deed.walk, deed.key.take()) {
                (Some(who), Some(here), Some(start), _) => {
                    let walk = Walk { from: deed.from, start, last: here, step: Vec3::ZERO };
                    if is_walking(who) {
                        self.walks.insert(who, walk);
                    } else if let Some(name) = deed.who.as_deref() {
                        self.walked(name, &walk, here, branch);
                    }
                }
                (Some(who), _, _, Some((key, pressed))) => drop(self.keys.insert((who, key), pressed)),
                _ => {
                    deed.to = branch;
                    self.all.push(deed);
                }
            }
        }
        self.keys.keys().cloned().collect()
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
    let held = Some((key.to_owned(), pressed.clone()));
    Deed {
        from: pressed.from,
        to: now,
        who: Some(who.to_owned()),
        text,
        exact: None,
        walk: None,
        key: held,
        number: 0,
    }
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
    let at = spot.map_or_else(|| place(at, false), |spot| short(&spot.name));
    let tags = state.inspect_object(player)?.tags;
    let tags = tags.iter().filter(|tag| *tag != stoicheon_core::PLAYER && !tag.contains(' '));
    Some(Came {
        name: state.name(player)?.to_owned(),
        at,
        scene: scene_name,
        tags: tags.map(ToString::to_string).collect(),
    })
}

/// A place, as people write it: `short` is to the hundredth of a scene unit.
fn place(at: Vec3, short: bool) -> String {
    let number = |part: f32| {
        let part = if short { (part * 100.0).round() / 100.0 } else { part };
        if part == 0.0 { "0".to_owned() } else { part.to_string() }
    };
    format!("({}, {}, {})", number(at.x), number(at.y), number(at.z))
}
