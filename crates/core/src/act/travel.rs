//! From one scene to another, and what becomes of scenes that nobody is in.

use smol_str::SmolStr;

use crate::{
    base::{
        doing::{Doing, Way},
        ease::Moved,
        error::Error,
        ids::{ObjectId, RecordId, SceneId, WireId},
        names::PLAYER,
        value::{Text, Value},
    },
    moment::{
        leaving::Leaving,
        scenes::{Scenes, WhenEmpty},
    },
    payload,
    plan::wires::{ASLEEP, CUT},
    space::reason::Reason,
    state::State,
    trace::record::Event,
};

payload! {
    /// Somebody has come to a scene from another one. Who goes with the signal.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Arrival {
        /// The name of the scene the player was in; empty if in none.
        pub from: Text,
        /// The whole name of the spot the player arrived at.
        pub spot: Text,
        /// Which way the player faces.
        pub facing: crate::base::geometry::Rotation,
    }
}

/// The signals that every world gives, and every scene too, of those who are in it.
pub(crate) const OF_SCENES: [&str; 6] = ["started", "pressed", "released", "joined", "quit", "arrived"];

impl State {
    /// The scene whose life a wire shares.
    pub(crate) fn scene_of_wire(&self, wire: WireId) -> Option<SceneId> {
        let wire = self.moment.wires.get(wire)?;
        match wire.owner {
            Some(owner) => self.moment.objects.get(owner)?.scene,
            None => wire.scene,
        }
    }

    /// The scene that what a tween moves is of.
    pub(crate) fn scene_of_moved(&self, moved: Moved) -> Option<SceneId> {
        match moved {
            Moved::Place(object) | Moved::Facing(object) => self.moment.objects.get(object)?.scene,
            Moved::Var(var, _) => {
                let var = self.moment.vars.var(var)?;
                var.of.map_or(var.scene, |object| self.moment.objects.get(object)?.scene)
            }
        }
    }

    /// Tells everybody, and then those who listen to one scene alone.
    pub(crate) fn tell_all_and_scene(
        &mut self,
        name: &str,
        scene: Option<SceneId>,
        values: &[Value],
        doing: Doing,
    ) {
        let scene = scene.and_then(|scene| self.moment.scenes.name(scene));
        let own = scene.map(|scene| smol_str::format_smolstr!("{scene}.{name}"));
        for name in [Some(SmolStr::new(name)), own].into_iter().flatten() {
            if let Some(signal) = self.bus.signals.find(&name)
                && let Err(error) = self.bus.emit_values(signal, values, doing)
            {
                self.fault(&error, doing);
            }
        }
    }

    /// A player is here.
    pub(crate) fn tell_joined(&mut self, player: ObjectId, cause: Option<RecordId>) {
        let number = self.player_number(player).unwrap_or_default();
        let cause = self.bus.trace.note(cause, 0, Event::Joined { player, number });
        let scene = self.scene_of(player);
        let doing = Doing::of(Some(player), cause);
        self.tell_all_and_scene("joined", scene, &[], doing);
    }

    /// A key, for those who listen only to the scene of the player who pressed it.
    pub(crate) fn tell_key(&mut self, who: ObjectId, key: Text, down: bool, doing: Doing) {
        let Some(scene) = self.scene_of(who).and_then(|scene| self.moment.scenes.name(scene)) else { return };
        let name = if down { "pressed" } else { "released" };
        let signal = self.bus.signals.find(&smol_str::format_smolstr!("{scene}.{name}"));
        if let Some(signal) = signal
            && let Err(error) = self.bus.emit_values(signal, &[Value::Text(key)], doing)
        {
            self.fault(&error, doing);
        }
    }

    /// A body goes to a spot of another scene in this tick's upkeep. Of several in one tick the last one counts.
    pub(crate) fn send_away(&mut self, body: ObjectId, scene: &Text, spot: &Text, doing: Doing) {
        if self.stays_here(body, doing) {
            return;
        }
        let (scene, spot) = (scene.clone(), spot.clone());
        let event = Event::SentAway { body, scene: scene.clone(), spot: spot.clone() };
        let cause = self.bus.trace.note(doing.cause, 0, event);
        let known = self.moment.scenes.find(&scene).and_then(|scene| self.moment.scenes.get(scene));
        let leaving = Leaving { body, scene, spot };
        if known.is_some_and(|scene| scene.loaded || scene.offered) {
            self.moment.travelling.retain(|(other, _)| other.body != body);
            self.moment.travelling.push((leaving, cause));
        } else {
            self.outbox.leaving.push(leaving);
        }
    }

