//! What is remembered: of scenes that are not loaded, of players who are away, and in a save.
//!
//! Everything is kept by name, so that it can be read by a world that was made of other wiring than the one it was
//! written by. Whatever does not fit is told and left out; the rest counts.

mod recall;
mod value;

use std::collections::BTreeSet;

use indexmap::IndexMap;
use rustc_hash::FxBuildHasher;
use serde::{Deserialize, Serialize};
use thiserror::Error as ThisError;

pub use value::Remembered;

use crate::{
    clock::TickRate, geometry::Pose, object::Object, part::Part, scene::SceneId, shared::Shared,
    state::State, value::Text,
};

/// Names and what is remembered under each, in the order things were made.
pub type ByName<T> = IndexMap<Text, T, FxBuildHasher>;

/// What is remembered of one scene, by whole names.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(default, deny_unknown_fields)]
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
pub struct PlayerMemory {
    /// The name.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub name: Text,
    /// He was here when the save was made.
    pub here: bool,
    /// The scene he is in, or was in when he left.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schemars(with = "Option<String>"))]
    pub scene: Option<Text>,
    /// Where he is, in scene units.
    pub at: [f32; 3],
    /// Which way he faces: a quaternion x, y, z, w.
    pub facing: [f32; 4],
    /// His tags.
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
pub enum Misfit {
    /// The save speaks of something the world does not have, or does not remember.
    #[error("the save has {kind} \"{name}\", which is not remembered here: left out")]
    Unknown {
        /// What kind of thing, with its article.
        kind: &'static str,
        /// Its name.
        name: Text,
    },
    /// The world remembers something of which the save does not speak.
    #[error("the save says nothing of {kind} \"{name}\": it begins anew")]
    Missing {
        /// What kind of thing, with its article.
        kind: &'static str,
        /// Its name.
        name: Text,
    },
    /// What the save holds does not fit.
    #[error("expected {expected} for {kind} \"{name}\", found {found}: it begins anew")]
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

impl State {
    fn scene_word(&self, scene: Option<SceneId>) -> Text {
        scene.and_then(|scene| self.scenes.name(scene)).cloned().unwrap_or_default()
    }

    /// An object has ended.
    pub(crate) fn note_gone(&mut self, object: crate::ObjectId) {
        let Some(object) = self.objects.get_even_doomed(object).filter(|object| object.remembered) else {
            return;
        };
        if !self.memory.quiet {
            let (scene, name) = (self.scene_word(object.home), object.name.clone());
            self.memory.gone.edit().entry(scene).or_default().insert(name);
        }
    }

    /// Before a scene ends: what of it is to be remembered is put away.
    pub(crate) fn put_in_memory(&mut self, scene: SceneId) {
        let remembered = self.remember(Some(scene));
        let name = self.scene_word(Some(scene));
        self.memory.scenes.edit().insert(name, remembered);
    }

    /// What is to be remembered of a scene that is loaded, or of what belongs to none.
    pub(crate) fn remember(&self, scene: Option<SceneId>) -> SceneMemory {
        let mut memory = SceneMemory::default();
        // Growing step by step would cost more than counting first.
        memory.vars.reserve(self.vars.iter().filter(|(_, var)| var.remembered).count());
        memory.objects.reserve(self.objects.iter().filter(|(_, object)| object.remembered).count());
        for (_, var) in self.vars.iter().filter(|(_, var)| var.remembered) {
            if self.home_of_var(var) != scene {
                continue;
            }
            if let Some(each) = &var.each {
                let of = each.iter().filter_map(|(player, value)| {
                    Some((self.objects.get_even_doomed(*player)?.name.clone(), self.to_memory(value)))
                });
                let mut of: Vec<_> = of.collect();
                of.sort_by_key(|(name, _)| self.objects.people.get_index_of(name));
                memory.players.insert(var.name.clone(), of.into_iter().collect());
            }
            memory.vars.insert(var.name.clone(), self.to_memory(&var.value));
        }
        self.remember_objects(scene, &mut memory);
        memory
    }

