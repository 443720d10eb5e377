//! What is noted of names while they are looked up.

use stoicheon_core::Type;

use super::{
    Cx, NoIds, Resolver,
    names::Thing,
    notes::{Means, Rank},
};
use crate::{
    kits,
    model::{self, ExprKind, Name, ParamType, Path},
    source::Span,
};

impl<'m> Resolver<'m, '_> {
    /// What a name stands for, and where that is declared.
    pub(super) fn thing_at(&self, name: &str, scope: usize) -> Option<(Thing<'m>, Span)> {
        self.found(scope, |scope| scope.things.get(name).copied())
    }

    pub(super) fn note_tag(&self, tag: &Name) {
        self.report.notes.add(tag.span, Rank::Kind, || Means::Tag(tag.text.clone()));
    }

    pub(super) fn note_scene(&self, scene: &Name) {
        self.report.notes.add(scene.span, Rank::Kind, || Means::Scene(scene.text.clone()));
    }

    /// A signal that an object declares itself; those of its parts are the catalogue's.
    pub(super) fn note_signal_of(&self, object: usize, name: &Name) {
        if let Some((_, declared)) = self.names.objects[object].signals.get(&name.text) {
            self.report.means(name.span, Rank::Kind, *declared);
        }
    }

    /// A variable that is written, and is not one that a part keeps.
    pub(super) fn note_var(&self, at: Span, var: usize) {
        let known = &self.names.vars[var];
        if known.written.is_some() {
            self.report.means(at, Rank::Thing, known.span);
        }
    }

    /// The names that are given to kits: in a kit they stand where its parameters do, once for all uses that give the same.
    pub(super) fn note_given(&mut self) {
        if !self.report.notes.are_wanted() {
            return;
        }
        for (outer, inner, used, kit) in self.names.uses.clone() {
            for parameter in &kit.parameters {
                let given = used.given.iter().find(|given| given.name.text == parameter.name.text);
                let outside = self.names.scopes[inner].parent.unwrap_or(0);
                let given = given.map(|given| (&given.value, outer));
                let Some((value, scope)) = given.or(parameter.default.as_ref().map(|value| (value, outside)))
                else {
                    continue;
                };
                self.quietly(|r| r.note_one_given(&parameter.ty.ty, value, scope));
            }
        }
    }

    fn note_one_given(&mut self, ty: &ParamType, value: &model::Expr, scope: usize) {
        let cx = Cx::new(scope, &NoIds);
        if let (ParamType::Value(Type::Spot), ExprKind::InScene { object, scene, .. }) = (ty, &value.kind) {
            self.note_scene(scene);
            if let ExprKind::Name(spot) = &object.kind {
                self.note_elsewhere(spot, scene);
            }
        }
        for path in kits::paths(value).into_iter().flatten() {
            match ty {
                ParamType::Tag => path.single().into_iter().for_each(|tag| self.note_tag(tag)),
                ParamType::Signal => {
                    self.signal_named(&path, &cx);
                }
                ParamType::Effect => {
                    self.effect(&path, &cx);
                }
                ParamType::Mould => {
                    path.single().map(|mould| self.mould(mould, &cx));
                }
                ParamType::Value(_) => {}
            }
        }
    }

    /// Each name in the path to a spot of another scene.
    pub(super) fn note_elsewhere(&self, spot: &Path, scene: &Name) {
        for (number, name) in spot.0.iter().enumerate() {
            self.report.notes.add(name.span, Rank::Elsewhere, || Means::Elsewhere {
                scene: scene.text.clone(),
                path: spot.text(),
                number,
            });
        }
    }
}