    /// Takes a body, and what hangs on it, to a spot of a scene that is loaded.
    pub(crate) fn travel_to(
        &mut self,
        leaving: &Leaving,
        to: SceneId,
        cause: Option<RecordId>,
    ) -> Result<(), Error> {
        let unknown = || Error::UnknownName { kind: "a spot of that scene", found: leaving.spot.clone() };
        let spot = self.plan.spots.find_in(&leaving.scene, &leaving.spot).ok_or_else(unknown)?;
        let in_scene = |spot: &crate::moment::spots::Spot| match spot.object {
            Some(object) => self.scene_of(object) == Some(to),
            None => spot.scene == Some(to),
        };
        let there = self.plan.spots.get(spot).filter(|spot| in_scene(spot)).ok_or_else(unknown)?;
        let (pose, name) =
            (crate::base::geometry::Pose { at: there.at, facing: there.facing }, there.name.clone());
        self.thaw(to);
        let from = self.change_scene(leaving.body, Some(to), cause)?;
        let event = Event::Travelled { body: leaving.body, from, to, spot };
        let cause = self.bus.trace.note(cause, 0, event).or(cause);
        self.moment.tweens.stop(Moved::Place(leaving.body));
        self.moment.tweens.stop(Moved::Facing(leaving.body));
        self.relocate(leaving.body, pose, Way::Sent, cause)?;
        let from = from.and_then(|from| self.moment.scenes.name(from)).cloned().unwrap_or_default();
        let values = [Value::Text(from), Value::Text(name), Value::Rotation(pose.facing)];
        let doing = Doing { arrived: Some(leaving.body), ..Doing::of(Some(leaving.body), cause) };
        self.tell_all_and_scene("arrived", Some(to), &values, doing);
        Ok(())
    }

    /// A body, and what hangs on it, belongs to another scene from here on: it has left all zones of the one it was in.
    /// Gives back which that was.
    pub(crate) fn change_scene(
        &mut self,
        id: ObjectId,
        to: Option<SceneId>,
        cause: Option<RecordId>,
    ) -> Result<Option<SceneId>, Error> {
        let from = self.moment.objects.get(id).ok_or(Error::NoSuchObject)?.scene;
        let traveller = id;
        self.let_go(id, cause);
        let doing = Doing { arrived: Some(id), ..Doing::of(Some(id), cause) };
        let mut going = vec![id];
        while let Some(id) = going.pop() {
            self.darken(id, Reason::SceneLeft, Reason::SceneLeft, doing);
            let names =
                [from, to].map(|scene| scene.and_then(|scene| self.moment.scenes.name(scene)).cloned());
            self.moment.objects.change_scene(id, to, [names[0].as_ref(), names[1].as_ref()]);
            let room = Scenes::room(to);
            if let Some(object) = self.moment.objects.get(id) {
                let parts = object.parts.clone();
                going.extend(object.children.iter().rev());
                if let Some(body) = object.body.as_ref().map(|body| body.key) {
                    self.moment.tracker.set_body_room(body, room)?;
                }
                for part in parts {
                    if let Some(zone) = self.parts.get(part).and_then(|slot| slot.zone) {
                        self.moment.tracker.set_zone_room(zone, room)?;
                    }
                }
            }
            self.review_groups(id);
            self.review_wires(id, from);
            self.review_alarms(id);
            self.light(id);
            self.look_again(id);
        }
        if let Some(to) =
            to.filter(|to| !self.moment.scenes.is_loaded(*to) && self.moment.objects.get(traveller).is_some())
        {
            self.sleep_in(to);
        }
        self.bus.watches.changed(crate::plan::reads::Read::Objects, cause);
        Ok(from)
    }

