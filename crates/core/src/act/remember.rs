//! What is remembered: of scenes that are not loaded, of players who are away, and in a save.
//!
//! Everything is kept by name, so that it can be read by a world that was made of other wiring than the one it was
//! written by. Whatever does not fit is told and left out; the rest counts.

use crate::{
    base::{clock::TickRate, geometry::Pose, ids::SceneId, value::Text},
    moment::{
        memory::{ByName, ObjectMemory, PlayerMemory, Save, SceneMemory},
        object::Object,
        remembered::Remembered,
    },
    part::contract::Part,
    state::State,
};

impl State {
    pub(crate) fn scene_word(&self, scene: Option<SceneId>) -> Text {
        scene.and_then(|scene| self.moment.scenes.name(scene)).cloned().unwrap_or_default()
    }

    /// An object has ended.
    pub(crate) fn note_gone(&mut self, object: crate::base::ids::ObjectId) {
        let Some(object) = self.moment.objects.get_even_doomed(object).filter(|object| object.remembered)
        else {
            return;
        };
        if !self.moment.memory.quiet {
            let (scene, name) = (self.scene_word(object.home), object.name.clone());
            self.moment.memory.gone.edit().entry(scene).or_default().insert(name);
        }
    }

    /// Before a scene ends: what of it is to be remembered is put away.
    pub(crate) fn put_in_memory(&mut self, scene: SceneId) {
        let remembered = self.remember(Some(scene));
        let name = self.scene_word(Some(scene));
        self.moment.memory.scenes.edit().insert(name, remembered);
    }

    /// What is to be remembered of a scene that is loaded, or of what belongs to none.
    pub(crate) fn remember(&self, scene: Option<SceneId>) -> SceneMemory {
        let mut memory = SceneMemory::default();
        // Growing step by step would cost more than counting first.
        memory.vars.reserve(self.moment.vars.iter().filter(|(_, var)| var.remembered).count());
        memory.objects.reserve(self.moment.objects.iter().filter(|(_, object)| object.remembered).count());
        for (_, var) in self.moment.vars.iter().filter(|(_, var)| var.remembered) {
            if self.home_of_var(var) != scene {
                continue;
            }
            if let Some(each) = &var.each {
                let of = each.iter().filter_map(|(player, value)| {
                    Some((self.moment.objects.get_even_doomed(*player)?.name.clone(), self.to_memory(value)))
                });
                let mut of: Vec<_> = of.collect();
                of.sort_by_key(|(name, _)| self.moment.objects.people.get_index_of(name));
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
        for (_, object) in self.moment.objects.iter().filter(|(_, object)| here(object)) {
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
        for name in self.moment.memory.gone.get(&self.scene_word(scene)).into_iter().flatten() {
            memory.objects.insert(name.clone(), ObjectMemory { gone: true, ..ObjectMemory::default() });
        }
    }

    pub(crate) fn home_of_var(&self, var: &crate::moment::vars::Var) -> Option<SceneId> {
        match var.of {
            Some(object) => self.moment.objects.get(object).and_then(|object| object.home),
            None => var.scene,
        }
    }

    /// Everything that is to be remembered.
    pub(crate) fn save(&self) -> Save {
        let mut scenes = ByName::default();
        scenes.insert(Text::default(), self.remember(None));
        for id in self.moment.scenes.ids() {
            let name = self.scene_word(Some(id));
            if self.moment.scenes.is_loaded(id) {
                scenes.insert(name, self.remember(Some(id)));
            } else if let Some(memory) = self.moment.memory.scenes.get(&name) {
                // What was taken out of it has gone on since.
                let mut memory = memory.clone();
                self.remember_objects(Some(id), &mut memory);
                scenes.insert(name, memory);
            }
        }
        scenes.retain(|_, memory| *memory != SceneMemory::default());
        let players = self.moment.objects.people.iter().map(|(name, person)| {
            let here = self.moment.objects.get(person.id);
            let now = here.map(Object::last_seen);
            let words = |tags: &crate::base::ids::Tags| self.moment.objects.plain_words(tags);
            let tags = here.map(|object| words(&object.tags));
            let last = now.or_else(|| person.last.as_ref().map(|last| (last.scene, last.pose)));
            let (scene, pose) = last.unwrap_or((None, Pose::default()));
            PlayerMemory {
                name: name.clone(),
                here: here.is_some(),
                scene: scene.and_then(|scene| self.moment.scenes.name(scene)).cloned(),
                at: plain(pose.at.to_array()),
                facing: plain(pose.facing.quat().to_array()),
                tags: tags
                    .or_else(|| Some(person.last.as_ref()?.tags.clone()))
                    .unwrap_or_default()
                    .into_iter()
                    .filter(|tag| tag != crate::base::names::PLAYER)
                    .collect(),
            }
        });
        let players = players.collect();
        Save { version: Save::VERSION, tick: self.moment.clock.now.0, players, scenes }
    }

    pub(crate) fn to_memory(&self, value: &crate::base::value::Value) -> Remembered {
        let object = |id| self.name(id).map(Text::new);
        let spot = |id| self.plan.spots.get(id).map(|spot| spot.name.clone());
        Remembered::of(value, self.moment.clock.rate, object, spot)
    }

    pub(crate) fn rate_of_memory(&self) -> TickRate {
        self.moment.clock.rate
    }
}

/// A negative zero would only puzzle.
fn plain<const N: usize>(numbers: [f32; N]) -> [f32; N] {
    numbers.map(|number| number + 0.0)
}

/// `object.kind`
pub(crate) fn part_name(object: &Object, part: &dyn Part) -> Text {
    smol_str::format_smolstr!("{}.{}", object.name, part.kind().name)
}
