//! One step of the tracker: who has come and who has gone since the last one.

use glam::{DVec3, Vec3};

use crate::{
    base::chunks::Chunks,
    space::{
        bounds::{Bounds, Sweep},
        entry::{BodyEntry, ENABLED, FRESH, HERE, Motion, News, PLACED, Presence, QUEUED, SENT, ZoneEntry},
        index::Index,
        levels::Levels,
        probe::Probe,
        reason::Reason,
        touch::{Touch, Touches},
        tracker::{BodyKey, Tracker, ZoneKey},
    },
};

/// A zone that has not moved for so many steps is at rest.
const QUIET: u8 = 8;
/// From so many on, zones that move are put in grids.
const MANY: usize = 16;
/// In so many steps a body must stay within reach of its place for it to be worth knowing how far that is.
const STEPS: f64 = 6.0;
/// How far a body is thought to be able to go is a little less than was found, for what rounding takes.
const CAUTION: f64 = 0.999_999;

impl<Z: Clone, B: Clone> Tracker<Z, B> {
    /// Finds out who has come and who has gone since the last step. `now` is what presences are counted from; `admits`
    /// says whether a zone takes notice of a body at all.
    pub fn step(&mut self, now: u64, mut admits: impl FnMut(&Z, &B) -> bool, out: &mut Touches) {
        out.clear();
        let Self { zones, bodies, motions, index, steps, .. } = self;
        index.stamps.resize(zones.len(), 0);
        let news = index.gather(zones);
        let queue = std::mem::take(&mut index.queue);
        let steps_now = *steps;
        let mut look = Look { zones, bodies, index, now, admits: &mut admits, out };
        for key in &queue {
            let motion = &mut motions[key.0 as usize];
            if motion.is(ENABLED) {
                look.at(*key, motion, motion.moved_in == steps_now, true);
            }
        }
        if !look.index.roaming.is_empty() {
            // Zones that move are near to anybody, at rest or not.
            for (key, motion) in (0..).zip(&mut *motions) {
                let moved = motion.moved_in == steps_now;
                if motion.flags & (ENABLED | HERE | QUEUED) == ENABLED | HERE && (moved || news) {
                    look.at(BodyKey(key), motion, moved, false);
                }
            }
        }
        for key in &queue {
            motions[key.0 as usize].flags &= !(PLACED | FRESH | QUEUED | SENT);
        }
        *steps = steps.wrapping_add(1);
        index.put_in_order(zones);
        self.index.queue = queue;
        self.index.queue.clear();
        self.hear(now, &mut admits, out);
        self.rest();
        out.sort();
    }

    /// What the host said of zones without a shape.
    fn hear(&mut self, now: u64, admits: &mut impl FnMut(&Z, &B) -> bool, out: &mut Touches) {
        if self.told.is_empty() {
            return;
        }
        let mut told = std::mem::take(&mut self.told);
        // In the host's order for each zone and body.
        told.sort_by_key(|(zone, body, _)| (*zone, *body));
        for said in told.chunk_by(|one, two| (one.0, one.1) == (two.0, two.1)) {
            let (key, body_key, is) = said[said.len() - 1];
            let (Some(Some(zone)), Some(Some(body))) =
                (self.zones.get(key.0 as usize), self.bodies.get(body_key.0 as usize))
            else {
                continue;
            };
            let was = body.inside.contains(&key);
            if !zone.lit
                || !self.motions[body_key.0 as usize].is(ENABLED)
                || !(was || admits(&zone.what, &body.what))
            {
                continue;
            }
            let touch = Touch {
                zone: key,
                body: body_key,
                reason: Reason::Walked,
                order: (zone.number, body.number),
            };
            let said = |inside: bool| said.iter().any(|(.., said)| *said == inside);
            let Self { zones, bodies, .. } = &mut *self;
            if was && said(false) && take_out(zones, bodies, key, body_key) {
                out.left.push(touch);
            }
            if (was && said(false) && is) || (!was && said(true)) {
                out.entered.push(touch);
                take_in(zones, bodies, (key, body_key), now);
            }
            if !was && said(true) && !is {
                take_out(zones, bodies, key, body_key);
                out.crossed.push(touch);
            }
        }
        told.clear();
        self.told = told;
    }

