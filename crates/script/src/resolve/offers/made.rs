//! What is used by its name: routines, moulds, kits, tags, spots, kinds of part.

use smol_str::SmolStr;
use stoicheon_core::{PartInfo, Type};

use super::{carries, once, values_of};
use crate::{
    model::{self, Path},
    offer::{Offer, OfferKind as Kind},
    resolve::{Cx, Resolver, Scenes, Ty, Which, fields_of, names::Thing},
};

impl<'m> Resolver<'m, '_> {
    pub(crate) fn routines(&self, scope: usize) -> Vec<Offer> {
        let (mut offers, mut at) = (Vec::new(), Some(scope));
        while let Some(scope) = at {
            for (name, index) in &self.names.scopes[scope].routines {
                let fields = fields_of(&self.names.routines[*index].written.fields);
                offers.push(Offer::new(Kind::Routine, name.clone()).takes(carries(&fields)).holes());
            }
            at = self.names.scopes[scope].parent;
        }
        once(offers)
    }

    pub(crate) fn moulds(&self, scope: usize) -> Vec<Offer> {
        let (mut offers, mut at) = (Vec::new(), Some(scope));
        while let Some(scope) = at {
            offers.extend(
                self.names.scopes[scope].moulds.iter().map(|(name, mould)| self.object_offer(name, *mould)),
            );
            at = self.names.scopes[scope].parent;
        }
        once(offers)
    }

    /// The kits that can be used in the scene of a scope, with a hole for each parameter that must be given.
    pub(crate) fn kits(&self, scope: usize) -> Vec<Offer> {
        let number = self.names.scopes[scope].scene_number;
        let known =
            self.names.kits.iter().filter(|((of, _, made), _)| [0, number].contains(of) && *made == 0);
        let offers = known.map(|((_, name, _), kit)| {
            let said = |parameter: &model::Parameter| {
                let default =
                    parameter.default.as_ref().map(|value| format!(" = {}", crate::print::value(value)));
                let ty = parameter.ty.ty.word();
                (parameter.name.text.clone(), format!("{ty}{}", default.unwrap_or_default()))
            };
            let needed = kit.parameters.iter().filter(|parameter| parameter.default.is_none());
            let holes = (1..).zip(needed).map(|(number, parameter)| {
                format!("{}: ${{{number}:{}}}", parameter.name.text, parameter.ty.ty.word())
            });
            let holes: Vec<_> = holes.collect();
            let offer = Offer::new(Kind::Kit, name.clone()).takes(kit.parameters.iter().map(said));
            offer.snippet(format!("{name}({})", holes.join(", ")))
        });
        once(offers.collect())
    }

    /// The parameters of a kit.
    pub(crate) fn parameters_of(&self, kit: &str, scope: usize) -> Vec<Offer> {
        let number = self.names.scopes[scope].scene_number;
        let known = self.names.kits.iter();
        let kit = known
            .filter(|((of, name, _), _)| name == kit && [0, number].contains(of))
            .map(|(_, kit)| kit)
            .next();
        let parameters = kit.into_iter().flat_map(|kit| &kit.parameters);
        let offer = |parameter: &model::Parameter| {
            let name = &parameter.name.text;
            Offer::new(Kind::Field, name.clone())
                .detail(&parameter.ty.ty.word())
                .snippet(format!("{name}: $0"))
        };
        parameters.map(offer).collect()
    }

    pub(crate) fn tags(&self) -> Vec<Offer> {
        let count = |tag: &SmolStr| self.names.tagged.get(tag).map_or(0, Vec::len);
        let offer = |tag: &SmolStr| {
            let detail = match count(tag) {
                0 => String::new(),
                1 => "1 object".to_owned(),
                many => format!("{many} objects"),
            };
            Offer::new(Kind::Tag, tag.clone()).detail(&detail)
        };
        self.names.tags.iter().map(offer).collect()
    }

    /// The spots that somebody can be sent to: of the scene, or of another one.
    pub(crate) fn spots_from(
        &mut self,
        before: Option<&Path>,
        scene: Option<&str>,
        cx: &Cx<'_>,
    ) -> Vec<Offer> {
        if let Some(scene) = scene {
            let all = self.scenes.and_then(|scenes| scenes.spots_of(scene)).unwrap_or_default();
            let start = before.map(|before| format!("{}.", before.text())).unwrap_or_default();
            let rest = all.iter().filter_map(|spot| spot.strip_prefix(start.as_str()));
            let first = rest.map(|rest| rest.split('.').next().unwrap_or(rest));
            return once(
                first.map(|name| Offer::new(Kind::Spot, name).detail(&format!("in {scene}"))).collect(),
            );
        }
        let offers: Vec<Offer> = match before {
            None => {
                let has_spots = |object: usize| !self.names.objects[object].spots.is_empty();
                let mut offers = values_of(cx);
                offers.retain(|offer| offer.detail == "spot");
                let things = self.things(cx.scope);
                offers.extend(
                    things
                        .iter()
                        .filter(|(_, thing)| self.leads_to_spot(*thing))
                        .map(|(name, thing)| self.thing_offer(name, *thing)),
                );
                offers.extend(self.objects_from(None, cx, has_spots));
                offers
            }
            Some(before) => match self.type_of(before, cx) {
                Some(Ty::Object(Which::One(object))) => {
                    let spots = self.names.objects[object].spots.keys();
                    spots.map(|name| Offer::new(Kind::Spot, name.clone()).detail("spot")).collect()
                }
                _ => self
                    .inside_use(before, cx)
                    .iter()
                    .map(|(name, thing)| self.thing_offer(name, *thing))
                    .collect(),
            },
        };
        once(offers)
    }

    fn leads_to_spot(&self, thing: Thing<'m>) -> bool {
        match self.follow(thing) {
            Thing::Spot(_) | Thing::Use(_) => true,
            Thing::Var(var) => self.names.vars[var].ty == Type::Spot,
            Thing::Given { ty, .. } => *ty == Type::Spot,
            _ => false,
        }
    }

    pub(crate) fn scene_names(&self) -> Vec<Offer> {
        let names = self.scenes.into_iter().flat_map(Scenes::names);
        names.map(|name| Offer::new(Kind::Scene, name)).collect()
    }

    /// The kinds of part there are, each with what it must be given.
    pub(crate) fn part_kinds(&self) -> Vec<Offer> {
        self.catalogue.parts().iter().map(part_offer).collect()
    }

    /// The names of constants.
    pub(crate) fn given_names(&self) -> Vec<Offer> {
        let all = self.names.givens.iter().map(|given| {
            let value = crate::print::value(&given.written.value);
            let about = given.written.about.as_ref().map(|about| about.text.to_string()).unwrap_or_default();
            Offer::new(Kind::Given, given.written.name.text.clone())
                .detail(&format!("{} = {value}", given.written.ty.ty))
                .about(about)
        });
        once(all.collect())
    }
}

fn part_offer(info: &PartInfo) -> Offer {
    Offer::new(Kind::PartKind, info.name.clone()).detail("part").about(info.about.as_str())
}
