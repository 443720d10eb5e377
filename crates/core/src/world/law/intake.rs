//! Phase 1, intake: what the host handed in since the last tick takes effect, in the order it was handed in.

use crate::{
    base::{doing::Doing, error::Error},
    moment::queue::Emission,
    trace::record::Event,
    world::{Key, World, input::Input},
};

impl<G: 'static> World<G> {
    /// Phase 1: what was handed in takes effect, in the order it was handed in.
    pub(crate) fn intake(&mut self) {
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
                state.hear_of(object);
                state.put(object, at, cause)
            }
            Input::Move { body, at } => {
                state.hear_of(body);
                state.bus.trace.feed(&(body, at));
                state.move_body(body, at)
            }
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
            Input::Unload { scene } => {
                state.moment.scenes.unloading.push(scene);
                Ok(())
            }
        };
        if let Err(error) = done {
            state.fault(&error, nobody);
        }
    }
}