    /// Where the objects of a scene are that there are, wherever that is, and which of them have ended.
    fn remember_objects(&self, scene: Option<SceneId>, memory: &mut SceneMemory) {
        let here = |object: &Object| object.home == scene;
        for (_, object) in self.objects.iter().filter(|(_, object)| here(object)) {
            if object.remembered {
                memory.objects.insert(
                    object.name.clone(),
                    ObjectMemory {
                        gone: false,
                        disabled: object.off,
                        scene: (object.scene != object.home).then(|| self.scene_word(object.scene)),
                        at: plain(object.at.to_array()),
                        facing: plain(object.facing.quat().to_array()),
                    },
                );
            }
            for part in &object.parts {
                let Some(part) = self.parts.part(*part) else { continue };
                let fields = part.remembered();
                if !fields.is_empty() {
                    let fields = fields
                        .into_iter()
                        .map(|(name, value)| (Text::new_static(name), self.to_memory(&value)));
                    memory.parts.insert(part_name(object, part), fields.collect());
                }
            }
        }
        for name in self.memory.gone.get(&self.scene_word(scene)).into_iter().flatten() {
            memory.objects.insert(name.clone(), ObjectMemory { gone: true, ..ObjectMemory::default() });
        }
    }

    pub(crate) fn home_of_var(&self, var: &crate::var::Var) -> Option<SceneId> {
        match var.of {
            Some(object) => self.objects.get(object).and_then(|object| object.home),
            None => var.scene,
        }
    }

    /// Everything that is to be remembered.
    pub(crate) fn save(&self) -> Save {
        let mut scenes = ByName::default();
        scenes.insert(Text::default(), self.remember(None));
        for id in self.scenes.ids() {
            let name = self.scene_word(Some(id));
            if self.scenes.is_loaded(id) {
                scenes.insert(name, self.remember(Some(id)));
            } else if let Some(memory) = self.memory.scenes.get(&name) {
                // What was taken out of it has gone on since.
                let mut memory = memory.clone();
                self.remember_objects(Some(id), &mut memory);
                scenes.insert(name, memory);
            }
        }
        scenes.retain(|_, memory| *memory != SceneMemory::default());
        let players = self.objects.people.iter().map(|(name, person)| {
            let here = self.objects.get(person.id);
            let now = here.map(Object::last_seen);
            let words = |tags: &crate::object::Tags| self.objects.plain_words(tags);
            let tags = here.map(|object| words(&object.tags));
            let last = now.or_else(|| person.last.as_ref().map(|last| (last.scene, last.pose)));
            let (scene, pose) = last.unwrap_or((None, Pose::default()));
            PlayerMemory {
                name: name.clone(),
                here: here.is_some(),
                scene: scene.and_then(|scene| self.scenes.name(scene)).cloned(),
                at: plain(pose.at.to_array()),
                facing: plain(pose.facing.quat().to_array()),
                tags: tags
                    .or_else(|| Some(person.last.as_ref()?.tags.clone()))
                    .unwrap_or_default()
                    .into_iter()
                    .filter(|tag| tag != crate::PLAYER)
                    .collect(),
            }
        });
        let players = players.collect();
        Save { version: Save::VERSION, tick: self.clock.now.0, players, scenes }
    }

    pub(crate) fn to_memory(&self, value: &crate::Value) -> Remembered {
        let object = |id| self.name(id).map(Text::new);
        let spot = |id| self.spots.get(id).map(|spot| spot.name.clone());
        Remembered::of(value, self.clock.rate, object, spot)
    }

    pub(crate) fn rate_of_memory(&self) -> TickRate {
        self.clock.rate
    }
}

/// A negative zero would only puzzle.
fn plain<const N: usize>(numbers: [f32; N]) -> [f32; N] {
    numbers.map(|number| number + 0.0)
}

/// `object.kind`
fn part_name(object: &Object, part: &dyn Part) -> Text {
    smol_str::format_smolstr!("{}.{}", object.name, part.kind().name)
}
