//! Pushes: what gives those inside a zone their velocity.

use std::cell::Cell;

use glam::{DVec3, Vec3};

use crate::{
    act::scope::Scope,
    base::ids::{ObjectId, PartId},
    part::{contract::Part, offers::Current},
    plan::expr::Expr,
    state::State,
};

impl State {
    /// What a part wants to be worked out while the world runs.
    pub(crate) fn asked_of(&self, part: PartId, name: &str) -> Option<&Expr> {
        self.plan.asked.get(&part)?.iter().find(|(asked, _)| asked == name).map(|(_, expr)| expr)
    }

    /// Before bodies move: pushes by object number, each on those inside its object's zones, by body number.
    pub(crate) fn push(&mut self) {
        for index in 0..self.plan.pushes.len() {
            let part = self.plan.pushes[index];
            let Some(current) = self.parts.part(part).and_then(Part::current).copied() else { continue };
            let Some(at) = self.object_of(part) else { continue };
            let Some(object) = self.moment.objects.get(at).filter(|object| object.enabled) else { continue };
            if self.moment.scenes.is_frozen(object.scene) {
                continue;
            }
            let zones = object.parts.clone();
            for zone in zones {
                let inside: Vec<ObjectId> = self.inside(zone).collect();
                for body in inside {
                    self.push_one(part, &current, at, body);
                }
            }
        }
    }

    fn push_one(&mut self, part: PartId, current: &Current, at: ObjectId, body: ObjectId) {
        let (Some(object), Some(pushed)) = (self.moment.objects.get(at), self.moment.objects.get(body))
        else {
            return;
        };
        // A body that was put elsewhere since the zones were looked at is no longer there.
        let seen = (self.moment.clock.now.0 * 2).saturating_sub(1);
        if pushed.body.as_ref().is_some_and(|body| body.displaced >= seen && body.displaced > 0) {
            return;
        }
        let eval_fault = Cell::new(None);
        let by = self.asked_of(part, "by").map(|by| Scope::of(self, &eval_fault).by(body).value(by));
        let mut by = by.and_then(|by| by.as_number()).unwrap_or(0.0);
        if let Some(falloff) = current.falloff {
            let away = (pushed.at.as_dvec3() - object.at.as_dvec3()).length();
            by *= (1.0 - away / falloff).max(0.0);
        }
        let along: DVec3 = object.facing.turn(current.along).as_dvec3() * by;
        let before = pushed.body.as_ref().map_or(Vec3::ZERO, |body| body.velocity);
        let velocity =
            if current.adds { before.as_dvec3() + along * self.moment.clock.rate.step() } else { along };
        let velocity = velocity.as_vec3();
        let eval_fault = eval_fault.get();
        self.note_eval_fault(eval_fault, None);
        if velocity != before
            && velocity.is_finite()
            && let Ok(pushed) = self.body_mut(body)
        {
            pushed.velocity = velocity;
            self.set_going(body);
        }
    }

    /// A body that has left a zone of an object whose push stills is still again.
    pub(crate) fn still(&mut self, zone: PartId, body: ObjectId) {
        let Some(object) = self.object_of(zone).and_then(|object| self.moment.objects.get(object)) else {
            return;
        };
        let stills = object
            .parts
            .iter()
            .any(|part| self.parts.part(*part).and_then(Part::current).is_some_and(|current| current.stills));
        if stills && let Ok(body) = self.body_mut(body) {
            body.velocity = Vec3::ZERO;
        }
    }
}
