//! What parts say of themselves, and their settings that may change: `gate.openness`, `post.prompt.reach`.

use smol_str::SmolStr;
use stoicheon_core::{Expr, PartInfo, PartOf, ReadingInfo, Target, Type};

use super::{Cx, Resolver, Ty, Typed, Which, names::Role, typed, words::with_words};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Name, Path},
};

/// A part of an object that is spoken of.
#[derive(Clone, Debug)]
pub(super) struct OfPart<'m> {
    pub(super) info: &'m PartInfo,
    /// The object and which of its parts it is, where that is known.
    pub(super) at: Option<(usize, usize)>,
}

impl<'m> Resolver<'m, '_> {
    /// The part of that kind that an object has, or one of those it may be.
    pub(super) fn part_of(&self, which: &Which, kind: &str) -> Option<OfPart<'m>> {
        let of = |object: usize| {
            let known = &self.names.objects[object];
            let part = known.parts.iter().position(|(_, info)| info.name == kind)?;
            // What is made after a mould has parts of its own.
            let at = (known.role != Role::Mould).then_some((object, part));
            Some(OfPart { info: known.parts[part].1, at })
        };
        match which {
            Which::One(object) => of(*object),
            Which::Tagged(_) => {
                let found = self.candidates(which).into_iter().find_map(of);
                found.map(|found| OfPart { at: None, ..found })
            }
            Which::Unknown => {
                let info = self.catalogue.parts().iter().find(|info| info.name == kind)?;
                Some(OfPart { info, at: None })
            }
        }
    }

    /// The part of an object that has a reading of that name.
    fn part_that_says(&self, which: &Which, name: &str) -> Option<OfPart<'m>> {
        let says = |info: &PartInfo| info.readings.iter().any(|reading| reading.name == name);
        let kind = match which {
            Which::Unknown => {
                self.catalogue.parts().iter().find(|info| says(info)).map(|info| info.name.clone())
            }
            _ => {
                let objects = self.candidates(which);
                let mut parts = objects.iter().flat_map(|object| self.names.objects[*object].parts.iter());
                parts.find(|(_, info)| says(info)).map(|(_, info)| info.name.clone())
            }
        }?;
        self.part_of(which, &kind)
    }

    fn part_ref(&self, part: &OfPart<'m>, object: Expr) -> PartOf {
        let known = part.at.and_then(|(object, part)| self.names.objects[object].part_ids.get(part));
        match (known, part.at) {
            (Some(id), _) => PartOf::Part(*id),
            (None, Some(_)) => PartOf::Part(stoicheon_core::PartId::default()),
            (None, None) => PartOf::Of { object: Box::new(object), kind: part.info.name.clone() },
        }
    }

    /// What the names from `rest` on ask of an object's part, and how many they are; `None` if they ask nothing of a part.
    /// Inside, `None` if that is wrong.
    #[expect(clippy::option_option, reason = "nothing of a part; something, and that is wrong")]
    pub(super) fn reading(
        &mut self,
        which: &Which,
        object: &Expr,
        (path, rest): (&Path, usize),
        whose: Option<Expr>,
        cx: &Cx<'_>,
    ) -> Option<Option<(Typed, usize)>> {
        let first = &path.0[rest];
        let (part, name, used) = match self.part_of(which, &first.text) {
            Some(part) => match path.0.get(rest + 1) {
                Some(name) => (part, name, 2),
                None => {
                    self.only_the_part(&part, path);
                    return Some(None);
                }
            },
            None => (self.part_that_says(which, &first.text)?, first, 1),
        };
        if part.info.variables.iter().any(|variable| variable.name == name.text) {
            let (ty, var) = self.property_var(which, name)?;
            let var = var.map_or_else(
                || Expr::Property { object: Box::new(object.clone()), name: cx.ids.property(&name.text) },
                |var| Expr::Var(self.names.vars[var].id),
            );
            return Some(typed(Ty::of(&ty), var).map(|found| (found, used)));
        }
        let Some(known) = part.info.reading(&name.text) else {
            self.no_reading(&part, name);
            return Some(None);
        };
        let Some(who) = self.whose_reading(&known, path, name, whose, cx) else { return Some(None) };
        let reading = Expr::Reading {
            part: self.part_ref(&part, object.clone()),
            name: known.name.clone(),
            who: who.map(Box::new),
            ticking: known.ticking,
        };
        let ty = self.reading_type(&part, &known.ty);
        Some(typed(Ty::of(&ty), reading).map(|found| (found, used)))
    }

    fn reading_type(&self, part: &OfPart<'m>, ty: &Type) -> Type {
        let words = part.at.map(|(object, part)| self.words_of(object, part)).unwrap_or_default();
        with_words(ty, &words)
    }

    #[expect(clippy::option_option, reason = "nobody's own; somebody's, and that is wrong")]
    fn whose_reading(
        &mut self,
        known: &ReadingInfo,
        path: &Path,
        name: &Name,
        whose: Option<Expr>,
        cx: &Cx<'_>,
    ) -> Option<Option<Expr>> {
        match (known.per_player, whose) {
            (true, None) if cx.has_who => Some(Some(Expr::Who)),
            (true, None) => {
                let text = path.text();
                let message = format!("each player has a `{text}` of their own");
                self.wrong(
                    Diagnostic::error(Code::Whose, message)
                        .at(path.span(), "whose?")
                        .help(format!("name the player: {text} of ada")),
                );
                None
            }
            (false, Some(_)) => {
                let message = format!("`{}` has one value for all, not one for each player", path.text());
                self.wrong(
                    Diagnostic::error(Code::Whose, message)
                        .at(name.span, "no object here")
                        .help("leave out `of …`"),
                );
                None
            }
            (_, whose) => Some(whose),
        }
    }

    fn only_the_part(&mut self, part: &OfPart<'m>, path: &Path) {
        let named = || part.info.readings.iter().map(|reading| reading.name.clone());
        let live =
            part.info.settings.iter().filter(|setting| setting.live).map(|setting| setting.name.clone());
        let known: Vec<SmolStr> = named().chain(live).collect();
        let (text, kind) = (path.text(), &part.info.name);
        let help = match known.first() {
            Some(first) => format!("name a value of it: {text}.{first}; a {kind} has {}", known.join(", ")),
            None => format!("a {kind} has commands and a state, but no other values"),
        };
        let message = format!("`{text}` is a part, not a value");
        self.wrong(Diagnostic::error(Code::WrongType, message).at(path.span(), "a part").help(help));
    }

    fn no_reading(&mut self, part: &OfPart<'m>, name: &Name) {
        let info = part.info;
        let live = info.settings.iter().filter(|setting| setting.live).map(|setting| setting.name.as_str());
        let known = info.readings.iter().map(|reading| reading.name.as_str()).chain(live);
        let known = known.chain(info.variables.iter().map(|variable| variable.name.as_str()));
        let fixed = info.setting(&name.text).is_some();
        let message = if fixed {
            format!("`{}` of a {} cannot change while the world runs", name.text, info.name)
        } else {
            format!("a {} has no `{}`", info.name, name.text)
        };
        let help = self.report.suggest(&name.text, "value", known);
        let label =
            if fixed { "a setting that does not change" } else { "expected what the part says of itself" };
        self.wrong(Diagnostic::error(Code::UnknownName, message).at(name.span, label).help(help));
    }

    /// `hold of ada`: what each player has of a part.
    #[expect(clippy::option_option, reason = "nothing of a part; something, and that is wrong")]
    pub(super) fn reading_of(
        &mut self,
        path: &Path,
        whose: &model::Expr,
        cx: &Cx<'_>,
    ) -> Option<Option<Typed>> {
        for rest in (1..path.0.len()).rev() {
            let of = Path(path.0[..rest].to_vec());
            let named = model::Expr { span: of.span(), kind: ExprKind::Name(of) };
            let Some(found) = self.quietly(|r| r.expr(&named, None, cx)) else { continue };
            let Ty::Object(which) = found.ty else { continue };
            let speaks = self.part_of(&which, &path.0[rest].text).is_some()
                || self.part_that_says(&which, &path.0[rest].text).is_some();
            if !speaks || self.has_var(&which, &path.split_last().0.text) {
                return None;
            }
            let whose_found = self.expr(whose, Some(&Type::Player), cx);
            let whose =
                whose_found.and_then(|found| self.an_object(found, whose.span, "a player, such as `who`"));
            let Some((_, whose)) = whose else { return Some(None) };
            let found = self.reading(&which, &found.expr, (path, rest), Some(whose), cx)?;
            return Some(found.and_then(|(found, used)| self.component(found, path, rest + used)));
        }
        None
    }

    /// A setting that may change, as what a statement sets or a bind keeps; `None` if the path names no part's setting.
    #[expect(clippy::option_option, reason = "no setting; a setting, and that is wrong")]
    pub(super) fn setting_target(
        &mut self,
        path: &Path,
        cx: &Cx<'_>,
    ) -> Option<Option<(OfPart<'m>, Target, Type, SmolStr)>> {
        let [before @ .., kind, name] = &path.0[..] else { return None };
        if before.is_empty() {
            return None;
        }
        let of = Path(before.to_vec());
        let named = model::Expr { span: of.span(), kind: ExprKind::Name(of) };
        let found = self.quietly(|r| r.expr(&named, None, cx))?;
        let Ty::Object(which) = &found.ty else { return None };
        if self.has_var(which, &kind.text) {
            return None;
        }
        let part = self.part_of(which, &kind.text)?;
        let live = part.info.settings.iter().filter(|setting| setting.live);
        let Some(setting) = live.clone().find(|setting| setting.name == name.text) else {
            let fixed = part.info.setting(&name.text).is_some();
            let reading = part.info.readings.iter().any(|reading| reading.name == name.text);
            let message = match (fixed, reading) {
                (true, _) => {
                    format!("`{}` of a {} cannot change while the world runs", name.text, kind.text)
                }
                (_, true) => {
                    format!("`{}` is a reading of the {} and cannot be set", name.text, kind.text)
                }
                _ => format!("a {} has no setting `{}`", kind.text, name.text),
            };
            let known: Vec<_> = live.map(|setting| setting.name.as_str()).collect();
            let help = if known.is_empty() {
                format!("no setting of a {} can change while the world runs", kind.text)
            } else {
                format!("settings of a {} that can change: {}", kind.text, known.join(", "))
            };
            self.wrong(Diagnostic::error(Code::Bound, message).at(name.span, "cannot be set").help(help));
            return Some(None);
        };
        let ty = setting.ty.value_type()?;
        let target = Target::Setting(self.part_ref(&part, found.expr), setting.name.clone());
        let name = setting.name.clone();
        Some(Some((part, target, ty, name)))
    }
}
