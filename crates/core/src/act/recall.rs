//! Putting what is remembered back where it belongs.

use glam::{Quat, Vec3};

use crate::{
    act::remember::part_name,
    base::{
        doing::{Doing, Way},
        geometry::{Pose, Rotation},
        ids::{ObjectId, SceneId, VarId},
        value::{Text, Type, Value},
    },
    moment::{
        memory::{ByName, ObjectMemory, PlayerMemory, SaveMismatch, SceneMemory},
        object::LastSeen,
        remembered::Remembered,
    },
    state::State,
};

impl State {
    pub(crate) fn value_of_memory(&self, value: &Remembered, ty: Option<&Type>) -> Option<Value> {
        let object = |name: &str| self.find_player(name).or_else(|| self.find(name));
        value.value(ty, self.rate_of_memory(), object, |name| self.find_spot(name))
    }

    /// A scene that was just loaded: what is remembered of it is as it was. Gives back what does not fit.
    pub(crate) fn recall_scene(&mut self, scene: SceneId) -> Vec<SaveMismatch> {
        let name = self.scene_word(Some(scene));
        // What was taken along may have ended elsewhere since.
        let gone = self.moment.memory.gone.get(&name).cloned().unwrap_or_default();
        let memory = self.moment.memory.scenes.edit().shift_remove(&name);
        let ended = gone.iter().filter(|name| {
            let id = self.find(name).and_then(|id| self.moment.objects.get(id));
            id.is_some_and(|object| object.remembered && object.home == Some(scene))
        });
        let ended: Vec<_> = ended.filter_map(|name| self.find(name)).collect();
        for object in ended {
            self.destroy(object, Doing::default()).ok();
        }
        let Some(mut memory) = memory else { return Vec::new() };
        for name in gone {
            memory.objects.insert(name, ObjectMemory { gone: true, ..ObjectMemory::default() });
        }
        self.recall_in(Some(scene), &memory)
    }

    /// Puts back what is remembered of a scene that is loaded, or of what belongs to none.
    pub(crate) fn recall_in(&mut self, scene: Option<SceneId>, memory: &SceneMemory) -> Vec<SaveMismatch> {
        let mut mismatches = Vec::new();
        self.recall_objects(scene, &memory.objects, &mut mismatches);
        for (name, value) in &memory.vars {
            self.recall_var(scene, name, None, value, &mut mismatches);
        }
        for (name, players) in &memory.players {
            for (player, value) in players {
                match self.find_player(player) {
                    Some(player) => self.recall_var(scene, name, Some(player), value, &mut mismatches),
                    None => mismatches.push(unknown("a player", player)),
                }
            }
        }
        self.recall_parts(scene, &memory.parts, &mut mismatches);
        self.find_missing(scene, memory, &mut mismatches);
        mismatches
    }

    /// What is to be remembered here, and of which nothing is said.
    fn find_missing(&self, scene: Option<SceneId>, memory: &SceneMemory, mismatches: &mut Vec<SaveMismatch>) {
        let missing = |kind, name: &Text| SaveMismatch::Missing { kind, name: name.clone() };
        // When all that is spoken of fits, and it is as much as there is, nothing is missing.
        let remembered = || {
            let all = self.moment.vars.iter().map(|(_, var)| var);
            all.filter(|var| var.remembered && self.home_of_var(var) == scene)
        };
        if !mismatches.is_empty() || remembered().count() != memory.vars.len() {
            let vars = remembered().filter(|var| !memory.vars.contains_key(&var.name));
            mismatches.extend(vars.map(|var| missing("variable", &var.name)));
        }
        let at_home =
            || self.moment.objects.iter().map(|(_, object)| object).filter(|object| object.home == scene);
        let remembered = at_home().filter(|object| object.remembered).count();
        if !mismatches.is_empty() || remembered != memory.objects.len() {
            let objects = at_home().filter(|object| object.remembered);
            let objects = objects.filter(|object| !memory.objects.contains_key(&object.name));
            mismatches.extend(objects.map(|object| missing("object", &object.name)));
        }
        for object in at_home().filter(|object| !object.parts.is_empty()) {
            let parts = object.parts.iter().filter_map(|part| self.parts.part(*part));
            let names =
                parts.filter(|part| !part.remembered().is_empty()).map(|part| part_name(object, part));
            mismatches.extend(
                names.filter(|name| !memory.parts.contains_key(name)).map(|name| missing("part", &name)),
            );
        }
    }

