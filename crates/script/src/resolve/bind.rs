//! Binds: what they keep, and circles of them.

use smol_str::SmolStr;
use stoicheon_core::{Expr, Type};

use super::{
    Cx, Ids, Resolver, Which,
    circle::follow,
    keeps::{Keeps, Pose},
    names::Thing,
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Name, Path},
    source::Span,
};

/// A bind, ready to be made.
#[derive(Debug)]
pub(crate) struct BindPlan {
    pub(crate) kept: Keeps,
    pub(crate) to: Expr,
    pub(crate) span: Span,
}

impl Resolver<'_, '_> {
    /// What a bind keeps that is no variable, and its type.
    #[expect(clippy::option_option, reason = "a variable; something else, and that is wrong")]
    fn kept_thing(&mut self, bind: &model::Bind, scope: usize) -> Option<Option<(Keeps, Type)>> {
        if bind.each {
            let [tag, name] = &bind.keep.0[..] else { return None };
            let pose = Pose::of(&name.text)?;
            if !self.names.tagged.contains_key(&tag.text) {
                return None;
            }
            self.note_tag(tag);
            self.wanted_tags.insert(tag.text.clone());
            return Some(Some((Keeps::Pose(Err(tag.text.clone()), pose), pose.ty())));
        }
        let (thing, used) = self.begin(&bind.keep, scope)?;
        let Thing::Object(object) = thing else { return None };
        if let [name] = &bind.keep.0[used..]
            && let Some(pose) = Pose::of(&name.text)
        {
            return Some(Some((Keeps::Pose(Ok(object), pose), pose.ty())));
        }
        let found = self.setting_target(&bind.keep, &Cx::new(scope, &super::NoIds))?;
        Some(found.and_then(|(part, _, ty, name)| {
            let (object, part) = part.at?;
            Some((Keeps::Setting { object, part, name }, ty))
        }))
    }

