//! What could stand at a place, of all that has a name.

mod made;
mod signals;
mod told;
mod words;

use std::collections::BTreeSet;

use smol_str::SmolStr;
use stoicheon_core::{Field, Type};

use super::{
    Cx, Resolver, Ty, Which,
    names::{Role, Thing},
};
use crate::{
    model::{self, ExprKind, Path},
    offer::{Offer, OfferKind as Kind},
};

pub(crate) use words::{eases, functions, types};

/// What a signal or an effect carries.
fn carries(fields: &[Field]) -> impl Iterator<Item = (SmolStr, String)> {
    fields.iter().map(|field| (field.name.clone(), field.ty.to_string()))
}

/// The same word twice says nothing more.
fn once(offers: Vec<Offer>) -> Vec<Offer> {
    let mut known = BTreeSet::new();
    offers.into_iter().filter(|offer| known.insert((offer.name.clone(), offer.kind))).collect()
}

/// What is known here alone: who caused it, fields of the signal, what the sequence keeps, players.
fn values_of(cx: &Cx<'_>) -> Vec<Offer> {
    let mut offers = Vec::new();
    let locals = cx.locals.iter().rev();
    offers.extend(locals.map(|local| Offer::new(Kind::Local, local.name.clone()).detail(&local.ty.word())));
    offers
        .extend(cx.fields.iter().map(|field| Offer::new(Kind::Field, field.name.clone()).detail(&field.ty)));
    offers.extend(cx.players.iter().map(|(name, _)| Offer::new(Kind::Player, name.clone()).detail("player")));
    offers.extend(
        cx.cases.iter().map(|(name, typed)| Offer::new(Kind::Local, name.clone()).detail(&typed.ty.word())),
    );
    let known = |word: &str, about: &str| Offer::new(Kind::Keyword, word).about(about);
    if cx.has_who {
        offers.push(known("who", "The player or body that caused this."));
    }
    if cx.it.is_some() {
        offers.push(known("it", "The one of the group that this is about."));
    }
    if cx.owner.is_some() {
        offers.push(known("own", "The object whose braces these are."));
    }
    once(offers)
}