    /// What somebody took along has not ended with its scene, so it is as it is.
    fn lives_on(&self, object: ObjectId) -> bool {
        self.moment.objects.get(object).is_some_and(crate::moment::object::Object::is_away_from_home)
    }

    fn recall_var(
        &mut self,
        scene: Option<SceneId>,
        name: &Text,
        of: Option<ObjectId>,
        value: &Remembered,
        mismatches: &mut Vec<SaveMismatch>,
    ) {
        let remembered = |id: &VarId| {
            let var = self.moment.vars.var(*id).filter(|var| var.remembered);
            var.is_some_and(|var| self.home_of_var(var) == scene && (of.is_none() || var.each.is_some()))
        };
        let Some(id) = self.moment.vars.find(name).filter(remembered) else {
            mismatches.push(unknown("a variable", name));
            return;
        };
        if self.moment.vars.var(id).and_then(|var| var.of).is_some_and(|object| self.lives_on(object)) {
            return;
        }
        let ty = self.moment.vars.var(id).and_then(|var| var.ty.clone());
        let Some(to) = self.value_of_memory(value, ty.as_ref()) else {
            mismatches.push(SaveMismatch::Retyped {
                kind: "variable",
                name: name.clone(),
                expected: ty.map_or_else(|| "a value".into(), |ty| ty.to_string().into()),
                found: value.word().into(),
            });
            return;
        };
        if !self.part_can_hold(id, &to) {
            mismatches.push(SaveMismatch::Retyped {
                kind: "variable",
                name: name.clone(),
                expected: "what its part can count to".into(),
                found: value.text(),
            });
            return;
        }
        self.bus.trace.feed(&to);
        let told = match (self.moment.vars.var_mut(id), of) {
            (Some(var), Some(player)) => {
                var.each.as_mut().map(|each| each.insert(player, to));
                true
            }
            (Some(var), None) if var.bound.is_none() => {
                var.value = to;
                true
            }
            _ => false,
        };
        if told {
            self.bus.watches.changed(crate::plan::reads::Read::Var(id), None);
        }
    }

    /// Whether the part that keeps a variable, if one does, can have come to that value.
    fn part_can_hold(&self, id: VarId, value: &Value) -> bool {
        let Some(part) = self.moment.vars.var(id).and_then(|var| var.part) else { return true };
        let number = self.parts.get(part).and_then(|slot| slot.vars.iter().position(|var| *var == id));
        let Some((number, part)) = number.zip(self.parts.part(part)) else { return true };
        part.can_hold(number, value)
    }

    fn recall_objects(
        &mut self,
        scene: Option<SceneId>,
        objects: &ByName<ObjectMemory>,
        mismatches: &mut Vec<SaveMismatch>,
    ) {
        for (name, memory) in objects {
            let here = |id: &ObjectId| {
                self.moment.objects.get(*id).is_some_and(|object| object.remembered && object.home == scene)
            };
            let Some(id) = self.find(name).filter(here) else {
                // What was ended already when nothing of it was made is as it should be.
                if !memory.gone {
                    mismatches.push(unknown("an object", name));
                }
                continue;
            };
            if memory.gone {
                let scene = self.scene_word(scene);
                self.moment.memory.gone.edit().entry(scene).or_default().insert(name.clone());
                self.destroy(id, Doing::default()).ok();
                continue;
            }
            if self.lives_on(id) {
                continue;
            }
            if let Some(word) = &memory.scene {
                let elsewhere = self.moment.scenes.find(word);
                // The empty name stands for no scene.
                if elsewhere.is_none() && !word.is_empty() {
                    mismatches.push(unknown("a scene", word));
                    continue;
                }
                self.change_scene(id, elsewhere, None).ok();
            }
            if let Some(to) = pose(memory.at, memory.facing) {
                // Most things are where they were made.
                if self.moment.objects.get(id).is_some_and(|object| object.pose() != to) {
                    self.relocate(id, to, Way::Placed, None).ok();
                }
                self.bus.trace.feed(&(id, to.at));
            } else {
                mismatches.push(SaveMismatch::Retyped {
                    kind: "object",
                    name: name.clone(),
                    expected: "a place and a turn of finite numbers".into(),
                    found: "others".into(),
                });
            }
            if self.moment.objects.get(id).is_some_and(|object| object.off != memory.disabled) {
                self.switch(id, !memory.disabled, Doing::default()).ok();
            }
        }
    }

