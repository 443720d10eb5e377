//! Pushes: what gives those inside a zone their velocity.

use std::{cell::Cell, collections::BTreeSet};

use glam::{DVec3, Vec3};
use smallvec::SmallVec;

use crate::{
    act::scope::Scope,
    base::{
        ids::{ObjectId, PartId},
        shared::Shared,
    },
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
        if self.moment.pushing.is_empty() {
            return;
        }
        let pushing = self.moment.pushing.clone();
        let idle = |turn: &&((u32, u32), PartId)| !self.push_all(turn.1);
        let idle: SmallVec<[_; 4]> = pushing.iter().filter(idle).copied().collect();
        drop(pushing);
        for turn in idle {
            self.moment.pushing.edit().remove(&turn);
        }
    }

    /// One push on all it pushes; false once nobody is inside.
    fn push_all(&mut self, part: PartId) -> bool {
        let Some(current) = self.parts.part(part).and_then(Part::current).copied() else { return false };
        let Some(at) = self.object_of(part) else { return false };
        let Some(object) = self.moment.objects.get(at) else { return false };
        let rests = !object.enabled || self.moment.scenes.is_frozen(object.scene);
        let zones = object.parts.clone();
        let mut inside: Vec<ObjectId> = Vec::new();
        for zone in zones {
            inside.extend(self.inside(zone));
        }
        let any = !inside.is_empty();
        if !rests {
            inside.into_iter().for_each(|body| self.push_one(part, &current, at, body));
        }
        any
    }

    /// Somebody came into a zone of an object: its pushes push them from the next tick on.
    pub(crate) fn set_pushing(&mut self, object: ObjectId) {
        if self.plan.pushes.is_empty() {
            return;
        }
        let Some(object) = self.moment.objects.get(object) else { return };
        for part in &object.parts {
            if self.parts.part(*part).is_some_and(|part| part.current().is_some())
                && let Some(slot) = self.parts.get(*part)
            {
                self.moment.pushing.edit().insert((slot.rank(), *part));
            }
        }
    }

    /// Finds the pushes that may push somebody, when they were read from data.
    pub(crate) fn find_pushing(&mut self) {
        let turn = |part: &PartId| Some((self.parts.get(*part)?.rank(), *part));
        let all: BTreeSet<_> = self.plan.pushes.iter().filter_map(turn).collect();
        self.moment.pushing = Shared::from(all);
    }

    fn push_one(&mut self, part: PartId, current: &Current, at: ObjectId, body: ObjectId) {
        let (Some(object), Some(pushed)) = (self.moment.objects.get(at), self.moment.objects.get(body))
        else {
            return;
        };
        // A body that was put elsewhere since the zones were looked at is no longer there.
        let seen = (self.moment.clock.now.0 * 2).saturating_sub(1);
        if pushed.body.as_ref().is_some_and(|body| body.facts.displaced >= seen && body.facts.displaced > 0) {
            return;
        }
        let eval_fault = Cell::new(None);
        let scope = Scope::of_part(self, part, &eval_fault).by(body);
        let by = self.asked_of(part, "by").map(|by| scope.value(by));
        let mut by = by.and_then(|by| by.as_number()).unwrap_or(0.0);
        if let Some(falloff) = current.falloff {
            let away = (pushed.at.as_dvec3() - object.at.as_dvec3()).length();
            by *= (1.0 - away / falloff).max(0.0);
        }
        let way: DVec3 = object.facing.turn(current.along).as_dvec3();
        let before = pushed.body.as_ref().map_or(Vec3::ZERO, |body| body.facts.velocity);
        let top = current.top.unwrap_or(f64::INFINITY);
        let velocity = if current.adds {
            // One that goes faster that way already is not slowed down.
            let (speed, more) = (before.as_dvec3().dot(way), by * self.moment.clock.rate.step());
            let most = if more > 0.0 { top.max(speed) } else { (-top).min(speed) };
            let room = most - speed;
            before.as_dvec3() + way * if more > 0.0 { more.min(room) } else { more.max(room) }
        } else {
            way * by.clamp(-top, top)
        };
        let velocity = velocity.as_vec3();
        let eval_fault = eval_fault.get();
        self.note_eval_fault(eval_fault, None);
        if velocity != before
            && velocity.is_finite()
            && let Ok(pushed) = self.body_mut(body)
        {
            pushed.facts.velocity = velocity;
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
            body.facts.velocity = Vec3::ZERO;
        }
    }
}