    /// News are old now; what has been quiet for a while goes into the grids.
    fn rest(&mut self) {
        let Self { zones, index, .. } = self;
        let mut restless = std::mem::take(&mut index.restless);
        restless.retain(|key| {
            let Some(Some(zone)) = zones.get_mut(key.0 as usize) else { return false };
            zone.cache.quiet = zone.cache.quiet.saturating_add(1);
            let rests = zone.news == News::Lit || zone.cache.quiet > QUIET;
            zone.news = News::Nothing;
            zone.before = zone.pose;
            zone.cache.seen = zone.cache.bounds;
            if rests {
                index.settle(zone, *key);
            }
            !rests
        });
        index.restless = restless;
    }
}

impl Index {
    /// Lists the zones that are not in the grids, with what they cover; true if one of them has news.
    fn gather<Z>(&mut self, zones: &Chunks<Option<ZoneEntry<Z>>>) -> bool {
        self.roaming.clear();
        let mut news = false;
        for key in &self.restless {
            let Some(Some(zone)) = zones.get(key.0 as usize) else { continue };
            news |= zone.news != News::Nothing;
            self.roaming.push((key.0, zone.roams()));
        }
        self.roaming_many = self.roaming.len() > MANY;
        if self.roaming.is_empty() {
            // Everything new roams for a step; that much is seldom needed again.
            self.roaming.shrink_to(MANY);
            self.roaming_levels = Levels::default();
        }
        if self.roaming_many {
            self.roaming_levels.clear();
            for (zone, bounds) in &self.roaming {
                self.roaming_levels.insert(*zone, *bounds);
            }
        }
        news
    }
}

/// What a step needs to look at one body.
struct Look<'a, Z, B, A> {
    zones: &'a mut Chunks<Option<ZoneEntry<Z>>>,
    bodies: &'a mut Chunks<Option<BodyEntry<B>>>,
    index: &'a mut Index,
    now: u64,
    admits: &'a mut A,
    out: &'a mut Touches,
}

