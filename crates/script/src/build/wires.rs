//! Wires.

use stoicheon_core::Error;

use super::{Builder, objects::object_is_made, unknown};
use crate::resolve::{Hears, InScene, OWN_SIGNALS, WirePlan};

impl<G: 'static> Builder<'_, '_, '_, G> {
    /// The wires that are settings of parts.
    pub(super) fn part_wires(&mut self) -> Result<(), Error> {
        for index in 0..self.resolver.names.objects.len() {
            let object = &self.resolver.names.objects[index];
            if object_is_made(object.role) && self.is_own(object.scope) {
                for plan in self.resolver.part_wires(index, &ids!(self)) {
                    self.wire(plan)?;
                }
            }
        }
        Ok(())
    }

    pub(super) fn wire(&mut self, plan: WirePlan) -> Result<(), Error> {
        let owner = plan.owner.map(|owner| self.resolver.names.objects[owner].id);
        self.started_signals(&plan.hears)?;
        match &plan.hears {
            Hears::One(name) if self.world.find_signal(name).is_none() => {
                return Err(unknown("a signal", name));
            }
            _ => {}
        }
        let new = plan.new_wire(&ids!(self));
        self.world.wire(&new, owner).map(|_| ())
    }

    /// An object tells that it has started only when somebody listens.
    pub(super) fn started_signals(&mut self, hears: &Hears) -> Result<(), Error> {
        match hears {
            Hears::One(name) => {
                let of_scene = self.scene.as_ref().and_then(|scene| {
                    name.strip_prefix(scene.as_str()).and_then(|rest| rest.strip_prefix('.'))
                });
                let own = of_scene.filter(|name| OWN_SIGNALS.contains(name));
                if let (Some(own), Some(scene)) = (own, self.scene_id()) {
                    self.world.signal_in(scene, own)?;
                } else if let Some(object) =
                    name.strip_suffix(".started").and_then(|name| self.world.find(name))
                {
                    self.world.started_of(object)?;
                }
            }
            Hears::Every(tag, signal) if signal == "started" => {
                let tag = self.tag(tag)?;
                let members: Vec<_> = self.world.tagged(tag).collect();
                for object in members {
                    self.world.started_of(object)?;
                }
            }
            Hears::Every(..) | Hears::Of(..) => {}
        }
        Ok(())
    }
}
