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
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(from = "Saved", into = "Saved")]
pub struct Digest {
    sealed: u64,
    open: Box<[u64; ROOM]>,
    used: usize,
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
        saved.open.into_iter().for_each(|word| digest.word(word));
        digest
    }
}

impl Default for Digest {
    fn default() -> Self {
        Self { sealed: 0, open: Box::new([0; ROOM]), used: 0 }
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
        if self.used == ROOM {
            self.sealed = self.mix();
            self.used = 0;
        }
    }

    fn word(&mut self, word: u64) {
        self.make_room();
        if let Some(place) = self.free_word() {
            // The bytes are the same on every machine.
            *place = word.to_le();
            self.use_word();
        }
    }

    fn key(&mut self, key: impl Key) {
        self.word(key.data().as_ffi());
    }

    fn who(&mut self, who: Option<ObjectId>) {
        self.key(who.unwrap_or_default());
    }

    fn values(&mut self, values: &Values) {
        values.iter().for_each(|value| value.feed(self));
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

    /// A signal is delivered.
    pub(crate) fn delivered(&mut self, salt: u64, who: Option<ObjectId>, values: &Values) {
        self.word(11);
        self.word(salt);
        self.who(who);
        self.values(values);
    }

    /// Takes in one event.
    #[expect(clippy::too_many_lines, reason = "two tables with a line for each kind of event")]
    pub(crate) fn event(&mut self, salt: u64, event: &Event) {
        if let Event::Delivered { who, values, .. } = event {
            return self.delivered(salt, *who, values);
        }
        let kind = match event {
            Event::Took { .. } => 1,
            Event::Placed { .. } => 2,
            Event::SetOut { .. } => 3,
            Event::Arrived { .. } => 4,
            Event::Key { .. } => 5,
            Event::HandedIn { .. } => 6,
            Event::Entered { .. } => 7,
            Event::Left { .. } => 8,
            Event::Resumed { .. } => 9,
            Event::Dropped { .. } => 10,
            Event::Delivered { .. } => 11,
            Event::Refused { .. } => 12,
            Event::Shifted { .. } => 13,
            Event::Unmoved { .. } => 14,
            Event::Set { .. } => 15,
            Event::Performed { .. } => 16,
            Event::Waits { .. } => 17,
            Event::Enabled { .. } => 18,
            Event::Disabled { .. } => 19,
            Event::Destroyed { .. } => 20,
            Event::Broken { .. } => 21,
            Event::Fault { .. } => 22,
            Event::Held { .. } => 23,
            Event::Spawned { .. } => 24,
            Event::Unloaded { .. } => 25,
            Event::Kept { .. } => 26,
            Event::Tweens { .. } => 27,
            Event::Sent { .. } => 28,
            Event::SentAway { .. } => 29,
            Event::Miscalculated { .. } => 30,
            Event::WaitsUntil { .. } => 31,
            Event::TurnedAway { .. } => 32,
            Event::PlayerLeft { .. } => 33,
            Event::Driven { .. } => 34,
            Event::Pointed { .. } => 35,
            Event::Travelled { .. } => 36,
            Event::StaysHere { .. } => 37,
            Event::Loaded { .. } => 38,
            Event::Frozen { .. } => 39,
            Event::Thawed { .. } => 40,
            Event::Joined { .. } => 41,
            Event::SetDown { .. } => 42,
            Event::Crossed { .. } => 43,
        };
        self.word(kind);
        self.word(salt);
        match event {
            Event::Placed { body, at } | Event::SetOut { body, to: at } | Event::Arrived { body, at } => {
                (*body, *at).feed(self);
            }
            Event::Key { who, key, down } => {
                self.key(*who);
                self.word(name_hash(key));
                self.word(u64::from(*down));
            }
            Event::HandedIn { who, .. } => self.who(*who),
            Event::Entered { zone, body, reason } | Event::Left { zone, body, reason } => {
                self.key(*zone);
                self.key(*body);
                self.word(*reason as u64);
            }
            Event::TurnedAway { zone, body } => {
                self.key(*zone);
                self.key(*body);
            }
            Event::Pointed { who, at, taken } => {
                self.key(*who);
                self.key(at.unwrap_or_default());
                self.word(u64::from(*taken));
            }
            Event::PlayerLeft { player } => self.key(*player),
            Event::Driven { body, velocity } => (*body, *velocity).feed(self),
            Event::Resumed { wire, who, .. } => {
                self.key(*wire);
                self.who(*who);
            }
            Event::Dropped { wire, restarted } => {
                self.key(*wire);
                self.word(u64::from(*restarted));
            }
            Event::Took { wire } | Event::Held { wire } => self.key(*wire),
            Event::Refused { wire, why } => {
                self.key(*wire);
                self.word(match why {
                    Refusal::Asleep => 1,
                    Refusal::Who => 2,
                    Refusal::Guard { .. } => 3,
                    Refusal::Spent => 4,
                    Refusal::Cooling { .. } => 5,
                    Refusal::Running => 6,
                    Refusal::Payload => 7,
                });
            }
            Event::Shifted { part, from, to } => {
                self.key(*part);
                self.word(u64::from(*from) << 8 | u64::from(*to));
            }
            Event::Unmoved { part, state } => {
                self.key(*part);
                self.word(u64::from(*state));
            }
            Event::Set { of, to, .. } => {
                self.who(*of);
                to.feed(self);
            }
            Event::Kept { to, .. } => to.feed(self),
            Event::Tweens { moved, to, until } => {
                match moved {
                    Moved::Var(var, of) => {
                        self.key(*var);
                        self.who(*of);
                    }
                    Moved::Place(object) | Moved::Facing(object) => self.key(*object),
                }
                to.feed(self);
                self.word(until.0);
            }
            Event::Sent { body, spot } => {
                self.key(*body);
                self.key(*spot);
            }
            Event::SentAway { body, scene, spot } => {
                self.key(*body);
                self.word(name_hash(scene));
                self.word(name_hash(spot));
            }
            Event::Miscalculated { eval_fault } => self.word(*eval_fault as u64),
            Event::WaitsUntil { limit, .. } => self.word(limit.map_or(0, |tick| tick.0)),
            Event::Performed { values, .. } => self.values(values),
            Event::Waits { until } => self.word(until.0),
            Event::Enabled { object } | Event::Disabled { object } | Event::Destroyed { object, .. } => {
                self.key(*object);
            }
            Event::Spawned { object } => self.key(*object),
            Event::Travelled { body, spot, .. } => {
                self.key(*body);
                self.key(*spot);
            }
            Event::StaysHere { body } => self.key(*body),
            Event::Crossed { who, here, .. } => {
                self.who(*who);
                self.word(u64::from(*here));
            }
            Event::Joined { player, number } => {
                self.key(*player);
                self.word(u64::from(*number));
            }
            Event::SetDown { object, player } => {
                self.key(*object);
                self.key(*player);
            }
            Event::Loaded { .. } | Event::Frozen { .. } | Event::Thawed { .. } => {}
            Event::Broken { .. } | Event::Unloaded { .. } | Event::Delivered { .. } => {}
            // Its salt stands for what was wrong, without the places in the message.
            Event::Fault { object, .. } => self.who(*object),
        }
    }
}

impl Feed for (ObjectId, Vec3) {
    fn feed(&self, digest: &mut Digest) {
        digest.key(self.0);
        self.1.to_array().iter().for_each(|part| digest.word(u64::from(part.to_bits())));
    }
}

impl Feed for Value {
    fn feed(&self, digest: &mut Digest) {
        match self {
            Self::Nothing => digest.word(0),
            Self::Bool(yes) => digest.word(u64::from(*yes)),
            Self::Number(number) => digest.word(number.to_bits()),
            Self::Whole(number) => digest.word(number.cast_unsigned()),
            Self::Text(text) => digest.word(name_hash(text)),
            Self::Rotation(rotation) => {
                rotation.to_array().iter().for_each(|part| digest.word(u64::from(part.to_bits())));
            }
            Self::Colour(colour) => digest.word(u64::from(u32::from_be_bytes(colour.0))),
            Self::Spot(spot) => digest.key(*spot),
            Self::Duration(span) => digest.word(span.0),
            Self::Vector(vector) => {
                vector.to_array().iter().for_each(|part| digest.word(u64::from(part.to_bits())));
            }
            Self::Object(object) => digest.key(*object),
        }
    }
}
