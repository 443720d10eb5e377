//! Making a scene: objects, parts, signals, variables, effects, rules.

use glam::Vec3;
use smallvec::SmallVec;
use smol_str::SmolStr;

use super::{World, path};
use crate::{
    bind::{BindId, Kept},
    effect::EffectId,
    error::Error,
    expr::Expr,
    geometry::{Pose, Rotation},
    mould::{Mould, MouldId},
    object::{Body, Object, ObjectId, PLAYER, PropertyName, Tag, Tags},
    part::{Part, PartId, PartKind, PartSpec, Region, Settings},
    payload::{Field, Payload},
    rule::{Rule, RuleId},
    scene::{Places, SceneId, Scenes},
    sequence::{Step, Task, TaskId, compile},
    signal::{Signal, SignalId, check_name, check_path},
    space::Shape,
    spot::{Spot, SpotId},
    state::State,
    trace::{Event, RecordId},
    value::Value,
    var::{NewVar, VarId},
    watch::Read,
    whereabouts::{Way, check_place},
    wire::Place,
};

/// An object about to be made. Nothing happens until [`add`](Self::add).
#[derive(Debug)]
#[expect(clippy::struct_excessive_bools, reason = "facts that have nothing to do with each other")]
#[must_use = "an object is made by `add`"]
pub struct NewObject<'w> {
    state: &'w mut State,
    name: SmolStr,
    at: Vec3,
    facing: Rotation,
    tags: Vec<SmolStr>,
    body: bool,
    shape: Option<Shape>,
    parent: Option<ObjectId>,
    enabled: bool,
    role: bool,
    plays: bool,
    remembered: bool,
    scene: Option<SceneId>,
    place: Place,
}

impl<'w> NewObject<'w> {
    #[track_caller]
    pub(crate) fn new(state: &'w mut State, name: &str) -> Self {
        let place = Place::here();
        let scene = state.scenes.current;
        Self {
            state,
            name: name.into(),
            at: Vec3::ZERO,
            facing: Rotation::NONE,
            tags: Vec::new(),
            body: false,
            shape: None,
            parent: None,
            enabled: true,
            role: false,
            plays: false,
            remembered: false,
            scene,
            place,
        }
    }

    pub(crate) fn manager(mut self) -> Self {
        self.role = true;
        self
    }

    fn player(mut self) -> Self {
        self.plays = true;
        self.body().tag(PLAYER)
    }

    /// Puts it into a scene that is loaded. Default the one that was begun last.
    pub fn in_scene(mut self, scene: SceneId) -> Self {
        self.scene = Some(scene);
        self
    }

    /// Where it is, which way it faces, whether it is enabled and whether it is gone are remembered when its scene is
    /// unloaded, and in a [`Save`](crate::Save).
    pub fn remembered(mut self) -> Self {
        self.remembered = true;
        self
    }

    /// Puts it there, in scene units. Default (0, 0, 0).
    pub fn at(mut self, at: Vec3) -> Self {
        self.at = at;
        self
    }

    /// Lets it face that way.
    pub fn facing(mut self, facing: Rotation) -> Self {
        self.facing = facing;
        self
    }

    /// Gives it a tag.
    pub fn tag(mut self, tag: &str) -> Self {
        self.tags.push(tag.into());
        self
    }

    /// Makes it a body: a point that can touch zones and walk.
    pub fn body(mut self) -> Self {
        self.body = true;
        self
    }

    /// Makes it a body of that shape: one ball, one capsule or one box of three sizes.
    pub fn body_of(mut self, shape: Shape) -> Self {
        self.body = true;
        self.shape = Some(shape);
        self
    }

    /// Hangs it on another object: it is placed and faces as seen from there, goes where that goes, is off while that
    /// is off, and ends with it.
    pub fn hung_on(mut self, parent: ObjectId) -> Self {
        self.parent = Some(parent);
        self
    }

    /// It begins disabled.
    pub fn disabled(mut self) -> Self {
        self.enabled = false;
        self
    }

    /// Says where it was written, when that is not the line of this call.
    pub fn written_at(mut self, place: Place) -> Self {
        self.place = place;
        self
    }