    /// Which variables a bind keeps.
    fn kept(&mut self, bind: &model::Bind, scope: usize) -> Option<Vec<usize>> {
        if bind.each {
            let [tag, name] = &bind.keep.0[..] else {
                let message = "expected a tag and a variable, such as `each lamp.lit`";
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message).at(bind.keep.span(), "expected two names"),
                );
                return None;
            };
            if !self.names.tagged.contains_key(&tag.text) {
                let help = self.report.suggest(&tag.text, "tag", self.names.tags.iter().map(SmolStr::as_str));
                let message = format!("no object in this file has the tag `{}`", tag.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownTag, message).at(tag.span, "expected a tag").help(help),
                );
                return None;
            }
            self.note_tag(tag);
            self.wanted_tags.insert(tag.text.clone());
            self.wanted_properties.insert(name.text.clone());
            let which = Which::Tagged(tag.text.clone());
            self.property_var(&which, name)?;
            let members = self.candidates(&which);
            let vars = members.iter().filter_map(|object| self.names.objects[*object].vars.get(&name.text));
            return Some(vars.copied().collect());
        }
        let Some((thing, used)) = self.begin(&bind.keep, scope) else {
            let known = self.visible(scope, |thing| matches!(thing, Thing::Var(_)));
            let help = self.report.suggest(&bind.keep.text(), "variable", known.into_iter());
            let message = format!("there is no variable `{}`", bind.keep.text());
            self.wrong(
                Diagnostic::error(Code::UnknownName, message)
                    .at(bind.keep.span(), "expected a variable")
                    .help(help),
            );
            return None;
        };
        match (thing, bind.keep.0.get(used), bind.keep.0.len() - used) {
            (Thing::Var(var), None, _) => {
                let written = &self.names.vars[var];
                if written.per_player {
                    let message = format!("each player has a `{}` of their own", bind.keep.text());
                    self.wrong(
                        Diagnostic::error(Code::Whose, message)
                            .at(bind.keep.span(), "cannot be kept by a bind")
                            .at(written.span, "declared here"),
                    );
                    return None;
                }
                Some(vec![var])
            }
            (Thing::Object(object), Some(name), 1) => {
                let (_, var) = self.property_var(&Which::One(object), name)?;
                if let Some(var) = var.filter(|var| self.names.vars[*var].kept_by.is_some()) {
                    self.not_bound(var, bind.keep.span())?;
                }
                var.map(|var| vec![var])
            }
            _ => {
                let message = format!("`{}` is not a variable", bind.keep.text());
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message)
                        .at(bind.keep.span(), "expected a variable, such as `lamp.lit`"),
                );
                None
            }
        }
    }

    /// Marks every variable that a bind keeps.
    pub(crate) fn mark_bound(&mut self) {
        for index in 0..self.names.binds.len() {
            let placed = self.names.binds[index];
            let thing = self.within(placed.scope, |r| r.kept_thing(placed.written, placed.scope));
            if let Some(thing) = thing {
                if let Some((thing, _)) = thing {
                    self.mark_thing(thing, placed.written);
                }
                continue;
            }
            let kept = self.within(placed.scope, |r| r.kept(placed.written, placed.scope));
            for var in kept.unwrap_or_default() {
                let span = placed.written.keep.span();
                let known = &mut self.names.vars[var];
                let Some(first) = known.bound.replace(span) else { continue };
                let message = format!("`{}` is kept by two binds", known.name);
                self.wrong(
                    Diagnostic::error(Code::Bound, message)
                        .at(span, "the second one")
                        .at(first, "the first one"),
                );
            }
        }
    }

    /// Notes that a bind keeps a place, a facing or a setting.
    fn mark_thing(&mut self, thing: Keeps, written: &model::Bind) {
        let span = written.keep.span();
        if let Some((_, first)) = self.names.kept_things.iter().find(|(known, _)| *known == thing) {
            let message = format!("`{}` is kept by two binds", written.keep.text());
            let diagnostic = Diagnostic::error(Code::Bound, message)
                .at(span, "the second one")
                .at(*first, "the first one");
            self.wrong(diagnostic);
            return;
        }
        self.names.kept_things.push((thing, span));
    }

    /// What binds keep that is no variable and that an expression names: poses of objects, settings. `it` is one of that group.
    fn things_named(&self, expr: &model::Expr, scope: usize, it: Option<&SmolStr>, found: &mut Vec<Keeps>) {
        let pose = |name: &Name| match &*name.text {
            "place" => Some(Pose::Place),
            "facing" | "forward" => Some(Pose::Facing),
            _ => None,
        };
        match &expr.kind {
            ExprKind::Name(path) => match self.begin(path, scope) {
                Some((Thing::Object(object), used)) => match &path.0[used..] {
                    [name, ..] if pose(name).is_some() => {
                        found.extend(pose(name).map(|pose| Keeps::Pose(Ok(object), pose)));
                    }
                    [kind, name] => {
                        let parts = &self.names.objects[object].parts;
                        let part = parts.iter().position(|(_, info)| info.name == kind.text);
                        let name = name.text.clone();
                        found.extend(part.map(|part| Keeps::Setting { object, part, name }));
                    }
                    _ => {}
                },
                Some((Thing::Given { value, scope, .. }, _)) => self.things_named(value, scope, None, found),
                _ => {
                    let asked = path.0.get(1).filter(|_| path.first().text == "it").and_then(pose);
                    let of_it = it.and_then(|tag| Some(Keeps::Pose(Err(tag.clone()), asked?)));
                    found.extend(of_it);
                }
            },
            ExprKind::Call(_, args) => {
                // How far it is, and which way, is asked of objects by their names.
                let names = args
                    .iter()
                    .filter_map(|arg| if let ExprKind::Name(path) = &arg.kind { Some(path) } else { None });
                for path in names {
                    match self.begin(path, scope) {
                        Some((Thing::Object(object), used)) if used == path.0.len() => {
                            found.push(Keeps::Pose(Ok(object), Pose::Place));
                        }
                        None if path.text() == "it" => {
                            found.extend(it.map(|tag| Keeps::Pose(Err(tag.clone()), Pose::Place)));
                        }
                        _ => {}
                    }
                }
            }
            _ => {}
        }
        for part in expr.parts() {
            self.things_named(part, scope, it, found);
        }
    }

    /// Whether a bind that keeps the one keeps what is named by the other.
    fn is_kept_by(&self, named: &Keeps, keeps: &Keeps) -> bool {
        match (named, keeps) {
            (Keeps::Pose(Ok(object), pose), Keeps::Pose(Err(tag), kept))
            | (Keeps::Pose(Err(tag), pose), Keeps::Pose(Ok(object), kept)) => {
                pose == kept && self.names.tagged.get(tag).is_some_and(|members| members.contains(object))
            }
            (one, other) => one == other,
        }
    }

    pub(crate) fn bind(&mut self, index: usize, ids: &dyn Ids) -> Option<BindPlan> {
        let placed = self.names.binds[index];
        let bind = placed.written;
        let (kept, ty) = match self.quietly(|r| r.kept_thing(bind, placed.scope)) {
            Some(thing) => thing?,
            None => {
                let first = *self.kept_quietly(bind, placed.scope)?.first()?;
                let (name, tag) = bind.keep.split_last();
                let kept = if bind.each {
                    Keeps::Each(tag[0].text.clone(), name.text.clone())
                } else {
                    Keeps::Var(first)
                };
                (kept, self.names.vars[first].ty.clone())
            }
        };
        let mut cx = Cx::new(placed.scope, ids);
        if bind.each {
            cx.it = Some((Which::Tagged(bind.keep.first().text.clone()), Expr::It));
        }
        let name = bind.keep.text();
        let wrong = |found: &str| {
            let message = format!("`{name}` holds {}, found {found}", crate::suggest::a(ty.word()));
            Diagnostic::error(Code::WrongType, message).at(bind.to.span, found)
        };
        let to = self.value_for(&bind.to, &ty, &cx, wrong)?;
        Some(BindPlan { kept, to, span: bind.span })
    }

    /// The variables a bind keeps; what is wrong with them was reported before.
    fn kept_quietly(&mut self, bind: &model::Bind, scope: usize) -> Option<Vec<usize>> {
        self.quietly(|r| r.kept(bind, scope))
    }

    /// The binds that keep what another reads, told by the names in it.
    pub(super) fn check_bind_circles(&mut self) {
        let mut keepers: Vec<Vec<usize>> = Vec::new();
        for index in 0..self.names.binds.len() {
            let placed = self.names.binds[index];
            keepers.push(self.kept_quietly(placed.written, placed.scope).unwrap_or_default());
        }
        let mut keeper_of = std::collections::BTreeMap::new();
        for (bind, vars) in keepers.iter().enumerate() {
            keeper_of.extend(vars.iter().map(|var| (*var, bind)));
        }
        let mut things: Vec<(usize, Keeps)> = Vec::new();
        for index in 0..self.names.binds.len() {
            let placed = self.names.binds[index];
            let thing = self.quietly(|r| r.kept_thing(placed.written, placed.scope)).flatten();
            things.extend(thing.map(|(thing, _)| (index, thing)));
        }
        let reads: Vec<Vec<usize>> = (0..keepers.len())
            .map(|bind| {
                let vars = self.vars_read(bind).into_iter().filter_map(|var| keeper_of.get(&var).copied());
                let mut all: Vec<usize> = vars.collect();
                if !things.is_empty() {
                    all.extend(self.things_read(bind, &things));
                }
                all
            })
            .collect();
        for circle in follow(reads.len(), |bind| reads[bind].clone()).circles {
            let scope = circle.first().map_or(0, |first| self.names.binds[*first].scope);
            self.within(scope, |r| r.bind_circle(&circle, &keepers));
        }
    }

    /// The binds that keep something that is no variable and that a bind reads.
    fn things_read(&self, bind: usize, things: &[(usize, Keeps)]) -> Vec<usize> {
        let placed = self.names.binds[bind];
        let it = placed.written.each.then(|| placed.written.keep.first().text.clone());
        let mut named = Vec::new();
        self.things_named(&placed.written.to, placed.scope, it.as_ref(), &mut named);
        let keepers =
            things.iter().filter(|(_, keeps)| named.iter().any(|named| self.is_kept_by(named, keeps)));
        keepers.map(|(keeper, _)| *keeper).collect()
    }

    fn bind_circle(&mut self, circle: &[usize], keepers: &[Vec<usize>]) {
        // What is written in a kit is called otherwise in each of its uses.
        let name = |bind: &usize| match (&keepers[*bind][..], self.names.binds[*bind].written.each) {
            ([var], false) => self.names.vars[*var].name.clone(),
            _ => self.names.binds[*bind].written.keep.text(),
        };
        let names: Vec<_> = circle.iter().chain(circle.first()).map(name).collect();
        let message = format!("these binds read each other in a circle: {}", names.join(", "));
        let mut diagnostic = Diagnostic::error(Code::Circle, message);
        for bind in circle {
            let label = if circle.len() == 1 { "reads itself" } else { "reads the next" };
            diagnostic = diagnostic.at(self.names.binds[*bind].written.keep.span(), label);
        }
        self.wrong(diagnostic);
    }

    /// The variables a bind reads, as far as names tell; for one of a group, those of all its members.
    fn vars_read(&self, bind: usize) -> Vec<usize> {
        let placed = self.names.binds[bind];
        let mut found = Vec::new();
        let tag = placed.written.each.then(|| placed.written.keep.first().text.clone());
        self.read_names(&placed.written.to, placed.scope, tag.as_ref(), &mut found);
        found
    }

    fn read_names(&self, expr: &model::Expr, scope: usize, it: Option<&SmolStr>, found: &mut Vec<usize>) {
        let mut path = |path: &Path| match self.begin(path, scope) {
            Some((Thing::Var(var), _)) => found.push(var),
            Some((Thing::Object(object), used)) => {
                let name = path.0.get(used);
                let var = name.and_then(|name| self.names.objects[object].vars.get(&name.text));
                found.extend(var.copied());
            }
            Some((Thing::Given { value, scope, .. }, _)) => self.read_names(value, scope, None, found),
            _ => {
                if let (Some(tag), [first, name]) = (it, &path.0[..])
                    && first.text == "it"
                {
                    let members = self.candidates(&Which::Tagged(tag.clone()));
                    let vars = members.iter().filter_map(|one| self.names.objects[*one].vars.get(&name.text));
                    found.extend(vars.copied());
                }
            }
        };
        match &expr.kind {
            ExprKind::Name(name) => path(name),
            ExprKind::Of(name, _) => path(name),
            _ => {}
        }
        if let ExprKind::Count(among) | ExprKind::Quantity(_, among) | ExprKind::Nearest(among, _) =
            &expr.kind
            && let Some(such_that) = &among.such_that
        {
            self.read_names(such_that, scope, Some(&among.of.text), found);
        }
        for part in expr.parts() {
            self.read_names(part, scope, it, found);
        }
    }
}