impl<Z: Clone, B: Clone, A: FnMut(&Z, &B) -> bool> Look<'_, Z, B, A> {
    /// Compares a body with the zones near it: all, or those that are not at rest; of these, if it stands still, those
    /// with news.
    fn at(&mut self, key: BodyKey, motion: &mut Motion, moved: bool, all: bool) {
        let Some(Some(body)) = self.bodies.get(key.0 as usize) else { return };
        let to = motion.now;
        let from = if moved { motion.before } else { to };
        let (placed, fresh, sent) = (motion.is(PLACED), motion.is(FRESH), motion.is(SENT));
        let reach = body.probe.as_ref().map_or(0.0, Probe::reach);
        let start = if placed { to } else { from };
        let region = Bounds::of_way(start, to, reach);
        let index = &mut *self.index;
        if index.stamp == u32::MAX {
            index.stamps.fill(0);
            index.stamp = 0;
        }
        index.stamp += 1;
        let stamp = index.stamp;
        index.found.clear();
        let mut nearest = f64::INFINITY;
        let mut free = 0.0;
        if all {
            free = index.settled.clearance(to) - reach;
            // How far it can go is worth finding out only for somebody who takes several steps to go that far.
            let slow = f64::from((to - from).length()) * STEPS < free;
            if !slow {
                free = 0.0;
            }
            let at = to.as_dvec3();
            let way = Sweep::new(start.as_dvec3(), at, reach);
            let (stamps, found) = (&mut index.stamps, &mut index.found);
            index.settled.near(start, to, &region, |zone, bounds| {
                if bounds.meets(&region) && (slow || way.may_meet(bounds)) {
                    if stamps[zone as usize] != stamp {
                        stamps[zone as usize] = stamp;
                        found.push(zone);
                    }
                } else if slow {
                    nearest = nearest.min(bounds.distance_squared(at));
                }
            });
        }
        let (stamps, found, zones) = (&mut index.stamps, &mut index.found, &*self.zones);
        let mut roaming = |zone: u32, bounds: &Bounds| {
            let has_news = || {
                zones
                    .get(zone as usize)
                    .is_some_and(|zone| zone.as_ref().is_some_and(|zone| zone.news != News::Nothing))
            };
            if bounds.meets(&region) && stamps[zone as usize] != stamp && (moved || fresh || has_news()) {
                stamps[zone as usize] = stamp;
                found.push(zone);
            }
        };
        if index.roaming_many {
            index.roaming_levels.near(start, to, &region, roaming);
        } else {
            index.roaming.iter().for_each(|(zone, bounds)| roaming(*zone, bounds));
        }
        // Who is inside a zone that is not near any more has left it.
        for zone in &body.inside {
            let entry = || zones.get(zone.0 as usize)?.as_ref();
            let restless = || entry().is_some_and(|zone| zone.cache.restless);
            if stamps[zone.0 as usize] != stamp && (all || (moved && restless())) {
                found.push(zone.0);
            }
        }
        let found = std::mem::take(&mut index.found);
        let mut free = free.min(nearest.sqrt() - reach);
        for zone in &found {
            let clearance = self.compare(ZoneKey(*zone), key, (from, to, placed, sent), free > 0.0);
            free = free.min(clearance);
        }
        self.index.found = found;
        if all {
            motion.anchor = to;
            motion.version = self.index.version;
            #[expect(clippy::cast_possible_truncation, reason = "rounding is provided for")]
            let safe = if free > 0.0 { (free * free * CAUTION) as f32 } else { 0.0 };
            motion.safe_squared = safe;
        }
    }

    /// Bodies of general shape ask for it.
    fn make_general(&mut self, key: ZoneKey) {
        let lacks = |zone: &ZoneEntry<Z>| zone.cache.general.is_empty();
        if self.zones.get(key.0 as usize).is_some_and(|zone| zone.as_ref().is_some_and(lacks))
            && let Some(Some(zone)) = self.zones.get_mut(key.0 as usize)
        {
            zone.make_general();
        }
    }

    /// Compares a body with one zone. How far it can go before that changes, if asked.
    fn compare(
        &mut self,
        key: ZoneKey,
        body_key: BodyKey,
        (from, to, placed, sent): (Vec3, Vec3, bool, bool),
        measured: bool,
    ) -> f64 {
        let general = |body: &BodyEntry<B>| matches!(body.probe.as_ref(), Some(Probe::General(_)));
        if self.bodies.get(body_key.0 as usize).is_some_and(|body| body.as_ref().is_some_and(general)) {
            self.make_general(key);
        }
        let Some(Some(body)) = self.bodies.get(body_key.0 as usize) else { return 0.0 };
        let Some(Some(zone)) = self.zones.get(key.0 as usize) else { return 0.0 };
        let probe = body.probe.as_ref();
        let at: DVec3 = to.as_dvec3();
        let was = body.inside.contains(&key);
        let here = zone.room == body.room;
        let inside = here && (zone.shape.is_none() || zone.holds(probe, at, was));
        let moved = from != to;
        let mut touch = Touch {
            zone: key,
            body: body_key,
            reason: match () {
                () if moved && placed => Reason::Placed,
                () if moved => Reason::Walked,
                () if matches!(zone.news, News::Moved | News::Placed) => Reason::ZoneMoved,
                () => Reason::Appeared,
            },
            order: (zone.number, body.number),
        };
        let clearance = if measured && here && zone.shape.is_some() && !zone.cache.restless {
            zone.clearance(probe, at, inside)
        } else {
            f64::INFINITY
        };
        if was {
            let admitted = (self.admits)(&zone.what, &body.what);
            if !(inside && admitted) && self.take_out(key, body_key) {
                if !admitted {
                    touch.reason = Reason::NotAdmitted;
                }
                self.out.left.push(touch);
            }
        } else if inside {
            if (self.admits)(&zone.what, &body.what) {
                self.take_in(key, body_key);
                if sent {
                    touch.reason = Reason::Sent;
                }
                self.out.entered.push(touch);
            }
        } else if !placed
            && here
            && (moved || zone.news == News::Moved)
            && zone.is_crossed(probe, from, to)
            && (self.admits)(&zone.what, &body.what)
        {
            self.out.entered.push(touch);
            self.out.crossed.push(touch);
        }
        clearance
    }

    /// A body is inside a zone from now on. The zone hears of it at the end of the step, of all at once.
    fn take_in(&mut self, key: ZoneKey, body_key: BodyKey) {
        let (Some(Some(zone)), Some(Some(body))) =
            (self.zones.get(key.0 as usize), self.bodies.get_mut(body_key.0 as usize))
        else {
            return;
        };
        let (number, refused) = (body.number, zone.guarded);
        self.index.comers.push((key, Presence { number, body: body_key, refused, since: self.now }));
        body.inside.push(key);
    }

    /// A body is inside a zone no more, likewise; true if it counted.
    fn take_out(&mut self, key: ZoneKey, body_key: BodyKey) -> bool {
        let (Some(Some(zone)), Some(Some(body))) =
            (self.zones.get(key.0 as usize), self.bodies.get_mut(body_key.0 as usize))
        else {
            return false;
        };
        body.inside.retain(|inside| *inside != key);
        self.index.goers.push((key, body.number));
        zone.find(body.number).is_ok_and(|index| !zone.inside[index].refused)
    }
}

