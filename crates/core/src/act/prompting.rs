//! Prompts: which one each player is offered, and keys that are held.

use std::{
    cell::Cell,
    cmp::Ordering,
    collections::{BTreeSet, BinaryHeap},
};

use glam::{DVec3, Vec3};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    act::scope::Scope,
    base::{
        doing::Doing,
        ids::{ObjectId, PartId, RecordId},
        slots::place_of,
        value::Text,
    },
    moment::{
        hands::{Hands, Looking, Reach},
        watches::Watcher,
    },
    part::{
        contract::Part,
        offers::{Offer, Progress},
        store::PartEntry,
    },
    plan::expr::Expr,
    space::{bounds::Bounds, placed::Placed, reaches::Reaches},
    state::State,
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
        Some(part_of(hands.held?, self.offer_of(hands.offered?)?.hold.whole()))
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

    pub(crate) fn offer_of(&self, part: PartId) -> Option<&Offer> {
        self.parts.part(part).and_then(Part::offer)
    }

    /// A player pressed a key or let it go.
    pub(crate) fn note_key(&mut self, who: ObjectId, key: &Text, down: bool, cause: Option<RecordId>) {
        let Some(number) = self.moment.objects.get(who).map(|object| object.number) else { return };
        self.scratch.looking.players.push((number, who));
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
        self.scratch.looking.players.push((number, player));
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

    /// Nobody is there any more to be offered anything.
    pub(crate) fn empty_hands(&mut self, id: ObjectId) {
        let key = self.moment.objects.get(id).map(|object| (object.number, id));
        if let Some(key) = key.filter(|key| self.moment.hands.contains_key(key)) {
            self.moment.hands.edit().remove(&key);
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
    /// held; each by player number. Only players are looked at for whom something can have changed.
    pub(crate) fn prompt(&mut self) {
        self.moment.reaches.rest();
        self.moment.aims.rest();
        if self.plan.prompts.is_empty() && self.moment.hands.is_empty() {
            self.scratch.looking.players.clear();
            return;
        }
        let mut players = self.who_looks_again();
        let tag = self.moment.objects.player_tag();
        let mut offers: SmallVec<[(u32, ObjectId, Option<PartId>); 4]> = SmallVec::new();
        for (number, player) in players.iter().copied() {
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
        // What these were told changes nothing before it is delivered.
        self.scratch.looking = Looking { settled: true, players: Vec::new() };
        players.retain(|player| self.hold_on(*player));
        self.scratch.looking.players = players;
    }

    /// The players for whom something can have changed, by number.
    fn who_looks_again(&mut self) -> Vec<(u32, ObjectId)> {
        let Looking { settled, mut players } = std::mem::take(&mut self.scratch.looking);
        let stale = std::mem::take(&mut self.bus.watches.stale_offers);
        if settled && !stale {
            players.sort_unstable();
            players.dedup();
            return players;
        }
        let tagged =
            self.moment.objects.player_tag().into_iter().flat_map(|tag| self.moment.objects.tagged(tag));
        let numbered = tagged.filter_map(|player| Some((self.moment.objects.get(player)?.number, player)));
        // What was offered to somebody who is no longer a player is withdrawn.
        let all: BTreeSet<_> = numbered.chain(self.moment.hands.keys().copied()).collect();
        all.into_iter().collect()
    }

    /// An object moved or changed: a player looks again for what is offered to them; and everybody does if it offers
    /// something or stands in the way.
    pub(crate) fn look_again(&mut self, id: ObjectId) {
        let Some(object) = self.moment.objects.get(id) else { return };
        let stands = |part: &PartId| {
            self.moment.reaches.has(number_of(*part)) || self.moment.aims.has(number_of(*part))
        };
        if object.parts.iter().any(stands) {
            self.scratch.looking.settled = false;
        } else if object.body.is_some() {
            self.scratch.looking.players.push((object.number, id));
        }
    }

    /// Notes how far from its object's place a prompt reaches, and where what rays meet is.
    pub(crate) fn set_reach(&mut self, part: PartId) {
        let number = number_of(part);
        let Some(rank) = self.parts.get(part).map(PartEntry::rank) else { return };
        let Some(pose) = self.object_of(part).and_then(|object| self.moment.objects.get(object)) else {
            return;
        };
        let pose = pose.pose();
        let Some(behaviour) = self.parts.part(part) else { return };
        let mut changed = false;
        if let Some(reach) = behaviour.offer().map(|offer| offer.reach) {
            let bounds = Bounds::around(pose.at.as_dvec3(), DVec3::splat(reach));
            changed |= self.moment.reaches.put(number, bounds, Reach { at: pose.at, most: reach, rank });
        }
        if let Some(aim) = behaviour.aim() {
            let placed = aim.shape.placed(pose);
            let bounds = placed.iter().map(Placed::bounds).reduce(Bounds::with);
            changed |= self.moment.aims.put(number, bounds.unwrap_or(Bounds::NOWHERE), rank);
        }
        if changed {
            self.scratch.looking.settled = false;
        }
    }

    /// The same for a part that may have been moved, if it is a prompt or met by rays.
    #[inline]
    pub(crate) fn review_reach(&mut self, part: PartId) {
        let number = number_of(part);
        if self.moment.reaches.has(number) || self.moment.aims.has(number) {
            self.set_reach(part);
        }
    }

    /// A part was called: it may offer something else now, or let through what it did not.
    pub(crate) fn review_sight(&mut self, part: PartId) {
        let number = number_of(part);
        if self.moment.reaches.has(number) || self.moment.aims.has(number) {
            self.set_reach(part);
            self.scratch.looking.settled = false;
        } else if !self.plan.prompts.is_empty()
            && !self.plan.aimed.is_empty()
            && let Some(object) = self.parts.get(part).map(|slot| slot.object)
            && self.parts_of(object).iter().any(|part| self.moment.aims.has(number_of(*part)))
        {
            self.scratch.looking.settled = false;
        }
    }

    pub(crate) fn end_reach(&mut self, part: PartId) {
        self.watch_offer(part, false);
        self.moment.reaches.remove(number_of(part));
        self.moment.aims.remove(number_of(part));
    }

    /// Players look again when what a prompt's condition reads has changed.
    pub(crate) fn watch_offer(&mut self, part: PartId, on: bool) {
        if !self.moment.reaches.has(number_of(part)) {
            return;
        }
        self.scratch.looking.settled = false;
        let Some(reads) = self.asked_of(part, "when").map(Expr::depends_on) else { return };
        if on {
            self.bus.watches.watch(Watcher::Offer(part), reads);
        } else {
            self.bus.watches.forget(Watcher::Offer(part), reads);
        }
    }

    /// Notes it again of all parts, when they were read from data.
    pub(crate) fn find_reaches(&mut self) {
        self.moment.reaches = Reaches::default();
        self.moment.aims = Reaches::default();
        for part in self.plan.prompts.iter().chain(self.plan.aimed.iter()).copied().collect::<Vec<_>>() {
            self.set_reach(part);
            self.watch_offer(part, true);
        }
    }

    /// The nearest prompt that is in a player's reach and makes sense to them; of two as near, that of the object made
    /// first. What costs more to find out is asked of the nearest only.
    fn best_prompt(&self, player: ObjectId) -> Option<PartId> {
        let eye = self.moment.objects.get(player)?.at;
        let mut near: SmallVec<[Near; 16]> = SmallVec::new();
        self.moment.reaches.near(eye, eye, |number, Reach { at, most, rank }| {
            let away = (at.as_dvec3() - eye.as_dvec3()).length_squared();
            if away <= most * most {
                near.push(Near { away, rank: *rank, number });
            }
        });
        let sensible = |near: &Near| {
            let part = self.parts.id_at(near.number)?;
            self.makes_sense(part, player).then_some(part)
        };
        // Mostly one of the nearest will do, and the others need not be put in order.
        for _ in 0..FEW {
            let (nearest, _) = near.iter().enumerate().max_by_key(|(_, near)| **near)?;
            if let Some(part) = sensible(&near.swap_remove(nearest)) {
                return Some(part);
            }
        }
        let mut rest = BinaryHeap::from(near.into_vec());
        while let Some(near) = rest.pop() {
            if let Some(part) = sensible(&near) {
                return Some(part);
            }
        }
        None
    }

    /// Whether a prompt in reach can be offered to a player.
    fn makes_sense(&self, part: PartId, player: ObjectId) -> bool {
        let (Some(offer), Some(at)) = (self.offer_of(part), self.object_of(part)) else { return false };
        let (Some(who), Some(object)) = (self.moment.objects.get(player), self.moment.objects.get(at)) else {
            return false;
        };
        let here = object.enabled && !object.fresh && object.scene == who.scene && at != player;
        if !here {
            return false;
        }
        let faces = |most: f64| angle(who.facing.turn(Vec3::NEG_Z), object.at - who.at) <= most;
        let eval_fault = Cell::new(None);
        let scope = Scope::of_part(self, part, &eval_fault).by(player);
        offer.facing.is_none_or(faces)
            && self.asked_of(part, "when").is_none_or(|when| scope.holds(when))
            && (!offer.sight || self.sees(who.scene, who.at, object.at, [player, at]))
    }

    /// What became of the key of a player's prompt in this tick, and whether there is more to come.
    fn hold_on(&mut self, key: (u32, ObjectId)) -> bool {
        let busy =
            |hands: &Hands| !hands.pressed.is_empty() || hands.held.is_some() || hands.held_by.is_some();
        if !self.moment.hands.get(&key).is_some_and(busy) {
            return false;
        }
        self.hold_one(key);
        self.moment.hands.get(&key).is_some_and(busy)
    }

    fn hold_one(&mut self, key: (u32, ObjectId)) {
        let Some(hands) = self.moment.hands.edit().get_mut(&key) else { return };
        let pressed = std::mem::take(&mut hands.pressed);
        let (Some(part), held) = (hands.offered, hands.held) else { return };
        let Some(Offer { key: wanted, hold, .. }) = self.parts.part(part).and_then(Part::offer) else {
            return;
        };
        let down = hands.keys.contains(wanted);
        let press = pressed.into_iter().find(|(key, _)| key == wanted).map(|(_, cause)| cause);
        let needed = hold.whole();
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

/// So many are looked for one by one.
const FEW: usize = 3;

/// A prompt in reach. The nearest is the greatest; of two as near, that of the object made first.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Near {
    away: f64,
    rank: (u32, u32),
    number: u32,
}

impl Eq for Near {}

impl Ord for Near {
    #[inline]
    fn cmp(&self, other: &Self) -> Ordering {
        other.away.total_cmp(&self.away).then(other.rank.cmp(&self.rank))
    }
}

impl PartialOrd for Near {
    #[inline]
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// Stands for a part among the reaches.
pub(crate) fn number_of(part: PartId) -> u32 {
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
