//! Routines, binds, rules and spots that are written otherwise.

use std::collections::BTreeMap;

use crate::{
    act::compile::compile,
    base::{
        error::Error,
        geometry::Rotation,
        ids::{BindId, RoutineId, RuleId, SceneId, SpotId},
        place::Place,
    },
    moment::run::Run,
    plan::{binds::Kept, expr::Expr, rules::Rule, steps::Step},
    state::State,
    world::rewire::{Rewiring, report::Became},
};

/// A bind as it is written.
pub(super) type WrittenBind = (Kept, Expr, Place);

/// A rule as it is written.
pub(super) type WrittenRule = (Expr, Place);

impl<G: 'static> Rewiring<'_, G> {
    /// Binds were written like that and are written like this. What is the same is not touched.
    ///
    /// # Errors
    /// What [`World::bind`](crate::World::bind) says, but for binds that keep what play has ended.
    pub fn change_binds(
        &mut self,
        scene: Option<SceneId>,
        before: &[WrittenBind],
        after: &[WrittenBind],
    ) -> Result<(), Error> {
        let [was, is]: [BTreeMap<Kept, &WrittenBind>; 2] =
            [before, after].map(|all| all.iter().map(|bind| (bind.0, bind)).collect());
        let standing: BTreeMap<Kept, BindId> = self.world.state.standing_binds(scene);
        for old in before {
            let new = is.get(&old.0);
            let Some(id) = standing.get(&old.0).copied() else { continue };
            if self.world.state.plan.binds[id.0 as usize].to != old.1 {
                continue;
            }
            if let Some(new) = new.filter(|new| new.1 == old.1) {
                if new.2 != old.2 {
                    self.world.state.plan.edit().binds.edit()[id.0 as usize].place = new.2.clone();
                }
                continue;
            }
            self.doing();
            let name = self.world.state.kept_name(old.0);
            self.world.state.end_bind(id);
            if new.is_none() {
                self.tell("bind", name, Became::Gone { waits: 0 }, Some(old.2.clone()));
            }
        }
        for new in after {
            let old = was.get(&new.0);
            if old.is_some_and(|old| old.1 == new.1) {
                continue;
            }
            self.doing();
            let current = std::mem::replace(&mut self.world.state.moment.scenes.current, scene);
            let made = self.world.state.bind(new.0, new.1.clone(), new.2.clone());
            self.world.state.moment.scenes.current = current;
            let became = match made {
                Ok(_) if old.is_some() => Became::Again { waits: 0 },
                Ok(_) => Became::New,
                Err(error @ (Error::NoSuchVar | Error::NoSuchObject | Error::NoSuchPart)) => {
                    Became::LeftOut { reason: error.to_string().into() }
                }
                Err(error) => return Err(error),
            };
            let name = self.world.state.kept_name(new.0);
            self.tell("bind", name, became, Some(new.2.clone()));
        }
        Ok(())
    }

    /// Rules were written like that and are written like this. One that is the same stays broken if it is.
    pub fn change_rules(&mut self, scene: Option<SceneId>, before: &[WrittenRule], after: &[WrittenRule]) {
        for old in before {
            let standing = |rule: &Rule| !rule.ended && rule.scene == scene && rule.never == old.0;
            let Some(index) = self.world.state.plan.rules.iter().position(standing) else { continue };
            match after.iter().find(|new| new.0 == old.0) {
                Some((_, place)) if *place != old.1 => {
                    self.world.state.plan.edit().rules.edit()[index].place = place.clone();
                }
                Some(_) => {}
                None => {
                    self.doing();
                    self.world.state.plan.edit().rules.edit()[index].ended = true;
                    self.tell("rule", "never", Became::Gone { waits: 0 }, Some(old.1.clone()));
                }
            }
        }
        for new in after.iter().filter(|new| !before.iter().any(|old| old.0 == new.0)) {
            self.doing();
            let current = std::mem::replace(&mut self.world.state.moment.scenes.current, scene);
            let _: RuleId = self.world.never_at(new.0.clone(), new.1.clone());
            self.world.state.moment.scenes.current = current;
            self.tell("rule", "never", Became::New, Some(new.1.clone()));
        }
    }

