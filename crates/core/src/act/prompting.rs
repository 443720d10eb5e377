//! Prompts: which one each player is offered, and keys that are held.

use std::{cell::Cell, collections::BTreeSet};

use glam::{DVec3, Vec3};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    act::scope::Scope,
    base::{
        doing::Doing,
        ids::{ObjectId, PartId, RecordId},
        names::PLAYER,
        slots::place_of,
        value::Text,
    },
    moment::hands::Hands,
    part::{
        contract::Part,
        offers::{Offer, Progress},
        store::PartEntry,
    },
    space::reaches::Reaches,
    state::{State, moment::Moment},
};

/// What a player is offered now.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct OfferNow {
    /// The prompt, or another part that offers something.
    pub part: PartId,
    /// Its object.
    pub object: ObjectId,
    /// What the player is told.
    pub label: SmolStr,
    /// The key, or the name of the action, that answers it.
    pub key: SmolStr,
    /// How much of the time the key must be held it has been, from 0 to 1; `None` while nobody holds it.
    pub held: Option<f64>,
}

impl State {
    /// The prompt a player is offered now.
    pub fn offered_to(&self, player: ObjectId) -> Option<PartId> {
        let number = self.moment.objects.get(player)?.number;
        self.moment.hands.get(&(number, player))?.offered
    }

    /// How much of the time its key must be held it has been, from 0 to 1; `None` while nobody holds it.
    pub fn hold_of(&self, player: ObjectId) -> Option<f64> {
        let number = self.moment.objects.get(player)?.number;
        let hands = self.moment.hands.get(&(number, player))?;
        Some(part_of(hands.held?, self.offer_of(hands.offered?)?.hold.0))
    }

