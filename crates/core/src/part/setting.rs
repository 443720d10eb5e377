//! Settings: what a kind of part can be told before the world runs.

use glam::Vec3;
use indexmap::IndexMap;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        clock::Seconds,
        geometry::{Colour, Rotation},
        value::Value,
    },
    part::setting_type::SettingType,
    plan::expr::Expr,
};

/// A setting of a kind of part.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct Setting {
    /// Its name.
    pub name: &'static str,
    /// What it takes.
    pub ty: SettingType,
    /// What it is for, with its default.
    pub about: &'static str,
    /// Whether it must be given.
    pub required: bool,
    /// Whether it may change while the world runs: [`Part::change`](crate::Part::change) is told.
    pub live: bool,
}

impl Setting {
    /// One that may be left out.
    pub const fn optional(name: &'static str, ty: SettingType, about: &'static str) -> Self {
        Self { name, ty, about, required: false, live: false }
    }

    /// One that must be given.
    pub const fn required(name: &'static str, ty: SettingType, about: &'static str) -> Self {
        Self { name, ty, about, required: true, live: false }
    }

    /// It may change while the world runs, and [`Part::read`](crate::Part::read) gives what it is. It takes a number, an angle, a
    /// text, a word or a span.
    pub const fn live(mut self) -> Self {
        self.live = true;
        self
    }
}

/// One list of settings after another, for kinds that share some, such as those of a
/// [shape](crate::SHAPE_SETTINGS).
///
/// ```
/// use stoicheon_core::{SHAPE_SETTINGS, Setting, SettingType, chain_settings};
/// static SETTINGS: [Setting; 13] =
///     chain_settings(SHAPE_SETTINGS, [Setting::optional("dry", SettingType::Flag, "It stays dry.")]);
/// assert_eq!(SETTINGS[12].name, "dry");
/// ```
///
/// # Panics
/// When the last number is not the sum of the other two; in a constant, that is an error of the compiler.
pub const fn chain_settings<const ONE: usize, const TWO: usize, const ALL: usize>(
    one: [Setting; ONE],
    two: [Setting; TWO],
) -> [Setting; ALL] {
    assert!(ONE + TWO == ALL, "as many settings as the two lists have together");
    let mut all = [BLANK; ALL];
    let mut index = 0;
    while index < ALL {
        all[index] = if index < ONE { one[index] } else { two[index - ONE] };
        index += 1;
    }
    all
}

const BLANK: Setting = Setting::optional("", SettingType::Flag, "");

/// The value of a setting.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
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
    /// Words of the user's own.
    Words(Vec<SmolStr>),
    /// A span of time, or one drawn between two.
    Span(Span),
    /// Words with their spans.
    Spans(Vec<(SmolStr, Span)>),
    /// Words with names and values.
    Table(Vec<(SmolStr, Vec<(SmolStr, Value)>)>),
    /// A spot, and the scene it is in if that is another one.
    Spot {
        /// The whole name of the spot; within its scene, if that is given.
        spot: SmolStr,
        /// The name of the scene.
        scene: Option<SmolStr>,
    },
}

/// A span of time, or one drawn between two.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Span {
    /// The span, or the shortest one.
    pub from: Seconds,
    /// The longest one.
    pub to: Option<Seconds>,
}

impl Span {
    /// One drawn between two, the shortest and the longest.
    pub const fn between(from: Seconds, to: Seconds) -> Self {
        Self { from, to: Some(to) }
    }
}

impl From<Seconds> for Span {
    fn from(from: Seconds) -> Self {
        Self { from, to: None }
    }
}

/// The settings given for one part, by name.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
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

    /// Words of the user's own.
    pub fn words(&self, name: &str) -> &[SmolStr] {
        if let Some(SettingValue::Words(words)) = self.0.get(name) { words } else { &[] }
    }

    /// A span of time, or one drawn between two.
    pub fn span(&self, name: &str) -> Option<Span> {
        if let Some(SettingValue::Span(span)) = self.0.get(name) { Some(*span) } else { None }
    }

    /// Words with their spans.
    pub fn spans(&self, name: &str) -> &[(SmolStr, Span)] {
        if let Some(SettingValue::Spans(spans)) = self.0.get(name) { spans } else { &[] }
    }

    /// Words with names and values.
    pub fn table(&self, name: &str) -> &[(SmolStr, Vec<(SmolStr, Value)>)] {
        if let Some(SettingValue::Table(table)) = self.0.get(name) { table } else { &[] }
    }

    /// A spot, and the scene it is in if that is another one.
    pub fn spot(&self, name: &str) -> Option<(&SmolStr, Option<&SmolStr>)> {
        if let Some(SettingValue::Spot { spot, scene }) = self.0.get(name) {
            Some((spot, scene.as_ref()))
        } else {
            None
        }
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