    /// Finds out which scenes nobody is in.
    pub(crate) fn note_empty_scenes(&mut self) {
        if self.moment.scenes.is_empty() {
            return;
        }
        let Some(player) = self.find_tag(PLAYER) else { return };
        let now = self.moment.clock.now;
        let mut visited: Vec<SceneId> =
            self.moment.objects.tagged(player).filter_map(|player| self.scene_of(player)).collect();
        visited.sort_unstable();
        for id in self.moment.scenes.ids() {
            let Some(scene) = self.moment.scenes.get(id).filter(|scene| scene.loaded) else { continue };
            let was = (scene.visited, scene.empty_since);
            let is = match was {
                _ if visited.binary_search(&id).is_ok() => (true, None),
                (true, None) => (true, Some(now)),
                _ => was,
            };
            if is != was
                && let Some(scene) = self.moment.scenes.get_mut(id)
            {
                (scene.visited, scene.empty_since) = is;
            }
        }
    }

    /// The scenes that nobody has been in since before this tick, with what becomes of them.
    pub(crate) fn abandoned_scenes(&self) -> Vec<(SceneId, WhenEmpty)> {
        let now = self.moment.clock.now;
        let all = self.moment.scenes.ids().filter_map(|id| Some((id, self.moment.scenes.get(id)?)));
        let empty = all.filter(|(_, scene)| {
            scene.loaded && scene.frozen.is_none() && scene.empty_since.is_some_and(|since| since < now)
        });
        let due = empty.map(|(id, scene)| (id, scene.when_empty));
        due.filter(|(_, when)| *when != WhenEmpty::Running).collect()
    }

    /// The wires of an object that came from one scene to another sleep if that stands still, and what waits of them
    /// goes along.
    fn review_wires(&mut self, id: ObjectId, from: Option<SceneId>) {
        let Some(object) = self.moment.objects.get(id) else { return };
        let (wires, on) =
            (object.wires.clone(), object.enabled && !self.moment.scenes.is_frozen(object.scene));
        for wire in &wires {
            self.set_wire_flag(*wire, ASLEEP, !on);
        }
        let now = self.moment.clock.now;
        let Some(before) = from.and_then(|from| self.moment.scenes.get_mut(from)) else { return };
        let Some(since) = before.frozen else { return };
        let slept = std::mem::take(&mut before.asleep);
        let (mine, others): (Vec<_>, Vec<_>) =
            slept.into_iter().partition(|(_, run)| wires.contains(&run.wire));
        before.asleep = others;
        for (due, run) in mine {
            self.wake_up(run, due, now.0.saturating_sub(since.0));
        }
    }

    fn wires_of(&self, scene: SceneId) -> Vec<WireId> {
        let all = self.moment.wires.iter().map(|(id, wire)| (wire.number, id));
        let mut of: Vec<_> = all.filter(|(_, id)| self.scene_of_wire(*id) == Some(scene)).collect();
        of.sort_unstable();
        of.into_iter().map(|(_, id)| id).collect()
    }

    /// A scene stands still: nothing of it moves, hears or waits on.
    pub(crate) fn freeze(&mut self, id: SceneId) {
        if self.moment.scenes.get(id).is_some_and(|scene| scene.frozen.is_none()) {
            self.bus.trace.note(None, 0, Event::Frozen { scene: id });
            self.sleep_in(id);
        }
    }

    /// Everything that is in a scene sleeps: nothing of it moves, hears or waits on.
    fn sleep_in(&mut self, id: SceneId) {
        let now = self.moment.clock.now;
        let wires = self.wires_of(id);
        let Some(scene) = self.moment.scenes.get_mut(id) else { return };
        let begins = scene.frozen.is_none();
        let since = *scene.frozen.get_or_insert(now);
        self.moment.scenes.frozen += u32::from(begins);
        let mut asleep = Vec::new();
        for wire in wires {
            self.set_wire_flag(wire, ASLEEP, true);
            asleep.append(&mut self.put_to_sleep(wire));
        }
        asleep.sort_by_key(|(key, _)| key.1);
        // What falls asleep later than the scene did has slept for less when it wakes.
        let later = now.0.saturating_sub(since.0);
        if let Some(scene) = self.moment.scenes.get_mut(id) {
            let due = |due: crate::base::clock::Tick| crate::base::clock::Tick(due.0.saturating_sub(later));
            scene.asleep.extend(asleep.into_iter().map(|((when, _), run)| (due(when), run)));
        }
        self.review_alarms_of(id);
    }

    /// A frozen scene goes on: what waited has as much time left as it had.
    pub(crate) fn thaw(&mut self, id: SceneId) {
        if self.moment.scenes.get(id).is_some_and(|scene| scene.frozen.is_some()) {
            self.bus.trace.note(None, 0, Event::Thawed { scene: id });
            self.wake_in(id);
        }
    }

