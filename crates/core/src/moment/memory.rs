//! What is remembered: of scenes that are not loaded, of players who are away, and in a save.
//!
//! Everything is kept by name, so that it can be read by a world that was made of other wiring than the one it was
//! written by. Whatever does not fit is told and left out; the rest counts.

use std::collections::BTreeSet;

use indexmap::IndexMap;
use rustc_hash::FxBuildHasher;
use serde::{Deserialize, Serialize};
use thiserror::Error as ThisError;

use crate::{
    base::{shared::Shared, value::Text},
    moment::remembered::Remembered,
};

/// Names and what is remembered under each, in the order things were made.
pub type ByName<T> = IndexMap<Text, T, FxBuildHasher>;

/// What is remembered of one scene, by whole names.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
#[non_exhaustive]
pub struct SceneMemory {
    /// Variables.
    #[serde(skip_serializing_if = "IndexMap::is_empty")]
    #[cfg_attr(feature = "schema", schemars(with = "std::collections::BTreeMap<String, Remembered>"))]
    pub vars: ByName<Remembered>,
    /// Variables that each player has, by the names of players.
    #[serde(skip_serializing_if = "IndexMap::is_empty")]
    #[cfg_attr(
        feature = "schema",
        schemars(
            with = "std::collections::BTreeMap<String, std::collections::BTreeMap<String, Remembered>>"
        )
    )]
    pub players: ByName<ByName<Remembered>>,
    /// Parts, as `object.kind`.
    #[serde(skip_serializing_if = "IndexMap::is_empty")]
    #[cfg_attr(
        feature = "schema",
        schemars(
            with = "std::collections::BTreeMap<String, std::collections::BTreeMap<String, Remembered>>"
        )
    )]
    pub parts: ByName<ByName<Remembered>>,
    /// Objects.
    #[serde(skip_serializing_if = "IndexMap::is_empty")]
    #[cfg_attr(feature = "schema", schemars(with = "std::collections::BTreeMap<String, ObjectMemory>"))]
    pub objects: ByName<ObjectMemory>,
}

/// What is remembered of an object.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
#[non_exhaustive]
pub struct ObjectMemory {
    /// It was ended. Then the rest says nothing.
    #[serde(skip_serializing_if = "is_false")]
    pub gone: bool,
    /// It is disabled.
    #[serde(skip_serializing_if = "is_false")]
    pub disabled: bool,
    /// The scene it is in, if that is not its own; empty if it is in none.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    pub scene: Option<Text>,
    /// Where it is, in scene units.
    pub at: [f32; 3],
    /// Which way it faces: a quaternion x, y, z, w.
    pub facing: [f32; 4],
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "the shape `serde` asks for")]
fn is_false(flag: &bool) -> bool {
    !flag
}

/// What is remembered of a player.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
#[non_exhaustive]
pub struct PlayerMemory {
    /// The name.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub name: Text,
    /// The player was here when the save was made.
    pub here: bool,
    /// The scene the player is in, or was in on leaving.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    pub scene: Option<Text>,
    /// Where the player is, in scene units.
    pub at: [f32; 3],
    /// Which way the player faces: a quaternion x, y, z, w.
    pub facing: [f32; 4],
    /// The player's tags.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[cfg_attr(feature = "schema", schemars(with = "Vec<String>"))]
    pub tags: Vec<Text>,
}

/// Everything a world was told to remember, as data: from [`World::save`](crate::World::save), for
/// [`World::recall`](crate::World::recall).
///
/// It holds what is marked `remembered`, and where players are. It does not hold what is under way; for that there is
/// [`Snapshot`](crate::Snapshot).
///
/// ```
/// use stoicheon_core::{NewVar, World};
/// let make = || -> Result<_, stoicheon_core::Error> {
///     let mut world = World::<()>::new();
///     let level = world.declare(NewVar::new("level", 0.4).remembered())?;
///     Ok((world, level))
/// };
/// let (mut world, level) = make()?;
/// world.set(level, 0.9)?;
/// world.step(&mut ())?;
/// let save = world.save()?;
///
/// let (mut another, level) = make()?;
/// assert!(another.recall(&save)?.is_empty());
/// assert_eq!(another.value(level)?.as_number(), Some(0.9));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct Save {
    /// Of which form it is: [`Save::VERSION`].
    pub version: u32,
    /// The tick after which it was made.
    pub tick: u64,
    /// Everybody who ever played, by number.
    #[serde(default)]
    pub players: Vec<PlayerMemory>,
    /// What is remembered of each scene; under the empty name, of what belongs to none.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schemars(with = "std::collections::BTreeMap<String, SceneMemory>"))]
    pub scenes: ByName<SceneMemory>,
}

impl Save {
    /// The form this version of the library writes. It reads this one and those before it.
    pub const VERSION: u32 = 2;

    /// The players who were here when it was made, by number.
    pub fn here(&self) -> impl Iterator<Item = &str> {
        self.players.iter().filter(|player| player.here).map(|player| player.name.as_str())
    }
}

/// What of a save did not fit the world, and was left out.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum SaveMismatch {
    /// The save speaks of something the world does not have, or does not remember.
    #[error("the save has {kind} \"{name}\", which is not remembered here: left out")]
    Unknown {
        /// What kind of thing, with its article.
        kind: &'static str,
        /// Its name.
        name: Text,
    },
    /// The world remembers something of which the save does not speak.
    #[error("the save has no {kind} \"{name}\": it starts with its first value")]
    Missing {
        /// What kind of thing, with its article.
        kind: &'static str,
        /// Its name.
        name: Text,
    },
    /// What the save holds does not fit.
    #[error("expected {expected} for {kind} \"{name}\", found {found}: it starts with its first value")]
    Retyped {
        /// What kind of thing, with its article.
        kind: &'static str,
        /// Its name.
        name: Text,
        /// What fits.
        expected: Text,
        /// What was found.
        found: Text,
    },
    /// A player of the save is in a scene there is not.
    #[error(
        "the save has player \"{name}\" in the scene \"{scene}\", which is not here: they begin {instead}"
    )]
    NoScene {
        /// The player.
        name: Text,
        /// The scene.
        scene: Text,
        /// Where they begin instead.
        instead: Text,
    },
    /// The world refuses something of the save.
    #[error("{kind} \"{name}\" of the save was left out: {reason}")]
    Refused {
        /// What kind of thing.
        kind: &'static str,
        /// Its name.
        name: Text,
        /// What the world says.
        reason: Text,
    },
}

/// What a world remembers of what is not there.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Memory {
    /// Scenes that are not loaded.
    pub(crate) scenes: Shared<ByName<SceneMemory>>,
    /// Things that are to be remembered and have ended, by their scenes.
    pub(crate) gone: Shared<ByName<BTreeSet<Text>>>,
    /// A scene is ending: what ends with it is not gone for good.
    #[serde(skip)]
    pub(crate) quiet: bool,
}