    fn recall_parts(
        &mut self,
        scene: Option<SceneId>,
        parts: &ByName<ByName<Remembered>>,
        mismatches: &mut Vec<SaveMismatch>,
    ) {
        for (name, fields) in parts {
            let found = name.rsplit_once('.').and_then(|(object, _)| self.find(object)).and_then(|object| {
                let object = self.moment.objects.get(object).filter(|object| object.home == scene)?;
                object.parts.iter().copied().find_map(|id| {
                    let part = self.parts.part(id).filter(|part| part_name(object, *part) == *name)?;
                    Some((id, part.remembered()))
                })
            });
            if found.as_ref().and_then(|(part, _)| self.object_of(*part)).is_some_and(|id| self.lives_on(id))
            {
                continue;
            }
            let Some((part, known)) = found.filter(|(_, known)| !known.is_empty()) else {
                mismatches.push(unknown("a part", name));
                continue;
            };
            let mut values: Vec<(&str, Value)> = Vec::new();
            for (field, value) in fields {
                let known_field = known.iter().find(|(known, _)| *known == field.as_str());
                let known_value = known_field.and_then(|(_, known)| known.type_of());
                let whole = || smol_str::format_smolstr!("{name}.{field}");
                match (known_field.is_some(), self.value_of_memory(value, known_value.as_ref())) {
                    (false, _) => mismatches.push(unknown("a field", &whole())),
                    (true, Some(value)) => values.push((field, value)),
                    (true, None) => mismatches.push(SaveMismatch::Retyped {
                        kind: "field",
                        name: whole(),
                        expected: known_value.map_or("a value", |ty| ty.word()).into(),
                        found: value.word().into(),
                    }),
                }
            }
            values.iter().for_each(|(_, value)| self.bus.trace.feed(value));
            let told = self.part_told(part, Doing::default(), &[], |part, cx| part.recall(&values, cx));
            if !told.unwrap_or(false) {
                mismatches.push(SaveMismatch::Retyped {
                    kind: "part",
                    name: name.clone(),
                    expected: "what such a part remembers".into(),
                    found: "something else".into(),
                });
            }
        }
    }

    /// Everybody of a save is known from here on, with the number they have there.
    pub(crate) fn recall_players(&mut self, players: &[PlayerMemory], mismatches: &mut Vec<SaveMismatch>) {
        for player in players {
            let mut scene = player.scene.as_ref().and_then(|scene| self.moment.scenes.find(scene));
            let mut pose = pose(player.at, player.facing).unwrap_or_default();
            if let (None, Some(lost)) = (scene, &player.scene) {
                let spot = self.first_scene().and_then(|first| self.plan.spots.first_of(first));
                let instead = match (self.first_scene(), spot) {
                    (Some(_), Some(spot)) => smol_str::format_smolstr!("at {}", spot.name),
                    (Some(first), None) => smol_str::format_smolstr!("in {}", self.scene_word(Some(first))),
                    (None, _) => "where they were, in no scene".into(),
                };
                if let Some(first) = self.first_scene() {
                    pose = spot.map(|spot| Pose { at: spot.at, facing: spot.facing }).unwrap_or_default();
                    scene = Some(first);
                }
                mismatches.push(SaveMismatch::NoScene {
                    name: player.name.clone(),
                    scene: lost.clone(),
                    instead,
                });
            }
            let last = LastSeen { scene, pose, tags: player.tags.clone() };
            self.moment.objects.know_person(&player.name, last);
        }
    }
}

impl State {
    /// The scene a world begins with: the first it knows that is loaded or can be.
    fn first_scene(&self) -> Option<SceneId> {
        let is_one =
            |id: &SceneId| self.moment.scenes.get(*id).is_some_and(|scene| scene.loaded || scene.offered);
        self.moment.scenes.ids().find(is_one)
    }
}

pub(crate) fn unknown(kind: &'static str, name: &Text) -> SaveMismatch {
    SaveMismatch::Unknown { kind, name: name.clone() }
}

fn pose(at: [f32; 3], facing: [f32; 4]) -> Option<Pose> {
    let at = Some(Vec3::from_array(at)).filter(|at| at.is_finite())?;
    let facing = Rotation::from_quat(Quat::from_array(facing)).ok()?;
    Some(Pose { at, facing })
}