    /// A routine says something else. What waits in the midst of it is given up.
    ///
    /// # Errors
    /// What is wrong with a step.
    pub fn change_routine(&mut self, id: RoutineId, values: u8, steps: &[Step]) -> Result<(), Error> {
        let ops = compile(steps, &mut self.world.state)?;
        let known = self.world.state.plan.routines.get(id.0 as usize);
        let known = known.ok_or(Error::NoSuchRoutine)?;
        if known.ops == ops && known.values == values && !known.ended {
            return Ok(());
        }
        let name = known.name.clone();
        let waits = self.give_up_routine(id);
        let routine = &mut self.world.state.plan.edit().routines.edit()[id.0 as usize];
        (routine.ops, routine.values, routine.ended) = (ops, values, false);
        self.tell("routine", name, Became::Again { waits }, None);
        Ok(())
    }

    /// Ends a routine.
    pub fn end_routine(&mut self, id: RoutineId) {
        let Some(routine) = self.world.state.plan.routines.get(id.0 as usize) else { return };
        let name = routine.name.clone();
        let waits = self.give_up_routine(id);
        self.world.state.plan.edit().routines.edit()[id.0 as usize].ended = true;
        self.tell("routine", name, Became::Gone { waits }, None);
    }

    fn give_up_routine(&mut self, id: RoutineId) -> usize {
        let doing = self.doing();
        let state = &mut self.world.state;
        let runs_it =
            |run: &Run| run.calls.iter().chain([&run.frame]).any(|frame| frame.routine == Some(id.0));
        let waits: Vec<_> = state.moment.waiting.by_due.iter().filter(|(_, run)| runs_it(run)).collect();
        let waits: Vec<_> = waits.into_iter().map(|(key, run)| (run.wire, *key)).collect();
        for (wire, key) in &waits {
            state.drop_some_runs(*wire, &[*key], false, doing);
        }
        let mut asleep = 0;
        for scene in state.moment.scenes.ids() {
            let sleeps = state
                .moment
                .scenes
                .get(scene)
                .is_some_and(|scene| scene.asleep.iter().any(|(_, run)| runs_it(run)));
            if sleeps && let Some(scene) = state.moment.scenes.get_mut(scene) {
                let before = scene.asleep.len();
                scene.asleep.retain(|(_, run)| !runs_it(run));
                asleep += before - scene.asleep.len();
            }
        }
        waits.len() + asleep
    }

    /// A spot is written elsewhere.
    ///
    /// # Errors
    /// [`Error::NoSuchSpot`]; [`BuildError::BadPlace`](crate::BuildError::BadPlace).
    pub fn change_spot(&mut self, id: SpotId, at: crate::Vec3, facing: Rotation) -> Result<(), Error> {
        let spot = self.world.state.plan.spots.get(id).ok_or(Error::NoSuchSpot)?;
        if (spot.at, spot.facing) == (at, facing) {
            return Ok(());
        }
        crate::base::geometry::check_place(at)?;
        let name = spot.name.clone();
        self.doing();
        self.world.state.plan.edit().spots.put(id, at, facing);
        self.tell("spot", name, Became::Changed, None);
        Ok(())
    }

    /// Ends a spot.
    pub fn end_spot(&mut self, id: SpotId) {
        let Some(name) = self.world.state.plan.spots.get(id).map(|spot| spot.name.clone()) else { return };
        self.doing();
        self.world.state.end_spots(|spot| spot.name == name);
        self.tell("spot", name, Became::Gone { waits: 0 }, None);
    }
}

impl State {
    /// The binds of a scene, or of none, that have not ended, by what they keep.
    fn standing_binds(&self, scene: Option<SceneId>) -> BTreeMap<Kept, BindId> {
        let numbered = (0..).map(BindId).zip(self.plan.binds.iter());
        let standing = numbered.filter(|(_, bind)| !bind.ended && bind.scene == scene);
        standing.map(|(id, bind)| (bind.kept, id)).collect()
    }
}