    /// Everything that is in a scene wakes: what waited has as much time left as it had.
    pub(crate) fn wake_in(&mut self, id: SceneId) {
        let now = self.moment.clock.now;
        let Some(scene) = self.moment.scenes.get_mut(id) else { return };
        let Some(since) = scene.frozen.take() else { return };
        let asleep = std::mem::take(&mut scene.asleep);
        scene.empty_since = None;
        self.moment.scenes.frozen -= 1;
        for wire in self.wires_of(id) {
            let owner = self.moment.wires.get(wire).and_then(|wire| wire.owner);
            let on = owner.is_none_or(|owner| self.is_enabled(owner));
            self.set_wire_flag(wire, ASLEEP, !on);
        }
        let passed = now.0.saturating_sub(since.0);
        for (due, run) in asleep {
            if self.moment.wires.flags(run.wire) & (ASLEEP | CUT) == 0 {
                self.wake_up(run, due, passed);
            }
        }
        self.review_alarms_of(id);
    }

    /// What was brought to a scene and slept there while that was not loaded wakes.
    pub(crate) fn wake_brought(&mut self, id: SceneId) {
        self.wake_in(id);
        let here = self.moment.objects.iter().filter(|(_, object)| object.scene == Some(id));
        let here: Vec<_> = here.map(|(id, _)| id).collect();
        here.into_iter().for_each(|object| self.light(object));
    }

    /// Ends a scene: its objects by number, then the wires that belong to none of them. Managers stay, and so do players
    /// with what they carry; they are in no scene then. What was brought there from elsewhere stays too, and sleeps where
    /// it lies until the scene is loaded again.
    pub(crate) fn unload_scene(&mut self, scene: SceneId) {
        if self.moment.scenes.is_loaded(scene) {
            self.put_in_memory(scene);
            self.end_all_of(scene);
        }
    }

    /// Ends a scene of which nothing is to be remembered.
    pub(crate) fn end_all_of(&mut self, scene: SceneId) {
        let cause = self.bus.trace.note(None, 0, Event::Unloaded { scene });
        let doing = Doing { cause, ..Doing::default() };
        self.moment.memory.quiet = true;
        self.wake_in(scene);
        let stays: Vec<_> = self.players().filter(|player| self.scene_of(*player) == Some(scene)).collect();
        for player in stays {
            if let Err(error) = self.change_scene(player, None, cause) {
                self.fault(&error, doing);
            }
        }
        let of = |object: &crate::moment::object::Object| object.scene == Some(scene) && !object.manages;
        let here = self.moment.objects.iter().filter(|(_, object)| of(object));
        let (own, brought): (Vec<_>, Vec<_>) =
            here.map(|(id, object)| (id, object.home == Some(scene))).partition(|(_, own)| *own);
        for (object, _) in &brought {
            if let Err(error) = self.set_parent(*object, None) {
                self.fault(&error, doing);
            }
            self.darken(*object, Reason::SceneLeft, Reason::SceneLeft, doing);
        }
        for (object, _) in own {
            // It may have ended with what it hung on.
            if self.moment.objects.get(object).is_some()
                && let Err(error) = self.destroy(object, doing)
            {
                self.fault(&error, doing);
            }
        }
        let wires: Vec<_> = self
            .moment
            .wires
            .iter()
            .filter(|(_, wire)| wire.scene == Some(scene))
            .map(|(id, _)| id)
            .collect();
        for wire in wires {
            self.cut_now(wire, Doing::default());
        }
        self.end_binds(scene);
        self.end_spots(|spot| spot.scene == Some(scene));
        let vars: Vec<_> =
            self.moment.vars.iter().filter(|(_, var)| var.scene == Some(scene)).map(|(id, _)| id).collect();
        for var in vars {
            if let Some(gone) = self.moment.vars.remove(var) {
                self.gone.var(var, gone.name, self.bus.trace.len());
            }
        }
        let routines = self.plan.edit().routines.edit().iter_mut();
        routines.filter(|routine| routine.scene == Some(scene)).for_each(|routine| routine.ended = true);
        self.moment.memory.quiet = false;
        self.moment.scenes.unloaded(scene);
        if !brought.is_empty() {
            self.sleep_in(scene);
        }
    }
}
