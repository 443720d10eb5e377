//! Making a scene: objects, parts, signals, variables, effects, rules. `new_object` and `attach` do what these begin.

use glam::Vec3;

use crate::{
    act::compile::compile,
    base::{
        doing::Way,
        error::{BuildError, Error},
        geometry::{Pose, Rotation, check_place},
        ids::{
            BindId, EffectId, MouldId, ObjectId, PartId, PropertyName, RoutineId, RuleId, SceneId, SignalId,
            SpotId, Tag, VarId, WireId,
        },
        names::{check_name, check_path, path},
        payload::{Field, Payload},
        place::Place,
        signal::Signal,
        value::Value,
    },
    moment::{scenes::ListPlaces, spots::Spot},
    part::{contract::PartSpec, kind::PartKind, mould::Mould, setting::Settings},
    plan::{
        binds::Kept, expr::Expr, new_var::NewVar, ops::Routine, patterns::NewWire, rules::Rule, steps::Step,
    },
    world::{World, new_object::NewObject},
};

impl<G: 'static> World<G> {
    /// Begins an object.
    #[track_caller]
    pub fn object(&mut self, name: &str) -> NewObject<'_> {
        NewObject::new(&mut self.state, name)
    }

    /// Begins a player: an object with a body and the tag `player`. One who was here before has the number and the id
    /// that they had, and what is remembered of them.
    #[track_caller]
    pub fn player(&mut self, name: &str) -> NewObject<'_> {
        self.object(name).player()
    }

    /// Begins a manager: the one object that fills the role of that name. It is found by
    /// [`manager`](crate::State::manager) from everywhere, and stays when scenes are unloaded.
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
        self.state.moment.scenes.begin(name)
    }

    /// Hangs an object on another one, and puts it there as seen from that. It goes where that goes, is off while that is
    /// off, and ends with it.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`BuildError::HangsOnItself`]; [`BuildError::BadPlace`].
    pub fn hang_at(&mut self, object: ObjectId, on: ObjectId, seat: Pose) -> Result<(), Error> {
        let parent = self.state.moment.objects.get(on).ok_or(Error::NoSuchObject)?.pose();
        check_place(parent.carry(seat).at)?;
        self.state.set_parent(object, Some(on))?;
        self.state.relocate(object, parent.carry(seat), Way::Placed, None)
    }

    /// Gives an object a part.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; [`BuildError::NameTaken`] when it has a part that gives the same signals; or what is
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
    /// [`Error::NoSuchObject`] or [`BuildError::BadName`].
    pub fn tag(&mut self, object: ObjectId, tag: &str) -> Result<(), Error> {
        self.state.set_tag(object, tag, true)
    }

    /// Takes a tag away. Wires on a group of that tag let it go.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`BuildError::BadName`].
    pub fn untag(&mut self, object: ObjectId, tag: &str) -> Result<(), Error> {
        self.state.set_tag(object, tag, false)
    }

    /// Declares a signal that an object gives itself, as `object.name`. Declaring it once more with the same fields gives
    /// the same signal.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`BuildError::BadName`]; or [`BuildError::PayloadMismatch`] when it carries other fields.
    pub fn declare_signal_of<T: Payload>(
        &mut self,
        object: ObjectId,
        name: &str,
    ) -> Result<Signal<T>, Error> {
        self.state.own_signal(object, name)
    }

    /// Declares a scene-wide signal. Declaring it once more with the same fields gives the same signal.
    ///
    /// # Errors
    /// [`BuildError::BadName`]; or [`BuildError::PayloadMismatch`] when it carries other fields.
    pub fn declare_signal<T: Payload>(&mut self, name: &str) -> Result<Signal<T>, Error> {
        self.state.bus.declare(name)
    }

    /// The same for fields that are known only now.
    ///
    /// # Errors
    /// As for [`declare_signal`](Self::declare_signal).
    pub fn declare_signal_with(&mut self, name: &str, fields: Vec<Field>) -> Result<SignalId, Error> {
        self.state.bus.declare_fields(name, fields)
    }

    /// The signal of that name: one that was declared, or `object.name` for one that an object gives.
    ///
    /// ```
    /// use stoicheon_core::World;
    ///
    /// let mut world = World::<()>::new();
    /// world.declare_signal::<()>("rung")?;
    /// assert!(world.signal::<()>("rung").is_ok());
    /// let error = world.signal::<()>("rugn").unwrap_err();
    /// assert!(error.to_string().ends_with("did you mean \"rung\"?"));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`Error::NoSignalOfName`]; or [`BuildError::PayloadMismatch`] when it carries other fields than a `T` has.
    pub fn signal<T: Payload>(&mut self, name: &str) -> Result<Signal<T>, Error> {
        self.state.bus.find(name)
    }

    /// The signal of that name that an object gives.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`]; and as for [`signal`](Self::signal).
    pub fn signal_of<T: Payload>(&mut self, object: ObjectId, name: &str) -> Result<Signal<T>, Error> {
        self.state.signal_of(object, name)
    }

    /// The signal an object gives when it is there with all the others: at start-up, or when it was spawned.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn started_of(&mut self, object: ObjectId) -> Result<Signal<()>, Error> {
        self.state.own_signal(object, "started")
    }

    /// Declares a variable.
    ///
    /// # Errors
    /// [`BuildError::BadName`] or [`BuildError::NameTaken`].
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
    /// [`Error::NoSuchVar`]; [`BuildError::BoundTwice`]; [`BuildError::BindCircle`]; [`BuildError::RandomBind`].
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

    /// Declares a routine: a sequence that other sequences run. It is given so many values, which it finds as its own
    /// first ones. Since a routine runs only routines that were declared before, none runs itself.
    ///
    /// # Errors
    /// [`BuildError::BadName`]; [`BuildError::NameTaken`]; what is wrong with a step.
    pub fn routine(&mut self, name: &str, values: u8, steps: impl AsRef<[Step]>) -> Result<RoutineId, Error> {
        check_path(name)?;
        let scene = self.state.moment.scenes.current;
        let same = |routine: &Routine| routine.name == name && !(routine.scene == scene && routine.ended);
        if self.state.plan.routines.iter().any(same) {
            return Err(Error::Build(BuildError::NameTaken { kind: "a routine", name: name.into() }));
        }
        let ops = compile(steps.as_ref(), &mut self.state)?;
        let routine = Routine { name: name.into(), values, ops, scene, ended: false };
        let places = self.state.moment.scenes.current_mut().map(|scene| &mut scene.routines);
        Ok(RoutineId(ListPlaces::put(places, self.state.plan.edit().routines.edit(), routine)))
    }

    /// Declares a spot; one of an object is found as `object.spot` and ends with it.
    ///
    /// # Errors
    /// [`BuildError::BadName`], [`BuildError::NameTaken`], [`BuildError::BadPlace`] or [`Error::NoSuchObject`].
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
        let scene = self.state.moment.scenes.current.filter(|_| object.is_none());
        self.state.plan.edit().spots.insert(Spot { name, at, facing, object, scene })
    }

    /// Declares a mould.
    ///
    /// # Errors
    /// [`BuildError::BadName`], [`BuildError::NameTaken`], or what is wrong with a part.
    pub fn mould(&mut self, mould: Mould) -> Result<MouldId, Error> {
        self.state.declare_mould(mould)
    }

    /// Makes a wire that was described, with a sequence for a reaction. It sleeps and ends with its owner, if it has one.
    ///
    /// ```
    /// use stoicheon_core::{NewWire, Step, World};
    /// let mut world = World::<()>::new();
    /// let [rung, heard] = [world.declare_signal::<()>("rung")?, world.declare_signal::<()>("heard")?];
    /// let answer = Step::Emit { signal: heard.id(), values: Vec::new() };
    /// world.wire(&NewWire::on(rung).run([answer]), None)?;
    /// world.emit(rung, ())?;
    /// world.step(&mut ())?;
    /// assert_eq!(world.delivered(heard), 1);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// As for [`On::run_steps`](crate::On::run_steps), and [`Error::NoSignalOfName`] for an object that gives no such signal.
    pub fn wire(&mut self, new: &NewWire, owner: Option<ObjectId>) -> Result<WireId, Error> {
        self.state.wire(new, owner)
    }

    /// Gives a mould its wires, in place of those it had. Each object that is made after it from now on has them for its own: they
    /// sleep and end with it, and in them [`Expr::Own`] is that object.
    ///
    /// # Errors
    /// [`Error::NoSuchMould`], [`Error::NoSuchRoutine`], and what is wrong with a span of time or a step.
    pub fn wire_mould(&mut self, mould: MouldId, wires: impl AsRef<[NewWire]>) -> Result<(), Error> {
        self.state.wire_mould(mould, wires.as_ref())
    }

    /// The tag of that word, for expressions.
    ///
    /// # Errors
    /// [`BuildError::BadName`].
    pub fn tag_named(&mut self, word: &str) -> Result<Tag, Error> {
        check_name(word)?;
        Ok(self.state.moment.objects.tag(word))
    }

    /// The tag of those with that word who are in a scene, for expressions.
    ///
    /// # Errors
    /// [`BuildError::BadName`] or [`Error::NoSuchScene`].
    pub fn tag_in(&mut self, scene: SceneId, word: &str) -> Result<Tag, Error> {
        check_name(word)?;
        let scene = self.state.moment.scenes.name(scene).cloned().ok_or(Error::NoSuchScene)?;
        Ok(self.state.moment.objects.tag_in(word, &scene))
    }

    /// The name of a variable of objects, for expressions.
    ///
    /// # Errors
    /// [`BuildError::BadName`].
    pub fn property_named(&mut self, word: &str) -> Result<PropertyName, Error> {
        check_name(word)?;
        Ok(self.state.moment.objects.property_name(word))
    }

    /// Notes what the world is made of: a name, and a number that stands for its contents. A snapshot is taken only by a
    /// world made of the same.
    pub fn made_of(&mut self, what: &str, contents: u64) {
        self.state.plan.edit().made_of.edit().insert(what.into(), contents);
    }

    /// Whether [`made_of`](Self::made_of) was told of that before, and with which contents.
    pub fn is_made_of(&self, what: &str) -> Option<u64> {
        self.state.plan.made_of.get(what).copied()
    }

    /// Makes a kind of part known before any object has one, so that tests for its states and commands to objects
    /// that are found while the world runs include it.
    pub fn know(&mut self, kind: &'static PartKind) {
        self.state.parts.number_kind(kind);
        for signal in kind.signals {
            signal.know(&mut self.state.bus);
        }
    }

    /// The same as [`declare_signal_of`](Self::declare_signal_of) for fields that are known only now.
    ///
    /// # Errors
    /// As for [`declare_signal_of`](Self::declare_signal_of).
    pub fn declare_signal_of_with(
        &mut self,
        object: ObjectId,
        name: &str,
        fields: Vec<Field>,
    ) -> Result<SignalId, Error> {
        self.state.own_signal_with(object, name, fields)
    }

    /// Declares an effect with the fields of `T`. Declaring it once more with the same fields gives the same effect.
    ///
    /// # Errors
    /// [`BuildError::BadName`]; or [`BuildError::PayloadMismatch`] when it has other fields.
    pub fn declare_effect<T: Payload>(&mut self, name: &str) -> Result<EffectId, Error> {
        self.declare_effect_with(name, T::fields().unwrap_or_default())
    }

    /// The effect of that name.
    ///
    /// # Errors
    /// [`Error::NoEffectOfName`]; or [`BuildError::PayloadMismatch`] when it has other fields than a `T`.
    pub fn effect<T: Payload>(&self, name: &str) -> Result<EffectId, Error> {
        self.state.moment.effects.find_as(name, T::fields())
    }

    /// The same as [`declare_effect`](Self::declare_effect) for fields that are known only now.
    ///
    /// # Errors
    /// As for [`declare_effect`](Self::declare_effect).
    pub fn declare_effect_with(&mut self, name: &str, fields: Vec<Field>) -> Result<EffectId, Error> {
        self.state.moment.effects.declare(name, fields)
    }

    /// Lets a part work something else out while the world runs, in place of what the setting of that name said.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; [`Error::UnknownName`] for a part that asks for nothing of that name.
    pub fn set_asked(&mut self, part: PartId, setting: &str, expr: Expr) -> Result<(), Error> {
        self.state.parts.get(part).ok_or(Error::NoSuchPart)?;
        if self.state.asked_of(part, setting).is_none() {
            return Err(Error::UnknownName { kind: "a setting that is worked out", found: setting.into() });
        }
        self.state.watch_offer(part, false);
        let mut asked = self.state.plan.edit().asked.edit().get_mut(&part).into_iter().flatten();
        if let Some((_, asked)) = asked.find(|(name, _)| name == setting) {
            *asked = expr;
        }
        self.state.watch_offer(part, true);
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
        let scene = self.state.moment.scenes.current;
        let rule = Rule { never: condition, place, scene, broken: false, times_broken: 0, ended: false };
        let places = self.state.moment.scenes.current_mut().map(|scene| &mut scene.rules);
        RuleId(ListPlaces::put(places, self.state.plan.edit().rules.edit(), rule))
    }
}
