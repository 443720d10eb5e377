//! Objects: their parts and settings, where they are, what their variables begin with.

use stoicheon_core::{Expr, PartInfo, Settings, Type};

use super::{
    Cx, Ids, NoIds, Resolver,
    circle::{Order, follow},
    words::{Listed, takes_words},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self},
    suggest::a,
};

/// The words that begin items, for suggestions.
const ITEMS: [&str; 6] = ["object", "signal", "effect", "manager", "mould", "playtest"];

/// What is known of an object before it is made.
#[derive(Debug, Default)]
pub(crate) struct Made {
    pub(crate) at: Option<Expr>,
    pub(crate) facing: Option<Expr>,
    pub(crate) settings: Vec<Settings>,
}

impl Resolver<'_, '_> {
    pub(crate) fn object_parts(&mut self, index: usize, ids: &dyn Ids) -> Made {
        let object = &self.names.objects[index];
        let (scope, Some(written)) = (object.scope, object.written) else { return Made::default() };
        let known: Vec<_> = object.parts.clone();
        let cx = Cx::constant(scope, "where an object is and faces", ids);
        let at = written.at.as_ref().and_then(|at| self.constant(at, &Type::Vector, &cx));
        let facing = written.facing.as_ref().and_then(|facing| self.constant(facing, &Type::Rotation, &cx));
        for part in &written.parts {
            if self.catalogue.part(&part.kind.text).is_none() {
                let names = self.catalogue.parts().iter().map(|info| info.name.as_str());
                // An object without a place and with one part may be an item whose first word is misspelled.
                let names = names.chain(ITEMS);
                let help = self.report.suggest(&part.kind.text, "part", names);
                let message = format!("there is no kind of part `{}`", part.kind.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownPart, message)
                        .at(part.kind.span, "expected a kind of part")
                        .help(help),
                );
            }
        }
        self.parent(written.of.as_ref(), scope, ids);
        let cx = Cx { owner: Some(index), ..Cx::constant(scope, "a setting", ids) };
        let settings: Vec<_> = known.iter().map(|(part, info)| self.settings(info, part, &cx)).collect();
        for ((part, info), settings) in known.iter().zip(&settings) {
            self.try_out(index, info, part, settings, ids);
        }
        Made { at, facing, settings }
    }

    /// What an object hangs on, if it is there.
    pub(crate) fn parent(&mut self, of: Option<&model::Path>, scope: usize, ids: &dyn Ids) -> Option<usize> {
        self.object(of?, &Cx::new(scope, ids))
    }

    /// Objects that hang on each other in a circle, and the order in which they are hung: what holds others first.
    pub(crate) fn hanging(&self) -> Order {
        follow(self.names.objects.len(), |object| {
            let object = &self.names.objects[object];
            let of = object.written.and_then(|written| written.of.as_ref());
            of.and_then(|of| self.object_named(of, &Cx::new(object.scope, &NoIds))).into_iter().collect()
        })
    }

    pub(super) fn check_hanging(&mut self) {
        for circle in self.hanging().circles {
            let names: Vec<_> = circle.iter().map(|one| self.names.objects[*one].name.clone()).collect();
            let message =
                format!("these objects are attached to each other in a circle: {}", names.join(", "));
            let mut diagnostic = Diagnostic::error(Code::Circle, message);
            for object in circle {
                diagnostic = diagnostic.at(self.names.objects[object].span, "is attached to the next");
            }
            self.wrong(diagnostic.help("one of them must not be attached"));
        }
    }

    /// What only the part itself knows to be out of range, and what it hears of its own object.
    fn try_out(
        &mut self,
        object: usize,
        info: &PartInfo,
        part: &model::Part,
        settings: &Settings,
        ids: &dyn Ids,
    ) {
        let missing = info.settings.iter().any(|setting| setting.required && !settings.has(&setting.name));
        // What was written and could not be read is reported already.
        let has = |name: &str| settings.has(name) || settings.more("also").iter().any(|more| more.has(name));
        let listed = Listed::of(info, part);
        let unread = listed.given.iter().filter_map(|given| given.setting).any(|setting| !has(&setting.name))
            || info.settings.iter().any(|setting| {
                takes_words(setting) && !listed.entries.is_empty() && !settings.has(&setting.name)
            });
        let Some(kind) = info.kind.filter(|_| !missing && !unread) else { return };
        let made = match (kind.build)(settings, ids.rate()) {
            Ok(made) => made,
            Err(error) => {
                self.wrong(
                    Diagnostic::error(Code::BadLiteral, error.to_string()).at(part.kind.span, "not possible"),
                );
                return;
            }
        };
        for join in made.joins() {
            if self.signal_of(object, join.signal).is_some() {
                continue;
            }
            let name = self.names.objects[object].name.clone();
            let message = format!(
                "this {} listens to `{}` of `{name}`, which has no such signal",
                info.name, join.signal
            );
            let kinds = self.catalogue.parts().iter();
            let kinds = kinds.filter(|kind| kind.signals.iter().any(|signal| signal.name == join.signal));
            let kinds: Vec<_> = kinds.map(|kind| a(&kind.name)).collect();
            self.wrong(
                Diagnostic::error(Code::UnknownSignal, message)
                    .at(part.kind.span, "no signal reaches it")
                    .help(format!("also give `{name}` {}", kinds.join(" or "))),
            );
        }
    }

    /// Something that is known before the world runs, of a type.
    pub(super) fn constant(&mut self, expr: &model::Expr, ty: &Type, cx: &Cx<'_>) -> Option<Expr> {
        let wrong = |found: &str| {
            let message = match ty {
                Type::Vector => format!("expected a place, such as (4, 0, 10), found {found}"),
                Type::Rotation => {
                    format!("expected a direction, such as north or 90deg about y, found {found}")
                }
                other => format!("expected {}, found {found}", a(other.word())),
            };
            Diagnostic::error(Code::WrongType, message).at(expr.span, found)
        };
        self.value_for(expr, ty, cx, wrong)
    }

    pub(crate) fn spot(&mut self, index: usize, ids: &dyn Ids) -> (Option<Expr>, Option<Expr>) {
        let spot = &self.names.spots[index];
        let (written, scope) = (spot.written, spot.scope);
        let cx = Cx::constant(scope, "a spot", ids);
        let at = self.constant(&written.at, &Type::Vector, &cx);
        let facing = written.facing.as_ref().and_then(|facing| self.constant(facing, &Type::Rotation, &cx));
        (at, facing)
    }

    pub(crate) fn var_first(&mut self, index: usize, ids: &dyn Ids) -> Option<Expr> {
        let var = &self.names.vars[index];
        let (Some(written), scope) = (var.written, var.scope) else { return None };
        let ty = &written.ty;
        let cx = Cx::constant(scope, "the first value of a variable", ids);
        let name = &written.name.text;
        let wrong = |found: &str| {
            let message = format!("`{name}` holds {}, its first value is {found}", a(ty.ty.word()));
            Diagnostic::error(Code::WrongType, message)
                .at(written.first.span, found)
                .at(ty.span, format!("declared as {} here", ty.ty))
        };
        self.value_for(&written.first, &ty.ty, &cx, wrong)
    }
}
