//! Spots and scenes that somebody is sent to.

use smol_str::SmolStr;
use stoicheon_core::{Expr, SpotPath, Step, Type};

use super::{Cx, Rank, Resolver, Ty, Typed, names::Thing, typed};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Name, Objects, Path, Where},
};

impl Resolver<'_, '_> {
    pub(super) fn send(
        &mut self,
        who: &Objects,
        spot: &Where,
        scene: Option<&Name>,
        cx: &mut Cx<'_>,
    ) -> Option<Step> {
        let Some(scene) = scene else {
            let want = Type::Spot;
            let (value, span) = match spot {
                Where::Held(value) => (value.clone(), value.span),
                Where::Named(spot) => {
                    let span = spot.span();
                    if self.begin(spot, cx.scope).is_none() && !self.begins_with_value(spot.first(), cx) {
                        let names = self.names.spots.iter().map(|spot| spot.name.as_str());
                        let help = self.report.suggest(&spot.text(), "spot", names);
                        let message = format!("there is no spot `{}`", spot.text());
                        self.wrong(
                            Diagnostic::error(Code::UnknownSpot, message)
                                .at(span, "expected a spot")
                                .help(help),
                        );
                        return None;
                    }
                    (model::Expr { span, kind: ExprKind::Name(spot.clone()) }, span)
                }
            };
            let wrong = |found: &str| {
                let message = format!("expected a spot to arrive at, found {found}");
                Diagnostic::error(Code::WrongType, message)
                    .at(span, found)
                    .help("a spot is declared with: spot NAME at (x, y, z) facing north")
            };
            let spot = self.value_for(&value, &want, cx, wrong)?;
            return self.each(who, cx, |who| Step::Send { who, spot });
        };
        let Where::Named(spot) = spot else {
            let message = "expected the name of a spot of that scene";
            let Where::Held(value) = spot else { return None };
            self.wrong(
                Diagnostic::error(Code::UnknownSpot, message)
                    .at(value.span, "known only at run time")
                    .help("a spot value includes its scene: leave out `in …`"),
            );
            return None;
        };
        self.spot_there(spot, scene)?;
        let (scene, spot) = (scene.text.clone(), spot.text());
        self.each(who, cx, |who| Step::SendAway { who, scene, spot })
    }

    /// Whether `arrival in tunnel` is a spot, and no test whether an object is there.
    pub(super) fn is_spot_elsewhere(&self, spot: &model::Expr, scene: &Name, cx: &Cx<'_>) -> bool {
        let ExprKind::Name(path) = &spot.kind else { return false };
        if self.begins_with_value(path.first(), cx) {
            return false;
        }
        let there = self.scenes.and_then(|scenes| scenes.spots_of(&scene.text));
        match self.begin(path, cx.scope) {
            Some((Thing::Spot(_), _)) => true,
            Some((Thing::Object(object), used)) if used + 1 == path.0.len() => {
                self.names.objects[object].spots.contains_key(&path.split_last().0.text)
            }
            Some((Thing::Object(_), used)) if used == path.0.len() => false,
            _ => there.is_some_and(|spots| spots.contains(&path.text())),
        }
    }

    /// `arrival in tunnel`, as a value.
    pub(super) fn spot_elsewhere(&mut self, spot: &model::Expr, scene: &Name) -> Option<Typed> {
        let ExprKind::Name(spot) = &spot.kind else {
            self.wrong(
                Diagnostic::error(Code::UnknownSpot, "expected the name of a spot of that scene")
                    .at(spot.span, "not a name"),
            );
            return None;
        };
        self.spot_there(spot, scene)?;
        let path = SpotPath { scene: scene.text.clone(), spot: spot.text() };
        typed(Ty::Plain(Type::Spot), Expr::Value(path.into()))
    }

    /// A spot of another scene; reported if there is none.
    pub(super) fn spot_there(&mut self, spot: &Path, scene: &Name) -> Option<()> {
        self.note_elsewhere(spot, scene);
        if let Some(scenes) = self.scenes {
            self.scene(scene)?;
            let spots = scenes.spots_of(&scene.text).unwrap_or_default();
            if !spots.contains(&spot.text()) {
                let help = self.report.suggest(&spot.text(), "spot", spots.iter().map(SmolStr::as_str));
                let message = format!("the scene `{}` has no spot `{}`", scene.text, spot.text());
                self.wrong(
                    Diagnostic::error(Code::UnknownSpot, message)
                        .at(spot.span(), "expected a spot")
                        .help(help),
                );
                return None;
            }
        }
        Some(())
    }

    /// A spot of this scene; reported if there is none.
    pub(super) fn spot_here(&mut self, path: &Path, cx: &Cx<'_>) -> Option<usize> {
        let found = match self.begin(path, cx.scope) {
            Some((Thing::Spot(spot), used)) if used == path.0.len() => Some(spot),
            Some((Thing::Object(object), used)) if used + 1 == path.0.len() => {
                let name = path.split_last().0;
                let spot = self.names.objects[object].spots.get(&name.text).copied();
                if let Some(spot) = spot {
                    self.report.means(name.span, Rank::Thing, self.names.spots[spot].written.name.span);
                }
                spot
            }
            _ => None,
        };
        if found.is_none() {
            let names = self.names.spots.iter().map(|spot| spot.name.as_str());
            let help = self.report.suggest(&path.text(), "spot", names);
            let message = format!("there is no spot `{}`", path.text());
            self.wrong(
                Diagnostic::error(Code::UnknownSpot, message).at(path.span(), "expected a spot").help(help),
            );
        }
        found
    }

    /// A scene of the project; reported if there is none of that name.
    pub(super) fn scene(&mut self, scene: &Name) -> Option<()> {
        let Some(scenes) = self.scenes else {
            let message = "a scene outside a project has no other scenes";
            self.wrong(
                Diagnostic::error(Code::UnknownScene, message)
                    .at(scene.span, "which project's?")
                    .help("a file that starts with `project NAME` lists the scenes that belong together"),
            );
            return None;
        };
        if scenes.spots_of(&scene.text).is_some() {
            self.note_scene(scene);
            return Some(());
        }
        let help = self.report.suggest(&scene.text, "scene", scenes.names());
        let message = format!("this project has no scene `{}`", scene.text);
        self.wrong(
            Diagnostic::error(Code::UnknownScene, message).at(scene.span, "expected a scene").help(help),
        );
        None
    }
}
