//! What is asked of things and done to them: states, commands, what can be set.

use std::collections::BTreeSet;

use smol_str::SmolStr;
use stoicheon_core::Type;

use super::{once, values_of};
use crate::{
    model::{self, ExprKind, Path},
    offer::{Offer, OfferKind as Kind},
    resolve::{
        Cx, Resolver, Ty, Which,
        names::{Role, Thing},
    },
};

impl<'m> Resolver<'m, '_> {
    /// The states that something can be asked for.
    pub(crate) fn states_asked(&mut self, subject: &model::Expr, cx: &Cx<'_>) -> Vec<Offer> {
        let muted = std::mem::replace(&mut self.report.muted, true);
        let found = self.expr(subject, None, cx).map(|found| found.ty);
        self.report.muted = muted;
        let which = match (&found, &subject.kind) {
            (Some(Ty::Object(which)), _) => which.clone(),
            (Some(Ty::Plain(Type::OneOf(words))), _) => {
                return words.iter().map(|word| Offer::new(Kind::State, word.clone())).collect();
            }
            (_, ExprKind::Of(path, _)) => self.object_named(path, cx).map_or(Which::Unknown, Which::One),
            _ => Which::Unknown,
        };
        self.states_of(&which)
    }

    /// The states that the members of a group can be asked for.
    pub(crate) fn states_tagged(&self, tag: &SmolStr) -> Vec<Offer> {
        self.states_of(&Which::Tagged(tag.clone()))
    }

    fn states_of(&self, which: &Which) -> Vec<Offer> {
        let mut offers = Vec::new();
        let members = if *which == Which::Unknown { Vec::new() } else { self.candidates(which) };
        for object in members {
            for (number, (_, info)) in self.names.objects[object].parts.iter().enumerate() {
                let of = |state: &SmolStr| Offer::new(Kind::State, state.clone()).detail(&info.name);
                offers.extend(info.states.iter().map(of));
                if matches!(info.name.as_str(), "stages" | "cycle") {
                    offers.extend(self.words_of(object, number).iter().map(of));
                }
            }
        }
        let always = [
            ("gone", "It is no longer there."),
            ("enabled", "It is there and at work."),
            ("disabled", "It is there and not at work."),
            ("hidden", "It is not to be seen."),
            ("passable", "Bodies go through it."),
        ];
        offers.extend(always.map(|(word, about)| Offer::new(Kind::State, word).about(about)));
        once(offers)
    }

    /// The commands that some object takes, or all there are.
    pub(crate) fn commands(&self) -> Vec<Offer> {
        let used: BTreeSet<&str> = self
            .names
            .objects
            .iter()
            .flat_map(|object| &object.parts)
            .map(|(_, info)| info.name.as_str())
            .collect();
        let kinds = self.catalogue.parts().iter().filter(|info| used.contains(info.name.as_str()));
        let offers = kinds.flat_map(|info| {
            info.commands.iter().map(|command| {
                let needed = command.params.iter().filter(|param| param.required);
                let holes = (2..)
                    .zip(needed)
                    .map(|(number, param)| format!("{} ${{{number}:{}}}", param.name, param.ty.word()));
                let said: Vec<String> =
                    [format!("{} ${{1:object}}", command.name)].into_iter().chain(holes).collect();
                let offer = Offer::new(Kind::Command, command.name.clone()).detail(&info.name);
                offer.about(command.about.as_str()).snippet(said.join(" "))
            })
        });
        once(offers.collect())
    }

    /// The objects that take a command.
    pub(crate) fn commanded_from(&self, command: &str, before: Option<&Path>, cx: &Cx<'_>) -> Vec<Offer> {
        let mut offers = self.objects_from(before, cx, |object| {
            self.part_that_takes(object, command).is_some()
                || self.names.objects[object].role == Role::Foreign
        });
        if before.is_none() {
            offers.extend(values_of(cx));
            offers
                .push(Offer::new(Kind::Keyword, "every").about("All of a group.").snippet("every ${1:tag}"));
        }
        offers
    }

    /// What can be said with a command to somebody.
    pub(crate) fn said_with(&self, command: &str) -> Vec<Offer> {
        let known = self.catalogue.parts().iter().flat_map(|info| &info.commands);
        let params = known.filter(|known| known.name == command).flat_map(|known| &known.params);
        once(
            params
                .map(|param| {
                    Offer::new(Kind::Setting, param.name.clone())
                        .detail(&param.ty)
                        .about(param.about.as_str())
                })
                .collect(),
        )
    }

    /// What a statement can set.
    pub(crate) fn targets(&mut self, before: Option<&Path>, cx: &Cx<'_>) -> Vec<Offer> {
        let Some(before) = before else {
            let mut offers = values_of(cx);
            offers.retain(|offer| {
                offer.kind == Kind::Local || offer.name == "own" || offer.name == "it" || offer.name == "who"
            });
            let things = self.things(cx.scope);
            let fits = |thing: Thing<'m>| {
                matches!(self.follow(thing), Thing::Var(_) | Thing::Object(_) | Thing::Use(_))
            };
            offers.extend(
                things
                    .iter()
                    .filter(|(_, thing)| fits(*thing))
                    .map(|(name, thing)| self.thing_offer(name, *thing)),
            );
            return once(offers);
        };
        let mut offers = self.members(before, cx);
        offers.retain(|offer| !matches!(offer.name.as_str(), "forward" | "name") && offer.kind != Kind::Spot);
        offers
    }
}
