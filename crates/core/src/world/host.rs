//! What the host hands in. It is checked here and takes effect in the intake phase of the next tick, in the order
//! it was handed in.

use glam::Vec3;
use serde::{Deserialize, Serialize};

use super::{Key, World};
use crate::{
    act::check_place,
    bus::Doing,
    error::{Error, NoSuchSignal},
    object::ObjectId,
    part::PartId,
    payload::Payload,
    queue::Emission,
    scene::SceneId,
    signal::Signal,
    trace::Event,
    value::{Text, Value},
    var::VarId,
};

/// One thing the host handed in.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Input {
    Put {
        object: ObjectId,
        at: Vec3,
    },
    Walk {
        body: ObjectId,
        to: Vec3,
        speed: f64,
    },
    Key {
        who: ObjectId,
        key: Text,
        down: bool,
    },
    /// Its payload waits in its store already.
    Emission(Emission),
    Switch {
        object: ObjectId,
        on: bool,
    },
    Destroy {
        object: ObjectId,
    },
    Command {
        part: PartId,
        command: u8,
    },
    Set {
        var: VarId,
        of: Option<ObjectId>,
        to: Value,
    },
    Unload {
        scene: SceneId,
    },
}

impl<G: 'static> World<G> {
    fn hand_in(&mut self, input: Input) -> Result<(), Error> {
        self.check_whole()?;
        self.inputs.push(input);
        Ok(())
    }

    fn check_object(&self, object: ObjectId) -> Result<(), Error> {
        self.state.objects.get(object).map(|_| ()).ok_or(Error::NoSuchObject)
    }

    /// Emits a signal, caused by nobody.
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`].
    pub fn emit<T: Payload>(&mut self, signal: Signal<T>, payload: T) -> Result<(), Error> {
        self.emit_for(None, signal, payload)
    }

    /// Emits a signal that goes back to somebody.
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`].
    pub fn emit_for<T: Payload>(
        &mut self,
        who: Option<ObjectId>,
        signal: Signal<T>,
        payload: T,
    ) -> Result<(), Error> {
        self.check_whole()?;
        let store = self.state.bus.open_lane(signal.id())?.store;
        if !self.state.bus.payloads.push(store, payload) {
            return Err(NoSuchSignal.into());
        }
        self.inputs.push(Input::Emission(Emission {
            signal: signal.id(),
            who,
            cause: None,
            by: None,
            parent: 0,
        }));
        Ok(())
    }

    /// Puts an object somewhere. A body does not pass what lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`] or [`Error::BadPlace`].
    pub fn put(&mut self, object: ObjectId, at: Vec3) -> Result<(), Error> {
        self.check_object(object)?;
        check_place(at)?;
        self.hand_in(Input::Put { object, at })
    }

    /// Sends a body on a straight walk, at so many scene units per second. It passes whatever lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`], [`Error::NotABody`], [`Error::BadPlace`], or [`Error::BadNumber`] for a speed
    /// that is not above zero.
    pub fn walk(&mut self, body: ObjectId, to: Vec3, speed: f64) -> Result<(), Error> {
        check_place(to)?;
        let object = self.state.objects.get(body).ok_or(Error::NoSuchObject)?;
        if object.body.is_none() {
            return Err(Error::NotABody { name: object.name.clone() });
        }
        if !(speed > 0.0 && speed.is_finite()) {
            let (setting, expected) = ("the speed of a walk", "a number above 0");
            return Err(Error::BadNumber { setting, expected, found: speed });
        }
        self.hand_in(Input::Walk { body, to, speed })
    }

    /// Whether a body is on a walk.
    pub fn is_walking(&self, body: ObjectId) -> bool {
        let pending = |input: &Input| matches!(input, Input::Walk { body: other, .. } if *other == body);
        let body = self.state.objects.get(body).and_then(|object| object.body.as_ref());
        body.is_some_and(|body| body.course.is_some()) || self.inputs.iter().any(pending)
    }

    /// A player presses a key.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn press(&mut self, who: ObjectId, key: &str) -> Result<(), Error> {
        self.check_object(who)?;
        self.hand_in(Input::Key { who, key: key.into(), down: true })
    }

    /// A player releases a key.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn release(&mut self, who: ObjectId, key: &str) -> Result<(), Error> {
        self.check_object(who)?;
        self.hand_in(Input::Key { who, key: key.into(), down: false })
    }

    /// Enables an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn enable(&mut self, object: ObjectId) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Switch { object, on: true })
    }

    /// Disables an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn disable(&mut self, object: ObjectId) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Switch { object, on: false })
    }

    /// Ends an object.
    ///
    /// # Errors
    /// [`Error::NoSuchObject`].
    pub fn destroy(&mut self, object: ObjectId) -> Result<(), Error> {
        self.check_object(object)?;
        self.hand_in(Input::Destroy { object })
    }

    /// Tells a part what to do; `command` is a number of its kind's list.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`].
    pub fn command(&mut self, part: PartId, command: u8) -> Result<(), Error> {
        self.state.parts.get(part).ok_or(Error::NoSuchPart)?;
        self.hand_in(Input::Command { part, command })
    }

    /// Sets a variable.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`], or [`Error::WrongType`] when it holds something else.
    pub fn set(&mut self, var: VarId, to: impl Into<Value>) -> Result<(), Error> {
        let to = to.into();
        let to = self.state.vars.check(var, to)?;
        self.state.check_free(var)?;
        self.hand_in(Input::Set { var, of: None, to })
    }

    /// Sets a variable that each player has, for one of them.
    ///
    /// # Errors
    /// As for [`set`](Self::set), and [`Error::NoSuchObject`].
    pub fn set_of(&mut self, var: VarId, who: ObjectId, to: impl Into<Value>) -> Result<(), Error> {
        self.check_object(who)?;
        let to = self.state.vars.check(var, to.into())?;
        self.state.check_free(var)?;
        self.hand_in(Input::Set { var, of: Some(who), to })
    }

    /// Unloads a scene in the upkeep of the next tick: its objects are destroyed, by number, and its wires are cut.
    /// Managers stay.
    ///
    /// # Errors
    /// [`Error::NoSuchScene`] when it was unloaded already.
    pub fn unload(&mut self, scene: SceneId) -> Result<(), Error> {
        if !self.state.scenes.is_loaded(scene) {
            return Err(Error::NoSuchScene);
        }
        self.hand_in(Input::Unload { scene })
    }

    /// Phase 1: what was handed in takes effect, in the order it was handed in.
    pub(super) fn intake(&mut self) {
        let mut inputs = std::mem::take(&mut self.inputs);
        for input in inputs.drain(..) {
            self.take_in(input);
        }
        self.inputs = inputs;
    }

    fn take_in(&mut self, input: Input) {
        let (own, state) = (self.own, &mut self.state);
        let nobody = Doing::default();
        let done = match input {
            Input::Put { object, at } => {
                let cause = state.bus.trace.note(None, 0, Event::Placed { body: object, at });
                state.put(object, at, cause)
            }
            Input::Walk { body, to, speed } => {
                let cause = state.bus.trace.note(None, 0, Event::SetOut { body, to });
                state.set_out(body, to, speed, cause)
            }
            Input::Key { who, key, down } => {
                let cause = state.bus.trace.note(None, 0, Event::Key { who, key: key.clone(), down });
                let signal = if down { own.pressed } else { own.released };
                let doing = Doing { who: Some(who), cause, by: None };
                state.bus.emit(signal, Key { key }, doing).map_err(Error::from)
            }
            Input::Emission(mut emission) => {
                let Emission { signal, who, .. } = emission;
                let salt = state.bus.signals.lane(signal).map_or(0, |lane| lane.hash);
                emission.cause = state.bus.trace.note(None, salt, Event::HandedIn { signal, who });
                state.bus.queue.push(emission);
                Ok(())
            }
            Input::Switch { object, on } => state.switch(object, on, nobody),
            Input::Destroy { object } => state.destroy(object, nobody),
            Input::Command { part, command } => state.command(part, command, nobody),
            Input::Set { var, of, to } => state.set_var(var, of, to, nobody),
            Input::Unload { scene } => {
                state.scenes.unloading.push(scene);
                Ok(())
            }
        };
        if let Err(error) = done {
            state.fault(&error, nobody);
        }
    }
}
