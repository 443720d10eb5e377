//! What is known of a kind of part before there is one: its entry in the catalogue.

use glam::Vec3;
use indexmap::IndexMap;
use smol_str::SmolStr;

use super::Part;
use crate::{
    bus::Bus,
    clock::{Seconds, TickRate},
    error::Error,
    expr::Expr,
    geometry::{Colour, Rotation},
    payload::{Field, Payload},
    signal::SignalId,
};

/// A kind of part.
#[derive(Debug)]
pub struct PartKind {
    /// The word for it.
    pub name: &'static str,
    /// What it is for, in one sentence.
    pub about: &'static str,
    /// The states it can be in, the first one first; empty for a part that has none.
    pub states: &'static [&'static str],
    /// The signals it gives.
    pub signals: &'static [SignalKind],
    /// The commands it takes.
    pub commands: &'static [&'static str],
    /// Its settings, in the order a page lists them.
    pub settings: &'static [Setting],
    /// Makes one from settings of the listed types.
    pub build: BuildPart,
    /// Makes one that is about to [`load`](Part::load) what was saved of another.
    pub blank: fn() -> Box<dyn Part>,
}

/// Makes a part from its settings, with every span in ticks of that rate.
pub type BuildPart = fn(&Settings, TickRate) -> Result<Box<dyn Part>, Error>;

impl PartKind {
    /// The number of a state, by name.
    pub fn state(&self, name: &str) -> Option<u8> {
        index_of(self.states, name)
    }

    /// The number of a command, by name.
    pub fn command(&self, name: &str) -> Option<u8> {
        index_of(self.commands, name)
    }

    /// A setting, by name.
    pub fn setting(&self, name: &str) -> Option<&Setting> {
        self.settings.iter().find(|setting| setting.name == name)
    }
}

fn index_of(words: &[&str], name: &str) -> Option<u8> {
    words.iter().position(|word| *word == name).and_then(|index| u8::try_from(index).ok())
}

/// A signal that every part of a kind gives.
#[derive(Debug)]
pub struct SignalKind {
    /// Its name, without the object's.
    pub name: &'static str,
    /// When it is given, in one sentence.
    pub about: &'static str,
    fields: fn() -> Option<Vec<Field>>,
    declare: fn(&mut Bus, &str) -> Result<SignalId, Error>,
    know: fn(&mut Bus),
}

impl SignalKind {
    /// A signal of that name that carries a `T`.
    pub const fn of<T: Payload>(name: &'static str, about: &'static str) -> Self {
        Self {
            name,
            about,
            fields: T::fields,
            declare: |bus, name| bus.declare::<T>(name).map(crate::Signal::id),
            know: |bus| {
                bus.payloads.store_of::<T>();
            },
        }
    }

    /// What it carries.
    pub fn fields(&self) -> Vec<Field> {
        (self.fields)().unwrap_or_default()
    }

    /// Makes a place for what it carries, in an order that does not depend on when a part is first made.
    pub(crate) fn know(&self, bus: &mut Bus) {
        (self.know)(bus);
    }

    pub(crate) fn declare(&self, bus: &mut Bus, object: &str) -> Result<SignalId, Error> {
        (self.declare)(bus, &format!("{object}.{}", self.name))
    }
}

/// A setting of a kind of part.
#[derive(Clone, Copy, Debug)]
pub struct Setting {
    /// Its name.
    pub name: &'static str,
    /// What it takes.
    pub ty: SettingType,
    /// What it is for, with its default.
    pub about: &'static str,
    /// Whether it must be given.
    pub required: bool,
}

impl Setting {
    /// One that may be left out.
    pub const fn optional(name: &'static str, ty: SettingType, about: &'static str) -> Self {
        Self { name, ty, about, required: false }
    }

    /// One that must be given.
    pub const fn required(name: &'static str, ty: SettingType, about: &'static str) -> Self {
        Self { name, ty, about, required: true }
    }
}

/// One list of settings after another, for kinds that share some.
pub(crate) const fn concat<const ONE: usize, const TWO: usize, const ALL: usize>(
    one: [Setting; ONE],
    two: [Setting; TWO],
) -> [Setting; ALL] {
    let mut all = [BLANK; ALL];
    let mut index = 0;
    while index < ALL {
        all[index] = if index < ONE { one[index] } else { two[index - ONE] };
        index += 1;
    }
    all
}

const BLANK: Setting = Setting { name: "", ty: SettingType::Flag, about: "", required: false };

