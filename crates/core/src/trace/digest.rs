//! The running digest: two runs that agree on it agree on everything.
//!
//! What is put in must be the same for the same scene on every machine and from either door, so names stand for
//! signals, effects and variables, numbers for objects and wires, and no place in a source file is part of it.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use slotmap::Key;
use xxhash_rust::xxh3::xxh3_64_with_seed;

use crate::{
    base::{
        clock::Tick,
        ease::Moved,
        ids::{ObjectId, WireId},
        names::name_hash,
        value::{Value, Values},
    },
    plan::refusals::Refusal,
    trace::record::Event,
};

/// How many words are gathered before they are mixed in.
const ROOM: usize = 512;

/// A digest over everything recorded. Facts are gathered and mixed in when a tick ends, or when there is no more room.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(from = "Saved", into = "Saved")]
pub struct Digest {
    sealed: u64,
    /// Made when something is put in for the first time.
    open: Vec<u64>,
    used: usize,
}

impl Clone for Digest {
    /// Between two ticks nothing is open, and there is little to copy.
    fn clone(&self) -> Self {
        let open = if self.used == 0 { Vec::new() } else { self.open.clone() };
        Self { sealed: self.sealed, open, used: self.used }
    }
}

/// A digest as data.
#[derive(Serialize, Deserialize)]
struct Saved {
    sealed: u64,
    open: Vec<u64>,
}

impl From<Digest> for Saved {
    fn from(digest: Digest) -> Self {
        Self { sealed: digest.sealed, open: digest.open[..digest.used].to_vec() }
    }
}

impl From<Saved> for Digest {
    fn from(saved: Saved) -> Self {
        let mut digest = Self { sealed: saved.sealed, ..Self::default() };
        saved.open.into_iter().for_each(|word| {
            digest.word(word);
        });
        digest
    }
}

/// A fact the digest can take in.
pub(crate) trait Feed {
    fn feed(&self, digest: &mut Digest);
}

impl Digest {
    /// The digest of everything so far.
    pub fn value(&self) -> u64 {
        if self.used == 0 { self.sealed } else { self.mix() }
    }

    pub(crate) fn seal(&mut self, tick: Tick) {
        if self.used > 0 {
            self.word(tick.0);
            self.sealed = self.mix();
            self.used = 0;
        }
    }

    fn mix(&self) -> u64 {
        xxh3_64_with_seed(bytemuck::cast_slice(&self.open[..self.used]), self.sealed)
    }

    /// Where the next word goes, if there is room.
    #[inline]
    pub(crate) fn free_word(&mut self) -> Option<&mut u64> {
        self.open.get_mut(self.used)
    }

    /// Counts the word that was put there.
    #[inline]
    pub(crate) fn use_word(&mut self) {
        self.used += 1;
    }

    fn make_room(&mut self) {
        if self.used == self.open.len() {
            if self.open.is_empty() {
                self.open.resize(ROOM, 0);
            } else {
                self.sealed = self.mix();
                self.used = 0;
            }
        }
    }

    fn word(&mut self, word: u64) -> &mut Self {
        self.make_room();
        if let Some(place) = self.free_word() {
            // The bytes are the same on every machine.
            *place = word.to_le();
            self.use_word();
        }
        self
    }

    fn key(&mut self, key: impl Key) -> &mut Self {
        self.word(key.data().as_ffi())
    }

    fn who(&mut self, who: Option<ObjectId>) -> &mut Self {
        self.key(who.unwrap_or_default())
    }

    fn text(&mut self, text: &str) -> &mut Self {
        self.word(name_hash(text))
    }

    fn floats(&mut self, floats: &[f32]) -> &mut Self {
        floats.iter().for_each(|float| {
            self.word(u64::from(float.to_bits()));
        });
        self
    }

    fn put(&mut self, value: &Value) -> &mut Self {
        match value {
            Value::Nothing => self.word(0),
            Value::Bool(yes) => self.word(u64::from(*yes)),
            Value::Number(number) => self.word(number.to_bits()),
            Value::Whole(number) => self.word(number.cast_unsigned()),
            Value::Text(text) => self.text(text),
            Value::Rotation(rotation) => self.floats(&rotation.to_array()),
            Value::Colour(colour) => self.word(u64::from(u32::from_be_bytes(colour.0))),
            Value::Spot(spot) => self.key(*spot),
            Value::SpotElsewhere(path) => self.text(&path.scene).text(&path.spot),
            Value::Duration(span) => self.word(span.parts()),
            Value::Vector(vector) => self.floats(&vector.to_array()),
            Value::Object(object) => self.key(*object),
        }
    }

    fn values(&mut self, values: &Values) -> &mut Self {
        values.iter().for_each(|value| {
            self.put(value);
        });
        self
    }

    /// The word for: a wire took the signal that was delivered last. The key of a wire is never as small as the number
    /// of a kind of event, so one word is enough.
    #[inline]
    pub(crate) fn took(wire: WireId) -> u64 {
        wire.data().as_ffi().to_le()
    }

    pub(crate) fn took_slowly(&mut self, wire: WireId) {
        self.word(wire.data().as_ffi());
    }

    /// An event begins: the number of its kind, and what stands for the names in it.
    fn begin(&mut self, kind: u64, salt: u64) -> &mut Self {
        self.word(kind).word(salt)
    }

