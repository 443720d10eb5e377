//! Variables, signals, effects and scenes that are written otherwise, and what is known by name.

use smol_str::SmolStr;

use crate::{
    base::{
        error::{BuildError, Error},
        ids::{EffectId, PartId, SceneId, SignalId, VarId},
        names::path,
        payload::Field,
    },
    plan::{expr::Expr, new_var::NewVar},
    world::rewire::{Rewiring, report::Became},
};

impl<G: 'static> Rewiring<'_, G> {
    /// A variable is written otherwise. It has its new first value if it has its old one.
    ///
    /// # Errors
    /// [`Error::NoSuchVar`].
    pub fn change_var(&mut self, id: VarId, before: &NewVar, after: &NewVar) -> Result<(), Error> {
        if before == after {
            self.rewired.kept.vars += 1;
            return Ok(());
        }
        let var = self.world.state.moment.vars.var(id).ok_or(Error::NoSuchVar)?;
        let (name, from) = (var.name.clone(), var.value.clone());
        let doing = self.doing();
        self.world.state.change_var(id, before, after, doing)?;
        let stays = before.first != after.first && self.world.state.moment.vars.get(id, None) == Some(&from);
        self.tell("variable", name, if stays { Became::Stays } else { Became::Changed }, None);
        Ok(())
    }

    /// Ends a variable.
    pub fn end_var(&mut self, id: VarId) {
        let Some(name) = self.world.state.var_name(id).map(SmolStr::new) else { return };
        self.doing();
        self.world.state.end_var(id);
        self.tell("variable", name, Became::Gone { waits: 0 }, None);
    }

    /// A signal carries other fields.
    ///
    /// # Errors
    /// [`BuildError::PayloadMismatch`](crate::BuildError::PayloadMismatch) for one that the game has declared with a type of its own.
    pub fn change_signal(&mut self, id: SignalId, fields: &[Field]) -> Result<(), Error> {
        let name = self.world.state.signal_name(id).unwrap_or_default().to_owned();
        self.doing();
        self.world.state.change_fields(id, fields)?;
        self.tell("signal", name, Became::Changed, None);
        Ok(())
    }

    /// Ends a signal, and the wires on it alone.
    pub fn end_signal(&mut self, id: SignalId) {
        let Some(name) = self.world.state.signal_name(id).map(str::to_owned) else { return };
        self.doing();
        self.world.state.drop_signal(id);
        self.tell("signal", name, Became::Gone { waits: 0 }, None);
    }

    /// An effect has other fields.
    pub fn change_effect(&mut self, id: EffectId, fields: Vec<Field>) {
        let Some(name) = self.world.state.moment.effects.name(id).cloned() else { return };
        self.doing();
        self.world.state.moment.effects.change_fields(id, fields);
        self.tell("effect", name, Became::Changed, None);
    }

    /// So is the expression that a part works out from now on.
    ///
    /// # Errors
    /// As for [`World::set_asked`](crate::World::set_asked).
    pub fn change_asked(&mut self, part: PartId, setting: &str, expr: Expr) -> Result<(), Error> {
        let known = self.world.state.asked_of(part, setting) == Some(&expr);
        if known || self.world.state.parts.get(part).is_none() {
            return Ok(());
        }
        self.doing();
        self.world.set_asked(part, setting, expr)?;
        let object = self.world.state.object_of(part).and_then(|object| self.world.state.name(object));
        let kind = self.world.state.kind_of(part).map_or("part", |kind| kind.name);
        let name = path(object.unwrap_or_default(), kind);
        self.tell("part", name, Became::Changed, None);
        Ok(())
    }

    /// The scene to which what is made now belongs.
    pub fn scene_entered(&self) -> Option<SceneId> {
        self.world.state.moment.scenes.current
    }

    /// What is made from now on belongs to that scene, or to none. Gives back the one it belonged to before.
    pub fn enter_scene(&mut self, scene: Option<SceneId>) -> Option<SceneId> {
        std::mem::replace(&mut self.world.state.moment.scenes.current, scene)
    }

    /// A scene is offered no more.
    ///
    /// # Errors
    /// [`BuildError::SceneInUse`] while it is loaded.
    pub fn withdraw_scene(&mut self, name: &str) -> Result<(), Error> {
        let Some(id) = self.world.state.moment.scenes.find(name) else { return Ok(()) };
        if self.world.state.moment.scenes.is_loaded(id) {
            return Err(Error::Build(BuildError::SceneInUse { scene: name.into() }));
        }
        self.doing();
        if let Some(scene) = self.world.state.moment.scenes.get_mut(id) {
            scene.offered = false;
        }
        self.world.makers.remove(&id);
        self.tell("scene", name, Became::Gone { waits: 0 }, None);
        Ok(())
    }

    /// What the world was made of under that name is no longer part of it.
    pub fn not_made_of(&mut self, what: &str) {
        self.world.state.plan.edit().made_of.edit().remove(what);
    }
}