impl Index {
    /// Zones hear who has come and who has gone: each in one go, however many there are.
    fn put_in_order<Z: Clone>(&mut self, zones: &mut Zones<Z>) {
        self.goers.sort_unstable();
        for gone in self.goers.chunk_by(|one, two| one.0 == two.0) {
            let Some(Some(zone)) = zones.get_mut(gone[0].0.0 as usize) else { continue };
            if let [(_, number)] = gone {
                if let Ok(index) = zone.find(*number) {
                    zone.inside.remove(index);
                }
                continue;
            }
            let mut gone = gone.iter().map(|(_, number)| *number).peekable();
            zone.inside.retain(|presence| {
                while gone.next_if(|number| *number < presence.number).is_some() {}
                gone.next_if(|number| *number == presence.number).is_none()
            });
        }
        self.goers.clear();
        self.comers.sort_unstable_by_key(|(zone, presence)| (*zone, presence.number));
        for come in self.comers.chunk_by(|one, two| one.0 == two.0) {
            if let Some(Some(zone)) = zones.get_mut(come[0].0.0 as usize) {
                zone.merge(come.iter().map(|(_, presence)| *presence));
            }
        }
        self.comers.clear();
    }
}

type Zones<Z> = Chunks<Option<ZoneEntry<Z>>>;
type Bodies<B> = Chunks<Option<BodyEntry<B>>>;

/// A body of which the host has told is inside a zone from now on.
fn take_in<Z: Clone, B: Clone>(
    zones: &mut Zones<Z>,
    bodies: &mut Bodies<B>,
    (key, body_key): (ZoneKey, BodyKey),
    now: u64,
) {
    let (Some(Some(zone)), Some(Some(body))) =
        (zones.get_mut(key.0 as usize), bodies.get_mut(body_key.0 as usize))
    else {
        return;
    };
    if let Err(index) = zone.find(body.number) {
        let refused = zone.guarded;
        zone.inside.insert(index, Presence { number: body.number, body: body_key, refused, since: now });
        body.inside.push(key);
    }
}

/// A body is inside a zone no more; true if it counted.
fn take_out<Z: Clone, B: Clone>(
    zones: &mut Zones<Z>,
    bodies: &mut Bodies<B>,
    key: ZoneKey,
    body_key: BodyKey,
) -> bool {
    let (Some(Some(zone)), Some(Some(body))) =
        (zones.get_mut(key.0 as usize), bodies.get_mut(body_key.0 as usize))
    else {
        return false;
    };
    body.inside.retain(|inside| *inside != key);
    zone.find(body.number).is_ok_and(|index| !zone.inside.remove(index).refused)
}
