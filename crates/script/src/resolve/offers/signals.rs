//! Signals and effects that could be meant.

use smol_str::SmolStr;
use stoicheon_core::{Field, MessageInfo};

use super::{carries, once, values_of};
use crate::{
    model::Path,
    offer::{Offer, OfferKind as Kind},
    resolve::{Cx, OWN_SIGNALS, Resolver, Ty, Which, names::Thing, words::with_words},
};

impl Resolver<'_, '_> {
    /// The signals that one of some objects gives.
    fn signals_of_each(&self, objects: &[usize]) -> Vec<Offer> {
        let mut offers = Vec::new();
        for object in objects {
            let known = &self.names.objects[*object];
            for (name, (fields, _)) in &known.signals {
                offers.push(Offer::new(Kind::Signal, name.clone()).takes(carries(fields)));
            }
            for (number, (_, info)) in known.parts.iter().enumerate() {
                let words = self.words_of(*object, number);
                offers.extend(info.signals.iter().map(|signal| message_offer(signal, &words)));
            }
        }
        if !objects.is_empty() {
            offers.push(
                Offer::new(Kind::Signal, "started")
                    .about("The world has started, or the object is new in it."),
            );
        }
        once(offers)
    }

    /// The signals that a path may go on to, and the objects that give some.
    pub(crate) fn signals_from(&mut self, before: Option<&Path>, every: bool, cx: &Cx<'_>) -> Vec<Offer> {
        let Some(before) = before else {
            if every {
                return self.tags();
            }
            let mut offers = cx.owner.map(|owner| self.signals_of_each(&[owner])).unwrap_or_default();
            offers.extend(self.scene_signals(cx.scope));
            offers.extend(self.objects_from(None, cx, |_| true));
            let moulds = self.names.scopes[cx.scope].moulds.iter();
            offers.extend(moulds.map(|(name, mould)| self.object_offer(name, *mould)));
            offers.extend(values_of(cx));
            return once(offers);
        };
        if every {
            let tag = before.text();
            let members = self.names.tagged.get(&tag).cloned().unwrap_or_default();
            return self.signals_of_each(&members);
        }
        if let Some((Thing::Use(inner), used)) = self.begin(before, cx.scope)
            && used == before.0.len()
        {
            let mut offers = self.objects_from(Some(before), cx, |_| true);
            offers.extend(self.scene_signals_in(inner));
            return once(offers);
        }
        match self.type_of(before, cx) {
            Some(Ty::Object(which)) => self.signals_of_each(&self.known_members(&which)),
            _ => match before
                .single()
                .and_then(|name| self.found(cx.scope, |s| s.moulds.get(&name.text).copied()))
            {
                Some(mould) => self.signals_of_each(&[mould]),
                None => Vec::new(),
            },
        }
    }

    /// The objects that something may be, where that is known at least a little.
    fn known_members(&self, which: &Which) -> Vec<usize> {
        self.candidates(which)
    }

    fn scene_signals_in(&self, scope: usize) -> Vec<Offer> {
        let offer = |(name, index): (&SmolStr, &usize)| {
            let message = &self.names.signals[*index];
            let known = self.catalogue.signals().iter().find(|info| info.name == *name);
            let about =
                known.map(|info| info.about.to_string()).or_else(|| Some(own_signal(name)?.to_owned()));
            Offer::new(Kind::Signal, name.clone())
                .takes(carries(&message.fields))
                .about(about.unwrap_or_default())
        };
        self.names.scopes[scope].signals.iter().map(offer).collect()
    }

    fn scene_signals(&self, scope: usize) -> Vec<Offer> {
        let (mut offers, mut at) = (Vec::new(), Some(scope));
        while let Some(scope) = at {
            offers.extend(self.scene_signals_in(scope));
            at = self.names.scopes[scope].parent;
        }
        once(offers)
    }

    /// What can be emitted: signals that are declared, with a hole for each value.
    pub(crate) fn emitted_from(&mut self, before: Option<&Path>, cx: &Cx<'_>) -> Vec<Offer> {
        let Some(before) = before else {
            let mut offers = Vec::new();
            if let Some(owner) = cx.owner {
                let own = self.names.objects[owner].signals.iter();
                offers.extend(own.map(|(name, (fields, _))| {
                    Offer::new(Kind::Signal, name.clone()).takes(carries(fields)).holes()
                }));
            }
            let mut at = Some(cx.scope);
            while let Some(scope) = at {
                for (name, index) in &self.names.scopes[scope].signals {
                    let fields = self.names.signals[*index].fields.clone();
                    if !OWN_SIGNALS.contains(&name.as_str()) {
                        let offer = Offer::new(Kind::Signal, name.clone()).takes(carries(&fields));
                        offers.push(offer.holes());
                    }
                }
                at = self.names.scopes[scope].parent;
            }
            let has_signals = |object: usize| !self.names.objects[object].signals.is_empty();
            offers.extend(self.objects_from(None, cx, has_signals));
            offers.extend(values_of(cx));
            return once(offers);
        };
        let Some(Ty::Object(which)) = self.type_of(before, cx) else { return Vec::new() };
        let own =
            self.known_members(&which).into_iter().flat_map(|object| &self.names.objects[object].signals);
        once(
            own.map(|(name, (fields, _))| {
                Offer::new(Kind::Signal, name.clone()).takes(carries(fields)).holes()
            })
            .collect(),
        )
    }

    pub(crate) fn effects(&self, scope: usize) -> Vec<Offer> {
        let (mut offers, mut at) = (Vec::new(), Some(scope));
        while let Some(scope) = at {
            for (name, index) in &self.names.scopes[scope].effects {
                let fields = &self.names.effects[*index].fields;
                let known = self.catalogue.effects().iter().find(|info| info.name == *name);
                let about = known.map(|info| info.about.to_string()).unwrap_or_default();
                let offer = Offer::new(Kind::Effect, name.clone()).takes(carries(fields)).holes();
                offers.push(offer.about(about));
            }
            at = self.names.scopes[scope].parent;
        }
        once(offers)
    }
}

fn message_offer(info: &MessageInfo, words: &[SmolStr]) -> Offer {
    let typed = |field: &Field| Field { name: field.name.clone(), ty: with_words(&field.ty, words) };
    let fields: Vec<Field> = info.fields.iter().map(typed).collect();
    Offer::new(Kind::Signal, info.name.clone()).takes(carries(&fields)).about(info.about.as_str())
}

/// What is known of the signals that every world has.
fn own_signal(name: &str) -> Option<&'static str> {
    Some(match name {
        "started" => "The world has started, or the scene was loaded.",
        "pressed" => "A player pressed a key.",
        "released" => "A player released a key.",
        "joined" => "A player joined.",
        "quit" => "A player left.",
        "arrived" => "Somebody was sent to a spot of this scene, and has arrived.",
        _ => return None,
    })
}
