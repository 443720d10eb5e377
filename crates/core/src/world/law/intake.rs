//! Phase 1, intake: what the host handed in since the last tick takes effect, in the order it was handed in.

use glam::Vec3;

use crate::{
    base::{
        doing::{Doing, Way},
        error::Error,
        geometry::Pose,
        ids::ObjectId,
        value::Values,
    },
    moment::{queue::Emission, run::Run},
    trace::record::Event,
    world::{Key, World, input::Input},
};

impl<G: 'static> World<G> {
    /// Phase 1: what was handed in takes effect, in the order it was handed in.
    pub(crate) fn intake(&mut self) {
        let mut inputs = std::mem::take(&mut self.inputs.all);
        for input in inputs.drain(..) {
            self.take_in(input);
        }
        // What is spread over several ticks was put back meanwhile.
        if self.inputs.all.is_empty() {
            self.inputs.all = inputs;
        }
    }

    /// The host moved a body: this tick's share of the way. The rest follows in the next ticks of the frame.
    fn take_in_move(&mut self, id: ObjectId, to: Vec3) -> Result<(), Error> {
        let (began, left) = (self.frame_began, self.ticks_left);
        let first = self.state.moment.clock.now.0 <= began.0 + 1;
        let Some(object) = self.state.moment.objects.get(id) else {
            // It may have ended in an earlier tick of this frame.
            return if first { Err(Error::NoSuchObject) } else { Ok(()) };
        };
        let Some(body) = &object.body else { return Err(Error::NotABody { name: object.name.clone() }) };
        // Put or sent elsewhere in an earlier tick of this frame, it stays there.
        if !first && body.facts.displaced / 2 > began.0 {
            return Ok(());
        }
        let (from, facing) = (object.at, object.facing);
        let mut at = to;
        if left > 1 {
            self.inputs.push(Input::Move { body: id, at: to });
            at = (from.as_dvec3() + (to.as_dvec3() - from.as_dvec3()) / f64::from(left)).as_vec3();
        }
        self.state.bus.trace.feed(&(id, at));
        self.state.relocate(id, Pose { at, facing }, Way::Led, None)
    }

    fn take_in(&mut self, input: Input) {
        let (own, state) = (self.own, &mut self.state);
        let nobody = Doing::default();
        let done = match input {
            Input::Put { object, at } => {
                let cause = state.bus.trace.note(None, 0, Event::Placed { body: object, at });
                state.put(object, at, cause)
            }
            Input::Move { body, at } => self.take_in_move(body, at),
            Input::Face { object, facing } => state.face(object, facing, None),
            Input::Drive { body, velocity } => state.drive(body, velocity, nobody),
            Input::Touch { zone, body, inside } => state.tell_zone(zone, body, inside),
            Input::Reshape { part, shape } => state.reshape(part, &shape),
            Input::Point(pointing) => state.point(&pointing),
            Input::Hang { object, on } => state.carry(object, on),
            Input::Leave { player } => {
                let cause = state.bus.trace.note(None, 0, Event::PlayerLeft { player });
                state.leave(player, Doing { cause, ..nobody })
            }
            Input::Walk { body, to, speed } => {
                let cause = state.bus.trace.note(None, 0, Event::SetOut { body, to });
                state.set_out(body, to, speed, cause)
            }
            Input::Key { who, key, down } => {
                let cause = state.bus.trace.note(None, 0, Event::Key { who, key: key.clone(), down });
                state.note_key(who, &key, down, cause);
                let signal = if down { own.pressed } else { own.released };
                let doing = Doing::of(Some(who), cause);
                let told = state.bus.emit(signal, Key { key: key.clone() }, doing).map_err(Error::from);
                state.tell_key(who, key, down, doing);
                told
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
            Input::Command { part, command, who, args } => {
                state.command_with(part, command, &args, Doing { who, ..nobody })
            }
            Input::Set { var, of, to } => state.set_var(var, of, to, nobody),
            Input::Bring { body, scene, spot } => {
                state.send_away(body, &scene, &spot, nobody);
                Ok(())
            }
            Input::Change { part, setting, to } => state.set_setting(part, &setting, to, nobody),
            Input::Do { wire } => {
                let now = state.now();
                state.run(Run::new(wire, own.started.id(), Values::default(), nobody, now));
                state.cut(wire)
            }
            Input::Unload { scene } => {
                state.moment.scenes.unloading.push(scene);
                Ok(())
            }
        };
        if let Err(error) = done {
            self.state.fault(&error, nobody);
        }
    }
}