/// What a setting takes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum SettingType {
    /// An angle, with its unit.
    Angle,
    /// A span of time, with its unit.
    Seconds,
    /// Three numbers.
    Vector,
    /// A number.
    Number,
    /// Text.
    Text,
    /// A colour.
    Colour,
    /// Nothing: it is there or it is not.
    Flag,
    /// One of these words.
    OneOf(&'static [&'static str]),
    /// One or more tags.
    Tags,
    /// Any one word.
    Word,
    /// Two numbers or three, all above zero.
    Size,
    /// A turn, such as `30deg about y`.
    Rotation,
    /// A condition that is looked at while the world runs; `who` is known.
    Condition,
    /// A number that is worked out while the world runs; `who` is known.
    Amount,
    /// Nothing: it begins these settings again.
    More(&'static [&'static str]),
}

/// The value of a setting.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum SettingValue {
    /// An angle in degrees.
    Angle(f64),
    /// A span of time.
    Seconds(Seconds),
    /// Three numbers.
    Vector(Vec3),
    /// A number.
    Number(f64),
    /// Text.
    Text(SmolStr),
    /// A colour.
    Colour(Colour),
    /// It is there.
    Flag,
    /// One word of a list.
    Word(SmolStr),
    /// Tags.
    Tags(Vec<SmolStr>),
    /// Three sizes; the last one does not count if it is flat.
    Size {
        /// The sizes.
        size: Vec3,
        /// Only two were given.
        flat: bool,
    },
    /// A turn.
    Rotation(Rotation),
    /// A condition or an amount.
    Expr(Expr),
    /// Settings that were begun again.
    More(Vec<Settings>),
}

/// The settings given for one part, by name.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Settings(IndexMap<SmolStr, SettingValue>);

impl Settings {
    /// Gives a setting its value, in place of an earlier one.
    pub fn set(&mut self, name: &str, value: SettingValue) {
        self.0.insert(name.into(), value);
    }

    /// Whether the setting was given.
    pub fn has(&self, name: &str) -> bool {
        self.0.contains_key(name)
    }

    /// An angle in degrees.
    pub fn angle(&self, name: &str) -> Option<f64> {
        if let Some(SettingValue::Angle(angle)) = self.0.get(name) { Some(*angle) } else { None }
    }

    /// A span of time.
    pub fn seconds(&self, name: &str) -> Option<Seconds> {
        if let Some(SettingValue::Seconds(span)) = self.0.get(name) { Some(*span) } else { None }
    }

    /// Three numbers.
    pub fn vector(&self, name: &str) -> Option<Vec3> {
        if let Some(SettingValue::Vector(vector)) = self.0.get(name) { Some(*vector) } else { None }
    }

    /// A number.
    pub fn number(&self, name: &str) -> Option<f64> {
        if let Some(SettingValue::Number(number)) = self.0.get(name) { Some(*number) } else { None }
    }

    /// Text.
    pub fn text(&self, name: &str) -> Option<&str> {
        if let Some(SettingValue::Text(text)) = self.0.get(name) { Some(text) } else { None }
    }

    /// A colour.
    pub fn colour(&self, name: &str) -> Option<Colour> {
        if let Some(SettingValue::Colour(colour)) = self.0.get(name) { Some(*colour) } else { None }
    }

    /// One word of a list.
    pub fn word(&self, name: &str) -> Option<&str> {
        if let Some(SettingValue::Word(word)) = self.0.get(name) { Some(word) } else { None }
    }

    /// Three sizes, and whether the last one does not count.
    pub fn size(&self, name: &str) -> Option<(Vec3, bool)> {
        if let Some(SettingValue::Size { size, flat }) = self.0.get(name) {
            Some((*size, *flat))
        } else {
            None
        }
    }

    /// A turn.
    pub fn rotation(&self, name: &str) -> Option<Rotation> {
        if let Some(SettingValue::Rotation(turn)) = self.0.get(name) { Some(*turn) } else { None }
    }

    /// A condition or an amount.
    pub fn expr(&self, name: &str) -> Option<&Expr> {
        if let Some(SettingValue::Expr(expr)) = self.0.get(name) { Some(expr) } else { None }
    }

    /// Settings that were begun again, each time.
    pub fn more(&self, name: &str) -> &[Settings] {
        if let Some(SettingValue::More(more)) = self.0.get(name) { more } else { &[] }
    }

    /// Tags; none when the setting was not given.
    pub fn tags(&self, name: &str) -> &[SmolStr] {
        if let Some(SettingValue::Tags(tags)) = self.0.get(name) { tags } else { &[] }
    }
}