    /// A signal is delivered.
    pub(crate) fn delivered(&mut self, salt: u64, who: Option<ObjectId>, values: &Values) {
        self.begin(11, salt).who(who).values(values);
    }

    /// Takes in one event. The number of a kind is never used again.
    pub(crate) fn event(&mut self, salt: u64, event: &Event) {
        let _: &mut Self = match event {
            Event::Took { wire } => self.begin(1, salt).key(*wire),
            Event::Placed { body, at } => self.begin(2, salt).key(*body).floats(&at.to_array()),
            Event::SetOut { body, to } => self.begin(3, salt).key(*body).floats(&to.to_array()),
            Event::Arrived { body, at } => self.begin(4, salt).key(*body).floats(&at.to_array()),
            Event::Key { who, key, down } => self.begin(5, salt).key(*who).text(key).word(u64::from(*down)),
            Event::HandedIn { who, .. } => self.begin(6, salt).who(*who),
            Event::Entered { zone, body, reason } => {
                self.begin(7, salt).key(*zone).key(*body).word(*reason as u64)
            }
            Event::Left { zone, body, reason } => {
                self.begin(8, salt).key(*zone).key(*body).word(*reason as u64)
            }
            Event::Resumed { wire, who, .. } => self.begin(9, salt).key(*wire).who(*who),
            Event::Dropped { wire, restarted } => self.begin(10, salt).key(*wire).word(u64::from(*restarted)),
            Event::Delivered { who, values, .. } => self.begin(11, salt).who(*who).values(values),
            Event::Refused { wire, why } => self.begin(12, salt).key(*wire).word(match why {
                Refusal::Asleep => 1,
                Refusal::Who => 2,
                Refusal::Guard { .. } => 3,
                Refusal::Spent => 4,
                Refusal::Cooling { .. } => 5,
                Refusal::Running => 6,
                Refusal::Payload => 7,
            }),
            Event::Shifted { part, from, to } => {
                self.begin(13, salt).key(*part).word(u64::from(from.number()) << 8 | u64::from(to.number()))
            }
            Event::Unmoved { part, state } => self.begin(14, salt).key(*part).word(u64::from(state.number())),
            Event::Set { of: object, to, .. } => self.begin(15, salt).who(*object).put(to),
            Event::Performed { values, .. } => self.begin(16, salt).values(values),
            Event::Waits { until } => self.begin(17, salt).word(until.0),
            Event::Enabled { object } => self.begin(18, salt).key(*object),
            Event::Disabled { object } => self.begin(19, salt).key(*object),
            Event::Destroyed { object, .. } => self.begin(20, salt).key(*object),
            Event::Broken { .. } => self.begin(21, salt),
            // Its salt stands for what was wrong, without the places in the message.
            Event::Fault { object, .. } => self.begin(22, salt).who(*object),
            Event::Held { wire } => self.begin(23, salt).key(*wire),
            Event::Spawned { object } => self.begin(24, salt).key(*object),
            Event::Unloaded { .. } => self.begin(25, salt),
            Event::Kept { to, .. } => self.begin(26, salt).put(to),
            Event::Tweens { moved, to, until } => {
                let tweens = match moved {
                    Moved::Var(var, object) => self.begin(27, salt).key(*var).who(*object),
                    Moved::Place(object) | Moved::Facing(object) => self.begin(27, salt).key(*object),
                };
                tweens.put(to).word(until.0)
            }
            Event::Sent { body, spot } => self.begin(28, salt).key(*body).key(*spot),
            Event::SentAway { body, scene, spot } => self.begin(29, salt).key(*body).text(scene).text(spot),
            Event::Miscalculated { eval_fault } => self.begin(30, salt).word(*eval_fault as u64),
            Event::WaitsUntil { limit, .. } => self.begin(31, salt).word(limit.map_or(0, |tick| tick.0)),
            Event::TurnedAway { zone, body } => self.begin(32, salt).key(*zone).key(*body),
            Event::PlayerLeft { player } => self.begin(33, salt).key(*player),
            Event::Driven { body, velocity } => self.begin(34, salt).key(*body).floats(&velocity.to_array()),
            Event::Pointed { who, at, taken } => {
                self.begin(35, salt).key(*who).key(at.unwrap_or_default()).word(u64::from(*taken))
            }
            Event::Travelled { body, spot, .. } => self.begin(36, salt).key(*body).key(*spot),
            Event::StaysHere { body } => self.begin(37, salt).key(*body),
            Event::Loaded { .. } => self.begin(38, salt),
            Event::Rewired => self.begin(45, salt),
            Event::Frozen { .. } => self.begin(39, salt),
            Event::Thawed { .. } => self.begin(40, salt),
            Event::Joined { player, number } => self.begin(41, salt).key(*player).word(u64::from(*number)),
            Event::SetDown { object, player } => self.begin(42, salt).key(*object).key(*player),
            Event::Changed { part, setting, to, .. } => self.begin(44, salt).key(*part).text(setting).put(to),
            Event::Crossed { who, here, .. } => self.begin(43, salt).who(*who).word(u64::from(*here)),
        };
    }
}

impl Feed for (ObjectId, Vec3) {
    fn feed(&self, digest: &mut Digest) {
        digest.key(self.0).floats(&self.1.to_array());
    }
}

impl Feed for Value {
    fn feed(&self, digest: &mut Digest) {
        digest.put(self);
    }
}
