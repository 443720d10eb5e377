//! Wires.

use stoicheon_core::{Error, Group, Values};

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
        let WirePlan {
            hears,
            owner,
            by,
            guard,
            order,
            cooldown,
            delay,
            times,
            busy,
            busy_per_who,
            during,
            steps,
            span,
        } = plan;
        let place = self.sources.place(span);
        let owner = owner.map(|owner| self.resolver.names.objects[owner].id);
        self.started_signals(&hears)?;
        let mut on = match &hears {
            Hears::One(name) => {
                if self.world.find_signal(name).is_none() {
                    return Err(unknown("a signal", name));
                }
                let signal = self.world.signal::<Values>(name)?;
                self.world.on(signal)
            }
            Hears::Every(tag, signal) => {
                let group = Group::tagged(tag);
                let group = match self.scene_id() {
                    Some(scene) => group.in_scene(scene),
                    None => group,
                };
                self.world.on_every_named::<Values>(group, signal)
            }
            // Only a mould's wires and those of statements listen to what is known only then.
            Hears::Of(_, name) => return Err(unknown("a signal", name)),
        };
        on = on.order(order).written_at(place);
        on = if busy_per_who { on.while_running_per_who(busy) } else { on.while_running(busy) };
        on = by.iter().fold(on, |on, tag| on.by(tag));
        if let Some(owner) = owner {
            on = on.owned_by(owner);
        }
        if let Some(guard) = guard {
            on = on.when(guard);
        }
        if let Some((stages, stage)) = during {
            on = on.during(stages, &stage);
        }
        if let Some(times) = times {
            on = on.times(times.into());
        }
        if let Some(delay) = delay {
            on = on.delay(delay);
        }
        on = match cooldown {
            Some((span, true)) => on.cooldown_per_who(span),
            Some((span, false)) => on.cooldown(span),
            None => on,
        };
        on.run_steps(steps).map(|_| ())
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