    /// Makes it. While the world is running, it takes part from the end of this tick on.
    ///
    /// # Errors
    /// [`Error::BadName`], [`Error::NameTaken`] or [`Error::BadPlace`]; [`Error::RoleTaken`] for a manager;
    /// [`Error::NoSuchObject`] for what it hangs on; [`Error::NoSuchScene`]; [`Error::NoRoom`] for one player too
    /// many; [`Error::BadBody`] or what else is wrong with the body's shape.
    pub fn add(self) -> Result<ObjectId, Error> {
        self.add_caused(None)
    }

    pub(crate) fn add_caused(self, cause: Option<RecordId>) -> Result<ObjectId, Error> {
        let Self { state, name, at, facing, tags, body, shape, parent, enabled, role, .. } = self;
        let Self { plays, remembered, scene, place, .. } = self;
        check_path(&name)?;
        tags.iter().try_for_each(|tag| check_name(tag))?;
        check_place(at)?;
        if role {
            state.scenes.check_role(&name, &place)?;
        }
        if state.objects.find(&name).is_some() {
            return Err(Error::NameTaken { kind: "an object", name });
        }
        let scene = scene.filter(|_| !role);
        if scene.is_some_and(|scene| !state.scenes.is_loaded(scene)) {
            return Err(Error::NoSuchScene);
        }
        if let Some(most) = state.most_players.filter(|_| plays)
            && state.players().count() >= most as usize
        {
            return Err(Error::NoRoom { most });
        }
        let seat = Pose { at, facing };
        let (pose, above_on) = match parent {
            Some(parent) => {
                let parent = state.objects.get(parent).ok_or(Error::NoSuchObject)?;
                (parent.pose().carry(seat), parent.enabled)
            }
            None => (seat, true),
        };
        check_place(pose.at)?;
        shape.as_ref().map_or(Ok(()), Shape::check_body)?;
        let mut all: Tags = tags.iter().map(|tag| state.objects.tag(tag)).collect();
        if let Some(name) = scene.and_then(|scene| state.scenes.name(scene)).cloned() {
            all.extend(tags.iter().map(|tag| state.objects.tag_in(tag, &name)));
        }
        let running = state.started;
        let id = state.objects.insert(plays, |number| Object {
            number,
            name: name.clone(),
            tags: all,
            at: pose.at,
            facing: pose.facing,
            enabled: enabled && above_on,
            off: !enabled,
            parent,
            seat,
            children: SmallVec::new(),
            moved_by: None,
            doomed: false,
            away: false,
            carried: false,
            remembered,
            fresh: running,
            manages: role,
            scene,
            home: scene,
            body: None,
            parts: SmallVec::new(),
            signals: SmallVec::new(),
            wires: SmallVec::new(),
            properties: SmallVec::new(),
        });
        if role {
            state.scenes.take_role(name, id, place);
        }
        if let Some(parent) = parent.and_then(|parent| state.objects.get_mut(parent)) {
            parent.children.push(id);
        }
        if body {
            state.make_body(id, shape)?;
        }
        if running {
            // Of a scene that is loaded it is enough to say that it is.
            let record = if state.scenes.loading {
                state.bus.trace.feed(&Value::Object(id));
                cause
            } else {
                state.bus.trace.note(cause, 0, Event::Spawned { object: id })
            };
            state.bus.watches.changed(Read::Objects, record);
            state.spawned.push((id, record));
            if plays {
                state.tell_joined(id, record);
            }
        }
        if let Some(scene) = scene.filter(|_| plays) {
            state.thaw(scene);
        }
        Ok(id)
    }
}

impl State {
    /// Makes an object able to touch zones.
    fn make_body(&mut self, id: ObjectId, shape: Option<Shape>) -> Result<(), Error> {
        let object = self.objects.get(id).ok_or(Error::NoSuchObject)?;
        let (pose, on) = (object.pose(), object.enabled && !object.fresh);
        let room = Scenes::room(object.scene);
        if let Some(body) = &object.body {
            let key = body.key;
            self.tracker.shape_body(key, shape.as_ref(), pose)?;
            self.body_mut(id)?.shape = shape;
            return Ok(());
        }
        let key = self.tracker.add_body(id, object.number, pose.at)?;
        self.tracker.shape_body(key, shape.as_ref(), pose)?;
        self.tracker.set_body_room(key, room)?;
        if !on {
            self.tracker.enable(key, false);
        }
        if let Some(object) = self.objects.get_mut(id) {
            object.body = Some(Body { key, shape, ..Body::default() });
        }
        Ok(())
    }