impl<'m> Resolver<'m, '_> {
    /// Whatever has a name in a scope or around it, the innermost first.
    fn things(&self, scope: usize) -> Vec<(SmolStr, Thing<'m>)> {
        let (mut all, mut known) = (Vec::new(), BTreeSet::new());
        let mut at = Some(scope);
        while let Some(scope) = at {
            let scope = &self.names.scopes[scope];
            let here = scope.things.iter().filter(|(name, _)| known.insert((*name).clone()));
            all.extend(here.map(|(name, (thing, _))| (name.clone(), *thing)));
            at = scope.parent;
        }
        all
    }

    fn thing_offer(&self, name: &SmolStr, thing: Thing<'m>) -> Offer {
        match self.follow(thing) {
            Thing::Object(object) => self.object_offer(name, object),
            Thing::Var(var) => {
                let known = &self.names.vars[var];
                let each = if known.per_player { " per player" } else { "" };
                Offer::new(Kind::Variable, name.clone()).detail(&format!("{}{each}", known.ty))
            }
            Thing::Spot(_) => Offer::new(Kind::Spot, name.clone()).detail("spot"),
            Thing::Constant(constant) => {
                let written = self.names.givens[constant].written;
                let about = written.about.as_ref().map(|about| about.text.to_string()).unwrap_or_default();
                let value = crate::print::value(&written.value);
                Offer::new(Kind::Given, name.clone())
                    .detail(&format!("{} = {value}", written.ty.ty))
                    .about(about)
            }
            Thing::Use(_) => Offer::new(Kind::Kit, name.clone()).detail("use of a kit"),
            Thing::Given { ty, .. } => Offer::new(Kind::Field, name.clone()).detail(&ty),
        }
    }

    fn object_offer(&self, name: &SmolStr, object: usize) -> Offer {
        let known = &self.names.objects[object];
        let kind = match known.role {
            Role::Object => Kind::Object,
            Role::Manager | Role::Foreign => Kind::Manager,
            Role::Mould => Kind::Mould,
        };
        let parts: Vec<_> = known.parts.iter().map(|(_, info)| info.name.as_str()).collect();
        Offer::new(kind, name.clone()).detail(&parts.join(", "))
    }

    /// The objects that fit, and the uses of kits in which some may be.
    pub(crate) fn objects_from(
        &self,
        before: Option<&Path>,
        cx: &Cx<'_>,
        fits: impl Fn(usize) -> bool,
    ) -> Vec<Offer> {
        let things = match before {
            None => self.things(cx.scope),
            Some(before) => self.inside_use(before, cx),
        };
        let offers = things.iter().filter_map(|(name, thing)| match self.follow(*thing) {
            Thing::Object(object) if fits(object) => Some(self.thing_offer(name, *thing)),
            Thing::Use(_) => Some(self.thing_offer(name, *thing)),
            _ => None,
        });
        offers.collect()
    }

    /// The names in a use of a kit.
    fn inside_use(&self, before: &Path, cx: &Cx<'_>) -> Vec<(SmolStr, Thing<'m>)> {
        match self.begin(before, cx.scope) {
            Some((Thing::Use(inner), used)) if used == before.0.len() => {
                let things = self.names.scopes[inner].things.iter();
                things.map(|(name, (thing, _))| (name.clone(), *thing)).collect()
            }
            _ => Vec::new(),
        }
    }

    /// Whether an object has a part of that kind.
    pub(crate) fn has_part(&self, object: usize, kind: &str) -> bool {
        self.names.objects[object].parts.iter().any(|(_, info)| info.name == kind)
    }

    /// What an expression can begin with.
    pub(crate) fn values(&mut self, want: Option<&Type>, cx: &Cx<'_>) -> Vec<Offer> {
        let mut offers = Vec::new();
        if let Some(Type::OneOf(words)) = want {
            offers.extend(words.iter().map(|word| Offer::new(Kind::State, word.clone())));
        }
        if cx.constant.is_none() {
            offers.extend(values_of(cx));
        }
        let things = self.things(cx.scope);
        offers.extend(things.iter().map(|(name, thing)| self.thing_offer(name, *thing)));
        let word = |word: &str, about: &str| Offer::new(Kind::Keyword, word).about(about);
        if matches!(want, None | Some(Type::Bool)) {
            offers.extend([word("true", ""), word("false", ""), word("not", "The opposite.")]);
            offers.push(
                word("every", "Whether it holds for every one of a group.")
                    .snippet("every ${1:tag} is ${2:state}"),
            );
            offers.push(
                word("any", "Whether it holds for one of a group.").snippet("any ${1:tag} is ${2:state}"),
            );
            offers.push(
                word("no", "Whether it holds for none of a group.").snippet("no ${1:tag} is ${2:state}"),
            );
        }
        if want == Some(&Type::Rotation) {
            offers.extend(["north", "east", "south", "west"].map(|way| Offer::new(Kind::State, way)));
        }
        if matches!(want, None | Some(Type::Object | Type::Player)) || want == Some(&Type::Bool) {
            offers.push(word("nearest", "The nearest of a group.").snippet("nearest ${1:tag}"));
        }
        if cx.last.is_some() || !cx.players.is_empty() {
            offers.push(word("last", "What a signal carried last.").snippet("last ${1:signal}.${2:field}"));
        }
        if matches!(
            want,
            None | Some(Type::Bool | Type::Number | Type::Whole | Type::Vector | Type::Duration)
        ) {
            offers.extend(functions());
        }
        once(offers)
    }

    /// What can come after the dot of a value.
    pub(crate) fn members(&mut self, before: &Path, cx: &Cx<'_>) -> Vec<Offer> {
        let inside = self.inside_use(before, cx);
        if !inside.is_empty() {
            return inside.iter().map(|(name, thing)| self.thing_offer(name, *thing)).collect();
        }
        let property = |name: &str, ty: &str| Offer::new(Kind::Variable, name).detail(&ty);
        match self.type_of(before, cx) {
            Some(Ty::Plain(Type::Vector)) => ["x", "y", "z"].map(|axis| property(axis, "number")).into(),
            Some(Ty::Plain(Type::Spot)) => {
                vec![
                    property("place", "vector"),
                    property("facing", "rotation"),
                    property("forward", "vector"),
                ]
            }
            Some(Ty::Object(which)) => {
                let mut offers = Vec::new();
                if which != Which::Unknown {
                    for object in self.candidates(&which) {
                        offers.extend(self.members_of(object));
                    }
                }
                for (name, ty) in [
                    ("place", "vector"),
                    ("facing", "rotation"),
                    ("velocity", "vector"),
                    ("forward", "vector"),
                    ("name", "text"),
                ] {
                    offers.push(property(name, ty));
                }
                once(offers)
            }
            // `bind each lamp.lit`
            _ => {
                let tagged = before.single().and_then(|tag| self.names.tagged.get(&tag.text));
                once(tagged.into_iter().flatten().flat_map(|object| self.members_of(*object)).collect())
            }
        }
    }

    fn members_of(&self, object: usize) -> Vec<Offer> {
        let known = &self.names.objects[object];
        let mut offers = Vec::new();
        for (name, var) in &known.vars {
            let var = &self.names.vars[*var];
            let about = var.kept_by.and_then(|info| info.variables.iter().find(|kept| kept.name == *name));
            let about = about.map(|kept| kept.about.to_string()).unwrap_or_default();
            let each = if var.per_player { " per player" } else { "" };
            offers.push(
                Offer::new(Kind::Variable, name.clone()).detail(&format!("{}{each}", var.ty)).about(about),
            );
        }
        offers.extend(known.spots.keys().map(|name| Offer::new(Kind::Spot, name.clone()).detail("spot")));
        for (_, info) in &known.parts {
            offers.extend(info.readings.iter().map(|reading| {
                let each = if reading.per_player { " per player" } else { "" };
                let offer = Offer::new(Kind::Variable, reading.name.clone());
                offer.detail(&format!("{}{each}", reading.ty)).about(reading.about.as_str())
            }));
            let live = info.settings.iter().filter(|setting| setting.live);
            offers.extend(live.map(|setting| {
                Offer::new(Kind::Setting, setting.name.clone()).about(setting.about.as_str())
            }));
        }
        offers
    }

    /// The type of what a path means; nothing is reported.
    pub(crate) fn type_of(&mut self, path: &Path, cx: &Cx<'_>) -> Option<Ty> {
        let value = model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
        let muted = std::mem::replace(&mut self.report.muted, true);
        let found = self.expr(&value, None, cx).map(|found| found.ty);
        self.report.muted = muted;
        found
    }
}