    /// What a player is offered now, as a display needs it.
    ///
    /// ```
    /// use stoicheon_core::{Prompt, World, secs};
    /// let mut world = World::<()>::new();
    /// let crank = world.object("crank").add()?;
    /// world.attach(crank, Prompt::new("Wind the paddle").key("use").hold(secs(1.0)).reach(2.0))?;
    /// let ada = world.player("ada").add()?;
    /// world.step(&mut ())?;
    /// world.press(ada, "use")?;
    /// for _ in 0..16 {
    ///     world.step(&mut ())?;
    /// }
    /// let offered = world.offer_to(ada).expect("the crank is near");
    /// assert_eq!((offered.label.as_str(), offered.key.as_str()), ("Wind the paddle", "use"));
    /// assert_eq!((offered.object, offered.held), (crank, Some(0.5)));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn offer_to(&self, player: ObjectId) -> Option<OfferNow> {
        let part = self.offered_to(player)?;
        let Offer { label, key, .. } = self.offer_of(part)?.clone();
        Some(OfferNow { part, object: self.object_of(part)?, label, key, held: self.hold_of(player) })
    }

    fn offer_of(&self, part: PartId) -> Option<&Offer> {
        self.parts.part(part).and_then(Part::offer)
    }

    /// A player pressed a key or let it go.
    pub(crate) fn note_key(&mut self, who: ObjectId, key: &Text, down: bool, cause: Option<RecordId>) {
        let Some(number) = self.moment.objects.get(who).map(|object| object.number) else { return };
        let hands = self.moment.hands.edit().entry((number, who)).or_default();
        hands.keys.retain(|held| held != key);
        if down {
            hands.keys.push(key.clone());
            hands.pressed.push((key.clone(), cause));
        }
    }

    /// A player loses what they were offered: a hold is cancelled, the offer withdrawn.
    pub(crate) fn let_go(&mut self, player: ObjectId, cause: Option<RecordId>) {
        let Some(number) = self.moment.objects.get(player).map(|object| object.number) else { return };
        let has = |hands: &Hands| hands.offered.is_some() || hands.held.is_some();
        if !self.moment.hands.get(&(number, player)).is_some_and(has) {
            return;
        }
        let Some(hands) = self.moment.hands.edit().get_mut(&(number, player)) else { return };
        let (offered, held) = (hands.offered.take(), hands.held.take());
        let doing = Doing::of(Some(player), cause);
        if let Some(part) = offered {
            if held.is_some() {
                self.give(part, Offer::CANCELLED, (), doing);
            }
            self.give(part, Offer::WITHDRAWN, (), doing);
        }
    }

    /// What an object that ends has offered is withdrawn at once, and a hold is cancelled.
    pub(crate) fn withdraw_all(&mut self, object: ObjectId, cause: Option<RecordId>) {
        let offers: SmallVec<[PartId; 2]> =
            self.parts_of(object).iter().copied().filter(|part| self.offer_of(*part).is_some()).collect();
        if offers.is_empty() {
            return;
        }
        let is_one = |hands: &Hands| hands.offered.is_some_and(|part| offers.contains(&part));
        let holding =
            self.moment.hands.iter().filter(|(_, hands)| is_one(hands)).map(|((_, player), _)| *player);
        let holding: Vec<_> = holding.collect();
        holding.into_iter().for_each(|player| self.let_go(player, cause));
    }

    /// The prompts of the touch phase: first all that are withdrawn, then all that are offered, then keys that are
    /// held; each by player number.
    pub(crate) fn prompt(&mut self) {
        if self.plan.prompts.is_empty() && self.moment.hands.is_empty() {
            return;
        }
        if self.moment.hands.keys().any(|(_, player)| self.moment.objects.get(*player).is_none()) {
            let Moment { hands, objects, .. } = &mut self.moment;
            hands.edit().retain(|(_, player), _| objects.get(*player).is_some());
        }
        let tag = self.find_tag(PLAYER);
        let tagged = tag.into_iter().flat_map(|tag| self.moment.objects.tagged(tag));
        let numbered = tagged.filter_map(|player| Some((self.moment.objects.get(player)?.number, player)));
        // What was offered to somebody who is no longer a player is withdrawn.
        let players: BTreeSet<_> = numbered.chain(self.moment.hands.keys().copied()).collect();
        let mut offers = Vec::new();
        for (number, player) in players {
            let Some(object) = self.moment.objects.get(player) else { continue };
            let plays = tag.is_some_and(|tag| object.tags.contains(&tag));
            let on = plays && object.enabled && !object.fresh && object.body.is_some();
            let best = if on { self.best_prompt(player) } else { None };
            let before = self.moment.hands.get(&(number, player)).and_then(|hands| hands.offered);
            if best != before {
                offers.push((number, player, best));
            }
        }
        for (_, player, _) in &offers {
            self.let_go(*player, None);
        }
        for (number, player, best) in offers {
            if let Some(part) = best {
                self.moment.hands.edit().entry((number, player)).or_default().offered = Some(part);
                let doing = Doing { who: Some(player), ..Doing::default() };
                self.give(part, Offer::OFFERED, (), doing);
            }
        }
        let all: Vec<_> = self.moment.hands.keys().copied().collect();
        for key in all {
            self.hold_on(key);
        }
        self.moment.reaches.rest();
    }

    /// The prompts whose reach a place may be in, by object number, then as attached.
    fn prompts_near(&self, at: Vec3) -> SmallVec<[PartId; 8]> {
        let mut near = SmallVec::new();
        self.moment.reaches.near(at, |number| near.extend(self.parts.id_at(number)));
        near.sort_unstable_by_key(|part| self.parts.get(*part).map(PartEntry::rank));
        near.dedup();
        near
    }

    /// Notes how far from its object's place a prompt reaches.
    pub(crate) fn set_reach(&mut self, part: PartId) {
        let number = number_of(part);
        let at =
            self.object_of(part).and_then(|object| self.moment.objects.get(object)).map(|object| object.at);
        let (Some(reach), Some(at)) = (self.offer_of(part).map(|offer| offer.reach), at) else { return };
        self.moment.reaches.put(number, at, reach);
    }

    /// The same for a part that may have been moved or have changed, if it is a prompt.
    #[inline]
    pub(crate) fn review_reach(&mut self, part: PartId) {
        if self.moment.reaches.has(number_of(part)) {
            self.set_reach(part);
        }
    }

    pub(crate) fn end_reach(&mut self, part: PartId) {
        if self.moment.reaches.has(number_of(part)) {
            self.moment.reaches.remove(number_of(part));
        }
    }

    /// Notes it again of all prompts, when they were read from data.
    pub(crate) fn find_reaches(&mut self) {
        self.moment.reaches = Reaches::default();
        let prompts = self.plan.prompts.clone();
        prompts.iter().for_each(|part| self.set_reach(*part));
    }

    /// The nearest prompt that is in a player's reach and makes sense to them; of two as near, that of the object made
    /// first.
    fn best_prompt(&self, player: ObjectId) -> Option<PartId> {
        let who = self.moment.objects.get(player)?;
        let eye = who.at;
        let mut best: Option<(f64, PartId)> = None;
        for part in &self.prompts_near(eye) {
            let Some(offer) = self.offer_of(*part) else { continue };
            let Some(at) = self.object_of(*part) else { continue };
            let here = |object: &&crate::moment::object::Object| {
                object.enabled && !object.fresh && object.scene == who.scene
            };
            let Some(object) = self.moment.objects.get(at).filter(here) else { continue };
            let away = (object.at.as_dvec3() - eye.as_dvec3()).length_squared();
            if away > offer.reach * offer.reach
                || at == player
                || best.is_some_and(|(least, _)| away >= least)
            {
                continue;
            }
            if offer.facing.is_some_and(|most| angle(who.facing.turn(Vec3::NEG_Z), object.at - eye) > most) {
                continue;
            }
            if offer.sight && !self.sees(who.scene, eye, object.at, [player, at]) {
                continue;
            }
            let eval_fault = Cell::new(None);
            let scope = Scope::of(self, &eval_fault).by(player);
            if self.asked_of(*part, "when").is_none_or(|when| scope.holds(when)) {
                best = Some((away, *part));
            }
        }
        best.map(|(_, part)| part)
    }

    /// What became of the key of a player's prompt in this tick.
    fn hold_on(&mut self, key: (u32, ObjectId)) {
        let idle =
            |hands: &Hands| hands.pressed.is_empty() && hands.held.is_none() && hands.held_by.is_none();
        if self.moment.hands.get(&key).is_none_or(idle) {
            return;
        }
        let Some(hands) = self.moment.hands.edit().get_mut(&key) else { return };
        let pressed = std::mem::take(&mut hands.pressed);
        let (Some(part), held) = (hands.offered, hands.held) else { return };
        let Some(Offer { key: wanted, hold, .. }) = self.parts.part(part).and_then(Part::offer) else {
            return;
        };
        let down = hands.keys.contains(wanted);
        let press = pressed.into_iter().find(|(key, _)| key == wanted).map(|(_, cause)| cause);
        let needed = hold.0;
        let now = match (held, press) {
            (None, Some(_)) => Some(0),
            // A key that goes down and up within a tick is a press.
            (Some(_), _) if !down => None,
            (held, _) => held.map(|held| held + 1),
        };
        let began = press.is_some();
        hands.held_by = press.flatten().or(hands.held_by.filter(|_| !began && now.is_some()));
        let doing = Doing::of(Some(key.1), hands.held_by);
        hands.held = now;
        match now {
            Some(held) if held >= needed => {
                hands.held = None;
                self.give(part, Offer::ANSWERED, (), doing);
            }
            Some(held) => {
                let signal = self.parts.get(part).and_then(|slot| slot.signals.get(Offer::PROGRESS)).copied();
                if signal.is_some_and(|signal| self.listeners(signal) > 0) {
                    self.give(part, Offer::PROGRESS, Progress { part: part_of(held, needed) }, doing);
                }
            }
            None if held.is_some() => self.give(part, Offer::CANCELLED, (), doing),
            None => {}
        }
    }
}

/// Stands for a part among the reaches.
fn number_of(part: PartId) -> u32 {
    u32::try_from(place_of(part)).unwrap_or(u32::MAX)
}

#[expect(clippy::cast_precision_loss, reason = "nobody holds a key for 2^52 ticks")]
fn part_of(held: u64, needed: u64) -> f64 {
    (held as f64 / needed.max(1) as f64).min(1.0)
}

/// The angle between two directions in degrees; 0 where one has no length.
fn angle(one: Vec3, two: Vec3) -> f64 {
    let (one, two): (DVec3, DVec3) = (one.as_dvec3(), two.as_dvec3());
    let lengths = one.length() * two.length();
    if lengths == 0.0 { 0.0 } else { libm::acos((one.dot(two) / lengths).clamp(-1.0, 1.0)).to_degrees() }
}
