//! Start-up: everything is there before anything is told.

use crate::{
    base::{doing::Doing, error::Error, ids::ObjectId, names::path},
    part::contract::Part,
    state::State,
    trace::record::Phase,
    world::World,
};

impl<G: 'static> World<G> {
    /// Start-up: all objects are there, then all wires, then each object in order is told that it has started, and
    /// at last the scene.
    pub(crate) fn start(&mut self, game: &mut G) -> Result<(), Error> {
        if self.state.moment.started {
            return Ok(());
        }
        self.state.moment.started = true;
        self.in_tick = true;
        self.state.bus.trace.start_at(self.state.moment.clock.now);
        self.enter(Phase::Start);
        self.state.bus.runaway.restart_statements();
        self.state.update_binds();
        self.state.tell_started();
        let told = self.state.bus.emit(self.own.started, (), Doing::default());
        let here: Vec<_> = self.state.players().collect();
        here.into_iter().for_each(|player| self.state.tell_joined(player, None));
        let settled = told.map_err(Error::from).and_then(|()| self.settle(game));
        self.upkeep();
        self.in_tick = false;
        settled
    }
}

impl State {
    fn tell_started(&mut self) {
        let (managers, others): (Vec<_>, Vec<_>) =
            self.moment.objects.iter().partition(|(_, object)| object.manages);
        let order: Vec<_> = managers.into_iter().chain(others).map(|(id, _)| id).collect();
        for id in order {
            self.tell_started_of(id, Doing::default());
        }
        self.moment.spawned.clear();
        self.tell_fresh_scenes();
    }

    /// Scenes that were loaded have started when their objects have been told so.
    pub(crate) fn tell_fresh_scenes(&mut self) {
        for scene in std::mem::take(&mut self.moment.scenes.fresh) {
            let name = self.moment.scenes.name(scene).map(|name| path(name, "started"));
            if let Some(signal) = name.and_then(|name| self.bus.signals.find(&name))
                && let Err(error) = self.bus.emit_values(signal, &[], Doing::default())
            {
                self.fault(&error, Doing::default());
            }
        }
    }

    pub(crate) fn tell_started_of(&mut self, id: ObjectId, doing: Doing) {
        let Some(object) = self.moment.objects.get_mut(id) else { return };
        object.fresh = false;
        let (name, parts) = (path(&object.name, "started"), object.parts.clone());
        self.look_again(id);
        for part in parts {
            self.part_told(part, doing, &[], Part::started);
        }
        if let Some(signal) = self.bus.signals.find(&name)
            && let Err(error) = self.bus.emit_values(signal, &[], doing)
        {
            self.fault(&error, doing);
        }
    }
}