    pub(crate) fn attach<P: PartSpec>(&mut self, object: ObjectId, spec: P) -> Result<P::Handle, Error> {
        let part = spec.into_part(self.rate())?;
        let part = self.attach_part(object, part)?;
        let signals = self.parts.get(part).map(|slot| slot.signals.clone()).unwrap_or_default();
        Ok(P::handle(part, &signals))
    }

    fn attach_part(&mut self, object: ObjectId, part: Box<dyn Part>) -> Result<PartId, Error> {
        let owner = self.objects.get(object).ok_or(Error::NoSuchObject)?;
        let (name, number) = (owner.name.clone(), owner.number);
        let kind = part.kind();
        for signal in kind.signals {
            check_name(signal.name)?;
            let name = path(&name, signal.name);
            if self.bus.signals.find(&name).is_some() {
                return Err(Error::NameTaken { kind: "a signal", name });
            }
        }
        let region = part.region().cloned();
        let lists = [part.offer().is_some(), part.current().is_some(), part.aim().is_some()];
        let asks = part.asks();
        let body = part.body().cloned();
        // A part of a game's own may describe what cannot be: then nothing is made of it.
        region.as_ref().map_or(Ok(()), Region::check)?;
        body.as_ref().map_or(Ok(()), Shape::check_body)?;
        let id = self.parts.insert(object, number, part);
        let mut signals = SmallVec::new();
        for signal in kind.signals {
            let signal = signal.declare(&mut self.bus, &name)?;
            self.bus.signals.lane_mut(signal).into_iter().for_each(|lane| lane.of = Some(object));
            signals.push(signal);
        }
        if !asks.is_empty() {
            let asks = asks.into_iter().map(|(name, expr)| (SmolStr::new_static(name), expr));
            self.asked.insert(id, asks.collect());
        }
        self.list_part(id, lists);
        if let Some(shape) = body {
            self.make_body(object, Some(shape))?;
        }
        if let Some(region) = region {
            let zone = self.add_zone(id, object, region)?;
            self.parts.set_zone(id, zone);
        }
        if let Some(owner) = self.objects.get_mut(object) {
            owner.parts.push(id);
            owner.signals.extend(signals.iter().copied());
        }
        self.parts.set_signals(id, signals);
        self.review_groups(object);
        Ok(id)
    }

    /// Lists a part that offers, pushes or is aimed at, by object number, then as attached.
    fn list_part(&mut self, id: PartId, lists: [bool; 3]) {
        let rank = |part: &PartId| self.parts.get(*part).map(crate::part::Slot::rank);
        let all = [&mut self.prompts, &mut self.pushes, &mut self.aimed];
        for (list, _) in all.into_iter().zip(lists).filter(|(_, on)| *on) {
            let index = list.partition_point(|other| rank(other) < rank(&id));
            list.insert(index, id);
        }
    }

    pub(crate) fn own_signal<T: Payload>(
        &mut self,
        object: ObjectId,
        name: &str,
    ) -> Result<Signal<T>, Error> {
        check_name(name)?;
        let owner = self.objects.get(object).ok_or(Error::NoSuchObject)?.name.clone();
        let signal = self.bus.declare::<T>(&path(&owner, name))?;
        self.give_signal(object, signal.id());
        Ok(signal)
    }

    pub(crate) fn own_signal_with(
        &mut self,
        object: ObjectId,
        name: &str,
        fields: Vec<Field>,
    ) -> Result<SignalId, Error> {
        check_name(name)?;
        let whole = path(self.name_of(object)?, name);
        let signal = self.bus.declare_fields(&whole, fields)?;
        self.give_signal(object, signal);
        Ok(signal)
    }

    fn give_signal(&mut self, object: ObjectId, signal: SignalId) {
        if let Some(owner) = self.objects.get_mut(object)
            && !owner.signals.contains(&signal)
        {
            owner.signals.push(signal);
        }
        self.bus.signals.lane_mut(signal).into_iter().for_each(|lane| lane.of = Some(object));
        self.review_groups(object);
    }

    pub(crate) fn attach_kind(
        &mut self,
        object: ObjectId,
        kind: &'static PartKind,
        settings: &Settings,
    ) -> Result<PartId, Error> {
        let part = (kind.build)(settings, self.rate())?;
        self.attach_part(object, part)
    }

    pub(crate) fn declare_var(&mut self, new: NewVar) -> Result<VarId, Error> {
        let scene = self.scenes.current;
        let Some(object) = new.object else { return self.vars.declare(new.name.clone(), new, scene) };
        check_name(&new.name)?;
        let owner = self.objects.get(object).ok_or(Error::NoSuchObject)?.name.clone();
        let name = self.objects.property_name(&new.name);
        let var = self.vars.declare(path(&owner, &new.name), new, None)?;
        if let Some(owner) = self.objects.get_mut(object) {
            owner.properties.push((name, var));
        }
        if let Some(var) = self.vars.var_mut(var) {
            var.property = Some(name);
        }
        self.adopt_by_binds(var, object, name);
        Ok(var)
    }
}

impl<G: 'static> World<G> {
    /// Begins an object.
    #[track_caller]
    pub fn object(&mut self, name: &str) -> NewObject<'_> {
        NewObject::new(&mut self.state, name)
    }

    /// Begins a player: an object with a body and the tag `player`. One who was here before has the number and the id
    /// that he had, and what is remembered of him.
    #[track_caller]
    pub fn player(&mut self, name: &str) -> NewObject<'_> {
        self.object(name).player()
    }

    /// Begins a manager: the one object that fills the role of that name. It is found by
    /// [`manager`](State::manager) from everywhere, and stays when scenes are unloaded.
    #[track_caller]
    pub fn manager_for(&mut self, role: &str) -> NewObject<'_> {
        self.object(role).manager()
    }

    /// Begins a scene: objects, and wires without an owner, that are made from now on belong to it, and touch nothing of
    /// other scenes. What was made before any scene began belongs to none, and is in a space of its own.
    ///
    /// It stays loaded until it is [unloaded](Self::unload). For one that is made whenever somebody comes, see
    /// [`offer_scene`](Self::offer_scene).
    pub fn begin_scene(&mut self, name: &str) -> SceneId {
        self.state.scenes.begin(name)
    }

    /// Hangs an object on another one, and puts it there as seen from that. It goes where that goes, is off while that is
    /// off, and ends with it.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`Error::HangsOnItself`]; [`Error::BadPlace`].
    pub fn hang_at(&mut self, object: ObjectId, on: ObjectId, seat: Pose) -> Result<(), Error> {
        let parent = self.state.objects.get(on).ok_or(Error::NoSuchObject)?.pose();
        check_place(parent.carry(seat).at)?;
        self.state.set_parent(object, Some(on))?;
        self.state.relocate(object, parent.carry(seat), Way::Placed, None)
    }

    /// Gives an object a part.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`Error::NameTaken`] when it has a part that gives the same signals; or what is
    /// wrong with a setting.
    pub fn attach<P: PartSpec>(&mut self, object: ObjectId, spec: P) -> Result<P::Handle, Error> {
        self.state.attach(object, spec)
    }

    /// Gives an object a part of a kind that is known only by its description.
    ///
    /// # Errors
    /// As for [`attach`](Self::attach).
    pub fn attach_kind(
        &mut self,
        object: ObjectId,
        kind: &'static PartKind,
        settings: &Settings,
    ) -> Result<PartId, Error> {
        self.state.attach_kind(object, kind, settings)
    }

    /// Gives an object a tag. Wires on a group of that tag take it in.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::BadName`].
    pub fn tag(&mut self, object: ObjectId, tag: &str) -> Result<(), Error> {
        self.state.set_tag(object, tag, true)
    }

    /// Takes a tag away. Wires on a group of that tag let it go.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::BadName`].
    pub fn untag(&mut self, object: ObjectId, tag: &str) -> Result<(), Error> {
        self.state.set_tag(object, tag, false)
    }

    /// Declares a signal that an object gives itself, as `object.name`, or finds it.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::BadName`]; or [`Error::PayloadMismatch`] when it carries other fields.
    pub fn signal_of<T: Payload>(&mut self, object: ObjectId, name: &str) -> Result<Signal<T>, Error> {
        self.state.own_signal(object, name)
    }

    /// Declares a scene-wide signal, or finds the one of that name.
    ///
    /// # Errors
    /// [`Error::BadName`]; or [`Error::PayloadMismatch`] when it carries other fields.
    pub fn signal<T: Payload>(&mut self, name: &str) -> Result<Signal<T>, Error> {
        self.state.bus.declare(name)
    }

    /// The same for fields that are known only now.
    ///
    /// # Errors
    /// As for [`signal`](Self::signal).
    pub fn signal_with(&mut self, name: &str, fields: Vec<Field>) -> Result<SignalId, Error> {
        self.state.bus.declare_fields(name, fields)
    }

    /// The signal an object gives when it is there with all the others: at start-up, or when it was spawned.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn ready_of(&mut self, object: ObjectId) -> Result<Signal<()>, Error> {
        self.state.own_signal(object, "ready")
    }

    /// Declares a variable.
    ///
    /// # Errors
    /// [`Error::BadName`] or [`Error::NameTaken`].
    pub fn var(&mut self, name: &str, first: impl Into<Value>) -> Result<VarId, Error> {
        self.declare(NewVar::new(name, first))
    }

    /// Declares a variable that has more to it: a type of its own, one for each player, or an object it is of.
    ///
    /// # Errors
    /// As for [`var`](Self::var); [`Error::WrongType`] for its first value; [`Error::NoSuchObject`].
    pub fn declare(&mut self, var: NewVar) -> Result<VarId, Error> {
        self.state.declare_var(var)
    }

    /// Keeps a variable equal to an expression from now on.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`]; [`Error::BoundTwice`]; [`Error::BindCircle`]; [`Error::RandomBind`].
    #[track_caller]
    pub fn bind(&mut self, kept: Kept, to: Expr) -> Result<BindId, Error> {
        self.bind_at(kept, to, Place::here())
    }

    /// The same for a bind that was written elsewhere.
    ///
    /// # Errors
    /// As for [`bind`](Self::bind).
    pub fn bind_at(&mut self, kept: Kept, to: Expr, place: Place) -> Result<BindId, Error> {
        self.state.bind(kept, to, place)
    }

    /// Declares a task: a sequence that other sequences run. It is given so many values, which it finds as its own
    /// first ones. Since a task runs only tasks that were declared before, none runs itself.
    ///
    /// # Errors
    /// [`Error::BadName`]; [`Error::NameTaken`]; what is wrong with a step.
    pub fn task(&mut self, name: &str, values: u8, steps: impl AsRef<[Step]>) -> Result<TaskId, Error> {
        check_path(name)?;
        let scene = self.state.scenes.current;
        let same = |task: &Task| task.name == name && !(scene.is_some() && task.scene == scene && task.ended);
        if self.state.tasks.iter().any(same) {
            return Err(Error::NameTaken { kind: "a task", name: name.into() });
        }
        let ops = compile(steps.as_ref(), &mut self.state)?;
        let task = Task { name: name.into(), values, ops, scene, ended: false };
        let places = self.state.scenes.current_mut().map(|scene| &mut scene.tasks);
        Ok(TaskId(Places::put(places, &mut self.state.tasks, task)))
    }

    /// Declares a spot; one of an object is found as `object.spot` and ends with it.
    ///
    /// # Errors
    /// [`Error::BadName`], [`Error::NameTaken`], [`Error::BadPlace`] or [`Error::NoSuchObject`].
    pub fn spot_at(
        &mut self,
        name: &str,
        object: Option<ObjectId>,
        at: Vec3,
        facing: Rotation,
    ) -> Result<SpotId, Error> {
        let name = match object {
            Some(object) => path(self.state.name_of(object)?, name),
            None => name.into(),
        };
        let scene = self.state.scenes.current.filter(|_| object.is_none());
        self.state.spots.insert(Spot { name, at, facing, object, scene })
    }

    /// Declares a mould.
    ///
    /// # Errors
    /// [`Error::BadName`], [`Error::NameTaken`], or what is wrong with a part.
    pub fn mould(&mut self, mould: Mould) -> Result<MouldId, Error> {
        self.state.declare_mould(mould)
    }

    /// The tag of that word, for expressions.
    ///
    /// # Errors
    /// [`Error::BadName`].
    pub fn tag_named(&mut self, word: &str) -> Result<Tag, Error> {
        check_name(word)?;
        Ok(self.state.objects.tag(word))
    }

    /// The tag of those with that word who are in a scene, for expressions.
    ///
    /// # Errors
    /// [`Error::BadName`] or [`Error::NoSuchScene`].
    pub fn tag_in(&mut self, scene: SceneId, word: &str) -> Result<Tag, Error> {
        check_name(word)?;
        let scene = self.state.scenes.name(scene).cloned().ok_or(Error::NoSuchScene)?;
        Ok(self.state.objects.tag_in(word, &scene))
    }

    /// The name of a variable of objects, for expressions.
    ///
    /// # Errors
    /// [`Error::BadName`].
    pub fn property_named(&mut self, word: &str) -> Result<PropertyName, Error> {
        check_name(word)?;
        Ok(self.state.objects.property_name(word))
    }

    /// Notes what the world is made of: a name, and a number that stands for its contents. A snapshot is taken only by a
    /// world made of the same.
    pub fn made_of(&mut self, what: &str, contents: u64) {
        self.state.made_of.insert(what.into(), contents);
    }

    /// The task of that name.
    pub fn find_task(&self, name: &str) -> Option<TaskId> {
        let index = self.state.tasks.iter().position(|task| task.name == name && !task.ended)?;
        u32::try_from(index).ok().map(TaskId)
    }

    /// The mould of that name.
    pub fn find_mould(&self, name: &str) -> Option<MouldId> {
        self.state.find_mould(name)
    }

    /// Makes a kind of part known before any object has one, so that tests for its states and commands to objects
    /// that are found while the world runs include it.
    pub fn know(&mut self, kind: &'static PartKind) {
        self.state.parts.number_kind(kind);
        for signal in kind.signals {
            signal.know(&mut self.state.bus);
        }
    }

    /// The same as [`signal_of`](Self::signal_of) for fields that are known only now.
    ///
    /// # Errors
    /// As for [`signal_of`](Self::signal_of).
    pub fn signal_of_with(
        &mut self,
        object: ObjectId,
        name: &str,
        fields: Vec<Field>,
    ) -> Result<SignalId, Error> {
        self.state.own_signal_with(object, name, fields)
    }

    /// Declares an effect with the fields of `T`, or finds the one of that name.
    ///
    /// # Errors
    /// [`Error::BadName`]; or [`Error::PayloadMismatch`] when it has other fields.
    pub fn effect<T: Payload>(&mut self, name: &str) -> Result<EffectId, Error> {
        self.effect_with(name, T::fields().unwrap_or_default())
    }

    /// The same for fields that are known only now.
    ///
    /// # Errors
    /// As for [`effect`](Self::effect).
    pub fn effect_with(&mut self, name: &str, fields: Vec<Field>) -> Result<EffectId, Error> {
        self.state.effects.declare(name, fields)
    }

    /// Lets a part work something else out while the world runs, in place of what the setting of that name said.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; [`Error::UnknownName`] for a part that asks for nothing of that name.
    pub fn set_asked(&mut self, part: PartId, setting: &str, expr: Expr) -> Result<(), Error> {
        self.state.parts.get(part).ok_or(Error::NoSuchPart)?;
        let asked = self
            .state
            .asked
            .get_mut(&part)
            .and_then(|asked| asked.iter_mut().find(|(name, _)| name == setting));
        let unknown = || Error::UnknownName { kind: "a setting that is worked out", found: setting.into() };
        asked.ok_or_else(unknown)?.1 = expr;
        Ok(())
    }

    /// Makes a rule: `condition` must never hold when a tick has settled. Each time it begins to, that is
    /// recorded and counted.
    #[track_caller]
    pub fn never(&mut self, condition: Expr) -> RuleId {
        self.never_at(condition, Place::here())
    }

    /// The same for a rule that was written elsewhere.
    pub fn never_at(&mut self, condition: Expr, place: Place) -> RuleId {
        let scene = self.state.scenes.current;
        let rule = Rule { never: condition, place, scene, broken: false, times_broken: 0 };
        let places = self.state.scenes.current_mut().map(|scene| &mut scene.rules);
        RuleId(Places::put(places, &mut self.state.rules, rule))
    }
}
